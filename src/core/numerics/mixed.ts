import { fUpper } from "./distributions";
import { block, cholesky, clearOf, type LeastSquares, leastSquares, type Matrix, zeros } from "./least-squares";
import { crossOf, inverted, product, trace, transposed } from "./matrices";

/** Trials by the set-up they belong to: numbers 0, 1, …, one a trial. H = I + ηZZ′, the columns of Z being set-ups. */
export interface Grouping {
  of: readonly number[];
  /** Squared length of each set-up's column of Z: its number of trials, unless they carry it by more than 1. */
  sizes: readonly number[];
  /** By how much each trial carries its set-up; 1 unless said. */
  load?: readonly number[];
  /** Squares, with their degrees of freedom, that the component within alone makes and no column or set-up touches. */
  apart?: { ss: number; df: number };
}

const loadAt = ({ load }: Grouping, i: number): number => load?.[i] ?? 1;
const NOTHING_APART = { ss: 0, df: 0 };
export const apartOf = ({ apart }: Grouping): { ss: number; df: number } => apart ?? NOTHING_APART;

export function groupingOf(names: readonly string[]): Grouping {
  const known = new Map<string, number>();
  const of = names.map((s) => {
    const at = known.get(s) ?? known.size;
    known.set(s, at);
    return at;
  });
  const sizes = new Array<number>(known.size).fill(0);
  for (const g of of) sizes[g]++;
  return { of, sizes };
}

/** Whether each column is one value within every set-up. */
export function constantWithin({ of, sizes }: Grouping, { rows, cols, data }: Matrix): boolean[] {
  return Array.from({ length: cols }, (_, j) => {
    const first = new Float64Array(sizes.length).fill(Number.NaN);
    for (let i = 0; i < rows; i++) {
      const v = data[i * cols + j];
      if (Number.isNaN(first[of[i]])) first[of[i]] = v;
      else if (Math.abs(first[of[i]] - v) > 1e-9) return false;
    }
    return true;
  });
}

/** Rows over the root of H = I + ηZZ′: within a set-up each less a share of their mean. */
export function whitenedBy(groups: Grouping, eta: number, m: Matrix): Matrix {
  const { of, sizes } = groups;
  const { rows, cols, data } = m;
  const out = new Float64Array(data);
  const all = sums(groups, m).data;
  for (let i = 0; i < rows; i++) {
    const size = sizes[of[i]];
    const share = ((1 - 1 / Math.sqrt(1 + eta * size)) * loadAt(groups, i)) / size;
    for (let j = 0; j < cols; j++) out[i * cols + j] -= share * all[of[i] * cols + j];
  }
  return { rows, cols, data: out };
}

/** The root of H = I + ηZZ′ times errors: independent ones come to vary together within set-ups. */
export function colouredBy(groups: Grouping, eta: number, errors: Float64Array): Float64Array {
  const { of, sizes } = groups;
  const all = sums(groups, { rows: errors.length, cols: 1, data: errors }).data;
  return errors.map((e, i) => {
    const size = sizes[of[i]];
    return e + ((Math.sqrt(1 + eta * size) - 1) * loadAt(groups, i) * all[of[i]]) / size;
  });
}

/** Variance components: between set-ups (negative where it is estimated so) and within. */
export interface Components {
  between: number;
  within: number;
}

/** Generalised least squares at some ratio of the components, by QR on whitened rows. */
export interface Generalised {
  eta: number;
  solution: LeastSquares;
  x: Matrix;
  y: Float64Array;
}

export function generalised(groups: Grouping, eta: number, matrix: Matrix, y: readonly number[]): Generalised {
  const x = whitenedBy(groups, eta, matrix);
  const column = { rows: y.length, cols: 1, data: Float64Array.from(y) };
  const white = whitenedBy(groups, eta, column).data;
  return { eta, solution: leastSquares(x, white), x, y: white };
}

const logDeterminantOf = (inverse: Matrix): number => {
  const l = cholesky(inverse);
  if (!l) return Number.NaN;
  let log = 0;
  for (let j = 0; j < inverse.cols; j++) log -= 2 * Math.log(l.data[j * inverse.cols + j]);
  return log;
};

/** Σ log(1 + ηm) over set-ups: log |H|. */
export const logH = ({ sizes }: Grouping, eta: number): number => sizes.reduce((t, m) => t + Math.log(1 + eta * m), 0);

