import { fUpper } from "../../numerics/distributions";
import { clearOf, leastSquares, type Matrix, pickColumns, rankReport, zeros } from "../../numerics/least-squares";
import {
  addedInformation,
  adjustedCovariance,
  apartOf,
  cleared,
  constantWithin,
  type Information,
  satterthwaite,
  scaledF,
  whitenedBy,
} from "../../numerics/mixed";
import { addedStrata, betweenDfOf } from "../../numerics/strata";
import type { AddedTerm, Criteria, TermTest } from "../fitted";
import { criteriaOf, rooted, type Solved, solvedAt } from "./parts-solved";

/** How coefficients are judged, by what is known of them. */
interface TermJudgement {
  info: Information;
  /** Residual degrees of freedom. */
  free: number;
  /** Whether the ratio of the components is assumed, and the columns are told between set-ups alone. */
  assumed: boolean;
  between: boolean;
}

function judge(
  { info, free, assumed, between }: TermJudgement,
  own: readonly number[],
  places: readonly number[],
): Pick<TermTest, "dfDenominator" | "f" | "p" | "scale"> {
  if ((assumed && between) || free < 1) return { dfDenominator: 0, f: null, p: null };
  if (assumed) {
    const none = { ...info, correction: { ...info.correction, data: info.correction.data.map(() => 0) } };
    const { f } = scaledF(none, own, places);
    return { dfDenominator: free, f, p: fUpper(f, places.length, free) };
  }
  const { f, scale, df, p } = scaledF(info, own, places);
  return { dfDenominator: df, f, p, ...(places.length > 1 ? { scale } : {}) };
}

export function testOf(s: Solved, columns: readonly number[]): TermTest {
  let criteria: Criteria | undefined;
  return {
    df: columns.length,
    ss: null,
    ...judge(
      {
        info: s.info,
        free: s.parts.within > 0 ? s.n - s.p : 0,
        assumed: s.assumed !== undefined,
        between: columns.some((j) => s.constant[j]),
      },
      columns.map((j) => s.fit.solution.coefficients[j]),
      columns,
    ),
    // Another fit altogether: only where it is asked for.
    get criteria() {
      const keep = Array.from({ length: s.p }, (_, j) => j).filter((j) => !columns.includes(j));
      criteria ??= criteriaOf(s, pickColumns(s.matrix, keep));
      return criteria;
    },
  };
}

/** Whether columns are independent of a fit's and of each other, u being what the fit leaves of them. */
function independent(s: Solved, white: Matrix, u: Matrix): boolean {
  const { rows: n, cols: q } = u;
  const basis: Float64Array[] = [];
  for (let c = 0; c < q; c++) {
    const v = Float64Array.from({ length: n }, (_, i) => u.data[i * q + c]);
    let before = 0;
    for (let i = 0; i < n; i++) before += white.data[i * q + c] ** 2;
    for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
    const after = v.reduce((t, x) => t + x * x, 0);
    if (!Number.isFinite(before) || !(after > 1e-16 * before)) return false;
    basis.push(v.map((x) => x / Math.sqrt(after)));
  }
  return s.n >= s.p + q;
}

/**
 * Some columns as if added last, the ratio of the components held at the model's.
 *
 * @param added columns of the trials as they are
 */
export function addTerm(s: Solved, added: Matrix): AddedTerm | null {
  const { n, p, fit } = s;
  const columns = rooted(s, added);
  const q = columns.cols;
  const white = whitenedBy(s.groups, fit.eta, columns);
  const u = cleared(fit, white);
  if (!independent(s, white, u)) return null;
  const left = fit.solution.residuals;
  const coefficients = Array.from(leastSquares(u, Float64Array.from(left)).coefficients);
  let [rss, all] = [0, 0];
  for (let i = 0; i < n; i++) {
    let e = left[i];
    all += e * e;
    for (let j = 0; j < q; j++) e -= coefficients[j] * u.data[i * q + j];
    rss += e * e;
  }
  const free = n - p - q;
  const apart = apartOf(s.groups);
  // What rounding leaves of a perfect fit is no error to judge by.
  const within = free > 0 && rss > 1e-20 * all ? (rss + apart.ss) / (free + apart.df) : 0;
  const base = s.parts.within > 0 ? s.parts.within : 1;
  const info = s.strata
    ? addedStrata(s.groups, s.strata, u, rss)
    : addedInformation(s.groups, fit, { info: s.info, within: base }, u, within > 0 ? within : 1);
  const assumed = s.assumed !== undefined;
  const constant = constantWithin(s.groups, columns);
  const between = constant.some((c) => c);
  const known = { info: info ?? s.info, free: info && within > 0 ? free : 0, assumed, between };
  const at = Array.from({ length: q }, (_, j) => j);
  let criteria: Criteria | undefined;
  return {
    df: q,
    ss: null,
    ...judge(known, coefficients, at),
    coefficients,
    covariance: !info || free < 1 ? null : adjustedCovariance(info),
    dfs: at.map((j) => {
      if (known.free < 1 || (assumed && constant[j])) return 0;
      const unit = at.map((k) => (k === j ? 1 : 0));
      return assumed ? free : satterthwaite(known.info, unit);
    }),
    get criteria() {
      criteria ??= criteriaOf(s, beside(s.matrix, columns));
      return criteria;
    },
  };
}

/** Columns beside those of a model. */
function beside(matrix: Matrix, columns: Matrix): Matrix {
  const [p, q] = [matrix.cols, columns.cols];
  const wide = zeros(matrix.rows, p + q);
  for (let i = 0; i < matrix.rows; i++) {
    for (let j = 0; j < p; j++) wide.data[i * wide.cols + j] = matrix.data[i * p + j];
    for (let j = 0; j < q; j++) wide.data[i * wide.cols + p + j] = columns.data[i * q + j];
  }
  return wide;
}

/**
 * The test of what further columns have beyond a model, by the components of the model that has them.
 *
 * @param columns of the trials as they are
 */
export function beyondOf(s: Solved, columns: Matrix): TermTest | null {
  const { n, p } = s;
  const all = beside(s.input.design.matrix, columns);
  const kept = rankReport(all).kept;
  const further = kept.filter((j) => j >= p);
  if (further.length === 0 || kept.length >= n) return null;
  const matrix = pickColumns(all, kept);
  // Without an error between set-ups of their own there is nothing to judge them by.
  if (betweenDfOf(s.groups, rooted(s, matrix)) < s.least) return null;
  const test = testOf(
    solvedAt(s.input, s, matrix),
    further.map((_, k) => p + k),
  );
  // Of many columns on little error the expansions give no F at all.
  return (test.f ?? -1) >= 0 && (test.dfDenominator ?? 0) > 0 && Number.isFinite(test.p) ? test : null;
}
