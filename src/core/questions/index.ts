/** What a study can be asked by page, command and HTTP alike, and the view that keeps its derived figures. */

export type { FoundFit } from "../model/fit";
export { type FitResult, type Fitted, type RivalFits, StudyView } from "../study-view";
export type { JudgedAppraisal } from "./appraise";
export {
  ask,
  finish,
  type OpenQuestion,
  openQuestions,
  type QuestionAnswer,
  type QuestionId,
  type QuestionInput,
  questionNamed,
  readInput,
} from "./ask";
export type { FollowAnswer } from "./follow";
export type { StationEvidence } from "./page";
export type { PlanAnswer } from "./plan";
export { planInput } from "./plan";
export { type FlagKind, flagKinds, type Progress, type Question, shapes } from "./question";
export { type Received, receiver } from "./receiver";
export { rigEdits } from "./rig";
export type { SurfaceAnswer } from "./surface";
