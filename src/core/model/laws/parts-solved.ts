import { components, type Profile, profiler } from "../../numerics/components";
import { goldenSection } from "../../numerics/golden-section";
import type { Matrix } from "../../numerics/least-squares";
import {
  adjustedCovariance,
  apartOf,
  type Components,
  constantWithin,
  deviance,
  type Generalised,
  type Grouping,
  generalised,
  type Information,
  informationOf,
  satterthwaite,
} from "../../numerics/mixed";
import { betweenDfOf, beyondSetups, type Strata, strataInformation, strataOf } from "../../numerics/strata";
import { once } from "../../study/memo";
import { ASSUMED_RATIO } from "../../study/schema";
import type { Criteria } from "../fitted";
import type { LawInput } from "./law";

/** Part of all squares below which what is left within set-ups is rounding. */
const NOTHING = 1e-20;
/** A ratio so far out that it is asked whether anything is left within set-ups at all. */
const FAR = 1e4;
/** Errors of two parts, and what rows they are judged on. */
export interface Parts {
  groups: Grouping;
  /** What each trial's row is multiplied by for its errors to be those of the grouping; all by 1 unless said. */
  roots?: readonly number[];
  /**
   * Degrees of freedom between set-ups below which their component is assumed: as the input says, else as large as
   * the one within. Where nothing may be assumed it is told from one.
   */
  least: number;
}

/** Components found for some rows, and the fit at their ratio. */
export interface PartsFound {
  parts: Components;
  fit: Generalised;
  info: Information;
  /** Degrees of freedom between set-ups that the model leaves. */
  betweenDf: number;
  /** Where the ratio is at its least: the mean squares that all is judged by, results weighing alike. */
  strata: Strata | undefined;
  /** The ratio of the components where it is assumed. */
  assumed: number | undefined;
}

/** What the figures of a law of two parts are worked out from; known to such laws alone. */
export interface Solved extends Parts, PartsFound {
  input: LawInput;
  /** Rows and results times their roots. */
  matrix: Matrix;
  y: readonly number[];
  n: number;
  p: number;
  /** Whether a column is one value within every set-up. */
  constant: boolean[];
  covariance: Matrix;
  /** The likelihoods over ratios, made when first asked for. */
  profile(): Profile;
}

/** Whether a model passes through all that differs within set-ups, but for rounding. */
function passesThrough(groups: Grouping, matrix: Matrix, y: readonly number[]): boolean {
  const rss = beyondSetups(groups, matrix, y).rss + apartOf(groups).ss;
  const mean = y.reduce((t, v) => t + v, 0) / y.length;
  return rss <= NOTHING * y.reduce((t, v) => t + (v - mean) ** 2, 0);
}

/**
 * How near the least ratio there may be, −1 over the largest set-up, counts as at it. There V is all but singular for
 * the largest set-ups: they would weigh without bound, the likelihood ends without a summit, and what expansions about
 * one say of degrees of freedom (less than one, where three are left) has no ground.
 */
const EDGE = 0.9;

/** Rows times the roots of their trials. */
export const rooted = ({ roots }: Pick<Parts, "roots">, rows: Matrix): Matrix =>
  roots ? { ...rows, data: rows.data.map((v, k) => v * roots[Math.floor(k / rows.cols)]) } : rows;

/** Rows and results as they are solved. */
type Rows = Pick<Solved, "matrix" | "y" | "profile">;

function rowsOf(input: LawInput, parting: Parts, columns: Matrix): Rows {
  const { groups, roots } = parting;
  const matrix = rooted(parting, columns);
  const y = roots ? input.observed.map((v, i) => v * roots[i]) : input.observed;
  return { matrix, y, profile: once(() => profiler(groups, matrix, y)) };
}

