import { GAUSS_SEVEN } from "../numerics/quadrature";
import { seededRandom } from "../numerics/random";
import { activeFactors, code, decode, isNumeric } from "../study/coding";
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

const SAMPLES = 16_384;
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
 * left aside. A polynomial's come in closed form from the variance of its parts; models on another scale are
 * sampled (Saltelli et al. 2010 for the first order, Jansen 1999 for the total), seeded.
 *
 * @returns one row per factor in use, all zero for a model without terms
 */
export function importanceOf(study: Study, predictor: Predictor, seed = 1): Importance[] {
  return predictor.model.link.identity ? ofPolynomial(study, predictor) : bySampling(study, predictor, seed);
}

function ofPolynomial(study: Study, predictor: Predictor): Importance[] {
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

function bySampling(study: Study, predictor: Predictor, seed: number): Importance[] {
  const factors = activeFactors(study);
  const random = seededRandom(seed);
  const draw = (f: Factor): number | string =>
    isNumeric(f)
      ? f.kind === "discrete"
        ? f.values[random.below(f.values.length)]
        : decode(f, 2 * random.uniform() - 1)
      : f.levels[random.below(f.levels.length)];
  const fixed: Settings = Object.fromEntries(
    study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
  );
  const point = (): Settings => ({ ...fixed, ...Object.fromEntries(factors.map((f) => [f.id, draw(f)])) });
  const spoken = new Set(predictor.basis.flatMap((c) => c.column.term));
  const first = new Float64Array(factors.length);
  const total = new Float64Array(factors.length);
  let sum = 0;
  let squares = 0;
  for (let n = 0; n < SAMPLES; n++) {
    const a = point();
    const b = point();
    const ya = predictor.value(a);
    const yb = predictor.value(b);
    sum += ya + yb;
    squares += ya * ya + yb * yb;
    factors.forEach((f, i) => {
      if (!spoken.has(f.id)) return;
      const mixed = predictor.value({ ...a, [f.id]: b[f.id] });
      first[i] += yb * (mixed - ya);
      total[i] += (ya - mixed) ** 2 / 2;
    });
  }
  const variance = squares / (2 * SAMPLES) - (sum / (2 * SAMPLES)) ** 2;
  const share = (v: number): number => (variance > 0 ? Math.min(1, Math.max(0, v / SAMPLES / variance)) : 0);
  return factors.map((f, i) => ({ factor: f.id, first: share(first[i]), total: share(total[i]) }));
}
