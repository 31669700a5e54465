import type { Goal, Response } from "../study/schema";

/**
 * Desirability of one value (Derringer & Suich 1980): 0 … 1, ends inclusive. Values come unclipped from the model.
 * A watched response has none.
 */
export function desirability(goal: Goal, y: number): number | null {
  switch (goal.aim) {
    case "watch":
      return null;
    case "raise":
      return ramp(y, goal.low, goal.high, goal.weight ?? 1);
    case "lower":
      return ramp(-y, -goal.high, -goal.low, goal.weight ?? 1);
    case "hit":
    case "within": {
      const { low, high, target } = goal;
      if (target === undefined) return y >= low && y <= high ? 1 : 0;
      if (y === target) return 1;
      return y < target ? ramp(y, low, target, goal.lowWeight ?? 1) : ramp(-y, -high, -target, goal.highWeight ?? 1);
    }
  }
}

function ramp(y: number, zero: number, one: number, weight: number): number {
  if (y >= one) return 1;
  if (!(y > zero)) return 0;
  return ((y - zero) / (one - zero)) ** weight;
}

/**
 * How far a value lies outside what its goal accepts, in units of the goal's width; 0 where desirability is not zero
 * by distance.
 */
export function shortfall(goal: Goal, y: number): number {
  if (goal.aim === "watch") return 0;
  const width = goal.high - goal.low;
  const below = Math.max(0, (goal.low - y) / width);
  const above = Math.max(0, (y - goal.high) / width);
  if (goal.aim === "raise") return below;
  if (goal.aim === "lower") return above;
  return below + above;
}

/** One smooth piece of a curve, read off at a value: the curve is the lowest of its pieces, and of 0. */
export interface Piece {
  value: number;
  slope: number;
  /** Second derivative. */
  bend: number;
}

/**
 * The pieces whose lowest is ln d near a value with d above 0; none for a window without a target, which has edges
 * only.
 */
export function desirabilityPieces(goal: Goal, y: number): Piece[] {
  const rising = (from: number, to: number, weight: number): Piece => {
    const above = y - from;
    return { value: weight * Math.log(above / (to - from)), slope: weight / above, bend: -weight / (above * above) };
  };
  const falling = (to: number, from: number, weight: number): Piece => {
    const below = from - y;
    return { value: weight * Math.log(below / (from - to)), slope: -weight / below, bend: -weight / (below * below) };
  };
  if (goal.aim === "raise") return [rising(goal.low, goal.high, goal.weight ?? 1)];
  if (goal.aim === "lower") return [falling(goal.low, goal.high, goal.weight ?? 1)];
  if (goal.aim === "watch" || goal.target === undefined) return [];
  const { low, target, high } = goal;
  return [
    ...(low < target ? [rising(low, target, goal.lowWeight ?? 1)] : []),
    ...(high > target ? [falling(target, high, goal.highWeight ?? 1)] : []),
  ];
}

/** The pieces whose lowest is minus the shortfall. */
export function shortfallPieces(goal: Goal, y: number): Piece[] {
  if (goal.aim === "watch") return [];
  const width = goal.high - goal.low;
  return [
    ...(goal.aim === "lower" ? [] : [{ value: (y - goal.low) / width, slope: 1 / width, bend: 0 }]),
    ...(goal.aim === "raise" ? [] : [{ value: (goal.high - y) / width, slope: -1 / width, bend: 0 }]),
  ];
}

/** The limits a value must keep: low for raise, high for lower, both for hit and within. */
export function limitsOf(goal: Goal): { low: number; high: number } {
  const none = { low: Number.NEGATIVE_INFINITY, high: Number.POSITIVE_INFINITY };
  if (goal.aim === "watch") return none;
  if (goal.aim === "raise") return { ...none, low: goal.low };
  if (goal.aim === "lower") return { ...none, high: goal.high };
  return { low: goal.low, high: goal.high };
}

/** Overall desirability D = (Π dᵢ^rᵢ)^(1/Σrᵢ) over responses that have a goal; 0 if any is 0. */
export function overallDesirability(
  responses: readonly Response[],
  values: ReadonlyMap<string, number> | ((id: string) => number),
): number {
  const read = typeof values === "function" ? values : (id: string): number => values.get(id) ?? Number.NaN;
  let total = 0;
  let weights = 0;
  for (const r of responses) {
    const d = desirability(r.goal, read(r.id));
    if (d === null) continue;
    if (!(d > 0)) return 0;
    total += r.importance * Math.log(d);
    weights += r.importance;
  }
  return weights === 0 ? 0 : Math.exp(total / weights);
}
