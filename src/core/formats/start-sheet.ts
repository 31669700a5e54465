import { readResultCell } from "../kinds/repeats";
import type { Message } from "../messages/message";
import type { ColumnValues } from "../messages/typed";
import { readNumber } from "../numerics/read-number";
import { cellAt, type Edit, edit } from "../study/edit";
import { reviseStudy } from "../study/revise";
import { type Factor, MOST_REPEATS, type Study } from "../study/schema";
import { nextLetter } from "../study/validate";
import type { ColumnUse } from "./columns";
import { readHeaded } from "./csv";
import { waveFromRows } from "./foreign-wave";
import { isOrderHeading, readHeading, repeatNumbers } from "./heading";
import { freshId } from "./phrases";

/** What a column of a sheet is taken for where a study begins with it. */
export const ROLES = ["factor", "response", "covariate", "order", "note", "left-out"] as const;
/** One of them. */
export type Role = (typeof ROLES)[number];

/** A column with what it looks like and what it may stand for. */
export interface StartColumn {
  heading: string;
  /** Heading without unit and number of the repeat. */
  name: string;
  unit: string;
  role: Role;
  /** Which measurement of its response it is, from 1; 0 where there is only one. */
  repeat: number;
  /** Numbers in rising order, or words as they first stand; each once. */
  numbers?: number[];
  words?: string[];
  /** Pieces of most trials, where every cell is so many of so many, as 3/50: a share. */
  of?: number;
  /** The step of a factor's settings, as far as they tell; none where they do not. */
  step?: number;
  /** Why it is left out, or what is odd about it. */
  why?: Message<ColumnValues>;
}

/** A sheet as a study may begin with it. */
export interface StartSheet {
  rows: string[][];
  decimal: "." | ",";
  /** Rows that stood above the headings. */
  above: number;
  columns: StartColumn[];
  /** Where several rows have one trial number: how many rows, and of how many trials. */
  again?: { rows: number; trials: number };
}

/** What a study would begin with, as edits; the wave's rows that are not taken are named. */
export interface Start {
  edits: Edit[];
  factors: number;
  responses: number;
  trials: number;
  withResults: number;
  problems: ReturnType<typeof waveFromRows>["problems"];
}

const NOTE = /^(note|notes|remark|remarks|comment|comments)$/i;
/** Levels of a category, and settings of a factor, that a guess still believes in. */
const MOST_LEVELS = 12;
const MOST_SETTINGS = 9;

/** Settings of a range, at least, that a step may have: a coarser one would be a guess at the plan, not the machine. */
const LEAST_STEPS = 8;

/**
 * The step that settings seem to have: the largest power of ten, or half of one below 1, that divides them all and
 * leaves a range of some steps. Coded columns have none.
 */
export function stepOf(numbers: readonly number[]): number | undefined {
  const range = numbers[numbers.length - 1] - numbers[0];
  if (numbers.includes(-1) && numbers.includes(1) && numbers.every((v) => Math.abs(v) < 3)) return undefined;
  const divides = (step: number): boolean =>
    numbers.every((v) => Math.abs(v / step - Math.round(v / step)) < 1e-6) && range / step >= LEAST_STEPS;
  for (let power = 6; power >= -6; power--) {
    const ten = Number(`1e${power}`);
    if (divides(ten)) return ten;
    const half = Number(`5e${power - 1}`);
    if (power <= 0 && divides(half)) return half;
  }
  return undefined;
}

/** Whether one column is the other in coded units: the same order of the same rows, on a line, between −1 and 1. */
function isTwin(coded: readonly (number | null)[], natural: readonly (number | null)[]): boolean {
  const pairs = coded.flatMap((c, i): [number, number][] => {
    const n = natural[i];
    return c === null || n === null ? [] : [[c, n]];
  });
  const low = pairs.find(([c]) => c === -1);
  const high = pairs.find(([c]) => c === 1);
  if (!low || !high || low[1] === high[1]) return false;
  const half = (high[1] - low[1]) / 2;
  const middle = (high[1] + low[1]) / 2;
  return (
    !(low[1] === -1 && high[1] === 1) &&
    pairs.every(([c, n]) => Math.abs(n - (middle + c * half)) <= 1e-6 * Math.abs(half))
  );
}

