import type { Design } from "../design";
import type { FittedModel, Link } from "../fitted";

/** What a law fits. */
export interface LawInput {
  design: Design;
  /** Results on the scale of `link`, one per trial of the design. */
  observed: readonly number[];
  link: Link;
  /** Unit of the fitted scale, where it has one. */
  units: string | undefined;
}

/** How errors fall, and so how a model is fitted and judged. A new law is a file beside this one and its tests. */
export interface Law {
  id: string;
  fit(input: LawInput): FittedModel;
}
