import type { Random } from "./random";
import { logBinomial, logPoisson } from "./wide-counts";

// Whole numbers drawn by their laws. What a draw costs does not grow with how many are counted.

/** Where so few are expected, numbers are tried one by one from 0 on. */
const FEW = 10;

/** The first number whose sum of probabilities is past a uniform one: from its first and their ratios. */
function oneByOne(random: Random, first: number, most: number, up: (k: number) => number): number {
  let left = random.uniform();
  let p = first;
  for (let k = 0; ; k++) {
    left -= p;
    // Below rounding nothing is left to be found.
    if (left < 0 || k >= most || (p < 1e-18 && k > FEW)) return k;
    p *= up(k);
  }
}

/**
 * Transformed rejection with a squeeze (Hörmann 1993, "The transformed rejection method for generating Poisson random
 * variables", and "The generation of binomial random variates").
 * @param b,a,centre,squeeze his constants
 * @param log ln of the probability, with his normalising constant in it
 */
function byRejection(
  random: Random,
  { b, a, centre, squeeze }: { b: number; a: number; centre: number; squeeze: number },
  most: number,
  log: (k: number) => number,
): number {
  for (;;) {
    const u = random.uniform() - 0.5;
    const v = random.uniform();
    const us = 0.5 - Math.abs(u);
    const k = Math.floor(((2 * a) / us + b) * u + centre);
    if (us >= 0.07 && v <= squeeze) return k;
    if (k < 0 || k > most || (us < 0.013 && v > us)) continue;
    if (Math.log(v / (a / (us * us) + b)) <= log(k)) return k;
  }
}

/** Events where `mean` are expected, independent. */
export function drawPoisson(mean: number, random: Random): number {
  if (!(mean > 0)) return 0;
  // Beyond, there is no next whole number.
  if (mean > Number.MAX_SAFE_INTEGER) return Number.MAX_SAFE_INTEGER;
  if (mean < FEW) return oneByOne(random, Math.exp(-mean), Number.POSITIVE_INFINITY, (k) => mean / (k + 1));
  const b = 0.931 + 2.53 * Math.sqrt(mean);
  const scale = Math.log(1.1239 + 1.1328 / (b - 3.4));
  return byRejection(
    random,
    { b, a: -0.059 + 0.02483 * b, centre: mean + 0.43, squeeze: 0.9277 - 3.6224 / (b - 2) },
    Number.POSITIVE_INFINITY,
    (k) => logPoisson(k, mean) - scale,
  );
}

/** Events among n independent pieces. */
export function drawBinomial(n: number, share: number, random: Random): number {
  if (!(share > 0)) return 0;
  if (!(share < 1)) return n;
  if (share > 0.5) return n - drawBinomial(n, 1 - share, random);
  const odds = share / (1 - share);
  if (n * share < FEW) return oneByOne(random, Math.exp(n * Math.log1p(-share)), n, (k) => ((n - k) / (k + 1)) * odds);
  const spread = Math.sqrt(n * share * (1 - share));
  const b = 1.15 + 2.53 * spread;
  const top = logBinomial(Math.min(n, Math.floor((n + 1) * share)), n, share);
  const scale = Math.log((2.83 + 5.1 / b) * spread);
  return byRejection(
    random,
    { b, a: -0.0873 + 0.0248 * b + 0.01 * share, centre: n * share + 0.5, squeeze: 0.92 - 4.2 / b },
    n,
    (k) => logBinomial(k, n, share) - top - scale,
  );
}

/** Events among n pieces: binomial, or beta-binomial with intraclass correlation ρ: a share of its own for each lot. */
export function drawShare(n: number, share: number, rho: number, random: Random): number {
  if (!(rho > 0) || !(share > 0) || !(share < 1)) return drawBinomial(n, share, random);
  const size = (1 - rho) / rho;
  const [up, down] = [random.chiSquared(2 * share * size), random.chiSquared(2 * (1 - share) * size)];
  if (!(up + down > 0)) return random.uniform() < share ? n : 0;
  return drawBinomial(n, up / (up + down), random);
}

/** Events where `mean` are expected, with variance μ + κμ²: a mean of its own for each lot. */
export function drawRate(mean: number, kappa: number, random: Random): number {
  if (!(kappa > 0) || !(mean > 0)) return drawPoisson(mean, random);
  return drawPoisson((mean * kappa * random.chiSquared(2 / kappa)) / 2, random);
}
