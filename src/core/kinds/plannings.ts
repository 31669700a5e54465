import type { Response } from "../study/schema";
import { countPlanning } from "./count/planning";
import { type CountedPlan, type KindPlanning, planFrom } from "./planning";
import { kindOf, RESULT_KINDS } from "./results";
import { sharePlanning } from "./share/planning";

/** Of kinds whose noise goes with their mean; the others are planned for by the noise that is stated alone. */
const KIND_PLANNINGS: Readonly<Record<string, KindPlanning>> = { share: sharePlanning, count: countPlanning };

/** How power is worked out by what would be counted. */
export const planningOf = ({ kind }: CountedPlan): KindPlanning => KIND_PLANNINGS[kind];

/** How a response says that it will be counted; undefined where it says too little, or is not counted. */
export function countedPlanOf(response: Response): CountedPlan | undefined {
  const { id } = kindOf(response);
  return id in KIND_PLANNINGS ? planFrom(id, response) : undefined;
}

/** Standard deviation of the share or rate of one trial at the base. */
export const noiseAt = (plan: CountedPlan): number =>
  RESULT_KINDS.find((k) => k.id === plan.kind)?.noise(plan) ?? Number.NaN;