/** −2 log of the (restricted) likelihood with the within component profiled out. */
export function deviance(groups: Grouping, fit: Generalised, restricted: boolean): number {
  const n = fit.y.length;
  const p = fit.x.cols;
  const { inverse } = fit.solution;
  const apart = apartOf(groups);
  const rss = fit.solution.rss + apart.ss;
  const df = (restricted ? n - p : n) + apart.df;
  const log = logH(groups, fit.eta) + df * (Math.log((2 * Math.PI * rss) / df) + 1);
  return restricted ? log + logDeterminantOf(inverse) : log;
}

/** What the information of the components, and what follows from it, is worked out from. */
export interface Information {
  /** Covariance of (between, within), the inverse of the expected information. */
  w: [[number, number], [number, number]];
  /** Slopes of the restricted log likelihood in both. */
  score: [number, number];
  /** Φ, and Φ P_i Φ of both components, p × p. */
  phi: Matrix;
  turned: [Matrix, Matrix];
  /** Φ P_i Φ P_j Φ less Φ Q_ij Φ summed with W: Kenward & Roger's correction of Φ, halved. */
  readonly correction: Matrix;
}

/** The inverse of a symmetric pair of rows. */
function pairInverse([[a, b], [, c]]: Information["w"]): Information["w"] {
  const determinant = a * c - b * b;
  return [
    [c / determinant, -b / determinant],
    [-b / determinant, a / determinant],
  ];
}

/** Z′M: sum of the rows of each set-up. */
export function sums(groups: Grouping, m: Matrix): Matrix {
  const { of, sizes } = groups;
  const out = zeros(sizes.length, m.cols);
  for (let i = 0; i < m.rows; i++) {
    const load = loadAt(groups, i);
    for (let j = 0; j < m.cols; j++) out.data[of[i] * m.cols + j] += load * m.data[i * m.cols + j];
  }
  return out;
}

/**
 * Expected information of the components and what Kenward & Roger (1997) make of it, at components that need not be
 * those of the fit.
 *
 * @param fit at the ratio of the components
 */
export function informationOf(
  groups: Grouping,
  fit: Generalised,
  matrix: Matrix,
  { between, within }: Components,
): Information {
  const n = matrix.rows;
  const p = matrix.cols;
  const { of, sizes } = groups;
  const apart = apartOf(groups);
  const eta = between / within;
  // V⁻¹ = (I − η/(1 + ηm) zz′)/σ² within a set-up, z what its trials carry it by, m = z′z.
  const shrink = sizes.map((m) => eta / (1 + eta * m));
  const solve = (m: Matrix): Matrix => {
    const s = sums(groups, m);
    const out = zeros(m.rows, m.cols);
    for (let i = 0; i < m.rows; i++)
      for (let j = 0; j < m.cols; j++)
        out.data[i * m.cols + j] =
          (m.data[i * m.cols + j] - loadAt(groups, i) * shrink[of[i]] * s.data[of[i] * m.cols + j]) / within;
    return out;
  };
  const phi: Matrix = { ...fit.solution.inverse, data: fit.solution.inverse.data.map((v) => v * within) };
  const a = solve(matrix);
  const b = solve(a);
  const za = sums(groups, a);
  // P = V⁻¹ − AΦA′ with A = V⁻¹X; of it only PZ and its sums, Z′PZ, are written out.
  const own = product(a, phi);
  const pz = product(own, transposed(za));
  for (let i = 0; i < n; i++)
    for (let g = 0; g < sizes.length; g++)
      pz.data[i * sizes.length + g] =
        (of[i] === g ? (loadAt(groups, i) * (1 - shrink[g] * sizes[g])) / within : 0) - pz.data[i * sizes.length + g];
  const zpz = sums(groups, pz);
  // X′V⁻¹V_iV⁻¹X.
  const inner: [Matrix, Matrix] = [crossOf(za), crossOf(a)];
  const turnedTo = inner.map((m) => product(phi, m)) as [Matrix, Matrix];
  // tr PP = tr V⁻² − 2 tr ΦX′V⁻³X + tr (ΦX′V⁻²X)².
  const last = product(transposed(a), b);
  const squared = sizes.reduce((t, m, g) => t - 2 * shrink[g] * m + (shrink[g] * m) ** 2, n) / within ** 2;
  const ofP = squared - 2 * trace(phi, last) + trace(turnedTo[1], turnedTo[1]);
  const square = (m: Matrix): number => m.data.reduce((t, v) => t + v * v, 0);
  const info = [square(zpz) / 2, square(pz) / 2, (ofP + apart.df / within ** 2) / 2];
  const w = pairInverse([
    [info[0], info[1]],
    [info[1], info[2]],
  ]);
  // Slopes: ½(y′P V_i P y − tr P V_i).
  const residual = new Float64Array(n);
  for (let i = 0; i < n; i++) residual[i] = fit.solution.residuals[i];
  // Py = V⁻¹(y − Xβ̂): the whitened residual whitened once more, over σ².
  const py = whitenedBy(groups, eta, { rows: n, cols: 1, data: residual });
  const values = { ...py, data: py.data.map((v) => v / within) };
  const zpy = sums(groups, values);
  let traceU = 0;
  for (let g = 0; g < sizes.length; g++) traceU += zpz.data[g * sizes.length + g];
  const traceE = sizes.reduce((t, m, g) => t - shrink[g] * m, n) / within - trace(phi, inner[1]);
  const beside = apart.ss / within ** 2 - apart.df / within;
  const score: Information["score"] = [(square(zpy) - traceU) / 2, (square(values) - traceE + beside) / 2];
  // P_i = −X′V⁻¹V_iV⁻¹X; turned is Φ(−P_i)Φ.
  const turned = turnedTo.map((m) => product(m, phi)) as [Matrix, Matrix];
  let correction: Matrix | undefined;
  return {
    w,
    score,
    phi,
    turned,
    get correction() {
      if (correction) return correction;
      // Q_ij = X′V⁻¹V_iV⁻¹V_jV⁻¹X.
      const zb = sums(groups, b);
      const cross = product(transposed(za), zb);
      const q = [
        [product(transposed(za), sums(groups, solve(spread(groups, za)))), cross],
        [transposed(cross), last],
      ];
      const middle = zeros(p, p);
      for (const i of [0, 1] as const)
        for (const j of [0, 1] as const) {
          const less = product(inner[i], turnedTo[j]);
          for (let k = 0; k < p * p; k++) middle.data[k] += w[i][j] * (q[i][j].data[k] - less.data[k]);
        }
      correction = product(product(phi, middle), phi);
      return correction;
    },
  };
}

