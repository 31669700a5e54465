import { correlations, type Regular, regularOf, type TermMapEntry, termMap, withStrata } from "../appraisal/aliasing";
import { cellsOf, pureErrorDf } from "../appraisal/appraise";
import { detectable, dfOf, reaches, type TermReach } from "../appraisal/power";
import type { Strata } from "../appraisal/strata";
import {
  joinedPoints,
  type PointModel,
  type Points,
  pointModel,
  pointsOf,
  pointsOfPlan,
} from "../appraisal/terms-info";
import type { CountedPlan } from "../kinds/planning";
import { noiseAt } from "../kinds/plannings";
import { normalQuantile } from "../numerics/distributions";
import type { PlanOptions } from "../plans/options";
import type { OfferRequest, Plan } from "../plans/plan";
import { costBy, pricesOf } from "../study/costs";
import { Memo } from "../study/memo";
import { activeFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { canBend, possibleTerms, termSet } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import type { CountedPower } from "./counted-change";
import { countedPower } from "./counted-power";
import type { FollowUpSummary } from "./follow-up-summary";

/** What a person asks a plan to tell, and at what price. */
export interface PlanRequest extends OfferRequest {
  power: number;
  alpha: number;
  /** How the response that plans are judged by is counted, where it is. */
  counted?: CountedPlan;
  seed: number;
  standardOrder: boolean;
  /** Judged with the trials already in the ledger; the new ones are further waves. */
  together?: boolean;
  /** How factors are carried on in a wave that follows: which, in a plan of what family, of how many trials. */
  /** How many more trials are placed where they tell most, in a wave that follows. */
  more?: number;
  carry?: { factors?: readonly string[]; family?: string; trials?: number };
}

/** What a plan in set-ups of hard factors is judged by. */
export interface JudgedStrata {
  /** Set-ups of the plan's own trials. */
  setups: number;
  /** Most trials of one. */
  most: number;
  /** Every trial is set up anew. */
  reset: boolean;
  /** The order is random over all trials: hard factors are set whenever it changes them. */
  loose: boolean;
  eta: number;
  /** Degrees of freedom left between set-ups, and within. */
  between: number;
  within: number;
  /** Asked terms that only set-ups tell. */
  terms: Term[];
  /** Whether least squares would give what generalised least squares gives (rank [X, ZZ′X] = rank X). */
  plain: boolean;
}

/** How many times a plan sets its hard factors. */
export const setupsOf = ({ trials }: Pick<Plan, "trials">): number =>
  new Set(trials.flatMap((t) => (t.setup === undefined ? [] : [`${t.wave} ${t.setup}`]))).size;

function judgedStrata(model: PointModel, plan: Plan): JudgedStrata {
  const strata = model.strata as Strata;
  const sizes = new Map<string, number>();
  for (const t of plan.trials) {
    const key = `${t.wave} ${t.setup}`;
    sizes.set(key, (sizes.get(key) ?? 0) + 1);
  }
  const setups = setupsOf(plan);
  const terms = new Map<string, Term>();
  model.kept.forEach((c, j) => {
    if (strata.constant[j] && c.term.length > 0) terms.set(c.key, c.term);
  });
  return {
    setups,
    most: Math.max(...sizes.values()),
    reset: setups === plan.trials.length,
    loose: plan.recipe.randomised === true,
    eta: strata.eta,
    between: strata.between,
    within: strata.within,
    terms: setups === plan.trials.length ? [] : [...terms.values()],
    plain: strata.plain,
  };
}

/** The terms that a plan is asked to tell, those of a named set spelt out. */
export const requestedTerms = (study: Study, request: Pick<PlanRequest, "terms">): Term[] =>
  typeof request.terms === "string" ? termSet(study, request.terms) : request.terms;

/** A plan as the cost–sight chart sees it. */
export interface PlanSummary {
  id: string;
  label: string;
  options: PlanOptions;
  plan: Plan;
  n: number;
  /** What it costs, in the study's own unit or in trials. */
  cost: number;
  /** In set-ups of hard factors: how many, and what is left to judge by between them and within. */
  strata?: JudgedStrata;
  /** Smallest effect in σ it would detect: the worst main effect or asked interaction it can estimate. */
  ratio: number | null;
  /** The same for squares, which are measured from centre to edge. */
  squareRatio: number | null;
  /** The term that is hardest to see, and how far it reaches. */
  worst: TermReach | null;
  residualDf: number;
  /** It can estimate all that is asked within the region. */
  tellsAll: boolean;
  /** No degrees of freedom for error: judged by the stated noise. */
  noErrorDf: boolean;
  lostTerms: Term[];
  map: TermMapEntry[];
  df: { model: number; lackOfFit: number; pureError: number };
  resolution: number | null;
  regular: Regular | undefined;
  onFrontier: boolean;
  /** Kept by the person under this name. */
  rival?: string;
  /** A wave that follows what was run: what it would tell beyond that. */
  follow?: FollowUpSummary;
}

/** Detectable effect without error degrees of freedom: the normal's, at the stated noise. */
export const byStatedNoise = (unit: number, power: number, alpha: number): number =>
  (normalQuantile(1 - alpha / 2) + normalQuantile(power)) / Math.sqrt(unit);

interface Seen {
  /** Smallest effect seen, in σ. */
  ratio: number;
  reach: TermReach;
}

/** The term that is hardest to see. */
function hardestToSee(
  reach: readonly TermReach[],
  residualDf: number,
  { power, alpha }: PlanRequest,
  memo: Memo,
): Seen | null {
  let found: Seen | null = null;
  for (const r of reach) {
    const ratio =
      dfOf(r, residualDf) >= 1 ? detectable(r, power, alpha, residualDf, memo) : byStatedNoise(r.unit, power, alpha);
    if (ratio !== null && (found === null || ratio > found.ratio)) found = { ratio, reach: r };
  }
  return found;
}

/**
 * The smallest effect that points see of what is asked, squares apart, with the term that is hardest to see; of a share
 * or a count by what would be counted.
 */
export function effectsSeen(
  study: Study,
  points: Points,
  model: PointModel,
  reach: readonly TermReach[],
  request: PlanRequest,
  memo: Memo,
): Seen | null {
  const effects = reach.filter((r) => termShape(r.term) !== "square");
  const n = points.settings.length;
  return exactly(hardestToSee(effects, n - model.rank.rank, request, memo), request, (counted) =>
    countedPower(
      study,
      model,
      effects.map((r) => r.term),
      counted,
      n,
    ),
  );
}

/** What a plan is judged on: its own trials, after those already run where it joins them. */
export function judgedPoints(study: Study, plan: Plan, together: boolean): Points {
  const points = pointsOfPlan(plan);
  return together ? joinedPoints(pointsOf(study), points) : points;
}

/** What a plan costs by the prices that the study states. */
export const planCost = (study: Study, plan: Plan, { counted }: Pick<PlanRequest, "counted">): number =>
  costBy(pricesOf(study), {
    trials: plan.trials.length,
    setups: setupsOf(plan),
    pieces: counted ? counted.of * plan.trials.length : 0,
    waves: plan.waves.length,
  });

/** Looks at one plan for what is asked. */
export function summarisePlan(
  study: Study,
  plan: Plan,
  label: string,
  options: PlanOptions,
  request: PlanRequest,
  memo = new Memo(),
): PlanSummary {
  const points = judgedPoints(study, plan, request.together === true);
  const terms = requestedTerms(study, request);
  const n = plan.trials.length;
  const model = pointModel(study, points, terms);
  const residualDf = points.settings.length - model.rank.rank;
  const reach = reaches(study, model, terms);
  const candidates = [...terms, ...(request.terms === "main" ? possibleTerms(study, terms) : [])];
  const map = withStrata(study, points, termMap(correlations(study, points, candidates)));
  const keys = new Set(terms.map(termKey));
  const droppedKeys = new Set(model.rank.dropped.map((d) => model.columns[d.column].key));
  const lostTerms = map
    .filter(
      (m) =>
        keys.has(termKey(m.term)) &&
        (droppedKeys.has(termKey(m.term)) || (m.state === "lost" && m.with.some((t) => keys.has(termKey(t))))),
    )
    .map((m) => m.term);
  const pure = Math.min(Math.max(0, residualDf), pureErrorDf(cellsOf(study, points.settings), points.waves));
  const regular = regularOf(study, points);
  const effects = effectsSeen(study, points, model, reach, request, memo);
  return {
    id: planSummaryId(options),
    label,
    options,
    plan,
    n,
    ratio: effects?.ratio ?? null,
    squareRatio:
      hardestToSee(
        reach.filter((r) => termShape(r.term) === "square"),
        residualDf,
        request,
        memo,
      )?.ratio ?? null,
    worst: effects?.reach ?? null,
    residualDf,
    tellsAll: lostTerms.length === 0 && plan.excluded === 0,
    noErrorDf: residualDf < 1 || reach.some((r) => dfOf(r, residualDf) < 1),
    ...(model.strata ? { strata: judgedStrata(model, plan) } : {}),
    cost: planCost(study, plan, request),
    lostTerms,
    map,
    df: { model: model.rank.rank - 1, lackOfFit: Math.max(0, residualDf) - pure, pureError: pure },
    resolution: regular?.resolution ?? null,
    regular,
    onFrontier: false,
  };
}

/**
 * Of a share or a count the change that is seen is worked out by what would be counted, in place of the error that it
 * has at its base; how far the term reaches is set so that its power goes through it. One that has nothing to be judged
 * by keeps the error at the base.
 */
function exactly(
  found: Seen | null,
  { counted, power, alpha }: PlanRequest,
  of: (counted: CountedPlan) => CountedPower,
): Seen | null {
  if (!found || !counted || (found.reach.errorDf !== undefined && !found.reach.errorDf)) return found;
  const noise = noiseAt(counted);
  const change = of(counted).detectable(power, alpha, { replicates: 1, of: counted.of });
  if (change === null) return null;
  const ratio = change / noise;
  return { ratio, reach: { ...found.reach, unit: found.reach.unit * (found.ratio / ratio) ** 2 } };
}

/** Power of a plan for the share or count that plans are judged by, for what is asked but squares. */
export function countedPowerOf(
  study: Study,
  { plan, follow }: Pick<PlanSummary, "plan" | "follow">,
  request: PlanRequest,
): CountedPower | undefined {
  if (!request.counted) return undefined;
  const points = judgedPoints(study, plan, request.together === true || follow !== undefined);
  const model = pointModel(study, points, requestedTerms(study, request));
  const effects = requestedTerms(study, request).filter((t) => termShape(t) !== "square");
  return countedPower(study, model, effects, request.counted, points.settings.length);
}

/** The same options name the same plan: family, base trials, copies and centre points, then what else was asked. */
export const planSummaryId = ({
  family,
  trials,
  replicates,
  centre,
  seed: _seed,
  standardOrder: _order,
  ...rest
}: PlanOptions): string => {
  const more = Object.entries(rest)
    .filter(([, v]) => v !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([k, v]) => `-${k}:${Array.isArray(v) ? v.map((t) => [t].flat().join("")).join("+") : v}`);
  return `${family}-${trials ?? "all"}-${replicates ?? 1}-${centre ?? 0}${more.join("")}`;
};

/** Fewest trials any plan needs to tell a set of terms apart: one per column. */
export const fewestTrials = (study: Study, terms: PlanRequest["terms"]): number =>
  encoder(study, requestedTerms(study, { terms })).columns.length;

/** Whether squares can be asked of this study at all. */
export const bendable = (study: Study): boolean => activeFactors(study).some(canBend);
