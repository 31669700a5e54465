import { followUpSteps } from "../follow-up/follow";
import type { FollowOffer } from "../follow-up/kind";
import { families } from "../plans/families";
import { planSteps } from "../plans/make-plan";
import { optionsOf, type PlanOptions } from "../plans/options";
import { type Plan, type PlanFamily, type PlanProgress, spokenOf } from "../plans/plan";
import { type Beyond, leavesRanges } from "../study/beyond";
import { costBy, pricesOf } from "../study/costs";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import { hardFactors } from "../study/roles";
import type { Rival, Study } from "../study/schema";
import { messageText } from "../words/answers";
import { narrowing, offeredOptions, summariseFollowUp } from "./next-wave-summary";
import { type PlanRequest, type PlanSummary, setupsOf, summarisePlan } from "./plan-summary";

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

/** How a plan's hard factors are set, for its label. */
function setupWords(study: Study, { trials, recipe }: Plan): string {
  if (hardFactors(study).length === 0) return "";
  const setups = setupsOf({ trials });
  if (setups === trials.length) return ", reset every trial";
  return recipe.randomised ? `, random order, ${setups} set-ups` : ` in ${setups} set-ups`;
}

/** What a plan that was made is called in the chart. */
export const madeLabel = (study: Study, family: PlanFamily, options: PlanOptions, plan: Plan): string =>
  `${planLabel(family, options, plan.recipe.trials ?? 0)}${setupWords(study, plan)}`;

interface Offer {
  family: PlanFamily;
  options: PlanOptions;
}

/**
 * The ways hard factors may be set in an offer: kept in set-ups as asked; and beside it what resetting for every trial
 * would buy, and an order that is random over all trials, reset only where a hard factor changes.
 *
 * @param fixed set-ups that the offer has of itself
 */
function waysOf(
  study: Study,
  family: PlanFamily,
  request: PlanRequest,
  n: number,
  first: boolean,
  fixed: number | undefined,
): Partial<PlanOptions>[] {
  if (hardFactors(study).length === 0) return [{}];
  const { setupSize, eta } = request;
  const setups = fixed ?? request.setups;
  const kept = { ...(setups === undefined ? {} : { setups }), ...(setupSize === undefined ? {} : { setupSize }) };
  const ratio = eta === undefined ? {} : { eta };
  const reset = { setups: n, ...ratio };
  // Plans that are searched for are searched for in set-ups, and once beside it for what resetting buys.
  if (family.searches) return first ? [{ ...kept, ...ratio }, reset] : [{ ...kept, ...ratio }];
  return [{ ...kept, ...ratio }, reset, { randomised: true, ...ratio }];
}

/** What a family puts into the chart within the budget. */
function offersOf(
  study: Study,
  family: PlanFamily,
  request: PlanRequest,
): {
  offers: (Offer & { n: number })[];
  /** The fewest trials that it would take, where the budget has room for none of its plans. */
  beyond?: number;
} {
  const offered: Partial<PlanOptions>[] =
    family.offers?.(study, request) ??
    family.sizes(study).map((trials) => ({ trials, replicates: request.replicates }));
  const trialsOf = ({ trials = 0, replicates = 1 }: Partial<PlanOptions>): number =>
    trials * replicates + request.centre;
  const least = Math.min(...offered.map(trialsOf));
  if (offered.length > 0 && least > request.budget) return { offers: [], beyond: least };
  const offers = offered.flatMap((offering, place) => {
    const n = trialsOf(offering);
    if (n > request.budget) return [];
    return waysOf(study, family, request, n, place === 0, offering.setups).map((way) => {
      const options: PlanOptions = {
        family: family.id,
        ...offering,
        ...way,
        centre: request.centre,
        seed: request.seed,
        ...(request.blocks > 1 ? { blocks: request.blocks } : {}),
        ...(request.standardOrder ? { standardOrder: true } : {}),
      };
      return { family, options, n };
    });
  });
  return { offers };
}

