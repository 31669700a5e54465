import type { PlanSummary } from "@/core/plans";
import { Band } from "@/ui/charts/marks/band";

/** Degrees of freedom as one bar: model, lack of fit, pure error. */
export function DfBar({ df }: { df: PlanSummary["df"] }) {
  const total = Math.max(1, df.model + df.lackOfFit + df.pureError);
  const parts = [
    { n: df.model, colour: "accent" },
    { n: df.lackOfFit, colour: "spare" },
    { n: df.pureError, colour: "copies" },
  ] as const;
  let x = 0;
  return (
    <div>
      <svg
        width="100%"
        height="12"
        viewBox="0 0 240 12"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${df.model} model, ${df.lackOfFit} lack of fit, ${df.pureError} pure error`}
      >
        {parts.map((p) => {
          const w = (240 * p.n) / total;
          const left = x;
          x += w;
          return p.n > 0 ? (
            <Band key={p.colour} x={left} width={w - 1.5} height={12} round={2} colour={p.colour} />
          ) : null;
        })}
      </svg>
      <div className="small quiet">
        {df.model} model · {df.lackOfFit} lack of fit · {df.pureError} pure error
      </div>
    </div>
  );
}
