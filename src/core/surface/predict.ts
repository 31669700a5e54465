import type { Fit } from "../model/fit";
import type { FittedModel, Predictive } from "../model/fitted";
import { unseenLevels } from "../model/model-data";
import { type OwnSpread, ownSpread, withOwnSpread } from "../model/own-spread";
import { dot } from "../numerics/least-squares";
import { code, isNumeric } from "../study/coding";
import { Memo } from "../study/memo";
import { allowed, withinRanges } from "../study/region";
import { activeFactors } from "../study/roles";
import type { Settings, Study } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { CURVATURE_TERM, ofFactors, termKey, WAVE_TERM } from "../terms/term";
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
  /**
   * How far the value may lie off here, at most, where the centre is clearly off the plane of the corners and no square
   * carries it: c·max(1 − xᵢ²), on the response's own scale; null where nothing of the kind is known.
   */
  bend: number | null;
  /**
   * The ratio of variances between and within set-ups that both intervals rest on, where set-ups are too few to tell
   * it; not there where nothing is assumed.
   */
  assumed?: number;
  /** The response whose model says how far one trial scatters here; not there where all trials scatter alike. */
  scatter?: string;
}

/** A function over two numeric factors, all others standing where they stood when it was made. */
export type Plane = (x: number, y: number) => number;

/** Reads predictions of one model, or of the average of several; made once, then cheap per point. */
export interface Predictor {
  /** The model chosen; of an average, the one its terms are chosen by. */
  fit: Fit;
  /** What predictions come from: the model of the fit, or an average. */
  model: FittedModel;
  /** What its intervals assume of set-ups, as `Prediction.assumed` says it. */
  assumed: number | undefined;
  /** How single trials scatter by a stored model of the spread, where there is one. */
  own: OwnSpread | undefined;
  /** Waves that the model sets apart, in the order of its columns; none where it knows of one alone. */
  waves: readonly string[];
  /**
   * How new trials at some settings are expected to fall, on the fitted scale.
   * @param wave one of `waves`, as in which they fall; the average of all unless said
   */
  predictive(settings: Settings, wave?: string): Predictive;
  /** A new row of the model's columns, by the same. */
  row(settings: Settings, wave?: string): Float64Array;
  /** Coefficients of the polynomial on the fitted scale, waves and the centre left out. */
  basis: Coefficient[];
  /** Value on the response's own scale. */
  value(settings: Settings): number;
  /** Value on the fitted scale. */
  fitted(settings: Settings): number;
  /** Variance of the value over that of the error: x′(X′X)⁻¹x. */
  leverage(settings: Settings): number;
  /** Values on the response's own scale over two numeric factors: for maps, which ask thousands of points at once. */
  plane(settings: Settings, x: string, y: string): Plane;
  /** Mean and its interval along one numeric factor, all others as given. */
  line(
    settings: Settings,
    id: string,
    values: readonly number[],
  ): Pick<Prediction, "mean" | "meanInterval" | "extrapolates">[];
  /** Mean and its interval alone: of counts these ask for no lot. */
  expected(settings: Settings): Pick<Prediction, "mean" | "meanInterval">;
  /** @param units that one trial is the mean of, where trials are made of units: one unless said */
  predict(settings: Settings, units?: number): Prediction;
}

/** Values a decreasing or cut way back gives to the ends of an interval, in order. */
export function backInterval(
  back: (z: number) => number,
  interval: readonly [number, number] | null,
): [number, number] | null {
  if (interval === null) return null;
  const a = back(interval[0]);
  const b = back(interval[1]);
  return a <= b ? [a, b] : [b, a];
}

/**
 * How far the centre's column says that the plane may be off at some settings, on the fitted scale: all of it where
 * some factor stands in its middle, nothing where all stand at their ends.
 *
 * @returns undefined where the column is not in the model, or not clear of noise
 */
function curvatureOffset(study: Study, fit: Fit, model: FittedModel): ((settings: Settings) => number) | undefined {
  const { curvature, confidence } = fit;
  const place = model.columns.findIndex((c) => c.key === termKey(CURVATURE_TERM));
  if (place < 0 || !curvature || curvature.p === null || curvature.p >= 1 - confidence) return undefined;
  const numeric = activeFactors(study).filter(isNumeric);
  return (settings) => {
    const most = Math.max(0, ...numeric.map((f) => 1 - code(f, settings[f.id] as number) ** 2));
    return model.coefficients[place] * most;
  };
}

