import { messageText, planRisks } from "@/core/findings";
import css from "../plan.module.css";
import type { PlanRow } from "./row";

export const risks: PlanRow = {
  key: "risks",
  name: "Risks",
  note: () => "what could go wrong",
  Cell: ({ planning: { study, deferred }, plan, detail }) => {
    // Of a next wave its own cautions come first.
    const said = [
      ...(plan.follow?.cautions ?? []),
      ...(detail ? planRisks(study, deferred, plan, detail).map((r) => messageText("risks", r)) : []),
    ];
    return (
      <ul className={css.risks}>
        {said.length === 0 ? <li>None that the plan itself shows.</li> : said.map((r) => <li key={r}>{r}</li>)}
      </ul>
    );
  },
};
