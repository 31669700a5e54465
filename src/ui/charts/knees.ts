import type { Goal } from "@/core/study";

/** A place of a goal that a person can move. */
export interface Knee {
  key: "low" | "target" | "high";
  at: number;
}

/** Where a goal's knees stand, from low to high. */
export const kneesOf = (goal: Goal): Knee[] => {
  if (goal.aim === "watch") return [];
  const ends: Knee[] = [
    { key: "low", at: goal.low },
    { key: "high", at: goal.high },
  ];
  return (goal.aim === "hit" || goal.aim === "within") && goal.target !== undefined
    ? [ends[0], { key: "target", at: goal.target }, ends[1]]
    : ends;
};

/**
 * Where a knee may be let go: on a grain that people write, short of its neighbours.
 *
 * @returns undefined where it would pass one
 */
export function kneeAt(goal: Exclude<Goal, { aim: "watch" }>, key: Knee["key"], raw: number): number | undefined {
  const grain = 10 ** Math.floor(Math.log10(goal.high - goal.low) - 1.3);
  const value = Number((Math.round(raw / grain) * grain).toPrecision(8));
  const knees = kneesOf(goal);
  const i = knees.findIndex((k) => k.key === key);
  const below = knees[i - 1]?.at ?? Number.NEGATIVE_INFINITY;
  const above = knees[i + 1]?.at ?? Number.POSITIVE_INFINITY;
  return value > below && value < above ? value : undefined;
}
