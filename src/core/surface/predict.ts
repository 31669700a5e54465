import { unseenLevels } from "../model/data";
import type { Fit } from "../model/fit";
import { scaleOf } from "../model/transform";
import { tQuantile } from "../numerics/distributions";
import { quadraticForm } from "../numerics/least-squares";
import { allowed, withinRanges } from "../study/region";
import type { Settings, Study } from "../study/schema";
import type { Coefficient } from "./polynomial";

/** A response at one point of the region, with how sure it is. */
export interface Prediction {
  /** On the response's own scale; a median where the model is fitted on another. */
  mean: number;
  /** Of the mean, on the fitted scale; null without error degrees of freedom. */
  standardError: number | null;
  meanInterval: [number, number] | null;
  trialInterval: [number, number] | null;
  /** x′(X′X)⁻¹x, waves at their average. */
  leverage: number;
  extrapolates: boolean;
  breaksBounds: boolean;
}

/** A function over two numeric factors, all others standing where they stood when it was made. */
export type Plane = (x: number, y: number) => number;

/** One fitted model among those a prediction rests on. */
export interface Member {
  /** Share of it in an average; 1 alone. */
  weight: number;
  fit: Fit;
  /** The model row at settings, wave columns zero. */
  row(settings: Settings, into: Float64Array): void;
  /** Rows that differ from these settings in the listed numeric factors alone. */
  varying(at: Settings, ids: readonly string[]): (settings: ArrayLike<number>, into: Float64Array) => void;
}

/** Reads predictions of one fit, or of the average of several; made once, then cheap per point. */
export interface Predictor {
  /** The model chosen; of an average, the one its terms are chosen by. */
  fit: Fit;
  /** The models behind the figures with their weights: one, unless they are averaged. */
  members: Member[];
  /** Coefficients of the polynomial on the fitted scale, waves left out. */
  basis: Coefficient[];
  /** Residuals by trial, of the average where models are averaged. */
  residuals: { id: string; residual: number }[];
  /** Value on the response's own scale. */
  value(settings: Settings): number;
  /** Value on the fitted scale. */
  fitted(settings: Settings): number;
  /** x′(X′X)⁻¹x. */
  leverage(settings: Settings): number;
  /** Values on the response's own scale over two numeric factors: for maps, which ask thousands of points at once. */
  plane(at: Settings, x: string, y: string): Plane;
  /** The same on the fitted scale. */
  fittedPlane(at: Settings, x: string, y: string): Plane;
  /** Mean and its interval along one numeric factor, all others as given. */
  line(at: Settings, id: string, values: readonly number[]): Pick<Prediction, "mean" | "meanInterval">[];
  predict(settings: Settings): Prediction;
  largestLeverage: number;
}

/** Values a decreasing or cut way back gives to the ends of an interval, in order. */
export function backInterval(back: (z: number) => number, low: number, high: number): [number, number] {
  const a = back(low);
  const b = back(high);
  return a <= b ? [a, b] : [b, a];
}

