import { pointModel } from "../appraisal/terms-info";
import { isNumeric, plannedRange, snap } from "../study/coding";
import { StudyError } from "../study/error";
import { isStanding } from "../study/roles";
import type { Factor, Settings, Study, Trial } from "../study/schema";
import { termSet } from "../terms/candidates";
import type { IsFollowUp } from "./kind";

/**
 * The latest wave of corners that is not itself a follow-up.
 * @throws StudyError `no-corners`
 */
export function cornersOf(study: Study, isFollowUp: IsFollowUp): { wave: Study["waves"][number]; trials: Trial[] } {
  const inWave = (t: Trial): boolean =>
    isStanding(t) && (t.kind === "factorial" || t.kind === "screen" || t.kind === "optimal");
  const wave = [...study.waves]
    .reverse()
    .find((w) => !isFollowUp(w.plan.family) && study.trials.filter((t) => t.wave === w.id && inWave(t)).length >= 4);
  if (!wave) throw new StudyError("no-corners", {}, ["waves"]);
  return { wave, trials: study.trials.filter((t) => t.wave === wave.id && inWave(t)) };
}

/** The opposite of a setting within the range its wave was planned with. */
export function opposite(study: Study, wave: string, f: Factor, value: number | string): number | string {
  if (!isNumeric(f)) return f.levels[0] === value ? f.levels[1] : f.levels[0];
  const [low, high] = plannedRange(study, wave, f);
  const turned = f.scale === "log" ? (low * high) / (value as number) : low + high - (value as number);
  return snap(f, turned, true);
}

/** How many main effects and pairs a set of points tells apart: the rank of their columns. */
export const tells = (study: Study, settings: readonly Settings[], waves: readonly string[]): number =>
  pointModel(study, { settings: [...settings], waves: [...waves] }, termSet(study, "main+2fi")).rank.rank;
