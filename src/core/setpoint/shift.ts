import type { Fit } from "../model/fit";
import type { Predictive } from "../model/fitted";
import { block } from "../numerics/least-squares";
import { seededRandom } from "../numerics/random";
import { halfWidthOf } from "../numerics/scale-mixture";
import { contrastRows } from "../terms/model-matrix";
import { termKey, WAVE_TERM } from "../terms/term";

const DRAWS = 3000;

/** What the waves of a model tell of how far waves lie apart. */
interface WaveSpread {
  /** Number of waves. */
  waves: number;
  /** Variance of their adjusted effects. */
  variance: number;
  /** Mean variance of an effect about their mean over that of the error: tr(HC)/(W − 1). */
  factor: number;
}

/** Variance of the adjusted wave effects with what the error adds to it; undefined where they cannot be told. */
function waveSpread({ data, model }: Fit): WaveSpread | undefined {
  const waves = new Set(data.waves).size;
  const places = model.columns.flatMap((c, j) => (c.key === termKey(WAVE_TERM) ? [j] : []));
  if (waves < 2 || places.length !== waves - 1 || !model.covariance || !model.scale) return undefined;
  const rows = contrastRows(waves, "sum");
  const effects = rows.map((r) => r.reduce((t, v, j) => t + v * model.coefficients[places[j]], 0));
  const own = block(model.covariance, places);
  const error = model.scale ** 2;
  const covariance = (a: readonly number[], b: readonly number[]): number =>
    a.reduce((t, v, i) => t + b.reduce((u, w, j) => u + v * w * own.data[i * own.cols + j], 0), 0) / error;
  // Effects that add up to nothing are their own deviations from their mean, and so are their covariances.
  const trace = rows.reduce((t, r) => t + covariance(r, r), 0);
  return {
    waves,
    variance: effects.reduce((t, e) => t + e * e, 0) / (waves - 1),
    factor: trace / (waves - 1),
  };
}

/**
 * Half the width of where the mean of m trials in a wave of their own falls, the variance between waves counted:
 * fiducial draws of the error's variance and of that between waves, from the variance of the adjusted wave effects
 * less what the error adds to it (after Burdick & Graybill 1992, chapter 3, unbalanced cases by their harmonic factor).
 *
 * @param trials how many, of how many units each where trials are made of units, so many in each set-up where factors
 * are hard to change
 * @returns null where fewer than two waves stand in the model or nothing is known of the error
 */
export function shiftHalfWidth(
  fit: Fit,
  said: Predictive,
  trials: { m: number; n?: number; setups?: readonly number[] },
  confidence: number,
): number | null {
  const spread = waveSpread(fit);
  const { scale } = fit.model;
  if (!spread || said.variance === null || said.noise === null || !scale || said.dfTrial === 0) return null;
  const { waves, variance, factor } = spread;
  const random = seededRandom(1);
  const { m, n, setups: sizes } = trials;
  const { setups } = fit.model;
  const noise =
    setups && sizes
      ? Math.max(0, setups.between) * sizes.reduce((t, k) => t + (k / m) ** 2, 0) + setups.within / m
      : (said.meanNoise(m, n) ?? 0);
  const ofValue = said.variance / scale ** 2;
  const df = said.own ? said.df : said.dfTrial;
  const deviations = Float64Array.from({ length: DRAWS }, () => {
    const error = df === null ? scale ** 2 : (df * scale ** 2) / random.chiSquared(df);
    // The variance of new trials goes with that of the error, but where a model of the spread says it.
    const own = said.own ? said.own(random, m, n) : (error * noise) / scale ** 2;
    const lambda = ((waves - 1) * variance) / random.chiSquared(waves - 1);
    const between = Math.max(0, lambda - factor * error);
    return Math.sqrt(between * (1 + 1 / waves) + error * ofValue + own);
  });
  return halfWidthOf({ deviations }, confidence);
}
