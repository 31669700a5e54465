import { leastSquares, type Matrix, zeros } from "./least-squares";
import { crossOf, product, transposed } from "./matrices";
import {
  apartOf,
  type Components,
  type Generalised,
  type Grouping,
  generalised,
  type Information,
  informationOf,
  logH,
  sums,
} from "./mixed";
import { rootBetween } from "./root";

/** Whether V is positive definite with this ratio, with room to spare. */
const least = ({ sizes }: Grouping): number => -1 / Math.max(...sizes);

/** The likelihoods at a ratio, the rest taken at its best. */
export interface Profile {
  /** −2 log of the likelihood, restricted or not, but for a constant. */
  at(eta: number, restricted: boolean): number;
  /** Slope of the restricted one in the ratio. */
  slope(eta: number): number;
}

/**
 * The profile of the likelihoods without a pass over the trials at each ratio, by whichever has fewer: columns or
 * set-ups. For looking: what is found is held against the scores on the QR.
 */
export function profiler(groups: Grouping, matrix: Matrix, y: readonly number[]): Profile {
  const g = groups.sizes.length;
  const w = matrix.cols + 1;
  return g * g < 3 * w * w ? profileBySetups(groups, matrix, y) : profileByColumns(groups, matrix, y);
}

/**
 * What depends on the ratio is I + ηM with M = Z′QZ, Q what the columns leave: |H| |X′H⁻¹X| = |X′X| |I + ηM| and
 * y′Py = y′Qy − η r′(I + ηM)⁻¹r with r = Z′Qy.
 */
function profileBySetups(groups: Grouping, matrix: Matrix, y: readonly number[]): Profile {
  const { rows: n, cols: p } = matrix;
  const { inverse, residuals, rss: beyond } = leastSquares(matrix, [...y]);
  const apart = apartOf(groups);
  const rss = beyond + apart.ss;
  const [restrictedDf, df] = [n - p + apart.df, n + apart.df];
  const own = sums(groups, matrix);
  const r = sums(groups, { rows: n, cols: 1, data: residuals }).data;
  const m = product(product(own, inverse), transposed(own)).data;
  const count = groups.sizes.length;
  const l = new Float64Array(count * count);
  const z = new Float64Array(count);
  /** K = I + ηM as LL′ and z = L⁻¹r: log |K| and z′z; none where K is not positive definite. */
  const factored = (eta: number): { log: number; square: number } | undefined => {
    let log = 0;
    let square = 0;
    for (let a = 0; a < count; a++) {
      for (let b = 0; b <= a; b++) {
        let v = (a === b ? 1 + eta * groups.sizes[a] : 0) - eta * m[a * count + b];
        for (let k = 0; k < b; k++) v -= l[a * count + k] * l[b * count + k];
        if (a !== b) l[a * count + b] = v / l[b * count + b];
        else if (v > 0) {
          log += Math.log(v);
          l[a * count + a] = Math.sqrt(v);
        } else return undefined;
      }
      let v = r[a];
      for (let k = 0; k < a; k++) v -= l[a * count + k] * z[k];
      z[a] = v / l[a * count + a];
      square += z[a] * z[a];
    }
    return { log, square };
  };
  const left = (eta: number, square: number): number => Math.max(rss - eta * square, Number.MIN_VALUE);
  const column = new Float64Array(count);
  return {
    at(eta, restricted) {
      const known = factored(eta);
      if (!known) return Number.POSITIVE_INFINITY;
      const error = Math.log(left(eta, known.square));
      return restricted ? known.log + restrictedDf * error : logH(groups, eta) + df * error;
    },
    slope(eta) {
      const known = factored(eta);
      if (!known) return Number.NaN;
      // tr K⁻¹M, column by column of M, and |K⁻¹r|².
      const backwards = (v: Float64Array): void => {
        for (let a = count - 1; a >= 0; a--) {
          for (let k = a + 1; k < count; k++) v[a] -= l[k * count + a] * v[k];
          v[a] /= l[a * count + a];
        }
      };
      let traced = 0;
      for (let c = 0; c < count; c++) {
        for (let a = 0; a < count; a++) {
          column[a] = (a === c ? groups.sizes[a] : 0) - m[a * count + c];
          for (let k = 0; k < a; k++) column[a] -= l[a * count + k] * column[k];
          column[a] /= l[a * count + a];
        }
        backwards(column);
        traced += column[c];
      }
      const u = z.slice();
      backwards(u);
      return traced - (restrictedDf * u.reduce((t, v) => t + v * v, 0)) / left(eta, known.square);
    },
  };
}

