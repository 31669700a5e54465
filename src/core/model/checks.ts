import { chiSquaredUpper, fUpper, normalCdf, tTwoSided } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import { mean, median, sumOfSquares } from "../numerics/sums";
import { code, isNumeric } from "../study/coding";
import type { Study } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import type { Fit } from "./fit";
import { type SpreadCell, spreadCells } from "./spread";

export type CheckId = "bell" | "spread" | "spread-factor" | "order" | "single" | "bend" | "scale" | "copies" | "waves";

/** A question about a model with its answer in words and the figure behind it. */
export interface Check {
  id: CheckId;
  question: string;
  answer: string;
  /** Whether the answer gives cause for concern. */
  concern: boolean;
  statistic: number | null;
  statisticName: string;
  p: number | null;
  /** The factor it is about. */
  about?: string;
}

const PERMUTATIONS = 9999;

/**
 * Anderson–Darling A² for a normal with mean and spread from the data, and p (D'Agostino & Stephens 1986, table 4.9).
 */
export function andersonDarling(values: readonly number[]): { statistic: number; p: number } {
  const n = values.length;
  const centre = mean(values);
  const spread = Math.sqrt(sumOfSquares(values) / (n - 1));
  const z = values.map((v) => (v - centre) / spread).sort((a, b) => a - b);
  let total = 0;
  for (let i = 0; i < n; i++) total += (2 * i + 1) * (Math.log(normalCdf(z[i])) + Math.log(normalCdf(-z[n - 1 - i])));
  const statistic = -n - total / n;
  const a = statistic * (1 + 0.75 / n + 2.25 / n ** 2);
  let p: number;
  if (a < 0.2) p = 1 - Math.exp(-13.436 + 101.14 * a - 223.73 * a * a);
  else if (a < 0.34) p = 1 - Math.exp(-8.318 + 42.796 * a - 59.938 * a * a);
  else if (a < 0.6) p = Math.exp(0.9177 - 4.279 * a - 1.38 * a * a);
  else p = Math.exp(1.2937 - 5.709 * a + 0.0186 * a * a);
  return { statistic, p: Math.min(1, Math.max(0, a > 13 ? 0 : p)) };
}

/** Koenker's (1981) form of the Breusch–Pagan test of squared residuals on fitted values: n·R², χ² with one df. */
export function koenker(
  residuals: readonly number[],
  fitted: readonly number[],
): { statistic: number; p: number } | null {
  const n = residuals.length;
  const squares = residuals.map((e) => e * e);
  const total = sumOfSquares(squares);
  const sxx = sumOfSquares(fitted);
  if (!(total > 0) || !(sxx > 1e-24 * n)) return null;
  const ms = mean(squares);
  const mf = mean(fitted);
  let sxy = 0;
  for (let i = 0; i < n; i++) sxy += (squares[i] - ms) * (fitted[i] - mf);
  const statistic = (n * sxy * sxy) / (sxx * total);
  return { statistic, p: chiSquaredUpper(statistic, 1) };
}

/**
 * Durbin–Watson of residuals in run order, never pairing across waves, with a two-sided permutation p (9,999 seeded
 * shuffles within waves).
 */
export function durbinWatson(
  residuals: readonly number[],
  waves: readonly string[],
  seed = 1,
): { statistic: number; p: number } {
  const groups = [...new Set(waves)].map((w) => waves.flatMap((v, i) => (v === w ? [i] : [])));
  const squares = residuals.reduce((t, e) => t + e * e, 0);
  const statisticOf = (e: ArrayLike<number>): number => {
    let total = 0;
    for (const g of groups) for (let i = 1; i < g.length; i++) total += (e[g[i]] - e[g[i - 1]]) ** 2;
    return total / squares;
  };
  const statistic = statisticOf(residuals);
  const random = seededRandom(seed);
  const e = Float64Array.from(residuals);
  let below = 0;
  let above = 0;
  for (let round = 0; round < PERMUTATIONS; round++) {
    for (const g of groups)
      for (let i = g.length - 1; i > 0; i--) {
        const j = random.below(i + 1);
        const held = e[g[i]];
        e[g[i]] = e[g[j]];
        e[g[j]] = held;
      }
    const d = statisticOf(e);
    if (d <= statistic + 1e-12) below++;
    if (d >= statistic - 1e-12) above++;
  }
  return { statistic, p: Math.min(1, (2 * (Math.min(below, above) + 1)) / (PERMUTATIONS + 1)) };
}

/**
 * Brown & Forsythe (1974): whether the sizes of errors about their group's median differ between groups, by an
 * analysis of variance of |e − median|.
 *
 * @returns null for fewer than two groups of three
 */
export function brownForsythe(
  groups: readonly (readonly number[])[],
): { statistic: number; p: number; df: [number, number] } | null {
  const used = groups.filter((g) => g.length >= 3);
  if (used.length < 2) return null;
  const sizes = used.map((g) => {
    const middle = median(g);
    return g.map((v) => Math.abs(v - middle));
  });
  const all = sizes.flat();
  const between = sizes.reduce((t, g) => t + g.length * (mean(g) - mean(all)) ** 2, 0);
  const within = sizes.reduce((t, g) => t + sumOfSquares(g), 0);
  const df: [number, number] = [used.length - 1, all.length - used.length];
  if (!(within > 0)) return null;
  const statistic = between / df[0] / (within / df[1]);
  return { statistic, p: fUpper(statistic, df[0], df[1]), df };
}

