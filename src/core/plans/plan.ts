import type * as z from "zod";
import type { Message } from "../messages/message";
import type { Family, UnfitValues } from "../messages/remarks";
import type { Random } from "../numerics/random";
import type { Factor, Recipe, Settings, Study, Term, TrialKind } from "../study/schema";
import type { TermSetName } from "../terms/candidates";
import type { PlanOptions } from "./options";

/** Base runs as a family gives them, in standard order, before replicates, centre points and randomising. */
export interface BasePlan {
  /** −1 … 1 (past it for axial points) for numeric factors, level names for categories. */
  points: Settings[];
  kind: TrialKind;
  /** Kind of each point, where they differ. */
  kinds?: TrialKind[];
  /** Block of each point, from 0; left out when there is one block. */
  blocks?: number[];
  /** Set-up of the hard factors of each point, from 0, where the family sets them apart itself. */
  setups?: number[];
  /** What the family settled itself, so that the recipe makes the same plan again. */
  recipe?: Partial<Recipe>;
}

/** How far the making of a plan is: families that search tell it as they go. */
export interface PlanProgress {
  done: number;
  text: string;
  /** D-, A- or I-efficiency, or the alias trace, of the best so far. */
  best?: { measure: string; value: number };
}

/** What plans are asked to tell and at what price, as far as a family's offer depends on it. */
export interface OfferRequest {
  terms: TermSetName | Term[];
  budget: number;
  replicates: number;
  centre: number;
  blocks: number;
  /** Most set-ups of the hard factors, and most trials of one; as a plan needs them unless said. */
  setups?: number;
  setupSize?: number;
  /** Variance between set-ups over that within; 1 unless said. */
  eta?: number;
}

/**
 * One family of plans: a file in `families/` and a line in `families/index.ts`. What it takes, what it offers and how
 * it is named stand here once; chart, form, command and HTTP read it off.
 */
export interface PlanFamily {
  id: string;
  /** Name on screen. */
  label: string;
  /** What one of its plans is called as the subject of a sentence; its label unless said. */
  subject?: string;
  /** Options besides the common ones, each with its schema, its words and (in `controls`) the control that asks for it. */
  options: z.ZodRawShape;
  /** Which lists of terms its search uses. */
  uses?: readonly ("terms" | "possible")[];
  /** Why the number of trials cannot be left out with these options; undefined when it can. */
  needsTrials?(options: PlanOptions): boolean;
  /** Terms its plans are made to tell, for an appraisal that names none. */
  purpose(options: PlanOptions): TermSetName | Term[];
  /** Terms its trials can tell beyond those, which a model of them weighs too; its purpose unless said. */
  tells?: TermSetName;
  /** What its own options say, for a label in the chart. */
  words?(options: PlanOptions): (string | undefined)[];
  /** Why this family cannot serve the study; undefined when it can. */
  unfit(study: Study): Message<UnfitValues> | undefined;
  /** Base run counts on offer, ascending. */
  sizes(study: Study): number[];
  /** What it puts into the chart; every size once, unless said. */
  offers?(study: Study, request: OfferRequest): Partial<PlanOptions>[];
  /** It keeps to the region by itself; others lose the runs that the region excludes. */
  keepsRegion?: boolean;
  /** It searches: takes seconds, not milliseconds. */
  searches?: boolean;
  /** It gives up sharpness for less aliasing, as far as `keepEfficiency` says. */
  trades?: true;
  /** How it carries on factors whose corners were run: which it suits, and with how many centre points. */
  carries?: { suits(factors: readonly Factor[]): boolean; centre: number };
  /**
   * Base runs; a family that searches does so as a generator that yields progress and ends early, with the best so
   * far, when `true` is sent to it.
   * @throws StudyError with a sentence when the options cannot be met
   */
  build(
    study: Study,
    options: PlanOptions,
    random: Random,
  ): BasePlan | Generator<PlanProgress, BasePlan, boolean | undefined>;
}

/** A family whose `build` and `words` see their own options with their types. */
export function defineFamily<O extends z.ZodRawShape>(
  family: Omit<PlanFamily, "options" | "build" | "words" | "needsTrials"> & {
    options: O;
    needsTrials?(options: PlanOptions & z.output<z.ZodObject<O>>): boolean;
    words?(options: PlanOptions & z.output<z.ZodObject<O>>): (string | undefined)[];
    build(
      study: Study,
      options: PlanOptions & z.output<z.ZodObject<O>>,
      random: Random,
    ): ReturnType<PlanFamily["build"]>;
  },
): PlanFamily {
  return family as unknown as PlanFamily;
}

/** A trial before it has its place in the order. */
export interface Run {
  settings: Settings;
  kind: TrialKind;
  block: number;
  /** Which of the plan's set-ups of the hard factors it belongs to, where they are set apart already. */
  setup?: number;
  /** Its number in standard order within its block, where the runs come in another. */
  standard?: number;
}

export interface PlannedTrial {
  id: string;
  standard: number;
  order: number;
  wave: string;
  kind: TrialKind;
  /** Set-up of the hard factors within its wave, from 1, where there are any. */
  setup?: number;
  settings: Settings;
  coded: Settings;
}

/** A set of trials proposed, not yet adopted. */
export interface Plan {
  family: string;
  seed: number;
  recipe: Recipe;
  /** One wave per block: id and name. */
  waves: { id: string; name: string; recipe: Recipe }[];
  trials: PlannedTrial[];
  /** How many runs were left out because the region excludes them. */
  excluded: number;
}

/** A family as sentences speak of it; plain data, since refusals go from thread to thread. */
export const spokenOf = ({ label, subject = label }: PlanFamily): Family => ({ subject });
