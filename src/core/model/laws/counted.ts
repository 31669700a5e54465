import {
  chiSquaredQuantile,
  chiSquaredUpper,
  fQuantile,
  fUpper,
  normalQuantile,
  tQuantile,
} from "../../numerics/distributions";
import {
  block,
  cholesky,
  clearOf,
  information,
  type LeastSquares,
  leastSquares,
  type Matrix,
  pickColumns,
  quadraticForm,
} from "../../numerics/least-squares";
import { type Random, seededRandom } from "../../numerics/random";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import type { CountedData } from "../data";
import { rowWriter } from "../design";
import {
  type AddedTerm,
  type AnovaRow,
  type Criteria,
  type FewCounted,
  type FittedModel,
  FULL_LEVERAGE,
  type LikelihoodSummary,
  type Predictive,
  type ResidualKind,
  type TermTest,
} from "../fitted";
import { lotOf } from "../lots";
import { criticalValues } from "../predictive";
import { type Counted, quantilePlace, rootDown } from "./counting";
import { columnsBeyond, type LawInput } from "./law";
import { type Counting, type Maximum, partsOf, Surface } from "./likelihood";

/** Events of trials of one size scatter by a dispersion; of different sizes by weights. */
export const sameSize = ({ of }: CountedData): boolean => of.every((n) => n === of[0]);

const upTo = (n: number): number[] => Array.from({ length: n }, (_, j) => j);

/** Coefficients to start from: the constant's at what was counted in all, half an event added. */
function startOf({ link }: Counted, { kind, events, of }: CountedData, p: number): Float64Array {
  const k = events.reduce((t, v) => t + v, 0);
  const n = of.reduce((t, v) => t + v, 0);
  const start = new Float64Array(p);
  start[0] = link.forward(kind === "share" ? (k + 0.5) / (n + 1) : (k + 0.5) / n);
  return start;
}

/** What was counted against what a model expects. */
export interface Scatter {
  pearson: number;
  /** With Fletcher's (2012) correction; null without degrees of freedom. */
  dispersion: number | null;
}

/** Pearson's X²: squares of slopes over weights. What expects nothing and got nothing adds nothing. */
function pearsonOf(counting: Counting, predictors: Float64Array): number {
  const parts = partsOf(predictors.length);
  counting(predictors, parts);
  let total = 0;
  for (let i = 0; i < predictors.length; i++)
    if (parts.weights[i] > 1e-12) total += parts.slopes[i] ** 2 / parts.weights[i];
  return total;
}

/** Pearson's X² and the dispersion of a fit. */
function scatterOf(counted: Counted, data: CountedData, predictors: Float64Array, extra: number, df: number): Scatter {
  const n = predictors.length;
  const pearson = pearsonOf(counted.counting(data, extra), predictors);
  let skew = 0;
  for (let i = 0; i < n; i++) skew += counted.skew(data, i, predictors[i], extra);
  const correction = 1 + skew / n;
  // Breslow's weights let single trials bring the correction below nothing, where it has no meaning.
  return { pearson, dispersion: df > 0 ? pearson / df / (correction > 0.1 ? correction : 1) : null };
}

/** One likelihood maximised over all its columns. */
interface Fitted {
  surface: Surface;
  best: Maximum;
  extra: number;
  scatter: Scatter;
}

/**
 * Fits events to columns. Where trials differ in size and pieces are not taken for independent, the scatter beyond
 * counting is what brings Pearson's X² to its degrees of freedom (Williams 1982; Breslow 1984), never below 0.
 */
