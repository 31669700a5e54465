import { normalQuantile } from "../../numerics/distributions";
import { pickColumns } from "../../numerics/least-squares";
import { type Random, seededRandom } from "../../numerics/random";
import { FULL_LEVERAGE, type Likelihood, type Lots, type Repetitions } from "../fitted";
import type { CountedData } from "../model-data";
import { profileOf, risesTo } from "./counted-judged";
import type { Predicted } from "./counted-predicted";
import { onParabola, pearsonOf, type Solved, sameSize, scatterOf, upTo } from "./counted-solved";
import { errorsOf } from "./counted-summary";
import { quantilePlace } from "./counting";
import { Surface } from "./likelihood";

/** What only counted responses have: scatter, lots, residuals by quantiles, and further results drawn by the law. */
export function eventsOf(
  s: Solved,
  { known, extra, lot }: Predicted,
): { likelihood: Likelihood; lots: Lots; repetitions: Repetitions } {
  const { input, counted, data, fit, solution, n, p, phi, df, residualDf, counting, predictors } = s;
  const { design } = input;
  const { surface } = fit;
  const errors = errorsOf(s);
  const placed = (events: ArrayLike<number>, predictors: ArrayLike<number>, beyond: number, random: Random) =>
    Float64Array.from({ length: n }, (_, i) =>
      normalQuantile(quantilePlace(counted.law(data.of[i], counted.rate(predictors[i]), beyond), events[i], random)),
    );
  const likelihood: Likelihood = {
    dispersion: phi,
    counting: df === null,
    extra,
    pearson: fit.scatter.pearson,
    countingPearson: scatterOf(counted, data, predictors, 0, residualDf).pearson,
    ...(s.firth ? { firth: s.firth, penalised: s.coefficients } : {}),
    criteriaDispersion: df === null ? 1 : (input.judged?.dispersion ?? phi),
    profile: (column, confidence) =>
      known ? profileOf(surface, fit.best, s.inverse, column, risesTo(s, confidence)) : null,
    deviances: Array.from(errors.deviance, (d, i) => {
      const h = solution.leverage[i];
      return phi === null || !(phi > 0) || h > FULL_LEVERAGE ? null : d / Math.sqrt(phi * (1 - h));
    }),
    quantiles: () => Array.from(placed(data.events, predictors, extra, seededRandom(1))),
    devianceOf(columns) {
      // From one step off the maximum: what the parabola there says of the columns that are out.
      const out = new Set(columns);
      const gone = upTo(p).filter((j) => !out.has(j));
      const start = s.inverse ? onParabola(s, s.inverse, gone) : s.coefficients;
      if (!s.firth) return fit.surface.devianceNear(columns, start);
      // Each model has a penalty of its own columns.
      const own = new Surface({ x: pickColumns(design.matrix, columns), counting, penalised: true });
      const from = Float64Array.from(columns, (j) => start[j]);
      return own.maximum(upTo(columns.length), from).deviance;
    },
    refit(columns) {
      const other = new Surface({ x: columns, counting, penalised: false });
      const best = other.maximum(upTo(columns.cols), new Float64Array(columns.cols), 60);
      other.moveTo(best.coefficients);
      return { deviance: best.deviance, pearson: pearsonOf(counting, other.predictors) };
    },
    stable: sameSize(data)
      ? { values: data.events.map((k, i) => counted.stable(k, data.of[i])), of: counted.stableOf }
      : null,
  };
  const repetitions: Repetitions = {
    own: (random) => ({
      scaled: errors.pearson,
      quantiles: placed(data.events, predictors, extra, random),
      fitted: predictors.map(counted.rate),
    }),
    repeat(random) {
      const events = Array.from(predictors, (eta, i) => counted.draw(data.of[i], counted.rate(eta), extra, random));
      const again: CountedData = { ...data, events };
      const own = new Surface({
        x: design.matrix,
        counting: counted.counting(again, fit.extra),
        penalised: s.firth !== undefined,
      });
      const best = own.maximum(upTo(p), fit.best.coefficients, 30);
      own.moveTo(best.coefficients);
      const scatter = scatterOf(counted, again, own.predictors, fit.extra, residualDf);
      const beyond =
        data.scatter === "counting" || !sameSize(data) || scatter.dispersion === null
          ? extra
          : counted.extraOf(again, own.predictors, scatter.dispersion, residualDf);
      return {
        scaled: own.parts.slopes.map((v, i) => v / Math.sqrt(own.parts.weights[i])),
        quantiles: placed(events, own.predictors, beyond, random),
        fitted: own.predictors.map(counted.rate),
      };
    },
    wide: (random) => (df === null ? 1 : Math.sqrt(residualDf / random.chiSquared(residualDf))),
  };
  return {
    likelihood,
    repetitions,
    lots: { lot, together: (sizes) => counted.together(sizes, extra), usual: data.usual },
  };
}