/** So many of so many, in whole pieces. */
const PAIR = /^(\d+)\s*(?:\/|of)\s*(\d+)$/i;

/** Pieces of most trials where every cell counts some of them; undefined where one does not. */
function piecesOf(filled: readonly string[]): number | undefined {
  const pairs = filled.map((c) => PAIR.exec(c.trim())?.slice(1).map(Number));
  if (pairs.length === 0 || !pairs.every((p) => p && p[1] > 1 && p[0] <= p[1])) return undefined;
  const often = new Map<number, number>();
  for (const p of pairs) if (p) often.set(p[1], (often.get(p[1]) ?? 0) + 1);
  return [...often].sort((a, b) => b[1] - a[1])[0][0];
}

/** What a column looks like by itself. */
function looked(heading: string, cells: readonly string[], decimal: "." | ","): StartColumn {
  const about = { heading, ...readHeading(heading) };
  // “n/a” is a cell that was left empty, said in a word.
  const filled = cells.filter((c) => readNumber(c, decimal) !== null);
  const of = piecesOf(filled);
  if (of !== undefined) return { ...about, role: "response", of, words: [...new Set(filled)] };
  // Several numbers in one cell are measurements of one trial.
  const several = filled.flatMap((c): (number | null)[] => {
    const read = readResultCell(c, decimal);
    return read.ok && Array.isArray(read.value) ? read.value : [];
  });
  if (several.length > 0 && filled.every((c) => readResultCell(c, decimal).ok)) {
    const numbers = several.filter((v): v is number => v !== null);
    return { ...about, role: "response", numbers: [...new Set(numbers)].sort((a, b) => a - b) };
  }
  const numeric = cells.filter((c) => typeof readNumber(c, decimal) === "number");
  // A word or two among numbers is a cell that went wrong, not a column of remarks.
  const odd = filled.filter((c) => readNumber(c, decimal) === undefined);
  if (numeric.length > 2 && odd.length > 0 && odd.length <= filled.length / 4)
    return {
      ...looked(heading, numeric, decimal),
      why: { code: "column-odd", values: { cells: odd.length, such: odd[0] } },
    };
  if (filled.length === 0) return { ...about, role: "left-out", why: { code: "column-empty", values: {} } };
  const read = filled.map((c) => readNumber(c, decimal));
  if (read.every((v): v is number => typeof v === "number")) {
    const numbers = [...new Set(read)].sort((a, b) => a - b);
    // Numbers that come again, all of them about as often, number trials of which there are several rows.
    const often = filled.length / numbers.length;
    const again = often >= 2 && numbers.length >= 4 && numbers[0] >= 0;
    if (isOrderHeading(heading) && (often === 1 || again) && numbers.every(Number.isInteger))
      return { ...about, role: "order", numbers };
    if (numbers.length === 1)
      return {
        ...about,
        role: "left-out",
        numbers,
        why: { code: "column-constant", values: { value: String(numbers[0]) } },
      };
    const settings = numbers.length <= MOST_SETTINGS && numbers.length <= filled.length / 2;
    if (!settings) return { ...about, role: "response", numbers };
    const step = stepOf(numbers);
    return { ...about, role: "factor", numbers, ...(step === undefined ? {} : { step }) };
  }
  const words = [...new Set(filled)];
  if (NOTE.test(heading.trim()) || words.length > Math.min(MOST_LEVELS, filled.length / 2))
    return { ...about, role: "note", words };
  return words.length === 1
    ? { ...about, role: "left-out", words, why: { code: "column-constant", values: { value: words[0] } } }
    : { ...about, role: "factor", words };
}

/**
 * Reads a sheet that a study may begin with and guesses what each column is: settings come back, results hardly do,
 * words that come back are levels. A coded twin of another column is left out; columns that differ in a number are
 * repeats of one response.
 * @throws StudyError as `readSheet`
 */
