import { zipSync } from "fflate";
import Papa from "papaparse";
import type { Message } from "../messages/message";
import type { WorkbookValues } from "../messages/workbooks";
import { StudyError } from "../study/error";
import { requireWithin } from "./cells-within";
import { guarded } from "./formula-guard";
import { unpackWorkbook } from "./unpack";

/** Cells that are named where something is odd about them; more are counted. */
const MOST_NAMED = 5;
/** The sheet that our own workbooks keep trials on. */
const LEDGER = "Ledger";

/** One sheet of a workbook as text with tabs between, as if it had been copied, with what is odd about it. */
export interface WorkbookSheet {
  /** All visible sheets. */
  sheets: string[];
  sheet: string;
  text: string;
  remarks: Message<WorkbookValues>[];
}

const attribute = (tag: string, name: string): string | undefined => new RegExp(`\\b${name}="([^"]*)"`).exec(tag)?.[1];
const plain = (text: string): string =>
  text
    .replaceAll("&lt;", "<")
    .replaceAll("&gt;", ">")
    .replaceAll("&quot;", '"')
    .replaceAll("&apos;", "'")
    .replaceAll("&amp;", "&");

/** The sheets that a workbook shows, each with the XML of its cells. */
function sheetsOf(parts: Record<string, Uint8Array>): { name: string; path: string; xml: string }[] {
  const read = (path: string): string => (parts[path] ? new TextDecoder().decode(parts[path]) : "");
  const targets = new Map(
    [...read("xl/_rels/workbook.xml.rels").matchAll(/<(?:\w+:)?Relationship\b[^>]*>/g)].map(([tag]) => [
      attribute(tag, "Id"),
      attribute(tag, "Target"),
    ]),
  );
  return [...read("xl/workbook.xml").matchAll(/<(?:\w+:)?sheet\b[^>]*>/g)].flatMap(([tag]) => {
    if (/hidden/i.test(attribute(tag, "state") ?? "")) return [];
    const target = targets.get(attribute(tag, "r:id") ?? attribute(tag, "\\w+:id")) ?? "";
    const path = target.replace(/^\/?(xl\/)?/, "xl/");
    return [{ name: plain(attribute(tag, "name") ?? ""), path, xml: read(path) }];
  });
}

/** What the cells alone do not say: cells that are merged, hidden, in error, or were never worked out. */
function oddities(xml: string): Message<WorkbookValues>[] {
  const out: Message<WorkbookValues>[] = [];
  const merged = [...xml.matchAll(/<(?:\w+:)?mergeCell\b[^>]*>/g)].map(([tag]) => attribute(tag, "ref") ?? "");
  if (merged.length > 0) out.push({ code: "book-merged", values: named(merged) });
  const hidden = (what: "col" | "row"): number =>
    [...xml.matchAll(new RegExp(`<(?:\\w+:)?${what}\\b[^>]*\\bhidden="(?:1|true)"[^>]*>`, "g"))].reduce(
      (n, [tag]) => n + (what === "row" ? 1 : Number(attribute(tag, "max")) - Number(attribute(tag, "min")) + 1),
      0,
    );
  const [columns, rows] = [hidden("col"), hidden("row")];
  if (columns + rows > 0) out.push({ code: "book-hidden", values: { columns, rows } });
  const errors: string[] = [];
  const unworked: string[] = [];
  for (const [, tag, inner = ""] of xml.matchAll(/<(?:\w+:)?c\b([^>]*?)(?:\/>|>(.*?)<\/(?:\w+:)?c>)/gs)) {
    const at = attribute(tag, "r") ?? "";
    if (attribute(tag, "t") === "e") errors.push(`${at} ${/<(?:\w+:)?v>([^<]*)</.exec(inner)?.[1] ?? ""}`.trim());
    else if (/<(?:\w+:)?f\b/.test(inner) && !/<(?:\w+:)?v>[^<]/.test(inner)) unworked.push(at);
  }
  if (errors.length > 0) out.push({ code: "book-errors", values: named(errors) });
  if (unworked.length > 0) out.push({ code: "book-unworked", values: named(unworked) });
  return out;
}

