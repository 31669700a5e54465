import * as z from "zod";
import { confirmation } from "../setpoint/confirm";
import type { CountedFigures } from "../setpoint/counted";
import type { PieceFigures } from "../setpoint/piece-figures";
import { StudyError } from "../study/error";
import { messageText } from "../words/answers";
import { assumed, interval, isLarge, number } from "./parts";
import { atOnce, defineQuestion, shapes } from "./question";

interface VerdictAnswer {
  responses: Record<
    string,
    {
      m: number;
      mean: number;
      predicted: number;
      interval: [number, number] | null;
      intervalWithWaves: [number, number] | null;
      agrees: boolean | null;
      byWaves: boolean;
      agreesWith: string[];
      meetsLimits: boolean | null;
      assumed?: number;
      units?: PieceFigures;
      counted?: CountedFigures;
    }
  >;
  complete: boolean;
  agrees: boolean | null;
  meetsLimits: boolean | null;
  suspects: { what: string; figure: number | null; text: string }[];
}

export const verdict = defineQuestion({
  id: "verdict",
  summary: "What the confirmation trials run say of the prediction and of the limits",
  input: {},
  answer: z
    .strictObject({
      responses: z.record(
        z.string(),
        z.strictObject({
          m: z.number(),
          mean: z.number(),
          predicted: z.number(),
          interval,
          intervalWithWaves: interval,
          agrees: z.boolean().nullable(),
          byWaves: z.boolean().describe("waves differ: judged by the interval with waves"),
          agreesWith: z.array(z.string()).describe("waves at whose level the results lie"),
          meetsLimits: z.boolean().nullable(),
          assumed,
          units: z
            .strictObject({
              n: z.number(),
              trials: z.number(),
              mean: z.number(),
              s: z.number().describe("of single units"),
              df: z.number(),
              withinOnly: z.boolean().describe("from one trial: what trials vary by is not in it"),
              pp: number,
              ppInterval: interval,
              ppk: number,
              ppkInterval: interval,
              outside: z.strictObject({ normal: number, counted: number }),
              spreadAgrees: z.boolean().nullable().describe("units vary within trials as those of the model do"),
              spreadP: number,
            })
            .optional()
            .describe("where the response is made of units"),
          counted: z
            .strictObject({ events: z.number(), of: z.number(), interval: z.tuple([z.number(), z.number()]) })
            .optional()
            .describe("of a share or a count, all trials together"),
        }),
      ),
      complete: z.boolean().describe("every confirmation trial has a result of every judged response"),
      agrees: z.boolean().nullable(),
      meetsLimits: z.boolean().nullable(),
      suspects: z.array(z.strictObject({ what: z.string(), figure: number, text: z.string() })),
    })
    .register(shapes, { id: "Verdict" }),
  heavy: isLarge,
  run: (study, _input, memo) =>
    atOnce((): VerdictAnswer => {
      const found = confirmation(study, memo);
      if (!found) throw new StudyError("no-confirmation", {}, ["trials"]);
      if (found.verdicts.length === 0) throw new StudyError("no-results.confirmation", {}, ["trials"]);
      return {
        responses: Object.fromEntries(
          found.verdicts.map((v) => [
            v.response,
            {
              m: v.n,
              mean: v.mean,
              predicted: v.predicted,
              interval: v.interval,
              intervalWithWaves: v.withWaves,
              agrees: v.agrees,
              byWaves: v.byWaves,
              agreesWith: v.agreesWith,
              meetsLimits: v.meetsLimits,
              ...(v.assumed === undefined ? {} : { assumed: v.assumed }),
              ...(v.units ? { units: v.units } : {}),
              ...(v.counted ? { counted: v.counted } : {}),
            },
          ]),
        ),
        complete: found.complete,
        agrees: found.agrees,
        meetsLimits: found.meetsLimits,
        suspects: found.suspects.map((s) => ({ what: s.what, figure: s.figure, text: messageText("suspects", s) })),
      };
    }),
  example: {
    study: "wool-scouring",
    input: {},
    after: [
      { question: "follow", input: { kind: "confirm", trials: 3 } },
      { question: "rig", input: { name: "wool-line" } },
    ],
  },
});
