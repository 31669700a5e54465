import type { PlanSummary } from "./plan-summary";

/** An effect of so many standard deviations is seen with the bare eye: a plan that needs more sees nothing. */
const BLIND = 6;

/** Whether a plan sees anything worth a person's trials: some effect, and not only one that nobody would miss. */
export const seesSomething = ({ ratio }: Pick<PlanSummary, "ratio">): boolean => ratio !== null && ratio <= BLIND;

type Weighed = Pick<PlanSummary, "id" | "cost" | "ratio" | "tellsAll" | "noErrorDf" | "lostTerms" | "follow"> & {
  strata?: PlanSummary["strata"];
};

/** Whether hard factors are set as often as the run order asks, not kept for several trials. */
export const anewEachTime = ({ reset, loose }: NonNullable<PlanSummary["strata"]>): boolean => reset || loose;

/**
 * The plans marked before a person picks any, the one to go by last: what the study needs next, where waves were run;
 * else the cheapest that meets the smallest change worth finding, or the sharpest where none does or none is stated,
 * among those that tell all that is asked, with the nearest cheaper one beside it.
 *
 * @param wanted smallest change worth finding over the noise, where both are stated
 */
export function markedFirst(summaries: readonly Weighed[], wanted: number | undefined): string[] {
  const needed = summaries.filter((s) => s.follow?.why).slice(0, 2);
  if (needed.length > 0) return needed.map((s) => s.id);
  const seeing = summaries.filter((s) => s.ratio !== null && !s.follow);
  // Where factors are hard to change, plans that keep them set come first; those that do not are there to compare.
  const kept = seeing.filter((s) => s.strata && !anewEachTime(s.strata));
  const affordable = kept.length > 0 ? kept : seeing;
  const able = affordable.filter((s) => s.tellsAll);
  const pool = able.length > 0 ? able : affordable;
  const ownError = pool.filter((s) => !s.noErrorDf);
  const among = ownError.length > 0 ? ownError : pool;
  const meets = among.filter((s) => wanted !== undefined && (s.ratio ?? Number.POSITIVE_INFINITY) <= wanted);
  const bySharpness = (a: Weighed, b: Weighed): number => (a.ratio ?? 0) - (b.ratio ?? 0) || a.cost - b.cost;
  const byCost = (a: Weighed, b: Weighed): number => a.cost - b.cost || bySharpness(a, b);
  const first = meets.length > 0 ? [...meets].sort(byCost)[0] : [...among].sort(bySharpness)[0];
  if (!first) return [];
  const less = affordable.filter((s) => s.cost < first.cost);
  const cheaper = (less.some(seesSomething) ? less.filter(seesSomething) : less).sort(
    (a, b) => b.cost - a.cost || a.lostTerms.length - b.lostTerms.length || bySharpness(a, b),
  )[0];
  return [...(cheaper ? [cheaper.id] : []), first.id];
}
