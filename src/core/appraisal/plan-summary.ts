import { normalQuantile } from "../numerics/distributions";
import { families } from "../plans/families";
import { followUp } from "../plans/follow-up/follow";
import type { FollowKind, FollowOptions } from "../plans/follow-up/options";
import { planSteps } from "../plans/make-plan";
import { optionsOf, type PlanOptions } from "../plans/options";
import type { OfferRequest, Plan, PlanFamily, PlanProgress } from "../plans/plan";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Rival, Study, Term } from "../study/schema";
import { canBend, possibleTerms, termSet } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import { remarkOf, unfitOf } from "../words/answers";
import type { WhyValues } from "../words/english/waves";
import type { Said } from "../words/said";
import {
  type AliasMatrix,
  aliasChains,
  aliasMatrix,
  correlations,
  type Regular,
  regularOf,
  type TermMapEntry,
  termMap,
} from "./aliasing";
import { appraisePoints, cellsOf, pureErrorDf, termVif } from "./appraise";
import { detectable, reaches, type TermReach } from "./power";
import { type Points, pointModel, pointsOf, pointsOfPlan } from "./terms-info";
import { fractionOfSpace, regionSample, varianceReader } from "./variance";

/** What a person asks a plan to tell, and at what price. */
export interface PlanRequest extends OfferRequest {
  power: number;
  alpha: number;
  seed: number;
  standardOrder: boolean;
  /** Judged with the trials already in the ledger; the new ones are further waves. */
  together?: boolean;
  /** How factors are carried on in a wave that follows: which, in a plan of what family, of how many trials. */
  carry?: { factors?: readonly string[]; family?: string; trials?: number };
}

export const requestedTerms = (study: Study, request: Pick<PlanRequest, "terms">): Term[] =>
  typeof request.terms === "string" ? termSet(study, request.terms) : request.terms;

/** A plan as the cost–sight chart sees it. */
export interface PlanSummary {
  id: string;
  label: string;
  options: PlanOptions;
  plan: Plan;
  n: number;
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

/** What can be told of a set of trials, in the few figures a person weighs. */
export interface Estimability {
  /** Asked terms that can be estimated, and of these the ones clear of every other. */
  estimable: number;
  clear: number;
  /** Smallest main effect or interaction seen, in σ. */
  ratio: number | null;
  /** Root mean prediction variance over the region, in σ, of the terms that can be estimated. */
  meanError: number | null;
}

export interface FollowUpSummary {
  kind: FollowKind;
  options: FollowOptions;
  purpose: string;
  /** Why the study needs it now; none when it is there for choice alone. */
  why?: Said<WhyValues>;
  cautions: string[];
  /** Effects asked about. */
  asked: number;
  before: Estimability;
  after: Estimability;
  /** Pairs of asked terms that travelled together before and do not after. */
  parted: Term[][];
}

/** A next wave to be looked at, with the reason where the study gives one. */
export interface FollowOffer {
  options: FollowOptions;
  label: string;
  why?: Said<WhyValues>;
}

/** Detectable effect without error degrees of freedom: the normal's, at the stated noise. */
const byStatedNoise = (unit: number, power: number, alpha: number): number =>
  (normalQuantile(1 - alpha / 2) + normalQuantile(power)) / Math.sqrt(unit);

/** What a plan is judged on: its own trials, after those already run where it joins them. */
function judgedPoints(study: Study, plan: Plan, together: boolean): Points {
  const points = pointsOfPlan(plan);
  if (!together) return points;
  const earlier = pointsOf(study);
  return { settings: [...earlier.settings, ...points.settings], waves: [...earlier.waves, ...points.waves] };
}

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
  const worst = (list: typeof reach): { ratio: number; reach: TermReach } | null => {
    let found: { ratio: number; reach: TermReach } | null = null;
    for (const r of list) {
      const ratio =
        residualDf > 0
          ? detectable(r, request.power, request.alpha, residualDf, memo)
          : byStatedNoise(r.unit, request.power, request.alpha);
      if (ratio !== null && (found === null || ratio > found.ratio)) found = { ratio, reach: r };
    }
    return found;
  };
  const candidates = [...terms, ...(request.terms === "main" ? possibleTerms(study, terms) : [])];
  const map = termMap(correlations(study, points, candidates));
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
  const effects = worst(reach.filter((r) => termShape(r.term) !== "square"));
  return {
    id: planSummaryId(options),
    label,
    options,
    plan,
    n,
    ratio: effects?.ratio ?? null,
    squareRatio: worst(reach.filter((r) => termShape(r.term) === "square"))?.ratio ?? null,
    worst: effects?.reach ?? null,
    residualDf,
    tellsAll: lostTerms.length === 0 && plan.excluded === 0,
    noErrorDf: residualDf < 1,
    lostTerms,
    map,
    df: { model: model.rank.rank - 1, lackOfFit: Math.max(0, residualDf) - pure, pureError: pure },
    resolution: regular?.resolution ?? null,
    regular,
    onFrontier: false,
  };
}

