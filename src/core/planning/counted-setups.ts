import { copies, reaches, type TermReach, termPower } from "../appraisal/power";
import type { PointModel } from "../appraisal/terms-info";
import type { CountedPlan } from "../kinds/planning";
import { planningOf } from "../kinds/plannings";
import { once } from "../study/memo";
import type { Study, Term } from "../study/schema";
import { termShape } from "../terms/term";
import { type CountedPower, changeSeen, type Effort } from "./counted-change";

/**
 * A change over the standard deviation of one trial, the mean of both ends'. Towards no events, or none but events, the
 * first-order variance outgrows the change, which the results do not: a larger change is never harder to see.
 *
 * @param to how far on the link the change reaches: on either side of the base, or from it to one edge
 */
function ratioAt(plan: CountedPlan, of: number, to: number, square: boolean): number {
  const { varianceAt } = planningOf(plan);
  const ratio = (u: number): number => {
    const ends = square ? [0, u] : [-u, u];
    return Math.abs(ends[1] - ends[0]) / Math.sqrt((varianceAt(plan, of, ends[0]) + varianceAt(plan, of, ends[1])) / 2);
  };
  // It rises to one top.
  let [low, high] = [0, to];
  for (let i = 0; i < 60; i++) {
    const third = (high - low) / 3;
    if (ratio(low + third) < ratio(high - third)) low += third;
    else high -= third;
  }
  return Math.max(ratio(to), ratio((low + high) / 2));
}

const isSquare = ({ term }: TermReach): boolean => termShape(term) === "square";

/** Those that may be the hardest to see: none that reaches farther than another, on no fewer degrees of freedom. */
function hardest(reach: readonly TermReach[]): TermReach[] {
  const out: TermReach[] = [];
  const harder = (o: TermReach, r: TermReach): boolean =>
    o.df === r.df &&
    isSquare(o) === isSquare(r) &&
    (o.errorDf ?? 0) <= (r.errorDf ?? 0) &&
    (o.copyDf ?? 0) <= (r.copyDf ?? 0);
  for (const r of [...reach].sort((a, b) => a.unit - b.unit)) if (!out.some((o) => harder(o, r))) out.push(r);
  return out;
}

/**
 * Power for a share or a count where factors are hard to change: noncentral F in two strata, as such trials are judged.
 * The variance within set-ups is the mean of both ends of the change. What set-ups vary by stays as it is planned for
 * while more pieces of a trial make trials of one set-up vary less.
 *
 * @param n points of one copy
 */
export function countedInSetups(
  study: Study,
  model: PointModel,
  terms: readonly Term[],
  plan: CountedPlan,
  n: number,
): CountedPower {
  const planned = model.strata?.eta ?? 0;
  const { varianceAt, halfChange, edgeChange, mostChange } = planningOf(plan);
  const usual = varianceAt(plan, plan.of, 0);
  const known = new Map<number, TermReach[]>();
  const reachOf = (of: number): TermReach[] => {
    const eta = (planned * usual) / varianceAt(plan, of, 0);
    const found = known.get(of) ?? hardest(reaches(study, eta === planned ? model : model.under(eta), terms));
    known.set(of, found);
    return found;
  };
  const powerAt = (asked: number, alpha: number, { replicates, of }: Effort): number | null => {
    const change = Math.min(asked, mostChange(plan.base));
    const halves = once(() => ratioAt(plan, of, halfChange(plan.base, change), false));
    const edges = once(() => ratioAt(plan, of, edgeChange(plan.base, change), true));
    let worst: number | null = null;
    for (const reach of reachOf(of)) {
      const ratio = isSquare(reach) ? edges() : halves();
      const power = termPower(copies(reach, replicates), ratio, alpha, replicates * n - model.rank.rank);
      if (power === null) return null;
      worst = worst === null ? power : Math.min(worst, power);
    }
    return worst;
  };
  return {
    powerAt,
    detectable: (power, alpha, effort) => changeSeen(plan, power, (change) => powerAt(change, alpha, effort)),
  };
}
