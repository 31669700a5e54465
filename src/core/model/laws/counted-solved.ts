import { block, cholesky, type LeastSquares, leastSquares, type Matrix } from "../../numerics/least-squares";
import type { Design } from "../design";
import type { FewCounted, TermTest } from "../fitted";
import type { CountedData } from "../model-data";
import { type Counted, rootDown } from "./counting";
import type { LawInput } from "./law";
import { type Counting, type Maximum, partsOf, Surface } from "./likelihood";

/** Events of trials of one size scatter by a dispersion; of different sizes by weights. */
export const sameSize = ({ of }: CountedData): boolean => of.every((n) => n === of[0]);

export const upTo = (n: number): number[] => Array.from({ length: n }, (_, j) => j);

/** What was counted in the trials of a design that a law of counts fits. */
export const countedOf = ({ data }: Design): CountedData => data.counted as CountedData;

/** Coefficients to start from: the constant's at what was counted in all, half an event added. */
export function startOf({ link }: Counted, { kind, events, of }: CountedData, p: number): Float64Array {
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
export function pearsonOf(counting: Counting, predictors: Float64Array): number {
  const parts = partsOf(predictors.length);
  counting(predictors, parts);
  let total = 0;
  for (let i = 0; i < predictors.length; i++)
    if (parts.weights[i] > 1e-12) total += parts.slopes[i] ** 2 / parts.weights[i];
  return total;
}

/** Pearson's X² and the dispersion of a fit. */
export function scatterOf(
  counted: Counted,
  data: CountedData,
  predictors: Float64Array,
  extra: number,
  df: number,
): Scatter {
  const n = predictors.length;
  const pearson = pearsonOf(counted.counting(data, extra), predictors);
  let skew = 0;
  for (let i = 0; i < n; i++) skew += counted.skew(data, i, predictors[i], extra);
  const correction = 1 + skew / n;
  // Breslow's weights let single trials bring the correction below nothing, where it has no meaning.
  return { pearson, dispersion: df > 0 ? pearson / df / (correction > 0.1 ? correction : 1) : null };
}

/** Where one likelihood is largest over all its columns, and the scatter beyond counting it was taken at. */
export interface CountedMaximum {
  best: Maximum;
  extra: number;
}

/** The same with the likelihood, which stands at it. */
interface Fitted extends CountedMaximum {
  surface: Surface;
  scatter: Scatter;
}

/** Moves a likelihood to its maximum. */
function standingAt(counted: Counted, data: CountedData, surface: Surface, { best, extra }: CountedMaximum): Fitted {
  surface.moveTo(best.coefficients);
  return { surface, best, extra, scatter: scatterOf(counted, data, surface.predictors, extra, surface.n - surface.p) };
}

/**
 * Fits events to columns. Where trials differ in size and pieces are not taken for independent, the scatter beyond
 * counting is what brings Pearson's X² to its degrees of freedom (Williams 1982; Breslow 1984), never below 0.
 */
export function fitCounted(counted: Counted, data: CountedData, x: Matrix, penalised: boolean): Fitted {
  const p = x.cols;
  const df = x.rows - p;
  let start = startOf(counted, data, p);
  const at = (extra: number): Fitted => {
    const surface = new Surface({ x, counting: counted.counting(data, extra), penalised });
    const best = surface.maximum(upTo(p), start);
    if (best.converged) start = best.coefficients;
    return standingAt(counted, data, surface, { best, extra });
  };
  const weighs = data.scatter === "free" && !sameSize(data) && df > 0;
  const extra = weighs ? rootDown((e) => at(e).scatter.pearson - df, data.kind === "share" ? 1 : 1e6, 0.02) : 0;
  return at(extra);
}

/** What the figures of a law of counts are worked out from; known to this law alone. */
export interface Solved {
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

export function solve(counted: Counted, { design, judged }: LawInput): CountedMaximum {
  const data = countedOf(design);
  const { best, extra } = fitCounted(counted, data, design.matrix, judged?.firth !== undefined);
  return { best, extra };
}

export function solvedOf(counted: Counted, input: LawInput, found: CountedMaximum): Solved {
  const { design, judged } = input;
  const data = countedOf(design);
  const { matrix } = design;
  const n = matrix.rows;
  const p = matrix.cols;
  const counting = counted.counting(data, found.extra);
  const surface = new Surface({ x: matrix, counting, penalised: judged?.firth !== undefined });
  const fit = standingAt(counted, data, surface, found);
  const { best } = found;
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
    counting,
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

/** The largest likelihood without some columns: under the full penalty, so that it lies within the one with them. */
export function without(s: Solved, columns: readonly number[]): { keep: number[]; best: Maximum } {
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
export function onParabola({ fit, p }: Solved, inverse: Float64Array, columns: readonly number[]): Float64Array {
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
