import { tTwoSided } from "../numerics/distributions";
import type { Term } from "../study/schema";
import type { Fit } from "./fit";
import type { Contrast } from "./lenth";

/** Results at one combination of ends, in one wave. */
export interface WorkingCell {
  trials: string[];
  /** One sign for each effect, in their order. */
  signs: (1 | -1)[];
  results: number[];
  total: number;
  /** Sample variance; null of a single result. */
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
  places.forEach((corner, k) => {
    const signs = contrasts.map((c) => c.signs[k].sign);
    // Trials of two waves differ by the shift between them as well: each wave has cells of its own.
    const key = `${data.waves[corner]}|${signs.join("")}`;
    const cell = cells.get(key) ?? { trials: [], signs, results: [], total: 0, variance: null };
    cell.trials.push(data.trials[corner].id);
    cell.results.push(fit.model.observed[corner]);
    cells.set(key, cell);
  });
  let sumOfSquares = 0;
  let df = 0;
  for (const cell of cells.values()) {
    const n = cell.results.length;
    cell.total = cell.results.reduce((t, v) => t + v, 0);
    if (n < 2) continue;
    const within = cell.results.reduce((t, v) => t + (v - cell.total / n) ** 2, 0);
    cell.variance = within / (n - 1);
    sumOfSquares += within;
    df += n - 1;
  }
  const pooled = df > 0 ? { sumOfSquares, df, variance: sumOfSquares / df } : null;
  return {
    cells: [...cells.values()],
    pooled,
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
