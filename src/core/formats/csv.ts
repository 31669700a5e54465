import Papa from "papaparse";
import { kindOf } from "../kinds/results";
import { readNumber } from "../numerics/read-number";
import { adoptPlan } from "../plans/adopt";
import type { Plan } from "../plans/plan";
import { measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import type { Response, Result, Study } from "../study/schema";
import { guarded, unguarded } from "./formula-guard";
import { MOST_SHEET } from "./limits";

/** Most characters that an import looks at. */
const MOST_CHARACTERS = 20_000_000;

const repeatsOf = (study: Study, response: string): number =>
  study.trials.reduce((m, t) => {
    const r = t.results[response];
    return Math.max(m, Array.isArray(r) ? r.length : 1);
  }, 1);

/** Most repeats that have a column each; more stand several to a cell, as many as a spreadsheet's cell holds. */
const MOST_COLUMNS = 50;
const A_CELL = 1000;

/** Values of one cell; with one that is missing between them its place is kept. */
function cellOf(values: readonly (number | null)[]): LedgerCell {
  if (values.length === 1) return values[0];
  return values.length === 0 ? null : values.map((v) => v ?? "NA").join("; ");
}

const safe = (value: Cell): string => (typeof value === "string" ? guarded(value) : String(value ?? ""));

/** A column of the ledger as it leaves the house. */
export interface LedgerColumn {
  /** Unmistakable: what an import finds it by. */
  id: string;
  /** For people: name and unit. */
  name: string;
  unit: string;
}
type LedgerCell = string | number | null;

/** The columns that a kind of response has of its own, in place of one for each repeat. */
const ownColumns = (study: Study, r: Response) =>
  kindOf(r)
    .columns(
      r,
      study.trials.map((t) => t.results[r.id]),
    )
    ?.map(({ suffix, unit, cell }) => ({
      cell: (result: Result): LedgerCell => cell(result),
      of: r.id,
      column: { id: `${r.id}${suffix}`, name: `${r.name}${suffix}`, unit },
    }));

/** The whole ledger in run order, full precision: a row a trial, repeats in columns of their own. */
export function ledgerTable(study: Study): { columns: LedgerColumn[]; rows: LedgerCell[][] } {
  const own = (id: string): LedgerColumn => ({ id, name: id, unit: "" });
  const asRun = study.factors.filter((f) => study.trials.some((t) => t.asRun?.[f.id] !== undefined));
  const results = measuredResponses(study).flatMap((r) => {
    const whole = ownColumns(study, r);
    if (whole) return whole;
    const most = repeatsOf(study, r.id);
    const each = most > MOST_COLUMNS ? A_CELL : 1;
    const n = Math.ceil(most / each);
    return Array.from({ length: n }, (_, i) => ({
      cell(result: Result): LedgerCell {
        if (Array.isArray(result)) return cellOf(result.slice(i * each, (i + 1) * each));
        return i === 0 && typeof result === "number" ? result : null;
      },
      of: r.id,
      column: {
        id: n === 1 ? r.id : `${r.id}.${i + 1}`,
        name: n === 1 ? r.name : `${r.name} ${i + 1}`,
        unit: r.unit ?? "",
      },
    }));
  });
  const unitOf = (f: Study["factors"][number]): string => ("unit" in f ? (f.unit ?? "") : "");
  const setups = study.trials.some((t) => t.setup !== undefined);
  const columns = [
    ...["order", "standard", "wave", ...(setups ? ["setup"] : []), "kind", "state"].map(own),
    ...study.factors.map((f) => ({ id: f.id, name: f.name, unit: unitOf(f) })),
    ...asRun.map((f) => ({ id: `${f.id} (as run)`, name: `${f.name} (as run)`, unit: unitOf(f) })),
    ...study.covariates.map((c) => ({ id: c.id, name: c.name, unit: c.unit ?? "" })),
    ...results.map((r) => r.column),
    ...["note", "trial id"].map(own),
  ];
  const rows = [...study.trials]
    .sort((a, b) => a.order - b.order)
    .map((t): LedgerCell[] => [
      t.order,
      t.standard,
      t.wave,
      ...(setups ? [t.setup ?? null] : []),
      t.kind,
      t.state,
      ...study.factors.map((f) => t.settings[f.id] ?? null),
      ...asRun.map((f) => t.asRun?.[f.id] ?? null),
      ...study.covariates.map((c) => t.covariates?.[c.id] ?? null),
      ...results.map(({ of, cell }) => cell(t.results[of] ?? null)),
      t.note,
      t.id,
    ]);
  return { columns, rows };
}

/** The whole ledger in run order as comma-separated text (RFC 4180), full precision. */
export function ledgerCsv(study: Study): string {
  const { columns, rows } = ledgerTable(study);
  return csvOf(
    columns.map((c) => c.id),
    rows,
  );
}

type Cell = string | number | null | undefined;

/**
 * Rows as text that leaves the house, the only way there is: no cell runs as a formula where it is opened.
 *
 * @param separator a comma for files (RFC 4180), a tab for what is pasted into a spreadsheet
 */
export const rowsText = (rows: readonly (readonly Cell[])[], separator: "," | "\t"): string =>
  Papa.unparse(
    rows.map((r) => r.map(safe)),
    { delimiter: separator, newline: separator === "," ? "\r\n" : "\n" },
  );

/** Rows under headings as comma-separated text. */
export const csvOf = (fields: readonly string[], rows: readonly (readonly Cell[])[]): string =>
  `${rowsText([fields, ...rows], ",")}\r\n`;

/** Text split into rows of cells, with what was recognised. */
export interface Sheet {
  rows: string[][];
  separator: string;
  decimal: "." | ",";
}

/** A line of one number with a decimal comma, or of one without decimals. */
const WITH_COMMA = /^\s*[-+\u2212]?\d+(,\d+)?\s*$/;

/**
 * The separator of a sheet: the one of tab, semicolon, comma that gives the most even rows. Lines that are each one
 * number with a decimal comma are a column: taken for two, the decimals of each would be cut off.
 */
function separatorOf(lines: readonly string[]): string {
  if (lines.every((l) => l.trim() === "" || WITH_COMMA.test(l))) return "\t";
  const count = (sep: string): number[] => lines.map((l) => l.replace(/"[^"]*"/g, "").split(sep).length - 1);
  return (
    ["\t", ";", ","].find((sep) => {
      const c = count(sep);
      return c[0] > 0 && c.every((v) => v === c[0]);
    }) ??
    ["\t", ";", ","].find((sep) => count(sep)[0] > 0) ??
    "\t"
  );
}

/**
 * Splits pasted or imported text. A decimal comma is recognised where the separator is not a comma.
 * @throws StudyError for empty, oversized or binary text
 */
export function readSheet(text: string): Sheet {
  if (text.length > MOST_CHARACTERS)
    throw new StudyError("too-large.text", { characters: text.length, most: MOST_CHARACTERS });
  const body = text.replace(/^\uFEFF/, "").replace(/\s+$/, "");
  if (body === "") throw new StudyError("empty-sheet.text", {});
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what tells a binary file.
  if (/[\u0000-\u0008\u000E-\u001F\uFFFD]/.test(body)) throw new StudyError("not-text", {});
  const separator = separatorOf(body.split(/\r\n|\r|\n/).slice(0, 50));
  const parsed = Papa.parse<string[]>(body, { delimiter: separator, skipEmptyLines: "greedy" });
  if (parsed.data.length === 0) throw new StudyError("empty-sheet.cells", {});
  if (parsed.data.length > MOST_SHEET.rows)
    throw new StudyError("too-large.rows", { rows: parsed.data.length, most: MOST_SHEET.rows });
  const rows = parsed.data.map((r) => r.map((c) => unguarded(c.trim())));
  // Most cells decide: a value typed the other way is one of them still.
  const written = { ",": 0, ".": 0 };
  for (const c of rows.flat()) {
    const mark = /^[-+]?\d+([.,])\d+$/.exec(c)?.[1];
    if (mark === "," || mark === ".") written[mark]++;
  }
  return { rows, separator, decimal: separator !== "," && written[","] > written["."] ? "," : "." };
}

/** Rows above the headings that are looked for at most. */
const MOST_ABOVE = 5;

/**
 * A sheet whose first row is its headings: titles and headings of several columns that stand above, as merged cells
 * leave them, are counted and left out. Such a row has half the cells of the next or fewer, and that one has words
 * alone.
 * @throws StudyError as `readSheet`
 */
export function readHeaded(text: string): Sheet & { above: number } {
  const sheet = readSheet(text);
  const filled = (row: readonly string[] | undefined): string[] => (row ?? []).filter((c) => c !== "");
  let above = 0;
  while (above < MOST_ABOVE && sheet.rows.length > above + 2) {
    const [own, next] = [filled(sheet.rows[above]), filled(sheet.rows[above + 1])];
    if (own.length > next.length / 2 || next.some((c) => typeof readNumber(c) === "number")) break;
    above++;
  }
  return { ...sheet, rows: sheet.rows.slice(above), above };
}

/** A plan's trials as a run sheet: the ledger's CSV of these trials alone, before they are adopted. */
export const planCsv = (study: Study, plan: Plan): string => {
  const ids = new Set(plan.trials.map((t) => t.id));
  const adopted = adoptPlan(study, plan);
  return ledgerCsv({ ...adopted, trials: adopted.trials.filter((t) => ids.has(t.id)) });
};
