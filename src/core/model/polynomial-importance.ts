import { GAUSS_SEVEN } from "../numerics/quadrature";
import { code } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Factor, Study } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { type Coefficient, columnParts } from "./polynomial";
import type { Importance } from "./surface";

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
 * Sobol' indices on the scale a model is fitted on, where every model is a polynomial: quick whatever the scale, to put
 * factors in an order by.
 */
export function polynomialImportance(study: Study, basis: readonly Coefficient[]): Importance[] {
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
  for (const { column, value } of basis) {
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
