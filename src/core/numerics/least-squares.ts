import { exactDot } from "./sums";

/** A matrix by rows: `data[i * cols + j]`. */
export interface Matrix {
  rows: number;
  cols: number;
  data: Float64Array;
}

/** Matrix of zeros. */
export const zeros = (rows: number, cols: number): Matrix => ({ rows, cols, data: new Float64Array(rows * cols) });

/** Scalar product of two vectors of one length. */
export function dot(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let total = 0;
  for (let i = 0; i < a.length; i++) total += a[i] * b[i];
  return total;
}

/** The matrix made of the listed columns. */
export function pickColumns(m: Matrix, columns: readonly number[]): Matrix {
  const out = zeros(m.rows, columns.length);
  for (let i = 0; i < m.rows; i++)
    for (let j = 0; j < columns.length; j++) out.data[i * columns.length + j] = m.data[i * m.cols + columns[j]];
  return out;
}

/** Powers of two near each column's norm: scaling by them rounds nothing. */
function columnScales(x: Matrix): Float64Array {
  const scales = new Float64Array(x.cols);
  for (let j = 0; j < x.cols; j++) {
    let biggest = 0;
    for (let i = 0; i < x.rows; i++) biggest = Math.max(biggest, Math.abs(x.data[i * x.cols + j]));
    let squares = 0;
    for (let i = 0; i < x.rows; i++) squares += biggest === 0 ? 0 : (x.data[i * x.cols + j] / biggest) ** 2;
    scales[j] = biggest === 0 ? 1 : 2 ** Math.round(Math.log2(biggest * Math.sqrt(squares)));
  }
  return scales;
}

interface Factored {
  /** Householder vectors below the diagonal and R above it, by columns: `work[j * n + i]`. */
  work: Float64Array;
  beta: Float64Array;
  diagonal: Float64Array;
  order: number[];
  scales: Float64Array;
  n: number;
  p: number;
}

/** Householder QR (Golub & Van Loan 2013, 5.2 and 5.4) of the scaled columns, pivoted on request. */
function factor(x: Matrix, pivot: boolean): Factored {
  const n = x.rows;
  const p = x.cols;
  const scales = columnScales(x);
  const work = new Float64Array(n * p);
  for (let j = 0; j < p; j++) for (let i = 0; i < n; i++) work[j * n + i] = x.data[i * p + j] / scales[j];
  const beta = new Float64Array(p);
  const diagonal = new Float64Array(p);
  const order = Array.from({ length: p }, (_, j) => j);
  for (let k = 0; k < Math.min(n, p); k++) {
    if (pivot) {
      let best = k;
      let bestNorm = -1;
      for (let j = k; j < p; j++) {
        let norm = 0;
        for (let i = k; i < n; i++) norm += work[j * n + i] ** 2;
        if (norm > bestNorm * (1 + 1e-12)) {
          best = j;
          bestNorm = norm;
        }
      }
      if (best !== k) {
        for (let i = 0; i < n; i++) {
          const held = work[k * n + i];
          work[k * n + i] = work[best * n + i];
          work[best * n + i] = held;
        }
        [order[k], order[best]] = [order[best], order[k]];
      }
    }
    const offset = k * n;
    let norm = 0;
    for (let i = k; i < n; i++) norm += work[offset + i] ** 2;
    norm = Math.sqrt(norm);
    if (norm === 0) continue;
    const alpha = work[offset + k] > 0 ? -norm : norm;
    const head = work[offset + k] - alpha;
    diagonal[k] = alpha;
    work[offset + k] = head;
    let squares = 0;
    for (let i = k; i < n; i++) squares += work[offset + i] ** 2;
    beta[k] = squares === 0 ? 0 : 2 / squares;
    for (let j = k + 1; j < p; j++) {
      const col = j * n;
      let dot = 0;
      for (let i = k; i < n; i++) dot += work[offset + i] * work[col + i];
      dot *= beta[k];
      for (let i = k; i < n; i++) work[col + i] -= dot * work[offset + i];
    }
  }
  return { work, beta, diagonal, order, scales, n, p };
}

function reflect(f: Factored, k: number, v: Float64Array): void {
  let dot = 0;
  for (let i = k; i < f.n; i++) dot += f.work[k * f.n + i] * v[i];
  dot *= f.beta[k];
  for (let i = k; i < f.n; i++) v[i] -= dot * f.work[k * f.n + i];
}