/**
 * What {@link informationOf} would say of the last columns of a larger model at the same ratio, worked out from what
 * these columns add: with α = V⁻¹XΦe of a column's coefficient, P less αΦ⁻¹α′ is the larger model's P, and every figure
 * of the column's block is a form in α.
 *
 * @param base that of the smaller model, with its component within set-ups
 * @param u what of the columns the smaller model leaves, whitened: n × q
 * @param within the larger model's component
 */
export function addedInformation(
  groups: Grouping,
  fit: Generalised,
  base: { info: Information; within: number },
  u: Matrix,
  within: number,
): Information {
  const own = crossOf(u);
  const phi = inverted(own);
  const a = whitenedBy(groups, fit.eta, product(u, phi));
  const za = sums(groups, a);
  const b: [Matrix, Matrix] = [crossOf(za), crossOf(a)];
  // α′V_i P V_j α, in units of σ².
  const seen = [spread(groups, za), a].map((m) => cleared(fit, whitenedBy(groups, fit.eta, m)));
  const c = (i: 0 | 1, j: 0 | 1): Matrix => product(transposed(seen[i]), seen[j]);
  const turned = b.map((m) => product(own, m));
  const before = pairInverse(base.info.w);
  const information = (i: 0 | 1, j: 0 | 1): number =>
    (before[i][j] * base.within ** 2 - trace(own, c(i, j)) + trace(turned[i], turned[j]) / 2) / within ** 2;
  const w = pairInverse([
    [information(0, 0), information(0, 1)],
    [information(0, 1), information(1, 1)],
  ]);
  const correction = zeros(u.cols, u.cols);
  for (const i of [0, 1] as const)
    for (const j of [0, 1] as const) {
      const part = c(i, j);
      const less = product(b[i], turned[j]);
      for (let k = 0; k < part.data.length; k++)
        correction.data[k] += (w[i][j] * (part.data[k] - less.data[k])) / within;
    }
  return { w, score: [0, 0], phi: { ...phi, data: phi.data.map((v) => v * within) }, turned: b, correction };
}

