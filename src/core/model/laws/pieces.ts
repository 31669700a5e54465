import type { LeastSquares } from "../../numerics/least-squares";
import type { Grouping } from "../../numerics/mixed";
import type { FittedModel } from "../fitted";
import { type Pieces, reciprocalOf, withinTrials } from "../pieces";
import { criticalValues, piecePredictive, studentPredictive } from "../predictive";
import { gaussian } from "./gaussian";
import type { Law, LawInput } from "./law";
import { dfBeside, partsModel } from "./parts";
import { findParts, type Parts, type PartsFound, type Solved, solvedOf } from "./parts-solved";

/** Degrees of freedom that trials must leave for what they vary by to be told from them. */
const LEAST_BETWEEN = 1;

/**
 * Trials of units as a grouping of their own: the mean of n units times √n has variance σ_w² + nσ_b², each trial a
 * set-up that it carries by √n, and what units differ by within trials stands apart.
 */
function groupingOf(units: readonly (readonly number[])[]): { groups: Grouping; roots: number[] } {
  const roots = units.map((u) => Math.sqrt(u.length));
  const groups = {
    of: units.map((_, i) => i),
    sizes: units.map((u) => u.length),
    load: roots,
    apart: withinTrials(units),
  };
  return { groups, roots };
}

function modelOf(s: Solved, units: readonly (readonly number[])[]): FittedModel {
  const critical = criticalValues();
  const reciprocal = reciprocalOf(units);
  const { within } = s.parts;
  const between = Math.max(0, s.parts.between);
  const { w } = s.info;
  const known = s.n > s.p && within > 0;
  // A component that counts as 0 adds nothing to how sure the variance of new units is.
  const varianceOf = (b: number, own: number): number => {
    const a = between > 0 ? b : 0;
    return a * a * w[0][0] + 2 * a * own * w[0][1] + own * own * w[1][1];
  };
  const counts = units.map((u) => u.length);
  const pieces: Pieces = {
    variances: { between, within, varianceOf },
    reciprocal,
    dfWithin: s.groups.apart?.df ?? 0,
    unequal: { least: Math.min(...counts), most: Math.max(...counts), bounded: s.parts.between < 0 },
  };
  return partsModel(s, {
    law: "units",
    error: Math.sqrt(Math.max(0, s.parts.between + within * reciprocal)),
    strata: false,
    predictive(moments, row) {
      const trial = studentPredictive(moments, critical);
      const dfOf = (m: number, n: number): number => dfBeside(s, row, 1 / m, 1 / (m * n));
      return known ? piecePredictive(trial, { between, within }, dfOf, critical) : trial;
    },
    further: { setups: null, piecesOf: () => (known ? pieces : undefined) },
  });
}

/** Units on the fitted scale, by trials; undefined where some has no value there. */
function valuesOf({ design, link }: LawInput): number[][] | undefined {
  const values = (design.data.pieces ?? []).map((of) => of.map(link.forward));
  return values.every((of) => of.every(Number.isFinite)) ? values : undefined;
}

const partingOf = (values: readonly (readonly number[])[]): Parts => ({ ...groupingOf(values), least: LEAST_BETWEEN });

/**
 * Means of trials that were made of different numbers of units: variance σ_b² + σ_w²/n, the components by REML over
 * trials and units, generalised least squares, tests and intervals by Kenward & Roger (1997). Where a scale has no
 * value for some unit, trials weigh alike.
 */
export const pieces: Law<PartsFound | LeastSquares> = {
  id: "units",
  solve(input) {
    const values = valuesOf(input);
    return values ? findParts(input, partingOf(values)) : gaussian.solve(input);
  },
  model(input, found) {
    const values = valuesOf(input);
    return values && "parts" in found
      ? modelOf(solvedOf(input, partingOf(values), found), values)
      : gaussian.model(input, found as LeastSquares);
  },
};