/** What a set of trials tells of what is asked. */
function estimabilityOf(
  study: Study,
  points: Points,
  request: PlanRequest,
  memo: Memo,
): { figures: Estimability; groups: Set<string> } {
  const terms = requestedTerms(study, request);
  const model = pointModel(study, points, terms);
  const residualDf = points.settings.length - model.rank.rank;
  const kept = new Set(model.kept.map((c) => c.key));
  const map = termMap(correlations(study, points, terms));
  const together = new Set(
    map.flatMap((m) => (m.state === "lost" ? m.with.map((t) => [termKey(m.term), termKey(t)].sort().join("|")) : [])),
  );
  const estimable = terms.filter((t) => kept.has(termKey(t)));
  const ratios = reaches(study, model, terms)
    .filter((r) => termShape(r.term) !== "square")
    .map((r) =>
      residualDf > 0
        ? detectable(r, request.power, request.alpha, residualDf, memo)
        : byStatedNoise(r.unit, request.power, request.alpha),
    )
    .filter((r): r is number => r !== null);
  const reduced = pointModel(study, points, estimable);
  const d = varianceReader(encoder(study, estimable), reduced.kept, reduced.inverse);
  const sample = regionSample(study, 600);
  return {
    groups: together,
    figures: {
      estimable: estimable.length,
      clear: map.filter((m) => m.state === "clear").length,
      ratio: ratios.length > 0 ? Math.max(...ratios) : null,
      meanError:
        sample.length > 0 && estimable.length > 0
          ? Math.sqrt(sample.reduce((t, s) => t + d(s), 0) / sample.length)
          : null,
    },
  };
}

