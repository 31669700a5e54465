import * as z from "zod";
import { MOST_REPLICATES, type PowerAnswer, reaches, solvePower } from "../appraisal/power";
import { pointModel, pointsOf } from "../appraisal/terms-info";
import { termList } from "../plans/options";
import { significance } from "../study/coding";
import { StudyError } from "../study/error";
import { alpha, isLarge, number, positive, termsOf } from "./parts";
import { atOnce, defined, defineQuestion, shapes } from "./question";

const SOLVED = ["effect", "noise", "power", "replicates"] as const;

export const power = defineQuestion({
  id: "power",
  summary: "Solve effect, noise, power or replicates: the one left out; all four without alpha solve alpha",
  input: {
    terms: termList.optional().describe("terms whose worst is judged; main unless said"),
    alpha,
    effect: positive.optional().describe("change from low to high"),
    noise: positive.optional().describe("trial-to-trial standard deviation"),
    power: z.number().gt(0).lt(1).optional().describe("chance of finding the effect"),
    replicates: z.number().int().positive().max(MOST_REPLICATES).optional().describe("copies of all trials"),
  },
  answer: z
    .strictObject({
      solved: z.enum(["effect", "noise", "power", "replicates", "alpha"]),
      effect: z.number(),
      noise: z.number(),
      power: number,
      replicates: z.number(),
      alpha: z.number(),
      df: z.number(),
      curve: z.array(z.strictObject({ effect: z.number(), power: number })),
    })
    .register(shapes, { id: "Power" }),
  missing(input) {
    const given = SOLVED.filter((k) => input[k] !== undefined).length;
    if (given === 3 || (given === 4 && input.alpha === undefined)) return undefined;
    return { code: "missing.three", values: { given } };
  },
  heavy: isLarge,
  run: (study, { terms, alpha: level, ...rest }) =>
    atOnce((): PowerAnswer => {
      const points = pointsOf(study);
      if (points.settings.length === 0) throw new StudyError("no-trials.power", {}, ["trials"]);
      const asked = termsOf(study, terms ?? "main");
      const question = defined(rest);
      const all = SOLVED.every((k) => question[k] !== undefined);
      const model = pointModel(study, points, asked);
      return solvePower(reaches(study, model, asked), points.settings.length, model.rank.rank, {
        ...(all && level === undefined ? {} : { alpha: level ?? significance(study) }),
        ...question,
      });
    }),
  example: { study: "wool-scouring", input: { effect: 0.05, noise: 0.02, replicates: 1 } },
});
