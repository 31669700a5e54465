import { placed, readResultCell } from "../kinds/repeats";
import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { RowValues } from "../messages/typed";
import { readNumber } from "../numerics/read-number";
import { measuredResponses, sameSetting } from "../study/coding";
import { type Edit, editsOf } from "../study/edit";
import { StudyError } from "../study/error";
import { normaliseResult } from "../study/measured";
import { enterResults } from "../study/results";
import { activeFactors } from "../study/roles";
import type { Factor, Response, Result, Setting, Settings, Study, Trial } from "../study/schema";
import {
  type ColumnUse,
  matchColumns,
  type ReadRepeats,
  readSetting,
  refuseSameHeadings,
  repeatsRead,
  setupNumber,
  type UntakenColumn,
  untakenOf,
} from "./columns";
import { readHeaded } from "./csv";

/** One value that would be written, with what stood there. */
export interface ImportedValue {
  trial: string;
  order: number;
  response: string;
  before: Result;
  after: Result;
}

/** What was really set, or measured beside the settings, with what stood there. */
export interface ImportedSetting {
  trial: string;
  order: number;
  to: "asRun" | "covariates";
  /** The factor or the covariate. */
  id: string;
  before: Setting | null;
  after: Setting;
}

/** One change that a sheet would make: of a response, of what was really set, of a covariate, or of the note. */
export interface SheetChange {
  trial: string;
  response?: string;
  asRun?: string;
  covariate?: string;
  note?: true;
  setup?: true;
  from: Result | Setting;
  to: Result | Setting;
}

/** What a sheet would do to a ledger, shown before anything is taken. */
export interface ImportPreview {
  by: "trial id" | "trial number" | "settings";
  values: ImportedValue[];
  settings: ImportedSetting[];
  notes: { trial: string; order: number; after: string }[];
  /** Set-ups of hard factors that trials are said to belong to. */
  setups: { trial: string; order: number; before: number | null; after: number }[];
  matched: { row: number; trial: string; order: number }[];
  problems: { row: number; said: Message<RowValues> }[];
  untaken: UntakenColumn[];
  /** Columns read as repeats of one response. */
  repeats: ReadRepeats[];
  /** Rows of trials that stood in an earlier row: repeats where that was asked for, else left out. */
  again: number;
  /** Everything that would be written, in one list. */
  changes: SheetChange[];
  separator: string;
  decimal: "." | ",";
}

/** A result as text, repeats that are missing at the end left out. */
function comparable(result: Result): string {
  const values = Array.isArray(result) ? [...result] : [result];
  while (values.length > 1 && values[values.length - 1] === null) values.pop();
  return JSON.stringify(values);
}

/** All that a preview would write, in one list. */
function changesOf(
  study: Study,
  values: readonly ImportedValue[],
  settings: readonly ImportedSetting[],
  notes: ImportPreview["notes"],
  setups: ImportPreview["setups"],
): SheetChange[] {
  const noted = new Map(study.trials.map((t) => [t.id, t.note]));
  return [
    ...values.map((v) => ({ trial: v.trial, response: v.response, from: v.before, to: v.after })),
    ...settings.map((s) => ({
      trial: s.trial,
      ...(s.to === "asRun" ? { asRun: s.id } : { covariate: s.id }),
      from: s.before,
      to: s.after,
    })),
    ...notes.map((n) => ({
      trial: n.trial,
      note: true as const,
      from: noted.get(n.trial) ?? null,
      to: n.after,
    })),
    ...setups.map((s) => ({ trial: s.trial, setup: true as const, from: s.before, to: s.after })),
  ];
}

/** Edits of an import that was looked at and taken. */
export function importEdits(
  study: Study,
  preview: Pick<ImportPreview, "values" | "settings" | "notes" | "setups">,
): Edit[] {
  const edit = editsOf(study);
  return [
    ...enterResults(
      study,
      preview.values.map((v) => ({ trial: v.trial, response: v.response, value: v.after })),
    ),
    ...preview.settings.map((s) => edit(["trials", s.trial, s.to, s.id], s.after)),
    ...preview.notes.map((n) => edit(["trials", n.trial, "note"], n.after)),
    ...preview.setups.map((s) => edit(["trials", s.trial, "setup"], s.after)),
  ];
}

/** How the rows of a sheet find their trials. */
interface Matching {
  study: Study;
  uses: readonly ColumnUse[];
  decimal: "." | ",";
  /** Columns of settings, which must not contradict the trial. */
  settingsAt: { i: number; factor: Factor }[];
  by: ImportPreview["by"];
  ordered: readonly Trial[];
  /** Trials by what names them in the sheet: their id, their number, or their settings as they are written. */
  named: ReadonlyMap<string, readonly Trial[]>;
  rowsAreRepeats: boolean;
}