/** Errors scaled to one variance: residuals by the roots of their weights, where trials weigh differently. */
export const errorsOf = (fit: Fit): number[] => fit.model.residuals("scaled").map((e) => e ?? 0);

/** A factor whose low and high halves (or levels) were compared for the size of their errors. */
export interface SpreadByFactor {
  factor: string;
  groups: { label: string; s: number; n: number }[];
  p: number;
}

/** Brown–Forsythe of the errors by each factor, its coded halves or its levels, most telling first. */
export function spreadByFactor(study: Study, fit: Fit): SpreadByFactor[] {
  const out: SpreadByFactor[] = [];
  for (const f of study.factors) {
    if (f.retired !== undefined) continue;
    const groups = new Map<string, number[]>();
    errorsOf(fit).forEach((e, i) => {
      const value = fit.data.actual[i][f.id];
      const x = isNumeric(f) ? code(f, value as number) : 0;
      if (isNumeric(f) && Math.abs(x) < 0.1) return;
      const label = isNumeric(f) ? (x < 0 ? "low" : "high") : String(value);
      groups.set(label, [...(groups.get(label) ?? []), e]);
    });
    const test = brownForsythe([...groups.values()]);
    if (test)
      out.push({
        factor: f.id,
        groups: [...groups].map(([label, e]) => ({
          label,
          n: e.length,
          s: Math.sqrt(sumOfSquares(e) / (e.length - 1)),
        })),
        p: test.p,
      });
  }
  return out.sort((a, b) => a.p - b.p);
}

/** t of a slope of residual on run order, from the regression that also holds the model's own columns. */
export function slopeOnOrder(fit: Fit): ReturnType<typeof addedColumn> {
  return addedColumn(
    fit,
    fit.data.trials.map((t) => t.order),
  );
}

/** Coefficient, standard error and p of one more column added last to a model; null when it adds nothing. */
export function addedColumn(
  fit: Fit,
  column: ArrayLike<number>,
): { slope: number; standardError: number; p: number } | null {
  const added = fit.model.addTerm({ rows: column.length, cols: 1, data: Float64Array.from(column) });
  const standardError = added?.errors[0];
  if (!added || !standardError || fit.model.exact) return null;
  const slope = added.coefficients[0];
  return { slope, standardError, p: tTwoSided(slope / standardError, added.dfs[0]) };
}

/**
 * Added-variable test of each numeric factor's square that is not in the model; squares that coincide are tested
 * once.
 */
export function missingSquares(
  study: Study,
  fit: Fit,
): { factor: string; together: string[]; coefficient: number; p: number }[] {
  const keys = new Set(fit.terms.map(termKey));
  const out: { factor: string; together: string[]; coefficient: number; p: number; column: Float64Array }[] = [];
  for (const f of study.factors) {
    if (f.retired !== undefined || !isNumeric(f) || keys.has(termKey([f.id, f.id]))) continue;
    const encoded = encoder(study, [[f.id, f.id]]);
    const row = new Float64Array(2);
    const column = Float64Array.from(fit.data.actual, (s) => {
      encoded.row(s, row);
      return row[1];
    });
    const twin = out.find((o) => o.column.every((v, i) => Math.abs(v - column[i]) < 1e-9));
    if (twin) {
      twin.together.push(f.id);
      continue;
    }
    const test = addedColumn(fit, column);
    if (test) out.push({ factor: f.id, together: [f.id], coefficient: test.slope, p: test.p, column });
  }
  return out.map(({ factor, together, coefficient, p }) => ({ factor, together, coefficient, p }));
}

/** Spread wherever the response was measured again, with the pooled spread and the chance of so wide a widest cell. */
export interface Copies {
  from: "repeats" | "replicates";
  cells: SpreadCell[];
  pooled: number;
  worst: SpreadCell;
  p: number;
}

/**
 * What an s chart shows: the standard deviation of each cell measured again (trials run again first, else repeats),
 * judged by νs²/s²ₚ on χ² with ν degrees of freedom, the widest of m by Bonferroni.
 *
 * @returns undefined for fewer than two cells or no spread at all
 */
export function copiesOf(study: Study, fit: Fit): Copies | undefined {
  if (study.responses.find((r) => r.id === fit.response)?.spread) return undefined;
  for (const from of ["replicates", "repeats"] as const) {
    const cells = spreadCells(study, fit.response, from, fit.data.trials);
    const df = cells.reduce((t, c) => t + c.df, 0);
    const pooled = Math.sqrt(cells.reduce((t, c) => t + (c.floored ? 0 : c.df * c.s ** 2), 0) / df);
    if (cells.length < 2 || !(pooled > 0)) continue;
    const judged = cells.map((cell) => ({ cell, p: chiSquaredUpper((cell.df * cell.s ** 2) / pooled ** 2, cell.df) }));
    const worst = judged.reduce((a, b) => (b.p < a.p ? b : a));
    return { from, cells, pooled, worst: worst.cell, p: Math.min(1, worst.p * cells.length) };
  }
  return undefined;
}
