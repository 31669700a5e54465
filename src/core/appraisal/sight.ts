import { normalQuantile } from "../numerics/distributions";
import { families } from "../plans/families";
import { makePlan } from "../plans/make-plan";
import type { Plan, PlanOptions } from "../plans/plan";
import { StudyError } from "../study/error";
import type { Study, Term } from "../study/schema";
import { canBend, possibleTerms, type TermSetName, termSet } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import { aliasChains, correlations, type Regular, regularOf, type TermMapEntry, termMap } from "./aliasing";
import { cellsOf, pureErrorDf, termVif } from "./appraise";
import { detectable, reaches } from "./power";
import { type Points, pointModel } from "./terms-info";
import { fractionOfSpace, regionSample, varianceReader } from "./variance";

/** What a person asks a plan to tell, and at what price. */
export interface Ask {
  terms: TermSetName;
  budget: number;
  replicates: number;
  centre: number;
  power: number;
  alpha: number;
  seed: number;
  standardOrder: boolean;
}

/** A plan as the cost–sight chart sees it. */
export interface Sight {
  id: string;
  label: string;
  options: PlanOptions;
  plan: Plan;
  n: number;
  /** Smallest effect in σ it would detect: the worst main effect or asked interaction it can estimate. */
  ratio: number | null;
  /** The same for squares, which are measured from centre to edge. */
  squareRatio: number | null;
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
}

/** Points of a plan together with all trials the study already has that count. */
const planPoints = (plan: Plan): Points => ({ settings: plan.trials.map((t) => t.settings), waves: plan.trials.map((t) => t.wave) });

/** Detectable effect without error degrees of freedom: the normal's, at the stated noise. */
const byStatedNoise = (unit: number, power: number, alpha: number): number =>
  (normalQuantile(1 - alpha / 2) + normalQuantile(power)) / Math.sqrt(unit);

/** Looks at one plan for what is asked. */
export function sightOf(study: Study, plan: Plan, label: string, options: PlanOptions, ask: Ask): Sight {
  const points = planPoints(plan);
  const terms = termSet(study, ask.terms);
  const n = points.settings.length;
  const model = pointModel(study, points, terms);
  const residualDf = n - model.rank.rank;
  const reach = reaches(study, model, terms);
  const worst = (list: typeof reach): number | null => {
    let value: number | null = null;
    for (const r of list) {
      const ratio = residualDf > 0 ? detectable(r, ask.power, ask.alpha, residualDf) : byStatedNoise(r.unit, ask.power, ask.alpha);
      if (ratio !== null) value = value === null ? ratio : Math.max(value, ratio);
    }
    return value;
  };
  const candidates = [...terms, ...(ask.terms === "main" ? possibleTerms(study, terms) : [])];
  const map = termMap(correlations(study, points, candidates));
  const keys = new Set(terms.map(termKey));
  const lostTerms = map
    .filter(
      (m) =>
        keys.has(termKey(m.term)) &&
        (model.rank.dropped.some((d) => model.columns[d.column].key === termKey(m.term)) ||
          (m.state === "lost" && m.with.some((t) => keys.has(termKey(t))))),
    )
    .map((m) => m.term);
  const pure = Math.min(Math.max(0, residualDf), pureErrorDf(cellsOf(study, points.settings), points.waves));
  const regular = regularOf(study, points);
  return {
    id: `${options.family}-${plan.recipe.trials ?? 0}-${options.replicates ?? 1}-${options.centre ?? 0}`,
    label,
    options,
    plan,
    n,
    ratio: worst(reach.filter((r) => termShape(r.term) !== "square")),
    squareRatio: worst(reach.filter((r) => termShape(r.term) === "square")),
    tellsAll: lostTerms.length === 0 && plan.lost === 0,
    noErrorDf: residualDf < 1,
    lostTerms,
    map,
    df: { model: model.rank.rank - 1, lackOfFit: Math.max(0, residualDf) - pure, pureError: pure },
    resolution: regular?.resolution ?? null,
    regular,
    onFrontier: false,
  };
}

