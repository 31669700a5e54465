/** The only door to the core. */
export type { TermMapEntry } from "./appraisal/aliasing";
export { appraisePoints } from "./appraisal/appraise";
export { missingFractions } from "./appraisal/defining-words";
export { lowerHull } from "./appraisal/hull";
export { detectable, type PowerAnswer, termPower } from "./appraisal/power";
export { regionSample } from "./appraisal/variance";
export { inRunOrder, nextToRun, type SettingChange, settingChanges, toSet } from "./bench/changes";
export { doubtOf, type LikelyRanges, likelyRanges } from "./bench/doubt";
export { type BenchEntry, benchEntry, entryEdits, standingAt, trialOf } from "./bench/entry";
export { forBench } from "./bench/for-bench";
export { followUp } from "./follow-up/follow";
export { matchColumns } from "./formats/columns";
export { countedText, readResponseCell } from "./formats/counted-cell";
export { csvOf, ledgerCsv, planCsv, readSheet } from "./formats/csv";
export { type ForeignWave, waveFromSheet } from "./formats/foreign-wave";
export { parseJson } from "./formats/json";
export { MOST_SHEET_BYTES } from "./formats/limits";
export { readNumber } from "./formats/number";
export {
  freshId,
  goalExample,
  goalText,
  type RangeWords,
  rangeText,
  readAim,
  readConfidence,
  readGoal,
  readRange,
  readRegion,
  readShare,
  readSpan,
  shareText,
} from "./formats/phrases";
export { readResultCell } from "./formats/result-cell";
export { type ImportPreview, importEdits, previewImport } from "./formats/sheet-import";
export { ROLES, type Role, type StartColumn, type StartSheet, startFrom, startSheet } from "./formats/start-sheet";
export { readStudyFile, writeStudyFile } from "./formats/study-file";
export { readWorkbook, type WorkbookSheet } from "./formats/workbook";
export { writeWorkbook } from "./formats/workbook-out";
export { changeOf, goneKey, type Names, spotOf, standingOf } from "./history/change";
export { differences } from "./history/differences";
export type { Mark } from "./history/mark";
export type { CountedFault } from "./messages/counted";
export type { ActionId } from "./messages/readings";
export { type Said, type Words, worded } from "./messages/said";
export { modelWeights } from "./model/average";
export { boxCox, powerOf, scaleLikelihoods } from "./model/box-cox";
export { cellSummary } from "./model/cells";
export { type Check, DRAWN_LINE, runChecks } from "./model/checklist";
export { type CopyCell, copiesOf } from "./model/copies";
export { besideCentre } from "./model/curvature";
export { counts, type Fitting, fittingOf, storedModel } from "./model/data";
export { equationOf } from "./model/equation";
export { type Fit, fitModel, type Parameter } from "./model/fit";
export { type AnovaRow, type Link, type SetupModel, sizeUnit } from "./model/fitted";
export { type Flag, flagLines, flagsOf, type TrialFigures } from "./model/influence";
export type { Rung } from "./model/ladder";
export type { ContrastSet } from "./model/lenth";
export type { Offer } from "./model/offer";
export { fitOtherWay, type OtherWay, otherWays } from "./model/others";
export { aboutPoint } from "./model/own-scale";
export { type Criterion, type Direction, reducedSteps, reduceModel, stepsOn } from "./model/reduce";
export { spreadCells } from "./model/spread";
export type { StandingRung } from "./model/standing";
export { type SubsetModel, searchSubsets } from "./model/subsets";
export { handWorking, type WorkingEffect } from "./model/working";
export { chiSquaredQuantile, normalQuantile } from "./numerics/distributions";
export type { Estimability } from "./planning/follow-up-summary";
export { anewEachTime, type FirstPick, firstPick, markedFirst, seesSomething } from "./planning/marked";
export { inPlace } from "./planning/next-wave-summary";
export type { PlanDetail } from "./planning/plan-detail";
export {
  bendable,
  countedPowerOf,
  type PlanRequest,
  type PlanSummary,
  planSummaryId,
  requestedTerms,
  summarisePlan,
} from "./planning/plan-summary";
export { madeLabel, type PlanRefusal, type PlanSummariesStep } from "./planning/plans-in-sight";
export type { TradePoint } from "./planning/trade";
export { usualRequest } from "./planning/usual-request";
export { adoptPlan } from "./plans/adopt";
export { carriedFactors } from "./plans/asked";
export { families } from "./plans/families";
export { makePlan } from "./plans/make-plan";
export { commonOptions, controls, type OptionControl, type PlanOptions, termOptions } from "./plans/options";
export type { Plan, PlanFamily } from "./plans/plan";
export {
  checkAnswer,
  MOST_ANSWER,
  type Outcome,
  outcomeEdits,
  programAnswer,
  readAnswer,
} from "./programs/answer";
export { type Asked, askedOf } from "./programs/asked";
export {
  ask,
  askPlain,
  finish,
  type OpenQuestion,
  openQuestions,
  type QuestionAnswer,
  type QuestionId,
  type QuestionInput,
  questionNamed,
  readInput,
} from "./questions";
export type { JudgedAppraisal } from "./questions/appraise";
export type { FollowAnswer } from "./questions/follow";
export type { StationEvidence } from "./questions/page";
export type { PlanAnswer } from "./questions/plan";
export { planInput } from "./questions/plan";
export { type FlagKind, flagKinds, type Progress, type Question, shapes } from "./questions/question";
export { rigEdits } from "./questions/rig";
export type { SurfaceAnswer } from "./questions/surface";
export { climbReading } from "./readings/climb";
export { decisionOf } from "./readings/decision";
export type { FitReport } from "./readings/fit-report";
export { warningsOfChoosing } from "./readings/model";
export { nextWaves } from "./readings/next-wave";
export { planReadings, planRisks } from "./readings/plan";
export { questionReadings } from "./readings/question";
export type { Evidence, Reading, ReadingAction } from "./readings/reading";
export { reportReadings } from "./readings/report";
export { bestTrial, goalReadings, sensitivity, setpointReadings } from "./readings/setpoint";
export { type Cairn, STATIONS, type Station, trailOf } from "./readings/trail";
export { rigNamed, rigsFor, runRig, waiting } from "./rigs";
export { measure, type Rig, shown } from "./rigs/rig";
export { capability } from "./setpoint/capability";
export { chanceOf } from "./setpoint/chance";
export {
  type Confirmation,
  confirmation,
  confirmationInterval,
  confirmationsFor,
  confirmedFact,
  confirmedUnfitted,
  missedLimits,
  type Verdict,
} from "./setpoint/confirm";
export { type NextLot, nextLot } from "./setpoint/counted";
export { desirability, limitsOf, overallDesirability } from "./setpoint/desirability";
export { type SetpointProblem, setpointProblem } from "./setpoint/goals";
export { type Candidate, type CandidateResponse, type SearchResult, searchSetpoint } from "./setpoint/search";
export { type WaveLevels, waveLevels } from "./setpoint/shift";
export type { Beyond } from "./study/beyond";
export {
  activeFactors,
  centreSettings,
  code,
  decode,
  isNumeric,
  measuredResponses,
  middle,
  offeredStep,
  rangeOf,
  settingsAsRun,
  significance,
  snap,
} from "./study/coding";
export { forbiddenText, limitText } from "./study/constraint";
export { type Prices, pricesOf, spentOn } from "./study/costs";
export {
  additions,
  applyEdits,
  cellAt,
  type Edit,
  edit,
  editSchema,
  inverseEdits,
  jsonValue,
  rewind,
  sameData,
} from "./study/edit";
export { StudyError } from "./study/error";
export { hardestResponse, judgedResponses } from "./study/judged";
export {
  asKept,
  countedOn,
  countedPlanOf,
  countedResult,
  expectedNoise,
  isCounted,
  measuredValues,
  resultValue,
  valueUnit,
} from "./study/measured";
export { Memo } from "./study/memo";
export { proposedLimits } from "./study/proposed-limits";
export { allowed, doubtful, excludedShares } from "./study/region";
export { enterResults } from "./study/results";
export { bringBack, retireFactors } from "./study/retire";
export { reviseStudy } from "./study/revise";
export {
  type Covariate,
  type Factor,
  type Goal,
  MOST_RATIO,
  MOST_REPEATS,
  type Model,
  type ModelStep,
  modelSchema,
  type NumericFactor,
  type Response,
  type Result,
  resultSchema,
  type Setting,
  type Settings,
  type Study,
  type StudyInput,
  setpointSchema,
  settingsSchema,
  studySchema,
  type Term,
  TRIAL_STATES,
  type Transform,
  type Trial,
  type Wave,
} from "./study/schema";
export {
  guessedSetupEdits,
  hardFactors,
  joinable,
  opensSetup,
  setupEdits,
  setupOpenings,
} from "./study/setups";
export { holdAgainst, issueError } from "./study/shape";
export { blankStudy, nextLetter, parseStudy, type StudyFault, studyFaults } from "./study/validate";
export { type FitResult, type Fitted, StudyView } from "./study-view";
export { steepestAscent } from "./surface/ascent";
export { averagedPredictor, presentPredictor } from "./surface/average";
export { importanceOf } from "./surface/importance";
export type { Plane, Prediction } from "./surface/predict";
export { moveSeam, sharesOf, withShare } from "./surface/shares";
export { stationaryPoint } from "./surface/stationary";
export {
  canBend,
  candidateTerms,
  dependants,
  type TermSetName,
  termSet,
  withoutParents,
  withParents,
} from "./terms/candidates";
export { alphabetOf, checkTerms, inModelOrder, termKey, termLetters, termName } from "./terms/term";
export { readTypedTerm } from "./terms/typed-term";
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
} from "./words/answers";
export { countedFaultText } from "./words/english/counted";
export { standingText, whoText } from "./words/english/history";
export { chanceText, costText } from "./words/english/parts";
export { missedText } from "./words/english/readings";
export { counted, figure, fixed, listed, rounded, withUnit } from "./words/numbers";
