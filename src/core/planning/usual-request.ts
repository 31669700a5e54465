import { canCentre } from "../plans/arrange";
import { significance } from "../study/coding";
import { isStanding } from "../study/roles";
import type { Study } from "../study/schema";
import type { PlanRequest } from "./plan-summary";

/** What is asked until a person asks for something else. */
export const usualRequest = (study: Study): PlanRequest => ({
  terms: "main+2fi",
  budget: 40,
  replicates: 1,
  centre: canCentre(study) ? 3 : 0,
  blocks: 1,
  power: 0.8,
  alpha: significance(study),
  seed: 1,
  standardOrder: false,
  // A wave that follows is judged with what was run before it.
  together: study.trials.some(isStanding),
});
