import gammaln from "@stdlib/math-base-special-gammaln";
import { normalQuantile } from "./distributions";

// Laws of counts as smooth functions, for numbers too many to be listed.

/** ½ ln 2π. */
const HALF_LOG_CIRCLE = 0.9189385332046727;

/** What Stirling's formula leaves of ln Γ: ln Γ(x) − [(x − ½) ln x − x + ½ ln 2π]; by its series from 8 on. */
function stirlingRest(x: number): number {
  if (x < 8) return gammaln(x) - (x - 0.5) * Math.log(x) + x - HALF_LOG_CIRCLE;
  if (x > 10_000) return (1 / 12 - 1 / 360 / (x * x)) / x;
  const y = 1 / (x * x);
  return (1 / 12 - y * (1 / 360 - y * (1 / 1260 - y * (1 / 1680 - y / 1188)))) / x;
}

/** x ln(x/y) − x + y, without the loss where x is near y (Loader 2000). */
function loss(x: number, y: number): number {
  const off = x - y;
  if (Math.abs(off) > 0.1 * (x + y)) return x * Math.log(x / y) - off;
  // By powers of (x − y)/(x + y), of which every second falls out.
  const v = off / (x + y);
  const square = v * v;
  let sum = off * v;
  let term = 2 * x * v;
  for (let j = 3; ; j += 2) {
    term *= square;
    const next = sum + term / j;
    if (next === sum) return sum;
    sum = next;
  }
}

/** ln P(K = x) where `mean` are expected and events are independent (Loader 2000). */
export const logPoisson = (x: number, mean: number): number =>
  x > 0 ? -loss(x, mean) - stirlingRest(x) - 0.5 * Math.log(x) - HALF_LOG_CIRCLE : x === 0 ? -mean : -Infinity;

/**
 * ln P(K = x) among n independent pieces (Loader 2000); for numbers that are not whole too.
 * @param rest 1 − share, where it is known more exactly
 */
export function logBinomial(x: number, n: number, share: number, rest = 1 - share): number {
  if (!(x >= 0) || x > n) return -Infinity;
  if (x === 0) return share < 0.1 ? n * Math.log1p(-share) : n * Math.log(rest);
  if (x === n) return rest < 0.1 ? n * Math.log1p(-rest) : n * Math.log(share);
  const whole = stirlingRest(n) - stirlingRest(x) - stirlingRest(n - x);
  const apart = loss(x, n * share) + loss(n - x, n * rest);
  return whole - apart + 0.5 * Math.log(n / x / (n - x)) - HALF_LOG_CIRCLE;
}

/** ln P(K = x) of variance μ + κμ², κ > 0: as many events before the 1/κ-th of another kind. */
function logNegativeBinomial(mean: number, kappa: number): (x: number) => number {
  const size = 1 / kappa;
  const fall = 1 + kappa * mean;
  return (x) => logBinomial(x, x + size, (kappa * mean) / fall, 1 / fall) + Math.log(size / (x + size));
}

/** ln P(K = x) among n pieces whose share is beta with parameters a and b, by binomials: nothing large cancels. */
function logBetaBinomial(n: number, a: number, b: number): (x: number) => number {
  const all = a + b;
  const [share, rest] = [a / all, b / all];
  const constant = logBinomial(a, all, share, rest) + Math.log((a / all) * b * (all + n));
  return (x) =>
    constant +
    logBinomial(x, n, share, rest) -
    logBinomial(a + x, all + n, share, rest) -
    Math.log((a + x) * (b + n - x));
}

/** Nodes and weights of Gauss and Legendre on [−1, 1], by Newton's steps on the polynomial. */
function legendre(n: number): { x: number; w: number }[] {
  return Array.from({ length: n }, (_, i) => {
    let x = Math.cos((Math.PI * (i + 0.75)) / (n + 0.5));
    let slope = 0;
    for (let step = 0; step < 50; step++) {
      let [before, now] = [1, x];
      for (let k = 2; k <= n; k++) [before, now] = [now, ((2 * k - 1) * x * now - (k - 1) * before) / k];
      slope = (n * (x * now - before)) / (x * x - 1);
      const off = now / slope;
      x -= off;
      if (Math.abs(off) < 1e-16) break;
    }
    return { x, w: 2 / ((1 - x * x) * slope * slope) };
  });
}
const NODES = Object.freeze(legendre(12));

/** Numbers at either end that are added one by one: there the probabilities may rise or fall as a power. */
const SINGLE = 64;
/** What a tail may lack of itself. */
const LACKING = 1e-12;

/** Probabilities of numbers from 0 on, as a smooth function. */
interface Smooth {
  log(x: number): number;
  most: number;
  middle: number;
  spread: number;
  /** It has one peak, within. */
  peaked: boolean;
}