/** The waves that a model sets apart, and how a row of it is that of one of them. */
export function wavesOf(
  { data }: Fit,
  { columns }: FittedModel,
): { waves: readonly string[]; write(row: Float64Array, wave: string): void } {
  const places = columns.flatMap((c, j) => (c.key === termKey(WAVE_TERM) ? [j] : []));
  const waves = [...new Set(data.waves)];
  if (places.length === 0 || places.length !== waves.length - 1) return { waves: [], write: () => undefined };
  const rows = contrastRows(waves.length, "sum");
  return {
    waves,
    write(row, wave) {
      const own = rows[waves.indexOf(wave)];
      places.forEach((j, i) => {
        row[j] = own?.[i] ?? 0;
      });
    },
  };
}

/**
 * Makes the predictor of a fit. Predictions take the equal-weight average of waves.
 *
 * @param model what to predict by: the fit's own model unless it is one of an average
 */
export function predictor(study: Study, fit: Fit, memo = new Memo(), model: FittedModel = fit.model): Predictor {
  const { columns, coefficients, link } = model;
  const { confidence } = fit;
  const x = new Float64Array(columns.length);
  const fitted = (settings: Settings): number => {
    model.linear(settings, x);
    return dot(coefficients, x);
  };
  const bounds = study.responses.find((r) => r.id === fit.response)?.bounds;
  const outside = (v: number): boolean =>
    v < (bounds?.min ?? Number.NEGATIVE_INFINITY) || v > (bounds?.max ?? Number.POSITIVE_INFINITY);
  const unseen = unseenLevels(study, fit.data, model.terms);
  const offPlane = curvatureOffset(study, fit, model);
  const own = ownSpread(study, fit, memo);
  const { waves, write } = wavesOf(fit, model);
  const writeRow = (settings: Settings, into: Float64Array, wave?: string): Float64Array => {
    model.linear(settings, into);
    if (wave !== undefined) write(into, wave);
    return into;
  };
  const predictive = (settings: Settings, wave?: string): Predictive => {
    const said = model.predictive(writeRow(settings, x, wave));
    return own ? withOwnSpread(said, own, own.at(settings)) : said;
  };
  // One of an average that assumes a ratio makes its intervals rest on it.
  const assumed = model.members.flatMap((m) => m.model.setups?.assumed ?? []).at(0);
  /** Whether settings stand where nothing was run or may be run, whatever the model's columns say. */
  const strays = (settings: Settings): boolean =>
    unseen.some((u) => u.levels.includes(String(settings[u.factor]))) ||
    !withinRanges(study.factors, settings) ||
    !allowed(study, settings);
  return {
    fit,
    model,
    assumed,
    own,
    waves,
    predictive,
    row: (settings, wave) => writeRow(settings, new Float64Array(columns.length), wave),
    basis: columns.flatMap((column, j) => (ofFactors(column.term) ? [{ column, value: coefficients[j] }] : [])),
    fitted,
    leverage(settings) {
      model.linear(settings, x);
      return model.relative(x);
    },
    value: (settings) => link.back(fitted(settings)),
    plane(settings, first, second) {
      const vary = model.varying(settings, [first, second]);
      const here = new Float64Array(2);
      const row = new Float64Array(columns.length);
      return (vx, vy) => {
        here[0] = vx;
        here[1] = vy;
        vary(here, row);
        return link.back(dot(coefficients, row));
      };
    },
    line(settings, id, values) {
      const vary = model.varying(settings, [id]);
      const here = new Float64Array(1);
      const row = new Float64Array(columns.length);
      return values.map((v) => {
        here[0] = v;
        vary(here, row);
        const said = model.predictive(row);
        return {
          mean: link.back(said.value),
          meanInterval: backInterval(link.back, said.interval(confidence)),
          extrapolates: model.beyond(row) || strays({ ...settings, [id]: v }),
        };
      });
    },
    expected(settings) {
      model.linear(settings, x);
      const said = model.predictive(x);
      return { mean: link.back(said.value), meanInterval: backInterval(link.back, said.interval(confidence)) };
    },
    predict(settings, units) {
      const said = predictive(settings);
      const mean = link.back(said.value);
      const meanInterval = backInterval(link.back, said.interval(confidence));
      return {
        mean,
        standardError: said.variance === null ? null : Math.sqrt(said.variance),
        meanInterval,
        trialInterval: backInterval(link.back, said.interval(confidence, 1, units)),
        leverage: model.relative(x),
        extrapolates: model.beyond(x) || strays(settings),
        bend: offPlane === undefined ? null : link.back(said.value + offPlane(settings)) - mean,
        breaksBounds: outside(mean) || (meanInterval?.some(outside) ?? false),
        ...(assumed === undefined ? {} : { assumed }),
        ...(own ? { scatter: own.response } : {}),
      };
    },
  };
}
