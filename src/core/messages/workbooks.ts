/** How many cells something is odd about, with the first of them. */
export type Cells = { count: number; named: string[] };

/** What is said of a workbook that was read, by code. */
export interface WorkbookValues {
  "book-sheet": { sheet: string; others: string[] };
  "book-above": { rows: number };
  "book-merged": Cells;
  "book-hidden": { columns: number; rows: number };
  "book-errors": Cells;
  "book-unworked": Cells;
  "book-dates": { cells: number };
  "book-macros": object;
}
