import type { AnsweredCheck, CheckId, CheckNote, CheckValues } from "../messages/checks";
import type { ErrorValues } from "../messages/errors";
import type { ChangeValues, LocationValues } from "../messages/history";
import type { Words } from "../messages/message";
import { formatMessage } from "../messages/message";
import type { DoubtValues } from "../messages/operator";
import type { PlaceValues } from "../messages/places";
import type { ActionId, ReadingValues } from "../messages/readings";
import type { RemarkValues, UnfitValues } from "../messages/remarks";
import type { SuspectValues } from "../messages/suspects";
import type { ColumnValues, RowValues, TypingValues } from "../messages/typed";
import type { RiskValues, WaveNameValues, WhyValues } from "../messages/waves";
import type { WorkbookValues } from "../messages/workbooks";

/** The figures of every message, by what is said with it. */
export interface MessageValues {
  readings: ReadingValues;
  /** Why a wave may follow. */
  whys: WhyValues;
  /** What waves that may follow are called. */
  waveNames: WaveNameValues;
  /** What could go wrong with a plan. */
  risks: RiskValues;
  /** What may be behind a confirmation that does not agree. */
  suspects: SuspectValues;
  /** What is refused, and what to do about it. */
  errors: ErrorValues;
  /** What is said beside figures: why one is absent, why something ends, what a wave brings with it. */
  remarks: RemarkValues;
  /** Why a family or a rig cannot serve a study. */
  unfits: UnfitValues;
  /** What a place breaks of the region. */
  places: PlaceValues;
  /** What cannot be read of what was typed. */
  typings: TypingValues;
  /** What is not taken of a row of a sheet. */
  rows: RowValues;
  /** What is odd about a column of a sheet. */
  columns: ColumnValues;
  /** What is said of a workbook that was read. */
  workbooks: WorkbookValues;
  /** Why a result is doubted as it is typed. */
  doubts: DoubtValues;
  /** Places in a study. */
  locations: LocationValues;
  /** What became of a cell. */
  changes: ChangeValues;
}

/** Words for every message. */
export type MessageWords = { [K in keyof MessageValues]: Words<MessageValues[K]> };

/** All that a language has to say. */
export type Language = MessageWords & {
  checks: Words<CheckValues>;
  /** The question of each check; `repeats` is that of copies within trials. */
  questions: Record<CheckId, string>;
  /** What the figure behind an answer is called. */
  statistics: Record<CheckId, string>;
  /** Added to an answer whose p is not exact. */
  approximate: Record<CheckNote, string>;
  /** Buttons of readings. */
  actions: Record<ActionId, string>;
};

/** What a check answers, with what must be said of its p. */
export function answeredIn(
  { checks, approximate }: Pick<Language, "checks" | "approximate">,
  check: AnsweredCheck,
): string {
  const note = check.look ?? (check.approximate ? "chosen" : undefined);
  return `${formatMessage(checks, check)}${note ? ` (${approximate[note]})` : ""}`;
}
