import { fUpper } from "../../numerics/distributions";
import {
  block,
  clearOf,
  inverseForm,
  type LeastSquares,
  leastSquares,
  type Matrix,
  quadraticForm,
  zeros,
} from "../../numerics/least-squares";
import { sumOfSquares } from "../../numerics/sums";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import { rowWriter } from "../design";
import {
  type AddedTerm,
  type AnovaRow,
  type Criteria,
  DRAWN_ERRORS,
  type FittedModel,
  FULL_LEVERAGE,
  hasSquares,
  type Predictive,
  type ResidualKind,
  type SquaresSummary,
  type TermTest,
} from "../fitted";
import { type Pieces, piecesAbout } from "../pieces";
import { criticalValues, piecePredictive, studentPredictive } from "../predictive";
import type { Law, LawInput } from "./law";

/** What is left of a column beside the model below this share of its length (squared) is rounding. */
const NOTHING_NEW = 1e-18;

/** What the figures of least squares are worked out from; known to this file alone. */
interface Solved {
  input: LawInput;
  roots: readonly number[] | undefined;
  matrix: Matrix;
  solution: LeastSquares;
  n: number;
  p: number;
  sst: number;
  rss: number;
  exact: boolean;
  residualDf: number;
  /** Mean square of the residual; null without degrees of freedom. */
  ms: number | null;
}

/** Rows times the roots of their weights; the matrix itself where all weigh the same. */
function weighted(matrix: Matrix, roots: readonly number[] | undefined): Matrix {
  if (!roots) return matrix;
  return { ...matrix, data: matrix.data.map((v, k) => v * roots[Math.floor(k / matrix.cols)]) };
}

/** Sum of squares about the mean, weighted where values weigh differently. */
function totalOf(values: ArrayLike<number>, weights: readonly number[] | undefined): number {
  if (!weights) return sumOfSquares(values);
  const v = Array.from(values);
  const mean = v.reduce((t, x, i) => t + weights[i] * x, 0) / weights.reduce((t, w) => t + w, 0);
  return v.reduce((t, x, i) => t + weights[i] * (x - mean) ** 2, 0);
}

/** VIF of each column but the constant: (X′X)⁻¹ⱼⱼ times the sum of squares about the mean. */
function columnVif({ matrix, solution, n, p, input }: Solved): (number | null)[] {
  const { weights } = input.design.data;
  return Array.from({ length: p }, (_, j) => {
    if (j === 0) return null;
    const column = new Float64Array(n);
    for (let i = 0; i < n; i++) column[i] = matrix.data[i * p + j] / Math.sqrt(weights?.[i] ?? 1);
    return solution.inverse.data[j * p + j] * totalOf(column, weights);
  });
}

/** AICc and BIC of some residual sum of squares on p columns; k counts the variance too. */
function criteriaOf({ n, exact }: Pick<Solved, "n" | "exact">, rss: number, p: number): Criteria {
  if (exact || !(rss > 0)) return { aicc: null, bic: null };
  const k = p + 1;
  const base = n * Math.log(rss / n);
  const aic = base + 2 * k;
  return {
    aicc: n <= k + 1 ? null : aic + (2 * k * (k + 1)) / (n - k - 1),
    bic: base + k * Math.log(n),
  };
}

/** Rows as they are solved, with the roots of their weights. */
function rowsOf({ design }: LawInput): Pick<Solved, "matrix" | "roots"> {
  const roots = design.data.weights?.map(Math.sqrt);
  return { matrix: weighted(design.matrix, roots), roots };
}

function solvedOf(input: LawInput, solution: LeastSquares): Solved {
  const { design, observed } = input;
  const { weights } = design.data;
  const n = observed.length;
  const p = design.columns.length;
  const largest = observed.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
  const exact = solution.rss <= n * (64 * Number.EPSILON * largest) ** 2;
  const rss = exact ? 0 : solution.rss;
  const residualDf = n - p;
  return {
    input,
    ...rowsOf(input),
    solution,
    n,
    p,
    sst: totalOf(observed, weights),
    rss,
    exact,
    residualDf,
    ms: residualDf > 0 ? rss / residualDf : null,
  };
}

/** F of a sum of squares against the residual; nothing where no error is left or it is rounding. */
const fOf = ({ ms, exact }: Solved, ss: number, df: number): number | null =>
  ms !== null && !exact && df > 0 ? ss / df / ms : null;

