import { type Matrix, rankReport, zeros } from "../numerics/least-squares";
import {
  constantWithin,
  type Grouping,
  generalised,
  type Information,
  informationOf,
  satterthwaite,
  scaledF,
} from "../numerics/mixed";
import { once } from "../study/memo";

/** The errors of a plan in set-ups of hard factors: between set-ups and within them. */
export interface Strata {
  setups: number;
  eta: number;
  /** Degrees of freedom that the model leaves between set-ups, and within. */
  between: number;
  within: number;
  /** Whether least squares gives what generalised least squares gives, whatever η: rank [X, ZZ′X] = rank X. */
  plain: boolean;
  /** Whether a column is one value within every set-up. */
  constant: boolean[];
  /**
   * Degrees of freedom that coefficients are tested on, by their places among the columns kept: Satterthwaite's of one,
   * Kenward and Roger's (1997) of several, both with the expected information at the ratio planned for; null where
   * nothing is left to test them on.
   */
  errorDf(places: readonly number[]): number | null;
}

/** Fewest degrees of freedom between set-ups that tell how much they vary. */
const LEAST_BETWEEN = 2;
/** Part of a coefficient's variance below which it does not rest on how much set-ups vary. */
const NONE = 1e-9;

/** @param matrix columns that can be told apart, n × p */
export function strataOf(groups: Grouping, matrix: Matrix, eta: number): Strata {
  const n = matrix.rows;
  const p = matrix.cols;
  const setups = groups.sizes.length;
  const wide = zeros(n, p + setups);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < p; j++) wide.data[i * wide.cols + j] = matrix.data[i * p + j];
    wide.data[i * wide.cols + p + groups.of[i]] = 1;
  }
  const rank = setups === n ? n : rankReport(wide).rank;
  const between = rank - p;
  const within = n - rank;
  const constant = constantWithin(groups, matrix);
  const of = once((): Information => {
    const still = new Array<number>(n).fill(0);
    return informationOf(groups, generalised(groups, eta, matrix, still), matrix, { between: eta, within: 1 });
  });
  return {
    setups,
    eta,
    between,
    within,
    constant,
    get plain() {
      return setups === n || rankReport(withSums(groups, matrix)).rank === p;
    },
    errorDf(places) {
      // Every trial set up anew: one error, as if nothing were hard to change.
      if (setups === n) return n > p ? n - p : null;
      if (between < LEAST_BETWEEN)
        // How much set-ups vary is assumed then, so that what stands between them alone has nothing to be tested on.
        return places.some((j) => constant[j]) || n <= p ? null : n - p;
      const { phi, turned } = of();
      const share = (m: Matrix): number => Math.max(...places.map((j) => m.data[j * m.cols + j] / phi.data[j * p + j]));
      // How the variance grows with either component, over what it is.
      if (share(turned[0]) <= NONE) return within > 0 ? within : null;
      if (share(turned[1]) > NONE && within < 1) return null;
      if (within < 1) return between;
      if (places.length === 1) return satterthwaite(of(), unit(p, places[0]));
      return scaledF(of(), new Array<number>(places.length).fill(0), places).df;
    },
  };
}

/** [X, ZZ′X]: equal to X in rank where least squares is as good as generalised (Vining, Kowalski & Montgomery 2005). */
function withSums({ of, sizes }: Grouping, { rows, cols, data }: Matrix): Matrix {
  const sums = new Float64Array(sizes.length * cols);
  for (let i = 0; i < rows; i++) for (let j = 0; j < cols; j++) sums[of[i] * cols + j] += data[i * cols + j];
  const out = zeros(rows, 2 * cols);
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < cols; j++) {
      out.data[i * out.cols + j] = data[i * cols + j];
      out.data[i * out.cols + cols + j] = sums[of[i] * cols + j];
    }
  return out;
}

const unit = (p: number, j: number): number[] => Array.from({ length: p }, (_, i) => (i === j ? 1 : 0));
