import * as z from "zod";
import { type FitReport, fitReport } from "../findings/fit-report";
import { fittingOf, responseOf, storedModel } from "../model/data";
import { type Fit, type FitOptions, fitModel } from "../model/fit";
import { type OfNoise, ofNoise } from "../model/guard";
import { type Offer, offeredModel } from "../model/offer";
import { reduceModel } from "../model/reduce";
import { termList } from "../plans/options";
import { significance } from "../study/coding";
import { edit } from "../study/edit";
import { type Model, transformSchema } from "../study/schema";
import { alphabetOf, inModelOrder } from "../terms/term";
import {
  alpha,
  block,
  curvature,
  eta,
  hierarchy,
  interval,
  isLarge,
  number,
  reading,
  response,
  settings,
  term,
  termsOf,
} from "./parts";
import { atOnce, defineQuestion, shapes } from "./question";

const criterion = z.enum(["p", "aicc", "bic"]);
const level = z.string().nullable();
const figures = z.strictObject({
  s: number,
  r2: number,
  r2Adjusted: number,
  r2Predicted: number,
  aicc: number,
  bic: number,
  residualDf: z.number(),
});
const summary = z
  .strictObject({
    law: z.string(),
    s: number,
    r2: number,
    r2Adjusted: number,
    r2Predicted: number,
    r2AfterWaves: number,
    press: number,
    rss: number,
    sst: number,
    aicc: number,
    bic: number,
    residualDf: z.number(),
    deviance: number.optional(),
    nullDeviance: number.optional(),
    criterion: number.optional(),
    d2: number.optional(),
    d2Adjusted: number.optional(),
    d2LeaveOneOut: number.optional(),
    criteriaDispersion: number.optional(),
  })
  .register(shapes, { id: "FitSummary" });

const fitAnswer = z
  .strictObject({
    response: z.string(),
    law: z.string(),
    n: z.number(),
    transform: transformSchema,
    terms: z.array(term),
    dropped: z.array(
      z.strictObject({ term, level, equals: z.array(z.strictObject({ term, level, factor: z.number() })) }),
    ),
    parameters: z.array(
      z.strictObject({
        term,
        level,
        coefficient: z.number(),
        effect: number,
        standardError: number,
        df: number,
        t: number,
        p: number,
        interval,
        vif: number,
      }),
    ),
    anova: z.array(
      z.strictObject({
        source: z.enum(["wave", "model", "term", "curvature", "residual", "lack-of-fit", "pure-error", "total"]),
        term: term.nullable(),
        df: z.number(),
        ss: number,
        sequentialSs: number,
        ms: number,
        f: number,
        p: number,
        dfDenominator: number.optional(),
        scale: z.number().optional(),
        stratum: z.enum(["between", "within"]).optional(),
      }),
    ),
    summary,
    variance: z
      .strictObject({
        between: z.number(),
        within: z.number(),
        ratio: z.number(),
        bounded: z.boolean(),
        setups: z.number(),
        betweenDf: z.number(),
        assumed: z.number().optional(),
        trialDf: z.number().describe("of the variance of one new trial in a new set-up"),
      })
      .optional(),
    units: z
      .strictObject({
        between: z.number().describe("variance of trials beside what their units explain"),
        within: z.number().describe("variance of units within a trial"),
        dfWithin: z.number(),
        unequal: z
          .strictObject({ least: z.number(), most: z.number(), bounded: z.boolean() })
          .optional()
          .describe("where trials have different numbers of units and weigh by what their means vary by"),
      })
      .optional(),
    dispersion: number.optional(),
    rho: number.optional(),
    kappa: number.optional(),
    firth: z
      .union([
        z.strictObject({ why: z.literal("separates") }),
        z.strictObject({
          why: z.literal("few"),
          of: z.string(),
          level: z.string(),
          which: z.enum(["events", "others"]),
          counted: z.number(),
        }),
      ])
      .nullable()
      .optional(),
    lenth: z.strictObject({ pse: z.number(), margin: z.number(), simultaneousMargin: z.number() }).nullable(),
    margins: z
      .strictObject({
        from: z.enum(["pure-error", "lenth"]),
        margin: z.number(),
        simultaneousMargin: z.number(),
        error: z.number(),
        df: z.number().optional(),
      })
      .nullable(),
    curvature: z.strictObject({ df: z.number(), ss: z.number(), f: number, p: number }).nullable(),
    lackOfFit: z
      .strictObject({
        df: z.number(),
        ss: number,
        f: number,
        p: number,
        pureErrorDf: z.number(),
        pureErrorSs: number,
        approximate: z.boolean(),
      })
      .nullable(),
    trials: z.array(
      z.strictObject({
        id: z.string(),
        observed: z.number(),
        predicted: z.number(),
        residual: z.number(),
        leverage: z.number(),
        studentized: number,
        deleted: number,
        cooks: number,
        dffits: number,
        events: z.number().optional(),
        of: z.number().optional(),
        pearson: number.optional(),
        deviance: number.optional(),
        quantile: number.optional(),
      }),
    ),
    checks: z.array(
      z.strictObject({
        id: z.string(),
        answer: z.string(),
        statistic: number,
        p: number,
        adjusted: number,
        alarm: z.boolean(),
        look: z
          .enum(["pooled", "waves-out"])
          .optional()
          .describe("asked of the model with its quiet terms pooled, or over all waves, where that tells more"),
        code: z.string(),
        values: z.record(z.string(), z.unknown()),
      }),
    ),
    equation: z.strictObject({
      coded: z.string(),
      natural: z.array(
        z.strictObject({
          when: settings.nullable(),
          text: z.string(),
          coefficients: z.array(z.strictObject({ term, coefficient: z.number(), standardError: number, interval })),
        }),
      ),
      note: z.string().nullable(),
    }),
    steps: z
      .array(
        z.strictObject({
          action: z.enum(["drop", "add"]),
          term,
          value: number,
          compared: z.array(z.strictObject({ term, value: number })),
          before: figures,
          after: figures,
          terms: z.array(term),
          why: z.string(),
        }),
      )
      .nullable(),
    offered: z
      .strictObject({
        candidates: z.array(term),
        kept: z.array(term),
        by: criterion.optional(),
        alpha,
        mains: alpha.describe("p to stay of main effects, where it is another"),
        noise: z
          .strictObject({ kept: z.number(), r2: number })
          .nullable()
          .describe(
            "the choosing of the model answered, repeated on noise: terms kept on average, predicted R² that 19 of 20 stay below; null where no rule chose it",
          ),
      })
      .describe("the model first offered: what the waves were made to tell, what stays of it, and by what"),
    readings: z.array(reading),
  })
  .register(shapes, { id: "Fit" });

