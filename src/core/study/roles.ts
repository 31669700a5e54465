import { roleOf } from "./factor-roles";
import type { Factor, NumericFactor, Setting, Settings, Study, Trial } from "./schema";

/**
 * What a factor is for and how it stands, and whether a trial counts: nobody else reads the fields behind this.
 */

type Factors = Pick<Study, "factors">;

/** Whether plans set a factor and models may name it; else it is held at a setting. */
export const isActive = (factor: Factor): boolean => roleOf(factor).inTrials;

/** What a factor is held at that takes no part; nothing for one that does. */
export const heldAt = (factor: Factor): Setting | undefined => roleOf(factor).heldAt?.(factor);

/** Whether a factor stays over the trials of a set-up. */
export const isHard = ({ change }: Pick<Factor, "change">): boolean => change === "hard";

/** How far off a factor may be set, in its unit. */
export const toleranceOf = ({ tolerance }: Pick<Factor, "tolerance">): number => tolerance ?? 0;

/** Factors that take part: those not retired. */
export const activeFactors = ({ factors }: Factors): Factor[] => factors.filter(isActive);

/** Factors that are set in trials and not chosen afterwards: what comes of settings is averaged over them. */
export const averagedFactors = (study: Factors): Factor[] =>
  activeFactors(study).filter((f) => roleOf(f).afterwards === "averaged");

/** What retired factors are held at, by id. */
export const heldSettings = ({ factors }: Factors): Settings =>
  Object.fromEntries(
    factors.flatMap((f) => {
      const held = heldAt(f);
      return held === undefined ? [] : [[f.id, held]];
    }),
  );

/** Factors that take part and are not reset for every trial. */
export const hardFactors = (study: Factors): Factor[] => activeFactors(study).filter(isHard);

/** Numbers that take part and may be set a little off. */
export const wobblingFactors = (study: Factors): NumericFactor[] =>
  activeFactors(study).filter((f): f is NumericFactor => f.kind !== "categorical" && toleranceOf(f) > 0);

/** Whether a trial was run or waits to be: neither skipped nor failed. */
export const isStanding = ({ state }: Pick<Trial, "state">): boolean => state !== "skipped" && state !== "failed";

/** Whether a trial's results may enter models. */
export const isUsable = (trial: Pick<Trial, "state" | "use">): boolean => trial.use && isStanding(trial);