/** v ← Q′v. */
function applyTransposed(f: Factored, v: Float64Array): void {
  for (let k = 0; k < Math.min(f.n, f.p); k++) reflect(f, k, v);
}

/** v ← Qv. */
function applyQ(f: Factored, v: Float64Array): void {
  for (let k = Math.min(f.n, f.p) - 1; k >= 0; k--) reflect(f, k, v);
}

const rEntry = (f: Factored, i: number, j: number): number => (i === j ? f.diagonal[i] : f.work[j * f.n + i]);

function backSolve(f: Factored, v: Float64Array): void {
  for (let i = f.p - 1; i >= 0; i--) {
    let value = v[i];
    for (let j = i + 1; j < f.p; j++) value -= rEntry(f, i, j) * v[j];
    v[i] = value / f.diagonal[i];
  }
}

function forwardSolve(f: Factored, v: Float64Array): void {
  for (let i = 0; i < f.p; i++) {
    let value = v[i];
    for (let j = 0; j < i; j++) value -= rEntry(f, j, i) * v[j];
    v[i] = value / f.diagonal[i];
  }
}

/** Tolerance on a unit column below which what remains of it counts as nothing. */
const rankTolerance = (rows: number): number => Math.max(rows, 1) * Number.EPSILON * 1e3;

/** Which columns are independent, in the order given, and what the others equal. */
export interface RankReport {
  rank: number;
  kept: number[];
  /** Each dropped column as a combination of kept ones, smallest weights (relative 1e−9) left out. */
  dropped: { column: number; equals: { column: number; factor: number }[] }[];
}

/**
 * Rank by column-pivoted Householder QR of unit-norm columns; when it is short, columns are taken in the
 * order given and those that add nothing to the ones before are dropped.
 */
export function rankReport(x: Matrix): RankReport {
  const tolerance = rankTolerance(x.rows);
  const pivoted = factor(x, true);
  const largest = Math.abs(pivoted.diagonal[0] ?? 0);
  let rank = 0;
  for (let k = 0; k < Math.min(x.rows, x.cols); k++) if (Math.abs(pivoted.diagonal[k]) > tolerance * largest) rank++;
  if (rank === x.cols) return { rank, kept: Array.from({ length: x.cols }, (_, j) => j), dropped: [] };

  const kept: number[] = [];
  const basis: Float64Array[] = [];
  const losers: number[] = [];
  for (let j = 0; j < x.cols; j++) {
    const column = new Float64Array(x.rows);
    let norm = 0;
    for (let i = 0; i < x.rows; i++) {
      column[i] = x.data[i * x.cols + j];
      norm += column[i] ** 2;
    }
    norm = Math.sqrt(norm);
    // Projection twice, so that rounding of the first pass is taken out by the second (Björck 1994).
    for (let pass = 0; pass < 2; pass++)
      for (const q of basis) {
        let dot = 0;
        for (let i = 0; i < x.rows; i++) dot += q[i] * column[i];
        for (let i = 0; i < x.rows; i++) column[i] -= dot * q[i];
      }
    let rest = 0;
    for (let i = 0; i < x.rows; i++) rest += column[i] ** 2;
    rest = Math.sqrt(rest);
    if (norm === 0 || rest <= tolerance * norm || kept.length === x.rows) losers.push(j);
    else {
      for (let i = 0; i < x.rows; i++) column[i] /= rest;
      basis.push(column);
      kept.push(j);
    }
  }
  const independent = factor(pickColumns(x, kept), false);
  const dropped = losers.map((column) => {
    const v = new Float64Array(x.rows);
    for (let i = 0; i < x.rows; i++) v[i] = x.data[i * x.cols + column];
    applyTransposed(independent, v);
    backSolve(independent, v);
    const weights = kept.map((c, k) => ({ column: c, factor: v[k] / independent.scales[k] }));
    const biggest = weights.reduce((m, w) => Math.max(m, Math.abs(w.factor)), 0);
    return {
      column,
      equals: weights
        .filter((w) => Math.abs(w.factor) > 1e-9 * Math.max(1, biggest))
        .map((w) => ({
          column: w.column,
          factor: Math.abs(w.factor - Math.round(w.factor)) < 1e-10 ? Math.round(w.factor) : w.factor,
        })),
    };
  });
  return { rank: kept.length, kept, dropped };
}

