import { type Matrix, zeros } from "./least-squares";

/** AB. */
export function product(a: Matrix, b: Matrix): Matrix {
  const out = zeros(a.rows, b.cols);
  const { cols } = b;
  const [from, by, to] = [a.data, b.data, out.data];
  for (let i = 0; i < a.rows; i++)
    for (let k = 0; k < a.cols; k++) {
      const v = from[i * a.cols + k];
      if (v === 0) continue;
      const [at, row] = [i * cols, k * cols];
      for (let j = 0; j < cols; j++) to[at + j] += v * by[row + j];
    }
  return out;
}

/** M′M, half of it worked out. */
export function crossOf(m: Matrix): Matrix {
  const { rows, cols, data } = m;
  const out = zeros(cols, cols);
  for (let i = 0; i < rows; i++)
    for (let a = 0; a < cols; a++) {
      const v = data[i * cols + a];
      if (v === 0) continue;
      for (let b = 0; b <= a; b++) out.data[a * cols + b] += v * data[i * cols + b];
    }
  for (let a = 0; a < cols; a++) for (let b = 0; b < a; b++) out.data[b * cols + a] = out.data[a * cols + b];
  return out;
}

/** M′. */
export function transposed(m: Matrix): Matrix {
  const out = zeros(m.cols, m.rows);
  for (let i = 0; i < m.rows; i++) for (let j = 0; j < m.cols; j++) out.data[j * m.rows + i] = m.data[i * m.cols + j];
  return out;
}

/** The trace of AB, which is not worked out. */
export const trace = (a: Matrix, b: Matrix): number => {
  let t = 0;
  for (let i = 0; i < a.rows; i++)
    for (let k = 0; k < a.cols; k++) t += a.data[i * a.cols + k] * b.data[k * b.cols + i];
  return t;
};

/**
 * M⁻¹ of a square matrix that need not be symmetric.
 * @throws RangeError where it has none
 */
export function inverted({ rows: q, data }: Matrix): Matrix {
  const left = data.slice();
  const out = zeros(q, q);
  for (let i = 0; i < q; i++) out.data[i * q + i] = 1;
  if (eliminate(left, q, out.data) === 0) throw new RangeError("singular");
  for (let i = 0; i < q; i++) for (let j = 0; j < q; j++) out.data[i * q + j] /= left[i * q + i];
  return out;
}

/** log |M| of a symmetric positive definite matrix, of which the lower half is overwritten; −∞ where it is not one. */
export function logDeterminant(m: Float64Array, p: number): number {
  let log = 0;
  for (let i = 0; i < p; i++)
    for (let j = 0; j <= i; j++) {
      let v = m[i * p + j];
      for (let k = 0; k < j; k++) v -= m[i * p + k] * m[j * p + k];
      if (i !== j) m[i * p + j] = v / m[j * p + j];
      else {
        if (!(v > 0)) return Number.NEGATIVE_INFINITY;
        m[i * p + i] = Math.sqrt(v);
        log += Math.log(v);
      }
    }
  return log;
}

/**
 * Determinant of a small q × q matrix by elimination with row pivoting, in place; `right` (q × q) is turned into the
 * solution times the pivots that are left on the diagonal.
 */
export function eliminate(k: Float64Array, q: number, right: Float64Array | undefined): number {
  let determinant = 1;
  for (let c = 0; c < q; c++) {
    let pivot = c;
    for (let i = c + 1; i < q; i++) if (Math.abs(k[i * q + c]) > Math.abs(k[pivot * q + c])) pivot = i;
    if (k[pivot * q + c] === 0) return 0;
    if (pivot !== c) {
      determinant = -determinant;
      for (let j = 0; j < q; j++) {
        [k[c * q + j], k[pivot * q + j]] = [k[pivot * q + j], k[c * q + j]];
        if (right) [right[c * q + j], right[pivot * q + j]] = [right[pivot * q + j], right[c * q + j]];
      }
    }
    determinant *= k[c * q + c];
    for (let i = right ? 0 : c + 1; i < q; i++) {
      if (i === c) continue;
      const v = k[i * q + c] / k[c * q + c];
      if (v === 0) continue;
      for (let j = c; j < q; j++) k[i * q + j] -= v * k[c * q + j];
      if (right) for (let j = 0; j < q; j++) right[i * q + j] -= v * right[c * q + j];
    }
  }
  return determinant;
}