export function fitCounted(counted: Counted, data: CountedData, x: Matrix, penalised: boolean): Fitted {
  const p = x.cols;
  const df = x.rows - p;
  let start = startOf(counted, data, p);
  const at = (extra: number): { surface: Surface; best: Maximum; scatter: Scatter } => {
    const surface = new Surface({ x, counting: counted.counting(data, extra), penalised });
    const best = surface.maximum(upTo(p), start);
    if (best.converged) start = best.coefficients;
    surface.moveTo(best.coefficients);
    return { surface, best, scatter: scatterOf(counted, data, surface.predictors, extra, df) };
  };
  const weighs = data.scatter === "free" && !sameSize(data) && df > 0;
  const extra = weighs ? rootDown((e) => at(e).scatter.pearson - df, data.kind === "share" ? 1 : 1e6, 0.02) : 0;
  return { ...at(extra), extra };
}

/** What the figures of a law of counts are worked out from; known to this file alone. */
interface Solved {
  counted: Counted;
  input: LawInput;
  data: CountedData;
  fit: Fitted;
  counting: Counting;
  /** Linear predictors at the maximum. */
  predictors: Float64Array;
  n: number;
  p: number;
  residualDf: number;
  /** Dispersion that tests and intervals go by: 1 where pieces are independent; null without any. */
  phi: number | null;
  /** Of the denominator of F; null where chi-squared takes its place. */
  df: number | null;
  coefficients: Float64Array;
  /** Of the last step, through the QR. */
  solution: LeastSquares;
  /** Roots of the weights. */
  roots: Float64Array;
  firth: FewCounted | undefined;
  /** Inverse information at the maximum, that chords step by. */
  inverse: Float64Array | null;
  /** Tests worked out already, by their columns. */
  tests: Map<string, TermTest>;
}

function solve(counted: Counted, input: LawInput): Solved {
  const { design, judged } = input;
  const data = design.data.counted as CountedData;
  const { matrix } = design;
  const n = matrix.rows;
  const p = matrix.cols;
  const fit = fitCounted(counted, data, matrix, judged?.firth !== undefined);
  const { surface, best } = fit;
  const roots = surface.parts.weights.map(Math.sqrt);
  const weighted = { ...matrix, data: matrix.data.map((v, k) => v * roots[Math.floor(k / p)]) };
  // The working response of iteratively reweighted least squares: where it was and how far its slope leads.
  const working = Float64Array.from(roots, (r, i) => r * surface.predictors[i] + surface.parts.slopes[i] / r);
  const solution = leastSquares(weighted, working);
  const residualDf = n - p;
  // Single pieces scatter by counting alone.
  const known = data.scatter === "counting" || data.of.every((v) => data.kind === "share" && v === 1);
  return {
    counted,
    input,
    data,
    fit,
    counting: counted.counting(data, fit.extra),
    predictors: surface.predictors.slice(),
    n,
    p,
    residualDf,
    phi: known ? 1 : fit.scatter.dispersion,
    df: known ? null : residualDf,
    coefficients: best.converged ? solution.coefficients : best.coefficients,
    solution,
    roots,
    firth: judged?.firth,
    inverse: surface.inverse(),
    tests: new Map(),
  };
}

/** F of a rise of the criterion, and its p. */
function judge({ phi, df }: Solved, rise: number, q: number): { f: number | null; p: number | null } {
  if (phi === null || !(phi > 0) || q < 1) return { f: null, p: null };
  const f = Math.max(0, rise) / q / phi;
  return { f, p: df === null ? chiSquaredUpper(f * q, q) : fUpper(f, q, df) };
}

/** QAICc and QBIC of a deviance on p columns, one more for an estimated dispersion (Burnham & Anderson 2002). */
function criteriaOf(s: Solved, deviance: number, p: number): Criteria {
  const { n, input, df, phi } = s;
  const dispersion = df === null ? 1 : (input.judged?.dispersion ?? phi);
  if (dispersion === null || !(dispersion > 0)) return { aicc: null, bic: null };
  const k = df === null ? p : p + 1;
  const base = deviance / dispersion;
  return {
    aicc: n <= k + 1 ? null : base + 2 * k + (2 * k * (k + 1)) / (n - k - 1),
    bic: base + k * Math.log(n),
  };
}

