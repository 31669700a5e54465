import * as z from "zod";
import { setpointProblem } from "../setpoint/goals";
import { type SearchResult, searchSetpoint } from "../setpoint/search";
import { edit } from "../study/edit";
import { StudyError } from "../study/error";
import type { Settings, Study } from "../study/schema";
import { assumed, interval, number, reading, scatter, seed, settings } from "./parts";
import { defined, defineQuestion, type Steps, shapes } from "./question";

const candidate = z
  .strictObject({
    settings,
    coded: settings,
    overall: z.number(),
    chance: number,
    chanceStandardError: number,
    chanceIndependent: number,
    chances: z.record(z.string(), z.number()).nullable(),
    asIn: z
      .strictObject({ wave: z.string(), chance: number, differ: z.array(z.string()) })
      .optional()
      .describe("the chance as in the last wave; chance is that of a new wave where waves of these responses differ"),
    responses: z.record(
      z.string(),
      z.strictObject({
        mean: z.number(),
        desirability: number,
        meanInterval: interval,
        trialInterval: interval,
        extrapolates: z.boolean(),
        breaksBounds: z.boolean(),
        assumed,
        scatter,
      }),
    ),
    distance: number,
  })
  .register(shapes, { id: "Candidate" });

/** What is held: as asked, else what the study holds at its setpoint. */
function heldSettings(study: Study, hold: Settings | undefined): Settings {
  if (hold) return hold;
  const { setpoint } = study;
  return Object.fromEntries((setpoint?.held ?? []).map((id) => [id, setpoint?.settings[id] as number | string]));
}

export const setpoint = defineQuestion({
  id: "setpoint",
  summary: "Find the settings with the highest overall desirability",
  input: {
    hold: settings.optional().describe("settings to hold; what the study holds unless said"),
    draws: z.number().int().min(100).max(5_000_000).optional().describe("draws for the chance of meeting limits"),
    seed,
  },
  answer: z
    .strictObject({
      best: candidate,
      settable: candidate,
      candidates: z.array(candidate),
      lattice: number.describe("settable points, where all were looked at; null where settable is the best found"),
      sure: z
        .strictObject({ within: z.number(), share: z.number() })
        .nullable()
        .describe("how likely settable lies so near to the best overall desirability, by what the models do not know"),
      seed: z.number(),
      held: settings,
      readings: z.array(reading),
    })
    .register(shapes, { id: "Setpoint" }),
  long: true,
  heavy: () => true,
  *run(study, input, memo): Steps<SearchResult & { held: Settings }> {
    const held = heldSettings(study, input.hold);
    const search = searchSetpoint(setpointProblem(study, memo), {
      hold: held,
      ...defined({ draws: input.draws }),
      seed: input.seed ?? 1,
    });
    let step = search.next();
    while (!step.done) {
      yield { done: step.value.done, text: step.value.of, best: step.value.best };
      step = search.next();
    }
    return { ...step.value, held };
  },
  takeUp: {
    option: "choose",
    summary: "choose the best settable point as the study's setpoint",
    edits(study, input, answer) {
      if (!(answer.settable.overall > 0)) throw new StudyError("no-setpoint.impossible", {}, ["responses"]);
      const held = Object.keys(heldSettings(study, input.hold));
      return [edit(study, ["setpoint"], { settings: answer.settable.settings, held })];
    },
    what: () => "chose a setpoint",
  },
  example: { study: "wool-scouring", input: { draws: 2000 } },
});
