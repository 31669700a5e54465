import { resultValue } from "../study/measured";
import type { Response, Study } from "../study/schema";
import type { DoubtValues } from "../words/english/bench";
import type { Said } from "../words/said";

/** Results of other trials without which nothing is odd. */
const LEAST = 3;
/** How many of their spans a value may lie beyond them before it is asked about. */
const BEYOND = 1.5;
/** Within how many of their spans what may be meant lies. */
const NEAR = 0.5;

/** Slips of a keypad: the decimal point misplaced, the sign forgotten. */
const meant = (v: number): number[] => [v / 10, v * 10, v / 100, v * 100, v / 1000, v * 1000, -v];

/**
 * Why a result is doubted as it is typed: it cannot be, by the response's own bounds, or lies far from what other
 * trials gave; and what may be meant. Nothing where there is no doubt.
 *
 * @param trial id of the trial it is typed for, whose own values do not count
 */
export function doubtOf(study: Study, response: Response, value: number, trial: string): Said<DoubtValues> | undefined {
  const { unit = "", bounds, decimals } = response;
  const others = study.trials.flatMap((t) => {
    const v = t.id === trial ? null : resultValue(t.results[response.id], response);
    return v === null ? [] : [v];
  });
  const [low, high] = [Math.min(...others), Math.max(...others)];
  // Results that never differed say nothing of how far the next may lie; a tenth of their size does.
  const span = high - low || Math.abs(high) / 10;
  const possible = (v: number): boolean => v >= (bounds?.min ?? -Infinity) && v <= (bounds?.max ?? Infinity);
  const known = others.length >= LEAST && span > 0;
  const within = (v: number, far: number): boolean => v >= low - far * span && v <= high + far * span;
  // As it would be typed: without what division leaves behind.
  const suggestion = known
    ? meant(value)
        .map((v) => Number(v.toPrecision(12)))
        .filter((v) => possible(v) && within(v, NEAR))
        .sort((a, b) => Math.abs(a - (low + high) / 2) - Math.abs(b - (low + high) / 2))[0]
    : undefined;
  const about = { value, unit, ...(decimals === undefined ? {} : { decimals }), meant: suggestion ?? null };
  if (!possible(value))
    return { code: "cannot-be", values: { ...about, min: bounds?.min ?? null, max: bounds?.max ?? null } };
  if (known && !within(value, BEYOND)) return { code: "far", values: { ...about, low, high } };
  return undefined;
}
