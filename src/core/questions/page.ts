import * as z from "zod";
import { modelReadings } from "../findings/model";
import type { Reading } from "../findings/reading";
import { setpointDoubts } from "../findings/setpoint";
import { trialsReadings } from "../findings/trials";
import { followUpNamed } from "../follow-up/follow";
import type { FollowOffer } from "../follow-up/kind";
import { nextWaves } from "../follow-up/next-waves";
import { type Check, runChecks } from "../model/checklist";
import { presentFit } from "../model/offer";
import { type PlanDetail, planDetail } from "../planning/plan-detail";
import { fewestTrials, type PlanRequest, type PlanSummary } from "../planning/plan-summary";
import { type PlanSummariesStep, planSummarySteps } from "../planning/plans-in-sight";
import { type TradePoint, tradeSteps } from "../planning/trade";
import type { PlanOptions } from "../plans/options";
import { setpointProblem } from "../setpoint/goals";
import { StudyError } from "../study/error";
import type { Memo } from "../study/memo";
import { isStanding } from "../study/roles";
import type { Study } from "../study/schema";
import { completeFollow } from "./follow";
import { settings } from "./parts";
import { planInput } from "./plan";
import { atOnce, defined, defineQuestion, type Steps } from "./question";

/**
 * Questions of the application's own pages: their answers are shown as they come and have no shape of their own
 * outside.
 */

/** The next waves that a study's evidence speaks for, those whose options can be filled in. */
function followOffers(study: Study, request: PlanRequest, memo: Memo): FollowOffer[] {
  const { carry } = request;
  const offers = nextWaves(study, carry?.factors, memo);
  const more: FollowOffer[] = offers.length === 0 ? [] : [moreTrials(study, request)];
  return [...offers, ...more].flatMap((offer): FollowOffer[] => {
    if (offer.open) return [offer];
    try {
      const { factors: _factors, ...how } = carry ?? {};
      const options = followUpNamed(offer.options.kind).narrows ? { ...offer.options, ...how } : offer.options;
      return [{ ...offer, options: completeFollow(study, options) }];
    } catch (error) {
      // A path that no model can draw is no offer.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/** Degrees of freedom for error that more trials leave, unless a number of them is asked for. */
const LEFT = 3;

/** As many more trials as are asked for, or as it takes to tell all that is asked, where they tell most of it. */
function moreTrials(study: Study, { terms, more }: PlanRequest): FollowOffer {
  const there = study.trials.filter(isStanding).length;
  const needed = fewestTrials(study, terms) + study.waves.length + LEFT - there;
  return {
    options: { kind: "augment", trials: more ?? Math.max(4, needed), terms },
    name: { code: "more", values: {} },
  };
}

/** All plans in sight of what is asked, those that are searched for joining as they are found. */
export const summaries = defineQuestion({
  id: "summaries",
  summary: "All plans within what is asked, joining as they are found",
  pageOnly: true,
  input: {
    ask: z.custom<PlanRequest>((v) => typeof v === "object" && v !== null),
    rivals: z.boolean().optional(),
  },
  answer: z.unknown(),
  heavy: () => true,
  *run(study, { ask: request, rivals }, memo): Steps<PlanSummariesStep> {
    const steps = planSummarySteps(
      study,
      request,
      rivals === false ? [] : study.rivals,
      followOffers(study, request, memo),
    );
    let step = steps.next();
    let sent: PlanSummariesStep | undefined;
    while (!step.done) {
      const { done, text, summaries: now, toCome } = step.value;
      // The plans themselves go along only when one has joined, or what may still come is another.
      const best = now === sent?.summaries && toCome === sent.toCome ? {} : { best: step.value };
      sent = step.value;
      step = steps.next(yield { done, text, ...best });
    }
    return step.value;
  },
});

/** The curve of least aliasing against D-efficiency kept. */
export const trade = defineQuestion({
  id: "trade",
  summary: "The least alias trace at several shares of the best D-efficiency",
  pageOnly: true,
  input: planInput,
  answer: z.unknown(),
  heavy: () => true,
  *run(study, input): Steps<TradePoint[]> {
    const steps = tradeSteps(study, defined(input) as PlanOptions);
    let step = steps.next();
    while (!step.done) {
      const { done, text, points } = step.value;
      step = steps.next(yield { done, text, best: points });
    }
    return step.value;
  },
});

/** What takes longer to read off a study than a frame of the screen lasts. */
export interface StationEvidence {
  /** Of the response's present model; none on Trials. */
  checks: Check[];
  readings: Reading[];
}

/** The checks and readings of a response's present model, the readings of the ledger, or doubts about a setpoint. */
export const evidence = defineQuestion({
  id: "evidence",
  summary: "Checks and readings of a station",
  pageOnly: true,
  input: {
    of: z.discriminatedUnion("station", [
      z.strictObject({ station: z.literal("model"), response: z.string() }),
      z.strictObject({ station: z.literal("trials") }),
      z.strictObject({ station: z.literal("setpoint"), settings }),
    ]),
  },
  answer: z.unknown(),
  heavy: () => true,
  run: (study, { of }, memo) =>
    atOnce((): StationEvidence => {
      if (of.station === "trials") return { checks: [], readings: trialsReadings(study, memo) };
      if (of.station === "setpoint")
        return { checks: [], readings: setpointDoubts(setpointProblem(study, memo), of.settings) };
      const fit = presentFit(study, of.response, memo);
      const checks = runChecks(study, fit, memo);
      return { checks, readings: modelReadings(study, fit, memo, checks) };
    }),
});

/** The rows that open below a plan. */
export const detail = defineQuestion({
  id: "detail",
  summary: "What a plan can tell, row by row",
  pageOnly: true,
  input: {
    summary: z.custom<PlanSummary>((v) => typeof v === "object" && v !== null),
    ask: z.custom<PlanRequest>((v) => typeof v === "object" && v !== null),
  },
  answer: z.unknown(),
  heavy: () => true,
  run: (study, { summary, ask }) => atOnce((): PlanDetail => planDetail(study, summary, ask)),
});
