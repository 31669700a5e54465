import Papa from "papaparse";
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

/** A cell as a spreadsheet takes it: on one line, quoted where it must be, never run as a formula. */
const pasted = (text: string): string => {
  const safe = /^[=+\-@]/.test(text) && !Number.isFinite(Number(text.replace("−", "-"))) ? `'${text}` : text;
  return /[\t\r\n"]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe.replace("−", "-");
};

/**
 * Marked cells as tab-separated text for a spreadsheet; with headings, under the names and units of their columns and
 * behind the order of their trials, so that they find their way back.
 */
export function textOfBlock(rows: readonly Trial[], columns: readonly Column[], block: Block, headed: boolean): string {
  const chosen = columns.slice(block.left, block.right + 1);
  const head = (c: Column): string => {
    const unit = unitOf(c);
    const name = c.kind === "setting" ? c.factor.name : headOf(c);
    return unit ? `${name} [${unit}]` : name;
  };
  const lines = rows.slice(block.top, block.bottom + 1).map((t) => {
    const cells = chosen.map((c) => pasted(cellText(t, c)));
    return (headed ? [String(t.order), ...cells] : cells).join("\t");
  });
  if (headed) lines.unshift(["order", ...chosen.map((c) => pasted(head(c)))].join("\t"));
  return lines.join("\n");
}

/** The same as comma-separated text. */
export const csvFrom = (tabbed: string): string =>
  Papa.unparse(Papa.parse<string[]>(tabbed, { delimiter: "\t" }).data, { newline: "\r\n" });
