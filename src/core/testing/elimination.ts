// Linear algebra for checking figures a second time: elimination with row pivoting on plain arrays, which shares
// nothing with the factorisations of the core.

export const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((t, v, i) => t + v * b[i], 0);

/** X′X of rows. */
export const gram = (x: readonly (readonly number[])[]): number[][] =>
  x[0].map((_, i) => x[0].map((__, j) => x.reduce((t, row) => t + row[i] * row[j], 0)));

/** Reduces a copy by rows below each pivot; answers it with the sign that the exchanges of rows left. */
function reduced(rows: readonly (readonly number[])[], size: number): { m: number[][]; sign: number } {
  const m = rows.map((r) => [...r]);
  let sign = 1;
  for (let c = 0; c < size; c++) {
    let top = c;
    for (let r = c + 1; r < size; r++) if (Math.abs(m[r][c]) > Math.abs(m[top][c])) top = r;
    if (top !== c) {
      [m[c], m[top]] = [m[top], m[c]];
      sign = -sign;
    }
    for (let r = c + 1; r < size; r++) {
      const f = m[r][c] / m[c][c];
      for (let k = c; k < m[r].length; k++) m[r][k] -= f * m[c][k];
    }
  }
  return { m, sign };
}

/** Solves A x = b. */
export function solve(a: readonly (readonly number[])[], b: readonly number[]): number[] {
  const n = b.length;
  const { m } = reduced(
    a.map((row, i) => [...row, b[i]]),
    n,
  );
  const x = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--)
    x[i] = (m[i][n] - m[i].slice(0, n).reduce((t, v, j) => (j > i ? t + v * x[j] : t), 0)) / m[i][i];
  return x;
}

export function determinant(a: readonly (readonly number[])[]): number {
  const { m, sign } = reduced(a, a.length);
  return m.reduce((t, row, i) => t * row[i], sign);
}

export interface Regression {
  b: number[];
  rss: number;
  df: number;
  /** v′(X′X)⁻¹v. */
  inverse(v: readonly number[]): number;
}

/** Least squares by the normal equations: good for well-posed cases, which is what tests ask for. */
export function regress(x: readonly (readonly number[])[], y: readonly number[]): Regression {
  const g = gram(x);
  const b = solve(
    g,
    x[0].map((_, i) => x.reduce((t, row, r) => t + row[i] * y[r], 0)),
  );
  return {
    b,
    rss: x.reduce((t, row, r) => t + (y[r] - dot(row, b)) ** 2, 0),
    df: y.length - b.length,
    inverse: (v) => dot(v, solve(g, v)),
  };
}

/**
 * Size of the determinant of columns at unit length: 1 for orthogonal ones, near 0 where they can hardly be told
 * apart.
 */
export function independence(x: readonly (readonly number[])[]): number {
  const g = gram(x);
  return Math.abs(determinant(g.map((r, i) => r.map((v, j) => v / Math.sqrt(g[i][i] * g[j][j])))));
}
