import * as z from "zod";
import { joinedPoints, pointsOf, pointsOfPlan } from "../appraisal/terms-info";
import { type FollowUp, followUpSteps } from "../follow-up/follow";
import type { FollowOptions } from "../follow-up/options";
import { storedModel } from "../model/data";
import { adoptPlan } from "../plans/adopt";
import { axialOption } from "../plans/families/composite";
import { commonOptions, MOST_PLANNED, termList } from "../plans/options";
import { FOLLOW_KINDS } from "../plans/plan";
import { leavesRanges } from "../study/beyond";
import { additions } from "../study/edit";
import { StudyError } from "../study/error";
import type { Study } from "../study/schema";
import { remarkOf } from "../words/answers";
import { appraisalAnswer, type JudgedAppraisal, judge } from "./appraise";
import { isLarge, reading, settings } from "./parts";
import { excludedReadings, type PlanAnswer, planAnswer, planKeys } from "./plan";
import { defined, defineQuestion, type Steps, shapes } from "./question";
import { surfaceOf } from "./surface";

export interface FollowAnswer extends PlanAnswer {
  purpose: string;
  /** All trials without and with the wave, judged by the same terms. */
  before: JudgedAppraisal | null;
  after: JudgedAppraisal;
  readings: z.output<typeof reading>[];
}

/**
 * A next wave's options with what only models know filled in: the path of steepest ascent.
 * @throws StudyError `no-model` where a path has no model to climb
 */
export function completeFollow(study: Study, options: FollowOptions): FollowOptions {
  if (options.kind !== "ascent" || options.path) return options;
  const response =
    options.response ??
    study.responses.find((r) => r.goal.aim !== "watch" && storedModel(study, r.id))?.id ??
    study.models[0]?.response;
  if (response === undefined) throw new StudyError("no-model.path", {}, ["models"]);
  const { ascent, path } = surfaceOf(study, { response, at: options.at, step: options.step });
  if (path.beyond.length > 0 && ascent.every((p) => p.inside)) throw leavesRanges(study, path.beyond);
  return { ...options, response, path: ascent.slice(1).map((p) => p.settings) };
}

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
      ...cautions.map((c) => ({ kind: "caution" as const, text: remarkOf(c), evidence: "plans" })),
      ...excludedReadings(plan),
    ],
  };
}

export const follow = defineQuestion({
  id: "follow",
  summary: "Plan the wave that follows the trials of a study, appraised without and with it",
  input: {
    kind: z.enum(FOLLOW_KINDS).describe("what the wave does"),
    factors: z.array(z.string()).max(50).optional().describe("factors turned, moved or carried on, such as A,B"),
    half: z.boolean().optional().describe("fold-over: half of it"),
    trials: z.number().int().positive().max(MOST_PLANNED).optional().describe("new trials; copies of a repeat"),
    centre: z.number().int().nonnegative().max(MOST_PLANNED).optional().describe("centre points beside the others"),
    terms: termList.optional().describe("terms to separate, or to appraise for"),
    axial: axialOption,
    criterion: z.enum(["D", "A", "I"]).optional().describe("what an augmentation is searched by; D unless said"),
    family: z.string().optional().describe("of what family factors are carried on; what suits them unless said"),
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
  missing({ kind, trials, factors, criterion, family }) {
    if (kind === "augment" && trials === undefined) return { code: "missing.augmentation", values: {} };
    const stray = kind !== "augment" && criterion ? "criterion" : kind !== "carry" && family ? "family" : undefined;
    if (stray) return { code: "missing.stray", values: { option: stray, kind } };
    if (kind === "carry" && factors === undefined) return { code: "missing.carried", values: {} };
    return undefined;
  },
  long: true,
  heavy: (study, { kind }) => kind === "augment" || isLarge(study),
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
