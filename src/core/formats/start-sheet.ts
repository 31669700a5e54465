import { cellAt, type Edit, edit } from "../study/edit";
import { reviseStudy } from "../study/revise";
import { type Factor, MOST_REPEATS, type Study } from "../study/schema";
import { nextLetter } from "../study/validate";
import type { ColumnValues } from "../words/english/typed";
import type { Said } from "../words/said";
import type { ColumnUse } from "./columns";
import { readNumber, readSheet } from "./csv";
import { waveFromRows } from "./foreign-wave";
import { readHeading, repeatNumbers } from "./heading";
import { freshId } from "./phrases";
import { readResultCell } from "./result-cell";

/** What a column of a sheet is taken for where a study begins with it. */
export const ROLES = ["factor", "response", "covariate", "order", "note", "left-out"] as const;
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
  /** Why it is left out, or what is odd about it. */
  why?: Said<ColumnValues>;
}

/** A sheet as a study may begin with it. */
export interface StartSheet {
  rows: string[][];
  decimal: "." | ",";
  columns: StartColumn[];
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

const ORDER = /^(run|order|run order|trial|trial no\.?|no\.?|nr\.?|number|#)$/i;
const NOTE = /^(note|notes|remark|remarks|comment|comments)$/i;
/** Levels of a category, and settings of a factor, that a guess still believes in. */
const MOST_LEVELS = 12;
const MOST_SETTINGS = 9;

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

/** What a column looks like by itself. */
function looked(heading: string, cells: readonly string[], decimal: "." | ","): StartColumn {
  const about = { heading, ...readHeading(heading) };
  const filled = cells.filter((c) => c !== "");
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
    if (ORDER.test(heading.trim()) && numbers.length === filled.length && numbers.every(Number.isInteger))
      return { ...about, role: "order", numbers };
    if (numbers.length === 1)
      return {
        ...about,
        role: "left-out",
        numbers,
        why: { code: "column-constant", values: { value: String(numbers[0]) } },
      };
    const settings = numbers.length <= MOST_SETTINGS && numbers.length <= filled.length / 2;
    return { ...about, role: settings ? "factor" : "response", numbers };
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
  const { rows, decimal } = readSheet(text);
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
  return { rows, decimal, columns };
}

/** The definition that a factor's column gives. */
function factorOf(column: StartColumn, id: string, letter: string): Factor {
  const head = { id, letter, name: column.name, change: "easy" as const };
  if (column.words) return { ...head, kind: "categorical", levels: column.words };
  const numbers = column.numbers ?? [];
  return {
    ...head,
    ...(column.unit ? { unit: column.unit } : {}),
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
export function startFrom(study: Study, sheet: StartSheet, wave: string): Start {
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
    if (known === undefined) edits.push(edit(study, ["responses", id], measured));
    return { to: "result", id, repeat: Math.min(MOST_REPEATS, repeat) };
  });
  const defined = reviseStudy(study, edits);
  const plain = (x: object): Edit["to"] => JSON.parse(JSON.stringify(x)) as Edit["to"];
  // As the study keeps them, so that what takes them back finds what it expects.
  const whole = edits.map((e): Edit => ({ ...e, to: plain(cellAt(defined, e.path) as object) }));
  const at = columns.findIndex((c) => c.role === "order");
  const [header, ...body] = sheet.rows;
  const rank = (row: string[]): number => Number(readNumber(row[at] ?? "", decimal) ?? Number.NaN);
  const ordered = at < 0 ? body : [...body].sort((a, b) => rank(a) - rank(b));
  const read = waveFromRows(defined, { rows: [header, ...ordered], decimal }, uses, wave);
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
    problems: read.problems,
  };
}