/** The ratio of components, and the fit at it with what they are worth. */
export function findParts(
  input: LawInput,
  parting: Parts,
  rows = rowsOf(input, parting, input.design.matrix),
): PartsFound {
  const { groups, least } = parting;
  const { matrix, y, profile } = rows;
  const n = y.length;
  const p = matrix.cols;
  const betweenDf = betweenDfOf(groups, matrix);
  const assumed = betweenDf < least ? (input.eta ?? ASSUMED_RATIO) : undefined;
  const free = n - p;
  let parts: Components;
  let known: Pick<PartsFound, "fit" | "info"> | undefined;
  if (assumed === undefined && free > 0) {
    const { between, within, ...found } = components(groups, matrix, y, profile());
    parts = { between, within };
    if (within > 0) known = found;
  } else {
    const { rss } = generalised(groups, assumed ?? ASSUMED_RATIO, matrix, y).solution;
    const within = free > 0 ? rss / free : 0;
    parts = { between: (assumed ?? ASSUMED_RATIO) * within, within };
  }
  if (parts.between > FAR * parts.within && passesThrough(groups, matrix, y)) {
    parts = { ...parts, within: 0 };
    known = undefined;
  }
  let strata: Strata | undefined;
  if (known && parts.between / parts.within < -EDGE / Math.max(...groups.sizes)) {
    const fit = generalised(groups, 0, matrix, y);
    strata = strataOf(groups, matrix, y, fit.solution.rss);
    if (strata) known = { fit, info: strataInformation(groups, matrix, fit.solution.inverse, strata) };
  }
  const ratio = parts.within > 0 ? parts.between / parts.within : (assumed ?? ASSUMED_RATIO);
  const fit = known?.fit ?? generalised(groups, ratio, matrix, y);
  const info =
    known?.info ?? informationOf(groups, fit, matrix, parts.within > 0 ? parts : { between: ratio, within: 1 });
  return { parts, fit, info, betweenDf, strata, assumed };
}

/** All that figures are worked out from, of what was found for the same rows. */
export function solvedOf(
  input: LawInput,
  parting: Parts,
  found: PartsFound,
  rows = rowsOf(input, parting, input.design.matrix),
): Solved {
  return {
    ...parting,
    ...found,
    ...rows,
    input,
    n: rows.y.length,
    p: rows.matrix.cols,
    constant: constantWithin(parting.groups, rows.matrix),
    covariance: found.assumed === undefined ? adjustedCovariance(found.info) : found.info.phi,
  };
}

/**
 * A fit of other columns by the same parting, with what its components are worth.
 *
 * @param columns of the trials as they are, n × p
 */
export function solvedAt(input: LawInput, parting: Parts, columns: Matrix): Solved {
  const rows = rowsOf(input, parting, columns);
  return solvedOf(input, parting, findParts(input, parting, rows), rows);
}

/** Degrees of freedom of a contrast; none where an assumed component is all there is to judge by. */
export function dfOf(s: Solved, contrast: ArrayLike<number>): number {
  if (s.n - s.p < 1 || !(s.parts.within > 0)) return 0;
  if (s.assumed === undefined) return satterthwaite(s.info, contrast);
  for (let j = 0; j < s.p; j++) if (s.constant[j] && j > 0 && contrast[j] !== 0) return 0;
  return s.n - s.p;
}

/** Criteria by maximum likelihood of some columns, both components counted. */
export function criteriaOf(
  s: Pick<Solved, "groups" | "y" | "n">,
  matrix: Matrix,
  profile: Profile = profiler(s.groups, matrix, s.y),
): Criteria {
  const k = matrix.cols + 2;
  const floor = -1 / Math.max(...s.groups.sizes);
  // On a scale on which the least ratio and the largest lie alike far away.
  const ratioOf = (t: number): number => floor * 0.999 + Math.exp(t);
  const best = goldenSection((t) => -profile.at(ratioOf(t), false), -9, 7, { within: 1e-7, most: 80 });
  const value = deviance(s.groups, generalised(s.groups, ratioOf(best), matrix, s.y), false);
  if (!Number.isFinite(value)) return { aicc: null, bic: null };
  const aic = value + 2 * k;
  return {
    aicc: s.n <= k + 1 ? null : aic + (2 * k * (k + 1)) / (s.n - k - 1),
    bic: value + k * Math.log(s.n),
  };
}