/** What each quick family offers within the budget, cheapest first. */
function quickOffers(
  study: Study,
  request: PlanRequest,
): { offers: (Offer & { n: number })[]; refusals: PlanRefusal[] } {
  const offers: (Offer & { n: number })[] = [];
  const refusals: PlanRefusal[] = [];
  for (const family of families) {
    if (family.searches) continue;
    const refusal = family.unfit(study);
    if (refusal) {
      refusals.push({ family: family.label, text: messageText("unfits", refusal) });
      continue;
    }
    const { offers: own, beyond } = offersOf(study, family, request);
    offers.push(...own);
    if (beyond !== undefined) {
      const values = { family: spokenOf(family), least: beyond, budget: request.budget };
      refusals.push({ family: family.label, text: messageText("unfits", { code: "over-budget", values }) });
    }
  }
  return { offers: offers.sort((a, b) => a.n - b.n), refusals };
}

/** Plans to be built for what is asked, at a few sizes within the budget. */
const searchedOffers = (study: Study, request: PlanRequest): (Offer & { n: number })[] =>
  families.filter((f) => f.searches && f.unfit(study) === undefined).flatMap((f) => offersOf(study, f, request).offers);

/** What cannot be planned here and why; `follow` where it is a kind of next wave. */
export interface PlanRefusal {
  family: string;
  text: string;
  follow?: { kind: string; narrows?: true; name: FollowOffer["name"]["code"]; open?: readonly Beyond[] };
}

/** What is in sight so far, and what is being searched for. */
export interface PlanSummariesStep {
  summaries: PlanSummary[];
  refusals: PlanRefusal[];
  /**
   * The least that a plan still to come costs, none that is cheaper coming after it; infinite where none will come,
   * below 0 until the waves that may follow are there.
   */
  toCome: number;
  done: number;
  text: string;
}

/** Marks the sharpest at each price: among plans that tell all that is asked, or among all where none does. */
function withFrontier(summaries: readonly PlanSummary[]): PlanSummary[] {
  const out = summaries
    .map((s) => ({ ...s, onFrontier: false }))
    .sort((a, b) => a.cost - b.cost || (a.ratio ?? Number.POSITIVE_INFINITY) - (b.ratio ?? Number.POSITIVE_INFINITY));
  const telling = out.some((s) => s.tellsAll) ? out.filter((s) => s.tellsAll) : out;
  // In set-ups a stated noise may be all there is to judge hard factors by; that is no match for a plan's own error.
  const able = telling.filter((s) => !(s.strata && s.noErrorDf));
  let sharpest = Number.POSITIVE_INFINITY;
  for (const s of able) {
    if (s.ratio !== null && s.ratio < sharpest - 1e-9) {
      sharpest = s.ratio;
      s.onFrontier = true;
    }
  }
  return out;
}

/** Something to be looked at for the chart: a plan of a family, one kept under a name, or a wave that may follow. */
interface Sight {
  label: string;
  /** The least it can cost; below 0 of waves, left out of what was kept by hand and of long searches for waves. */
  least?: number;
  /** It needs no search: it is shown as it comes. */
  quick: boolean;
  look(): Generator<PlanProgress, PlanSummary | undefined, boolean | undefined>;
  refused(error: StudyError): PlanRefusal;
}

/** How far a search is, in a line. */
const searchText = ({ text, best }: PlanProgress): string =>
  `${text}${best ? `, best ${best.measure} ${best.value.toFixed(best.measure === "alias trace" ? 2 : 1)}` : ""}`;

/** A plan to be made: of a family, or kept under a name. */
function planSight(
  study: Study,
  { family, options, rival, ...more }: Offer & { least?: number; rival?: Rival; quick: boolean },
  request: PlanRequest,
  memo: Memo,
): Sight {
  return {
    label: rival?.name ?? planLabel(family, options, options.trials ?? 0),
    ...more,
    *look() {
      const plan = yield* planSteps(study, options);
      // A random order that changes hard factors at every trial is the plan that is reset for every one.
      if (plan.recipe.randomised && setupsOf(plan) === plan.trials.length) return undefined;
      const label = rival?.name ?? madeLabel(study, family, options, plan);
      const summary = summarisePlan(study, plan, label, options, request, memo);
      return rival ? { ...summary, id: `rival ${rival.id}`, rival: rival.name } : summary;
    },
    refused: (error) => ({ family: family.label, text: error.message }),
  };
}

