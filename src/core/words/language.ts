import type { DoubtValues } from "../messages/bench";
import type { AnsweredCheck, CheckId, CheckNote, CheckValues } from "../messages/checks";
import type { ErrorValues } from "../messages/errors";
import type { ChangeValues, SpotValues } from "../messages/history";
import type { PlaceValues } from "../messages/places";
import type { ActionId, ReadingValues } from "../messages/readings";
import type { RemarkValues, UnfitValues } from "../messages/remarks";
import type { Words } from "../messages/said";
import { worded } from "../messages/said";
import type { SuspectValues } from "../messages/suspects";
import type { ColumnValues, RowValues, TypingValues } from "../messages/typed";
import type { RiskValues, WaveNameValues, WhyValues } from "../messages/waves";
import type { WorkbookValues } from "../messages/workbooks";

/** All that a language has to say. */
export interface Language {
  checks: Words<CheckValues>;
  /** The question of each check; `repeats` is that of copies within trials. */
  questions: Record<CheckId, string>;
  /** What the figure behind an answer is called. */
  statistics: Record<CheckId, string>;
  /** Added to an answer whose p is not exact. */
  approximate: Record<CheckNote, string>;
  readings: Words<ReadingValues>;
  /** Buttons of readings. */
  actions: Record<ActionId, string>;
  /** Why a wave may follow. */
  whys: Words<WhyValues>;
  /** What waves that may follow are called. */
  waveNames: Words<WaveNameValues>;
  /** What could go wrong with a plan. */
  risks: Words<RiskValues>;
  /** What may be behind a confirmation that does not agree. */
  suspects: Words<SuspectValues>;
  /** What is refused. */
  errors: Words<ErrorValues>;
  /** What is said beside figures: why one is absent, why something ends, what a wave brings with it. */
  remarks: Words<RemarkValues>;
  /** Why a family or a rig cannot serve a study. */
  unfits: Words<UnfitValues>;
  /** What a place breaks of the region. */
  places: Words<PlaceValues>;
  /** What cannot be read of what was typed. */
  typings: Words<TypingValues>;
  /** What is not taken of a row of a sheet. */
  rows: Words<RowValues>;
  /** What is odd about a column of a sheet. */
  columns: Words<ColumnValues>;
  /** What is said of a workbook that was read. */
  workbooks: Words<WorkbookValues>;
  /** Why a result is doubted as it is typed. */
  doubts: Words<DoubtValues>;
  /** Places in a study. */
  spots: Words<SpotValues>;
  /** What became of a cell. */
  changes: Words<ChangeValues>;
}

/** What a check answers, with what must be said of its p. */
export function answeredIn(
  { checks, approximate }: Pick<Language, "checks" | "approximate">,
  check: AnsweredCheck,
): string {
  const note = check.look ?? (check.approximate ? "chosen" : undefined);
  return `${worded(checks, check)}${note ? ` (${approximate[note]})` : ""}`;
}