/** Deviance that the criteria of some columns go by: with the weights of the largest model. */
function criterionDeviance(s: Solved, keep: readonly number[], here: Maximum): number {
  const { input, fit, data, counted } = s;
  const extra = input.judged?.extra ?? fit.extra;
  if (extra === fit.extra) return here.deviance;
  const surface = new Surface({
    x: pickColumns(input.design.matrix, keep),
    counting: counted.counting(data, extra),
    penalised: s.firth !== undefined,
  });
  return surface.maximum(
    upTo(keep.length),
    Float64Array.from(keep, (j) => here.coefficients[j]),
  ).deviance;
}

/** The largest likelihood without some columns: under the full penalty, so that it lies within the one with them. */
function without(s: Solved, columns: readonly number[]): { keep: number[]; best: Maximum } {
  const { fit, p, inverse } = s;
  const out = new Set(columns);
  const keep = upTo(p).filter((j) => !out.has(j));
  if (!inverse) {
    const start = fit.best.coefficients.slice();
    for (const j of columns) start[j] = 0;
    return { keep, best: fit.surface.maximum(keep, start) };
  }
  return { keep, best: fit.surface.near(inverse, columns, onParabola(s, inverse, columns)) };
}

/** Where the maximum without some columns would be if the likelihood were a parabola. */
function onParabola({ fit, p }: Solved, inverse: Float64Array, columns: readonly number[]): Float64Array {
  const start = fit.best.coefficients.slice();
  if (columns.length === 0) return start;
  const pull = solveBlock(
    block({ rows: p, cols: p, data: inverse }, columns),
    columns.map((j) => fit.best.coefficients[j]),
  );
  for (let j = 0; j < p; j++)
    for (let i = 0; i < columns.length; i++) start[j] -= inverse[j * p + columns[i]] * pull[i];
  for (const j of columns) start[j] = 0;
  return start;
}

/** M⁻¹b of a small symmetric positive definite matrix. */
function solveBlock(m: Matrix, b: readonly number[]): number[] {
  const l = cholesky(m);
  const w = b.length;
  if (!l) return b.map(() => 0);
  const z = [...b];
  for (let i = 0; i < w; i++) {
    for (let k = 0; k < i; k++) z[i] -= l.data[i * w + k] * z[k];
    z[i] /= l.data[i * w + i];
  }
  for (let i = w - 1; i >= 0; i--) {
    for (let k = i + 1; k < w; k++) z[i] -= l.data[k * w + i] * z[k];
    z[i] /= l.data[i * w + i];
  }
  return z;
}

function testOf(s: Solved, columns: readonly number[]): TermTest {
  const key = columns.join();
  const done = s.tests.get(key) ?? testAnew(s, columns);
  s.tests.set(key, done);
  return done;
}

function testAnew(s: Solved, columns: readonly number[]): TermTest {
  const { keep, best } = without(s, columns);
  const ss = Math.max(0, best.criterion - s.fit.best.criterion);
  let criteria: Criteria | undefined;
  return {
    df: columns.length,
    dfDenominator: s.df,
    ss,
    ...judge(s, ss, columns.length),
    get criteria() {
      criteria ??= criteriaOf(s, criterionDeviance(s, keep, best), keep.length);
      return criteria;
    },
  };
}

