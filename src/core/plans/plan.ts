import type { Random } from "../numerics/random";
import type { Recipe, Settings, Study, TrialKind } from "../study/schema";

/** What a person asks of a family. Counts as in the contract: base runs, copies in all, centre points in all, blocks. */
export interface PlanOptions {
  family: string;
  trials?: number;
  replicates?: number;
  centre?: number;
  blocks?: number;
  generators?: string;
  seed?: number;
  standardOrder?: boolean;
  snap?: boolean;
}

/** Base runs as a family gives them, in standard order, before replicates, centre points and randomising. */
export interface BasePlan {
  /** −1 … 1 (past it for axial points) for numeric factors, level names for categories. */
  points: Settings[];
  kind: TrialKind;
  /** Block of each point, from 0; left out when there is one block. */
  blocks?: number[];
  /** Generators that made it, in the study's letters. */
  generators?: string;
}

/** One family of plans: a file in `families/` and a line in `families/index.ts`. */
export interface PlanFamily {
  id: string;
  /** Name on screen. */
  label: string;
  /** The reason why this family cannot serve the study, in one sentence; undefined when it can. */
  unfit(study: Study): string | undefined;
  /** Base run counts on offer, ascending. */
  sizes(study: Study): number[];
  /**
   * Base runs.
   * @throws StudyError with a sentence when the options cannot be met
   */
  build(study: Study, options: PlanOptions, random: Random): BasePlan;
}

export interface PlannedTrial {
  id: string;
  standard: number;
  order: number;
  wave: string;
  kind: TrialKind;
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
  /** Runs left out because the region excludes them. */
  lost: number;
}
