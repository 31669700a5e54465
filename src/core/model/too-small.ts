import { chiSquaredQuantile } from "../numerics/distributions";
import type { Study } from "../study/schema";
import type { Fit } from "./fit";
import { hasSquares } from "./fitted";

/** Below this share of what chi-squared allows, a residual is too small for the noise there is. */
const TOO_SMALL = 0.025;

/** A residual that is smaller than the noise there is allows: a model that follows noise. */
export interface TooSmall {
  s: number;
  /** Standard deviation of the noise, and where it is known from. */
  noise: number;
  from: "stated" | "copies";
}

/**
 * Whether what a model leaves lies below what its degrees of freedom allow of the noise that is stated, or of that
 * between copies (their own χ² interval).
 */
export function tooSmall(study: Study, fit: Fit): TooSmall | undefined {
  const { summary, link } = fit.model;
  const { residualDf: df } = summary;
  if (!hasSquares(summary) || summary.s === null || df < 1 || fit.model.exact) return undefined;
  const s2 = summary.s ** 2;
  const stated = study.responses.find((r) => r.id === fit.response)?.noise;
  if (stated !== undefined && link.identity && s2 < (stated ** 2 * chiSquaredQuantile(TOO_SMALL, df)) / df)
    return { s: summary.s, noise: stated, from: "stated" };
  const pure = fit.lackOfFit;
  if (!pure || pure.pureErrorSs === null || !(pure.pureErrorSs > 0) || pure.approximate) return undefined;
  // The least that the variance of copies may be, by theirs alone.
  const least = pure.pureErrorSs / chiSquaredQuantile(1 - TOO_SMALL, pure.pureErrorDf);
  return s2 < least
    ? { s: summary.s, noise: Math.sqrt(pure.pureErrorSs / pure.pureErrorDf), from: "copies" }
    : undefined;
}