/** Looks at a next wave beside what was run: its own summary and what it changes. */
export function summariseFollowUp(
  study: Study,
  offer: FollowOffer,
  request: PlanRequest,
  memo = new Memo(),
): PlanSummary {
  const { plan, purpose, cautions } = followUp(study, { seed: request.seed, ...offer.options });
  // A wave of a few factors is not asked about the rest.
  const carried = offer.options.kind === "carry" ? (plan.recipe.factors ?? []) : undefined;
  const about: PlanRequest = carried
    ? { ...request, terms: requestedTerms(study, request).filter((t) => t.every((id) => carried.includes(id))) }
    : request;
  const summary = summarisePlan(
    study,
    plan,
    offer.label,
    { family: offer.options.kind, trials: plan.trials.length },
    { ...about, together: true },
    memo,
  );
  const before = estimabilityOf(study, pointsOf(study), about, memo);
  const after = estimabilityOf(study, judgedPoints(study, plan, true), about, memo);
  const terms = new Map(requestedTerms(study, about).map((t) => [termKey(t), t]));
  return {
    ...summary,
    id: `follow ${JSON.stringify(offer.options)}`,
    follow: {
      kind: offer.options.kind,
      options: offer.options,
      purpose,
      cautions: cautions.map((c) => remarkOf(c)),
      ...(offer.why === undefined ? {} : { why: offer.why }),
      asked: terms.size,
      before: before.figures,
      after: after.figures,
      parted: [...before.groups]
        .filter((g) => !after.groups.has(g))
        .map((g) =>
          g
            .split("|")
            .map((k) => terms.get(k))
            .filter((t): t is Term => t !== undefined),
        )
        .filter((pair) => pair.length === 2),
    },
  };
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

/** Which terms a search is made for, for its label. */
const setWords = (terms: PlanOptions["terms"]): string =>
  terms === undefined || terms === "main"
    ? ""
    : terms === "main+2fi"
      ? ", interactions"
      : terms === "quadratic"
        ? ", bends"
        : ", picked terms";

/** What a plan is called in the chart. */
export function planLabel(family: PlanFamily, options: PlanOptions, base: number): string {
  const copies = (options.replicates ?? 1) > 1 ? ` × ${options.replicates}` : "";
  const more = (family.words?.(options) ?? []).filter(Boolean);
  return `${family.label} ${base}${copies}${family.searches ? setWords(options.terms) : ""}${more.length > 0 ? `, ${more.join(", ")}` : ""}`;
}

interface Offer {
  family: PlanFamily;
  options: PlanOptions;
}

/** What a family puts into the chart within the budget. */
function offersOf(study: Study, family: PlanFamily, request: PlanRequest): (Offer & { n: number })[] {
  const offered =
    family.offers?.(study, request) ??
    family.sizes(study).map((trials) => ({ trials, replicates: request.replicates }));
  return offered.flatMap((offering) => {
    const n = (offering.trials ?? 0) * (offering.replicates ?? 1) + request.centre;
    if (n > request.budget) return [];
    const options: PlanOptions = {
      family: family.id,
      ...offering,
      centre: request.centre,
      seed: request.seed,
      ...(request.blocks > 1 ? { blocks: request.blocks } : {}),
      ...(request.standardOrder ? { standardOrder: true } : {}),
    };
    return [{ family, options, n }];
  });
}

/** What each quick family offers within the budget, cheapest first. */
function quickOffers(
  study: Study,
  request: PlanRequest,
): { offers: Offer[]; refusals: { family: string; text: string }[] } {
  const offers: (Offer & { n: number })[] = [];
  const refusals: { family: string; text: string }[] = [];
  for (const family of families) {
    if (family.searches) continue;
    const refusal = family.unfit(study);
    if (refusal) refusals.push({ family: family.label, text: unfitOf(refusal) });
    else offers.push(...offersOf(study, family, request));
  }
  return { offers: offers.sort((a, b) => a.n - b.n), refusals };
}

/** Plans to be built for what is asked, at a few sizes within the budget. */
const searchedOffers = (study: Study, request: PlanRequest): Offer[] =>
  families.filter((f) => f.searches && f.unfit(study) === undefined).flatMap((f) => offersOf(study, f, request));

/** What is in sight so far, and what is being searched for. */
export interface PlanSummariesStep {
  summaries: PlanSummary[];
  refusals: { family: string; text: string }[];
  done: number;
  text: string;
}

/** Marks the sharpest at each price: among plans that tell all that is asked, or among all where none does. */
function withFrontier(summaries: readonly PlanSummary[]): PlanSummary[] {
  const out = summaries
    .map((s) => ({ ...s, onFrontier: false }))
    .sort((a, b) => a.n - b.n || (a.ratio ?? Number.POSITIVE_INFINITY) - (b.ratio ?? Number.POSITIVE_INFINITY));
  const able = out.some((s) => s.tellsAll) ? out.filter((s) => s.tellsAll) : out;
  let sharpest = Number.POSITIVE_INFINITY;
  for (const s of able) {
    if (s.ratio !== null && s.ratio < sharpest - 1e-9) {
      sharpest = s.ratio;
      s.onFrontier = true;
    }
  }
  return out;
}

/**
 * Every suitable plan within the budget: the quick families first, kept rivals, then those that are searched for, each
 * joining as it is found. Sent `true` it ends with what is there.
 */
export function* planSummarySteps(
  study: Study,
  request: PlanRequest,
  rivals: readonly Rival[] = [],
  follows: readonly FollowOffer[] = [],
  memo = new Memo(),
): Generator<PlanSummariesStep, PlanSummariesStep, boolean | undefined> {
  const { offers, refusals } = quickOffers(study, request);
  const summaries = new Map<string, PlanSummary>();
  // The list is the same object until a plan joins, so that nobody takes it anew for nothing.
  let list: PlanSummary[] = [];
  const step = (done: number, text: string): PlanSummariesStep => ({ summaries: list, refusals, done, text });
  const searched = searchedOffers(study, request);
  const named = rivals.map((r) => ({
    rival: r,
    options: { ...optionsOf(r.recipe), seed: r.recipe.seed ?? request.seed },
  }));
  const all: { family?: PlanFamily; options: PlanOptions; rival?: Rival }[] = [...offers, ...named, ...searched];
  let clock = performance.now();
  for (const offer of follows) {
    try {
      const summary = summariseFollowUp(study, offer, request, memo);
      summaries.set(summary.id, summary);
      list = withFrontier([...summaries.values()]);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      refusals.push({ family: offer.label, text: error.message });
    }
    if (yield step(0, `next waves: ${offer.label}`)) return step(1, "stopped");
  }
  for (const [i, offer] of all.entries()) {
    const family = offer.family ?? families.find((f) => f.id === offer.options.family);
    if (!family) continue;
    try {
      const steps = planSteps(study, offer.options);
      let made: IteratorResult<PlanProgress, Plan> = steps.next();
      while (!made.done) {
        const best = made.value.best
          ? `, best ${made.value.best.measure} ${made.value.best.value.toFixed(made.value.best.measure === "alias trace" ? 2 : 1)}`
          : "";
        const stop = yield step(
          (i + made.value.done) / all.length,
          `${planLabel(family, offer.options, offer.options.trials ?? 0)}: ${made.value.text}${best}`,
        );
        made = steps.next(stop);
        if (stop) {
          if (made.done) addSight(made.value);
          return step(1, "stopped");
        }
      }
      addSight(made.value);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      const text = error.message;
      // What the region forbids is said before what a family cannot serve: it is what a person can change.
      const first = error.code === "empty-region" || error.code === "one-level";
      if (!refusals.some((r) => r.text === text)) refusals[first ? "unshift" : "push"]({ family: family.label, text });
    }
    function addSight(plan: Plan): void {
      const label = offer.rival?.name ?? planLabel(family as PlanFamily, offer.options, plan.recipe.trials ?? 0);
      const summary = summarisePlan(study, plan, label, offer.options, request, memo);
      const id = offer.rival ? `rival ${offer.rival.id}` : summary.id;
      summaries.set(id, { ...summary, id, ...(offer.rival ? { rival: offer.rival.name } : {}) });
      list = withFrontier([...summaries.values()]);
    }
    if (performance.now() - clock > 40 || i === offers.length - 1) {
      clock = performance.now();
      if (yield step((i + 1) / all.length, "")) return step(1, "stopped");
    }
  }
  return step(1, "");
}

/** The quick families' plans within the budget, in one go. */
export function planSummaries(study: Study, request: PlanRequest): Pick<PlanSummariesStep, "summaries" | "refusals"> {
  const { offers, refusals } = quickOffers(study, request);
  const memo = new Memo();
  const summaries: PlanSummary[] = [];
  for (const { family, options } of offers) {
    try {
      const steps = planSteps(study, options);
      const made = steps.next();
      if (made.done)
        summaries.push(
          summarisePlan(study, made.value, planLabel(family, options, options.trials ?? 0), options, request, memo),
        );
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      if (!refusals.some((r) => r.text === error.message)) refusals.push({ family: family.label, text: error.message });
    }
  }
  return { summaries: withFrontier(summaries), refusals };
}

export interface PlanDetail {
  space: { fraction: number; value: number }[];
  meanError: number | null;
  largestVif: number | null;
  chains: string[];
  definingRelation: string[];
  efficiency: { d: number | null; a: number | null; g: number | null; i: number | null };
  /** trace(A′A) of the terms asked against the two-factor interactions besides. */
  aliasTrace: number | null;
  /** The worst of the alias matrix: a term asked, a term that may be there, and how much of it is taken up. */
  leaks: { term: Term; from: Term; share: number }[];
  /** Of each asked term that can be estimated: inflation of its variance, standard error of its change in σ. */
  terms: { term: Term; vif: number | null; error: number }[];
  /** Of terms that may be there, over the same columns: what of each stands in the estimate of each row. */
  alias: { rows: Term[]; columns: Term[]; values: number[][] };
  /** Of every asked term with every one that may be there; null where there are too many to look at. */
  correlation: number[][] | null;
}

/** Beyond this many terms correlations are left out: each pair of them is a small decomposition. */
const MOST_CORRELATED = 60;

/** The rows that open below: prediction error over the region, inflation, chains in letters, efficiencies, aliasing. */
export function planDetail(study: Study, summary: PlanSummary, request: PlanRequest): PlanDetail {
  const points = judgedPoints(study, summary.plan, request.together === true || summary.follow !== undefined);
  const lost = new Set(summary.lostTerms.map(termKey));
  const terms = requestedTerms(study, request);
  const model = pointModel(study, points, terms);
  const kept = new Set(model.kept.map((c) => c.key));
  const estimable = terms.filter((t) => kept.has(termKey(t)));
  const reduced = pointModel(study, points, estimable);
  const d = varianceReader(encoder(study, estimable), reduced.kept, reduced.inverse);
  const sample = regionSample(study, 1500);
  const space = fractionOfSpace((s) => Math.sqrt(d(s)), sample);
  const mean = sample.length === 0 ? null : Math.sqrt(sample.reduce((t, s) => t + d(s), 0) / sample.length);
  const inflation = termVif(
    reduced,
    estimable.filter((t) => !lost.has(termKey(t))),
  );
  const vif = inflation.reduce((m, v) => Math.max(m, v.value), 0);
  const letters = (t: Term): string => t.map((id) => study.factors.find((f) => f.id === id)?.letter ?? id).join("");
  const possible = possibleTerms(study, estimable);
  const alias = possible.length > 0 ? aliasMatrix(study, points, reduced, possible) : undefined;
  const leaks = (alias?.rows ?? [])
    .flatMap((term, r) => (alias?.columns ?? []).map((from, c) => ({ term, from, share: alias?.values[r][c] ?? 0 })))
    .filter((l) => l.term.length > 0 && Math.abs(l.share) > 0.05)
    .sort((a, b) => Math.abs(b.share) - Math.abs(a.share))
    .slice(0, 12);
  const inflated = new Map(inflation.map((v) => [termKey(v.term), v.value]));
  const errorOf = (key: string): number =>
    reduced.kept.reduce(
      (most, c, j) =>
        c.key === key ? Math.max(most, Math.sqrt(reduced.inverse.data[j * reduced.inverse.cols + j])) : most,
      0,
    );
  const both = [...estimable, ...possible];
  const together = both.length <= MOST_CORRELATED ? correlations(study, points, both).values : null;
  return {
    terms: estimable.map((term) => {
      const key = termKey(term);
      // A change from low to high is two coefficients; from centre to edge, or of a level against the mean, one.
      const single = reduced.kept.filter((c) => c.key === key).length === 1 && termShape(term) !== "square";
      const change = single ? 2 : 1;
      return { term, vif: inflated.get(key) ?? null, error: change * errorOf(key) };
    }),
    alias: singleColumns(alias),
    correlation: together && estimable.map((_, i) => possible.map((__, j) => together[i][estimable.length + j])),
    space,
    meanError: mean,
    largestVif: vif || null,
    chains: summary.regular
      ? aliasChains(summary.regular).map((c) =>
          c.map((m, i) => `${i === 0 ? "" : m.sign < 0 ? " = −" : " = "}${letters(m.term)}`).join(""),
        )
      : [],
    definingRelation: summary.regular?.definingRelation ?? [],
    efficiency: appraisePoints(study, points, { terms: estimable, possible: [] }).efficiency,
    aliasTrace: alias?.trace ?? null,
    leaks,
  };
}

/** An alias matrix by terms: of terms with several columns the largest of them stands for all. */
function singleColumns(alias: AliasMatrix | undefined): PlanDetail["alias"] {
  if (!alias) return { rows: [], columns: [], values: [] };
  const gather = (terms: readonly Term[]): { terms: Term[]; at: number[] } => {
    const seen = new Map<string, number>();
    const list: Term[] = [];
    const at = terms.map((t) => {
      const key = termKey(t);
      const known = seen.get(key);
      if (known !== undefined) return known;
      seen.set(key, list.length);
      list.push(t);
      return list.length - 1;
    });
    return { terms: list, at };
  };
  const rows = gather(alias.rows);
  const columns = gather(alias.columns);
  const values = rows.terms.map(() => columns.terms.map(() => 0));
  alias.values.forEach((line, i) => {
    line.forEach((v, j) => {
      const [r, c] = [rows.at[i], columns.at[j]];
      if (Math.abs(v) > Math.abs(values[r][c])) values[r][c] = v;
    });
  });
  const named = rows.terms.flatMap((t, i) => (t.length > 0 ? [i] : []));
  return { rows: named.map((i) => rows.terms[i]), columns: columns.terms, values: named.map((i) => values[i]) };
}

/** Fewest trials any plan needs to tell a set of terms apart: one per column. */
export const fewestTrials = (study: Study, terms: PlanRequest["terms"]): number =>
  encoder(study, requestedTerms(study, { terms })).columns.length;

/** Whether squares can be asked of this study at all. */
export const bendable = (study: Study): boolean => study.factors.some((f) => f.retired === undefined && canBend(f));

/** One point of the trade between sharpness and aliasing. */
export interface TradePoint {
  keep: number;
  /** D-efficiency reached, %. */
  d: number | null;
  /** trace(A′A) against the possible terms. */
  trace: number;
  options: PlanOptions;
}

const SHARES = [1, 0.97, 0.94, 0.9, 0.85, 0.8, 0.7];
const TRADE_STARTS = 6;

/**
 * The least alias trace at several shares of the best D-efficiency, each point joining as it is found: the plan as it
 * was asked for first, then each share in turn. Every plan found serves all shares below its own.
 */
export function* tradeSteps(
  study: Study,
  options: PlanOptions,
): Generator<PlanProgress & { points: TradePoint[] }, TradePoint[], boolean | undefined> {
  const points: TradePoint[] = [];
  const terms = requestedTerms(study, { terms: options.terms ?? "main" });
  const shares = [...new Set([options.keepEfficiency as number | undefined, ...SHARES])].flatMap((k) => k ?? []);
  for (const [i, keep] of shares.entries()) {
    const asked: PlanOptions = {
      ...options,
      family: "least-aliasing",
      keepEfficiency: keep,
      // The plan as it was asked for is searched as it was then, so that the shown plan is among them.
      ...(keep === options.keepEfficiency ? {} : { starts: options.starts ?? TRADE_STARTS }),
    };
    const steps = planSteps(study, asked);
    let made = steps.next();
    let stopped = false;
    while (!made.done) {
      const stop = yield {
        done: (i + made.value.done) / shares.length,
        text: `keeping ${Math.round(100 * keep)} %: ${made.value.text}`,
        points,
      };
      stopped = stopped || stop === true;
      made = steps.next(stop);
    }
    const a = appraisePoints(study, pointsOfPlan(made.value), { terms });
    points.push({ keep, d: a.efficiency.d, trace: a.alias.trace, options: asked });
    if (stopped) break;
  }
  return points;
}
