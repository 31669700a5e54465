import { mixtureAlong } from "../../numerics/counts";
import { normalQuantile, tQuantile } from "../../numerics/distributions";
import { quadraticForm } from "../../numerics/least-squares";
import type { FittedModel, Lots, Predictive } from "../fitted";
import { lotBy } from "../lots";
import { criticalValues } from "../predictive";
import { type Solved, sameSize } from "./counted-solved";
import { Surface } from "./likelihood";

/** What a law of counts predicts. */
export interface Predicted {
  /** Whether anything is known of errors. */
  known: boolean;
  /** Those that predictions go by. */
  coefficients: Float64Array;
  /** Scatter beyond counting (ρ or κ). */
  extra: number;
  critical: FittedModel["critical"];
  lot: Lots["lot"];
  predictive(row: Float64Array): Predictive;
}

/** Values of the linear predictor that are equally likely: those of t at the middles of equal shares. */
const NODES = 201;

/** Predictions of what was solved. */
export function predictedOf(s: Solved): Predicted {
  const { input, counted, data, fit, solution, p, phi, df, residualDf, counting, predictors } = s;
  const known = phi !== null && (df === null || df > 0);
  const critical = criticalValues();
  const quantiles = Array.from({ length: NODES }, (_, i) => {
    const u = (i + 0.5) / NODES;
    return df === null ? normalQuantile(u) : df > 0 ? tQuantile(u, df) : 0;
  });
  // Predictions of penalised fits have their constant fitted again by maximum likelihood (Puhr et al. 2017).
  let forPredictions = s.coefficients;
  if (s.firth) {
    const plain = new Surface({ x: input.design.matrix, counting, penalised: false });
    forPredictions = plain.maximum([0], s.coefficients).coefficients;
  }
  const extra =
    data.scatter === "counting"
      ? 0
      : sameSize(data) && phi !== null
        ? counted.extraOf(data, predictors, phi, residualDf)
        : fit.extra;
  const lot = (row: Float64Array, sizes: readonly number[], shift = 0) => {
    if (!known || phi === null) return null;
    let value = shift;
    for (let j = 0; j < p; j++) value += forPredictions[j] * row[j];
    const error = Math.sqrt(phi * quadraticForm(solution.inverse, row));
    const of = sizes.reduce((t, v) => t + v, 0);
    const together = counted.together(sizes, extra);
    const places = quantiles.map((q) => value + q * error);
    return lotBy(
      mixtureAlong((place) => counted.law(of, counted.rate(place), together), places),
      of,
    );
  };
  const predictive = (row: Float64Array): Predictive => {
    let value = 0;
    for (let j = 0; j < p; j++) value += forPredictions[j] * row[j];
    const variance = known ? (phi ?? 0) * quadraticForm(solution.inverse, row) : null;
    // By the delta method, on the link: for distances alone, intervals come from the counts themselves.
    const spreadOf = (sizes: readonly number[]): number => {
      const total = sizes.reduce((t, v) => t + v, 0);
      const rate = counted.rate(value);
      const beyond = counted.together(sizes, extra);
      return data.kind === "share"
        ? (1 + (total - 1) * beyond) / (total * rate * (1 - rate))
        : 1 / (total * rate) + beyond;
    };
    const trials = (m: number, of: number): number[] => Array.from({ length: m }, () => of);
    return {
      value,
      variance,
      noise: known ? spreadOf([data.usual]) : null,
      df: known ? df : 0,
      dfTrial: known ? df : 0,
      meanNoise: (m, of = data.usual) => (known ? spreadOf(trials(m, of)) : null),
      interval(confidence, m, of = data.usual) {
        if (variance === null) return null;
        if (m !== undefined) {
          const ends = lot(row, trials(m, of))?.interval(confidence);
          return ends ? [counted.link.forward(ends[0]), counted.link.forward(ends[1])] : null;
        }
        const half = critical(confidence, df) * Math.sqrt(variance);
        return [value - half, value + half];
      },
      draw(random) {
        const wide = df === null || variance === null ? 1 : Math.sqrt(df / random.chiSquared(df));
        const at = value + wide * Math.sqrt(variance ?? 0) * random.normal();
        return counted.link.forward(counted.draw(data.usual, counted.rate(at), extra, random) / data.usual);
      },
    };
  };
  return { known, coefficients: forPredictions, extra, critical, lot, predictive };
}
