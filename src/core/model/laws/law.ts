import type { Study } from "../../study/schema";
import type { Design } from "../design";
import type { FewCounted, FittedModel, Link } from "../fitted";
import type { ModelData } from "../model-data";

/** What is decided once for a response, on the largest model that its trials can tell. */
export interface LargestModel {
  /** Why likelihoods carry Firth's penalty; none where they do not. */
  firth?: FewCounted;
  /** Dispersion that criteria go by; null where nothing is left to estimate it. */
  dispersion: number | null;
  /** Scatter beyond counting (ρ or κ) that criteria go by. */
  extra: number;
}

/** What a law fits. */
export interface LawInput {
  design: Design;
  /** Results on the scale of `link`, one per trial of the design. */
  observed: readonly number[];
  link: Link;
  /** Unit of the fitted scale, where it has one. */
  unit: string | undefined;
  /** Variance between set-ups over that within, where set-ups are too few to tell it; 1 unless said. */
  eta?: number | undefined;
  /** What was decided on the largest model, for laws that judge by one. */
  judged?: LargestModel | undefined;
}

/**
 * How errors fall, and so how a model is fitted and judged. A new law is a file beside this one and its tests.
 *
 * `S` is what its search finds: plain data, so that one thread can hand it to another, which then has the same model
 * without searching again.
 */
export interface Law<S = unknown> {
  id: string;
  /** The scale it is fitted on, where that is the law's own and no transform is taken. */
  link?: Link;
  /** What it is fitted on, where that is not a result on the scale of `link`. */
  observe?(data: ModelData): number[];
  /** Trials of one set-up are apart from each other like any others. */
  singly?: true;
  /** Decides what is decided once, on the design of the largest model. */
  judge?(study: Study, largest: Design): LargestModel;
  /** Searches for what fits best. */
  solve(input: LawInput): S;
  /** Every figure of what was found for the same input. */
  model(input: LawInput, found: S): FittedModel;
}

/** Where a design has columns that a smaller one has not. */
export function columnsBeyond({ columns }: Design, smaller: Pick<FittedModel, "columns">): number[] {
  const kept = new Set(smaller.columns.map((c) => `${c.key}|${c.index}`));
  return columns.flatMap((c, j) => (kept.has(`${c.key}|${c.index}`) ? [] : [j]));
}
