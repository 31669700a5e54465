import * as z from "zod";
import { climbReading } from "../findings/climb";
import { asAnswer } from "../findings/reading";
import { responseOf } from "../model/data";
import type { Importance } from "../model/surface";
import { Memo } from "../study/memo";
import type { Settings, Study } from "../study/schema";
import { type Path, pathStart, steepestAscent } from "../surface/ascent";
import { storedPredictor } from "../surface/average";
import { importanceOf } from "../surface/importance";
import { type Stationary, stationaryPoint } from "../surface/stationary";
import { messageText } from "../words/answers";
import { interval, isLarge, number, positive, reading, response, settings } from "./parts";
import { atOnce, defineQuestion, shapes } from "./question";

/** The fitted surface of a response: where it is flat, where it climbs, what moves it. */
export interface SurfaceAnswer {
  response: string;
  stationary: Stationary | null;
  ascent: Path["points"];
  /** The factor whose step was chosen, where the path leads and why it ends. */
  path: Omit<Path, "points" | "reason"> & { reason: string };
  importance: Importance[];
  /** Standard error of the indices where they were sampled. */
  importanceError: number | null;
  readings: z.output<typeof reading>[];
}

/** What of a surface is asked. */
export interface SurfaceInput {
  response: string;
  at?: Settings | undefined;
  step?: number | undefined;
}

/**
 * The shape of one response's stored model: where it is level, the path of steepest ascent from a point (the centre
 * unless said), and which factors carry its variation. Categories stand at the setpoint's level, else the first.
 * @throws StudyError `no-model`, `bad-step`, or for settings that are not the study's
 */
export function surfaceOf(study: Study, question: SurfaceInput, memo = new Memo()): SurfaceAnswer {
  const read = storedPredictor(study, responseOf(study, question.response), memo);
  const settings = pathStart(study, question.at);
  const { stationary, reason } = stationaryPoint(study, read, settings);
  const { points, ...path } = steepestAscent(
    study,
    read,
    settings,
    question.step === undefined ? {} : { step: question.step },
  );
  const readings: SurfaceAnswer["readings"] = [];
  if (!stationary && reason) readings.push({ kind: "finding", text: messageText("remarks", reason), evidence: "map" });
  const climb = climbReading(study, read, { points, ...path });
  if (climb) readings.push(asAnswer(climb));
  const { rows, error, absent } = importanceOf(study, read);
  if (absent) readings.push({ kind: "caution", text: messageText("remarks", absent), evidence: "map" });
  return {
    response: question.response,
    stationary,
    ascent: points,
    path: { ...path, reason: messageText("remarks", path.reason) },
    importance: rows,
    importanceError: error,
    readings,
  };
}

export const surface = defineQuestion({
  id: "surface",
  summary: "The shape of one response's model: stationary point, steepest ascent, importance of factors",
  input: {
    response,
    at: settings.optional().describe("where the path starts; the centre unless said"),
    step: positive.optional().describe("step of the steepest factor along the path, in its unit"),
  },
  answer: z
    .strictObject({
      response: z.string(),
      stationary: z
        .strictObject({
          settings,
          coded: settings,
          value: z.number(),
          nature: z.enum(["maximum", "minimum", "saddle", "ridge"]),
          inside: z.boolean(),
          distance: z.number(),
          eigenvalues: z.array(z.number()),
          directions: z.array(z.record(z.string(), z.number())),
        })
        .nullable(),
      ascent: z.array(
        z.strictObject({
          step: z.number(),
          settings,
          coded: settings,
          predicted: z.number(),
          meanInterval: interval,
          trialInterval: interval,
          inside: z.boolean(),
        }),
      ),
      path: z.strictObject({
        by: z.strictObject({ factor: z.string(), step: z.number() }).nullable(),
        towards: z.enum(["higher", "lower"]),
        beyond: z
          .array(
            z.strictObject({
              factor: z.string(),
              limit: z.enum(["hardLow", "hardHigh"]),
              next: z.number().describe("where the next step would set it"),
              to: z.number().describe("where a few steps more would"),
            }),
          )
          .describe("factors that it would take past their range, where no hard limit says how far they may go"),
        reason: z.string(),
      }),
      importance: z.array(z.strictObject({ factor: z.string(), first: z.number(), total: z.number() })),
      importanceError: number.describe("standard error of the indices; null where they are exact"),
      readings: z.array(reading),
    })
    .register(shapes, { id: "Surface" }),
  heavy: isLarge,
  run: (study, input, memo) => atOnce(() => surfaceOf(study, input, memo)),
  example: { study: "wool-scouring", input: { response: "grease" } },
});
