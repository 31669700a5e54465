import { normalQuantile } from "../numerics/distributions";
import { goldenSection } from "../numerics/golden-section";
import type { Transform } from "../study/schema";
import type { Fit } from "./fit";
import { scaleOf } from "./transform";

/** How well each power of a response fits the present terms. */
export interface BoxCox {
  /** Log-likelihood less its largest value, at powers from −2 to 3. */
  profile: { power: number; likelihood: number }[];
  best: number;
  /** Powers that the results do not speak against at the study's confidence; an end at −2 or 3 may lie beyond. */
  interval: [number, number];
  /** The named scale that stands inside the interval, the present one first. */
  advice: Transform;
}

/** A scale with its log-likelihood, the Jacobian counted, so that scales can be compared. */
export interface ScaleLikelihood {
  transform: Transform;
  name: string;
  /** Less that of the best; absent where the scale does not take these results. */
  likelihood: number | null;
}

const LOW = -2;
const HIGH = 3;

/** The power a transform stands for; undefined for those of proportions. */
export function powerOf(transform: Transform): number | undefined {
  if (typeof transform === "object") return transform.power;
  return { none: 1, log: 0, sqrt: 0.5, inverse: -1, logit: undefined, "asin-sqrt": undefined }[transform];
}

const NAMED: { power: number; transform: Transform }[] = [
  { power: 1, transform: "none" },
  { power: 0, transform: "log" },
  { power: 0.5, transform: "sqrt" },
  { power: -1, transform: "inverse" },
];

/** Squares that other values of the response leave on the model's columns. */
const squaresLeft = (fit: Fit, values: readonly number[]): number =>
  Array.from(fit.model.left(values) ?? []).reduce((t, e) => t + e * e, 0);

/**
 * Profile of the power λ of a response under the terms of a fit (Box & Cox 1964): −n/2 · ln(RSS of the scaled power /
 * n).
 * @returns null where a value is not above 0, or no error is left to judge by
 */
export function boxCox(fit: Fit): BoxCox | null {
  const { y } = fit.data;
  const n = y.length;
  if (y.some((v) => !(v > 0)) || fit.summary.residualDf < 2 || fit.model.exact) return null;
  const logs = y.map(Math.log);
  const middle = logs.reduce((t, v) => t + v, 0) / n;
  // Relative to the geometric mean, so that no power overflows and the Jacobian is 1.
  const likelihood = (power: number): number => {
    const z = logs.map((l) => (Math.abs(power) < 1e-9 ? l - middle : Math.expm1(power * (l - middle)) / power));
    const rss = squaresLeft(fit, z);
    return rss > 0 ? (-n / 2) * Math.log(rss / n) : Number.NEGATIVE_INFINITY;
  };
  const grid = Array.from({ length: 101 }, (_, i) => LOW + ((HIGH - LOW) * i) / 100);
  const values = grid.map(likelihood);
  if (values.some((v) => !Number.isFinite(v))) return null;
  const top = values.indexOf(Math.max(...values));
  // The profile has one peak between the neighbours of the highest point.
  const best = goldenSection(likelihood, grid[Math.max(0, top - 1)], grid[Math.min(100, top + 1)], {
    within: 1e-12,
    most: 60,
  });
  const peak = likelihood(best);
  const cut = peak - normalQuantile((1 + fit.confidence) / 2) ** 2 / 2;
  const end = (from: number, to: number): number => {
    if (likelihood(to) >= cut) return to;
    let inside = from;
    let outside = to;
    for (let i = 0; i < 60; i++) {
      const mid = (inside + outside) / 2;
      if (likelihood(mid) >= cut) inside = mid;
      else outside = mid;
    }
    return inside;
  };
  const interval: [number, number] = [end(best, LOW), end(best, HIGH)];
  const within = (p: number): boolean => p >= interval[0] && p <= interval[1];
  const present = powerOf(fit.transform);
  const advice =
    present !== undefined && within(present)
      ? fit.transform
      : (NAMED.find((q) => within(q.power))?.transform ?? { power: Math.round(best * 10) / 10 });
  return { profile: grid.map((power, i) => ({ power, likelihood: values[i] - peak })), best, interval, advice };
}

const OFFERED: Transform[] = ["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"];

/**
 * The scales a response may be fitted on, each with the likelihood of the results under the present terms: the
 * log-likelihood on the scale plus the logarithm of its slope at each result, without which scales cannot be compared.
 */
export function scaleLikelihoods(fit: Fit): ScaleLikelihood[] {
  const { y } = fit.data;
  const n = y.length;
  const slope = (transform: Transform, v: number): number => {
    if (typeof transform === "object") return Math.log(Math.abs(transform.power)) + (transform.power - 1) * Math.log(v);
    switch (transform) {
      case "none":
        return 0;
      case "log":
        return -Math.log(v);
      case "sqrt":
        return -Math.log(2) - Math.log(v) / 2;
      case "inverse":
        return -2 * Math.log(v);
      case "logit":
        return -Math.log(v * (1 - v));
      case "asin-sqrt":
        return -Math.log(2) - Math.log(v * (1 - v)) / 2;
    }
  };
  const all = OFFERED.map((transform) => {
    const scale = scaleOf(transform);
    const z = y.map((v) => scale.forward(v));
    const jacobian = y.reduce((t, v) => t + slope(transform, v), 0);
    const usable = z.every(Number.isFinite) && Number.isFinite(jacobian);
    const rss = usable && fit.summary.residualDf >= 2 ? squaresLeft(fit, z) : 0;
    return { transform, name: scale.name, likelihood: rss > 0 ? (-n / 2) * Math.log(rss / n) + jacobian : null };
  });
  const top = Math.max(...all.map((a) => a.likelihood ?? Number.NEGATIVE_INFINITY));
  return all.map((a) => ({ ...a, likelihood: a.likelihood === null ? null : a.likelihood - top }));
}
