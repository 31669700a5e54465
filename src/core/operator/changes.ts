import { sameSetting, settingsAsRun } from "../study/coding";
import { activeFactors, isHard } from "../study/roles";
import type { Factor, Setting, Study, Trial } from "../study/schema";

/** A factor of a trial: from what it is set, and whether it moves at all. */
export interface SettingChange {
  factor: Factor;
  /** Nothing where no trial came before. */
  from: Setting | undefined;
  to: Setting;
  changes: boolean;
  /** A new set-up begins: it is set anew even where it shows the same. */
  reset: boolean;
}

/** Whether there is something to do for it. */
export const toSet = (c: SettingChange): boolean => c.changes || c.reset;

const sameSetup = (a: Trial, b: Trial): boolean => a.wave === b.wave && a.setup === b.setup;

/** What has to be set for a trial after another: what moves first, then what stays. */
export function settingChanges(study: Study, before: Trial | undefined, trial: Trial): SettingChange[] {
  const was = before && settingsAsRun(before);
  const anew = before !== undefined && trial.setup !== undefined && !sameSetup(before, trial);
  const all = activeFactors(study).map((factor): SettingChange => {
    const from = was?.[factor.id];
    const to = trial.settings[factor.id];
    const changes = from === undefined || !sameSetting(factor, from, to);
    return { factor, from, to, changes, reset: anew && isHard(factor) };
  });
  return [...all.filter(toSet), ...all.filter((c) => !toSet(c))];
}

/** A hard factor is worth many easy ones. */
const HARD = 20;

const costOf = (changes: readonly SettingChange[]): number =>
  changes.reduce((t, c) => t + (toSet(c) ? (isHard(c.factor) ? HARD : 1) : 0), 0);

/** Trials in the order in which they are to be run. */
export const inRunOrder = (study: Study): Trial[] => [...study.trials].sort((a, b) => a.order - b.order);

/**
 * The trial to run next: the first that waits in run order, or, where least change is asked for, the one that moves
 * fewest settings from where the machine stands, hard ones last.
 */
export function nextToRun(study: Study, before: Trial | undefined, leastChange: boolean): Trial | undefined {
  const waiting = inRunOrder(study).filter((t) => t.state === "planned");
  if (!leastChange || !before) return waiting[0];
  let best: { trial: Trial; cost: number } | undefined;
  for (const trial of waiting) {
    const cost = costOf(settingChanges(study, before, trial));
    if (!best || cost < best.cost) best = { trial, cost };
  }
  return best?.trial;
}
