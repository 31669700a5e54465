import { TermMap } from "../term-map";
import { letterOf } from "../use-planning";
import type { PlanRow } from "./row";

export const map: PlanRow = {
  key: "map",
  name: "Term map",
  note: () => "a cell is one effect, filled by how much of it is its own",
  Cell: ({ planning, plan, at }) => (
    <TermMap study={planning.study} map={plan.map} lost={plan.lostTerms} letter={letterOf(at)} />
  ),
};
