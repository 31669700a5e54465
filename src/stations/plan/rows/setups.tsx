import type { PlanSummary } from "@/core/plans";
import { alphabetOf, hardFactors, termLetters } from "@/core/study";
import { figure } from "@/ui/parts/format";
import type { CellProps, PlanRow } from "./row";

/** Degrees of freedom as a count or, where they are not whole, a rounded one. */
const plural = (n: number, what: string): string => `${n} ${what}${n === 1 ? "" : "s"}`;

function Setups({ planning: { study }, plan: { strata, n } }: CellProps) {
  if (!strata) return <span className="small quiet">no trial is set up yet</span>;
  const alphabet = alphabetOf(study);
  if (strata.reset)
    return (
      <span className="small">
        Every one of {n} trials set up anew: one error for all terms, as large as both together.
      </span>
    );
  return (
    <div className="small">
      <div>
        {plural(strata.setups, "set-up")} of {strata.most === 1 ? "one trial" : `up to ${plural(strata.most, "trial")}`}
      </div>
      <div>
        between them <b>{strata.terms.map((t) => termLetters(alphabet, t)).join(", ") || "nothing"}</b>, judged on{" "}
        <span className={strata.between < 2 ? "warning" : ""}>{strata.between} df</span>; the rest on {strata.within} df
      </div>
      <div className="quiet">
        {strata.plain
          ? "least squares estimates as well as knowing how much set-ups vary would"
          : `estimates lean on how much set-ups vary (here ${figure(strata.eta)} × within)`}
      </div>
    </div>
  );
}

export const setups: PlanRow = {
  key: "setups",
  name: "Set-ups",
  note: () => "what hard factors are told by",
  speaks: ({ study, picked }) => hardFactors(study).length > 0 && picked.some((s: PlanSummary) => s.strata),
  Cell: Setups,
};
