import { studentPredictive } from "../model/predictive";
import type { Member, Spot, Surface } from "../model/surface";
import { backInterval } from "../model/surface";
import { scaleOf } from "../model/transform";
import { normalQuantile } from "../numerics/distributions";
import type { Settings, Study } from "../study/schema";

/** Standard deviation of trials, known beforehand; that of what is read off one trial is the same. */
export const SIGMA = 0.5;

/** A surface without columns: the result of the nearest trial, with a constant error. */
export function nearestSurface(study: Study, response: string): Surface {
  const trials = study.trials.filter((t) => t.use && typeof t.results[response] === "number");
  const ids = study.factors.map((f) => f.id);
  const link = scaleOf("none");
  const fitted = (settings: Settings): number => {
    let best = { d: Number.POSITIVE_INFINITY, y: Number.NaN };
    for (const t of trials) {
      const d = ids.reduce((sum, id) => sum + ((settings[id] as number) - (t.settings[id] as number)) ** 2, 0);
      if (d < best.d) best = { d, y: t.results[response] as number };
    }
    return best.y;
  };
  const critical = (confidence: number): number => normalQuantile((1 + confidence) / 2);
  const predictive = (settings: Settings) =>
    studentPredictive(
      { value: fitted(settings), variance: SIGMA ** 2, noise: SIGMA ** 2, df: null, dfTrial: null },
      critical,
    );
  const spot = (settings: Settings, ids: readonly string[]): Spot => {
    const here = { ...settings };
    return {
      move: (values) => ids.forEach((id, i) => Object.assign(here, { [id]: values[i] })),
      value: () => fitted(here),
      relative: () => 1,
      relativeNoise: () => 1,
      common: () => 0,
    };
  };
  const member: Member = {
    weight: 1,
    scale: SIGMA,
    design: undefined,
    predictive,
    spot,
    withNoise: () => member,
    drawing: (places) => {
      const values = places.map(fitted);
      return (random) => Float64Array.from(values, (v) => v + SIGMA * random.normal());
    },
  };
  const expected = (settings: Settings) => ({
    mean: fitted(settings),
    meanInterval: backInterval(link.back, predictive(settings).interval(study.confidence)),
  });
  return {
    response,
    link,
    shownOf: ids,
    speaksOf: ids,
    assumed: undefined,
    own: undefined,
    error: {
      scale: SIGMA,
      df: null,
      residualDf: 50,
      exact: false,
      trial: SIGMA,
      setups: null,
      units: () => undefined,
    },
    lots: null,
    members: [member],
    residuals: () => new Map(trials.map((t) => [t.id, 0])),
    waves: [],
    wavesP: () => null,
    waveSpread: () => undefined,
    predictive,
    value: fitted,
    fitted,
    plane: (settings, x, y) => (vx, vy) => fitted({ ...settings, [x]: vx, [y]: vy }),
    line: (settings, id, values) => values.map((v) => ({ ...expected({ ...settings, [id]: v }), extrapolates: false })),
    expected,
    predict: (settings) => ({
      ...expected(settings),
      standardError: SIGMA,
      trialInterval: predictive(settings).interval(study.confidence, 1),
      leverage: 1,
      extrapolates: false,
      breaksBounds: false,
      bend: null,
    }),
    quadratic: () => null,
    influence: () => undefined,
  };
}