function testOf(s: Solved, columns: readonly number[]): TermTest {
  const { solution, residualDf, rss, p } = s;
  const ss = inverseForm(
    block(solution.inverse, columns),
    columns.map((j) => solution.coefficients[j]),
  );
  const f = fOf(s, ss, columns.length);
  return {
    df: columns.length,
    dfDenominator: residualDf,
    ss,
    f,
    p: f === null ? null : fUpper(f, columns.length, residualDf),
    criteria: criteriaOf(s, rss + ss, p - columns.length),
  };
}

/**
 * Some columns added last, by Gram–Schmidt in two passes against the model's orthonormal basis and one another
 * (Björck 1994): the same figures as a fit with them, at the price of their width.
 */
function addTerm(s: Solved, columns: Matrix): AddedTerm | null {
  const { solution, n, p } = s;
  const matrix = weighted(columns, s.roots);
  const basis: Float64Array[] = [];
  const lengths: number[][] = [];
  for (let c = 0; c < matrix.cols; c++) {
    const v = Float64Array.from({ length: n }, (_, i) => matrix.data[i * matrix.cols + c]);
    let before = 0;
    for (const x of v) before += x * x;
    const along = new Array<number>(matrix.cols).fill(0);
    for (let pass = 0; pass < 2; pass++) {
      clearOf(solution.basis, v);
      clearOf(basis, v, along);
    }
    let after = 0;
    for (const x of v) after += x * x;
    // Where some trial has no value of it (a covariate not measured) nothing can be said.
    if (!Number.isFinite(before) || after <= before * NOTHING_NEW || before === 0) return null;
    const norm = Math.sqrt(after);
    along[basis.length] = norm;
    for (let i = 0; i < n; i++) v[i] /= norm;
    basis.push(v);
    lengths.push(along);
  }
  // lengths[c] is column c of the upper triangular R of the term after the model.
  const w = basis.length;
  const rotated = basis.map((q) => q.reduce((t, x, i) => t + x * solution.residuals[i], 0));
  const coefficients = rotated.slice();
  const inverse = Array.from({ length: w }, () => new Array<number>(w).fill(0));
  for (let i = w - 1; i >= 0; i--) {
    for (let j = i + 1; j < w; j++) coefficients[i] -= lengths[j][i] * coefficients[j];
    coefficients[i] /= lengths[i][i];
    inverse[i][i] = 1 / lengths[i][i];
    for (let j = i + 1; j < w; j++) {
      let value = 0;
      for (let k = i + 1; k <= j; k++) value -= lengths[k][i] * inverse[k][j];
      inverse[i][j] = value / lengths[i][i];
    }
  }
  const ss = rotated.reduce((t, x) => t + x * x, 0);
  const df = s.residualDf - w;
  const rest = Math.max(0, s.rss - ss);
  const error = df > 0 ? Math.sqrt(rest / df) : null;
  const f = df > 0 && rest > 1e-14 * s.rss ? ss / w / (rest / df) : null;
  return {
    df: w,
    dfDenominator: Math.max(0, df),
    ss,
    f,
    p: f === null ? null : fUpper(f, w, df),
    coefficients,
    covariance:
      error === null
        ? null
        : {
            rows: w,
            cols: w,
            data: Float64Array.from(
              inverse.flatMap((a) => inverse.map((b) => error ** 2 * a.reduce((t, v, k) => t + v * b[k], 0))),
            ),
          },
    dfs: inverse.map(() => Math.max(0, df)),
    criteria: criteriaOf(s, rest, p + w),
  };
}

/** Rows of the analysis of variance but for what splits the residual: waves, model, terms, residual, total. */
function anovaOf(s: Solved): AnovaRow[] {
  const { solution, residualDf, rss, sst, n, p, ms } = s;
  const { columns } = s.input.design;
  const keys = [...new Set(columns.slice(1).map((c) => c.key))];
  const rows = keys.map((key): AnovaRow => {
    const positions = columns.flatMap((c, j) => (c.key === key ? [j] : []));
    const { ss, f, p: chance } = testOf(s, positions);
    const { term } = columns[positions[0]];
    return {
      source: ofFactors(term) ? "term" : term === WAVE_TERM ? "wave" : "curvature",
      ...(key === "@wave" ? {} : { term }),
      df: positions.length,
      ss,
      sequentialSs: positions.reduce((t, j) => t + solution.sequential[j], 0),
      ms: ss === null ? null : ss / positions.length,
      f,
      p: chance,
    };
  });
  const wave = rows.find((r) => r.source === "wave");
  const curvature = rows.find((r) => r.source === "curvature");
  const modelDf = p - 1 - (wave?.df ?? 0) - (curvature?.df ?? 0);
  const modelSs = Math.max(0, sst - rss - (wave?.sequentialSs ?? 0) - (curvature?.sequentialSs ?? 0));
  const f = fOf(s, modelSs, modelDf);
  const model: AnovaRow = {
    source: "model",
    df: modelDf,
    ss: modelSs,
    sequentialSs: modelSs,
    ms: modelDf > 0 ? modelSs / modelDf : null,
    f,
    p: f === null ? null : fUpper(f, modelDf, residualDf),
  };
  return [
    ...(wave ? [wave] : []),
    model,
    ...rows.filter((r) => r !== wave),
    { source: "residual", df: residualDf, ss: rss, sequentialSs: null, ms, f: null, p: null },
    { source: "total", df: n - 1, ss: sst, sequentialSs: null, ms: null, f: null, p: null },
  ];
}

