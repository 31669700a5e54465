import * as z from "zod";
import { storedModel } from "../model/data";
import { storedPredictors } from "../setpoint/goals";
import { StudyError } from "../study/error";
import { violations, withinRanges } from "../study/region";
import { heldSettings } from "../study/roles";
import type { Settings } from "../study/schema";
import { checkSettings } from "../study/validate";
import { messageText } from "../words/answers";
import { assumed, interval, isLarge, number, scatter, settings } from "./parts";
import { atOnce, defineQuestion, shapes } from "./question";

export const predict = defineQuestion({
  id: "predict",
  summary: "Predict every response that has a stored model at one point",
  input: { at: settings.describe("settings of every factor in use") },
  answer: z
    .strictObject({
      responses: z.record(
        z.string(),
        z.strictObject({
          mean: z.number(),
          standardError: number,
          meanInterval: interval,
          trialInterval: interval,
          leverage: z.number(),
          extrapolates: z.boolean(),
          breaksBounds: z.boolean(),
          assumed,
          scatter,
          bend: number.describe("how far it may be off where the centre lies off the plane and no square carries it"),
        }),
      ),
      inRegion: z.boolean().describe("within ranges, hard limits and the region"),
      violates: z.array(z.string()).describe("what the settings break, in sentences"),
    })
    .register(shapes, { id: "Predictions" }),
  heavy: isLarge,
  run: (study, { at }, memo) =>
    atOnce(() => {
      const point: Settings = { ...heldSettings(study), ...at };
      checkSettings(study.factors, point, ["at"]);
      const modelled = study.responses.filter((r) => storedModel(study, r.id));
      if (modelled.length === 0) throw new StudyError("no-model.any", {}, ["models"]);
      return {
        responses: Object.fromEntries(
          [...storedPredictors(study, modelled, memo)].map(([id, read]) => [id, read.predict(point)]),
        ),
        inRegion: withinRanges(study.factors, point) && violations(study, point, false).length === 0,
        violates: violations(study, point).map((v) => messageText("places", v)),
      };
    }),
  example: {
    study: "wool-scouring",
    input: { at: { temp: 61, dose: 7, soda: 3, feed: 600, squeeze: 8, lot: "hill" } },
  },
});
