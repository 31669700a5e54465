import { StudyError } from "../study/error";
import type { Study } from "../study/schema";
import { arrange } from "./arrange";
import { families } from "./families";
import { type PlanOptions, readOptions } from "./options";
import type { Plan, PlanProgress } from "./plan";

/**
 * Makes a plan of a family for a study, telling how far a search is; sent `true` it ends early with the best so far.
 * The same options and seed give the same trials.
 * @throws StudyError when the family is unknown or cannot serve the study or the options
 */
export function planSteps(study: Study, options: PlanOptions): Generator<PlanProgress, Plan, boolean | undefined> {
  const family = families.find((f) => f.id === options.family);
  if (!family)
    throw new StudyError("unknown-family", { family: String(options.family), families: families.map((f) => f.id) }, [
      "family",
    ]);
  return arrange(study, family, readOptions(family, options));
}

/** Makes a plan in one go. */
export function makePlan(study: Study, options: PlanOptions): Plan {
  const steps = planSteps(study, options);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
