import type { CountedFault } from "./counted";
/** What cannot be read of what was typed into one cell, by code; `example` is what would be read. */
export interface TypingValues {
  "no-range": { text: string };
  "range-upside-down": { low: number; high: number };
  "range-empty": object;
  "range-alone": { text: string };
  "range-twice": { text: string };
  "no-aim": { text: string };
  "no-limits": { text: string; example: string };
  "limits-alike": { limit: number; example: string };
  "aim-no-number": { text: string; example: string };
  "aim-outside": { aim: number; low: number; high: number };
  "no-confidence": { text: string };
  "no-span": { text: string };
  "bound-no-number": { text: string };
  "limit-no-factor": { text: string; like: string };
  "limit-category": { factor: string; level: string };
  "limit-empty": object;
  "no-region": { text: string };
  "no-factor": { text: string };
  "no-level": { text: string; factor: string; levels: string[] };
  "no-setting": { text: string; factor: string };
  "no-letter": { text: string; letters: string[] };
  "no-letters": object;
  "many-letters": { most: number };
  "category-squared": { factor: string };
  "region-empty": object;
}

/** What is not taken of a row of a sheet, by code. */
export interface RowValues {
  "row-no-setting": { row: number; text: string; factor: string };
  "row-no-number": { row: number; text: string };
  "row-no-setup": { row: number; text: string };
  "row-counted": { row: number; column: string; fault: CountedFault };
  "row-either": { row: number; text: string };
  "row-no-place": { row: number; taken: boolean };
  "row-no-trial": { row: number; named: string };
  "row-other-number": { row: number; trial: string; order: number; number: string };
  "row-other-settings": { row: number; order: number };
  "row-twice": { row: number; order: number };
  "row-differs": { row: number; order: number; what: string; first: string; text: string };
  "cell-either": { row: number; text: string; column: string };
  "cell-no-setting": { row: number; text: string; factor: string };
  "cell-no-number": { row: number; text: string };
  "cell-no-value": { row: number; text: string; column: string };
  "cell-counted": { row: number; column: string; fault: CountedFault };
  "line-counted": { row: number; column: string; fault: CountedFault };
  "line-no-trial": { row: number };
  "line-too-many": { most: number };
  "line-outside": { row: number; text: string };
  "line-either": { row: number; text: string };
  "line-no-result": { row: number; text: string };
}

/** What is odd about a column of a sheet, by code. */
export interface ColumnValues {
  "column-empty": object;
  "column-constant": { value: string };
  "column-odd": { cells: number; such: string };
  "column-twin": { of: string };
}
