import { normalQuantile, tQuantile } from "../numerics/distributions";
import type { Random } from "../numerics/random";
import type { FittedModel, Predictive } from "./fitted";
import type { PieceVariances } from "./pieces";

/** Factors of standard errors by confidence and degrees of freedom, each quantile worked out once for a model. */
export function criticalValues(): (confidence: number, df: number | null) => number {
  const inputs = new Map<string, number>();
  return (confidence, df) => {
    const key = `${confidence}|${df}`;
    const known = inputs.get(key);
    if (known !== undefined) return known;
    const level = (1 + confidence) / 2;
    const value = df === null ? normalQuantile(level) : tQuantile(level, df);
    inputs.set(key, value);
    return value;
  };
}

/** How one new trial falls about a value, but for the shape of its distribution. */
export type Moments = Pick<Predictive, "value" | "variance" | "noise" | "df" | "dfTrial">;

/** The t (or, for large samples, normal) distribution of one new trial about a value. */
export function studentPredictive(moments: Moments, critical: FittedModel["critical"]): Predictive {
  const { value, variance, noise, df, dfTrial } = moments;
  return {
    ...moments,
    meanNoise: (m) => (noise === null ? null : noise / m),
    interval(confidence, m) {
      const use = m === undefined ? df : dfTrial;
      if (variance === null || noise === null || use === 0) return null;
      const half = critical(confidence, use) * Math.sqrt(variance + (m === undefined ? 0 : noise / m));
      return [value - half, value + half];
    },
    draw(random: Random) {
      if (variance === null || noise === null) return value;
      const wide = dfTrial === null ? 1 : Math.sqrt(dfTrial / random.chiSquared(dfTrial));
      return value + wide * Math.sqrt(variance + noise) * random.normal();
    },
  };
}

/**
 * The same of units: one unit varies by what trials and what units within a trial do, the mean of m trials of n units
 * each by less of the second.
 *
 * @param base of the trial means that the model was fitted to
 * @param dfOf degrees of freedom of the variance of the value and of the mean of m trials of n units together, since
 * both rest on the same variances (Satterthwaite 1946)
 */
export function piecePredictive(
  base: Predictive,
  { between, within }: Pick<PieceVariances, "between" | "within">,
  dfOf: (m: number, n: number) => number,
  critical: FittedModel["critical"],
): Predictive {
  const { value } = base;
  const known = base.variance ?? 0;
  const noiseOf = (m: number, n: number): number => (between + within / n) / m;
  const noise = noiseOf(1, 1);
  const dfTrial = dfOf(1, 1);
  return {
    ...base,
    noise,
    dfTrial,
    meanNoise: (m, n = 1) => noiseOf(m, n),
    interval(confidence, m, n = 1) {
      if (m === undefined || base.variance === null) return base.interval(confidence);
      const half = critical(confidence, dfOf(m, n)) * Math.sqrt(known + noiseOf(m, n));
      return [value - half, value + half];
    },
    draw: (random) => value + Math.sqrt((dfTrial / random.chiSquared(dfTrial)) * (known + noise)) * random.normal(),
  };
}
