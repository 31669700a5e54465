import { normalQuantile } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import { toleranceOf, wobblingFactors } from "../study/roles";
import type { Settings } from "../study/schema";
import { limitsOf } from "./desirability";
import type { SetpointProblem } from "./goals";

/** How comfortably single trials stay inside a response's limits. */
export interface Capability {
  response: string;
  /** Distance of the mean from the nearer limit over three standard deviations of single trials. */
  ppk: number;
  /** One-sided lower confidence bound (Bissell 1990). */
  lower: number | null;
  /** Standard deviation of single trials, or of single units: noise with what setting errors add. */
  sigma: number;
  /** The response whose model says how far they scatter here, where one does. */
  scatter?: string;
}

const DRAWS = 2000;

const average = (values: readonly number[]): number => values.reduce((t, v) => t + v, 0) / values.length;

/**
 * Ppk at some settings from the noise of each model and from settings that vary evenly within ± tolerance, at the
 * fitted coefficients. Responses on another scale are left out: their limits are not a distance on it.
 */
export function capability(problem: SetpointProblem, settings: Settings, seed = 1): Capability[] {
  const wobbling = wobblingFactors(problem.study);
  const random = seededRandom(seed);
  const places = Array.from({ length: wobbling.length > 0 ? DRAWS : 1 }, () => ({
    ...settings,
    ...Object.fromEntries(
      wobbling.map((f) => [f.id, (settings[f.id] as number) + (2 * random.uniform() - 1) * toleranceOf(f)]),
    ),
  }));
  return problem.responses.flatMap((r): Capability[] => {
    const read = problem.predictors.get(r.id);
    if (read === undefined || r.spread) return [];
    if (!read.link.identity) return [];
    const { residualDf, trial: s, setups } = read.error;
    const units = read.error.units()?.variances;
    const { own } = read;
    const stated = residualDf > 0 && s !== null ? s : r.noise;
    const noise = own
      ? Math.sqrt(own.between + average(places.map((p) => Math.exp(2 * own.at(p).log))))
      : units
        ? Math.sqrt(units.between + units.within)
        : stated;
    // Of the variance of one unit, or of one trial in a new set-up, by Satterthwaite (1946); else the residual's.
    const df = own
      ? own.dfAt(own.at(settings))
      : units
        ? (2 * (units.between + units.within) ** 2) / units.varianceOf(1, 1)
        : (setups?.trialDf ?? residualDf);
    if (noise === undefined) return [];
    const values = places.map((p) => read.value(p));
    const mean = average(values);
    const wobble = values.length > 1 ? values.reduce((t, v) => t + (v - mean) ** 2, 0) / (values.length - 1) : 0;
    const sigma = Math.sqrt(noise ** 2 + wobble);
    // Of the mean, per variance of one trial: with set-ups as the model has it.
    const error = (setups || units || own) && read.predict(settings).standardError;
    const ofMean = error ? (error / noise) ** 2 : 1 / (residualDf + 1);
    const { low, high } = limitsOf(r.goal);
    const ppk = Math.min(high - mean, mean - low) / (3 * sigma);
    if (!Number.isFinite(ppk)) return [];
    const z = normalQuantile(problem.study.confidence);
    return [
      {
        response: r.id,
        ppk,
        sigma,
        ...(read.own ? { scatter: read.own.response } : {}),
        lower: df > 0 ? ppk - z * Math.sqrt(ofMean / 9 + ppk ** 2 / (2 * df)) : null,
      },
    ];
  });
}
