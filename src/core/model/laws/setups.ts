import { generalised, groupingOf } from "../../numerics/mixed";
import type { FittedModel, Predictive, SupposedInterval } from "../fitted";
import { criticalValues, type Moments, studentPredictive } from "../predictive";
import type { Law, LawInput } from "./law";
import { dfBeside, partsModel } from "./parts";
import { findParts, type Parts, type PartsFound, type Solved, solvedOf } from "./parts-solved";

type Critical = FittedModel["critical"];

/** Degrees of freedom between set-ups below which their component is assumed, not estimated. */
const LEAST_BETWEEN = 2;

/** Where the mean of trials in new set-ups falls, so many in each. */
const overSetups =
  (s: Solved, row: Float64Array, { value, variance }: Moments, critical: Critical): Predictive["overSetups"] =>
  (confidence, sizes) => {
    if (variance === null) return null;
    const { between, within } = s.parts;
    const m = sizes.reduce((t, k) => t + k, 0);
    const a = sizes.reduce((t, k) => t + (k / m) ** 2, 0);
    const wide = Math.sqrt(variance + a * Math.max(0, between) + within / m);
    const half = critical(confidence, dfBeside(s, row, a, 1 / m)) * wide;
    return [value - half, value + half];
  };

/**
 * What stands between set-ups alone, where their variance is assumed: intervals were it a quarter of what is assumed,
 * as much, and four times.
 */
function supposedOf(s: Solved, confidence: number, critical: Critical): SupposedInterval[] {
  const { assumed, n, p } = s;
  if (assumed === undefined || n <= p) return [];
  const fits = [assumed / 4, assumed, 4 * assumed].map((ratio) => ({
    ratio,
    solution: generalised(s.groups, ratio, s.matrix, s.y).solution,
  }));
  return s.constant.flatMap((constant, column) => {
    if (!constant || column === 0) return [];
    return fits.map(({ ratio, solution: { coefficients, inverse, rss } }) => {
      const half = critical(confidence, n - p) * Math.sqrt((inverse.data[column * p + column] * rss) / (n - p));
      return { column, ratio, interval: [coefficients[column] - half, coefficients[column] + half] };
    });
  });
}

/** The model of what was solved. */
function modelOf(s: Solved): FittedModel {
  const { parts, n, p } = s;
  const known = n > p && parts.within > 0;
  const critical = criticalValues();
  return partsModel(s, {
    law: "setups",
    error: Math.sqrt(parts.within),
    strata: true,
    predictive: (moments, row) => ({
      ...studentPredictive(moments, critical),
      overSetups: overSetups(s, row, moments, critical),
    }),
    further: {
      piecesOf: () => undefined,
      setups: {
        between: parts.between,
        within: parts.within,
        ratio: s.strata ? parts.between / parts.within : s.fit.eta,
        bounded: parts.between < 0,
        setups: s.groups.sizes.length,
        betweenDf: s.betweenDf,
        ...(s.assumed === undefined ? {} : { assumed: s.assumed }),
        trialDf: known ? dfBeside(s, new Float64Array(p), 1, 1) : 0,
        supposed: (confidence) => supposedOf(s, confidence, critical),
      },
    },
  });
}

const partingOf = ({ design }: LawInput): Parts => ({
  groups: groupingOf(design.data.setups ?? []),
  least: LEAST_BETWEEN,
});

/**
 * Errors in two strata, a factor being hard to change: what set-ups vary by beside what trials of one do. Generalised
 * least squares at components by REML, tests by Kenward & Roger (1997).
 */
export const setups: Law<PartsFound> = {
  id: "setups",
  solve: (input) => findParts(input, partingOf(input)),
  model: (input, found) => modelOf(solvedOf(input, partingOf(input), found)),
};
