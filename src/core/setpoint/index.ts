/** The best settings: goals and their desirability, the search, how sure it is, and its confirmation. */
export { capability } from "./capability";
export { chanceOf } from "./chance";
export {
  type Confirmation,
  confirmation,
  confirmedFact,
  confirmedUnfitted,
  missedLimits,
  type Verdict,
} from "./confirm";
export { type NextLot, nextLot } from "./counted";
export { desirability, limitsOf, overallDesirability } from "./desirability";
export { type SetpointProblem, setpointProblem } from "./goals";
export { type Candidate, type CandidateResponse, type SearchResult, searchSetpoint } from "./search";
export { type WaveLevels, waveLevels } from "./shift";