/** How a sheet is read where it could be read in two ways. */
export interface SheetOptions {
  /** Several rows of one trial are its repeats; else the first row is taken and the others are left out. */
  rowsAreRepeats?: boolean;
}

/** Why a row, or a cell of it, is not taken. */
type Refused = { refused: Message<RowValues>; again?: boolean };
/** The trial of a row, and whether an earlier row was of it. */
type Found = { trial: Trial; again: boolean };

/** The settings a row names; a refusal for the first cell that is none. */
function rowSettings(
  { settingsAt, decimal }: Matching,
  cells: readonly string[],
  row: number,
): Refused | { settings: Settings } {
  const settings: Settings = {};
  for (const { i, factor } of settingsAt) {
    if ((cells[i] ?? "") === "") continue;
    const v = readSetting(factor, cells[i], decimal);
    if (v === undefined)
      return { refused: { code: "row-no-setting", values: { row, text: cells[i], factor: factor.name } } };
    settings[factor.id] = v;
  }
  return { settings };
}

/** Settings as a name: of the factors that the sheet has, as they are written. */
const settingsKey = ({ settingsAt }: Pick<Matching, "settingsAt">, settings: Settings): string =>
  settingsAt.map(({ factor }) => String(settings[factor.id])).join("|");

/** The trial of a row: by its id or number, checked against the settings it names, else by these; or why none. */
function rowTrial(match: Matching, cells: readonly string[], row: number, taken: ReadonlySet<string>): Refused | Found {
  const { uses, settingsAt, by, ordered, decimal } = match;
  const named = rowSettings(match, cells, row);
  if ("refused" in named) return named;
  const { settings } = named;
  const fits = (t: Trial): boolean =>
    settingsAt.every(
      ({ factor }) =>
        settings[factor.id] === undefined || sameSetting(factor, settings[factor.id], t.settings[factor.id]),
    );
  if (by === "settings") {
    // Replicates share settings: rows go to them in run order, one row a trial.
    const alike = match.named.get(settingsKey(match, settings)) ?? [];
    // Settings written otherwise may still be the same: 0.1 + 0.2 and 0.3.
    const fitting = alike.some((t) => !taken.has(t.id)) ? alike : ordered.filter(fits);
    const free = fitting.find((t) => !taken.has(t.id));
    if (free) return { trial: free, again: false };
    // Only where one trial alone has these settings is it plain whose repeats these are.
    if (fitting.length === 1) return againOf(match, fitting[0], row, "row-no-place");
    return { refused: { code: "row-no-place", values: { row, taken: fitting.length > 0 } } };
  }
  const cellOf = (to: ColumnUse["to"]): string => cells[uses.findIndex((u) => u.to === to)] ?? "";
  const number = readNumber(cellOf("order"), decimal);
  const name = by === "trial id" ? cellOf("id") : cellOf("order");
  const [trial] = match.named.get(by === "trial id" ? name : String(number)) ?? [];
  if (!trial) return { refused: { code: "row-no-trial", values: { row, named: name } } };
  const { order } = trial;
  if (by === "trial id" && typeof number === "number" && order !== number)
    return { refused: { code: "row-other-number", values: { row, trial: trial.id, order, number: String(number) } } };
  if (!fits(trial)) return { refused: { code: "row-other-settings", values: { row, order } } };
  return taken.has(trial.id) ? againOf(match, trial, row, "row-twice") : { trial, again: false };
}

/** A row of a trial that an earlier row was of. */
const againOf = (
  { rowsAreRepeats }: Matching,
  trial: Trial,
  row: number,
  code: "row-twice" | "row-no-place",
): Refused | Found =>
  rowsAreRepeats
    ? { trial, again: true }
    : {
        again: true,
        refused:
          code === "row-twice" ? { code, values: { row, order: trial.order } } : { code, values: { row, taken: true } },
      };

/** What rows give, gathered as they are read. */
interface Gathered {
  problems: ImportPreview["problems"];
  notes: Map<string, ImportPreview["notes"][number]>;
  setups: Map<string, ImportPreview["setups"][number]>;
  settings: Map<string, ImportedSetting>;
  results: Map<string, { trial: Trial; response: string; repeats: (number | null)[] }>;
  /** Results that are one whole; those of further rows of a trial are brought together. */
  whole: Map<string, { trial: Trial; about: Response; value: Result }>;
  /** Results of which something could not be read: they are left as they stand, whole. */
  left: Set<string>;
}