export const fit = defineQuestion({
  id: "fit",
  summary: "Fit one response; without terms its stored model, else the one first offered",
  input: {
    response,
    terms: termList
      .optional()
      .describe(
        "terms of the model, or what reducing chooses from; that unless said is what the waves were made to tell",
      ),
    reduce: z.enum(["backward", "forward", "both"]).optional().describe("reduce the model this way"),
    by: criterion.optional().describe("what reducing goes by; p unless said"),
    alpha: alpha.describe("p to stay and to enter; 1 − confidence unless said"),
    hierarchy: hierarchy,
    transform: transformSchema.optional().describe("scale to fit on"),
    block,
    curvature,
    eta,
  },
  answer: fitAnswer,
  missing({ reduce, by, alpha: level, hierarchy: rule }) {
    const stray = reduce !== undefined ? undefined : by ? "by" : level ? "alpha" : rule ? "hierarchy" : undefined;
    return stray === undefined ? undefined : { code: "missing.reduce", values: { option: stray } };
  },
  heavy: isLarge,
  run: (study, input, memo) =>
    atOnce((): FitReport & { offered: Offer & { noise: OfNoise | null } } => {
      responseOf(study, input.response);
      const stored = input.terms ? undefined : storedModel(study, input.response);
      const fitting = fittingOf(stored, input);
      const offer = offeredModel(study, input.response, fitting, memo);
      const terms = input.terms ? termsOf(study, input.terms) : undefined;
      const options: FitOptions = { terms: terms ?? stored?.terms ?? offer.kept, ...fitting };
      const offered = (fit: Fit) => ({ offered: { ...offer, noise: ofNoise(study, fit, memo) ?? null } });
      if (!input.reduce) {
        const fit = fitModel(study, input.response, options, memo);
        return { ...fitReport(study, fit, memo), ...offered(fit) };
      }
      const pool = terms ?? inModelOrder(alphabetOf(study), [...offer.candidates, ...(stored?.terms ?? [])]);
      const how = {
        ...fittingOf(undefined, options),
        direction: input.reduce,
        by: input.by ?? "p",
        alpha: input.alpha ?? significance(study),
        hierarchy: input.hierarchy ?? "strong",
      } as const;
      const reduced = reduceModel(study, input.response, pool, how, memo);
      return { ...fitReport(study, reduced.fit, memo, reduced.steps, reduced.note), ...offered(reduced.fit) };
    }),
  takeUp: {
    option: "store",
    summary: "keep the model in the study",
    edits(study, input, answer) {
      const model: Model = {
        ...(storedModel(study, answer.response) ?? { response: answer.response }),
        ...fittingOf(storedModel(study, answer.response), { ...input, transform: answer.transform }),
        terms: answer.terms,
      };
      return [edit(study, ["models", answer.response], model)];
    },
    what: (_input, answer) => `stored the model of ${answer.response}`,
  },
  example: { study: "wool-scouring", input: { response: "grease" } },
});
