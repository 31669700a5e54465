import { kindOf } from "../kinds/results";
import { measuredResponses, settingsAsRun } from "../study/coding";
import { measuredValues } from "../study/measured";
import { isUsable } from "../study/roles";
import type { Response, Study } from "../study/schema";

/** Digits that must have agreed in all: fewer agree by chance where readings are rounded. */
const LEAST_DIGITS = 8;

/** Decimals that a value is given to. */
const decimalsOf = (v: number): number => (/\.(\d+)$/.exec(String(v))?.[1] ?? "").length;

/**
 * Whether a response comes out the same to the last digit whenever a trial is run again, as a computation does. Rounded
 * readings agree by chance, the likelier the fewer digits they have: what agreed must add up to eight digits of the
 * response's range, such as two repeats of four digits.
 */
export function isExact(study: Study, response: string): boolean {
  // What is counted agrees by chance: none of two hundred twice is no computation.
  const about = study.responses.find((r) => r.id === response);
  if (!about || !kindOf(about).several) return false;
  const first = new Map<string, number>();
  let again = 0;
  for (const trial of study.trials) {
    if (!isUsable(trial)) continue;
    const values = measuredValues(trial.results[response], about);
    if (values.length === 0) continue;
    const settings = settingsAsRun(trial);
    const at = JSON.stringify(study.factors.map((f) => settings[f.id]));
    const known = first.get(at);
    if (known === undefined) first.set(at, values[0]);
    again += values.length - (known === undefined ? 1 : 0);
    const expected = known ?? values[0];
    if (values.some((v) => v !== expected)) return false;
  }
  const values = [...first.values()];
  const [low, high] = values.reduce(
    ([a, b], v) => [Math.min(a, v), Math.max(b, v)],
    [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY],
  );
  if (again === 0 || !(high > low)) return false;
  const decimals = values.reduce((m, v) => Math.max(m, decimalsOf(v)), 0);
  return again * Math.log10((high - low) * 10 ** decimals) >= LEAST_DIGITS;
}

/** Measured responses that come out the same whenever a trial is run again. */
export const exactResponses = (study: Study): Response[] =>
  measuredResponses(study).filter((r) => isExact(study, r.id));

/** Whether all that was measured comes out the same: repeats would tell nothing then. */
export const allExact = (study: Study): boolean =>
  measuredResponses(study).length > 0 && measuredResponses(study).every((r) => isExact(study, r.id));
