import * as z from "zod";
import { missingFractions } from "../appraisal/defining-words";
import { pointsOfPlan } from "../appraisal/terms-info";
import { adoptPlan } from "../plans/adopt";
import { families } from "../plans/families";
import { planSteps } from "../plans/make-plan";
import { commonOptions, type PlanOptions, termOptions } from "../plans/options";
import type { Plan } from "../plans/plan";
import { additions } from "../study/edit";
import { recipeSchema, type Study, TRIAL_KINDS } from "../study/schema";
import { messageText } from "../words/answers";
import { type AppraisalInput, appraisalAnswer, type JudgedAppraisal, judge } from "./appraise";
import { isLarge, reading, settings } from "./parts";
import { defined, defineQuestion, type Steps, shapes } from "./question";

/** A plan with the appraisal of its own trials. */
export interface PlanAnswer extends Plan {
  /** For a fraction: the generators of the others of its family, which a later wave can run. */
  missingFractions: string[];
  appraisal: JudgedAppraisal;
}

/** Options of every family together: each family refuses those that are not its own. */
const familyOptions = (): z.ZodRawShape => Object.assign({}, ...families.map((f) => f.options)) as z.ZodRawShape;

/** What a plan is asked for, as it comes through any door. */
export const planInput = {
  family: z.string().describe(families.map((f) => f.id).join(", ")),
  ...commonOptions,
  ...termOptions,
  ...(familyOptions() as Record<never, never>),
};

/** Shape of a plan's own keys, also where it stands inside another answer. */
export const planKeys = {
  family: z.string(),
  seed: z.number(),
  recipe: recipeSchema,
  waves: z.array(z.strictObject({ id: z.string(), name: z.string(), recipe: recipeSchema })),
  trials: z.array(
    z.strictObject({
      id: z.string(),
      standard: z.number(),
      order: z.number(),
      wave: z.string(),
      kind: z.enum(TRIAL_KINDS),
      setup: z.number().optional().describe("set-up of the hard factors within its wave"),
      settings,
      coded: settings,
    }),
  ),
  excluded: z.number().describe("runs left out since the region excludes them"),
  missingFractions: z.array(z.string()),
  appraisal: appraisalAnswer,
};

/** A plan with what is said of it. */
export function planAnswer(study: Study, plan: Plan, appraisal: AppraisalInput): PlanAnswer {
  const { generators } = plan.recipe;
  return {
    ...plan,
    missingFractions: generators ? missingFractions(generators) : [],
    appraisal: judge(study, pointsOfPlan(plan), appraisal, [plan.recipe]),
  };
}

/** What of the input the family is to see: lists of terms only where its search uses them. */
function optionsFor(input: Record<string, unknown> & { family: string }): PlanOptions {
  const family = families.find((f) => f.id === input.family);
  const { terms, possible, ...rest } = input;
  return defined({
    ...rest,
    ...(family?.uses?.includes("terms") ? { terms } : {}),
    ...(family?.uses?.includes("possible") ? { possible } : {}),
  }) as PlanOptions;
}

export const plan = defineQuestion({
  id: "plan",
  summary: "Make a plan of a family and appraise its own trials",
  input: planInput,
  answer: z.strictObject({ ...planKeys, readings: z.array(reading) }).register(shapes, { id: "Plan" }),
  missing(input) {
    const family = families.find((f) => f.id === input.family);
    const needed = input.trials === undefined && family?.needsTrials?.(optionsFor(input));
    if (!needed) return undefined;
    return {
      code: "missing.trials",
      values: { family: family?.id ?? input.family, generators: "generators" in (family?.options ?? {}) },
    };
  },
  long: true,
  heavy: (study, input) =>
    isLarge(study) || families.find((f) => f.id === input.family)?.searches === true || (input.trials ?? 0) > 500,
  *run(study, input): Steps<PlanAnswer & { readings: JudgedAppraisal["readings"] }> {
    const steps = planSteps(study, optionsFor(input));
    let step = steps.next();
    while (!step.done) {
      const { done, text, best } = step.value;
      step = steps.next(yield { done, text: best ? `${text}; ${best.measure} ${best.value.toFixed(3)}` : text });
    }
    const answer = planAnswer(study, step.value, { terms: input.terms, possible: input.possible });
    return { ...answer, readings: excludedReadings(step.value) };
  },
  takeUp: {
    option: "adopt",
    summary: "add the wave or waves to the study",
    edits: (study, _input, answer) => additions(study, adoptPlan(study, answer)),
    what: (_input, answer) => `adopted a plan of the family ${answer.family}`,
  },
  example: { study: "wool-scouring", input: { family: "fraction", trials: 16, centre: 3 } },
});

/** What must be said of runs that the region excludes. */
export const excludedReadings = ({ excluded }: Pick<Plan, "excluded">): JudgedAppraisal["readings"] =>
  excluded === 0
    ? []
    : [
        {
          kind: "caution",
          text: messageText("remarks", { code: "region-excludes", values: { runs: excluded } }),
          evidence: "region",
        },
      ];
