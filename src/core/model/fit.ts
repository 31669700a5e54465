import { fUpper, tQuantile, tTwoSided } from "../numerics/distributions";
import {
  block,
  inverseForm,
  type LeastSquares,
  leastSquares,
  type Matrix,
  pickColumns,
  rankReport,
} from "../numerics/least-squares";
import { sumOfSquares } from "../numerics/sums";
import { StudyError } from "../study/error";
import type { Study, Term, Transform } from "../study/schema";
import {
  type Column,
  type CovariateRanges,
  type Encoder,
  encoder,
  modelMatrix,
  waveColumns,
} from "../terms/model-matrix";
import { alphabetOf, inModelOrder, termKey, termShape } from "../terms/term";
import { covariateRanges, type ModelData, modelData, responseOf, storedModel } from "./data";
import { type ResidualSplit, splitResidual } from "./residual-split";
import { onScale } from "./transform";

export interface FitOptions {
  terms: Term[];
  transform?: Transform;
  /** Waves as blocks; default true, no effect with one wave. */
  block?: boolean;
}

export interface Parameter {
  term: Term;
  level?: string;
  coefficient: number;
  /** Change from low to high (2 × coefficient) of one-column terms without squares. */
  effect?: number;
  standardError: number | null;
  t: number | null;
  p: number | null;
  interval: [number, number] | null;
  vif: number | null;
}

export interface AnovaRow {
  source: "wave" | "model" | "term" | "curvature" | "residual" | "lack-of-fit" | "pure-error" | "total";
  term?: Term;
  df: number;
  ss: number;
  sequentialSs: number | null;
  ms: number | null;
  f: number | null;
  p: number | null;
}

export interface FitSummary {
  s: number | null;
  r2: number | null;
  r2Adjusted: number | null;
  r2Predicted: number | null;
  r2AfterWaves: number | null;
  press: number | null;
  rss: number;
  sst: number;
  aicc: number | null;
  bic: number | null;
  residualDf: number;
}

export interface TrialFigures {
  id: string;
  observed: number;
  predicted: number;
  residual: number;
  leverage: number;
  studentized: number | null;
  deleted: number | null;
  cooks: number | null;
  dffits: number | null;
}

export interface DroppedColumn {
  term: Term;
  level?: string;
  equals: { term: Term; level?: string; factor: number }[];
}

/** A fitted model of one response: figures for people and the parts that predictions need. */
export interface Fit extends ResidualSplit {
  response: string;
  n: number;
  transform: Transform;
  block: boolean;
  confidence: number;
  terms: Term[];
  dropped: DroppedColumn[];
  parameters: Parameter[];
  anova: AnovaRow[];
  summary: FitSummary;
  trials: TrialFigures[];
  /** Reasons why figures are absent, in words. */
  absent: { figure: string; reason: string }[];
  parts: FitParts;
}

/** What predictions and further figures are computed from. */
export interface FitParts {
  data: ModelData;
  /** Values on the fitted scale. */
  z: number[];
  columns: Column[];
  matrix: Matrix;
  solution: LeastSquares;
  encoded: Encoder;
  /** Index in the encoder's row for each kept column; −1 for wave columns. */
  encoderAt: number[];
  covariateRanges: CovariateRanges;
  /** RSS is nothing but rounding. */
  exact: boolean;
}

/** A leverage this near one leaves the trial's own prediction to itself alone. */
const FULL_LEVERAGE = 1 - 1e-8;

const columnLabel = (c: Column): { term: Term; level?: string } =>
  c.level === undefined ? { term: c.term } : { term: c.term, level: c.level };

/** Rows times the roots of their weights; the matrix itself where all weigh the same. */
export function weighted(matrix: Matrix, roots: readonly number[] | undefined): Matrix {
  if (!roots) return matrix;
  return { ...matrix, data: matrix.data.map((v, at) => v * roots[Math.floor(at / matrix.cols)]) };
}

/** Sum of squares about the mean, weighted where values weigh differently. */
function totalOf(values: ArrayLike<number>, weights: readonly number[] | undefined): number {
  if (!weights) return sumOfSquares(values);
  const v = Array.from(values);
  const mean = v.reduce((t, x, i) => t + weights[i] * x, 0) / weights.reduce((t, w) => t + w, 0);
  return v.reduce((t, x, i) => t + weights[i] * (x - mean) ** 2, 0);
}