/** A wave that may follow; more trials for all that is asked, whose search may be long, come after what is quick. */
function followSight(study: Study, offer: FollowOffer, request: PlanRequest, at: { memo: Memo; place: number }): Sight {
  const label = messageText("waveNames", offer.name);
  const quick = offer.name.code !== "more";
  return {
    label,
    quick,
    ...(quick ? { least: -1 } : {}),
    *look() {
      if (offer.open) throw leavesRanges(study, offer.open);
      const made = yield* followUpSteps(study, offeredOptions(study, offer, request));
      return summariseFollowUp(study, offer, made, request, at);
    },
    refused: (error) => ({
      family: label,
      text: error.message,
      follow: {
        kind: offer.options.kind,
        ...narrowing(offer),
        name: offer.name.code,
        ...(offer.open ? { open: offer.open } : {}),
      },
    }),
  };
}

/**
 * Every suitable plan within the budget: waves that may follow and the quick families first, kept rivals, then what is
 * searched for, each joining as it is found. Sent `true` it ends with what is there.
 */
export function* planSummarySteps(
  study: Study,
  request: PlanRequest,
  rivals: readonly Rival[] = [],
  follows: readonly FollowOffer[] = [],
  memo = new Memo(),
): Generator<PlanSummariesStep, PlanSummariesStep, boolean | undefined> {
  const { offers, refusals } = quickOffers(study, request);
  const prices = pricesOf(study);
  const ofPlan = (quick: boolean) => (offer: Offer & { n: number }) =>
    // Without the set-ups that it will turn out to have.
    planSight(
      study,
      { ...offer, quick, least: costBy(prices, { trials: offer.n, waves: request.blocks }) },
      request,
      memo,
    );
  const kept = rivals.flatMap((rival) => {
    const family = families.find((f) => f.id === rival.recipe.family);
    const options = { ...optionsOf(rival.recipe), seed: rival.recipe.seed ?? request.seed };
    return family ? [planSight(study, { family, options, rival, quick: false }, request, memo)] : [];
  });
  const waves = follows.map((offer, place) => followSight(study, offer, request, { memo, place }));
  const sights = [
    ...waves.filter((w) => w.quick),
    ...offers.map(ofPlan(true)),
    ...waves.filter((w) => !w.quick),
    ...kept,
    ...searchedOffers(study, request).map(ofPlan(false)),
  ];
  const summaries = new Map<string, PlanSummary>();
  // The list is the same object until a plan joins, so that nobody takes it anew for nothing.
  let list: PlanSummary[] = [];
  let toCome = -1;
  const step = (done: number, text: string): PlanSummariesStep => ({ summaries: list, refusals, toCome, done, text });
  const join = (summary: PlanSummary | undefined): void => {
    if (!summary) return;
    // Kept in set-ups, a small plan may come to be the one that is reset for every trial.
    const { id, label, cost, ratio, rival } = summary;
    const same = [...summaries.values()].find((s) => s.label === label && s.cost === cost && !s.rival);
    if (same && same.id !== id && !rival && same.ratio === ratio) return;
    summaries.set(id, summary);
    list = withFrontier([...summaries.values()]);
  };
  let clock = performance.now();
  for (const [i, sight] of sights.entries()) {
    try {
      const steps = sight.look();
      let made = steps.next();
      while (!made.done) {
        const stop = yield step((i + made.value.done) / sights.length, `${sight.label}: ${searchText(made.value)}`);
        made = steps.next(stop);
        if (stop) {
          if (made.done) join(made.value);
          return step(1, "stopped");
        }
      }
      join(made.value);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      const refusal = sight.refused(error);
      // What the region forbids is said before what a family cannot serve: it is what a person can change.
      const first = error.code === "empty-region" || error.code === "one-level";
      if (refusal.follow || !refusals.some((r) => r.text === refusal.text))
        refusals[first ? "unshift" : "push"](refusal);
    }
    toCome = Math.min(...sights.slice(i + 1).flatMap(({ least }) => least ?? []));
    if (performance.now() - clock > 40 || (sight.quick && !sights[i + 1]?.quick)) {
      clock = performance.now();
      if (yield step((i + 1) / sights.length, "")) return step(1, "stopped");
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
          summarisePlan(study, made.value, madeLabel(study, family, options, made.value), options, request, memo),
        );
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      if (!refusals.some((r) => r.text === error.message)) refusals.push({ family: family.label, text: error.message });
    }
  }
  return { summaries: withFrontier(summaries), refusals };
}
