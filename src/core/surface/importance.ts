import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { scrambledHalton } from "../numerics/low-discrepancy";
import { GAUSS_SEVEN, pointsOf } from "../numerics/quadrature";
import { seededRandom } from "../numerics/random";
import { code, decode, isNumeric } from "../study/coding";
import { activeFactors, heldAt } from "../study/roles";
import type { Factor, Settings, Study } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { columnParts } from "./polynomial";
import type { Predictor } from "./predict";

/** How much of a response's variation over the box comes from a factor. */
export interface Importance {
  factor: string;
  /** By itself (Sobol' 1993, first order). */
  first: number;
  /** With all interactions it takes part in (Homma & Saltelli 1996). */
  total: number;
}

/** Importance of every factor in use. */
export interface ImportanceTable {
  /** Empty where it cannot be told. */
  rows: Importance[];
  /** Standard error of the indices where they were sampled; null where they are worked out. */
  error: number | null;
  /** Why there is none. */
  absent?: Message<RemarkValues>;
}

/** Factors up to which a model on another scale is integrated rather than sampled. */
const MOST_INTEGRATED = 6;
/** Points that an integration may take; sampling takes as many models' values. */
const MOST_POINTS = 250_000;
/** Independent scrambles of the sample, by which its error is known, and points of each. */
const SCRAMBLES = 16;
const POINTS = 2048;
/** Values a coded factor takes when spread evenly over its range, with their weights. */
function spreadOf(factor: Factor): { values: number[]; weights: number[] } {
  if (factor.kind === "categorical")
    return { values: factor.levels.map((_, i) => i), weights: factor.levels.map(() => 1 / factor.levels.length) };
  if (factor.kind === "discrete")
    return {
      values: factor.values.map((v) => code(factor, v)),
      weights: factor.values.map(() => 1 / factor.values.length),
    };
  return { values: GAUSS_SEVEN.map((g) => g.node), weights: GAUSS_SEVEN.map((g) => g.weight / 2) };
}

/**
 * Sobol' indices of a model with its factors spread evenly and independently over their ranges, limits of the region
 * left aside. A polynomial's come in closed form from the variance of its parts; on another scale by Gauss quadrature
 * over up to six factors, of more by a scrambled low-discrepancy sample (Saltelli et al. 2010 for the first order,
 * Jansen 1999 for the total), its error by independent scrambles.
 *
 * @returns one row per factor in use, all zero for a model without terms; no rows where the way back to the response's
 *   own scale has a pole in the region
 */
export function importanceOf(study: Study, predictor: Predictor): ImportanceTable {
  if (predictor.model.link.identity) return { rows: ofPolynomial(study, predictor), error: null };
  const spoken = new Set(predictor.basis.flatMap((c) => c.column.term));
  const active = activeFactors(study).filter((f) => spoken.has(f.id));
  const found =
    active.length <= MOST_INTEGRATED ? byQuadrature(study, predictor, active) : bySampling(study, predictor, active);
  if (found) return found;
  return {
    rows: [],
    error: null,
    absent: { code: "no-importance", values: { scale: predictor.model.link.name } },
  };
}

/** Settings of all factors with those that make no difference at some allowed place. */
const baseOf = (study: Study): Settings =>
  Object.fromEntries(study.factors.map((f) => [f.id, heldAt(f) ?? (isNumeric(f) ? decode(f, 0) : f.levels[0])]));

/** Rows of all factors in use, those that no term speaks of at 0. */
const rowsOf = (
  study: Study,
  active: readonly Factor[],
  first: ArrayLike<number>,
  total: ArrayLike<number>,
): Importance[] =>
  activeFactors(study).map((f) => {
    const i = active.indexOf(f);
    return { factor: f.id, first: i < 0 ? 0 : Math.min(first[i], total[i]), total: i < 0 ? 0 : total[i] };
  });

/**
 * Indices by tensor Gauss quadrature: seven points on as many panels of each continuous factor as there is room for,
 * every listed value and level.
 *
 * @returns undefined where some value is not finite
 */
