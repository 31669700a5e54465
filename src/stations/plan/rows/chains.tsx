import { missingFractions } from "@/core/plans";
import { alphabetOf, termLetters } from "@/core/study";
import { ScrollBox } from "@/ui/parts/scroll-box";
import css from "../plan.module.css";
import type { CellProps, PlanRow } from "./row";

/** The fractions that complete a family, the first two in full. */
function Missing({ generators }: { generators: string }) {
  const missing = missingFractions(generators).map((g) => g.replaceAll("-", "−"));
  return (
    <div className="small quiet">
      missing fractions: <span className="num">{missing.slice(0, 2).join(" or ")}</span>
      {missing.length > 2 ? ` and ${missing.length - 2} more` : ""}
    </div>
  );
}

/** Effects that blocks take with them. */
const Blocks = ({ planning: { study }, detail }: CellProps) =>
  detail && detail.blocks.length > 0 ? (
    <div className="small">
      with blocks:{" "}
      <span className="num">
        {detail.blocks
          .slice(0, 6)
          .map((t) => termLetters(alphabetOf(study), t))
          .join(", ")}
      </span>
      {detail.blocks.length > 6 ? `, … (${detail.blocks.length})` : ""}
    </div>
  ) : null;

function Chains(props: CellProps) {
  return (
    <>
      <Blocks {...props} />
      <AmongEffects {...props} />
    </>
  );
}

function AmongEffects({ plan, detail }: CellProps) {
  if (!plan.regular)
    return <span className="small quiet">Not a regular plan: the term map and the risks show what is shared.</span>;
  if (detail?.chains.length === 0)
    return (
      <span className="small">
        {plan.resolution === null
          ? "None: every combination is run."
          : `None among mains and pairs: resolution ${plan.resolution}.`}
      </span>
    );
  const words = detail?.definingRelation ?? [];
  return (
    <>
      <div className="small quiet">
        resolution {plan.resolution}, I = {words.slice(0, 4).join(" = ")}
        {words.length > 4 ? ` = … (${words.length} words)` : ""}
      </div>
      {plan.plan.recipe.generators && <Missing generators={plan.plan.recipe.generators} />}
      <ScrollBox className={css.chains} name="Alias chains">
        {detail?.chains.map((c) => (
          <span key={c}>{c}</span>
        ))}
      </ScrollBox>
    </>
  );
}

export const chains: PlanRow = {
  key: "chains",
  name: "Chains",
  note: () => "what one estimate cannot tell apart",
  Cell: Chains,
};
