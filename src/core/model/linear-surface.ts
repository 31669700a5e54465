import { dot } from "../numerics/least-squares";
import { code, isNumeric } from "../study/coding";
import { Memo } from "../study/memo";
import { allowed, withinRanges } from "../study/region";
import { activeFactors } from "../study/roles";
import type { Settings, Study } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { CURVATURE_TERM, ofFactors, termKey, WAVE_TERM } from "../terms/term";
import type { Fit } from "./fit";
import { type FittedModel, type Predictive, trialError } from "./fitted";
import { constantDf, linearMember } from "./linear-member";
import { unseenLevels } from "./model-data";
import { ownSpread, withOwnSpread } from "./own-spread";
import { type Coefficient, quadraticAt } from "./polynomial";
import { polynomialImportance } from "./polynomial-importance";
import { backInterval, type Surface } from "./surface";
import { waveSpread, wavesP } from "./wave-spread";

/** The surface of a linear model, or of the average of several; made once, then cheap per point. */
export interface LinearSurface extends Surface {
  /** The model chosen; of an average, the one its terms are chosen by. */
  readonly fit: Fit;
  /** What predictions come from: the model of the fit, or an average. */
  readonly model: FittedModel;
  /** Coefficients of the polynomial on the fitted scale, waves and the centre left out. */
  readonly basis: readonly Coefficient[];
  /** The first coefficient of a term; undefined where it is not in the model. */
  coefficientOf(key: string): number | undefined;
}

/** Whether a surface is that of a linear model. */
export const isLinear = (surface: Surface): surface is LinearSurface => "basis" in surface;

/** The fit behind a surface; undefined where it is not that of a linear model. */
export const linearFit = (surface: Surface | undefined): Fit | undefined =>
  surface && isLinear(surface) ? surface.fit : undefined;

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
function wavesOf(
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
 * Makes the surface of a fit. Predictions take the equal-weight average of waves.
 *
 * @param model what to predict by: the fit's own model unless it is one of an average
 */
export function linearSurface(
  study: Study,
  fit: Fit,
  memo = new Memo(),
  model: FittedModel = fit.model,
): LinearSurface {
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
  const basis = columns.flatMap((column, j) => (ofFactors(column.term) ? [{ column, value: coefficients[j] }] : []));
  const shown = fit.model;
  return {
    response: fit.response,
    fit,
    model,
    link,
    basis,
    coefficientOf: (key) => basis.find((c) => c.column.key === key)?.value,
    shownOf: [...new Set(fit.terms.flat())],
    speaksOf: [...new Set(model.terms.flat())],
    assumed,
    own,
    waves,
    error: {
      scale: shown.scale,
      df: constantDf(shown),
      residualDf: fit.summary.residualDf,
      exact: shown.exact,
      trial: trialError(shown),
      setups: shown.setups,
      units: () => shown.piecesOf(),
    },
    lots: model.lots && {
      usual: model.lots.usual,
      together: model.lots.together,
      at(settings, wave) {
        const row = writeRow(settings, new Float64Array(columns.length), wave);
        return (sizes, shift) => model.lots?.lot(row, sizes, shift) ?? null;
      },
    },
    members: model.members.map((m) => linearMember(m.weight, m.model, wavesOf(fit, m.model).write)),
    residuals() {
      const raw = model.residuals("raw");
      return new Map(model.trials.map((id, i) => [id, raw[i] ?? 0]));
    },
    wavesP: () => wavesP(fit),
    waveSpread: () => waveSpread(fit),
    predictive,
    quadratic: (at) => quadraticAt(study, basis, at),
    influence: () => polynomialImportance(study, basis),
    fitted,
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
