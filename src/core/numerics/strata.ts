import { clearOf, leastSquares, type Matrix, pickColumns, rankReport, zeros } from "./least-squares";
import { crossOf, inverted, product } from "./matrices";
import { apartOf, type Grouping, type Information, sums } from "./mixed";

/**
 * Set-ups and their trials judged by a mean square each, as in an analysis of variance in two strata, for where the
 * likelihood of the components has no summit to expand about.
 */

/** Part of a column's squares below which what differs within set-ups is rounding. */
const ROUNDING = 1e-16;

/** Columns less their mean in each set-up. */
function centred(groups: Grouping, { rows, cols, data }: Matrix): Matrix {
  const { of, sizes, load } = groups;
  const all = sums(groups, { rows, cols, data }).data;
  const out = data.slice();
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < cols; j++) out[i * cols + j] -= ((load?.[i] ?? 1) * all[of[i] * cols + j]) / sizes[of[i]];
  return { rows, cols, data: out };
}

/** What independent columns tell within set-ups: as many of them as are independent there, less set-ups' means. */
export function withinSetups(groups: Grouping, matrix: Matrix): Matrix {
  const inner = centred(groups, matrix);
  const squares = (m: Matrix, j: number): number => {
    let t = 0;
    for (let i = 0; i < m.rows; i++) t += m.data[i * m.cols + j] ** 2;
    return t;
  };
  const differ = Array.from({ length: matrix.cols }, (_, j) => j).filter(
    (j) => squares(inner, j) > ROUNDING * squares(matrix, j),
  );
  const told = pickColumns(inner, differ);
  return pickColumns(told, rankReport(told).kept);
}

/** Degrees of freedom that independent columns leave between set-ups: rank [X, Z] − rank X. */
export const betweenDfOf = (groups: Grouping, matrix: Matrix): number =>
  groups.sizes.length - (matrix.cols - withinSetups(groups, matrix).cols);

/** What columns and set-ups together leave of results, by least squares. */
export function beyondSetups(
  groups: Grouping,
  matrix: Matrix,
  y: readonly number[],
): { rss: number; residuals: Float64Array; basis: Float64Array[]; rank: number } {
  const inner = withinSetups(groups, matrix);
  const column = centred(groups, { rows: y.length, cols: 1, data: Float64Array.from(y) }).data;
  const rank = groups.sizes.length + inner.cols;
  if (inner.cols === 0) return { rss: column.reduce((t, v) => t + v * v, 0), residuals: column, basis: [], rank };
  const { rss, residuals, basis } = leastSquares(inner, column);
  return { rss, residuals, basis, rank };
}

/** A sum of squares on its degrees of freedom. */
interface Stratum {
  ss: number;
  df: number;
}

/** What a model leaves between set-ups and within them. */
export interface Strata {
  between: Stratum;
  within: Stratum;
  /** What the model and set-ups leave of the results, and an orthonormal basis of what the model tells within them. */
  residuals: Float64Array;
  basis: Float64Array[];
}

/**
 * What columns leave of results between set-ups and within them; none where either stratum is left without degrees of
 * freedom, or the first without squares.
 *
 * @param rss of the columns alone, by least squares
 */
export function strataOf(groups: Grouping, matrix: Matrix, y: readonly number[], rss: number): Strata | undefined {
  const own = beyondSetups(groups, matrix, y);
  const apart = apartOf(groups);
  return usable({
    between: { ss: rss - own.rss, df: own.rank - matrix.cols },
    within: { ss: own.rss + apart.ss, df: matrix.rows - own.rank + apart.df },
    residuals: own.residuals,
    basis: own.basis,
  });
}

/** Least that set-ups may differ by, as a share of what trials do: below it rounding is all there is. */
const NOTHING = 1e-12;

const usable = (s: Strata): Strata | undefined =>
  s.between.df >= 1 && s.within.df >= 1 && s.within.ss > 0 && s.between.ss > NOTHING * s.within.ss ? s : undefined;

/**
 * What is known of coefficients that are sums of results, by the mean squares of both strata (Satterthwaite 1946):
 * var b = L′(MS_b P_Z + MS_w (I − P_Z))L, P_Z the means of set-ups.
 *
 * @param l n × p, b = L′y
 */
function informationBy(groups: Grouping, l: Matrix, { between, within }: Strata): Information {
  const means = sums(groups, l);
  means.data.forEach((v, k) => {
    means.data[k] = v / Math.sqrt(groups.sizes[Math.floor(k / l.cols)]);
  });
  const outer = crossOf(means);
  const all = crossOf(l);
  const inner = { ...all, data: all.data.map((v, k) => v - outer.data[k]) };
  const [msb, msw] = [between.ss / between.df, within.ss / within.df];
  return {
    w: [
      [(2 * msb * msb) / between.df, 0],
      [0, (2 * msw * msw) / within.df],
    ],
    score: [0, 0],
    phi: { ...all, data: outer.data.map((v, k) => msb * v + msw * inner.data[k]) },
    turned: [outer, inner],
    correction: zeros(l.cols, l.cols),
  };
}

/** What is known of the coefficients of least squares by the mean squares of both strata. */
export const strataInformation = (groups: Grouping, matrix: Matrix, inverse: Matrix, strata: Strata): Information =>
  informationBy(groups, product(matrix, inverse), strata);

/**
 * The same of further columns, those of the model and theirs together leaving what is left; none where that is
 * nothing.
 *
 * @param u what the model leaves of the columns: n × q, independent
 * @param rss what model and columns leave of the results
 */
export function addedStrata(groups: Grouping, strata: Strata, u: Matrix, rss: number): Information | undefined {
  // Of each column what neither model, set-ups nor the columns before it have: within, where anything.
  const further: Float64Array[] = [];
  const residuals = strata.residuals.slice();
  const inner = centred(groups, u);
  for (let j = 0; j < u.cols; j++) {
    const v = Float64Array.from({ length: u.rows }, (_, i) => inner.data[i * u.cols + j]);
    let before = 0;
    for (let i = 0; i < u.rows; i++) before += u.data[i * u.cols + j] ** 2;
    for (let pass = 0; pass < 2; pass++) clearOf([...strata.basis, ...further], v);
    const after = v.reduce((t, x) => t + x * x, 0);
    if (after > ROUNDING * before) further.push(v.map((x) => x / Math.sqrt(after)));
  }
  clearOf(further, residuals);
  const ss = residuals.reduce((t, e) => t + e * e, 0);
  const left = usable({
    ...strata,
    between: { ss: rss - ss, df: strata.between.df - (u.cols - further.length) },
    within: { ss: ss + apartOf(groups).ss, df: strata.within.df - further.length },
  });
  return left && informationBy(groups, product(u, inverted(crossOf(u))), left);
}
