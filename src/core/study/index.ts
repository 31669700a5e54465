/**
 * A study and what is in it: factors, trials and terms, how it is read and edited, what became of it. Settings are in
 * natural units, coded ones from −1 to 1.
 */
export { changeOf, goneKey, locationOf, type Names, valueAt } from "../history/change";
export { differences } from "../history/differences";
export type { Mark } from "../history/mark";
export { type AskedField, KIND_FIELDS } from "../kinds/result";
export { kindOf, RESULT_KINDS } from "../kinds/results";
export {
  activeTerms,
  canBend,
  candidateTerms,
  dependants,
  type TermSetName,
  termSet,
  withoutParents,
  withParents,
} from "../terms/candidates";
export { alphabetOf, checkTerms, inModelOrder, termKey, termLetters, termName } from "../terms/term";
export { readTypedTerm } from "../terms/typed-term";
export type { Beyond } from "./beyond";
export {
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
} from "./coding";
export { forbiddenText, limitText } from "./constraint";
export { type Prices, pricesOf, spentOn } from "./costs";
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
} from "./edit";
export { StudyError } from "./error";
export { hardestResponse, judgedResponses } from "./judged";
export {
  expectedNoise,
  measuredValues,
  normaliseResult,
  resultValue,
  valueUnit,
} from "./measured";
export { Memo } from "./memo";
export { proposedLimits } from "./proposed-limits";
export { allowed, doubtful, excludedShares } from "./region";
export { enterResults } from "./results";
export { bringBack, retireFactors } from "./retire";
export { reviseStudy } from "./revise";
export {
  activeFactors,
  hardFactors,
  heldAt,
  isActive,
  isStanding,
  isUsable,
} from "./roles";
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
} from "./schema";
export { guessedSetupEdits, joinable, opensSetup, setupEdits, setupOpenings } from "./setups";
export { holdAgainst, issueError } from "./shape";
export { blankStudy, nextLetter, parseStudy, type StudyFault, studyFaults } from "./validate";
