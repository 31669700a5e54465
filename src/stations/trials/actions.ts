import { type CountedFault, countedFaultText, messageText } from "@/core/findings";
import { type ImportPreview, readNumber } from "@/core/formats";
import {
  doubtful,
  type Edit,
  edit,
  type Factor,
  isNumeric,
  kindOf,
  MOST_REPEATS,
  normaliseResult,
  type Response,
  type Result,
  type Setting,
  type Study,
  type Trial,
} from "@/core/study";

/** A result as typed: one number or repeats, or events of a share or a count, as 3/50. */
export function readResult(
  text: string,
  response: Response,
): { ok: true; value: Result } | { ok: false; fault: CountedFault; sentence: string } {
  const kind = kindOf(response);
  const read = kind.read(text, response);
  if (read.ok) return read;
  const sentence =
    read.fault.why === "unreadable" && kind.several
      ? `“${text.trim()}” is not a number; type one value, or repeats with spaces between.`
      : `${countedFaultText(read.fault)}.`;
  return { ok: false, fault: read.fault, sentence };
}

/** A number to so many decimals where that loses nothing. */
export const decimalText = (v: number, decimals: number | undefined): string =>
  decimals !== undefined && Number(v.toFixed(decimals)) === v ? v.toFixed(decimals) : String(v);

/** A result as it is shown: to the response's decimals where that loses nothing. */
export const resultText = (r: Result | undefined, response: Pick<Response, "decimals" | "measured" | "of">): string =>
  kindOf(response).text(r, response, (v) => decimalText(v, response.decimals));

/**
 * What was really set, where it differs from the plan; the planned value takes the mark away. What is hardly possible
 * is asked about.
 */
export function enterAsRun(
  study: Study,
  trial: Trial,
  factor: Factor,
  text: string,
): { ok: true; edits: Edit[]; ask?: string } | { ok: false; sentence: string } {
  let value: Setting;
  if (isNumeric(factor)) {
    const v = readNumber(text);
    if (typeof v !== "number") {
      if (v === null) return { ok: true, edits: [edit(study, ["trials", trial.id, "asRun", factor.id], null)] };
      return {
        ok: false,
        sentence: `${factor.name}: “${text}” is not a number; type what was really set${factor.unit ? ` in ${factor.unit}` : ""}.`,
      };
    }
    value = v;
  } else {
    const level = factor.levels.find((l) => l.toLowerCase() === text.trim().toLowerCase());
    if (!level)
      return { ok: false, sentence: `${factor.name} has no level “${text}”; it has ${factor.levels.join(", ")}.` };
    value = level;
  }
  const doubt = value === trial.settings[factor.id] ? undefined : doubtful(factor, value);
  const ask = doubt && messageText("places", doubt);
  return {
    ok: true,
    edits: [edit(study, ["trials", trial.id, "asRun", factor.id], value === trial.settings[factor.id] ? null : value)],
    ...(ask === undefined ? {} : { ask }),
  };
}

/** A column of values, all for one trial; undefined where they are no more than one column of numbers. */
export function columnPreview(
  trial: Trial,
  response: string,
  cells: readonly string[][],
): (ImportPreview & { positional: true }) | undefined {
  if (cells.length < 2 || cells.some((line) => line.length !== 1)) return undefined;
  const problems: ImportPreview["problems"] = [];
  const after: number[] = [];
  cells.forEach(([cell], i) => {
    const read = readNumber(cell);
    if (typeof read === "number") after.push(read);
    // A heading above the values is none of them.
    else if (read === undefined && i > 0)
      problems.push({ row: i + 1, said: { code: "line-no-result", values: { row: i + 1, text: cell } } });
  });
  if (after.length > MOST_REPEATS)
    problems.push({ row: MOST_REPEATS + 1, said: { code: "line-too-many", values: { most: MOST_REPEATS } } });
  const value = { trial: trial.id, order: trial.order, response, before: trial.results[response] ?? null };
  return {
    ...positional,
    values: after.length > 0 ? [{ ...value, after: after.slice(0, MOST_REPEATS) }] : [],
    problems,
    matched: [{ row: 1, trial: trial.id, order: trial.order }],
  };
}

/** What is known of a block without headings before it is looked at. */
const positional: ImportPreview & { positional: true } = {
  by: "trial number",
  positional: true,
  values: [],
  settings: [],
  notes: [],
  setups: [],
  matched: [],
  problems: [],
  untaken: [],
  repeats: [],
  again: 0,
  changes: [],
  separator: "\t",
  decimal: ".",
};

/** A block without headings, laid from one cell on over the rows as they are shown: said so before it is taken. */
export function blockPreview(
  rows: readonly Trial[],
  fromRow: number,
  columns: readonly Response[],
  fromColumn: number,
  cells: readonly string[][],
): ImportPreview & { positional: true } {
  const values: ImportPreview["values"] = [];
  const problems: ImportPreview["problems"] = [];
  const matched: ImportPreview["matched"] = [];
  cells.forEach((line, i) => {
    const trial = rows[fromRow + i];
    if (!trial) {
      problems.push({ row: i + 1, said: { code: "line-no-trial", values: { row: i + 1 } } });
      return;
    }
    matched.push({ row: i + 1, trial: trial.id, order: trial.order });
    line.forEach((cell, j) => {
      const response = columns[fromColumn + j];
      if (cell === "") return;
      if (!response) {
        problems.push({ row: i + 1, said: { code: "line-outside", values: { row: i + 1, text: cell } } });
        return;
      }
      const read = readResult(cell, response);
      if (!read.ok) {
        const { fault } = read;
        const values = { row: i + 1, text: cell };
        problems.push({
          row: i + 1,
          said: kindOf(response).several
            ? { code: fault.why === "either" ? "line-either" : "line-no-result", values }
            : { code: "line-counted", values: { row: i + 1, column: response.name, fault } },
        });
        return;
      }
      const before = trial.results[response.id] ?? null;
      const after = normaliseResult(response, read.value);
      if (JSON.stringify(before) !== JSON.stringify(after))
        values.push({ trial: trial.id, order: trial.order, response: response.id, before, after });
    });
  });
  return { ...positional, values, matched, problems };
}
