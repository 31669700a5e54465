import * as z from "zod";
import { joinedPoints, pointsOf, pointsOfPlan } from "../appraisal/terms-info";
import { type FollowUp, followUpNamed, followUpSteps } from "../follow-up/follow";
import { followUps } from "../follow-up/kinds";
import type { augment } from "../follow-up/kinds/augment";
import type { carry } from "../follow-up/kinds/carry";
import type { FollowOptions } from "../follow-up/options";
import { adoptPlan } from "../plans/adopt";
import { axialOption } from "../plans/families/composite";
import { commonOptions, MOST_PLANNED, termList } from "../plans/options";
import { additions } from "../study/edit";
import type { Study } from "../study/schema";
import { messageText } from "../words/answers";
import { appraisalAnswer, type JudgedAppraisal, judge } from "./appraise";
import { isLarge, reading, settings } from "./parts";
import { excludedReadings, type PlanAnswer, planAnswer, planKeys } from "./plan";
import { defined, defineQuestion, type Steps, shapes } from "./question";

/** A next wave with what it is for and what all trials tell without and with it. */
export interface FollowAnswer extends PlanAnswer {
  purpose: string;
  /** All trials without and with the wave, judged by the same terms. */
  before: JudgedAppraisal | null;
  after: JudgedAppraisal;
  readings: z.output<typeof reading>[];
}

/**
 * A next wave's options with what only models know filled in.
 * @throws StudyError where no model knows it
 */
export const completeFollow = (study: Study, options: FollowOptions): FollowOptions =>
  followUpNamed(options.kind).complete?.(study, options) ?? options;

/** Options that belong to some kinds alone. */
const ownOptions: typeof augment.options & typeof carry.options = Object.assign({}, ...followUps.map((k) => k.options));

function answerOf(study: Study, { plan, purpose, cautions }: FollowUp, terms: FollowOptions["terms"]): FollowAnswer {
  const earlier = pointsOf(study);
  const points = pointsOfPlan(plan);
  const recipes = [...study.waves.map((w) => w.plan), plan.recipe];
  const all = joinedPoints(earlier, points);
  return {
    ...planAnswer(study, plan, { terms }),
    purpose,
    before: earlier.settings.length === 0 ? null : judge(study, earlier, { terms }, recipes),
    after: judge(study, all, { terms }, recipes),
    readings: [
      ...cautions.map((c) => ({ kind: "caution" as const, text: messageText("remarks", c), evidence: "plans" })),
      ...excludedReadings(plan),
    ],
  };
}

export const follow = defineQuestion({
  id: "follow",
  summary: "Plan the wave that follows the trials of a study, appraised without and with it",
  input: {
    kind: z.enum(followUps.map((k) => k.id)).describe("what the wave does"),
    factors: z.array(z.string()).max(50).optional().describe("factors turned, moved or carried on, such as A,B"),
    half: z.boolean().optional().describe("fold-over: half of it"),
    trials: z.number().int().positive().max(MOST_PLANNED).optional().describe("new trials; copies of a repeat"),
    centre: z.number().int().nonnegative().max(MOST_PLANNED).optional().describe("centre points beside the others"),
    terms: termList.optional().describe("terms to separate, or to appraise for"),
    axial: axialOption,
    ...ownOptions,
    at: settings.optional().describe("where to confirm, start a path or hold idle factors"),
    of: z.array(z.string()).max(500).optional().describe("ids of the trials to repeat"),
    response: z.string().optional().describe("the response a path climbs for"),
    setups: commonOptions.setups,
    setupSize: commonOptions.setupSize,
    eta: commonOptions.eta,
    step: z.number().positive().optional().describe("step of a path's steepest factor, in its unit"),
    seed: z.number().int().nonnegative().optional().describe("seed of the run order; 1 unless said"),
    standardOrder: z.boolean().optional().describe("do not randomise"),
  },
  answer: z
    .strictObject({
      ...planKeys,
      purpose: z.string(),
      before: appraisalAnswer.nullable(),
      after: appraisalAnswer,
      readings: z.array(reading),
    })
    .register(shapes, { id: "FollowUp" }),
  missing(input) {
    const { options = {}, id, missing } = followUpNamed(input.kind);
    const given = new Map<string, unknown>(Object.entries(input));
    const stray = Object.keys(ownOptions).find((name) => given.get(name) !== undefined && !(name in options));
    if (stray) return { code: "missing.stray", values: { option: stray, kind: id } };
    return missing?.(defined(input) as FollowOptions);
  },
  long: true,
  heavy: (study, { kind }) => "search" in followUpNamed(kind).make || isLarge(study),
  *run(study, input): Steps<FollowAnswer> {
    const options = completeFollow(study, { ...(defined(input) as FollowOptions), seed: input.seed ?? 1 });
    return answerOf(study, yield* followUpSteps(study, options), input.terms);
  },
  takeUp: {
    option: "adopt",
    summary: "add the wave to the study",
    edits: (study, _input, answer) => additions(study, adoptPlan(study, answer, answer.purpose)),
    what: (_input, answer) => `adopted a wave to ${answer.purpose}`,
  },
  example: { study: "wool-scouring", input: { kind: "repeat" } },
});
