import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import type { Importance, Surface } from "../model/surface";
import { scrambledHalton } from "../numerics/low-discrepancy";
import { pointsOf } from "../numerics/quadrature";
import { seededRandom } from "../numerics/random";
import { decode, isNumeric } from "../study/coding";
import { activeFactors, heldAt } from "../study/roles";
import type { Factor, Settings, Study } from "../study/schema";

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
/**
 * Sobol' indices of a model with its factors spread evenly and independently over their ranges, limits of the region
 * left aside. A polynomial's come in closed form from the variance of its parts; on another scale by Gauss quadrature
 * over up to six factors, of more by a scrambled low-discrepancy sample (Saltelli et al. 2010 for the first order,
 * Jansen 1999 for the total), its error by independent scrambles.
 *
 * @returns one row per factor in use, all zero for a model without terms; no rows where the way back to the response's
 *   own scale has a pole in the region
 */
export function importanceOf(study: Study, predictor: Surface): ImportanceTable {
  const exact = predictor.link.identity ? predictor.influence() : undefined;
  if (exact) return { rows: exact, error: null };
  const spoken = new Set(predictor.speaksOf);
  const active = activeFactors(study).filter((f) => spoken.has(f.id));
  const found =
    active.length <= MOST_INTEGRATED ? byQuadrature(study, predictor, active) : bySampling(study, predictor, active);
  if (found) return found;
  return {
    rows: [],
    error: null,
    absent: { code: "no-importance", values: { scale: predictor.link.name } },
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
function byQuadrature(study: Study, predictor: Surface, active: readonly Factor[]): ImportanceTable | undefined {
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
 * Indices by a sample: points of a Halton sequence with its digits scrambled at random (Owen 2017), each index the mean
 * of independent scrambles.
 *
 * @returns undefined where some value is not finite
 */
function bySampling(study: Study, predictor: Surface, active: readonly Factor[]): ImportanceTable | undefined {
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
