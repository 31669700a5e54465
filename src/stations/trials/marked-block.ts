import type { Trial } from "@/core/study";
import { type Column, cellText, headOf, unitOf } from "./columns";

/** A cell of the ledger, by its row and column as they are shown. */
export interface Spot {
  row: number;
  col: number;
}

/** Cells that are marked, from one corner to the other. */
export interface Block {
  top: number;
  bottom: number;
  left: number;
  right: number;
}

/** The cells between two corners. */
export const blockOf = (a: Spot, b: Spot): Block => ({
  top: Math.min(a.row, b.row),
  bottom: Math.max(a.row, b.row),
  left: Math.min(a.col, b.col),
  right: Math.max(a.col, b.col),
});

export const cellsIn = ({ top, bottom, left, right }: Block): number => (bottom - top + 1) * (right - left + 1);

/** A number with the minus sign of a spreadsheet; other text as it is. */
const plain = (text: string): string => (/^−[\d.]/.test(text) ? text.replace("−", "-") : text);

/**
 * Marked cells as rows for a spreadsheet; with headings, under the names and units of their columns and behind the
 * order of their trials, so that they find their way back.
 */
export function rowsOfBlock(rows: readonly Trial[], columns: readonly Column[], block: Block, headed: boolean) {
  const chosen = columns.slice(block.left, block.right + 1);
  const head = (c: Column): string => {
    const unit = unitOf(c);
    const name = c.kind === "setting" ? c.factor.name : headOf(c);
    return unit ? `${name} [${unit}]` : name;
  };
  const lines = rows.slice(block.top, block.bottom + 1).map((t) => {
    const cells = chosen.map((c) => plain(cellText(t, c)));
    return headed ? [String(t.order), ...cells] : cells;
  });
  return headed ? [["order", ...chosen.map(head)], ...lines] : lines;
}
