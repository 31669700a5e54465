/** Most bytes of a sheet that is brought as a file. */
export const MOST_SHEET_BYTES = Object.freeze({ text: 5_000_000, workbook: 25_000_000 });
/** Most bytes of what is packed in a workbook. */
export const MOST_UNPACKED = 100_000_000;
/**
 * Rows and columns that a sheet is read to: as many trials as a study holds, with headings and titles above; and cells
 * of the rectangle that holds all of it, empty ones too, since each is laid out.
 */
export const MOST_SHEET = Object.freeze({ rows: 20_050, columns: 4000, cells: 2_500_000 });
