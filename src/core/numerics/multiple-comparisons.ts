import gammaln from "@stdlib/math-base-special-gammaln";
import { normalCdf, normalQuantile, tQuantile } from "./distributions";
import { integrate, pointsOf } from "./quadrature";

/**
 * Distributions of the largest of several values over one estimated standard deviation: the largest size of k
 * independent ones (studentized maximum modulus; Pillai & Ramachandran 1954, Stoline & Ury 1979) and the distance
 * between the ends of r (studentized range; Tukey 1953). Degrees of freedom null stand for a known deviation.
 */

/** Mean of a function of s = √(χ²/ν); of s = 1 where the deviation is known. */
function overDeviation(of: (s: number) => number, df: number | null, panels: number): number {
  if (df === null) return of(1);
  const reach = 12 / Math.sqrt(2 * df);
  const constant = Math.log(2) + (df / 2) * Math.log(df / 2) - gammaln(df / 2);
  // Over ln s: with few degrees of freedom what is asked changes where s is smallest.
  return integrate(
    (u) => Math.exp(constant + df * u - (df * Math.exp(2 * u)) / 2) * of(Math.exp(u)),
    Math.max(-34 / df - 0.5, reach < 1 ? Math.log(1 - reach) : Number.NEGATIVE_INFINITY),
    Math.log(1 + reach),
    panels,
  );
}

/** More where degrees of freedom are few and the deviation may be next to nothing. */
const panelsFor = (df: number | null, usual: number): number =>
  df !== null && df < 4 ? usual + Math.ceil(60 / df) : usual;

/** P(max |tᵢ| > q) for k independent normal values over one deviation. */
export const maximumModulusUpper = (q: number, k: number, df: number | null): number =>
  overDeviation((s) => -Math.expm1(k * Math.log1p(-2 * normalCdf(-q * s))), df, panelsFor(df, 40));

/** P(range of r independent normal values over one deviation > q). */
export function studentizedRangeUpper(q: number, r: number, df: number | null): number {
  // All of the values lie within w below the highest one, z, which is one of r.
  const highest = pointsOf(-8, 8, 16).map(({ x, weight }) => ({
    z: x,
    below: normalCdf(x),
    density: (weight * Math.exp((-x * x) / 2)) / Math.sqrt(2 * Math.PI),
  }));
  const beyond = (w: number): number =>
    1 - r * highest.reduce((t, { z, below, density }) => t + density * (below - normalCdf(z - w)) ** (r - 1), 0);
  return Math.max(
    0,
    overDeviation((s) => beyond(q * s), df, panelsFor(df, 14)),
  );
}

/** Where a falling tail is `tail`, by secants of its logarithm over that of the place, from just above it. */
function whereTail(upper: (q: number) => number, tail: number, above: number): number {
  const off = (u: number): number => Math.log(upper(Math.exp(u)) / tail);
  let [u, before] = [Math.log(above) - 0.02, Math.log(above)];
  let [here, there] = [off(u), off(before)];
  for (let i = 0; i < 30 && Math.abs(u - before) > 1e-9 && here !== there; i++) {
    const next = u - (here * (u - before)) / (here - there);
    [before, there] = [u, here];
    [u, here] = [next, off(next)];
  }
  return Math.exp(u);
}

/** The size that one of so many values stays below by Bonferroni's bound: what the joint size lies just under. */
const bound = (confidence: number, ways: number, df: number | null): number => {
  const p = 1 - (1 - confidence) / (2 * ways);
  return df === null ? normalQuantile(p) : tQuantile(p, df);
};

/** The size that the largest of k values over one deviation stays below with this confidence. */
export const maximumModulusQuantile = (confidence: number, k: number, df: number | null): number =>
  whereTail((q) => maximumModulusUpper(q, k, df), 1 - confidence, bound(confidence, k, df));

/** The range of r values over one deviation that is kept with this confidence. */
export const studentizedRangeQuantile = (confidence: number, r: number, df: number | null): number =>
  whereTail(
    (q) => studentizedRangeUpper(q, r, df),
    1 - confidence,
    Math.SQRT2 * bound(confidence, (r * (r - 1)) / 2, df),
  );
