import { normalQuantile, tQuantile } from "../numerics/distributions";
import type { Random } from "../numerics/random";
import type { FittedModel, Predictive } from "./fitted";

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

/** The t (or, for large samples, normal) distribution of one new trial about a value. */
export function studentPredictive(
  moments: Pick<Predictive, "value" | "variance" | "noise" | "df" | "dfTrial">,
  critical: FittedModel["critical"],
): Predictive {
  const { value, variance, noise, df, dfTrial } = moments;
  return {
    ...moments,
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
