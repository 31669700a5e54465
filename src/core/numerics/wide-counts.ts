import betainc from "@stdlib/math-base-special-betainc";
import gammaln from "@stdlib/math-base-special-gammaln";

// Distribution functions of counts, for numbers too many to be listed.

/** P(K ≤ k) of events among n independent pieces, by the incomplete beta function. */
export const binomialUpTo = (k: number, n: number, share: number): number =>
  k < 0 ? 0 : k >= n ? 1 : betainc(1 - share, n - k, k + 1);

/** P(K ≤ k) where `mean` events are expected, with variance μ + κμ², κ > 0, by the incomplete beta function. */
export const negativeBinomialUpTo = (k: number, mean: number, kappa: number): number =>
  k < 0 || !Number.isFinite(mean) ? 0 : betainc(1 / (1 + kappa * mean), 1 / kappa, k + 1);

/** What Stirling's series leaves of ln Γ: ln Γ(x) − [(x − ½) ln x − x + ½ ln 2π], for x from 8 on. */
const stirlingRest = (x: number): number => {
  const y = 1 / (x * x);
  return (1 / 12 - y * (1 / 360 - y * (1 / 1260 - y * (1 / 1680 - y / 1188)))) / x;
};

/** ln Γ(x + d) − ln Γ(x), without the loss of two large numbers that are nearly the same. */
function gammaRise(x: number, d: number): number {
  if (x < 8 || x + d < 8) return gammaln(x + d) - gammaln(x);
  return (x - 0.5) * Math.log1p(d / x) + d * Math.log(x + d) - d + stirlingRest(x + d) - stirlingRest(x);
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
/** Below this a tail is not worth adding. */
const NOTHING = 1e-20;

/** Probabilities of numbers from 0 on, as a smooth function. */
interface Smooth {
  f(x: number): number;
  most: number;
  middle: number;
  spread: number;
  /** It has one peak, within. */
  peaked: boolean;
}

/**
 * P(K ≤ k) of numbers whose probabilities are a smooth function: the sum by Euler and Maclaurin's formula at the
 * midpoints, Σ f(j) = ∫ f − (Δf at the ends)/24, whose next term is below 1e−11 where the spread is a hundred or more;
 * from the nearer tail inwards, so that a small figure keeps its digits.
 */
function smoothUpTo({ f, most, middle, spread, peaked }: Smooth): (k: number) => number {
  /** Σ f from a cut between two numbers to an end, as far as anything is to be had; `sign` −1 downwards, 1 upwards. */
  const tail = (from: number, sign: 1 | -1): number => {
    const end = sign < 0 ? SINGLE - 0.5 : most - SINGLE + 0.5;
    let total = 0;
    let x = from;
    while (sign * (end - x) > 0) {
      const room = sign < 0 ? x : most - x;
      const wide = Math.min(Math.abs(end - x), spread, room / 2);
      let panel = 0;
      for (const { x: node, w } of NODES) panel += w * f(x + sign * (wide / 2) * (1 + node));
      panel *= wide / 2;
      total += panel;
      x += sign * wide;
      // With its peak behind it, what comes is less and less.
      if (peaked && panel < NOTHING * (1 + total) && sign * (x - middle) > 0) return total;
    }
    total -= (sign * (f(end + 0.5) - f(end - 0.5))) / 24;
    for (let j = 0; j < SINGLE; j++) total += f(sign < 0 ? j : most - j);
    return total;
  };
  const single = (first: number, last: number): number => {
    let total = 0;
    for (let j = first; j <= last; j++) total += f(j);
    return Math.min(1, total);
  };
  return (k) => {
    if (k < 0) return 0;
    if (k >= most) return 1;
    if (k < SINGLE) return single(0, k);
    if (most - k <= SINGLE) return 1 - single(k + 1, most);
    const cut = k + 0.5;
    const rise = (f(k + 1) - f(k)) / 24;
    return cut < middle
      ? Math.min(1, Math.max(0, tail(cut, -1) - rise))
      : Math.min(1, Math.max(0, 1 - tail(cut, 1) - rise));
  };
}

/** P(K ≤ k) of the beta-binomial law of n pieces with parameters a and b, n large. */
export function betaBinomialUpTo(n: number, a: number, b: number): (k: number) => number {
  const constant = gammaln(a + b) - gammaln(a) - gammaln(b) - gammaRise(n + 1, a + b - 1);
  return smoothUpTo({
    f: (x) => Math.exp(constant + gammaRise(x + 1, a - 1) + gammaRise(n - x + 1, b - 1)),
    most: n,
    middle: (n * a) / (a + b),
    spread: Math.sqrt(((n * a * b) / (a + b) ** 2) * ((a + b + n) / (a + b + 1))),
    peaked: a > 1 && b > 1,
  });
}

/** x ln(x/y) − x + y, without the loss where x is near y (Loader 2000). */
function loss(x: number, y: number): number {
  const off = (x - y) / y;
  if (Math.abs(off) > 0.1) return x * Math.log(x / y) - x + y;
  // y((1 + d) ln(1 + d) − d) = y(d²/2 − d³/6 + d⁴/12 − …), of which ln(1 + d) has all but the first terms.
  let term = off * off;
  let sum = 0;
  for (let j = 2; j < 40; j++) {
    const part = term / (j * (j - 1));
    sum += j % 2 ? -part : part;
    if (Math.abs(part) < 1e-18 * Math.abs(sum)) break;
    term *= off;
  }
  return y * sum;
}

/** P(K ≤ k) where so many are expected that Poisson's law has no list. */
export const poissonUpTo = (mean: number): ((k: number) => number) =>
  smoothUpTo({
    f: (x) => (x < 8 ? 0 : Math.exp(-loss(x, mean) - stirlingRest(x)) / Math.sqrt(2 * Math.PI * x)),
    most: Number.POSITIVE_INFINITY,
    middle: mean,
    spread: Math.sqrt(mean),
    peaked: true,
  });