/** Some columns as if added last: a fit with them, the scatter beyond counting held at the model's. */
function addTerm(s: Solved, columns: Matrix): AddedTerm | null {
  const { n, p, input, data, fit, counted } = s;
  const q = columns.cols;
  // What is no longer than rounding beside the model adds nothing.
  const lengths = new Float64Array(q);
  const basis = s.solution.basis.slice();
  for (let c = 0; c < q; c++) {
    const v = Float64Array.from({ length: n }, (_, i) => s.roots[i] * columns.data[i * q + c]);
    const before = v.reduce((t, x) => t + x * x, 0);
    for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
    lengths[c] = v.reduce((t, x) => t + x * x, 0);
    if (!Number.isFinite(before) || !(lengths[c] > 1e-14 * before)) return null;
    const norm = Math.sqrt(lengths[c]);
    basis.push(v.map((x) => x / norm));
  }
  if (n < p + q) return null;
  const x = {
    rows: n,
    cols: p + q,
    data: Float64Array.from({ length: n * (p + q) }, (_, k) => {
      const i = Math.floor(k / (p + q));
      const j = k % (p + q);
      return j < p ? input.design.matrix.data[i * p + j] : columns.data[i * q + j - p];
    }),
  };
  const surface = new Surface({ x, counting: counted.counting(data, fit.extra), penalised: s.firth !== undefined });
  const start = new Float64Array(p + q);
  start.set(fit.best.coefficients);
  const best = surface.maximum(upTo(p + q), start);
  const at = upTo(q).map((j) => p + j);
  const small = s.firth ? surface.maximum(upTo(p), start).criterion : fit.best.criterion;
  surface.moveTo(best.coefficients);
  const df = n - p - q;
  const phi = s.df === null ? 1 : scatterOf(counted, data, surface.predictors, fit.extra, df).dispersion;
  const own = { ...s, phi, df: s.df === null ? null : df };
  const ss = Math.max(0, small - best.criterion);
  const around = surface.inverse();
  if (!around) return null;
  const usable = phi !== null && (own.df === null || df > 0);
  return {
    df: q,
    dfDenominator: own.df,
    ss,
    ...judge(own, ss, q),
    coefficients: at.map((j) => best.coefficients[j]),
    covariance: usable
      ? {
          rows: q,
          cols: q,
          data: Float64Array.from(at.flatMap((j) => at.map((k) => phi * around[j * (p + q) + k]))),
        }
      : null,
    dfs: at.map(() => own.df),
    criteria: criteriaOf(own, best.deviance, p + q),
    ...(q === 1 && usable
      ? { profile: (confidence: number) => profileOf(surface, best, around, p, risesTo(own, confidence)) }
      : {}),
  };
}

/** Rise of the criterion at the ends of an interval. */
const risesTo = ({ phi, df }: Pick<Solved, "phi" | "df">, confidence: number): number =>
  (phi ?? 0) * (df === null ? chiSquaredQuantile(confidence, 1) : df > 0 ? fQuantile(confidence, 1, df) : 0);

function profileOf(
  surface: Surface,
  best: Maximum,
  inverse: Float64Array | null,
  column: number,
  rise: number,
): [number, number] | null {
  if (!(rise > 0) || !inverse) return null;
  const low = surface.profileEnd(best, inverse, column, -1, rise);
  const high = surface.profileEnd(best, inverse, column, 1, rise);
  return low === null || high === null ? null : [low, high];
}

