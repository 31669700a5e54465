import type { PlanSummary } from "@/core/plans";
import { colours } from "@/ui/theme/theme";

/** Degrees of freedom as one bar: model, lack of fit, pure error. */
export function DfBar({ df }: { df: PlanSummary["df"] }) {
  const total = Math.max(1, df.model + df.lackOfFit + df.pureError);
  const parts = [
    { n: df.model, fill: colours.accent },
    { n: df.lackOfFit, fill: "#C4A25A" },
    { n: df.pureError, fill: "#8A8268" },
  ];
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
            <rect key={p.fill} x={left} width={Math.max(0, w - 1.5)} height="12" rx="2" fill={p.fill} />
          ) : null;
        })}
      </svg>
      <div className="small quiet">
        {df.model} model · {df.lackOfFit} lack of fit · {df.pureError} pure error
      </div>
    </div>
  );
}