export function startSheet(text: string): StartSheet {
  const { rows, decimal, above } = readHeaded(text);
  const [header, ...body] = rows;
  const cells = header.map((_, i) => body.map((r) => r[i] ?? ""));
  const columns = header.map((heading, i) => looked(heading, cells[i], decimal));
  const numbers = cells.map((column) => column.map((c) => readNumber(c, decimal) ?? null));
  columns.forEach((column, i) => {
    if (column.role !== "factor" || !column.numbers) return;
    const of = columns.findIndex(
      (c, j) => j !== i && c.numbers !== undefined && c.role === "factor" && isTwin(numbers[i], numbers[j]),
    );
    if (of >= 0) {
      column.role = "left-out";
      column.why = { code: "column-twin", values: { of: columns[of].name } };
    }
  });
  // One number behind a name counts repeats only where another column has the name too; identical headings are counted.
  const named = new Map<string, StartColumn[]>();
  for (const c of columns) {
    const key = c.name.toLowerCase();
    if (c.role === "response") named.set(key, [...(named.get(key) ?? []), c]);
  }
  for (const [, group] of named) {
    if (group.length === 1) {
      group[0].repeat = 0;
      group[0].name = group[0].heading.replace(/\s*[([][^()[\]]*[^()[\]\d\s][^()[\]]*[)\]]/, "").trim();
    } else {
      const numbers = repeatNumbers(group.map((c) => c.repeat));
      group.forEach((c, k) => {
        c.repeat = numbers[k];
      });
    }
  }
  const at = columns.findIndex((c) => c.role === "order");
  const trials = at < 0 ? 0 : (columns[at].numbers?.length ?? 0);
  const filled = at < 0 ? 0 : cells[at].filter((c) => c !== "").length;
  return { rows, decimal, above, columns, ...(filled > trials ? { again: { rows: filled, trials } } : {}) };
}

/** A row of a sheet with its number there. */
interface Numbered {
  row: number;
  cells: string[];
}

/**
 * Rows of one trial as one row, their results behind each other; a row that says other settings than the first of its
 * trial is left out and named.
 */
function gathered(
  rows: readonly Numbered[],
  columns: readonly StartColumn[],
  orderOf: (cells: readonly string[]) => number,
): { rows: Numbered[]; problems: Start["problems"] } {
  const out = new Map<number, Numbered>();
  const problems: Start["problems"] = [];
  for (const { row, cells } of rows) {
    const order = orderOf(cells);
    const first = out.get(order);
    if (!first || Number.isNaN(order)) {
      out.set(Number.isNaN(order) ? -row : order, { row, cells: [...cells] });
      continue;
    }
    if (columns.some((c, i) => c.role === "factor" && (cells[i] ?? "") !== (first.cells[i] ?? ""))) {
      problems.push({ row, said: { code: "row-other-settings", values: { row, order } } });
      continue;
    }
    columns.forEach((c, i) => {
      if (c.role === "response" && c.of !== undefined) first.cells[i] = together(first.cells[i], cells[i]);
      else if (c.role === "response") first.cells[i] = [first.cells[i] || "NA", cells[i] || "NA"].join("; ");
      else if (c.role === "note" && cells[i]) first.cells[i] = [first.cells[i], cells[i]].filter(Boolean).join("; ");
    });
  }
  return { rows: [...out.values()], problems };
}

/** Two counts of one trial, added up. */
function together(first: string | undefined, second: string | undefined): string {
  const pairs = [first, second].flatMap((c) => {
    const p = PAIR.exec((c ?? "").trim());
    return p ? [[Number(p[1]), Number(p[2])]] : [];
  });
  return pairs.length === 0 ? "" : pairs.reduce(([a, b], [k, n]) => [a + k, b + n]).join("/");
}

