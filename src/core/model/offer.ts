import { clearOf } from "../numerics/least-squares";
import { askedTerms } from "../plans/asked";
import { Memo } from "../study/memo";
import { activeFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { activeTerms, parentsOf } from "../terms/candidates";
import { termKey, termShape } from "../terms/term";
import { choose, type Products, type Rule } from "./choosing";
import { type ClearedColumns, clearedColumns } from "./cleared";
import { besideCentre } from "./curvature";
import { type Fitting, fittingOf, storedModel } from "./data";
import { type Fit, fitModel } from "./fit";
import { hasSquares } from "./fitted";
import { onNoise } from "./on-noise";
import { reduceModel } from "./reduce";
import { tooSmall } from "./too-small";

/** Residual degrees of freedom that the model first offered leaves, where it is chosen. */
export const LEAST_OFFERED = 3;

/** What the terms of a model are chosen by, where a person says nothing. */
export type OfferRule = Pick<Rule, "by" | "alpha" | "mains">;

/**
 * p to stay: main effects by the first; of all others the first by which noise alone would keep few. Of many candidates
 * beside few trials more would stay by chance than act. Measured over the planted studies of `bench/guidance.ts`.
 */
const LEVELS = [0.15, 0.05, 0.01, 0.002];
/** Terms but main effects that noise alone may keep on average. */
const FEW_BY_NOISE = 2;
/** Draws that tell how many it keeps, and what they may cost: columns to the third power each. */
const DRAWS = { least: 9, most: 39, cost: 4e6 };

/** The model first offered of a response, and what it was chosen from. */
export interface Offer {
  /** What the waves in use were made to tell; of terms that their trials cannot tell apart, one. */
  candidates: Term[];
  kept: Term[];
  /** What it was chosen by; nothing where all main effects stand in: nothing else was asked, or trials are too few. */
  by?: Rule["by"];
  /** p to stay, where it was chosen by p, and that of main effects. */
  alpha?: number;
  mains?: number;
}

/** Columns shorter than this beside those before them, whole ones being of length one, tell nothing of their own. */
const NOTHING = 1e-7;

/**
 * Of terms, those that trials can tell beside the ones before them: main effects first, then squares, then interactions
 * in the order that heredity makes likely, so that of a chain the likeliest member stands for it.
 *
 * @param mains a fit of all main effects
 */
function toldApart(study: Study, mains: Fit, terms: readonly Term[]): Term[] {
  const sizes = new Map<string, number>();
  for (const p of mains.parameters) {
    const key = termKey(p.term);
    sizes.set(key, Math.max(sizes.get(key) ?? 0, Math.abs(p.t ?? p.coefficient)));
  }
  // Both parents large: the lesser of them decides.
  const likely = (t: Term): number => Math.min(...t.map((id) => sizes.get(id) ?? 0));
  const rank = (t: Term): number => (t.length === 1 ? 0 : termShape(t) === "square" ? 1 : 2);
  const cleared = clearedColumns(study, mains, terms, mains.data.planned);
  const basis: Float64Array[] = [];
  const told = new Set<number>();
  const order = terms.map((_, t) => t);
  order.sort((a, b) => rank(terms[a]) - rank(terms[b]) || likely(terms[b]) - likely(terms[a]) || a - b);
  for (const t of order) {
    if (cleared.dead[t] || cleared.width[t] === 0) continue;
    const own: Float64Array[] = [];
    for (let j = cleared.firstColumn[t]; j < cleared.firstColumn[t] + cleared.width[t]; j++) {
      const v = cleared.vectors[j].slice();
      for (let pass = 0; pass < 2; pass++) clearOf([...basis, ...own], v);
      const length = Math.sqrt(v.reduce((s, x) => s + x * x, 0));
      if (length > NOTHING) own.push(v.map((x) => x / length));
    }
    if (own.length < cleared.width[t]) continue;
    basis.push(...own);
    told.add(t);
  }
  return terms.filter((_, t) => told.has(t));
}

/** Columns of candidates as choosing takes them. */
export function productsOf(terms: readonly Term[], cleared: ClearedColumns): Products {
  const places = new Map(terms.map((t, i) => [termKey(t), i]));
  return {
    cross: cleared.products,
    columns: terms.map((_, t) => Array.from({ length: cleared.width[t] }, (__, j) => cleared.firstColumn[t] + j)),
    parents: terms.map((t) => parentsOf(t).flatMap((p) => places.get(termKey(p)) ?? [])),
    trials: cleared.n,
    standing: cleared.baseRank,
  };
}

/**
 * The model first offered: of what the waves in use were made to tell, the terms that stay by backward choosing under
 * strong hierarchy (forward where fewer than three degrees of freedom would be left), on the scale and with the waves
 * that are asked for.
 * @throws StudyError as `fitModel`
 */
export function offeredModel(
  study: Study,
  response: string,
  fitting: Fitting,
  memo: Memo = new Memo(),
  rule?: OfferRule,
): Offer {
  const { trials, factors, waves, covariates, confidence } = study;
  const about = study.responses.find((r) => r.id === response);
  const key = JSON.stringify([fitting, rule]);
  return memo.get("offer", [trials, factors, waves, covariates, confidence, about, key], () => {
    const every = activeFactors(study).map((f): Term => [f.id]);
    const mains = fitModel(study, response, { terms: every, ...fitting }, memo);
    const asked = besideCentre(
      askedTerms(study, mains.data.trials),
      mains.fitting.curvature ? mains.centre : undefined,
    );
    const candidates = toldApart(study, mains, asked);
    const told = every.filter((t) => candidates.some((c) => termKey(c) === termKey(t)));
    const enough = mains.summary.residualDf >= LEAST_OFFERED;
    // A screen is run to rank its factors: what is kept out for noise costs more settings than what noise keeps in.
    if (enough && told.length === candidates.length) return { candidates, kept: told };
    const one = Math.min(...mains.model.columns.map((c) => mains.model.columns.filter((o) => o.key === c.key).length));
    // Not one term could come in and leave enough to judge it by.
    if (mains.n - standingColumns(mains) - one < LEAST_OFFERED) return { candidates, kept: told };
    const {
      kept,
      by,
      alpha,
      mains: own,
    } = rule
      ? { ...rule, kept: keptOf(study, mains, candidates, rule, memo) }
      : usualOffer(study, mains, candidates, memo);
    return { candidates, kept, by, ...(by === "p" ? { alpha, ...(own === undefined ? {} : { mains: own }) } : {}) };
  });
}

/** Columns of the constant, waves and the centre in a model. */
function standingColumns({ model }: Fit): number {
  const own = new Set(model.terms.map(termKey));
  return model.columns.filter((c) => !own.has(c.key)).length;
}

/** By p, at the level that suits how many terms there are to choose from: it rests on the plan, not on its results. */
function usualRule(
  study: Study,
  { response, fitting, data, model }: Fit,
  candidates: readonly Term[],
  memo: Memo,
): OfferRule {
  const { factors, waves, covariates } = study;
  // Weights of trials are a response's own.
  const own = data.weights || data.pieces || model.likelihood || data.setups ? [study.trials, response] : [];
  const plan = JSON.stringify([fitting, candidates, data.actual, data.waves]);
  return memo.get("offer rule", [factors, waves, covariates, plan, ...own], (): OfferRule => {
    const base = fitModel(study, response, { terms: [], ...fitting }, memo);
    const cleared = clearedColumns(study, base, candidates);
    const rule = { by: "p", mains: LEVELS[0], leastDf: LEAST_OFFERED } as const;
    const { least, most, cost } = DRAWS;
    const draws = Math.round(Math.min(most, Math.max(least, cost / cleared.total ** 3)));
    const few = (alpha: number): boolean => {
      const products = productsOf(candidates, cleared);
      let terms = 0;
      for (const { kept } of onNoise(base, cleared, products, { ...rule, alpha }, draws)) {
        terms += kept.filter((is, t) => is && products.parents[t].length > 0).length;
        if (terms > FEW_BY_NOISE * draws) return false;
      }
      return true;
    };
    const last = LEVELS[LEVELS.length - 1];
    return { by: "p", alpha: LEVELS.slice(0, -1).find(few) ?? last, mains: LEVELS[0] };
  });
}

/**
 * The terms that stay by the usual rule; at a stricter level where what they leave is less than the noise that is
 * stated, or that copies show, allows, and some level is free of that.
 */
function usualOffer(study: Study, mains: Fit, candidates: readonly Term[], memo: Memo): OfferRule & { kept: Term[] } {
  const rule = usualRule(study, mains, candidates, memo);
  const offers = LEVELS.filter((alpha) => alpha <= rule.alpha).map((alpha) => () => {
    const own = { ...rule, alpha, mains: rule.mains ?? alpha };
    return { ...own, kept: keptOf(study, mains, candidates, own, memo) };
  });
  const free = ({ kept }: { kept: Term[] }): boolean =>
    tooSmall(study, fitModel(study, mains.response, { terms: kept, ...mains.fitting }, memo)) === undefined;
  const first = offers[0]();
  if (free(first)) return first;
  for (const offer of offers.slice(1)) {
    const stricter = offer();
    if (free(stricter)) return stricter;
  }
  return first;
}

function keptOf(study: Study, mains: Fit, candidates: readonly Term[], rule: OfferRule, memo: Memo): Term[] {
  const { response, model, fitting } = mains;
  if (hasSquares(model.summary)) {
    const cleared = clearedColumns(study, mains, candidates);
    if (!cleared.dead.some(Boolean)) {
      const { kept, rss } = choose(productsOf(candidates, cleared), { ...rule, leastDf: LEAST_OFFERED });
      // Where nothing is left of the results, what is left is rounding and judges nothing.
      if (rss > NOTHING ** 2 * (cleared.products.at(-1) ?? 0)) return candidates.filter((_, t) => kept[t]);
    }
  }
  const options = { direction: "backward", ...rule, hierarchy: "strong", ...fitting } as const;
  return reduceModel(study, response, candidates, options, memo).fit.terms;
}

/** The terms a first fit takes: the stored model's, else those of the model first offered. */
export function defaultTerms(study: Study, response: string, memo?: Memo): Term[] {
  const stored = storedModel(study, response);
  return stored ? stored.terms : offeredModel(study, response, fittingOf(undefined), memo).kept;
}

/**
 * The fit of a response as the study stands: its stored model, else the one first offered; terms of retired factors
 * left out.
 * @throws StudyError as `fitModel`
 */
export function presentFit(study: Study, response: string, memo?: Memo): Fit {
  const stored = storedModel(study, response);
  const terms = activeTerms(study, defaultTerms(study, response, memo));
  return fitModel(study, response, { terms, ...fittingOf(stored) }, memo);
}