/** What depends on the ratio is X′H⁻¹X: X′X less a multiple of the squared sums of each set-up. */
function profileByColumns(groups: Grouping, matrix: Matrix, y: readonly number[]): Profile {
  const n = matrix.rows;
  const p = matrix.cols;
  const w = p + 1;
  const wide = zeros(n, w);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < p; j++) wide.data[i * w + j] = matrix.data[i * p + j];
    wide.data[i * w + p] = y[i];
  }
  const all = crossOf(wide);
  const own = sums(groups, wide);
  const apart = apartOf(groups);
  all.data[w * w - 1] += apart.ss;
  const [restrictedDf, df] = [n - p + apart.df, n + apart.df];
  const m = new Float64Array(w * w);
  /** Cholesky of (X y)′H⁻¹(X y), its last pivot the residual squares: log |X′H⁻¹X|, none where it has none. */
  const factored = (eta: number): number | undefined => {
    m.set(all.data);
    for (let g = 0; g < groups.sizes.length; g++) {
      const c = eta / (1 + eta * groups.sizes[g]);
      for (let a = 0; a < w; a++)
        for (let b = 0; b <= a; b++) m[a * w + b] -= c * own.data[g * w + a] * own.data[g * w + b];
    }
    let log = 0;
    for (let a = 0; a < w; a++)
      for (let b = 0; b <= a; b++) {
        let v = m[a * w + b];
        for (let k = 0; k < b; k++) v -= m[a * w + k] * m[b * w + k];
        if (a !== b) m[a * w + b] = v / m[b * w + b];
        else if (a === p) m[a * w + a] = Math.sqrt(Math.max(v, Number.MIN_VALUE));
        else if (v > 0) {
          log += Math.log(v);
          m[a * w + a] = Math.sqrt(v);
        } else return undefined;
      }
    return log;
  };
  const z = new Float64Array(w);
  return {
    at(eta, restricted) {
      const log = factored(eta);
      if (log === undefined) return Number.POSITIVE_INFINITY;
      const error = 2 * Math.log(m[p * w + p]);
      return logH(groups, eta) + (restricted ? log + restrictedDf * error : df * error);
    },
    slope(eta) {
      if (factored(eta) === undefined) return Number.NaN;
      let slope = 0;
      for (let g = 0; g < groups.sizes.length; g++) {
        // L⁻¹ of the sums of a set-up: what X′H⁻¹X, and below it the residual squares, lose to it.
        let square = 0;
        for (let a = 0; a < w; a++) {
          let v = own.data[g * w + a];
          for (let k = 0; k < a; k++) v -= m[a * w + k] * z[k];
          z[a] = v / m[a * w + a];
          square += (a < p ? 1 : restrictedDf) * z[a] * z[a];
        }
        const wide = 1 + eta * groups.sizes[g];
        slope += groups.sizes[g] / wide - square / wide ** 2;
      }
      return slope;
    },
  };
}

/** Components as they are estimated, with the fit at their ratio and what is known of them. */
export interface Estimated extends Components {
  fit: Generalised;
  info: Information;
}

/**
 * Restricted maximum likelihood of the components (Patterson & Thompson 1971), the one between set-ups unbounded below
 * while V is positive definite (Stroup & Littell 2002): the root of the profile's slope, and what Fisher's scoring
 * still moves.
 */
export function components(
  groups: Grouping,
  matrix: Matrix,
  y: readonly number[],
  profile: Profile = profiler(groups, matrix, y),
): Estimated {
  const apart = apartOf(groups);
  const df = matrix.rows - matrix.cols + apart.df;
  const floor = least(groups);
  const ratioOf = (t: number): number => floor * (1 - 1e-6) + Math.exp(t);
  // Where it may have several hollows, the deepest is looked into.
  const places = Array.from({ length: 41 }, (_, i) => -12 + 0.6 * i);
  const values = places.map((t) => profile.at(ratioOf(t), true));
  const at = values.indexOf(Math.min(...values));
  const [from, to] = [places[Math.max(0, at - 1)], places[Math.min(places.length - 1, at + 1)]];
  const slope = (t: number): number => profile.slope(ratioOf(t));
  // At either end of all places it has no hollow: the end is where it stands.
  const t = slope(from) < 0 && slope(to) > 0 ? rootBetween(slope, from, to) : places[at];
  const eta = ratioOf(t);
  const first = generalised(groups, eta, matrix, y);
  const within = (first.solution.rss + apart.ss) / df;
  let here: Components = { between: eta * within, within };
  let known = { fit: first, info: informationOf(groups, first, matrix, here) };
  for (let round = 0; round < 8; round++) {
    const { w, score } = known.info;
    const next: Components = {
      between: here.between + w[0][0] * score[0] + w[0][1] * score[1],
      within: here.within + w[1][0] * score[0] + w[1][1] * score[1],
    };
    // At the edge of what may be, scoring would leave it: what was found by looking stands.
    if (!(next.within > 0) || next.between / next.within <= floor) break;
    // What is left to move is rounding: it stands as it was looked at.
    const moved = Math.abs(next.between - here.between) + Math.abs(next.within - here.within);
    if (moved < 1e-11 * (Math.abs(here.between) + here.within)) break;
    const fit = generalised(groups, next.between / next.within, matrix, y);
    here = next;
    known = { fit, info: informationOf(groups, fit, matrix, here) };
  }
  return { ...here, ...known };
}
