import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { DoubtValues } from "../messages/operator";
import { resultValue } from "../study/measured";
import type { Response, Study } from "../study/schema";

/** Results of other trials without which nothing is odd. */
const LEAST = 3;
/** How many of their spans a value may lie beyond them before it is asked about. */
const BEYOND = 1.5;
/** How many spans of what was expected a value of the first trials may lie beyond it. */
const BEYOND_EXPECTED = 5;
/** The least span of what is expected, in standard deviations of the noise. */
const OF_NOISE = 10;
/** Within how many of their spans what may be meant lies. */
const NEAR = 0.5;

/** Slips of a keypad: the decimal point misplaced, the sign forgotten. */
const meant = (v: number): number[] => [v / 10, v * 10, v / 100, v * 100, v / 1000, v * 1000, -v];

/** Where results are expected before there are any: far around the limits of the aim; nothing where none are stated. */
function likelyRange({ goal, noise = 0 }: Response): [number, number] | undefined {
  if (goal.aim === "watch") return undefined;
  const far = BEYOND_EXPECTED * Math.max(goal.high - goal.low, OF_NOISE * noise);
  return [Number((goal.low - far).toPrecision(3)), Number((goal.high + far).toPrecision(3))];
}

/** Where results are expected, by response: all that a bench need know of what is wanted of them. */
export type LikelyRanges = Readonly<Record<string, readonly [number, number]>>;
/** Where results are expected of each measured response that has an aim with limits; counted ones left out. */
export const likelyRanges = (study: Study): LikelyRanges =>
  Object.fromEntries(
    study.responses.flatMap((r) => {
      const range = likelyRange(r);
      return range && kindOf(r).several ? [[r.id, range] as const] : [];
    }),
  );

/**
 * Why a result is doubted as it is typed: it cannot be, by the response's own bounds, or lies far from what other
 * trials gave; and what may be meant. While there are few others, where results are expected counts, else whether the
 * few are near. Nothing where there is no doubt.
 *
 * @param trial id of the trial it is typed for, whose own values do not count
 * @param likely where results are expected, which a bench is told without the aims
 */
export function doubtOf(
  study: Study,
  response: Response,
  value: number,
  trial: string,
  likely: readonly [number, number] | undefined = likelyRange(response),
): Message<DoubtValues> | undefined {
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
  const expected = (v: number): boolean => likely === undefined || (v >= likely[0] && v <= likely[1]);
  // Of one or two others: not the same size at all.
  const unlike = (v: number): boolean =>
    others.length > 0 &&
    others.every(
      (o) => o !== 0 && (v / o > BEYOND_EXPECTED || v / o < -1 / BEYOND_EXPECTED || (v / o >= 0 && v / o < 1 / 20)),
    );
  // As it would be typed: without what division leaves behind.
  const [from, to] = known || !likely ? [low, high] : likely;
  const near = (v: number): boolean => (known ? within(v, NEAR) : likely ? expected(v) : !unlike(v));
  const suggestion =
    known || likely || others.length > 0
      ? meant(value)
          .map((v) => Number(v.toPrecision(12)))
          .filter((v) => possible(v) && near(v))
          .sort((a, b) => Math.abs(a - (from + to) / 2) - Math.abs(b - (from + to) / 2))[0]
      : undefined;
  const about = { value, unit, ...(decimals === undefined ? {} : { decimals }), meant: suggestion ?? null };
  if (!possible(value))
    return { code: "cannot-be", values: { ...about, min: bounds?.min ?? null, max: bounds?.max ?? null } };
  if (known) return within(value, BEYOND) ? undefined : { code: "far", values: { ...about, low, high } };
  if (likely)
    return expected(value) ? undefined : { code: "unexpected", values: { ...about, low: likely[0], high: likely[1] } };
  if (unlike(value)) return { code: "unlike-first", values: { ...about, others } };
  return undefined;
}
