import * as z from "zod";
import { rigs, runRig, waiting } from "../rigs";
import { type Edit, edit } from "../study/edit";
import { resultSchema, type Study, type Trial } from "../study/schema";
import { seed } from "./parts";
import { defineQuestion, type Steps, shapes } from "./question";

export interface RigAnswer {
  /** Ids of the trials run, in run order, and what each gave. */
  ran: string[];
  results: Record<string, Trial["results"]>;
  seed: number;
}

/** Results of trials run, as changes of the study. */
export const rigEdits = (study: Study, { ran, results }: RigAnswer): Edit[] =>
  ran.flatMap((id) => [
    edit(study, ["trials", id, "results"], results[id]),
    edit(study, ["trials", id, "state"], "done"),
  ]);

export const rig = defineQuestion({
  id: "rig",
  summary: "Run the trials not yet run on a virtual process",
  input: { name: z.string().describe(`the rig: ${rigs.map((r) => r.id).join(", ")}`), seed },
  answer: z
    .strictObject({
      ran: z.array(z.string()),
      results: z.record(z.string(), z.record(z.string(), resultSchema)),
      seed: z.number(),
    })
    .register(shapes, { id: "RigRun" }),
  long: true,
  heavy: (study) => waiting(study).length > 1000,
  *run(study, input): Steps<RigAnswer> {
    const total = waiting(study).length;
    const answer: RigAnswer = { ran: [], results: {}, seed: input.seed ?? 1 };
    const running = runRig(study, input.name, answer.seed);
    let step = running.next();
    while (!step.done) {
      answer.ran.push(step.value.id);
      answer.results[step.value.id] = step.value.results;
      yield { done: answer.ran.length / total, text: `trial ${step.value.order}`, best: step.value };
      step = running.next();
    }
    return answer;
  },
  takeUp: {
    option: "adopt",
    always: true,
    summary: "enter the results into the study",
    edits: (study, _input, answer) => rigEdits(study, answer),
    what: (input) => `ran the ${input.name} rig`,
  },
  example: {
    study: "wool-scouring",
    input: { name: "wool-line" },
    after: [{ question: "follow", input: { kind: "repeat" } }],
  },
});