function byQuadrature(study: Study, predictor: Predictor, active: readonly Factor[]): ImportanceTable | undefined {
  const listed = active.reduce(
    (n, f) => n * (f.kind === "continuous" ? 1 : isNumeric(f) ? f.values.length : f.levels.length),
    1,
  );
  const continuous = active.filter((f) => f.kind === "continuous").length;
  let panels = 1;
  while (panels < 8 && listed * (7 * (panels + 1)) ** continuous <= MOST_POINTS) panels++;
  if (listed * (7 * panels) ** continuous > 4 * MOST_POINTS) return bySampling(study, predictor, active);
  const axes = active.map((f): { values: (number | string)[]; weights: number[] } => {
    if (f.kind === "categorical") return { values: f.levels, weights: f.levels.map(() => 1 / f.levels.length) };
    if (f.kind === "discrete") return { values: f.values, weights: f.values.map(() => 1 / f.values.length) };
    const points = pointsOf(-1, 1, panels);
    return { values: points.map((p) => decode(f, p.x)), weights: points.map((p) => p.weight / 2) };
  });
  const sizes = axes.map((a) => a.values.length);
  const points = sizes.reduce((n, m) => n * m, 1);
  const values = new Float64Array(points);
  const settings = baseOf(study);
  for (let k = 0; k < points; k++) {
    let rest = k;
    axes.forEach((axis, i) => {
      settings[active[i].id] = axis.values[rest % sizes[i]];
      rest = Math.floor(rest / sizes[i]);
    });
    values[k] = predictor.value(settings);
    if (!Number.isFinite(values[k])) return undefined;
  }
  const weightOf = (k: number): number => {
    let rest = k;
    return axes.reduce((w, axis, i) => {
      const own = axis.weights[rest % sizes[i]];
      rest = Math.floor(rest / sizes[i]);
      return w * own;
    }, 1);
  };
  const weights = Float64Array.from({ length: points }, (_, k) => weightOf(k));
  const mean = weights.reduce((t, w, k) => t + w * values[k], 0);
  const variance = weights.reduce((t, w, k) => t + w * (values[k] - mean) ** 2, 0);
  const share = (v: number): number => (variance > 0 ? v / variance : 0);
  const first: number[] = [];
  const total: number[] = [];
  for (let i = 0, inner = 1; i < sizes.length; inner *= sizes[i++]) {
    const { weights: own } = axes[i];
    const conditional = new Float64Array(sizes[i]);
    let within = 0;
    // Lines along the factor, all others standing.
    for (let from = 0; from < points; from++) {
      if (Math.floor(from / inner) % sizes[i] !== 0) continue;
      let line = 0;
      for (let j = 0; j < sizes[i]; j++) line += own[j] * values[from + j * inner];
      for (let j = 0; j < sizes[i]; j++) {
        const k = from + j * inner;
        conditional[j] += (weights[k] / own[j]) * values[k];
        within += weights[k] * (values[k] - line) ** 2;
      }
    }
    first.push(share(conditional.reduce((t, v, j) => t + own[j] * (v - mean) ** 2, 0)));
    total.push(share(within));
  }
  return { rows: rowsOf(study, active, first, total), error: null };
}

/**
 * Sobol' indices on the scale a model is fitted on, where every model is a polynomial: quick whatever the scale, to put
 * factors in an order by.
 */
export function ofPolynomial(study: Study, predictor: Predictor): Importance[] {
  const factors = activeFactors(study);
  const spreads = new Map(factors.map((f) => [f.id, spreadOf(f)]));
  /** Values of one factor's part of a column over the factor's spread. */
  const values = (id: string, power: number, contrast: number): number[] => {
    const f = factors.find((x) => x.id === id);
    const s = spreads.get(id);
    if (!f || !s) return [];
    if (f.kind === "categorical") {
      const rows = contrastRows(f.levels.length, "sum");
      return s.values.map((level) => rows[level][contrast]);
    }
    return s.values.map((x) => x ** power);
  };
  const meanOver = (id: string, v: readonly number[]): number =>
    v.reduce((t, x, i) => t + x * (spreads.get(id)?.weights[i] ?? 0), 0);
  /**
   * Parts of the model by the set of factors they vary with (Hoeffding 1948), each a sum of products of centred
   * parts.
   */
  const bySet = new Map<string, { ids: string[]; pieces: { weight: number; parts: number[][] }[] }>();
  for (const { column, value } of predictor.basis) {
    if (column.term.length === 0 || column.term.some((id) => !spreads.has(id))) continue;
    const parts = columnParts(study, column).map((p) => {
      const v = values(p.id, p.power, p.contrast);
      const mean = meanOver(p.id, v);
      return { id: p.id, mean, centred: v.map((x) => x - mean) };
    });
    for (let mask = 1; mask < 1 << parts.length; mask++) {
      const inside = parts.filter((_, i) => (mask >> i) & 1).sort((a, b) => (a.id < b.id ? -1 : 1));
      const weight = parts.reduce((t, p, i) => ((mask >> i) & 1 ? t : t * p.mean), value);
      if (weight === 0) continue;
      const key = JSON.stringify(inside.map((p) => p.id));
      const set = bySet.get(key) ?? { ids: inside.map((p) => p.id), pieces: [] };
      set.pieces.push({ weight, parts: inside.map((p) => p.centred) });
      bySet.set(key, set);
    }
  }
  const variances = [...bySet.values()].map(({ ids, pieces }) => {
    let variance = 0;
    for (const a of pieces)
      for (const b of pieces)
        variance += ids.reduce(
          (t, id, i) =>
            t *
            meanOver(
              id,
              a.parts[i].map((x, n) => x * b.parts[i][n]),
            ),
          a.weight * b.weight,
        );
    return { ids, variance };
  });
  const all = variances.reduce((t, v) => t + v.variance, 0);
  const share = (v: number): number => (all > 0 ? v / all : 0);
  return factors.map((f) => ({
    factor: f.id,
    first: share(variances.filter((v) => v.ids.length === 1 && v.ids[0] === f.id).reduce((t, v) => t + v.variance, 0)),
    total: share(variances.filter((v) => v.ids.includes(f.id)).reduce((t, v) => t + v.variance, 0)),
  }));
}

