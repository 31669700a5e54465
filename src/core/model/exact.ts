import { measuredResponses, settingsAsRun } from "../study/coding";
import type { Response, Result, Study } from "../study/schema";
import { counts } from "./data";

const valuesOf = (r: Result | undefined): number[] =>
  r === undefined || r === null ? [] : (Array.isArray(r) ? r : [r]).filter((v): v is number => v !== null);

/**
 * Whether a response comes out the same to the last digit whenever a trial is run again, as a computation does: at
 * least two results of equal settings, none of which differ, while others do.
 */
export function isExact(study: Study, response: string): boolean {
  const first = new Map<string, number>();
  let again = 0;
  for (const trial of study.trials) {
    if (!counts(trial)) continue;
    const values = valuesOf(trial.results[response]);
    if (values.length === 0) continue;
    const settings = settingsAsRun(trial);
    const at = JSON.stringify(study.factors.map((f) => settings[f.id]));
    const known = first.get(at);
    if (known === undefined) first.set(at, values[0]);
    again += values.length - (known === undefined ? 1 : 0);
    const expected = known ?? values[0];
    if (values.some((v) => v !== expected)) return false;
  }
  return again > 0 && new Set(first.values()).size > 1;
}

/** Measured responses that come out the same whenever a trial is run again. */
export const exactResponses = (study: Study): Response[] =>
  measuredResponses(study).filter((r) => isExact(study, r.id));

/** Whether all that was measured comes out the same: repeats would tell nothing then. */
export const allExact = (study: Study): boolean =>
  measuredResponses(study).length > 0 && measuredResponses(study).every((r) => isExact(study, r.id));
