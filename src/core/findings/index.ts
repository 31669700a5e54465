/** What is worth saying at each station, by code and figures, and the words that say it. */
export type { CountedFault } from "../messages/counted";
export type { ActionId } from "../messages/readings";
export { type Said, type Words, worded } from "../messages/said";
export {
  actionOf,
  answerOf,
  changeText,
  columnOf,
  doubtText,
  placeOf,
  questionOf,
  refusalOf,
  remarkOf,
  riskOf,
  rowOf,
  sentenceOf,
  spotText,
  statisticOf,
  suspectOf,
  unfitOf,
  waveNameOf,
  whyOf,
  workbookOf,
} from "../words/answers";
export { countedFaultText } from "../words/english/counted";
export { standingText, whoText } from "../words/english/history";
export { chanceText, costText } from "../words/english/parts";
export { missedText } from "../words/english/readings";
export { counted, figure, fixed, listed, rounded, withUnit } from "../words/numbers";
export { climbReading } from "./climb";
export { decisionOf } from "./decision";
export type { FitReport } from "./fit-report";
export { warningsOfChoosing } from "./model";
export { nextWaves } from "./next-wave";
export { planReadings, planRisks } from "./plan";
export { questionReadings } from "./question";
export type { Evidence, Reading, ReadingAction } from "./reading";
export { reportReadings } from "./report";
export { bestTrial, goalReadings, sensitivity, setpointReadings } from "./setpoint";
export { type Cairn, STATIONS, type Station, trailOf } from "./trail";