/** How numbers fall that are too many to be listed. */
export interface WideLaw {
  /** P(K ≤ k). */
  upTo(k: number): number;
  /** P(K = k). */
  at(k: number): number;
  /** P(K ≤ k) on the normal scale, from the nearer tail: it keeps its digits at both ends. */
  normal(k: number): number;
}

/** The place on the normal scale that leaves so little on its side. */
const outside = (tail: number): number => normalQuantile(Math.min(1 - 1e-16, Math.max(1e-300, tail)));

/**
 * Sums of numbers whose probabilities are a smooth function, by Euler and Maclaurin's formula at the midpoints with
 * differences for slopes: Σ f(j) = ∫ f − (Δ/24 − 17Δ³/5760 + 367Δ⁵/967680) at the ends, below 1e−11 where the spread is
 * forty or more; from the nearer tail inwards, so that a small figure keeps its digits.
 */
function smooth({ log, most, middle, spread, peaked }: Smooth): WideLaw {
  const f = (x: number): number => Math.exp(log(x));
  /** What the integral from a cut upwards lacks of the sum. */
  const rise = (cut: number): number => {
    const [a, b, c] = [f(cut + 0.5) - f(cut - 0.5), f(cut + 1.5) - f(cut - 1.5), f(cut + 2.5) - f(cut - 2.5)];
    return a / 24 - (17 * (b - 3 * a)) / 5760 + (367 * (c - 5 * b + 10 * a)) / 967680;
  };
  /** Σ f from a cut between two numbers to an end, as far as anything is to be had; `sign` −1 downwards, 1 upwards. */
  const tail = (from: number, sign: 1 | -1): number => {
    const end = sign < 0 ? SINGLE - 0.5 : most - SINGLE + 0.5;
    let total = sign * rise(from);
    let x = from;
    while (sign * (end - x) > 0) {
      const room = sign < 0 ? x : most - x;
      const wide = Math.min(Math.abs(end - x), 3 * spread, room / 2);
      let panel = 0;
      for (const { x: node, w } of NODES) panel += w * f(x + sign * (wide / 2) * (1 + node));
      panel *= wide / 2;
      total += panel;
      x += sign * wide;
      // With its peak behind it, what comes is less and less.
      if (peaked && panel <= LACKING * total && sign * (x - middle) > 0) return total;
    }
    total -= sign * rise(end);
    for (let j = 0; j < SINGLE; j++) total += f(sign < 0 ? j : most - j);
    return total;
  };
  const single = (first: number, last: number): number => {
    let total = 0;
    for (let j = first; j <= last; j++) total += f(j);
    return total;
  };
  /** What lies up to k, or above it: the nearer of the two. */
  const nearer = (k: number): { below: boolean; tail: number } => {
    if (k < 0) return { below: true, tail: 0 };
    if (k >= most) return { below: false, tail: 0 };
    if (k < SINGLE) return { below: true, tail: single(0, k) };
    if (most - k <= SINGLE) return { below: false, tail: single(k + 1, most) };
    const below = k + 0.5 < middle;
    return { below, tail: tail(k + 0.5, below ? -1 : 1) };
  };
  return {
    upTo(k) {
      const found = nearer(k);
      const tail = Math.min(1, Math.max(0, found.tail));
      return found.below ? tail : 1 - tail;
    },
    at: (k) => (k < 0 || k > most ? 0 : f(k)),
    normal(k) {
      const { below, tail } = nearer(k);
      // What is nearer by its place may still be the larger part.
      const small = Math.min(1, tail);
      return below ? outside(small) : -outside(small);
    },
  };
}

/** Events among n independent pieces. */
export const wideBinomial = (n: number, share: number): WideLaw =>
  smooth({
    log: (x) => logBinomial(x, n, share),
    most: n,
    middle: n * share,
    spread: Math.sqrt(n * share * (1 - share)),
    peaked: true,
  });

/** Events among n pieces whose share is beta with parameters a and b. */
export const wideBetaBinomial = (n: number, a: number, b: number): WideLaw =>
  smooth({
    log: logBetaBinomial(n, a, b),
    most: n,
    middle: (n * a) / (a + b),
    spread: Math.sqrt(((n * a * b) / (a + b) ** 2) * ((a + b + n) / (a + b + 1))),
    peaked: a > 1 && b > 1,
  });

/** Events that are independent. */
export const widePoisson = (mean: number): WideLaw =>
  smooth({
    log: (x) => logPoisson(x, mean),
    most: Number.POSITIVE_INFINITY,
    middle: mean,
    spread: Math.sqrt(mean),
    peaked: true,
  });

/** Events of variance μ + κμ². */
export const wideNegativeBinomial = (mean: number, kappa: number): WideLaw =>
  smooth({
    log: logNegativeBinomial(mean, kappa),
    most: Number.POSITIVE_INFINITY,
    middle: mean,
    spread: Math.sqrt(mean * (1 + kappa * mean)),
    peaked: true,
  });
