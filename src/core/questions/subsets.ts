import * as z from "zod";
import { fittingOf, storedModel } from "../model/data";
import { type SubsetsResult, searchSubsets } from "../model/subsets";
import { termList } from "../plans/options";
import { block, curvature, eta, hierarchy, number, response, term, termsOf } from "./parts";
import { defined, defineQuestion, type Steps, shapes } from "./question";

export const subsets = defineQuestion({
  id: "subsets",
  summary: "All subsets of candidate terms of one response, exactly, with their weights and average",
  input: {
    response,
    terms: termList.optional().describe("candidates; main+2fi unless said"),
    hierarchy,
    block,
    curvature,
    eta,
    predicted: z.boolean().optional().describe("the best by predicted R² too, for more than 18 terms"),
    average: z.boolean().optional().describe("average the models by their weights"),
  },
  answer: z
    .strictObject({
      examined: z.number(),
      singular: z.number(),
      models: z.array(
        z.strictObject({
          terms: z.array(term),
          k: z.number(),
          rss: number,
          r2: number,
          r2Adjusted: number,
          r2Predicted: number,
          aicc: number,
          bic: number,
          weight: z.number(),
        }),
      ),
      average: z
        .strictObject({
          coefficients: z.array(
            z.strictObject({
              term,
              level: z.string().nullable(),
              coefficient: z.number(),
              standardError: number,
              evidence: z.number(),
            }),
          ),
        })
        .nullable()
        .describe("null unless asked for"),
    })
    .register(shapes, { id: "Subsets" }),
  long: true,
  heavy: () => true,
  *run(study, input): Steps<Omit<SubsetsResult, "average"> & { average: SubsetsResult["average"] | null }> {
    const stored = storedModel(study, input.response);
    const found = yield* searchSubsets(study, input.response, termsOf(study, input.terms ?? "main+2fi"), {
      hierarchy: input.hierarchy ?? "strong",
      ...fittingOf(stored, { block: input.block, curvature: input.curvature, eta: input.eta }),
      ...defined({ predicted: input.predicted }),
    });
    return { ...found, average: input.average ? found.average : null };
  },
  example: { study: "raspberry-drying", input: { response: "colour", terms: "main" } },
});
