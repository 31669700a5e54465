import type { Response } from "../study/schema";

/** How a counted response is expected to behave, for planning. */
export interface CountedPlan {
  /** Id of the kind. */
  kind: string;
  /** Pieces, or exposure, of a trial. */
  of: number;
  /** Share or rate with every factor in its middle. */
  base: number;
  /** Variance between trials over that of counting, at that many pieces; 1 where pieces are independent. */
  excess: number;
  /** Pieces are taken for independent: tests are by chi-squared, whatever the number of trials. */
  counting: boolean;
}

/** How power is worked out for a kind whose noise goes with its mean, and with how much a trial counts. */
export interface KindPlanning {
  /** Whole pieces alone are counted on. */
  whole: boolean;
  /** Scatter beyond counting (ρ or κ) that an expected excess stands for. */
  extraOf(plan: CountedPlan): number;
  /**
   * Variance over that of counting with other numbers of pieces: with more of them the scatter between trials weighs
   * more, 1 + (n − 1)ρ of shares and 1 + κμ of counts.
   */
  excessAt(plan: CountedPlan, of: number): number;
  /** Half the change of the linear predictor, about the base, that makes a change of share or rate from low to high. */
  halfChange(base: number, change: number): number;
  /**
   * Change of the linear predictor from the base up by this much, or down where that leaves what a share may be; the
   * farther of both where neither way is so far.
   */
  edgeChange(base: number, change: number): number;
  /** Largest change that is looked at. */
  mostChange(base: number): number;
  /**
   * Variance of one trial within its set-up on the scale it is fitted on, this far from the base on the link: to first
   * order that of an empirical logit or of the logarithm of a rate (Anscombe 1956), with what trials scatter beyond it.
   */
  varianceAt(plan: CountedPlan, of: number, from: number): number;
}

/** How a response says that it will be counted; undefined where it says too little. */
export function planFrom(kind: string, { of, base, excess, scatter }: Response): CountedPlan | undefined {
  if (of === undefined || base === undefined) return undefined;
  const counting = scatter === "counting";
  return { kind, of, base, excess: counting ? 1 : (excess ?? 1), counting };
}
