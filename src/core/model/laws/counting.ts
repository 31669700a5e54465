import { drawRate, drawShare } from "../../numerics/count-draws";
import { type CountLaw, rateLaw, shareLaw } from "../../numerics/counts";
import type { Random } from "../../numerics/random";
import type { Link } from "../fitted";
import type { CountedData } from "../model-data";
import type { Counting, Parts } from "./likelihood";

/** What is counted: pieces of a trial that are this or that, or events over an exposure. */
export type Kind = CountedData["kind"];

/** How a kind is counted: its link, what a trial adds to the likelihood, how far it scatters. */
export interface Counted {
  kind: Kind;
  link: Link;
  /** What trials add, at a scatter beyond counting of this size (ρ of shares, κ of counts). */
  counting(data: CountedData, extra: number): Counting;
  /** Slope of the variance at a linear predictor, times what was counted off it, over the variance (Fletcher 2012). */
  skew(data: CountedData, trial: number, predictor: number, extra: number): number;
  /** Share or rate at a linear predictor. */
  rate(predictor: number): number;
  /** How events of a trial of this size fall. */
  law(of: number, rate: number, extra: number): CountLaw;
  /** Events of a trial of this size, drawn by that law. */
  draw(of: number, rate: number, extra: number, random: Random): number;
  /** Scatter beyond counting of a total over several trials, so that its variance is the sum of theirs. */
  together(sizes: readonly number[], extra: number): number;
  /** ρ or κ that a dispersion stands for where all trials are of one size. */
  extraOf(data: CountedData, predictors: ArrayLike<number>, dispersion: number, df: number): number;
  /** Variance-stabilised value of a trial (Freeman & Tukey 1950). */
  stable(events: number, of: number): number;
  /** What that is twice of. */
  stableOf: "angle" | "root";
}

/** x ln(x/y), 0 at x = 0. */
const part = (x: number, y: number): number => (x > 0 ? x * Math.log(x / y) : 0);

const logistic = (z: number): number => 1 / (1 + Math.exp(-z));

/** k of n: binomial with logit; more scatter by Williams (1982), variance nπ(1−π)(1 + (n − 1)ρ). */
export const shareCounting: Counted = {
  kind: "share",
  stableOf: "angle",
  link: {
    name: "logit",
    multiplies: "odds",
    identity: false,
    decreasing: false,
    forward: (y) => Math.log(y / (1 - y)),
    back: logistic,
  },
  counting({ events, of }, rho) {
    const n = Float64Array.from(of);
    const k = Float64Array.from(events);
    const w = n.map((v) => 1 / (1 + (v - 1) * rho));
    // What a perfect prediction would lose nothing against.
    const best = n.map((v, i) => part(k[i], v) + part(v - k[i], v));
    const count = (predictors: Float64Array, { weights, slopes, turns, deviances }: Parts): number => {
      let total = 0;
      for (let i = 0; i < n.length; i++) {
        const eta = predictors[i];
        // The smaller side first, so that neither is lost beside one.
        const e = Math.exp(-Math.abs(eta));
        const near = 1 / (1 + e);
        const far = e * near;
        const up = eta < 0 ? far : near;
        const down = eta < 0 ? near : far;
        const log = Math.log(1 + e);
        const lost = k[i] * ((eta < 0 ? -eta : 0) + log) + (n[i] - k[i]) * ((eta > 0 ? eta : 0) + log);
        const d = 2 * w[i] * Math.max(0, best[i] + lost);
        weights[i] = w[i] * n[i] * near * far;
        slopes[i] = w[i] * (k[i] * down - (n[i] - k[i]) * up);
        turns[i] = down - up;
        deviances[i] = d;
        total += d;
      }
      return total;
    };
    return Object.assign(count, { canonical: true });
  },
  skew({ events, of }, i, eta) {
    const up = logistic(eta);
    const down = logistic(-eta);
    return ((down - up) * ((events[i] / of[i]) * down - (1 - events[i] / of[i]) * up)) / (up * down);
  },
  rate: logistic,
  law: shareLaw,
  draw: drawShare,
  together(sizes, rho) {
    const total = sizes.reduce((t, n) => t + n, 0);
    if (total <= 1) return 0;
    return (sizes.reduce((t, n) => t + n * (1 + (n - 1) * rho), 0) / total - 1) / (total - 1);
  },
  extraOf: ({ of }, _predictors, dispersion) =>
    of[0] > 1 ? Math.min(1, Math.max(0, (dispersion - 1) / (of[0] - 1))) : 0,
  stable: (k, n) => Math.asin(Math.sqrt(k / (n + 1))) + Math.asin(Math.sqrt((k + 1) / (n + 1))),
};

