import * as z from "zod";
import { asAnswer } from "../findings/reading";
import { storedModel } from "../model/data";
import { measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { presentPredictor } from "../surface/average";
import { importanceOf } from "../surface/importance";
import { type Influence, weightedInfluence } from "../surface/influence";
import { messageText } from "../words/answers";
import { isLarge, reading } from "./parts";
import { atOnce, defineQuestion, shapes } from "./question";

export interface InfluenceAnswer {
  factors: Influence[];
  readings: z.output<typeof reading>[];
}

/**
 * What each factor moves over all responses, by their models as the study stands.
 * @throws StudyError `no-model` where no response can be fitted
 */
export function influenceOf(study: Study, memo = new Memo()): InfluenceAnswer {
  const readings: InfluenceAnswer["readings"] = [];
  const plain: string[] = [];
  const tables = study.responses.flatMap((response) => {
    let predictor: ReturnType<typeof presentPredictor>;
    try {
      predictor = presentPredictor(study, response.id, memo);
    } catch (error) {
      // A response without results, or constant, is moved by nothing that can be told.
      if (error instanceof StudyError) return [];
      throw error;
    }
    const { rows, absent } = importanceOf(study, predictor);
    if (absent)
      readings.push({ kind: "caution", text: `${response.name}: ${messageText("remarks", absent)}`, evidence: "map" });
    else if (!storedModel(study, response.id)) plain.push(response.name);
    return absent ? [] : [{ response, rows }];
  });
  if (tables.length === 0) throw new StudyError("no-model.any", {}, ["models"]);
  if (plain.length > 0)
    readings.push(
      asAnswer({ kind: "caution", code: "offered-only", values: { responses: plain }, evidence: "ladder" }),
    );
  const left = measuredResponses(study).filter(
    (r) => !tables.some((t) => t.response.id === r.id) && !readings.some((x) => x.text.startsWith(`${r.name}:`)),
  );
  if (left.length > 0)
    readings.push(
      asAnswer({
        kind: "caution",
        code: "not-fitted",
        values: { responses: left.map((r) => r.name) },
        evidence: "ladder",
      }),
    );
  return { factors: weightedInfluence(study, tables), readings };
}

export const influence = defineQuestion({
  id: "influence",
  summary: "What each factor moves over all responses, as they count",
  input: {},
  answer: z
    .strictObject({
      factors: z.array(
        z.strictObject({
          factor: z.string(),
          share: z.number().describe("of all that the factors move; together 1"),
          responses: z.record(z.string(), z.number()).describe("Sobol' total of each response"),
        }),
      ),
      readings: z.array(reading),
    })
    .register(shapes, { id: "Influence" }),
  heavy: isLarge,
  run: (study, _input, memo) => atOnce(() => influenceOf(study, memo)),
  example: { study: "wool-scouring", input: {} },
});
