import { tTwoSided } from "../numerics/distributions";
import { leastSquares, pickColumns, rankReport, zeros } from "../numerics/least-squares";
import type { Term } from "../study/schema";
import type { Fit } from "./fit";
import type { Contrast } from "./lenth";

/** Results at one combination of ends. */
export interface WorkingCell {
  trials: string[];
  /** One sign for each effect, in their order. */
  signs: (1 | -1)[];
  results: number[];
  total: number;
  /** Sample variance, of results less what their wave stands off; null of a single result. */
  variance: number | null;
}

/** One effect as it is worked out by hand. */
export interface WorkingEffect {
  term: Term;
  chain: Contrast["chain"];
  /** Sums of results at + and at −. */
  plus: number;
  minus: number;
  /** Number of results on each side. */
  divisor: number;
  effect: number;
  standardError: number | null;
  t: number | null;
  p: number | null;
}

export interface Working {
  cells: WorkingCell[];
  effects: WorkingEffect[];
  /** Variance within cells, pooled by their degrees of freedom; null where no combination was run twice. */
  pooled: { sumOfSquares: number; df: number; variance: number } | null;
  /** How far waves stand off the first by combinations that several of them ran, where the model has waves in it. */
  shifts: { wave: string; shift: number }[];
}

/**
 * How far each wave stands off the first, of combinations and waves fitted together: what the pure error of a model
 * with waves takes off. None for waves that share no combination with another.
 */
function waveShifts(cells: readonly string[], waves: readonly string[], y: readonly number[]): Map<string, number> {
  const cellIds = [...new Set(cells)];
  const waveIds = [...new Set(waves)];
  const x = zeros(y.length, cellIds.length + waveIds.length - 1);
  y.forEach((_, i) => {
    x.data[i * x.cols + cellIds.indexOf(cells[i])] = 1;
    const w = waveIds.indexOf(waves[i]);
    if (w > 0) x.data[i * x.cols + cellIds.length + w - 1] = 1;
  });
  const { kept } = rankReport(x);
  const { coefficients } = leastSquares(pickColumns(x, kept), y);
  const told = kept.flatMap((j, k) =>
    j >= cellIds.length ? [[waveIds[j - cellIds.length + 1], coefficients[k]]] : [],
  );
  return new Map(told as [string, number][]);
}

/**
 * Every two-level effect as a person works it out by hand (Yates 1937): the sign table, sums at + and at −, their
 * difference over half the number of results; a variance from each combination run more than once, pooled; the
 * standard error √(s²(1/n₊ + 1/n₋)), t and p of each effect.
 *
 * @param contrasts orthogonal contrasts over the corner trials of the fit
 */
export function handWorking(fit: Fit, contrasts: readonly Contrast[]): Working {
  const { data } = fit;
  const cells = new Map<string, WorkingCell>();
  const places = contrasts[0]?.signs.map((s) => s.corner) ?? [];
  const keys = places.map((_, k) => contrasts.map((c) => c.signs[k].sign).join(""));
  const y = places.map((corner) => fit.model.observed[corner]);
  const waves = places.map((corner) => (fit.fitting.block ? data.waves[corner] : ""));
  const shifts = waveShifts(keys, waves, y);
  const levelled = y.map((v, k) => v - (shifts.get(waves[k]) ?? 0));
  const own = new Map<WorkingCell, number[]>();
  places.forEach((corner, k) => {
    const signs = contrasts.map((c) => c.signs[k].sign);
    const key = keys[k];
    const cell = cells.get(key) ?? { trials: [], signs, results: [], total: 0, variance: null };
    cell.trials.push(data.trials[corner].id);
    cell.results.push(y[k]);
    cells.set(key, cell);
    own.set(cell, [...(own.get(cell) ?? []), levelled[k]]);
  });
  let sumOfSquares = 0;
  // What waves stand off is told by the same copies.
  let df = -shifts.size;
  for (const cell of cells.values()) {
    const n = cell.results.length;
    cell.total = cell.results.reduce((t, v) => t + v, 0);
    if (n < 2) continue;
    const values = own.get(cell) ?? [];
    const mean = values.reduce((t, v) => t + v, 0) / n;
    const within = values.reduce((t, v) => t + (v - mean) ** 2, 0);
    cell.variance = within / (n - 1);
    sumOfSquares += within;
    df += n - 1;
  }
  const pooled = df > 0 ? { sumOfSquares, df, variance: sumOfSquares / df } : null;
  return {
    cells: [...cells.values()],
    pooled,
    shifts: [...shifts].map(([wave, shift]) => ({ wave, shift })),
    effects: contrasts.map(({ term, chain, signs }): WorkingEffect => {
      const side = (sign: 1 | -1): number =>
        signs.reduce((t, s) => (s.sign === sign ? t + fit.model.observed[s.corner] : t), 0);
      const plus = side(1);
      const minus = side(-1);
      const above = signs.filter((s) => s.sign === 1).length;
      const divisor = signs.length / 2;
      const effect = (plus - minus) / divisor;
      const standardError = pooled && Math.sqrt(pooled.variance * (1 / above + 1 / (signs.length - above)));
      const t = standardError !== null && standardError > 0 ? effect / standardError : null;
      return { term, chain, plus, minus, divisor, effect, standardError, t, p: t === null ? null : tTwoSided(t, df) };
    }),
  };
}
