import { StudyError } from "../study/error";
import { MOST_SHEET } from "./limits";

/** A row or a cell, with what it says of its place. */
const PLACED = /<(?:\w+:)?(row|c)\b([^>]*)>/g;
const NAMED = /(?:^|\s)r="([^"]*)"/;
const CELL = /^([A-Z]{1,7})(\d{1,10})$/;

/** Column of its letters, from 1. */
const columnOf = (letters: string): number => [...letters].reduce((n, letter) => 26 * n + letter.charCodeAt(0) - 64, 0);

/**
 * Looks where the cells of a sheet stand before anything lays them out: one cell far away costs as much as all that it
 * is far from.
 * @throws StudyError `sheet-too-far` for a row or column beyond the most, `no-workbook` for a place that is none
 */
export function requireWithin(sheet: string, xml: string): void {
  let row = 0;
  let column = 0;
  let lowest = 0;
  let widest = 0;
  for (const [, kind, attributes] of xml.matchAll(PLACED)) {
    const place = NAMED.exec(attributes)?.[1];
    if (kind === "row") {
      row = place === undefined ? row + 1 : Number(place);
      column = 0;
    } else if (place === undefined) column++;
    else {
      const cell = CELL.exec(place);
      // Longer than any letters that are read: beyond all columns.
      if (!cell && /^[A-Z]+\d+$/.test(place))
        throw new StudyError("sheet-too-far", { sheet, at: place.slice(0, 20), ...MOST_SHEET });
      if (!cell) throw new StudyError("no-workbook", {});
      column = columnOf(cell[1]);
      row = Number(cell[2]);
    }
    if (!Number.isInteger(row) || row < 0) throw new StudyError("no-workbook", {});
    if (row > MOST_SHEET.rows || column > MOST_SHEET.columns)
      throw new StudyError("sheet-too-far", { sheet, at: place ?? `row ${row}`, ...MOST_SHEET });
    lowest = Math.max(lowest, row);
    widest = Math.max(widest, column);
    if (lowest * widest > MOST_SHEET.cells)
      throw new StudyError("sheet-too-far.cells", { sheet, rows: lowest, columns: widest, cells: MOST_SHEET.cells });
  }
}