/** y over an exposure: Poisson with log link; more scatter by Breslow (1984), variance μ + κμ². */
export const eventCounting: Counted = {
  kind: "count",
  stableOf: "root",
  link: { name: "log", multiplies: "rate", identity: false, decreasing: false, forward: Math.log, back: Math.exp },
  counting({ events, of }, kappa) {
    const n = Float64Array.from(of);
    const y = Float64Array.from(events);
    const count = (predictors: Float64Array, { weights, slopes, turns, deviances }: Parts): number => {
      let total = 0;
      for (let i = 0; i < n.length; i++) {
        const mu = n[i] * Math.exp(predictors[i]);
        const wide = 1 + kappa * mu;
        const off = y[i] - mu;
        const d =
          2 * Math.max(0, part(y[i], mu) - (kappa > 0 ? (y[i] + 1 / kappa) * Math.log1p((kappa * off) / wide) : off));
        weights[i] = mu / wide;
        slopes[i] = off / wide;
        turns[i] = 1 / wide;
        deviances[i] = d;
        total += d;
      }
      return total;
    };
    return Object.assign(count, { canonical: kappa === 0 });
  },
  skew({ events, of }, i, eta, kappa) {
    const mu = of[i] * Math.exp(eta);
    return ((1 + 2 * kappa * mu) * (events[i] - mu)) / (mu + kappa * mu * mu);
  },
  rate: Math.exp,
  law: (of, rate, kappa) => rateLaw(of * rate, kappa),
  draw: (of, rate, kappa, random) => drawRate(of * rate, kappa, random),
  together(sizes, kappa) {
    const total = sizes.reduce((t, n) => t + n, 0);
    return (kappa * sizes.reduce((t, n) => t + n * n, 0)) / total ** 2;
  },
  extraOf({ events, of }, predictors, _dispersion, df) {
    const off = (kappa: number): number => {
      let x2 = 0;
      for (let i = 0; i < events.length; i++) {
        const mu = of[i] * Math.exp(predictors[i]);
        x2 += (events[i] - mu) ** 2 / (mu + kappa * mu * mu);
      }
      return x2 - df;
    };
    return rootDown(off);
  },
  stable: (y) => Math.sqrt(y) + Math.sqrt(y + 1),
};

/** Where a function that falls from a value above 0 comes to 0; 0 where it starts at or below. */
export function rootDown(f: (x: number) => number, most = 1e6, start = 0.01): number {
  if (!(f(0) > 0)) return 0;
  let low = 0;
  let high = Math.min(start, most);
  while (f(high) > 0) {
    low = high;
    if (high >= most) return most;
    high = Math.min(most, 4 * high);
  }
  let atLow = f(low);
  let atHigh = f(high);
  let side = 0;
  // Regula falsi; an end that stays twice is halved (the Illinois rule, Dowell & Jarratt 1971).
  for (let i = 0; i < 100 && high - low > 1e-13 * high; i++) {
    const x = low + ((high - low) * atLow) / (atLow - atHigh);
    const at = f(x);
    if (at === 0 || x <= low || x >= high) return Math.min(high, Math.max(low, x));
    if (at > 0) {
      low = x;
      atLow = at;
      if (side === 1) atHigh /= 2;
      side = 1;
    } else {
      high = x;
      atHigh = at;
      if (side === -1) atLow /= 2;
      side = -1;
    }
    if (Math.abs(at) < 1e-12) return x;
  }
  return (low + high) / 2;
}

/** A share of a law's probability that belongs to a count, drawn within its own step (Dunn & Smyth 1996). */
export function quantilePlace(law: CountLaw, events: number, random: Random): number {
  const place = law.upTo(events - 1) + law.at(events) * random.uniform();
  return Math.min(1 - 1e-12, Math.max(1e-12, place));
}