/** Rows of the table of deviance but for what splits the residual. */
function anovaOf(s: Solved, nullDeviance: number): AnovaRow[] {
  const { input, fit, residualDf, n } = s;
  const { columns } = input.design;
  const keys = [...new Set(columns.slice(1).map((c) => c.key))];
  const places = keys.map((key) => columns.flatMap((c, j) => (c.key === key ? [j] : [])));
  const start = new Float64Array(s.p);
  start[0] = startOf(s.counted, s.data, 1)[0];
  let first: Maximum | undefined;
  const constant = (): Maximum => {
    first ??= fit.surface.maximum([0], start);
    return first;
  };
  let rises: number[] | undefined;
  // In order: each with the ones before it, all under the penalty of the whole where there is one. A fit each.
  const inOrder = (): number[] => {
    let before = constant();
    const upToKey = [0];
    return places.map((positions, k) => {
      upToKey.push(...positions);
      const here = k === keys.length - 1 ? fit.best : fit.surface.maximum(upToKey, before.coefficients);
      const rise = Math.max(0, before.criterion - here.criterion);
      before = here;
      return rise;
    });
  };
  const rows = keys.map((key, index): AnovaRow => {
    const { ss, f, p } = testOf(s, places[index]);
    const { term } = columns[places[index][0]];
    return {
      source: ofFactors(term) ? "term" : term === WAVE_TERM ? "wave" : "curvature",
      ...(key === "@wave" ? {} : { term }),
      df: places[index].length,
      ss,
      get sequentialSs() {
        rises ??= inOrder();
        return rises[index];
      },
      ms: ss === null ? null : ss / places[index].length,
      f,
      p,
      dfDenominator: s.df,
    };
  });
  const wave = rows.find((r) => r.source === "wave");
  const curvature = rows.find((r) => r.source === "curvature");
  const modelDf = s.p - 1 - (wave?.df ?? 0) - (curvature?.df ?? 0);
  // Waves come first and the centre's column last: between them lies what the terms explain.
  const waves = places[keys.indexOf("@wave")] ?? [];
  const base = waves.length > 0 ? fit.surface.maximum([0, ...waves], constant().coefficients) : constant();
  const modelSs = Math.max(0, base.criterion - fit.best.criterion - (curvature?.ss ?? 0));
  const { f, p } = judge(s, modelSs, modelDf);
  const { deviance } = fit.best;
  return [
    ...(wave ? [wave] : []),
    {
      source: "model",
      df: modelDf,
      ss: modelSs,
      sequentialSs: modelSs,
      ms: modelDf > 0 ? modelSs / modelDf : null,
      f,
      p,
      dfDenominator: s.df,
    },
    ...rows.filter((r) => r !== wave),
    {
      source: "residual",
      df: residualDf,
      ss: deviance,
      sequentialSs: null,
      ms: residualDf > 0 ? deviance / residualDf : null,
      f: null,
      p: null,
    },
    { source: "total", df: n - 1, ss: nullDeviance, sequentialSs: null, ms: null, f: null, p: null },
  ];
}

/** Changes of deviance below this end the fit without one trial: what it loses there goes with their root. */
const CLOSE_ENOUGH = 1e-18;
const FEW_COLUMNS = 12;

/**
 * Deviance of each trial where the fit is made without it, in all: each a fit of its own, from where one step by the
 * inverse information without the trial leads (a change of rank one, Sherman & Morrison 1950).
 *
 * @returns null where a trial cannot be left out
 */
function leftOut(s: Solved, keep: readonly number[], start: Float64Array): number | null {
  const { counted, data, fit, input, n } = s;
  const x = pickColumns(input.design.matrix, keep);
  const w = keep.length;
  const surface = new Surface({
    x,
    counting: counted.counting(data, fit.extra),
    penalised: s.firth !== undefined,
  });
  const best = surface.maximum(upTo(w), start);
  const inverse = surface.inverse();
  if (!inverse) return null;
  const weights = surface.parts.weights.slice();
  const slopes = surface.parts.slopes.slice();
  const metric = new Float64Array(w * w);
  const along = new Float64Array(w);
  const first = new Float64Array(w);
  let total = 0;
  for (let out = 0; out < n; out++) {
    let h = 0;
    for (let i = 0; i < w; i++) {
      along[i] = 0;
      for (let j = 0; j < w; j++) along[i] += inverse[i * w + j] * x.data[out * w + j];
      h += weights[out] * along[i] * x.data[out * w + i];
    }
    if (h > FULL_LEVERAGE) return null;
    for (let i = 0; i < w; i++) first[i] = best.coefficients[i] - (slopes[out] / (1 - h)) * along[i];
    surface.leaving = out;
    let without: Maximum;
    // Of few columns the information is worked out as quickly as a step by the old one is taken.
    if (w <= FEW_COLUMNS) without = surface.maximum(upTo(w), first);
    else {
      const size = weights[out] / (1 - h);
      for (let i = 0; i < w; i++)
        for (let j = 0; j < w; j++) metric[i * w + j] = inverse[i * w + j] + size * along[i] * along[j];
      without = surface.near(metric, [], first, CLOSE_ENOUGH);
    }
    if (!without.converged) return null;
    // The surface still stands at the maximum without the trial.
    total += surface.parts.deviances[out];
  }
  return total;
}

