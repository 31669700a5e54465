import { MOST_REPLICATES, type PowerAnswer, patterns } from "../appraisal/power";
import { type PointModel, type Points, pointModel } from "../appraisal/terms-info";
import type { CountedPlan } from "../kinds/planning";
import { countedPlanOf, noiseAt, planningOf } from "../kinds/plannings";
import { kindOf } from "../kinds/results";
import { exemplaryDeviance } from "../model/exemplary";
import { fQuantile, noncentralFCdf } from "../numerics/distributions";
import { block, inverseForm, pickColumns } from "../numerics/least-squares";
import { StudyError } from "../study/error";
import type { Response, Study, Term } from "../study/schema";
import { termKey, termShape } from "../terms/term";
import { type CountedPower, changeSeen, type Effort } from "./counted-change";
import { countedInSetups } from "./counted-setups";

/** Degrees of freedom at which F is chi-squared, for people. */
const MANY = 1e5;

/** Terms looked at exactly: those that are hardest to see by the information at the base. */
const HARDEST = 2;

/**
 * Power for a share or a count from a base and a smallest change (Self, Mauritsen & Ohara 1992): noncentral F on
 * (q, n − p), with the likelihood ratio of exemplary data over the dispersion as its noncentrality. Pieces of a trial
 * bring in proportion, less what trials scatter beyond counting. Where factors are hard to change it is that of the
 * strata that such trials are judged in.
 *
 * @param model of the points that are judged, with the columns that can be estimated
 * @param n points of one copy
 */
export function countedPower(
  study: Study,
  model: PointModel,
  terms: readonly Term[],
  plan: CountedPlan,
  n: number,
): CountedPower {
  if (model.strata) return countedInSetups(study, model, terms, plan, n);
  const { excessAt, halfChange, edgeChange, mostChange } = planningOf(plan);
  const x = pickColumns(model.matrix, model.rank.kept);
  const asked = terms.flatMap((term) => {
    const columns = model.kept.flatMap((c, j) => (c.key === termKey(term) ? [j] : []));
    if (columns.length < model.columns.filter((c) => c.key === termKey(term)).length) return [];
    const sub = block(model.plain.inverse, columns);
    const found = patterns(study, term)
      .map((b) => ({ b, unit: inverseForm(sub, b) }))
      .reduce((a, c) => (c.unit < a.unit ? c : a));
    return [{ term, columns, df: columns.length, square: termShape(term) === "square", ...found }];
  });
  const worst = [...asked].sort((a, b) => a.unit / a.df - b.unit / b.df).slice(0, HARDEST);
  const p = x.cols;
  // Deviances go with pieces and copies alone: one fit for each term and change.
  const known = new Map<string, number>();
  const deviance = (t: (typeof asked)[number], change: number): number => {
    const key = `${termKey(t.term)}|${change}`;
    const before = known.get(key);
    if (before !== undefined) return before;
    // Patterns are made for a change of one: half of it on either side, or the whole from centre to edge.
    const half = halfChange(plan.base, change);
    const effects = t.square ? [edgeChange(plan.base, change)] : t.b.map((v) => 2 * v * half);
    const made = exemplaryDeviance(plan, x, t.columns, effects);
    known.set(key, made);
    return made;
  };
  const powerOf = (t: (typeof asked)[number], change: number, alpha: number, { replicates, of }: Effort): number => {
    const df = plan.counting ? MANY : replicates * n - p;
    const lambda = (replicates * of * deviance(t, change)) / excessAt(plan, of);
    return 1 - noncentralFCdf(fQuantile(1 - alpha, t.df, df), t.df, df, lambda);
  };
  const powerAt = (change: number, alpha: number, effort: Effort): number | null =>
    (!plan.counting && effort.replicates * n - p < 1) || worst.length === 0
      ? null
      : Math.min(...worst.map((t) => powerOf(t, Math.min(change, mostChange(plan.base)), alpha, effort)));
  return {
    powerAt,
    detectable: (power, alpha, effort) => changeSeen(plan, power, (change) => powerAt(change, alpha, effort)),
  };
}

/**
 * Solves the one left out of change, power and copies for a share or a count.
 * @throws StudyError `no-base`, `too-many-replicates`, `no-error-df`
 */
export function solveCounted(
  study: Study,
  response: Response,
  points: Points,
  terms: readonly Term[],
  { effect, power, replicates, pieces, alpha }: CountedQuestion,
): PowerAnswer & { pieces: number } {
  const plan = countedPlanOf(response);
  if (!plan)
    throw new StudyError("no-base", { response: response.name, counted: kindOf(response).fields.includes("base") }, [
      "response",
    ]);
  const model = pointModel(study, points, terms);
  const n = points.settings.length;
  const judged = countedPower(study, model, terms, plan, n);
  const of = pieces ?? plan.of;
  const at = (change: number, copies: number): number | null =>
    judged.powerAt(change, alpha, { replicates: copies, of });
  const solved = effect === undefined ? "effect" : power === undefined ? "power" : "replicates";
  let copies = replicates ?? 1;
  if (solved === "replicates")
    while ((at(effect as number, copies) ?? 0) < (power as number))
      if (++copies > MOST_REPLICATES)
        throw new StudyError("too-many-replicates", { most: MOST_REPLICATES }, ["effect"]);
  const change = effect ?? judged.detectable(power as number, alpha, { replicates: copies, of });
  if (change === null) throw new StudyError("no-error-df", {}, ["replicates"]);
  return {
    solved,
    effect: change,
    noise: noiseAt({ ...plan, of, excess: planningOf(plan).excessAt(plan, of) }),
    power: solved === "effect" ? (power as number) : at(change, copies),
    replicates: copies,
    alpha,
    df: copies * n - model.rank.rank,
    pieces: of,
    curve: Array.from({ length: 41 }, (_, i) => ({
      effect: (2 * change * i) / 40,
      power: i === 0 ? alpha : at((2 * change * i) / 40, copies),
    })),
  };
}

/** Two of change, power and copies; pieces of a trial where they are not the response's own. */
export interface CountedQuestion {
  effect?: number;
  power?: number;
  replicates?: number;
  pieces?: number;
  alpha: number;
}
