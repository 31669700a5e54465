/** Plans of trials: families, waves that follow, what a plan would tell before a trial is run, and which to pick. */
export type { TermMapEntry } from "../appraisal/aliasing";
export { appraisePoints } from "../appraisal/appraise";
export { missingFractions } from "../appraisal/defining-words";
export { lowerHull } from "../appraisal/hull";
export { detectable, type PowerAnswer, termPower } from "../appraisal/power";
export { regionSample } from "../appraisal/variance";
export { followUp } from "../follow-up/follow";
export { nextWaves } from "../follow-up/next-waves";
export { countedPlanOf, planningOf } from "../kinds/plannings";
export { defaultPicks, type FirstPick, firstPick, isFullyReset, seesSomething } from "../planning/default-picks";
export type { Estimability } from "../planning/follow-up-summary";
export { inPlace } from "../planning/next-wave-summary";
export type { PlanDetail } from "../planning/plan-detail";
export {
  bendable,
  countedPowerOf,
  type PlanRequest,
  type PlanSummary,
  planSummaryId,
  requestedTerms,
  summarisePlan,
} from "../planning/plan-summary";
export { madeLabel, type PlanRefusal, type PlanSummariesStep } from "../planning/plans-in-sight";
export type { TradePoint } from "../planning/trade";
export { usualRequest } from "../planning/usual-request";
export { adoptPlan } from "./adopt";
export { carriedFactors } from "./asked";
export { families } from "./families";
export { makePlan } from "./make-plan";
export { commonOptions, controls, type OptionControl, type PlanOptions, termOptions } from "./options";
export type { Plan, PlanFamily } from "./plan";