/** Every suitable plan within the budget, cheapest first, with the frontier of the sharpest at each price marked. */
export function sightsFor(study: Study, ask: Ask): { sights: Sight[]; refusals: { family: string; text: string }[] } {
  const sights: Sight[] = [];
  const refusals: { family: string; text: string }[] = [];
  for (const family of families) {
    // Plans built for a model take seconds: they are searched for aside and join as they are found.
    if (family.searches) continue;
    const refusal = family.unfit(study);
    if (refusal) {
      refusals.push({ family: family.label, text: refusal });
      continue;
    }
    for (const size of family.sizes(study)) {
      // Twice over as well where the budget allows: replicates compete with larger fractions.
      for (const replicates of [ask.replicates, 2 * ask.replicates]) {
        if (size * replicates + ask.centre > ask.budget) continue;
        const options: PlanOptions = {
          family: family.id,
          trials: size,
          replicates,
          centre: ask.centre,
          seed: ask.seed,
          ...(ask.standardOrder ? { standardOrder: true } : {}),
        };
        try {
          sights.push(sightOf(study, makePlan(study, options), `${family.label} ${size}${replicates > 1 ? ` × ${replicates}` : ""}`, options, ask));
        } catch (error) {
          if (!(error instanceof StudyError)) throw error;
          refusals.push({ family: `${family.label} ${size}`, text: error.message });
        }
      }
    }
  }
  sights.sort((a, b) => a.n - b.n || (a.ratio ?? Number.POSITIVE_INFINITY) - (b.ratio ?? Number.POSITIVE_INFINITY));
  // The frontier joins plans that tell all that is asked; where none does, all of them compete.
  const able = sights.some((s) => s.tellsAll) ? sights.filter((s) => s.tellsAll) : sights;
  let sharpest = Number.POSITIVE_INFINITY;
  for (const s of able) {
    if (s.ratio !== null && s.ratio < sharpest - 1e-9) {
      sharpest = s.ratio;
      s.onFrontier = true;
    }
  }
  return { sights, refusals };
}

/** The rows that open below: prediction error over the region, inflation, chains in letters. */
export function sightDetail(
  study: Study,
  sight: Sight,
  ask: Ask,
): {
  space: { fraction: number; value: number }[];
  meanError: number | null;
  largestVif: number | null;
  chains: string[];
  definingRelation: string[];
} {
  const points = planPoints(sight.plan);
  const lost = new Set(sight.lostTerms.map(termKey));
  const model = pointModel(study, points, termSet(study, ask.terms));
  const kept = [...new Set(model.kept.map((c) => c.key))];
  const estimable = termSet(study, ask.terms).filter((t) => kept.includes(termKey(t)));
  const reduced = pointModel(study, points, estimable);
  const d = varianceReader(encoder(study, estimable), reduced.kept, reduced.inverse);
  const sample = regionSample(study, 1500);
  const space = fractionOfSpace((s) => Math.sqrt(d(s)), sample);
  const mean = sample.length === 0 ? null : Math.sqrt(sample.reduce((t, s) => t + d(s), 0) / sample.length);
  const vif = termVif(
    reduced,
    estimable.filter((t) => !lost.has(termKey(t))),
  ).reduce((m, v) => Math.max(m, v.value), 0);
  const letters = (t: Term): string => t.map((id) => study.factors.find((f) => f.id === id)?.letter ?? id).join("");
  return {
    space,
    meanError: mean,
    largestVif: vif || null,
    chains: sight.regular
      ? aliasChains(sight.regular).map((c) => c.map((m, i) => `${i === 0 ? "" : m.sign < 0 ? " = −" : " = "}${letters(m.term)}`).join(""))
      : [],
    definingRelation: sight.regular?.definingRelation ?? [],
  };
}

/** Fewest trials any plan needs to tell a set of terms apart: one per column. */
export const fewestTrials = (study: Study, name: TermSetName): number => encoder(study, termSet(study, name)).columns.length;

/** Whether squares can be asked of this study at all. */
export const bendable = (study: Study): boolean => study.factors.some((f) => f.retired === undefined && canBend(f));
