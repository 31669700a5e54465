import type { CheckId, CheckValues } from "./checks";
import type { ErrorValues } from "./english/errors";
import type { ActionId, ReadingValues } from "./english/readings";
import type { SuspectValues } from "./english/suspects";
import type { RiskValues, WhyValues } from "./english/waves";
import type { Words } from "./said";

/** All that a language has to say. */
export interface Language {
  checks: Words<CheckValues>;
  /** The question of each check; `repeats` is that of copies within trials. */
  questions: Record<CheckId, string>;
  /** What the figure behind an answer is called. */
  statistics: Record<CheckId, string>;
  /** Added to an answer whose p is not exact. */
  approximate: string;
  readings: Words<ReadingValues>;
  /** Buttons of readings. */
  actions: Record<ActionId, string>;
  /** Why a wave may follow. */
  whys: Words<WhyValues>;
  /** What could go wrong with a plan. */
  risks: Words<RiskValues>;
  /** What may be behind a confirmation that does not agree. */
  suspects: Words<SuspectValues>;
  /** What is refused. */
  errors: Words<ErrorValues>;
}
