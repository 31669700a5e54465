import betainc from "@stdlib/math-base-special-betainc";
import digammaOf from "@stdlib/math-base-special-digamma";
import erfc from "@stdlib/math-base-special-erfc";
import erfcinv from "@stdlib/math-base-special-erfcinv";
import gammainc from "@stdlib/math-base-special-gammainc";
import gammaln from "@stdlib/math-base-special-gammaln";
import kernelBetaincinv from "@stdlib/math-base-special-kernel-betaincinv";
import trigammaOf from "@stdlib/math-base-special-trigamma";

/**
 * Probability distributions. Tails are computed directly, never as one minus the other side, so that small
 * p-values keep their digits. All are checked against 50-digit references in `distributions.test.ts`.
 */

/** P(Z ≤ z) of the standard normal. */
export const normalCdf = (z: number): number => 0.5 * erfc(-z / Math.SQRT2);

/** z with P(Z ≤ z) = p, 0 < p < 1. */
export const normalQuantile = (p: number): number => -Math.SQRT2 * erfcinv(2 * p);

/** Regularised incomplete beta I_x(a, b) for either side of x without losing the small one. */
function betaTail(x: number, oneMinusX: number, a: number, b: number): number {
  if (x <= 0) return 0;
  if (oneMinusX <= 0) return 1;
  return x <= 0.5 ? betainc(x, a, b, true, false) : betainc(oneMinusX, b, a, true, true);
}

/** P(T > t) of Student's t with `df` degrees of freedom. */
export function tUpper(t: number, df: number): number {
  if (t < 0) return 1 - tUpper(-t, df);
  const half = (df + t * t === Number.POSITIVE_INFINITY ? 0 : df / (df + t * t)) as number;
  return 0.5 * betaTail(half, (t * t) / (df + t * t), df / 2, 0.5);
}

/** P(|T| > |t|): the two-sided p-value. */
export const tTwoSided = (t: number, df: number | null): number =>
  df === null ? 2 * normalCdf(-Math.abs(t)) : Math.min(1, 2 * tUpper(Math.abs(t), df));

/** Natural logarithm of the t density. */
function tLogDensity(t: number, df: number): number {
  return (
    gammaln((df + 1) / 2) - gammaln(df / 2) - 0.5 * Math.log(df * Math.PI) - ((df + 1) / 2) * Math.log1p((t * t) / df)
  );
}

/** t with P(T ≤ t) = p. The library inverse is polished by Newton steps on the distribution function. */
export function tQuantile(p: number, df: number): number {
  if (p === 0.5) return 0;
  const tail = p < 0.5 ? p : 1 - p;
  const [x, y] = kernelBetaincinv(df / 2, 0.5, 2 * tail, 1 - 2 * tail);
  let t = Math.sqrt((df * y) / x);
  for (let i = 0; i < 3; i++) {
    const step = (tUpper(t, df) - tail) / Math.exp(tLogDensity(t, df));
    if (!Number.isFinite(step)) break;
    t += step;
    if (Math.abs(step) < 1e-15 * t) break;
  }
  return p < 0.5 ? -t : t;
}

/** P(F > f) with d1 and d2 degrees of freedom. */
export function fUpper(f: number, d1: number, d2: number | null): number {
  if (d2 === null) return chiSquaredUpper(f * d1, d1);
  if (!(f > 0)) return 1;
  if (f === Number.POSITIVE_INFINITY) return 0;
  return betaTail(d2 / (d2 + d1 * f), (d1 * f) / (d2 + d1 * f), d2 / 2, d1 / 2);
}

