import * as z from "zod";
import { type Appraisal, appraisePoints } from "../appraisal/appraise";
import { type Points, pointsOf } from "../appraisal/terms-info";
import { followUps } from "../follow-up/kinds";
import { families } from "../plans/families";
import { commonOptions, optionsOf, termList } from "../plans/options";
import { violations } from "../study/region";
import type { Recipe, Study, Term } from "../study/schema";
import { possibleTerms, type TermSetName, termSet } from "../terms/candidates";
import { alphabetOf, inModelOrder } from "../terms/term";
import { messageText } from "../words/answers";
import { alpha, besides, isLarge, modelTerms, number, positive, reading, type TermsFrom, term, termsOf } from "./parts";
import { atOnce, defined, defineQuestion, shapes } from "./question";

/** An appraisal that says which terms it judged and whose they are. */
export interface JudgedAppraisal extends Appraisal {
  terms: Term[];
  termsFrom: TermsFrom;
}

/** Terms that a wave is planned to tell, by its recipe; main effects where it says nothing. */
function purposeOf(study: Study, recipe: Recipe): Term[] {
  const family = families.find((f) => f.id === recipe.family);
  const asked: TermSetName | Term[] =
    family?.purpose(optionsOf(recipe)) ?? followUps.find((k) => k.id === recipe.family)?.terms ?? "main";
  return typeof asked === "string" ? termSet(study, asked) : asked;
}

/**
 * Terms to judge trials by where none are asked: those of the stored models, else what the waves were planned to
 * tell.
 */
export function ownTerms(study: Study, recipes: readonly Recipe[]): { terms: Term[]; termsFrom: TermsFrom } {
  const modelled = modelTerms(study);
  if (modelled.length > 0) return { terms: modelled, termsFrom: "models" };
  const planned = recipes.flatMap((r) => purposeOf(study, r));
  const terms = planned.length > 0 ? inModelOrder(alphabetOf(study), planned) : termSet(study, "main");
  return { terms, termsFrom: "plan" };
}

/** What an appraisal may be asked besides its trials. */
export interface AppraisalInput {
  terms?: z.output<typeof termList> | undefined;
  possible?: z.output<typeof termList> | undefined;
  noise?: number | undefined;
  effect?: number | undefined;
  alpha?: number | undefined;
  eta?: number | undefined;
}

/** Appraises points by the terms asked, else by their own. */
export function judge(
  study: Study,
  points: Points,
  input: AppraisalInput,
  recipes: readonly Recipe[],
): JudgedAppraisal {
  const { terms: asked, possible, ...rest } = input;
  const judged =
    asked === undefined ? ownTerms(study, recipes) : { terms: termsOf(study, asked), termsFrom: "asked" as const };
  const others = possible === undefined ? possibleTerms(study, judged.terms) : termsOf(study, possible);
  return {
    ...judged,
    ...appraisePoints(study, points, {
      ...defined(rest),
      terms: judged.terms,
      possible: besides(judged.terms, others),
    }),
  };
}

/** Planned trials that stand where nothing may be run: accepted, used, and named. */
function outsideReadings(study: Study): z.output<typeof reading>[] {
  const outside = study.trials.flatMap((t) => {
    const [first] = t.state === "skipped" ? [] : violations(study, t.settings);
    return first === undefined || t.kind === "axial" ? [] : [{ order: t.order, first }];
  });
  if (outside.length === 0) return [];
  const [{ order, first }] = outside;
  const text = messageText("readings", {
    code: "stands-outside",
    values: { order, how: first, others: outside.length - 1 },
  });
  return [{ kind: "caution", text, evidence: "region" }];
}

const table = z.array(z.array(z.number()));
/** Shape of an appraisal, also where it stands inside another answer. */
export const appraisalAnswer = z
  .strictObject({
    terms: z.array(term),
    termsFrom: z.enum(["asked", "models", "plan"]),
    n: z.number(),
    p: z.number(),
    df: z.strictObject({ model: z.number(), lackOfFit: z.number(), pureError: z.number() }),
    efficiency: z.strictObject({ d: number, a: number, g: number, i: number }),
    resolution: number,
    definingRelation: z.array(z.string()).nullable(),
    wordLengthPattern: z.array(z.number()).nullable(),
    chains: z.array(z.array(term)),
    chainSigns: table,
    alias: z.strictObject({
      rows: z.array(term),
      rowLevels: z.array(z.string().nullable()),
      columns: z.array(term),
      columnLevels: z.array(z.string().nullable()),
      values: table,
      trace: z.number(),
    }),
    correlation: z.strictObject({ terms: z.array(term), values: table }),
    vif: z.array(z.strictObject({ term, value: z.number() })),
    standardError: z.array(z.strictObject({ term, level: z.string().nullable(), value: z.number() })),
    power: z.array(
      z.strictObject({
        term,
        effect: z.number(),
        value: number,
        df: number.optional().describe("with set-ups: what the term is tested on"),
      }),
    ),
    setups: z
      .strictObject({
        setups: z.number(),
        eta: z.number().describe("variance between set-ups over that within"),
        df: z.strictObject({ between: z.number(), within: z.number() }),
        between: z.array(term).describe("terms that only set-ups tell"),
        leastSquares: z.boolean().describe("least squares gives what generalised least squares gives"),
        relative: z
          .strictObject({ d: number, a: number, i: number })
          .describe("efficiency in percent of the same trials with every one set up anew"),
      })
      .optional(),
    space: z.array(z.strictObject({ fraction: z.number(), value: z.number() })),
    map: z.array(
      z.strictObject({
        term,
        state: z.enum(["clear", "shared", "lost"]),
        largest: z.number(),
        with: z.array(term),
        between: z.literal(true).optional().describe("only set-ups of the hard factors tell it"),
      }),
    ),
    leverage: z.array(z.number()),
    lost: z.array(term),
    readings: z.array(reading),
  })
  .register(shapes, { id: "Appraisal" });

export const appraise = defineQuestion({
  id: "appraise",
  summary: "Appraise all trials of a study",
  input: {
    terms: termList.optional().describe("terms of the model; the stored models', else the waves' own, unless said"),
    possible: termList.optional().describe("terms that may be there unasked; two-factor interactions unless said"),
    noise: positive.optional().describe("trial-to-trial standard deviation"),
    effect: positive.optional().describe("change from low to high worth finding"),
    alpha,
    eta: commonOptions.eta,
  },
  answer: appraisalAnswer,
  heavy: isLarge,
  run: (study, input) =>
    atOnce(() => {
      const recipes = study.waves.map((w) => w.plan);
      const judged = judge(study, pointsOf(study, input.eta), input, recipes);
      return { ...judged, readings: [...judged.readings, ...outsideReadings(study)] };
    }),
  example: { study: "wool-scouring", input: { terms: "main+2fi" } },
});
