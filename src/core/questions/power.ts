import * as z from "zod";
import { MOST_REPLICATES, type PowerAnswer, reaches, solvePower } from "../appraisal/power";
import { pointModel, pointsOf } from "../appraisal/terms-info";
import { responseOf } from "../model/data";
import { solveCounted } from "../planning/counted-power";
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
    response: z
      .string()
      .optional()
      .describe("a share or a count whose power is asked by what would be counted; then no noise is given"),
    pieces: positive.optional().describe("pieces, or exposure, of a trial of that response; its own unless said"),
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
      pieces: z.number().optional(),
      curve: z.array(z.strictObject({ effect: z.number(), power: number })),
    })
    .register(shapes, { id: "Power" }),
  missing(input) {
    if (input.response !== undefined) {
      const two = (["effect", "power", "replicates"] as const).filter((k) => input[k] !== undefined).length;
      return two === 2 && input.noise === undefined ? undefined : { code: "missing.two", values: { given: two } };
    }
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
      if (rest.response !== undefined) {
        const about = responseOf(study, rest.response);
        return solveCounted(study, about, points, asked, {
          ...defined(rest),
          alpha: level ?? significance(study),
        });
      }
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