function summaryOf(s: Solved, anova: readonly AnovaRow[]): SquaresSummary {
  const { solution, rss, sst, n, p, ms, residualDf } = s;
  const waveSs = anova.find((r) => r.source === "wave")?.sequentialSs ?? 0;
  const full = solution.leverage.some((h) => h > FULL_LEVERAGE);
  const press = full ? null : solution.residuals.reduce((t, e, i) => t + (e / (1 - solution.leverage[i])) ** 2, 0);
  return {
    law: "gaussian",
    s: ms === null ? null : Math.sqrt(ms),
    r2: 1 - rss / sst,
    r2Adjusted: ms === null ? null : 1 - ms / (sst / (n - 1)),
    r2Predicted: press === null ? null : 1 - press / sst,
    r2AfterWaves: sst - waveSs > 0 ? 1 - rss / (sst - waveSs) : null,
    press,
    rss,
    sst,
    ...criteriaOf(s, rss, p),
    residualDf,
  };
}

/** Residuals over their standard error with the trial in, and without it (Cook & Weisberg 1982). */
function residualsOf(s: Solved, kind: ResidualKind): (number | null)[] {
  const { solution, roots, ms, exact, residualDf } = s;
  const scaled = Array.from(solution.residuals);
  if (kind === "scaled") return scaled;
  if (kind === "raw") return roots ? scaled.map((e, i) => e / roots[i]) : scaled;
  const error = ms === null ? null : Math.sqrt(ms);
  const studentized = scaled.map((e, i) =>
    error === null || exact || solution.leverage[i] > FULL_LEVERAGE
      ? null
      : e / (error * Math.sqrt(1 - solution.leverage[i])),
  );
  if (kind === "studentized") return studentized;
  return studentized.map((r) => {
    if (r === null || residualDf <= 1) return null;
    // No error is left when the trial carries all of it.
    const without = (residualDf - r ** 2) / (residualDf - 1);
    return without > 1e-12 ? r / Math.sqrt(without) : null;
  });
}

/** (X′X)⁻¹X′ by trials: how each result makes the coefficients. */
function loadingsOf({ matrix, solution, n, p }: Solved): Matrix {
  const out = zeros(n, p);
  for (let i = 0; i < n; i++)
    for (let j = 0; j < p; j++) {
      let total = 0;
      for (let k = 0; k < p; k++) total += matrix.data[i * p + k] * solution.inverse.data[k * p + j];
      out.data[i * p + j] = total;
    }
  return out;
}

/** Values scaled to one variance less what lies along the model's columns. */
function leftOf({ solution, roots }: Solved, values: ArrayLike<number>, once = false): Float64Array {
  const e = Float64Array.from(values);
  if (roots) for (let i = 0; i < e.length; i++) e[i] *= roots[i];
  for (let pass = 0; pass < (once ? 1 : 2); pass++) clearOf(solution.basis, e);
  return e;
}

/** The test of what a model has beyond a smaller one: the drop of RSS against what the larger leaves. */
function compareTo(s: Solved, smaller: FittedModel): TermTest {
  if (!hasSquares(smaller.summary)) throw new Error("Models of two laws cannot be compared by sums of squares.");
  const df = smaller.summary.residualDf - s.residualDf;
  const ss = Math.max(0, smaller.summary.rss - s.rss);
  const f = fOf(s, ss, df);
  return {
    df,
    dfDenominator: s.residualDf,
    ss,
    f,
    p: f === null ? null : fUpper(f, df, s.residualDf),
    criteria: { aicc: smaller.summary.aicc, bic: smaller.summary.bic },
  };
}

