import type { Law } from "../../model/laws/law";
import { modelByNormalEquations } from "./normal-equations";

/**
 * A law for tests: every trial's variance is known beforehand, here v of the first factor's setting; one new trial has
 * variance `noise`. Estimates by weights 1/v, z in place of t.
 */
export const knownVariances = (variance: (trial: number) => number, noise: number): Law => ({
  id: "known-variances",
  solve: () => undefined,
  model(input) {
    const weights = input.observed.map((_, i) => 1 / variance(i));
    return modelByNormalEquations("known-variances", input, weights, () => ({
      covariance: (_, inverse) => inverse,
      dfOf: () => null,
      noise,
      dfTrial: null,
    }));
  },
});
