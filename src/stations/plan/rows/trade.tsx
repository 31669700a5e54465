import { lazy } from "react";
import { families } from "@/core/plans";
import type { PlanRow } from "./row";

const TradeCurve = lazy(() => import("./trade-curve").then((m) => ({ default: m.TradeCurve })));

const trades = (family: string | undefined): boolean => families.some((f) => f.id === family && f.trades);

export const trade: PlanRow = {
  key: "trade",
  name: "Aliasing traded",
  note: () => "alias trace against D-efficiency given up",
  speaks: ({ picked }) => picked.some((s) => trades(s.options.family)),
  Cell: ({ planning, plan }) =>
    trades(plan.options.family) ? (
      <TradeCurve study={planning.study} options={plan.options} pick={planning.addOwn} />
    ) : (
      <span className="small quiet">Only for plans of least aliasing.</span>
    ),
};