/** Makes the predictor of a fit. Predictions take the equal-weight average of waves. */
export function predictor(study: Study, fit: Fit): Predictor {
  const { columns, encoded, encoderAt, solution, covariateRanges } = fit.parts;
  const p = columns.length;
  const scale = scaleOf(fit.transform);
  const row = new Float64Array(encoded.columns.length);
  const x = new Float64Array(p);
  const coefficients = solution.coefficients;
  const middles = Object.fromEntries([...covariateRanges].map(([id, [low, high]]) => [id, (low + high) / 2]));
  const hasCovariates = covariateRanges.size > 0;
  const complete = (settings: Settings): Settings => (hasCovariates ? { ...middles, ...settings } : settings);
  const read = (settings: Settings, into: Float64Array): void => {
    encoded.row(complete(settings), row);
    for (let j = 0; j < p; j++) into[j] = encoderAt[j] < 0 ? 0 : row[encoderAt[j]];
  };
  const fitted = (settings: Settings): number => {
    read(settings, x);
    let total = 0;
    for (let j = 0; j < p; j++) total += coefficients[j] * x[j];
    return total;
  };
  const leverage = (settings: Settings): number => {
    read(settings, x);
    return quadraticForm(solution.inverse, x);
  };
  const fittedPlane = (at: Settings, first: string, second: string): Plane => {
    const vary = encoded.varying(complete(at), [first, second]);
    const here = new Float64Array(2);
    const full = new Float64Array(encoded.columns.length);
    const used = Array.from({ length: p }, (_, j) => j).filter((j) => encoderAt[j] >= 0);
    return (vx, vy) => {
      here[0] = vx;
      here[1] = vy;
      vary(here, full);
      let total = 0;
      for (const j of used) total += coefficients[j] * full[encoderAt[j]];
      return total;
    };
  };
  const largestLeverage = fit.trials.reduce((m, t) => Math.max(m, t.leverage), 0);
  const { s, residualDf } = fit.summary;
  const critical = residualDf > 0 ? tQuantile((1 + fit.confidence) / 2, residualDf) : null;
  const bounds = study.responses.find((r) => r.id === fit.response)?.bounds;
  const unseen = unseenLevels(study, fit.parts.data, fit.terms);
  return {
    fit,
    members: [
      {
        weight: 1,
        fit,
        row: read,
        varying(at, ids) {
          const vary = encoded.varying(complete(at), ids);
          return (settings, into) => {
            vary(settings, row);
            for (let j = 0; j < p; j++) into[j] = encoderAt[j] < 0 ? 0 : row[encoderAt[j]];
          };
        },
      },
    ],
    basis: columns.flatMap((column, j) => (column.key === "@wave" ? [] : [{ column, value: coefficients[j] }])),
    residuals: fit.trials.map(({ id, residual }) => ({ id, residual })),
    fitted,
    leverage,
    largestLeverage,
    value: (settings) => scale.back(fitted(settings)),
    plane(at, first, second) {
      const z = fittedPlane(at, first, second);
      return (vx, vy) => scale.back(z(vx, vy));
    },
    fittedPlane,
    line(at, id, values) {
      const vary = encoded.varying(complete(at), [id]);
      const here = new Float64Array(1);
      const full = new Float64Array(encoded.columns.length);
      const own = new Float64Array(p);
      return values.map((v) => {
        here[0] = v;
        vary(here, full);
        let z = 0;
        for (let j = 0; j < p; j++) {
          own[j] = encoderAt[j] < 0 ? 0 : full[encoderAt[j]];
          z += coefficients[j] * own[j];
        }
        if (critical === null || s === null) return { mean: scale.back(z), meanInterval: null };
        const half = critical * s * Math.sqrt(quadraticForm(solution.inverse, own));
        return { mean: scale.back(z), meanInterval: backInterval(scale.back, z - half, z + half) };
      });
    },
    predict(settings) {
      const z = fitted(settings);
      const d = quadraticForm(solution.inverse, x);
      const mean = scale.back(z);
      const standardError = s === null ? null : s * Math.sqrt(d);
      const meanHalf = critical === null || standardError === null ? null : critical * standardError;
      const trialHalf = critical === null || s === null ? null : critical * s * Math.sqrt(1 + d);
      const meanInterval = meanHalf === null ? null : backInterval(scale.back, z - meanHalf, z + meanHalf);
      const outside = (v: number): boolean =>
        v < (bounds?.min ?? Number.NEGATIVE_INFINITY) || v > (bounds?.max ?? Number.POSITIVE_INFINITY);
      return {
        mean,
        standardError,
        meanInterval,
        trialInterval: trialHalf === null ? null : backInterval(scale.back, z - trialHalf, z + trialHalf),
        leverage: d,
        extrapolates:
          d > largestLeverage * (1 + 1e-9) ||
          unseen.some((u) => u.levels.includes(String(settings[u.factor]))) ||
          !withinRanges(study.factors, settings) ||
          !allowed(study, settings),
        breaksBounds: outside(mean) || (meanInterval?.some(outside) ?? false),
      };
    },
  };
}
