import type { Random } from "../numerics/random";
import type { Recipe, Settings, Study, Term, TrialKind } from "../study/schema";
import type { TermSetName } from "../terms/candidates";

/** What a person asks of a family. Counts as in the contract: base runs, copies in all, centre points in all, blocks. */
export interface PlanOptions {
  family: string;
  trials?: number;
  replicates?: number;
  centre?: number;
  blocks?: number;
  generators?: string;
  /** Composite: `rotatable`, `spherical`, `face`, `orthogonal-blocks`, or the coded distance itself. */
  axial?: string | number;
  /** Composite: the whole plan drawn in until its axial points stand at low and high. */
  shrink?: boolean;
  /** Full factorials and arrays: levels of continuous factors, such as `3` or `temp=3,dose=2`. */
  levels?: string;
  /** Plackett–Burman: every run also with all signs turned round. */
  foldOver?: boolean;
  /** Built for a model: what it must estimate. */
  terms?: TermSetName | Term[];
  criterion?: "D" | "A" | "I";
  /** Least aliasing: terms that may be there though the model leaves them out. */
  possible?: TermSetName | Term[];
  /** Least aliasing: share of the best D-efficiency that must be kept. */
  keepEfficiency?: number;
  /** Random starts of a search. */
  starts?: number;
  /** Built for a model: the study's own trials count as runs already made. */
  keep?: boolean;
  seed?: number;
  standardOrder?: boolean;
  snap?: boolean;
}

/** Base runs as a family gives them, in standard order, before replicates, centre points and randomising. */
export interface BasePlan {
  /** −1 … 1 (past it for axial points) for numeric factors, level names for categories. */
  points: Settings[];
  kind: TrialKind;
  /** Kind of each point, where they differ. */
  kinds?: TrialKind[];
  /** Block of each point, from 0; left out when there is one block. */
  blocks?: number[];
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

/** One family of plans: a file in `families/` and a line in `families/index.ts`. */
export interface PlanFamily {
  id: string;
  /** Name on screen. */
  label: string;
  /** The reason why this family cannot serve the study, in one sentence; undefined when it can. */
  unfit(study: Study): string | undefined;
  /** Base run counts on offer, ascending. */
  sizes(study: Study): number[];
  /** It keeps to the region by itself; others lose the runs that the region excludes. */
  keepsRegion?: boolean;
  /** It searches: takes seconds, not milliseconds. */
  searches?: boolean;
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
