import { lazy } from "react";
import type { PlanRow } from "./row";

const TradeCurve = lazy(() => import("./trade-curve").then((m) => ({ default: m.TradeCurve })));

export const trade: PlanRow = {
  key: "trade",
  name: "Aliasing traded",
  note: () => "alias trace against D-efficiency given up",
  speaks: ({ picked }) => picked.some((s) => s.options.family === "least-aliasing"),
  Cell: ({ planning, plan }) =>
    plan.options.family === "least-aliasing" ? (
      <TradeCurve study={planning.study} options={plan.options} pick={planning.addOwn} />
    ) : (
      <span className="small quiet">Only for plans of least aliasing.</span>
    ),
};