/** f with P(F ≤ f) = p. */
export function fQuantile(p: number, d1: number, d2: number): number {
  const tail = 1 - p;
  const [x, y] = kernelBetaincinv(d1 / 2, d2 / 2, p, tail);
  let f = (d2 * x) / (d1 * y);
  for (let i = 0; i < 3; i++) {
    const logDensity =
      gammaln((d1 + d2) / 2) -
      gammaln(d1 / 2) -
      gammaln(d2 / 2) +
      (d1 / 2) * Math.log(d1 / d2) +
      (d1 / 2 - 1) * Math.log(f) -
      ((d1 + d2) / 2) * Math.log1p((d1 * f) / d2);
    const step = (fUpper(f, d1, d2) - tail) / Math.exp(logDensity);
    if (!Number.isFinite(step) || f + step <= 0) break;
    f += step;
    if (Math.abs(step) < 1e-15 * f) break;
  }
  return f;
}

/** μ − ln(1 + μ), without loss of digits near 0. */
function pastLogarithm(mu: number): number {
  if (Math.abs(mu) > 0.3) return mu - Math.log1p(mu);
  let total = 0;
  let power = mu * mu;
  for (let k = 2; Math.abs(power) > 1e-18 * Math.abs(total) && power !== 0; k++) {
    total += power / k;
    power *= -mu;
  }
  return total;
}

/**
 * Upper tail of the gamma distribution with a large shape: the series below the middle, the continued fraction above
 * it (Gautschi 1979), both of some √a terms, with xᵃe⁻ˣ/Γ(a + 1) by Stirling's series so that no large numbers cancel.
 */
function largeGammaUpper(x: number, a: number): number {
  const stirling = 1 / (12 * a) - 1 / (360 * a ** 3);
  const front = Math.exp(-a * pastLogarithm((x - a) / a) - stirling) / Math.sqrt(2 * Math.PI * a);
  if (front === 0) return x < a ? 1 : 0;
  if (x < a + 1) {
    let term = 1;
    let sum = 1;
    for (let n = 1; term > 1e-17 * sum; n++) {
      term *= x / (a + n);
      sum += term;
    }
    return 1 - front * sum;
  }
  // Lentz's rule.
  let b = x + 1 - a;
  let c = 1e300;
  let d = 1 / b;
  let h = d;
  for (let i = 1, change = 0; Math.abs(change - 1) > 1e-16 && i < 1e6; i++) {
    const an = -i * (i - a);
    b += 2;
    d = 1 / (an * d + b);
    c = b + an / c;
    change = c * d;
    h *= change;
  }
  return front * a * h;
}

/** Shape from which the library's incomplete gamma function is not used: it loses its digits from about 750 on. */
const LARGE_SHAPE = 200;

/** P(χ² > x) with `df` degrees of freedom. */
export function chiSquaredUpper(x: number, df: number): number {
  if (x <= 0) return 1;
  return df / 2 > LARGE_SHAPE ? largeGammaUpper(x / 2, df / 2) : gammainc(x / 2, df / 2, true, true);
}

/**
 * The value below which a χ² variable with `df` degrees of freedom stays with probability p, by bisection on its
 * upper tail.
 */
export function chiSquaredQuantile(p: number, df: number): number {
  let low = 0;
  let high = Math.max(1, df);
  while (chiSquaredUpper(high, df) > 1 - p) high *= 2;
  for (let i = 0; i < 200; i++) {
    const mid = (low + high) / 2;
    if (mid === low || mid === high) break;
    if (chiSquaredUpper(mid, df) > 1 - p) low = mid;
    else high = mid;
  }
  return (low + high) / 2;
}

/** Digamma function ψ. */
export const digamma = (x: number): number => digammaOf(x);

/** Trigamma function ψ′. */
export const trigamma = (x: number): number => trigammaOf(x);

/**
 * Σⱼ halfʲ e^{−half} / Γ(j + shift) · I_x(a + j, b), all terms positive. One incomplete beta is worked out where the
 * weights have died away; the others follow downwards by I_x(a, b) = I_x(a + 1, b) + xᵃyᵇ/(a·B(a, b)), which adds
 * positive numbers and so loses no digits.
 */
