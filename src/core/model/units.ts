import { goldenSection } from "../numerics/golden-section";
import { leastSquares, type Matrix } from "../numerics/least-squares";

/** Variances of single units: between trials at the same settings, and within a trial. */
export interface UnitVariances {
  /** σ_b²: of trial means that were made of endlessly many units; not below 0. */
  between: number;
  /** σ_w²: of units about the mean of their trial. */
  within: number;
  /**
   * Variance of between·b + within·w, from how sure the two are (Satterthwaite's degrees of freedom follow from it).
   */
  varianceOf(b: number, w: number): number;
}

/** Sum of squares of units about the mean of their trial, and its degrees of freedom. */
export function withinTrials(units: readonly (readonly number[])[]): { ss: number; df: number } {
  let ss = 0;
  let df = 0;
  for (const values of units) {
    if (values.length < 2) continue;
    const mean = values.reduce((t, v) => t + v, 0) / values.length;
    ss += values.reduce((t, v) => t + (v - mean) ** 2, 0);
    df += values.length - 1;
  }
  return { ss, df };
}

/**
 * Variance components where every trial has n₀ units: s² of trial means about the model estimates σ_b² + σ_w²/n₀, s_w²
 * within trials σ_w², independent of each other. A negative difference counts as no variance between, and the two
 * sources are then pooled.
 *
 * @param s2 mean square of trial means about the model, with its degrees of freedom
 */
export function balancedVariances(
  s2: number,
  df: number,
  within: { ss: number; df: number },
  each: number,
): UnitVariances {
  const sw2 = within.ss / within.df;
  if (s2 >= sw2 / each)
    return {
      between: s2 - sw2 / each,
      within: sw2,
      // b(s² − s_w²/n₀) + w·s_w² = b·s² + (w − b/n₀)·s_w².
      varianceOf: (b, w) => (2 * (b * s2) ** 2) / df + (2 * ((w - b / each) * sw2) ** 2) / within.df,
    };
  const pooled = (df * s2 * each + within.ss) / (df + within.df);
  return { between: 0, within: pooled, varianceOf: (_b, w) => (2 * (w * pooled) ** 2) / (df + within.df) };
}

/** Rows and values over the roots of their variances. */
function whitened(matrix: Matrix, y: readonly number[], h: readonly number[]) {
  const roots = h.map((v) => 1 / Math.sqrt(v));
  const x = { ...matrix, data: matrix.data.map((v, k) => v * roots[Math.floor(k / matrix.cols)]) };
  return leastSquares(
    x,
    y.map((v, i) => v * roots[i]),
  );
}

/** Logarithm of |X′H⁻¹X|, from the inverse that least squares leaves. */
function logDeterminant(inverse: Matrix): number {
  const p = inverse.cols;
  const a = Float64Array.from(inverse.data);
  let log = 0;
  for (let k = 0; k < p; k++) {
    const pivot = a[k * p + k];
    log -= Math.log(pivot);
    for (let i = k + 1; i < p; i++) {
      const factor = a[i * p + k] / pivot;
      for (let j = k; j < p; j++) a[i * p + j] -= factor * a[k * p + j];
    }
  }
  return log;
}

/** Ratios σ_b²/σ_w² that are looked at, as powers of ten. */
const RATIOS = [-8, 8] as const;

/**
 * Variance components by restricted maximum likelihood (Patterson & Thompson 1971) where trials have different numbers
 * of units: trial means have variance σ_b² + σ_w²/nᵢ, units within trials σ_w². σ_w² is profiled out, the ratio of the
 * two found on a line; a ratio at its lower end is none between. How sure they are comes from the expected information.
 *
 * @param matrix n × p of the model's columns, one row a trial
 * @param means of each trial
 * @param counts of units of each trial
 */
export function restrictedVariances(
  matrix: Matrix,
  means: readonly number[],
  counts: readonly number[],
  within: { ss: number; df: number },
): UnitVariances {
  const n = means.length;
  const p = matrix.cols;
  const total = n - p + within.df;
  const at = (ratio: number) => {
    const h = counts.map((c) => ratio + 1 / c);
    const fit = whitened(matrix, means, h);
    const q = fit.rss + within.ss;
    return { h, fit, q };
  };
  /** −2 log of the profile of the restricted likelihood, less what is constant. */
  const criterion = (ratio: number): number => {
    const { h, fit, q } = at(ratio);
    return h.reduce((t, v) => t + Math.log(v), 0) + logDeterminant(fit.inverse) + total * Math.log(q);
  };
  const exponent = goldenSection((e) => -criterion(10 ** e), RATIOS[0], RATIOS[1], { within: 1e-9, most: 100 });
  const found = 10 ** exponent;
  const ratio = criterion(0) <= criterion(found) ? 0 : found;
  const { h, fit, q } = at(ratio);
  const sw2 = q / total;
  // Expected information of (σ_b², σ_w²): ½ tr(P Vⱼ P V_k), V_b = I, V_w = 1/nᵢ, and ½ ν/σ_w⁴ of the units within.
  const weights = h.map((v) => 1 / (v * sw2));
  const information = [0, 0, within.df / (2 * sw2 ** 2)];
  const rows = Array.from({ length: n }, (_, i) => matrix.data.subarray(i * p, (i + 1) * p));
  const inner = (i: number, j: number): number => {
    let sum = 0;
    for (let u = 0; u < p; u++) {
      let part = 0;
      for (let v = 0; v < p; v++) part += fit.inverse.data[u * p + v] * rows[j][v];
      sum += rows[i][u] * part;
    }
    // The inverse belongs to H, V = σ_w² H.
    return sum * sw2;
  };
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      const entry = (i === j ? weights[i] : 0) - weights[i] * weights[j] * inner(i, j);
      const square = (i === j ? 0.5 : 1) * entry ** 2;
      information[0] += square;
      information[1] += (square / 2) * (1 / counts[i] + 1 / counts[j]);
      information[2] += square / (counts[i] * counts[j]);
    }
  const [bb, bw, ww] = information;
  const determinant = bb * ww - bw ** 2;
  return {
    between: ratio * sw2,
    within: sw2,
    varianceOf: (b, w) => (ratio === 0 ? w ** 2 / ww : (b ** 2 * ww - 2 * b * w * bw + w ** 2 * bb) / determinant),
  };
}

/** How units vary about a model: all that predictions of single units and of new trials need. */
export interface Units {
  variances: UnitVariances;
  /** Mean of 1/n over the trials of n units. */
  reciprocal: number;
  /** Degrees of freedom within trials. */
  dfWithin: number;
}

/**
 * How units vary about a model of their trial means.
 *
 * @param units of each trial, on the fitted scale
 * @returns undefined where no trial has two units, or nothing is left about the model
 */
export function unitsAbout(
  matrix: Matrix,
  means: readonly number[],
  units: readonly (readonly number[])[],
  residual: { ms: number | null; df: number },
): Units | undefined {
  const within = withinTrials(units);
  if (within.df === 0 || !(within.ss > 0) || residual.ms === null || residual.df < 1) return undefined;
  const counts = units.map((u) => u.length);
  const even = counts.every((c) => c === counts[0]);
  const variances = even
    ? balancedVariances(residual.ms, residual.df, within, counts[0])
    : restrictedVariances(matrix, means, counts, within);
  const reciprocal = counts.reduce((t, c) => t + 1 / c, 0) / counts.length;
  return { variances, reciprocal, dfWithin: within.df };
}