/** VIF of each column but the constant: (X′X)⁻¹ⱼⱼ times the sum of squares about the mean. */
function columnVif(matrix: Matrix, inverse: Matrix, weights: readonly number[] | undefined): number[] {
  const { rows: n, cols: p } = matrix;
  return Array.from({ length: p }, (_, j) => {
    const column = new Float64Array(n);
    for (let i = 0; i < n; i++) column[i] = matrix.data[i * p + j] / Math.sqrt(weights?.[i] ?? 1);
    return inverse.data[j * p + j] * totalOf(column, weights);
  });
}

/**
 * Fits one response by least squares. Which columns can be estimated is judged on planned settings, the fit uses
 * what was really set; columns lost either way are reported as combinations of those kept.
 *
 * @throws StudyError `unknown-id`, `no-results`, `constant-response`, `bad-transform`
 */
export function fitModel(study: Study, response: string, options: FitOptions): Fit {
  const about = responseOf(study, response);
  const alphabet = alphabetOf(study);
  const terms = inModelOrder(alphabet, options.terms);
  // The logarithm of a standard deviation is what has an even spread of its own.
  const transform = about.spread ? "log" : (options.transform ?? "none");
  const useBlocks = options.block ?? true;
  const data = modelData(study, response, terms);
  const n = data.y.length;
  if (n === 0)
    throw new StudyError("no-results", `${about.name} has no results that count yet; enter some on Trials.`, [
      "trials",
    ]);
  if (n === 1)
    throw new StudyError("too-few-results", `${about.name} has one result; at least two are needed to fit anything.`, [
      "trials",
    ]);
  if (data.y.every((v) => v === data.y[0]))
    throw new StudyError(
      "constant-response",
      `${about.name} is ${data.y[0]} in every trial; there is nothing to explain.`,
      ["responses", response],
    );
  const z = onScale(
    transform,
    data.y,
    data.trials.map((t) => t.id),
  );

  const ranges = covariateRanges(study, data);
  const encoded = encoder(study, terms, "sum", ranges);
  const waves = useBlocks ? waveColumns(data.waves, new Map(study.waves.map((w) => [w.id, w.name]))) : undefined;
  const all = modelMatrix(encoded, data.actual, waves);
  const asPlanned = data.trials.every((t) => t.asRun === undefined);
  const planned = asPlanned ? all : modelMatrix(encoded, data.planned, waves);
  const judged = rankReport(planned.matrix);
  const dropped: DroppedColumn[] = judged.dropped.map((d) => ({
    ...columnLabel(all.columns[d.column]),
    equals: d.equals.map((e) => ({ ...columnLabel(all.columns[e.column]), factor: e.factor })),
  }));
  let kept = judged.kept;
  // As-run settings may lose what the plan could tell, when a factor was not set as planned.
  if (!asPlanned) {
    const second = rankReport(pickColumns(all.matrix, kept));
    for (const d of second.dropped)
      dropped.push({
        ...columnLabel(all.columns[kept[d.column]]),
        equals: d.equals.map((e) => ({ ...columnLabel(all.columns[kept[e.column]]), factor: e.factor })),
      });
    kept = second.kept.map((j) => kept[j]);
  }
  const roots = data.weights?.map(Math.sqrt);
  const matrix = weighted(pickColumns(all.matrix, kept), roots);
  const columns = kept.map((j) => all.columns[j]);
  const p = columns.length;
  const solution = leastSquares(matrix, roots ? z.map((v, i) => v * roots[i]) : z);
  const { coefficients, inverse } = solution;
  const sst = totalOf(z, data.weights);
  const scale = z.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
  const exact = solution.rss <= n * (64 * Number.EPSILON * scale) ** 2;
  const rss = exact ? 0 : solution.rss;
  const residualDf = n - p;
  const ms = residualDf > 0 ? rss / residualDf : null;
  const usable = ms !== null && !exact;
  const s = ms === null ? null : Math.sqrt(ms);
  const tCritical = residualDf > 0 ? tQuantile((1 + study.confidence) / 2, residualDf) : null;
  const vifs = columnVif(matrix, inverse, data.weights);
  const absent: Fit["absent"] = [];
  if (residualDf === 0)
    absent.push({
      figure: "standard errors",
      reason: "The model has as many coefficients as there are results, so nothing is left to judge noise by.",
    });
  else if (exact)
    absent.push({
      figure: "p-values",
      reason: "The model passes through every result exactly; what is left is rounding.",
    });

  const parameters = columns.map((c, j): Parameter => {
    const coefficient = coefficients[j];
    const standardError = s === null ? null : s * Math.sqrt(inverse.data[j * p + j]);
    const t = usable && standardError !== null && standardError > 0 ? coefficient / standardError : null;
    const wide = columns.filter((other) => other.key === c.key).length > 1;
    const shape = termShape(c.term);
    return {
      ...columnLabel(c),
      coefficient,
      ...((shape === "main" || shape === "interaction") && !wide && c.key !== "@wave"
        ? { effect: 2 * coefficient }
        : {}),
      standardError,
      t,
      p: t === null ? null : tTwoSided(t, residualDf),
      interval:
        standardError === null || tCritical === null
          ? null
          : [coefficient - tCritical * standardError, coefficient + tCritical * standardError],
      vif: j === 0 ? null : vifs[j],
    };
  });

  const keys = [...new Set(columns.slice(1).map((c) => c.key))];
  const rowFor = (key: string): AnovaRow => {
    const at = columns.flatMap((c, j) => (c.key === key ? [j] : []));
    const ss = inverseForm(
      block(inverse, at),
      at.map((j) => coefficients[j]),
    );
    const sequentialSs = at.reduce((t, j) => t + solution.sequential[j], 0);
    const mean = ss / at.length;
    const f = usable && ms !== null ? mean / ms : null;
    const term = columns[at[0]].term;
    return {
      source: key === "@wave" ? "wave" : "term",
      ...(key === "@wave" ? {} : { term }),
      df: at.length,
      ss,
      sequentialSs,
      ms: mean,
      f,
      p: f === null ? null : fUpper(f, at.length, residualDf),
    };
  };
  const waveKeys = keys.filter((k) => k === "@wave");
  const termKeys = keys.filter((k) => k !== "@wave");
  const waveRow = waveKeys.length > 0 ? rowFor("@wave") : undefined;
  const waveSequential = waveRow?.sequentialSs ?? 0;
  const modelDf = p - 1 - (waveRow?.df ?? 0);
  const modelSs = Math.max(0, sst - rss - waveSequential);
  const modelF = usable && ms !== null && modelDf > 0 ? modelSs / modelDf / ms : null;
  // Values that weigh differently have no common pure error to split off.
  const split = roots
    ? {}
    : splitResidual(study, data, z, {
        solution,
        rss,
        residualDf,
        exact,
        hasSquares: terms.some((t) => termShape(t) === "square" && keys.includes(termKey(t))),
      });

  const anova: AnovaRow[] = [];
  if (waveRow) anova.push(waveRow);
  anova.push({
    source: "model",
    df: modelDf,
    ss: modelSs,
    sequentialSs: modelSs,
    ms: modelDf > 0 ? modelSs / modelDf : null,
    f: modelF,
    p: modelF === null ? null : fUpper(modelF, modelDf, residualDf),
  });
  anova.push(...termKeys.map(rowFor));
  if (split.curvature) {
    const c = split.curvature;
    anova.push({ source: "curvature", df: c.df, ss: c.ss, sequentialSs: null, ms: c.ss / c.df, f: c.f, p: c.p });
  }
  anova.push({ source: "residual", df: residualDf, ss: rss, sequentialSs: null, ms, f: null, p: null });
  if (split.lackOfFit) {
    const l = split.lackOfFit;
    anova.push({
      source: "lack-of-fit",
      df: l.df,
      ss: l.ss,
      sequentialSs: null,
      ms: l.df > 0 ? l.ss / l.df : null,
      f: l.f,
      p: l.p,
    });
    anova.push({
      source: "pure-error",
      df: l.pureErrorDf,
      ss: l.pureErrorSs,
      sequentialSs: null,
      ms: l.pureErrorDf > 0 ? l.pureErrorSs / l.pureErrorDf : null,
      f: null,
      p: null,
    });
  }
  anova.push({ source: "total", df: n - 1, ss: sst, sequentialSs: null, ms: null, f: null, p: null });

  const full = solution.leverage.findIndex((h) => h > FULL_LEVERAGE);
  let press: number | null = null;
  if (full >= 0)
    absent.push({
      figure: "predicted R²",
      reason: `The model passes through trial ${data.trials[full].id} whatever it gave (leverage 1), so it cannot be predicted without itself.`,
    });
  else press = solution.residuals.reduce((t, e, i) => t + (e / (1 - solution.leverage[i])) ** 2, 0);
  if (exact)
    absent.push({
      figure: "AICc and BIC",
      reason: "The residuals are rounding only, so criteria built on them mean nothing.",
    });
  const k = p + 1;
  const aic = exact ? null : n * Math.log(rss / n) + 2 * k;
  const summary: FitSummary = {
    s,
    r2: 1 - rss / sst,
    r2Adjusted: ms === null ? null : 1 - ms / (sst / (n - 1)),
    r2Predicted: press === null ? null : 1 - press / sst,
    r2AfterWaves: sst - waveSequential > 0 ? 1 - rss / (sst - waveSequential) : null,
    press,
    rss,
    sst,
    aicc: aic === null || n <= k + 1 ? null : aic + (2 * k * (k + 1)) / (n - k - 1),
    bic: exact ? null : n * Math.log(rss / n) + k * Math.log(n),
    residualDf,
  };
  if (!exact && n <= k + 1)
    absent.push({ figure: "AICc", reason: `AICc is infinite: ${p} coefficients and a variance on ${n} results.` });

  const trials = data.trials.map((trial, i): TrialFigures => {
    const h = solution.leverage[i];
    const e = solution.residuals[i];
    const judgeable = usable && s !== null && h <= FULL_LEVERAGE;
    const studentized = judgeable ? e / (s * Math.sqrt(1 - h)) : null;
    let deleted: number | null = null;
    if (studentized !== null && residualDf > 1) {
      // Variance without the trial (Cook & Weisberg 1982); no error is left when the trial carries all of it.
      const without = (residualDf - studentized ** 2) / (residualDf - 1);
      deleted = without > 1e-12 ? studentized / Math.sqrt(without) : null;
    }
    return {
      id: trial.id,
      observed: z[i],
      predicted: roots ? z[i] - e / roots[i] : solution.fitted[i],
      residual: roots ? e / roots[i] : e,
      leverage: h,
      studentized,
      deleted,
      cooks: studentized === null ? null : (studentized ** 2 * h) / ((1 - h) * p),
      dffits: deleted === null ? null : deleted * Math.sqrt(h / (1 - h)),
    };
  });

  const at = columns.map((c) =>
    c.key === "@wave" ? -1 : encoded.columns.findIndex((e) => e.key === c.key && e.index === c.index),
  );
  return {
    response,
    n,
    transform,
    block: useBlocks,
    confidence: study.confidence,
    terms: terms.filter((t) => keys.includes(termKey(t))),
    dropped,
    parameters,
    anova,
    summary,
    trials,
    absent,
    ...split,
    parts: { data, z, columns, matrix, solution, encoded, encoderAt: at, covariateRanges: ranges, exact },
  };
}

/** The terms a first fit takes: the stored model's, else main effects of every factor in use that varies. */
export function defaultTerms(study: Study, response: string): Term[] {
  const stored = study.models.find((m) => m.response === response);
  return stored ? stored.terms : study.factors.filter((f) => f.retired === undefined).map((f): Term => [f.id]);
}

/**
 * The fit of a response as the study stands: its stored model, else main effects; terms of retired factors left out.
 * @throws StudyError as `fitModel`
 */
export function presentFit(study: Study, response: string): Fit {
  const stored = storedModel(study, response);
  const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
  const terms = defaultTerms(study, response).filter((t) => !t.some((id) => retired.has(id)));
  return fitModel(study, response, { terms, transform: stored?.transform ?? "none", block: stored?.block ?? true });
}