/** One cell of what was really set or measured beside: kept where it differs from what stands there. */
function takeSetting(
  { study, decimal }: Matching,
  use: ColumnUse & { to: "asRun" | "covariate" },
  trial: Trial,
  cell: string,
  row: number,
  into: Gathered,
): void {
  const factor = study.factors.find((f) => f.id === use.id);
  const asRun = use.to === "asRun";
  const v = asRun && factor ? readSetting(factor, cell, decimal) : (readNumber(cell, decimal) ?? undefined);
  const to = asRun ? ("asRun" as const) : ("covariates" as const);
  const before = trial[to]?.[use.id] ?? null;
  const key = `${trial.id}|${to}|${use.id}`;
  // What an earlier row of the trial said: there is room for one value.
  const first = into.settings.get(key)?.after;
  if (v === undefined)
    into.problems.push({
      row,
      said: asRun
        ? { code: "cell-no-setting", values: { row, text: cell, factor: factor?.name ?? use.id } }
        : { code: "cell-no-number", values: { row, text: cell } },
    });
  else if (first !== undefined) {
    const what = [...study.factors, ...study.covariates].find((x) => x.id === use.id)?.name ?? use.id;
    if (first !== v)
      into.problems.push({
        row,
        said: {
          code: "row-differs",
          values: { row, order: trial.order, what, first: String(first), text: String(v) },
        },
      });
  }
  // Set as planned is what a trial says by saying nothing.
  else if (v !== (before ?? (asRun ? trial.settings[use.id] : null)))
    into.settings.set(key, { trial: trial.id, order: trial.order, to, id: use.id, before, after: v });
}

/** The set-up a trial belongs to; what several rows of a trial say of it must agree. */
function takeSetup({ decimal }: Matching, trial: Trial, cell: string, row: number, into: Gathered): void {
  const after = setupNumber(cell, decimal);
  const first = into.setups.get(trial.id)?.after;
  if (after === undefined) into.problems.push({ row, said: { code: "row-no-setup", values: { row, text: cell } } });
  else if (first !== undefined && first !== after)
    into.problems.push({
      row,
      said: {
        code: "row-differs",
        values: { row, order: trial.order, what: "set-up", first: String(first), text: String(after) },
      },
    });
  else if (after !== trial.setup)
    into.setups.set(trial.id, { trial: trial.id, order: trial.order, before: trial.setup ?? null, after });
}

/** The notes of several rows of a trial are kept one after another. */
function takeNote(trial: Trial, cell: string, into: Gathered): void {
  const before = into.notes.get(trial.id);
  if (!before) into.notes.set(trial.id, { trial: trial.id, order: trial.order, after: cell });
  else if (!before.after.split("; ").includes(cell)) before.after = `${before.after}; ${cell}`;
}

/** A cell of a result that is one whole, with the cell beside it that belongs to it where the sheet has one. */
function takeWhole(
  { uses, decimal }: Matching,
  about: Response,
  trial: Trial,
  cells: readonly string[],
  at: number,
  row: number,
  into: Gathered,
): void {
  const key = `${trial.id}|${about.id}`;
  const cell = cells[at] ?? "";
  const on = cells[uses.findIndex((u) => u.to === "of" && u.id === about.id)] ?? "";
  const kind = kindOf(about);
  const read = kind.read(cell, about, decimal, on);
  if (!read.ok) {
    into.left.add(key);
    into.problems.push({
      row,
      said: { code: "cell-counted", values: { row, column: about.name, fault: { ...read.fault, text: cell } } },
    });
    return;
  }
  if (read.value === null) return;
  into.whole.set(key, { trial, about, value: kind.together(into.whole.get(key)?.value ?? null, read.value) });
}

/** The cells of a row that belongs to a trial; repeats of a further row stand behind those before. */
function takeCells(match: Matching, trial: Trial, cells: readonly string[], row: number, into: Gathered): void {
  const stood = new Map<string, number>();
  for (const use of match.uses)
    if (use.to === "result") stood.set(use.id, into.results.get(`${trial.id}|${use.id}`)?.repeats.length ?? 0);
  match.uses.forEach((use, i) => {
    const cell = cells[i] ?? "";
    if (use.to === "note" && cell !== "" && cell !== trial.note) takeNote(trial, cell, into);
    if (use.to === "setup" && cell !== "") takeSetup(match, trial, cell, row, into);
    if ((use.to === "asRun" || use.to === "covariate") && cell !== "")
      takeSetting(match, { ...use, to: use.to }, trial, cell, row, into);
    if (use.to !== "result") return;
    const key = `${trial.id}|${use.id}`;
    const about = match.study.responses.find((r) => r.id === use.id);
    if (about && !kindOf(about).several) {
      takeWhole(match, about, trial, cells, i, row, into);
      return;
    }
    const read = readResultCell(cell, match.decimal);
    if (!read.ok) {
      into.left.add(key);
      const column = match.study.responses.find((r) => r.id === use.id)?.name ?? use.id;
      const code = read.why === "either" ? "cell-either" : "cell-no-value";
      into.problems.push({ row, said: { code, values: { row, text: cell, column } } });
      return;
    }
    if (read.value === null) return;
    const entry = into.results.get(key) ?? { trial, response: use.id, repeats: [] };
    entry.repeats = placed(entry.repeats, read.value, use.repeat, stood.get(use.id));
    into.results.set(key, entry);
  });
}

