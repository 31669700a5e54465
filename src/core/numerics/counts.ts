import { chiSquaredQuantile, fQuantile } from "./distributions";

/** Probabilities of whole numbers from `from` on; what is left out on either side is below rounding. */
export interface CountLaw {
  from: number;
  probabilities: Float64Array;
}

/** Probabilities this far below the largest are not worth a place. */
const NEGLIGIBLE = 1e-22;

/**
 * Probabilities from their ratios, upwards and downwards from a start, scaled to one: no function of the largest
 * probability itself is needed, so nothing overflows.
 *
 * @param up p(k + 1)/p(k)
 * @param whole look at all numbers up to `most`: the probabilities may fall and rise again
 */
function fromRatios(start: number, most: number, up: (k: number) => number, whole: boolean): CountLaw {
  const above: number[] = [1];
  const below: number[] = [];
  let sum = 1;
  let largest = 1;
  for (let k = start, p = 1; k < most; k++) {
    p *= up(k);
    if (p > largest) largest = p;
    if (!whole && p < NEGLIGIBLE * largest) break;
    above.push(p);
    sum += p;
  }
  for (let k = start - 1, p = 1; k >= 0; k--) {
    p /= up(k);
    if (p > largest) largest = p;
    if (!whole && p < NEGLIGIBLE * largest) break;
    below.push(p);
    sum += p;
  }
  const probabilities = new Float64Array(below.length + above.length);
  below.forEach((p, i) => {
    probabilities[below.length - 1 - i] = p / sum;
  });
  above.forEach((p, i) => {
    probabilities[below.length + i] = p / sum;
  });
  return { from: start - below.length, probabilities };
}

const certain = (at: number): CountLaw => ({ from: at, probabilities: Float64Array.of(1) });

/**
 * Events among n pieces: binomial, or beta-binomial where shares vary from lot to lot with intraclass correlation ρ
 * (Williams 1975), variance nπ(1−π)(1+(n−1)ρ).
 */
export function shareLaw(n: number, share: number, rho: number): CountLaw {
  if (!(share > 0)) return certain(0);
  if (!(share < 1)) return certain(n);
  if (!(rho > 0))
    return fromRatios(
      Math.min(n, Math.floor((n + 1) * share)),
      n,
      (k) => ((n - k) / (k + 1)) * (share / (1 - share)),
      false,
    );
  const a = (share * (1 - rho)) / rho;
  const b = ((1 - share) * (1 - rho)) / rho;
  const mode = a > 1 && b > 1 ? Math.floor(((a - 1) * (n + 1)) / (a + b - 2)) : Math.floor(n * share);
  return fromRatios(
    Math.min(n, Math.max(0, mode)),
    n,
    (k) => ((n - k) / (k + 1)) * ((a + k) / (b + n - k - 1)),
    a < 1 || b < 1,
  );
}

/** Events where `mean` are expected: Poisson, or negative binomial with variance μ + κμ² (Breslow 1984). */
export function rateLaw(mean: number, kappa: number): CountLaw {
  if (!(mean > 0)) return certain(0);
  const mode = Math.max(0, Math.floor(mean * (1 - kappa)));
  const fall = 1 + kappa * mean;
  return fromRatios(mode, Number.POSITIVE_INFINITY, (k) => (mean * (1 + kappa * k)) / ((k + 1) * fall), false);
}

/** P(low ≤ K ≤ high). */
export function within({ from, probabilities }: CountLaw, low: number, high: number): number {
  let total = 0;
  const first = Math.max(0, Math.ceil(low) - from);
  const last = Math.min(probabilities.length - 1, Math.floor(high) - from);
  for (let i = first; i <= last; i++) total += probabilities[i];
  return Math.min(1, total);
}

/** Mixture of laws, equally weighted unless said. */
export function mixture(laws: readonly CountLaw[], weights?: readonly number[]): CountLaw {
  const from = laws.reduce((m, l) => Math.min(m, l.from), Number.POSITIVE_INFINITY);
  const to = laws.reduce((m, l) => Math.max(m, l.from + l.probabilities.length), 0);
  const probabilities = new Float64Array(to - from);
  laws.forEach((l, k) => {
    const weight = weights?.[k] ?? 1 / laws.length;
    for (let i = 0; i < l.probabilities.length; i++) probabilities[l.from - from + i] += weight * l.probabilities[i];
  });
  return { from, probabilities };
}

/** The numbers that leave at most `tail` on either side: smallest k with P(K ≤ k) > tail, and its mirror image. */
export function central({ from, probabilities }: CountLaw, tail: number): [number, number] {
  let low = 0;
  let sum = probabilities[0];
  while (low < probabilities.length - 1 && sum <= tail) sum += probabilities[++low];
  let high = probabilities.length - 1;
  sum = probabilities[high];
  while (high > low && sum <= tail) sum += probabilities[--high];
  return [from + low, from + high];
}

/** Value below which a beta variable stays with probability p, by the quantile of F that it is made of. */
function betaQuantile(p: number, a: number, b: number): number {
  const f = fQuantile(p, 2 * a, 2 * b);
  return (a * f) / (b + a * f);
}

/** Exact interval of a share of which k of n were counted (Clopper & Pearson 1934). */
export function exactShareInterval(k: number, n: number, confidence: number): [number, number] {
  const tail = (1 - confidence) / 2;
  return [k === 0 ? 0 : betaQuantile(tail, k, n - k + 1), k === n ? 1 : betaQuantile(1 - tail, k + 1, n - k)];
}

/** Exact interval of a rate where k events were counted over an exposure (Garwood 1936). */
export function exactRateInterval(k: number, exposure: number, confidence: number): [number, number] {
  const tail = (1 - confidence) / 2;
  return [
    k === 0 ? 0 : chiSquaredQuantile(tail, 2 * k) / 2 / exposure,
    chiSquaredQuantile(1 - tail, 2 * k + 2) / 2 / exposure,
  ];
}