/** The same of the constant alone, which is the share or rate of all other trials, by their weights. */
function nullLeftOut({ counted, counting, data, n, fit }: Solved): number {
  const weights = data.of.map((v) => (data.kind === "share" ? 1 / (1 + (v - 1) * fit.extra) : 1));
  const events = data.events.reduce((t, v, i) => t + weights[i] * v, 0);
  const of = data.of.reduce((t, v, i) => t + weights[i] * v, 0);
  const own = partsOf(n);
  const predictors = Float64Array.from({ length: n }, (_, i) =>
    counted.link.forward((events - weights[i] * data.events[i]) / (of - weights[i] * data.of[i])),
  );
  counting(predictors, own);
  return own.deviances.reduce((t, v) => t + v, 0);
}

function summaryOf(s: Solved, nullDeviance: number, id: string): LikelihoodSummary {
  const { fit, n, p, residualDf, input } = s;
  const { deviance } = fit.best;
  const waves = input.design.columns.flatMap((c, j) => (c.key === "@wave" ? [j] : []));
  let predicted: number | null | undefined;
  return {
    law: id,
    s: null,
    deviance,
    nullDeviance,
    criterion: fit.best.criterion,
    r2: nullDeviance > 0 ? 1 - deviance / nullDeviance : null,
    r2Adjusted: nullDeviance > 0 && residualDf > 0 ? 1 - deviance / residualDf / (nullDeviance / (n - 1)) : null,
    // A fit for every trial: worked out when it is asked for.
    get r2Predicted() {
      if (predicted === undefined) {
        const start = startOf(s.counted, s.data, 1);
        const none = s.firth || !s.counting.canonical ? leftOut(s, [0], start) : nullLeftOut(s);
        const all = leftOut(s, upTo(p), fit.best.coefficients);
        predicted = none !== null && Number.isFinite(none) && all !== null && none > 0 ? 1 - all / none : null;
      }
      return predicted;
    },
    get r2AfterWaves() {
      if (waves.length === 0) return nullDeviance > 0 ? 1 - deviance / nullDeviance : null;
      const x = pickColumns(input.design.matrix, [0, ...waves]);
      const surface = new Surface({ x, counting: s.counting, penalised: false });
      const start = startOf(s.counted, s.data, x.cols);
      const base = surface.maximum(upTo(x.cols), start).deviance;
      return base > 0 ? 1 - deviance / base : null;
    },
    ...criteriaOf(s, criterionDeviance(s, upTo(p), fit.best), p),
    residualDf,
  };
}

/** Pearson's and deviance residuals of the trials. */
function errorsOf(s: Solved): { pearson: Float64Array; deviance: Float64Array; raw: Float64Array } {
  const { n, counting, predictors, data, counted } = s;
  const own = partsOf(n);
  counting(predictors, own);
  const { slopes, weights, deviances } = own;
  return {
    pearson: slopes.map((v, i) => (weights[i] > 1e-12 ? v / Math.sqrt(weights[i]) : 0)),
    deviance: slopes.map((v, i) => Math.sign(v) * Math.sqrt(deviances[i])),
    raw: predictors.map((eta, i) => data.events[i] / data.of[i] - counted.rate(eta)),
  };
}

function residualsOf(s: Solved, kind: ResidualKind): (number | null)[] {
  const { phi, solution } = s;
  const { pearson, deviance, raw } = errorsOf(s);
  if (kind === "raw") return Array.from(raw);
  if (kind === "scaled") return Array.from(pearson);
  return Array.from(pearson, (r, i) => {
    const h = solution.leverage[i];
    if (phi === null || !(phi > 0) || h > FULL_LEVERAGE) return null;
    const error = Math.sqrt(phi * (1 - h));
    if (kind === "studentized") return r / error;
    // Likelihood residuals: what leaving the trial out would do to the deviance (Williams 1987).
    return Math.sign(r) * Math.sqrt((1 - h) * (deviance[i] / error) ** 2 + h * (r / error) ** 2);
  });
}

