/** Most bytes of a sheet that is brought as a file. */
export const MOST_SHEET_BYTES = Object.freeze({ text: 5_000_000, workbook: 25_000_000 });
