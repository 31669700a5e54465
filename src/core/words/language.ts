import type { CheckId, CheckNote, CheckValues } from "./checks";
import type { DoubtValues } from "./english/bench";
import type { ErrorValues } from "./english/errors";
import type { ChangeValues, SpotValues } from "./english/history";
import type { PlaceValues } from "./english/places";
import type { ActionId, ReadingValues } from "./english/readings";
import type { RemarkValues, UnfitValues } from "./english/remarks";
import type { SuspectValues } from "./english/suspects";
import type { ColumnValues, RowValues, TypingValues } from "./english/typed";
import type { RiskValues, WaveNameValues, WhyValues } from "./english/waves";
import type { WorkbookValues } from "./english/workbooks";
import type { Words } from "./said";

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
