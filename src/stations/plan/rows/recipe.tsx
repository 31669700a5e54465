import type { PlanSummary } from "@/core/plans";
import type { PlanRow } from "./row";

/** What makes the same trials again, in a line. */
const recipeText = (r: PlanSummary["plan"]["recipe"]): string =>
  [
    r.family,
    r.generators,
    r.axial !== undefined ? `axial ${r.axial}` : undefined,
    r.criterion,
    typeof r.terms === "string" ? r.terms : r.terms ? `${r.terms.length} terms` : undefined,
    r.keepEfficiency !== undefined ? `keeps ${r.keepEfficiency}` : undefined,
    r.starts !== undefined ? `${r.starts} starts` : undefined,
    `seed ${r.seed}`,
  ]
    .filter(Boolean)
    .join(" · ");

export const recipe: PlanRow = {
  key: "recipe",
  name: "Recipe",
  note: () => "makes the same trials again",
  Cell: ({ plan }) => <span className="num small">{recipeText(plan.plan.recipe)}</span>,
};
