import type { Response } from "../study/schema";

type Counted = Pick<Response, "id" | "importance">;

/** Least and most that an importance may be, as a study keeps it. */
const LEAST = 0.001;
const MOST = 100;

/** To five figures: finer than anyone can mean, and free of what arithmetic leaves. */
const kept = (v: number): number => Number(Math.max(LEAST, Math.min(MOST, v)).toPrecision(5));

/** How much each response counts, as a share of all; they add up to 1. */
export function importanceShares(responses: readonly Counted[]): number[] {
  const all = responses.reduce((t, r) => t + r.importance, 0);
  return responses.map((r) => (all > 0 ? r.importance / all : 0));
}

/** The same in whole per cent that add up to 100: what rounding leaves over goes where it is largest (Hamilton). */
export function importancePercents(responses: readonly Counted[]): number[] {
  const exact = importanceShares(responses).map((s) => 100 * s);
  const whole = exact.map(Math.floor);
  const left = Math.round(exact.reduce((t, v) => t + v, 0)) - whole.reduce((t, v) => t + v, 0);
  const next = [...exact.keys()].sort((a, b) => exact[b] - whole[b] - (exact[a] - whole[a]) || a - b);
  for (const i of next.slice(0, left)) whole[i]++;
  return whole;
}

/**
 * The importances that give one response a share, the others keeping theirs among themselves.
 *
 * @param share above 0 and below 1
 */
export function withImportanceShare(responses: readonly Counted[], id: string, share: number): Map<string, number> {
  const rest = responses.filter((r) => r.id !== id).reduce((t, r) => t + r.importance, 0);
  const wanted = (rest * share) / (1 - share);
  // Where one importance would have to leave what may be kept, the others make room for it.
  const scale = Math.min(1, MOST / wanted);
  return new Map(responses.map((r) => [r.id, kept(scale * (r.id === id ? wanted : r.importance))]));
}

/**
 * The importances after the seam between a response and the next is moved: what one gains the other gives.
 *
 * @param by share of all, towards the end where it is positive
 */
export function moveSeam(responses: readonly Counted[], at: number, by: number): Map<string, number> {
  const all = responses.reduce((t, r) => t + r.importance, 0);
  const [a, b] = [responses[at], responses[at + 1]];
  const both = a.importance + b.importance;
  // Neither goes below a hundredth of what the two have: one that counts nothing is watched instead.
  const moved = Math.max(both / 100, Math.min((99 * both) / 100, a.importance + by * all));
  return new Map([
    [a.id, kept(moved)],
    [b.id, kept(both - moved)],
  ]);
}