/**
 * Indices by a sample: points of a Halton sequence with its digits scrambled at random (Owen 2017), each index the mean
 * of independent scrambles.
 *
 * @returns undefined where some value is not finite
 */
function bySampling(study: Study, predictor: Predictor, active: readonly Factor[]): ImportanceTable | undefined {
  const k = active.length;
  const random = seededRandom(1);
  const place = (f: Factor, u: number): number | string =>
    f.kind === "continuous"
      ? decode(f, 2 * u - 1)
      : isNumeric(f)
        ? f.values[Math.floor(u * f.values.length)]
        : f.levels[Math.floor(u * f.levels.length)];
  const base = baseOf(study);
  const each: { first: Float64Array; total: Float64Array }[] = [];
  // Products of values about their middle vary far less than products of the values.
  let middle = 0;
  for (let scramble = 0; scramble < SCRAMBLES; scramble++) {
    const points = scrambledHalton(POINTS, 2 * k, random);
    if (scramble === 0)
      middle =
        points.reduce(
          (t, u) =>
            t + predictor.value({ ...base, ...Object.fromEntries(active.map((f, i) => [f.id, place(f, u[i])])) }),
          0,
        ) / POINTS;
    const first = new Float64Array(k);
    const total = new Float64Array(k);
    let sum = 0;
    let squares = 0;
    for (const u of points) {
      const a = { ...base };
      const b = { ...base };
      active.forEach((f, i) => {
        a[f.id] = place(f, u[i]);
        b[f.id] = place(f, u[k + i]);
      });
      const ya = predictor.value(a);
      const yb = predictor.value(b);
      if (!Number.isFinite(ya) || !Number.isFinite(yb)) return undefined;
      sum += ya + yb;
      squares += ya * ya + yb * yb;
      active.forEach((f, i) => {
        const mixed = predictor.value({ ...a, [f.id]: b[f.id] });
        first[i] += (yb - middle) * (mixed - ya);
        total[i] += (ya - mixed) ** 2 / 2;
      });
    }
    const variance = squares / (2 * POINTS) - (sum / (2 * POINTS)) ** 2;
    const share = (v: number): number => (variance > 0 ? Math.min(1, Math.max(0, v / POINTS / variance)) : 0);
    each.push({ first: first.map(share), total: total.map(share) });
  }
  const mean = (of: "first" | "total", i: number): number => each.reduce((t, e) => t + e[of][i], 0) / SCRAMBLES;
  const error = (of: "first" | "total", i: number): number => {
    const centre = mean(of, i);
    return Math.sqrt(each.reduce((t, e) => t + (e[of][i] - centre) ** 2, 0) / (SCRAMBLES - 1) / SCRAMBLES);
  };
  const places = active.map((_, i) => i);
  return {
    rows: rowsOf(
      study,
      active,
      places.map((i) => mean("first", i)),
      places.map((i) => mean("total", i)),
    ),
    error: Math.max(0, ...places.flatMap((i) => [error("first", i), error("total", i)])),
  };
}