/**
 * How rows can find their trials by these columns.
 * @throws StudyError `no-match-column`
 */
function matchingOf(
  study: Study,
  uses: readonly ColumnUse[],
  decimal: "." | ",",
  { rowsAreRepeats = false }: SheetOptions,
): Matching {
  const settingsAt = uses.flatMap((u, i) =>
    u.to === "setting" ? [{ i, factor: study.factors.find((f) => f.id === u.id) as Factor }] : [],
  );
  const has = (to: ColumnUse["to"]): boolean => uses.some((u) => u.to === to);
  const by = has("id") ? "trial id" : has("order") ? "trial number" : "settings";
  const absent = activeFactors(study).find((f) => !settingsAt.some((s) => s.factor.id === f.id));
  if (by === "settings" && absent) throw new StudyError("no-match-column.trials", { factor: absent.name });
  const ordered = [...study.trials].sort((a, b) => a.order - b.order);
  const nameOf = (t: Trial): string =>
    by === "trial id" ? t.id : by === "trial number" ? String(t.order) : settingsKey({ settingsAt }, t.settings);
  const named = new Map<string, Trial[]>();
  for (const t of ordered) {
    const alike = named.get(nameOf(t));
    if (alike) alike.push(t);
    else named.set(nameOf(t), [t]);
  }
  return { study, uses, decimal, settingsAt, by, ordered, named, rowsAreRepeats };
}

/**
 * Matches a sheet with a heading row to the trials of a study: by trial id, else by trial number (run order), else by
 * settings; never by row position. Settings in the sheet that contradict the trial named are a problem.
 *
 * @throws StudyError when the sheet has no results, two columns of one meaning, or no way to tell its rows' trials
 */
export function previewImport(study: Study, text: string, reading: SheetOptions = {}): ImportPreview {
  const { rows, separator, decimal, above } = readHeaded(text);
  const uses = matchColumns(study, rows[0]);
  refuseSameHeadings(rows[0], uses);
  if (!uses.some((u) => ["result", "note", "asRun", "covariate", "setup"].includes(u.to)))
    throw new StudyError("no-results-column", {
      responses: measuredResponses(study)
        .slice(0, 3)
        .map((r) => r.name),
    });
  const match = matchingOf(study, uses, decimal, reading);
  const gathered: Gathered = {
    problems: [],
    notes: new Map(),
    setups: new Map(),
    settings: new Map(),
    results: new Map(),
    whole: new Map(),
    left: new Set(),
  };
  const matched: ImportPreview["matched"] = [];
  const taken = new Set<string>();
  let again = 0;
  rows.slice(1).forEach((cells, index) => {
    const row = above + index + 2;
    const found = rowTrial(match, cells, row, taken);
    if (found.again) again++;
    if ("refused" in found) {
      gathered.problems.push({ row, said: found.refused });
      return;
    }
    const { trial } = found;
    taken.add(trial.id);
    matched.push({ row, trial: trial.id, order: trial.order });
    takeCells(match, trial, cells, row, gathered);
  });
  const { problems, results, left } = gathered;
  const notes = [...gathered.notes.values()];
  const setups = [...gathered.setups.values()];
  const settings = [...gathered.settings.values()];
  const values = [...results].flatMap(([key, { trial, response, repeats }]): ImportedValue[] => {
    if (left.has(key)) return [];
    const filled = Array.from(repeats, (v) => v ?? null);
    const after: Result = filled.length === 1 ? filled[0] : filled;
    const before = trial.results[response] ?? null;
    // A repeat that is missing at the end has no cell of its own in a sheet.
    return comparable(before) === comparable(after)
      ? []
      : [{ trial: trial.id, order: trial.order, response, before, after }];
  });
  for (const [key, { trial, about, value }] of gathered.whole) {
    const before = trial.results[about.id] ?? null;
    if (left.has(key) || JSON.stringify(normaliseResult(about, before)) === JSON.stringify(value)) continue;
    values.push({ trial: trial.id, order: trial.order, response: about.id, before, after: value });
  }
  return {
    by: match.by,
    values,
    settings,
    notes,
    setups,
    matched,
    problems,
    // Settings and the trial's id or number tell which trial a row is; all else is taken or named as left aside.
    untaken: untakenOf(rows, uses, ["id", "order", "setting", "result", "of", "note", "asRun", "covariate", "setup"]),
    repeats: repeatsRead(rows[0], uses),
    again,
    changes: changesOf(study, values, settings, notes, setups),
    separator,
    decimal,
  };
}