/** Least squares of y on the columns of x, which are independent. */
export interface LeastSquares {
  coefficients: Float64Array;
  residuals: Float64Array;
  fitted: Float64Array;
  /** Diagonal of the hat matrix. */
  leverage: Float64Array;
  /** Residual sum of squares. */
  rss: number;
  /** (X′X)⁻¹, p × p. */
  inverse: Matrix;
  /** Squares of the rotated response: entry j is the sequential sum of squares of column j. */
  sequential: Float64Array;
  /** Orthonormal basis of the columns, by columns: p vectors of n. */
  basis: Float64Array[];
}

/** (X′X)⁻¹ of independent columns from the R of a Householder QR, p × p. */
function inverseFrom(f: Factored): Matrix {
  const p = f.p;
  const rInverse = new Float64Array(p * p);
  for (let j = 0; j < p; j++) {
    rInverse[j * p + j] = 1 / f.diagonal[j];
    for (let i = j - 1; i >= 0; i--) {
      let value = 0;
      for (let k = i + 1; k <= j; k++) value -= rEntry(f, i, k) * rInverse[k * p + j];
      rInverse[i * p + j] = value / f.diagonal[i];
    }
  }
  const inverse = zeros(p, p);
  for (let i = 0; i < p; i++)
    for (let j = i; j < p; j++) {
      let value = 0;
      for (let k = j; k < p; k++) value += rInverse[i * p + k] * rInverse[j * p + k];
      value /= f.scales[i] * f.scales[j];
      inverse.data[i * p + j] = value;
      inverse.data[j * p + i] = value;
    }
  return inverse;
}

/** (X′X)⁻¹ and log |X′X| of independent columns. */
export function information(x: Matrix): { inverse: Matrix; logDeterminant: number } {
  const f = factor(x, false);
  let logDeterminant = 0;
  for (let j = 0; j < f.p; j++) logDeterminant += 2 * Math.log(Math.abs(f.diagonal[j]) * f.scales[j]);
  return { inverse: inverseFrom(f), logDeterminant };
}

/**
 * Solves min ‖y − Xb‖ by Householder QR, then refines b and the residuals together on the augmented system with
 * residuals in doubled precision (Björck 1967), so that ill-conditioned columns keep their digits.
 *
 * @param x n × p with independent columns, n ≥ p
 * @param y n values
 */
export function leastSquares(x: Matrix, y: ArrayLike<number>): LeastSquares {
  const f = factor(x, false);
  const { n, p } = f;
  const rotated = Float64Array.from(y);
  applyTransposed(f, rotated);
  const sequential = new Float64Array(p);
  for (let j = 0; j < p; j++) sequential[j] = rotated[j] ** 2;
  const coefficients = rotated.slice(0, p);
  backSolve(f, coefficients);
  const residuals = rotated.slice();
  residuals.fill(0, 0, p);
  applyQ(f, residuals);
  for (let j = 0; j < p; j++) coefficients[j] /= f.scales[j];

  const rows = new Float64Array(n);
  const columns = new Float64Array(p);
  for (let round = 0; round < 6; round++) {
    // exactDot adds, the augmented residual subtracts: hence the negated coefficients.
    const negated = coefficients.map((b) => -b);
    for (let i = 0; i < n; i++) rows[i] = exactDot(y[i], p, x.data, i * p, 1, negated, 0, 1) - residuals[i];
    for (let j = 0; j < p; j++) columns[j] = -exactDot(0, n, x.data, j, p, residuals, 0, 1) / f.scales[j];
    const h = columns.slice();
    forwardSolve(f, h);
    const turned = rows.slice();
    applyTransposed(f, turned);
    const db = new Float64Array(p);
    for (let j = 0; j < p; j++) {
      db[j] = turned[j] - h[j];
      turned[j] = h[j];
    }
    backSolve(f, db);
    applyQ(f, turned);
    let change = 0;
    for (let j = 0; j < p; j++) {
      const step = db[j] / f.scales[j];
      coefficients[j] += step;
      change = Math.max(change, Math.abs(step) / (Math.abs(coefficients[j]) || 1));
    }
    for (let i = 0; i < n; i++) residuals[i] += turned[i];
    if (change < 1e-15) break;
  }

  const leverage = new Float64Array(n);
  const basis: Float64Array[] = [];
  for (let j = 0; j < p; j++) {
    const unit = new Float64Array(n);
    unit[j] = 1;
    applyQ(f, unit);
    for (let i = 0; i < n; i++) leverage[i] += unit[i] ** 2;
    basis.push(unit);
  }
  const fitted = new Float64Array(n);
  let rss = 0;
  for (let i = 0; i < n; i++) {
    fitted[i] = y[i] - residuals[i];
    rss += residuals[i] ** 2;
  }
  return { coefficients, residuals, fitted, leverage, rss, inverse: inverseFrom(f), sequential, basis };
}

