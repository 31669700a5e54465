import { lazy } from "react";
import { figure } from "@/ui/parts/format";
import { letterOf } from "../use-planning";
import type { PlanRow } from "./row";

const SpaceChart = lazy(() => import("./curves").then((m) => ({ default: m.SpaceChart })));

export const space: PlanRow = {
  key: "space",
  name: "Prediction error",
  note: () => "over the region, in σ",
  Cell: ({ detail }) => (
    <div className="small">
      on average{" "}
      <span className="num" style={{ fontSize: 14 }}>
        {typeof detail?.meanError === "number" ? `${figure(detail.meanError)} σ` : "–"}
      </span>
    </div>
  ),
  Across: ({ planning: { picked, details } }) => (
    <SpaceChart curves={picked.map((_, i) => ({ letter: letterOf(i), points: details[i]?.space ?? [] }))} />
  ),
};
