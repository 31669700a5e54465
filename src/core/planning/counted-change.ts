import type { CountedPlan } from "../kinds/planning";
import { planningOf } from "../kinds/plannings";

/** How much of each kind a plan brings. */
export interface Effort {
  /** Copies of all trials. */
  replicates: number;
  /** Pieces, or exposure, of a trial. */
  of: number;
}

/** Power of a plan for a share or a count. */
export interface CountedPower {
  /** Of the term that is hardest to see; null without degrees of freedom for error. */
  powerAt(change: number, alpha: number, effort: Effort): number | null;
  /** Smallest change, from low to high, that is seen with this power; null where none is. */
  detectable(power: number, alpha: number, effort: Effort): number | null;
}

/** Smallest change that reaches the power, which grows with it; null where none does, or there is no power at all. */
export function changeSeen(
  plan: CountedPlan,
  power: number,
  powerAt: (change: number) => number | null,
): number | null {
  const most = planningOf(plan).mostChange(plan.base);
  if ((powerAt(most) ?? 0) < power) return null;
  // On its logarithm: changes may be small.
  let low = Math.log(plan.base * 1e-4);
  let high = Math.log(most);
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    if ((powerAt(Math.exp(middle)) ?? 0) < power) low = middle;
    else high = middle;
  }
  return Math.exp((low + high) / 2);
}