/** The definition that a factor's column gives. */
function factorOf(column: StartColumn, id: string, letter: string): Factor {
  const head = { id, letter, name: column.name, change: "easy" as const };
  if (column.words) return { ...head, kind: "categorical", levels: column.words };
  const numbers = column.numbers ?? [];
  return {
    ...head,
    ...(column.unit ? { unit: column.unit } : {}),
    ...(column.step === undefined ? {} : { step: column.step }),
    kind: "continuous",
    scale: "linear",
    low: numbers[0],
    high: numbers[numbers.length - 1],
  };
}

/**
 * What a study would begin with where its columns stand for what is said: factors, responses, covariates and one wave
 * with a trial per row, in the order of the column that says it.
 * @throws StudyError as the study refuses it, or `no-rows` where no row can be read
 */
export function startFrom(
  study: Study,
  sheet: StartSheet,
  wave: string,
  { rowsAreRepeats = false }: { rowsAreRepeats?: boolean } = {},
): Start {
  const { columns, decimal } = sheet;
  const taken = new Set([...study.factors, ...study.responses, ...study.covariates].map((x) => x.id));
  const letters = new Set(study.factors.map((f) => f.letter));
  const ids = new Map<string, string>();
  const edits: Edit[] = [];
  const idOf = (name: string): string => {
    const id = freshId(name, taken);
    taken.add(id);
    return id;
  };
  const uses = columns.map((column): ColumnUse => {
    const { role, name, unit, repeat } = column;
    if (role === "order" || role === "note") return { to: role };
    if (role === "left-out") return { to: "ignored" };
    const key = `${role} ${name.toLowerCase()}`;
    const known = role === "response" ? ids.get(key) : undefined;
    const id = known ?? idOf(name || "column");
    ids.set(key, id);
    if (role === "factor") {
      const letter = nextLetter(letters);
      letters.add(letter);
      edits.push(edit(study, ["factors", id], factorOf(column, id, letter)));
      return { to: "setting", id };
    }
    const measured = { id, name: name || id, ...(unit ? { unit } : {}) };
    if (role === "covariate") {
      edits.push(edit(study, ["covariates", id], measured));
      return { to: "covariate", id };
    }
    const share = column.of === undefined ? {} : { measured: "share", of: column.of };
    if (known === undefined) edits.push(edit(study, ["responses", id], { ...measured, ...share }));
    return { to: "result", id, repeat: Math.min(MOST_REPEATS, repeat) };
  });
  const defined = reviseStudy(study, edits);
  const plain = (x: object): Edit["to"] => JSON.parse(JSON.stringify(x)) as Edit["to"];
  // As the study keeps them, so that what takes them back finds what it expects.
  const whole = edits.map((e): Edit => ({ ...e, to: plain(cellAt(defined, e.path) as object) }));
  const at = columns.findIndex((c) => c.role === "order");
  const [header, ...body] = sheet.rows;
  const rank = (cells: readonly string[]): number => Number(readNumber(cells[at] ?? "", decimal) ?? Number.NaN);
  const numbered = body.map((cells, i): Numbered => ({ row: sheet.above + i + 2, cells }));
  const { rows: each, problems } =
    at >= 0 && rowsAreRepeats ? gathered(numbered, columns, rank) : { rows: numbered, problems: [] };
  const ordered = at < 0 ? each : [...each].sort((a, b) => rank(a.cells) - rank(b.cells));
  const numbers = ordered.map((r) => r.row);
  const read = waveFromRows(defined, { rows: [header, ...ordered.map((r) => r.cells)], decimal, numbers }, uses, wave);
  return {
    edits: [
      ...whole,
      { path: ["waves", read.wave.id], from: null, to: plain(read.wave) },
      ...read.trials.map((t): Edit => ({ path: ["trials", t.id], from: null, to: plain(t) })),
    ],
    factors: uses.filter((u) => u.to === "setting").length,
    responses: new Set(uses.flatMap((u) => (u.to === "result" ? [u.id] : []))).size,
    trials: read.trials.length,
    withResults: read.withResults,
    problems: [...problems, ...read.problems].sort((a, b) => a.row - b.row),
  };
}
