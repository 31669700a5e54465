import { placed, readResultCell } from "../kinds/repeats";
import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { RowValues } from "../messages/typed";
import { readNumber } from "../numerics/read-number";
import { StudyError } from "../study/error";
import { activeFactors, heldSettings } from "../study/roles";
import type { Factor, Response, Result, Study, Trial, Wave } from "../study/schema";
import { messageText } from "../words/answers";
import {
  type ColumnUse,
  matchColumns,
  readSetting,
  refuseSameHeadings,
  setupNumber,
  type UntakenColumn,
  untakenOf,
} from "./columns";
import { readHeaded } from "./csv";

/** Trials run elsewhere, as a wave of their own would take them. */
export interface ForeignWave {
  wave: Wave;
  trials: Trial[];
  /** Columns that nothing is taken from. */
  untaken: UntakenColumn[];
  /** Rows left out, with the reason. */
  problems: { row: number; said: Message<RowValues> }[];
  withResults: number;
}

/**
 * Reads a sheet as a new wave: every row a trial, columns matched to factors, responses and covariates by id or name.
 * Settings may lie outside ranges (they were run); levels must be known.
 * @throws StudyError when a factor has no column or no row can be read
 */
export function waveFromSheet(study: Study, text: string, name: string): ForeignWave {
  const { rows, decimal, above } = readHeaded(text);
  const uses = matchColumns(study, rows[0]);
  refuseSameHeadings(rows[0], uses);
  const numbers = rows.slice(1).map((_, i) => above + i + 2);
  return waveFromRows(study, { rows, decimal, numbers }, uses, name);
}

/** Results of a trial, one value as itself, several as repeats. */
const measuredOf = (results: ReadonlyMap<string, (number | null)[]>): [string, Result][] =>
  [...results].flatMap(([id, list]): [string, Result][] => {
    const values = Array.from(list, (v) => v ?? null);
    return values.every((v) => v === null) ? [] : [[id, values.length === 1 ? values[0] : values]];
  });

/** The column beside a result that belongs to it: on what it was counted. */
const onColumn = (uses: readonly ColumnUse[], about: Response): number =>
  uses.findIndex((u) => u.to === "of" && u.id === about.id);

/**
 * The same of rows whose columns are known, the first row their headings; `numbers` are those of the other rows where
 * they do not stand as in the sheet.
 * @throws StudyError when a factor has no column or no row can be read
 */
export function waveFromRows(
  study: Study,
  { rows, decimal, numbers }: { rows: readonly string[][]; decimal: "." | ","; numbers?: readonly number[] },
  uses: readonly ColumnUse[],
  name: string,
): ForeignWave {
  const factors = activeFactors(study);
  const missing = factors.filter((f) => !uses.some((u) => u.to === "setting" && u.id === f.id));
  if (missing.length > 0) throw new StudyError("no-match-column.factors", { factors: missing.map((f) => f.name) });
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
    const row = numbers?.[index] ?? index + 2;
    const settings = heldSettings(study);
    const results = new Map<string, (number | null)[]>();
    const whole = new Map<string, Result>();
    const covariates: Record<string, number> = {};
    let note = "";
    let setup: number | undefined;
    let bad: Message<RowValues> | undefined;
    uses.forEach((use, i) => {
      const cell = cells[i] ?? "";
      if (use.to === "setting") {
        const factor = study.factors.find((f) => f.id === use.id) as Factor;
        const v = cell === "" ? undefined : readSetting(factor, cell, decimal);
        if (v === undefined) bad ??= { code: "row-no-setting", values: { row, text: cell, factor: factor.name } };
        else settings[factor.id] = v;
      } else if (use.to === "covariate") {
        const v = readNumber(cell, decimal);
        if (v === undefined) bad ??= { code: "row-no-number", values: { row, text: cell } };
        else if (v !== null) covariates[use.id] = v;
      } else if (use.to === "result") {
        const about = study.responses.find((r) => r.id === use.id);
        const kind = about && kindOf(about);
        if (about && kind && !kind.several) {
          const read = kind.read(cell, about, decimal, cells[onColumn(uses, about)] ?? "");
          if (!read.ok)
            bad ??= { code: "row-counted", values: { row, column: about.name, fault: { ...read.fault, text: cell } } };
          else if (read.value !== null) whole.set(about.id, kind.together(whole.get(about.id) ?? null, read.value));
          return;
        }
        const read = readResultCell(cell, decimal);
        if (!read.ok)
          bad ??= { code: read.why === "either" ? "row-either" : "row-no-number", values: { row, text: cell } };
        else results.set(use.id, placed(results.get(use.id) ?? [], read.value, use.repeat));
      } else if (use.to === "setup" && cell !== "") {
        setup = setupNumber(cell, decimal);
        if (setup === undefined) bad ??= { code: "row-no-setup", values: { row, text: cell } };
      } else if (use.to === "note") note = cell;
    });
    if (bad) {
      problems.push({ row, said: bad });
      return;
    }
    const measured = [...measuredOf(results), ...whole];
    trials.push({
      id: fresh("t", study.trials.length + 1 + trials.length),
      wave: wave.id,
      standard: trials.length + 1,
      order: ++order,
      ...(setup === undefined ? {} : { setup }),
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
    throw problems.length > 0
      ? new StudyError("no-rows.problem", { problem: messageText("rows", problems[0].said) })
      : new StudyError("no-rows.empty", {});
  return {
    wave,
    trials,
    untaken: untakenOf(rows, uses, ["setting", "setup", "result", "of", "covariate", "note"]),
    problems,
    withResults: trials.filter((t) => t.state === "done").length,
  };
}