function poissonMixture(half: number, shift: number, x: number, y: number, a: number, b: number): number {
  const logHalf = Math.log(half);
  const mode = Math.floor(half);
  let top = mode;
  let logWeight = -half + mode * logHalf - gammaln(mode + shift);
  while (logWeight > -44 || top < half) {
    logWeight += logHalf - Math.log(top + shift);
    top++;
  }
  let point = a + top;
  let cdf = betaTail(x, y, point, b);
  let logTerm = point * Math.log(x) + b * Math.log(y) + gammaln(point + b) - gammaln(point + 1) - gammaln(b);
  let total = 0;
  for (let j = top; ; j--) {
    total += Math.exp(logWeight) * cdf;
    if (j === 0 || (j < half && logWeight < -44)) return total;
    logTerm += Math.log(point / (point + b - 1)) - Math.log(x);
    cdf += Math.exp(logTerm);
    logWeight += Math.log(j - 1 + shift) - logHalf;
    point--;
  }
}

/** Half noncentrality up to which the mixture is summed: it takes some 20 √half terms. */
const MOST_HALF = 1e5;

/**
 * E of Q(ν·q(z)) over a standard normal z, where Q is the upper tail of χ² with ν degrees of freedom: by the trapezoid
 * rule, which converges exponentially under the normal weight. So many steps, whatever the noncentrality.
 */
function overNormal(df: number, q: (z: number) => number): number {
  let total = 0;
  for (let i = -360; i <= 360; i++) {
    const z = i / 40;
    total += Math.exp((-z * z) / 2) * chiSquaredUpper(df * q(z), df);
  }
  return total / (40 * Math.sqrt(2 * Math.PI));
}

/**
 * P(F ≤ f) of the noncentral F: a Poisson(λ/2) mixture of beta distributions (Johnson, Kotz & Balakrishnan 1995); far
 * out, where a noncentral χ² is (z + √λ)² and a remainder that hardly counts, over the normal z.
 */
export function noncentralFCdf(f: number, d1: number, d2: number, lambda: number): number {
  if (!(f > 0)) return 0;
  const half = lambda / 2;
  if (half > MOST_HALF) {
    // The remainder, χ² with d1 − 1 degrees of freedom, by the two places that share its mean and variance.
    const rest = Math.sqrt(2 * (d1 - 1));
    const delta = Math.sqrt(lambda);
    const at = (w: number): number => overNormal(d2, (z) => ((z + delta) ** 2 + w) / (d1 * f));
    return Math.min(1, d1 === 1 ? at(0) : (at(d1 - 1 - rest) + at(d1 - 1 + rest)) / 2);
  }
  const x = (d1 * f) / (d2 + d1 * f);
  const y = d2 / (d2 + d1 * f);
  if (half === 0) return betaTail(x, y, d1 / 2, d2 / 2);
  const cdf = poissonMixture(half, 1, x, y, d1 / 2, d2 / 2);
  return Math.min(1, cdf);
}

/**
 * P(T ≤ t) of the noncentral t with noncentrality δ (Lenth 1989, AS 243), summed from the mode outwards; far out over
 * the normal part.
 */
export function noncentralTCdf(t: number, df: number, delta: number): number {
  if (t < 0) return 1 - noncentralTCdf(-t, df, -delta);
  if (delta === 0) return 1 - tUpper(t, df);
  const half = (delta * delta) / 2;
  if (half > MOST_HALF) {
    // T ≤ t for a t above 0 where z + δ is below 0, or else χ²/ν is above ((z + δ)/t)².
    if (delta < 0) return 1;
    return t === 0
      ? 0
      : Math.min(
          1,
          overNormal(df, (z) => ((z + delta) / t) ** 2),
        );
  }
  const x = (t * t) / (df + t * t);
  const y = df / (df + t * t);
  const even = poissonMixture(half, 1, x, y, 0.5, df / 2);
  // The odd part carries the sign of δ; its weights are |δ|/√2 · half^j e^{−half} / Γ(j + 3/2).
  const odd = (Math.abs(delta) / Math.SQRT2) * poissonMixture(half, 1.5, x, y, 1, df / 2);
  const cdf = normalCdf(-delta) + 0.5 * (even + Math.sign(delta) * odd);
  return Math.min(1, Math.max(0, cdf));
}
