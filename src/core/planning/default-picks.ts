import { termKey } from "../terms/term";
import { inPlace } from "./next-wave-summary";
import type { PlanSummary } from "./plan-summary";

/** An effect of so many standard deviations is seen with the bare eye: a plan that needs more sees nothing. */
const BLIND = 6;
/** … and so many are as large as the whole of the noise: what a plan should see where it leaves effects unsaid. */
const MUCH = 3;
/** Fewer degrees of freedom for error judge nothing well: with two a t has to pass 4.3, with three 3.2. */
const LEAST_DF = 3;
/** … and between set-ups, where hard factors are judged by those. */
const LEAST_BETWEEN = 2;

/** Whether a plan sees anything worth a person's trials: some effect, and not only one that nobody would miss. */
export const seesSomething = ({ ratio }: Pick<PlanSummary, "ratio">): boolean => ratio !== null && ratio <= BLIND;

const seesMuch = ({ ratio }: Pick<PlanSummary, "ratio">): boolean => ratio !== null && ratio <= MUCH;

type Weighed = Pick<
  PlanSummary,
  "id" | "cost" | "ratio" | "tellsAll" | "noErrorDf" | "residualDf" | "lostTerms" | "follow" | "map"
> & {
  strata?: Pick<NonNullable<PlanSummary["strata"]>, "reset" | "loose" | "between">;
};

/** Whether hard factors are set as often as the run order asks, not kept for several trials. */
export const isFullyReset = ({ reset, loose }: NonNullable<Weighed["strata"]>): boolean => reset || loose;

/** What a plan lacks beside the one that is picked first, the graver first. */
export type Lacking = "tells-less" | "few-df" | "less-clear" | "sees-less";

/** The plan to go by before a person picks any, and what stands beside it. */
export interface FirstPick {
  plan: string;
  /** It is the cheapest that sees what is worth finding, the cheapest at all, or the sharpest, where none sees that. */
  by: "sees" | "cheapest" | "sharpest";
  cost: number;
  /** It tells all that is asked with enough to judge by: what comes later can only be cheaper or sharper. */
  sound: boolean;
  /** The nearest cheaper one, and what it lacks. */
  cheaper?: { plan: string; lacks: Lacking };
}

/** Enough degrees of freedom to judge what is asked by: in set-ups between them, too. */
const judges = (s: Weighed): boolean =>
  !s.noErrorDf && s.residualDf >= LEAST_DF && (!s.strata || s.strata.reset || s.strata.between >= LEAST_BETWEEN);

/** The first of some narrower choices that leaves any. */
function narrowed<T>(all: readonly T[], ...by: ((s: T) => boolean)[]): readonly T[] {
  for (const wanted of by) {
    const left = all.filter(wanted);
    if (left.length > 0) return left;
  }
  return all;
}

/** How many main effects a plan cannot tell from others, and how many it leaves beside others: what screens are for. */
function mainsAmiss({ lostTerms, map }: Weighed): { lost: number; beside: number } {
  const gone = new Set(lostTerms.map(termKey));
  const mains = map.filter((m) => m.term.length === 1);
  return {
    lost: mains.filter((m) => m.state === "lost" || gone.has(termKey(m.term))).length,
    beside: mains.filter((m) => m.state !== "clear").length,
  };
}

/** How many of the effects asked about stand beside others: none of an orthogonal plan. */
const unclear = ({ map }: Weighed): number => map.filter((m) => m.state !== "clear").length;

/**
 * The plan to go by before a person picks any. Of those that tell all that is asked, with three degrees of freedom for
 * error or more, the cheapest that sees the smallest change worth finding; where none does the sharpest, and the
 * cheapest where nothing is stated; at one cost an orthogonal one, then the sharper. One whose main effects cannot be
 * told from interactions that may be there is passed over where another can tell them: a beginner would read the one
 * for the other. Where none tells all that is asked it is chosen among those that keep main effects clearest.
 *
 * @param wanted smallest change worth finding over the noise, where both are stated
 */
export function firstPick(summaries: readonly Weighed[], wanted: number | undefined): FirstPick | undefined {
  const seeing = summaries.filter((s) => s.ratio !== null && !s.follow);
  // Where factors are hard to change, plans that keep them set come first; those that do not are there to compare.
  const affordable = narrowed(seeing, (s) => s.strata !== undefined && !isFullyReset(s.strata));
  const least = Math.min(...affordable.map((s) => mainsAmiss(s).beside));
  const all = affordable.filter((s) => s.tellsAll);
  const telling =
    all.length > 0
      ? narrowed(all, (s) => mainsAmiss(s).lost === 0)
      : narrowed(
          affordable.filter((s) => mainsAmiss(s).beside === least),
          seesMuch,
        );
  const among = narrowed(
    telling,
    (s) => judges(s) && seesSomething(s),
    judges,
    (s) => !s.noErrorDf,
  );
  const sees = ({ ratio }: Weighed): boolean => wanted !== undefined && (ratio ?? Number.POSITIVE_INFINITY) <= wanted;
  const bySharpness = (a: Weighed, b: Weighed): number => (a.ratio ?? 0) - (b.ratio ?? 0) || a.cost - b.cost;
  const byCost = (a: Weighed, b: Weighed): number => a.cost - b.cost || unclear(a) - unclear(b) || bySharpness(a, b);
  const enough = among.filter(sees);
  const by = enough.length > 0 ? "sees" : wanted === undefined ? "cheapest" : "sharpest";
  const [first] = [...(by === "sees" ? enough : among)].sort(by === "sharpest" ? bySharpness : byCost);
  if (!first) return undefined;
  const [cheaper] = narrowed(
    affordable.filter((s) => s.cost < first.cost),
    seesSomething,
  ).toSorted((a, b) => b.cost - a.cost || a.lostTerms.length - b.lostTerms.length || bySharpness(a, b));
  const lacks = (s: Weighed): Lacking =>
    s.lostTerms.length > first.lostTerms.length || (first.tellsAll && !s.tellsAll)
      ? "tells-less"
      : judges(first) && !judges(s)
        ? "few-df"
        : mainsAmiss(s).lost > mainsAmiss(first).lost || mainsAmiss(s).beside > mainsAmiss(first).beside
          ? "less-clear"
          : "sees-less";
  return {
    plan: first.id,
    by,
    cost: first.cost,
    sound: first.tellsAll && judges(first),
    ...(cheaper ? { cheaper: { plan: cheaper.id, lacks: lacks(cheaper) } } : {}),
  };
}

/**
 * The plans marked before a person picks any, the one to go by last: what the study needs next, where waves were run;
 * else the one to go by first with the nearest cheaper one beside it.
 */
export function defaultPicks(summaries: readonly Weighed[], first: FirstPick | undefined): string[] {
  const needed = inPlace(summaries)
    .filter((s) => s.follow?.why)
    .slice(0, 2);
  if (needed.length > 0) return needed.map((s) => s.id);
  return first ? [...(first.cheaper ? [first.cheaper.plan] : []), first.plan] : [];
}