/** Values of the linear predictor that are equally likely: those of t at the middles of equal shares. */
const NODES = 201;

/** The model of what was solved. */
// Long: the members of one interface, over what was solved.
function modelOf(s: Solved, id: string): FittedModel {
  const { input, counted, data, fit, solution, n, p, phi, df, residualDf, roots, counting, predictors } = s;
  const { design } = input;
  const { surface } = fit;
  const known = phi !== null && (df === null || df > 0);
  const critical = criticalValues();
  const nullDeviance = new Surface({ x: pickColumns(design.matrix, [0]), counting, penalised: false }).maximum(
    [0],
    startOf(counted, data, 1),
  ).deviance;
  let anova: AnovaRow[] | undefined;
  const errors = errorsOf(s);
  const quantiles = Array.from({ length: NODES }, (_, i) => {
    const u = (i + 0.5) / NODES;
    return df === null ? normalQuantile(u) : df > 0 ? tQuantile(u, df) : 0;
  });
  // Predictions of penalised fits have their constant fitted again by maximum likelihood (Puhr et al. 2017).
  let forPredictions = s.coefficients;
  if (s.firth) {
    const plain = new Surface({ x: design.matrix, counting, penalised: false });
    forPredictions = plain.maximum([0], s.coefficients).coefficients;
  }
  const plainInverse = (): Matrix => information(design.matrix).inverse;
  let inverse: Matrix | undefined;
  const place = (row: Float64Array): number => {
    inverse ??= plainInverse();
    return quadraticForm(inverse, row);
  };
  let farthest: number | undefined;
  const extra =
    data.scatter === "counting"
      ? 0
      : sameSize(data) && phi !== null
        ? counted.extraOf(data, predictors, phi, residualDf)
        : fit.extra;
  const lot = (row: Float64Array, sizes: readonly number[]) => {
    if (!known || phi === null) return null;
    let value = 0;
    for (let j = 0; j < p; j++) value += forPredictions[j] * row[j];
    const error = Math.sqrt(phi * quadraticForm(solution.inverse, row));
    const of = sizes.reduce((t, v) => t + v, 0);
    const together = counted.together(sizes, extra);
    return lotOf(
      quantiles.map((q) => counted.law(of, counted.rate(value + q * error), together)),
      of,
    );
  };
  let vif: (number | null)[] | undefined;
  const laws = Array.from({ length: n }, (_, i) => () => counted.law(data.of[i], counted.rate(predictors[i]), extra));
  const placed = (events: ArrayLike<number>, predictors: ArrayLike<number>, beyond: number, random: Random) =>
    Float64Array.from({ length: n }, (_, i) =>
      normalQuantile(quantilePlace(counted.law(data.of[i], counted.rate(predictors[i]), beyond), events[i], random)),
    );
  let cumulated: { from: number; upTo: Float64Array }[] | undefined;
  const model: FittedModel = {
    law: id,
    trials: design.data.trials.map((t) => t.id),
    observed: input.observed,
    terms: design.terms,
    columns: design.columns,
    coefficients: forPredictions,
    covariance: known ? { ...solution.inverse, data: solution.inverse.data.map((v) => v * (phi ?? 0)) } : null,
    dfOf: () => (known ? df : 0),
    critical,
    units: undefined,
    link: counted.link,
    exact: false,
    get vif() {
      inverse ??= plainInverse();
      vif ??= vifOf(design.matrix, inverse);
      return vif;
    },
    leverages: solution.leverage,
    covariateRanges: design.covariateRanges,
    ...rowWriter(design),
    predictive(row): Predictive {
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
          const law = counted.law(data.usual, counted.rate(at), extra);
          let u = random.uniform();
          let k = 0;
          while (k < law.probabilities.length - 1 && u >= law.probabilities[k]) u -= law.probabilities[k++];
          return counted.link.forward((law.from + k) / data.usual);
        },
      };
    },
    scale: known && phi !== null ? Math.sqrt(phi) : null,
    relative: (row) => quadraticForm(solution.inverse, row),
    relativeNoise: (row) => (phi ? (model.predictive(row).noise ?? 0) / phi : 0),
    beyond(row) {
      farthest ??= Math.max(...upTo(n).map((i) => place(design.matrix.data.slice(i * p, (i + 1) * p))));
      return place(row) > farthest * (1 + 1e-9);
    },
    design: undefined,
    withNoise: () => model,
    residuals: (kind) => residualsOf(s, kind),
    loadings: null,
    addTerm: (columns) => addTerm(s, columns),
    test: (columns) => testOf(s, columns),
    compare(smaller) {
      return testOf(s, columnsBeyond(design, smaller));
    },
    whiten: (rows) => ({ ...rows, data: rows.data.map((v, k) => v * roots[Math.floor(k / rows.cols)]) }),
    left(values, once) {
      const e = Float64Array.from(values, (v, i) => v * roots[i]);
      for (let pass = 0; pass < (once ? 1 : 2); pass++) clearOf(solution.basis, e);
      return e;
    },
    anova() {
      anova ??= anovaOf(s, nullDeviance);
      return anova;
    },
    summary: summaryOf(s, nullDeviance, id),
    unitsOf: () => undefined,
    counted: {
      kind: data.kind,
      dispersion: phi,
      counting: df === null,
      extra,
      pearson: fit.scatter.pearson,
      countingPearson: scatterOf(counted, data, predictors, 0, residualDf).pearson,
      ...(s.firth ? { firth: s.firth, penalised: s.coefficients } : {}),
      criteriaDispersion: df === null ? 1 : (input.judged?.dispersion ?? phi),
      profile: (column, confidence) =>
        known ? profileOf(surface, fit.best, s.inverse, column, risesTo(s, confidence)) : null,
      lot,
      together: (sizes) => counted.together(sizes, extra),
      usual: data.usual,
      deviances: Array.from(errors.deviance, (d, i) => {
        const h = solution.leverage[i];
        return phi === null || !(phi > 0) || h > FULL_LEVERAGE ? null : d / Math.sqrt(phi * (1 - h));
      }),
      quantiles: () => Array.from(placed(data.events, predictors, extra, seededRandom(1))),
      own: (random) => ({
        scaled: errors.pearson,
        quantiles: placed(data.events, predictors, extra, random),
        fitted: predictors.map(counted.rate),
      }),
      repeat(random) {
        cumulated ??= laws.map((law) => {
          const { from, probabilities } = law();
          let sum = 0;
          return { from, upTo: probabilities.map((v) => (sum += v)) };
        });
        const events = cumulated.map(({ from, upTo: sums }) => {
          const u = random.uniform();
          let k = 0;
          while (k < sums.length - 1 && u >= sums[k]) k++;
          return from + k;
        });
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
      stable: sameSize(data) ? data.events.map((k, i) => counted.stable(k, data.of[i])) : null,
    },
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}

/** VIF of each column but the constant, of the design itself. */
function vifOf({ rows, cols, data }: Matrix, inverse: Matrix): (number | null)[] {
  return upTo(cols).map((j) => {
    if (j === 0) return null;
    let sum = 0;
    for (let i = 0; i < rows; i++) sum += data[i * cols + j];
    let squares = 0;
    for (let i = 0; i < rows; i++) squares += (data[i * cols + j] - sum / rows) ** 2;
    return inverse.data[j * cols + j] * squares;
  });
}

/** Fits events by a law of counts, by iteratively reweighted least squares through the QR. */
export const fitByCounting = (counted: Counted, id: string, input: LawInput): FittedModel =>
  modelOf(solve(counted, input), id);
