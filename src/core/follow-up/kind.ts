import type * as z from "zod";
import type { ErrorValues } from "../messages/errors";
import type { Message } from "../messages/message";
import type { WaveNameValues, WhyValues } from "../messages/waves";
import type { Fit } from "../model/fit";
import type { Rung } from "../model/ladder";
import type { Plan, PlanProgress } from "../plans/plan";
import type { Beyond } from "../study/beyond";
import type { Factor, Response, Study, Term } from "../study/schema";
import type { TermSetName } from "../terms/candidates";
import type { FollowOptions, FollowRuns } from "./options";

/** A next wave to be looked at, with the reason where the study gives one. */
export interface FollowOffer {
  options: FollowOptions;
  name: Message<WaveNameValues>;
  why?: Message<WhyValues>;
  /** Limits to be stated before it can be planned, where it would leave the ranges. */
  open?: readonly Beyond[];
}

/** The same with its place among all: what a study needs now before what may be chosen. */
export interface PlacedOffer extends FollowOffer {
  place: number;
  /** Not where the same kind of wave is on offer already. */
  also?: true;
}

/** What each modelled response says of its terms. */
export interface Modelled {
  name: string;
  fit: Fit;
  active: Rung[];
}

/** A response to climb for. */
export interface Climbing {
  response: Response;
  /** The best within the ranges does not reach its limit. */
  short: boolean;
  /** Limits to be stated first, where the path cannot leave the ranges before. */
  open: readonly Beyond[];
}

/** What a study gives to think of its next wave, worked out once for all kinds of it. */
export interface Evidence {
  study: Study;
  /** In use; of these the numbers that have a middle. */
  factors: readonly Factor[];
  numeric: readonly Factor[];
  said: readonly Modelled[];
  /** Active terms that cannot be told from others: interactions and the like, and squares. */
  chained: readonly (Modelled & { rung: Rung })[];
  bends: readonly (Modelled & { rung: Rung })[];
  /** A response whose waves differ where the centre ran in a wave of its own; one whose centre lies off the corners. */
  mixed: Modelled | undefined;
  bent: Modelled | undefined;
  climbs: readonly Climbing[];
  /** Results are computed: nothing scatters. */
  exact: boolean;
  /** Factors that a person wants carried on, in place of those that look active. */
  toCarry: readonly string[] | undefined;
  /** Whether trials with a following wave would tell these terms from one another. */
  parts(options: FollowOptions, terms: readonly Term[]): boolean;
}

/** Whether a wave of this family follows others. */
export type IsFollowUp = (family: string) => boolean;

/**
 * A kind of wave that follows what was run. One is a file in `kinds/` and a line in their list: next waves, Plan, the
 * command, HTTP and recipes find it there.
 */
export interface FollowUpKind {
  id: string;
  /** What a wave of it is for. */
  purpose: string;
  /** Options of its own, beside those of every kind; one that no other names is refused elsewhere. */
  options?: z.ZodRawShape;
  /** What it cannot be asked without. */
  missing?(options: FollowOptions): Message<ErrorValues> | undefined;
  /**
   * Options with what only models know.
   * @throws StudyError where no model knows it
   */
  complete?(study: Study, options: FollowOptions): FollowOptions;
  /** It may be the first wave. */
  alone?: true;
  /** How its trials fall into set-ups is its own affair. */
  ownSetups?: true;
  /** It asks nothing of factors that it does not carry on. */
  narrows?: true;
  /** Terms it is judged by where none are asked: main effects unless said. */
  terms?: TermSetName;
  /** Waves of it that a study may need, or may be given. */
  offered(evidence: Evidence): PlacedOffer[];
  /**
   * Its runs; a kind that searches for them makes the plan itself, and ends early with the best so far.
   * @throws StudyError where the study's trials do not allow it, with the way out
   */
  make:
    | { runs(study: Study, options: FollowOptions, isFollowUp: IsFollowUp): FollowRuns }
    | { search(study: Study, options: FollowOptions): Generator<PlanProgress, Plan, boolean | undefined> };
}
