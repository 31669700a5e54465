import { cellsOf } from "../appraisal/appraise";
import { digamma, trigamma } from "../numerics/distributions";
import { StudyError } from "../study/error";
import { measuredValues } from "../study/measured";
import type { Response, Study, Trial } from "../study/schema";

/** One place where a response was measured more than once under the same settings. */
export interface SpreadCell {
  /** The trial that stands for the cell: the first in run order. */
  trial: Trial;
  /** Order of run of every trial in it. */
  orders: number[];
  values: number[];
  mean: number;
  /** Standard deviation, as measured. */
  s: number;
  /** Largest less smallest value. */
  range: number;
  /** Degrees of freedom behind it. */
  df: number;
  /** Whether s was 0 and stands at the response's resolution instead. */
  floored: boolean;
}

const average = (values: readonly number[]): number => values.reduce((t, v) => t + v, 0) / values.length;

/** The smallest step in which a response is written down: its decimals, else the smallest gap between two results. */
function resolution(about: Response | undefined, values: readonly number[]): number {
  if (about?.decimals !== undefined) return 10 ** -about.decimals;
  const sorted = [...new Set(values)].sort((a, b) => a - b);
  const gaps = sorted.slice(1).map((v, i) => v - sorted[i]);
  return gaps.length > 0 ? Math.min(...gaps) : Math.max(Math.abs(sorted[0] ?? 0), 1) * 1e-6;
}

/**
 * The standard deviation of a response wherever it was measured again: over the repeats within a trial, or over the
 * trials of one wave that ran at the same settings. The two are different things and never pooled.
 *
 * @param trials those that count
 * @returns cells of two or more values, in run order
 */
export function spreadCells(
  study: Study,
  response: string,
  from: "repeats" | "replicates",
  trials: readonly Trial[],
): SpreadCell[] {
  const ordered = [...trials].sort((a, b) => a.order - b.order);
  const about = study.responses.find((r) => r.id === response);
  const valuesOf = (t: Trial): number[] => measuredValues(t.results[response], about ?? {});
  const all = ordered.flatMap(valuesOf);
  const floor = resolution(about, all);
  const groups: { trials: Trial[]; values: number[] }[] = [];
  if (from === "repeats") for (const t of ordered) groups.push({ trials: [t], values: valuesOf(t) });
  else {
    const with_ = ordered.filter((t) => valuesOf(t).length > 0);
    const cells = cellsOf(
      study,
      with_.map((t) => ({ ...t.settings, ...t.asRun })),
    );
    const byCell = new Map<string, { trials: Trial[]; values: number[] }>();
    with_.forEach((t, i) => {
      const key = `${t.wave}|${cells[i]}`;
      const cell = byCell.get(key) ?? { trials: [], values: [] };
      cell.trials.push(t);
      cell.values.push(average(valuesOf(t)));
      byCell.set(key, cell);
    });
    groups.push(...byCell.values());
  }
  return groups
    .filter((g) => g.values.length > 1)
    .map(({ trials, values }) => {
      const mean = average(values);
      const s = Math.sqrt(values.reduce((t, v) => t + (v - mean) ** 2, 0) / (values.length - 1));
      return {
        trial: trials[0],
        orders: trials.map((t) => t.order),
        values,
        mean,
        s: s > 0 ? s : floor,
        range: Math.max(...values) - Math.min(...values),
        df: values.length - 1,
        floored: !(s > 0),
      };
    });
}

/**
 * What a spread model is fitted to: values whose logarithm estimates ln σ without bias,
 * ln s + ½[ln(ν/2) − ψ(ν/2)], with weight 4/ψ′(ν/2) (Bartlett & Kendall 1946), scaled to mean 1.
 *
 * @throws StudyError when nothing was measured twice
 */
export function spreadValues(
  study: Study,
  about: Response,
  trials: readonly Trial[],
): { cells: SpreadCell[]; y: number[]; weights: number[] } {
  const spread = about.spread ?? { of: about.id, from: "repeats" as const };
  const cells = spreadCells(study, spread.of, spread.from, trials);
  const source = study.responses.find((r) => r.id === spread.of)?.name ?? spread.of;
  if (cells.length === 0) throw new StudyError("no-spread", { source, repeats: spread.from === "repeats" }, ["trials"]);
  const raw = cells.map((c) => 4 / trigamma(c.df / 2));
  const mean = average(raw);
  return {
    cells,
    y: cells.map((c) => c.s * Math.exp(0.5 * (Math.log(c.df / 2) - digamma(c.df / 2)))),
    weights: raw.map((w) => w / mean),
  };
}
