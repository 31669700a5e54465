import Papa from "papaparse";
import { adoptPlan } from "../plans/adopt";
import type { Plan } from "../plans/plan";
import { activeFactors, measuredResponses, sameSetting } from "../study/coding";
import { StudyError } from "../study/error";
import type { Factor, Result, Setting, Settings, Study, Trial, Wave } from "../study/schema";

/** Most characters and rows that an import looks at. */
const MOST_CHARACTERS = 5_000_000;
const MOST_ROWS = 20_000;

const repeatsOf = (study: Study, response: string): number =>
  study.trials.reduce((m, t) => {
    const r = t.results[response];
    return Math.max(m, Array.isArray(r) ? r.length : 1);
  }, 1);

/** A cell that a spreadsheet would run as a formula gets a leading apostrophe, one more where it has some already. */
const safe = (value: string | number | null | undefined): string => {
  if (value === null || value === undefined) return "";
  const text = String(value);
  return typeof value === "string" && /^'*[=+\-@]/.test(text) && !Number.isFinite(Number(text)) ? `'${text}` : text;
};

/** The whole ledger in run order as comma-separated text (RFC 4180), full precision. */
export function ledgerCsv(study: Study): string {
  const asRun = study.factors.filter((f) => study.trials.some((t) => t.asRun?.[f.id] !== undefined));
  const results = measuredResponses(study).flatMap((r) => {
    const n = repeatsOf(study, r.id);
    return Array.from({ length: n }, (_, i) => ({ id: r.id, i, head: n === 1 ? r.id : `${r.id}.${i + 1}` }));
  });
  const fields = [
    "order",
    "standard",
    "wave",
    "kind",
    "state",
    ...study.factors.map((f) => f.id),
    ...asRun.map((f) => `${f.id} (as run)`),
    ...study.covariates.map((c) => c.id),
    ...results.map((r) => r.head),
    "note",
  ];
  const data = [...study.trials]
    .sort((a, b) => a.order - b.order)
    .map((t) => [
      t.order,
      t.standard,
      t.wave,
      t.kind,
      t.state,
      ...study.factors.map((f) => safe(t.settings[f.id])),
      ...asRun.map((f) => safe(t.asRun?.[f.id])),
      ...study.covariates.map((c) => safe(t.covariates?.[c.id])),
      ...results.map(({ id, i }) => {
        const r = t.results[id];
        return safe(Array.isArray(r) ? r[i] : i === 0 ? r : null);
      }),
      safe(t.note),
    ]);
  return `${Papa.unparse({ fields: fields.map(safe), data }, { newline: "\r\n" })}\r\n`;
}

/** Text split into rows of cells, with what was recognised. */
export interface Sheet {
  rows: string[][];
  separator: string;
  decimal: "." | ",";
}

/**
 * Splits pasted or imported text. The separator is the one of tab, semicolon, comma that gives the most even rows;
 * a decimal comma is recognised where the separator is not a comma.
 * @throws StudyError for empty, oversized or binary text
 */
export function readSheet(text: string): Sheet {
  if (text.length > MOST_CHARACTERS)
    throw new StudyError(
      "too-large",
      `The text holds ${(text.length / 1e6).toFixed(1)} million characters; the most is ${MOST_CHARACTERS / 1e6} million.`,
    );
  const body = text.replace(/^\uFEFF/, "").replace(/\s+$/, "");
  if (body === "")
    throw new StudyError("empty-sheet", "There is no text to read; copy the cells in the spreadsheet first.");
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what tells a binary file.
  if (/[\u0000-\u0008\u000E-\u001F\uFFFD]/.test(body))
    throw new StudyError("not-text", "This is not plain text but a binary file; save the sheet as CSV first.");
  const lines = body.split(/\r\n|\r|\n/).slice(0, 50);
  const count = (sep: string): number[] => lines.map((l) => l.replace(/"[^"]*"/g, "").split(sep).length - 1);
  const separator =
    ["\t", ";", ","].find((sep) => {
      const c = count(sep);
      return c[0] > 0 && c.every((v) => v === c[0]);
    }) ??
    ["\t", ";", ","].find((sep) => count(sep)[0] > 0) ??
    "\t";
  const parsed = Papa.parse<string[]>(body, { delimiter: separator, skipEmptyLines: "greedy" });
  if (parsed.data.length > MOST_ROWS)
    throw new StudyError("too-large", `The text holds ${parsed.data.length} rows; the most is ${MOST_ROWS}.`);
  const rows = parsed.data.map((r) => r.map((c) => c.trim().replace(/^'(?='*[=+\-@])/, "")));
  const cells = rows.flat();
  const decimal =
    separator !== "," && cells.some((c) => /^[-+]?\d+,\d+$/.test(c)) && !cells.some((c) => /^[-+]?\d+\.\d+$/.test(c))
      ? ","
      : ".";
  return { rows, separator, decimal };
}

/**
 * Reads a number as people write it: decimal point or comma, spaces or thin spaces between thousands, a trailing
 * unit refused.
 * @returns null for an empty cell, undefined for text that is not a number
 */
export function readNumber(text: string, decimal: "." | "," | "either" = "either"): number | null | undefined {
  const t = text
    .trim()
    .replace(/[\u2212\u2013]/g, "-")
    .replace(/(?<=\d)[\s\u00A0\u2009\u202F](?=\d{3}(\D|$))/g, "");
  if (t === "" || /^(na|n\/a|-|·|\.)$/i.test(t)) return null;
  const plain = decimal === "." ? t : t.replace(/^([-+]?\d*),(\d+)(e[-+]?\d+)?$/i, "$1.$2$3");
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain)) return undefined;
  const v = Number(plain);
  return Number.isFinite(v) ? v : undefined;
}

type ColumnUse =
  | { to: "order" | "standard" | "note" | "ignored" }
  | { to: "setting" | "asRun" | "covariate"; id: string }
  | { to: "result"; id: string; repeat: number };

const simple = (s: string): string =>
  s
    .toLowerCase()
    .replace(/[([].*?[)\]]/g, "")
    .replace(/[^\p{L}\p{N}]+/gu, "");

/** What each heading of a sheet stands for: ids first, then names with or without units. */
export function matchColumns(study: Study, header: readonly string[]): ColumnUse[] {
  return header.map((raw): ColumnUse => {
    const text = raw.trim();
    const lower = text.toLowerCase();
    if (["order", "run", "run order", "trial"].includes(lower)) return { to: "order" };
    if (["standard", "std", "standard order"].includes(lower)) return { to: "standard" };
    if (["note", "notes", "remark"].includes(lower)) return { to: "note" };
    if (/\(as run\)$/i.test(text)) {
      const id = text.replace(/\s*\(as run\)$/i, "");
      const f = study.factors.find((x) => x.id === id || simple(x.name) === simple(id));
      return f ? { to: "asRun", id: f.id } : { to: "ignored" };
    }
    const repeat = /^(.*)\.(\d+)$/.exec(text);
    const response = measuredResponses(study).find((r) => r.id === text || simple(r.name) === simple(text));
    if (response) return { to: "result", id: response.id, repeat: 0 };
    if (repeat) {
      const r = measuredResponses(study).find((x) => x.id === repeat[1] || simple(x.name) === simple(repeat[1]));
      if (r) return { to: "result", id: r.id, repeat: Number(repeat[2]) };
    }
    const factor = study.factors.find((f) => f.id === text || simple(f.name) === simple(text));
    if (factor) return { to: "setting", id: factor.id };
    const covariate = study.covariates.find((c) => c.id === text || simple(c.name) === simple(text));
    if (covariate) return { to: "covariate", id: covariate.id };
    return { to: "ignored" };
  });
}

/** Where a column's cells would go; two columns of one target would overwrite each other. */
const targetOf = (use: ColumnUse): string | undefined =>
  use.to === "ignored"
    ? undefined
    : use.to === "result"
      ? `result ${use.id} ${Math.max(1, use.repeat)}`
      : "id" in use
        ? `${use.to} ${use.id}`
        : use.to;

/**
 * Refuses two columns that would be written to the same place, as identical headings are.
 * @throws StudyError `same-heading`, naming both columns and the way out
 */
function refuseSameHeadings(study: Study, header: readonly string[], uses: readonly ColumnUse[]): void {
  const first = new Map<string, number>();
  for (const [i, use] of uses.entries()) {
    const target = targetOf(use);
    if (target === undefined) continue;
    const before = first.get(target);
    if (before === undefined) {
      first.set(target, i);
      continue;
    }
    const [a, b] = [header[before].trim(), header[i].trim()];
    const named = a === b ? `“${a}” stands twice` : `“${a}” and “${b}” mean the same`;
    const name = use.to === "result" ? (study.responses.find((r) => r.id === use.id)?.name ?? use.id) : a;
    throw new StudyError(
      "same-heading",
      `The heading ${named} (columns ${before + 1} and ${i + 1}), so one column would be lost. ${
        use.to === "result"
          ? `Head repeats of one trial “${name}.1”, “${name}.2” and so on`
          : "Rename one of them, or take it out of the sheet"
      }; nothing was taken.`,
      [header[i]],
    );
  }
}

/** The headings of columns that nothing is taken from; a column without a heading goes by its place. */
const untaken = (rows: readonly string[][], uses: readonly ColumnUse[], taken: readonly ColumnUse["to"][]): string[] =>
  uses.flatMap((use, i) => {
    if (taken.includes(use.to)) return [];
    const heading = rows[0][i].trim();
    if (heading !== "") return [heading];
    return rows.some((r) => (r[i] ?? "") !== "") ? [`column ${i + 1} (no heading)`] : [];
  });

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

/** What a sheet would do to a ledger, shown before anything is taken. */
export interface ImportPreview {
  by: "trial number" | "settings";
  values: ImportedValue[];
  settings: ImportedSetting[];
  notes: { trial: string; order: number; after: string }[];
  matched: { row: number; trial: string; order: number }[];
  problems: { row: number; text: string }[];
  ignored: string[];
  separator: string;
  decimal: "." | ",";
}

function readSetting(factor: Factor, text: string, decimal: "." | ","): Setting | undefined {
  if (factor.kind === "categorical") return factor.levels.find((l) => l.toLowerCase() === text.toLowerCase());
  const v = readNumber(text, decimal);
  return v === null ? undefined : v;
}

/** A result as text, repeats that are missing at the end left out. */
function told(result: Result): string {
  const values = Array.isArray(result) ? [...result] : [result];
  while (values.length > 1 && values[values.length - 1] === null) values.pop();
  return JSON.stringify(values);
}

/**
 * Matches a sheet with a heading row to the trials of a study, by trial number (run order) where the sheet has it,
 * else by settings; never by row position. Settings in the sheet that contradict the numbered trial are a problem.
 *
 * @throws StudyError when the sheet has no results or no way to tell its rows' trials
 */
export function previewImport(study: Study, text: string): ImportPreview {
  const { rows, separator, decimal } = readSheet(text);
  const uses = matchColumns(study, rows[0]);
  refuseSameHeadings(study, rows[0], uses);
  if (!uses.some((u) => ["result", "note", "asRun", "covariate"].includes(u.to)))
    throw new StudyError(
      "no-results-column",
      `No column is named for a response; the first row must hold headings such as ${
        measuredResponses(study)
          .map((r) => r.name)
          .slice(0, 3)
          .join(", ") || "the responses' names"
      }.`,
    );
  const byOrder = uses.some((u) => u.to === "order");
  // Settings and the trial number tell which trial a row is; all else either is taken or is named as left aside.
  const ignored = untaken(rows, uses, ["order", "setting", "result", "note", "asRun", "covariate"]);
  const settingsAt = uses.flatMap((u, i) =>
    u.to === "setting" ? [{ i, factor: study.factors.find((f) => f.id === u.id) as Factor }] : [],
  );
  const needed = study.factors.filter((f) => f.retired === undefined);
  if (!byOrder && needed.some((f) => !settingsAt.some((s) => s.factor.id === f.id)))
    throw new StudyError(
      "no-match-column",
      `The sheet has neither a trial number (a column “order”) nor a column for every factor (${needed.find((f) => !settingsAt.some((s) => s.factor.id === f.id))?.name} is missing), so its rows cannot be matched to trials.`,
    );
  const problems: ImportPreview["problems"] = [];
  const matched: ImportPreview["matched"] = [];
  const notes: ImportPreview["notes"] = [];
  const set: ImportedSetting[] = [];
  const taken = new Set<string>();
  const found = new Map<string, { trial: Trial; response: string; repeats: (number | null)[] }>();
  const ordered = [...study.trials].sort((a, b) => a.order - b.order);
  rows.slice(1).forEach((cells, index) => {
    const row = index + 2;
    const settings: Settings = {};
    let unreadable = false;
    for (const { i, factor } of settingsAt) {
      if ((cells[i] ?? "") === "") continue;
      const v = readSetting(factor, cells[i], decimal);
      if (v === undefined) {
        problems.push({
          row,
          text: `Row ${row}: “${cells[i]}” is not a setting of ${factor.name}; the row is left out.`,
        });
        unreadable = true;
      } else settings[factor.id] = v;
    }
    if (unreadable) return;
    const fits = (t: Trial): boolean =>
      settingsAt.every(
        ({ factor }) =>
          settings[factor.id] === undefined || sameSetting(factor, settings[factor.id], t.settings[factor.id]),
      );
    let trial: Trial | undefined;
    if (byOrder) {
      const at = uses.findIndex((u) => u.to === "order");
      const n = readNumber(cells[at] ?? "", decimal);
      trial = ordered.find((t) => t.order === n);
      if (!trial) {
        problems.push({
          row,
          text: `Row ${row}: there is no trial ${cells[at] || "without a number"}; the row is left out.`,
        });
        return;
      }
      if (!fits(trial)) {
        problems.push({
          row,
          text: `Row ${row}: its settings are not those of trial ${trial.order}; the row is left out.`,
        });
        return;
      }
    } else {
      // Replicates share settings: rows go to them in run order, one row a trial.
      trial = ordered.find((t) => !taken.has(t.id) && fits(t));
      if (!trial) {
        problems.push({
          row,
          text: `Row ${row}: no trial${ordered.some(fits) ? " is left" : ""} with these settings; the row is left out.`,
        });
        return;
      }
    }
    if (taken.has(trial.id)) {
      problems.push({
        row,
        text: `Row ${row}: trial ${trial.order} stands in the sheet twice; the second row is left out.`,
      });
      return;
    }
    taken.add(trial.id);
    matched.push({ row, trial: trial.id, order: trial.order });
    uses.forEach((use, i) => {
      const cell = cells[i] ?? "";
      if (use.to === "note" && cell !== "" && cell !== trial.note)
        notes.push({ trial: trial.id, order: trial.order, after: cell });
      if ((use.to === "asRun" || use.to === "covariate") && cell !== "") {
        const factor = study.factors.find((f) => f.id === use.id);
        const v =
          use.to === "asRun" && factor ? readSetting(factor, cell, decimal) : (readNumber(cell, decimal) ?? undefined);
        const to = use.to === "asRun" ? ("asRun" as const) : ("covariates" as const);
        const before = trial[to]?.[use.id] ?? null;
        // Set as planned is what a trial says by saying nothing.
        if (v === undefined)
          problems.push({
            row,
            text: `Row ${row}: “${cell}” is not a ${use.to === "asRun" ? `setting of ${factor?.name ?? use.id}` : "number"}; that cell is left as it was.`,
          });
        else if (v !== (before ?? (to === "asRun" ? trial.settings[use.id] : null)))
          set.push({ trial: trial.id, order: trial.order, to, id: use.id, before, after: v });
      }
      if (use.to !== "result") return;
      const v = readNumber(cell, decimal);
      const name = study.responses.find((r) => r.id === use.id)?.name ?? use.id;
      if (v === undefined) {
        problems.push({ row, text: `Row ${row}: “${cell}” in ${name} is not a number; that cell is left as it was.` });
        return;
      }
      if (v === null) return;
      const key = `${trial.id}|${use.id}`;
      const entry = found.get(key) ?? { trial, response: use.id, repeats: [] };
      entry.repeats[Math.max(0, use.repeat - 1)] = v;
      found.set(key, entry);
    });
  });
  const values = [...found.values()].flatMap(({ trial, response, repeats }): ImportedValue[] => {
    const filled = Array.from(repeats, (v) => v ?? null);
    const after: Result = filled.length === 1 ? filled[0] : filled;
    const before = trial.results[response] ?? null;
    // A repeat that is missing at the end has no cell of its own in a sheet.
    return told(before) === told(after) ? [] : [{ trial: trial.id, order: trial.order, response, before, after }];
  });
  return {
    by: byOrder ? "trial number" : "settings",
    values,
    settings: set,
    notes,
    matched,
    problems,
    ignored,
    separator,
    decimal,
  };
}

/** A plan's trials as a run sheet: the ledger's CSV of these trials alone, before they are adopted. */
export const planCsv = (study: Study, plan: Plan): string => {
  const ids = new Set(plan.trials.map((t) => t.id));
  const adopted = adoptPlan(study, plan);
  return ledgerCsv({ ...adopted, trials: adopted.trials.filter((t) => ids.has(t.id)) });
};

/** Trials run elsewhere, as a wave of their own would take them. */
export interface ForeignWave {
  wave: Wave;
  trials: Trial[];
  /** Headings that stand for nothing in this study. */
  ignored: string[];
  /** Rows left out, with the reason. */
  problems: { row: number; text: string }[];
  withResults: number;
}

/**
 * Reads a sheet as a new wave: every row a trial, columns matched to factors, responses and covariates by id or name.
 * Settings may lie outside ranges (they were run); levels must be known.
 * @throws StudyError when a factor has no column or no row can be read
 */
export function waveFromSheet(study: Study, text: string, name: string): ForeignWave {
  const { rows, decimal } = readSheet(text);
  const uses = matchColumns(study, rows[0]);
  refuseSameHeadings(study, rows[0], uses);
  const factors = activeFactors(study);
  const missing = factors.filter((f) => !uses.some((u) => u.to === "setting" && u.id === f.id));
  if (missing.length > 0)
    throw new StudyError(
      "no-match-column",
      `The sheet has no column for ${missing.map((f) => f.name).join(", ")}; each factor needs one, headed by its name or id.`,
    );
  const problems: ForeignWave["problems"] = [];
  const trials: Trial[] = [];
  const taken = new Set([...study.trials.map((t) => t.id), ...study.waves.map((w) => w.id)]);
  const fresh = (stem: string, from: number): string => {
    let i = from;
    while (taken.has(`${stem}${i}`)) i++;
    taken.add(`${stem}${i}`);
    return `${stem}${i}`;
  };
  const wave: Wave = {
    id: fresh("w", study.waves.length + 1),
    name,
    purpose: "run elsewhere",
    plan: { family: "own" },
  };
  let order = study.trials.reduce((m, t) => Math.max(m, t.order), 0);
  rows.slice(1).forEach((cells, index) => {
    const row = index + 2;
    const settings: Settings = Object.fromEntries(
      study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
    );
    const results = new Map<string, (number | null)[]>();
    const covariates: Record<string, number> = {};
    let note = "";
    let bad: string | undefined;
    uses.forEach((use, i) => {
      const cell = cells[i] ?? "";
      if (use.to === "setting") {
        const factor = study.factors.find((f) => f.id === use.id) as Factor;
        const v = cell === "" ? undefined : readSetting(factor, cell, decimal);
        if (v === undefined) bad ??= `Row ${row}: “${cell}” is not a setting of ${factor.name}; the row is left out.`;
        else settings[factor.id] = v;
      } else if (use.to === "result" || use.to === "covariate") {
        const v = readNumber(cell, decimal);
        if (v === undefined) bad ??= `Row ${row}: “${cell}” is not a number; the row is left out.`;
        else if (use.to === "covariate" && v !== null) covariates[use.id] = v;
        else if (use.to === "result") {
          const list = results.get(use.id) ?? [];
          list[Math.max(0, use.repeat - 1)] = v;
          results.set(use.id, list);
        }
      } else if (use.to === "note") note = cell;
    });
    if (bad) {
      problems.push({ row, text: bad });
      return;
    }
    const measured = [...results].flatMap(([id, list]): [string, Trial["results"][string]][] => {
      const values = Array.from(list, (v) => v ?? null);
      return values.every((v) => v === null) ? [] : [[id, values.length === 1 ? values[0] : values]];
    });
    trials.push({
      id: fresh("t", study.trials.length + 1 + trials.length),
      wave: wave.id,
      standard: trials.length + 1,
      order: ++order,
      kind: "other",
      state: measured.length > 0 ? "done" : "planned",
      note,
      use: true,
      settings,
      ...(Object.keys(covariates).length > 0 ? { covariates } : {}),
      results: Object.fromEntries(measured),
    });
  });
  if (trials.length === 0)
    throw new StudyError("no-rows", problems[0]?.text ?? "The sheet holds headings but no trials.");
  return {
    wave,
    trials,
    ignored: untaken(rows, uses, ["setting", "result", "covariate", "note"]),
    problems,
    withResults: trials.filter((t) => t.state === "done").length,
  };
}