const named = (cells: readonly string[]): { count: number; named: string[] } => ({
  count: cells.length,
  named: cells.slice(0, MOST_NAMED),
});

type Cell = string | number | boolean | Date | null;

/** A cell as it would be copied: numbers whole, with a point; days as year-month-day; text as in a sheet of text. */
function textOf(cell: Cell): string {
  if (cell === null) return "";
  if (typeof cell === "string") return guarded(cell);
  if (!(cell instanceof Date)) return typeof cell === "boolean" ? String(cell).toUpperCase() : String(cell);
  const at = cell.toISOString();
  return at.endsWith("T00:00:00.000Z") ? at.slice(0, 10) : at.slice(0, 16).replace("T", " ");
}

const filled = (row: readonly Cell[]): number => row.filter((c) => c !== null && c !== "").length;

/**
 * Reads one sheet of a workbook (ECMA-376): the one that is asked for, else our own ledger, else the first that holds
 * rows. Formulas give what they were last worked out to; nothing in it is run.
 *
 * @throws StudyError `no-workbook`, `workbook-locked`, `workbook-too-large`, `sheet-too-far`, `no-sheet`, `empty-sheet`
 */
export async function readWorkbook(bytes: Uint8Array, wanted?: string): Promise<WorkbookSheet> {
  const { parts, macros } = unpackWorkbook(bytes);
  const sheets = sheetsOf(parts);
  // Every sheet is laid out by what reads cells, hidden ones too.
  for (const [path, part] of Object.entries(parts))
    if (/^xl\/worksheets\/[^/]+\.xml$/.test(path) || sheets.some((s) => s.path === path))
      requireWithin(sheets.find((s) => s.path === path)?.name ?? path, new TextDecoder().decode(part));
  const names = sheets.map((s) => s.name);
  if (wanted !== undefined && !names.includes(wanted))
    throw new StudyError("no-sheet", { sheet: wanted, sheets: names });
  // Packed anew without compression: what reads cells would else unpack large parts in workers made of blobs, which
  // no page of ours lets run.
  const stored = zipSync(parts, { level: 0 });
  const { default: readCells } = await import("read-excel-file/web-worker");
  const all = await readCells(stored.buffer as ArrayBuffer).catch(() => {
    throw new StudyError("no-workbook", {});
  });
  // Its types name a constructor among values; what comes are cells.
  const visible = (all as unknown as { sheet: string; data: Cell[][] }[]).filter((s) => names.includes(s.sheet));
  const found =
    visible.find((s) => s.sheet === (wanted ?? LEDGER)) ?? visible.find((s) => s.data.some((r) => filled(r) > 1));
  if (!found) throw new StudyError("empty-sheet.cells", {});
  const rows = found.data;
  // A title above the headings stands in one cell; headings stand in several.
  const first = Math.max(
    0,
    rows.findIndex((r) => filled(r) > 1),
  );
  // Our own ledger names its columns for an import in a hidden second row.
  const ours = found.sheet === LEDGER && rows[0]?.[0] === "order" && rows[1]?.[0] === "order";
  const above = rows.slice(0, first).filter((r) => filled(r) > 0).length;
  const dates = rows.flat().filter((c) => c instanceof Date).length;
  const others = names.filter((n) => n !== found.sheet);
  const remarks: Message<WorkbookValues>[] = [
    ...(others.length > 0 ? [{ code: "book-sheet" as const, values: { sheet: found.sheet, others } }] : []),
    ...(above > 0 ? [{ code: "book-above" as const, values: { rows: above } }] : []),
    ...oddities(sheets.find((s) => s.name === found.sheet)?.xml ?? "").filter(
      (r) => !(ours && r.code === "book-hidden" && r.values.columns === 0 && r.values.rows === 1),
    ),
    ...(dates > 0 ? [{ code: "book-dates" as const, values: { cells: dates } }] : []),
    ...(macros ? [{ code: "book-macros" as const, values: {} }] : []),
  ];
  const text = Papa.unparse(
    rows.slice(ours ? 1 : first).map((r) => r.map(textOf)),
    { delimiter: "\t", newline: "\n" },
  );
  return { sheets: names, sheet: found.sheet, text, remarks };
}