/**
 * Takes what lies along orthonormal vectors out of v, in place, one after another. What was taken is added to `along`,
 * entry by vector, where that is given.
 */
export function clearOf(basis: readonly Float64Array[], v: Float64Array, along?: number[]): void {
  const n = v.length;
  for (let k = 0; k < basis.length; k++) {
    const q = basis[k];
    let dot = 0;
    for (let i = 0; i < n; i++) dot += q[i] * v[i];
    if (along) along[k] += dot;
    for (let i = 0; i < n; i++) v[i] -= dot * q[i];
  }
}

/** x′Mx for a symmetric M. */
export function quadraticForm(m: Matrix, x: ArrayLike<number>): number {
  const p = m.cols;
  const { data } = m;
  let total = 0;
  for (let i = 0; i < p; i++) {
    const xi = x[i];
    if (xi === 0) continue;
    const row = i * p;
    // Four sums side by side: one alone would wait for itself at every addition.
    let a = 0.5 * data[row + i] * xi;
    let b = 0;
    let c = 0;
    let d = 0;
    let j = i + 1;
    for (; j + 3 < p; j += 4) {
      a += data[row + j] * x[j];
      b += data[row + j + 1] * x[j + 1];
      c += data[row + j + 2] * x[j + 2];
      d += data[row + j + 3] * x[j + 3];
    }
    for (; j < p; j++) a += data[row + j] * x[j];
    total += 2 * xi * (a + b + (c + d));
  }
  return total;
}

/** Lower Cholesky factor of a symmetric positive definite matrix, or `null` when it is not one. */
export function cholesky(m: Matrix): Matrix | null {
  const p = m.cols;
  const l = zeros(p, p);
  for (let i = 0; i < p; i++)
    for (let j = 0; j <= i; j++) {
      let value = m.data[i * p + j];
      for (let k = 0; k < j; k++) value -= l.data[i * p + k] * l.data[j * p + k];
      if (i === j) {
        if (!(value > 0)) return null;
        l.data[i * p + i] = Math.sqrt(value);
      } else l.data[i * p + j] = value / l.data[j * p + j];
    }
  return l;
}

/** The square block of the listed rows and columns. */
export function block(m: Matrix, indices: readonly number[]): Matrix {
  const out = zeros(indices.length, indices.length);
  for (let i = 0; i < indices.length; i++)
    for (let j = 0; j < indices.length; j++)
      out.data[i * indices.length + j] = m.data[indices[i] * m.cols + indices[j]];
  return out;
}

/** b′M⁻¹b for symmetric positive definite M; `NaN` when M is singular. */
export function inverseForm(m: Matrix, b: readonly number[]): number {
  const l = cholesky(m);
  if (!l) return Number.NaN;
  let total = 0;
  const z: number[] = [];
  for (let i = 0; i < b.length; i++) {
    let value = b[i];
    for (let k = 0; k < i; k++) value -= l.data[i * m.cols + k] * z[k];
    z[i] = value / l.data[i * m.cols + i];
    total += z[i] ** 2;
  }
  return total;
}

/** Determinant of a symmetric positive definite matrix; 0 when it is not one. */
export function determinant(m: Matrix): number {
  const l = cholesky(m);
  if (!l) return 0;
  let value = 1;
  for (let i = 0; i < m.cols; i++) value *= l.data[i * m.cols + i] ** 2;
  return value;
}
