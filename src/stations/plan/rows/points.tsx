import { lazy } from "react";
import { letterOf } from "../use-planning";
import type { PlanRow } from "./row";

const PointsMatrix = lazy(() => import("./points-matrix").then((m) => ({ default: m.PointsMatrix })));

export const points: PlanRow = {
  key: "points",
  name: "Where it runs",
  note: () => "trials over every pair of factors; shaded: excluded",
  Cell: ({ planning, plan, at }) => <PointsMatrix study={planning.study} plan={plan.plan} letter={letterOf(at)} />,
};