/** How single units vary about the model, where the response is made of units that were measured one by one. */
function piecesOfTrials({ input, ms, residualDf }: Solved): Pieces | undefined {
  const { design, link } = input;
  if (!design.data.pieces || design.data.weights) return undefined;
  const values = design.data.pieces.map((of) => of.map(link.forward));
  // Trials of different numbers that stand here have units that are all alike, or cannot be told on this scale.
  if (!values.every((of) => of.length === values[0].length && of.every(Number.isFinite))) return undefined;
  return piecesAbout(values, { ms, df: residualDf });
}

/** Degrees of freedom of the mean of m new trials of n units each, with what a value varies by (Satterthwaite 1946). */
const dfOfPieces =
  ({ variances: { between, within, varianceOf }, reciprocal }: Pieces, { variance }: Predictive, relative: number) =>
  (m: number, n: number): number =>
    (2 * ((variance ?? 0) + (between + within / n) / m) ** 2) /
    varianceOf(relative + 1 / m, relative * reciprocal + 1 / (m * n));

/** The model of what was solved; `known` is the standard deviation of its error where that is not estimated. */
function modelOf(s: Solved, known?: number): FittedModel {
  const { input, solution, p, residualDf, ms, exact } = s;
  const { design, observed, link, unit } = input;
  const anova = anovaOf(s);
  const summary = summaryOf(s, anova);
  const scale = known ?? (ms === null ? null : Math.sqrt(ms));
  const df = known === undefined ? residualDf : null;
  const critical = criticalValues();
  let largest = 0;
  for (const h of solution.leverage) largest = Math.max(largest, h);
  const relative = (row: Float64Array): number => quadraticForm(solution.inverse, row);
  let found: { pieces: Pieces | undefined } | undefined;
  // Thousands of units are looked at once, when somebody asks how they vary.
  const piecesOf = (): Pieces | undefined => {
    found ??= { pieces: known === undefined && !exact ? piecesOfTrials(s) : undefined };
    return found.pieces;
  };
  let loadings: Matrix | undefined;
  let vif: (number | null)[] | undefined;
  let key: string | undefined;
  const model: FittedModel = {
    law: "gaussian",
    trials: design.data.trials.map((t) => t.id),
    observed,
    terms: design.terms,
    columns: design.columns,
    coefficients: solution.coefficients,
    covariance:
      scale === null ? null : { ...solution.inverse, data: solution.inverse.data.map((v) => v * scale * scale) },
    dfOf: () => df,
    critical,
    unit,
    link,
    exact,
    get vif() {
      vif ??= columnVif(s);
      return vif;
    },
    leverages: solution.leverage,
    covariateRanges: design.covariateRanges,
    ...rowWriter(design),
    predictive(row) {
      let value = 0;
      for (let j = 0; j < p; j++) value += solution.coefficients[j] * row[j];
      const variance = scale === null ? null : scale * scale * relative(row);
      const trial = studentPredictive(
        { value, variance, noise: scale === null ? null : scale * scale, df, dfTrial: df },
        critical,
      );
      const pieces = piecesOf();
      return pieces
        ? piecePredictive(trial, pieces.variances, dfOfPieces(pieces, trial, relative(row)), critical)
        : trial;
    },
    scale,
    relative,
    relativeNoise() {
      const pieces = piecesOf();
      return pieces && scale ? (pieces.variances.between + pieces.variances.within) / (scale * scale) : 1;
    },
    beyond: (row) => relative(row) > largest * (1 + 1e-9),
    get design() {
      if (design.data.weights) return undefined;
      key ??= JSON.stringify([model.trials, design.columns.map((c) => [c.key, c.index])]);
      return key;
    },
    withNoise: (noise) => modelOf(s, noise),
    residuals: (kind) => residualsOf(s, kind),
    get loadings() {
      loadings ??= loadingsOf(s);
      return loadings;
    },
    addTerm: (columns) => addTerm(s, columns),
    test: (columns) => testOf(s, columns),
    compare: (smaller) => compareTo(s, smaller),
    whiten: (rows) => weighted(rows, s.roots),
    left: (values, once) => leftOf(s, values, once),
    anova: () => anova,
    summary,
    piecesOf,
    ...DRAWN_ERRORS,
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}

/**
 * Independent normal errors of one variance, or of variances known but for a factor (weights): least squares by
 * Householder QR, t and F by the residual's degrees of freedom.
 */
export const gaussian: Law<LeastSquares> = {
  id: "gaussian",
  solve(input) {
    const { matrix, roots } = rowsOf(input);
    return leastSquares(matrix, roots ? input.observed.map((v, i) => v * roots[i]) : input.observed);
  },
  model: (input, found) => modelOf(solvedOf(input, found)),
};
