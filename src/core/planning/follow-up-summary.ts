import type { FollowOptions } from "../follow-up/options";
import type { Message } from "../messages/message";
import type { WaveNameValues, WhyValues } from "../messages/waves";
import type { Term } from "../study/schema";

/** What can be told of a set of trials, in the few figures a person weighs. */
export interface Estimability {
  /** Asked terms that can be estimated, and of these the ones clear of every other. */
  estimable: number;
  clear: number;
  /** Smallest main effect or interaction seen, in σ. */
  ratio: number | null;
  /** Root mean prediction variance over the region, in σ, of the terms that can be estimated. */
  meanError: number | null;
}

/** What a wave that follows would tell, beside what its trials cost. */
export interface FollowUpSummary {
  kind: string;
  /** It carries on some factors alone. */
  narrows?: true;
  /** What it is called, by its code. */
  name: keyof WaveNameValues;
  /** Its place among the waves on offer: what the study needs most comes first. */
  place: number;
  options: FollowOptions;
  purpose: string;
  /** Why the study needs it now; none when it is there for choice alone. */
  why?: Message<WhyValues>;
  cautions: string[];
  /** Effects asked about. */
  asked: number;
  before: Estimability;
  after: Estimability;
  /** Pairs of asked terms that travelled together before and do not after. */
  parted: Term[][];
}
