import { lazy } from "react";
import { figure } from "@/ui/parts/format";
import type { CellProps, PlanRow } from "./row";

function Sees({ planning: { request, noise, unit }, plan: s }: CellProps) {
  return (
    <div className="small">
      sees{" "}
      <span className="num" style={{ fontSize: 14 }}>
        {s.ratio === null ? "–" : `${figure(s.ratio * noise)} ${unit}`}
      </span>{" "}
      at power {request.power.toFixed(2)}
      {s.noErrorDf ? ", by the stated noise alone" : ""}
      {s.squareRatio !== null ? `; bends ${figure(s.squareRatio * noise)} ${unit}` : ""}
    </div>
  );
}

export const power: PlanRow = {
  key: "power",
  name: "Power",
  note: ({ request }) => `α ${figure(request.alpha)}; for the hardest effect asked`,
  Cell: Sees,
  Across: lazy(() => import("./power-figures").then((m) => ({ default: m.PowerFigures }))),
};