/** Columns with what a fit's own explain taken out, twice for rounding. */
export function cleared(fit: Generalised, m: Matrix): Matrix {
  const out = zeros(m.rows, m.cols);
  for (let j = 0; j < m.cols; j++) {
    const v = Float64Array.from({ length: m.rows }, (_, i) => m.data[i * m.cols + j]);
    for (let pass = 0; pass < 2; pass++) clearOf(fit.solution.basis, v);
    for (let i = 0; i < m.rows; i++) out.data[i * m.cols + j] = v[i];
  }
  return out;
}

/** ZM: a value of each set-up at every trial of it. */
function spread(groups: Grouping, m: Matrix): Matrix {
  const { of } = groups;
  const out = zeros(of.length, m.cols);
  for (let i = 0; i < of.length; i++) {
    const load = loadAt(groups, i);
    for (let j = 0; j < m.cols; j++) out.data[i * m.cols + j] = load * m.data[of[i] * m.cols + j];
  }
  return out;
}

/** A test of several coefficients, on degrees of freedom of its own. */
export interface ScaledF {
  f: number;
  /** What F was multiplied by. */
  scale: number;
  df: number;
  p: number;
}

/** Degrees of freedom of one contrast c (Satterthwaite 1946): 2(c′Φc)²/(g′Wg). */
export function satterthwaite({ w, phi, turned }: Information, c: ArrayLike<number>): number {
  const form = (m: Matrix): number => {
    let t = 0;
    for (let i = 0; i < m.rows; i++) {
      if (c[i] === 0) continue;
      for (let j = 0; j < m.cols; j++) t += c[i] * c[j] * m.data[i * m.cols + j];
    }
    return t;
  };
  const g = [form(turned[0]), form(turned[1])];
  const v = form(phi);
  return (2 * v * v) / (g[0] * g[0] * w[0][0] + 2 * g[0] * g[1] * w[0][1] + g[1] * g[1] * w[1][1]);
}

/**
 * Kenward & Roger's (1997) F of some coefficients together.
 *
 * @param coefficients of the columns tested
 * @param places of them among all
 */
export function scaledF(info: Information, coefficients: readonly number[], places: readonly number[]): ScaledF {
  const l = places.length;
  const at = (m: Matrix): Matrix => block(m, places);
  const own = at(info.phi);
  const adjusted = at(adjustedCovariance(info));
  const inverse = inverted(own);
  const quadratic = (m: Matrix): number => {
    const s = product(inverted(m), { rows: l, cols: 1, data: Float64Array.from(coefficients) });
    return coefficients.reduce((t, v, i) => t + v * s.data[i], 0);
  };
  const f = quadratic(adjusted) / l;
  const m = info.turned.map((t) => product(inverse, at(t)));
  let a1 = 0;
  let a2 = 0;
  for (const i of [0, 1] as const)
    for (const j of [0, 1] as const) {
      const ti = m[i].data.reduce((t, v, k) => (k % (l + 1) === 0 ? t + v : t), 0);
      const tj = m[j].data.reduce((t, v, k) => (k % (l + 1) === 0 ? t + v : t), 0);
      a1 += info.w[i][j] * ti * tj;
      a2 += info.w[i][j] * trace(m[i], m[j]);
    }
  if (l === 1) {
    const df = 2 / a2;
    return { f, scale: 1, df, p: fUpper(f, 1, df) };
  }
  const b = (a1 + 6 * a2) / (2 * l);
  const g = ((l + 1) * a1 - (l + 4) * a2) / ((l + 2) * a2);
  const d = 3 * l + 2 * (1 - g);
  const [c1, c2, c3] = [g / d, (l - g) / d, (l + 2 - g) / d];
  const mean = 1 / (1 - a2 / l);
  const variance = ((2 / l) * (1 + c1 * b)) / ((1 - c2 * b) ** 2 * (1 - c3 * b));
  const rho = variance / (2 * mean * mean);
  const df = 4 + (l + 2) / (l * rho - 1);
  const scale = df / (mean * (df - 2));
  return { f: scale * f, scale, df, p: fUpper(scale * f, l, df) };
}

/** Φ + 2Λ: the covariance of the coefficients with what estimating the components adds (Kenward & Roger 1997). */
export const adjustedCovariance = ({ phi, correction }: Information): Matrix => ({
  ...phi,
  data: phi.data.map((v, k) => v + 2 * correction.data[k]),
});
