import { DfBar } from "./df-bar";
import type { PlanRow } from "./row";

export const df: PlanRow = {
  key: "df",
  name: "Degrees of freedom",
  note: () => "model · lack of fit · pure error",
  Cell: ({ plan }) => <DfBar df={plan.df} />,
};
