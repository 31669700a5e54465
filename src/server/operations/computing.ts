import * as z from "zod";
import { openQuestions } from "@/core/questions";
import { bodySchema } from "../questions";
import { done, id, json, named, type Operation, STUDY, stored, title, writes } from "./operation";

const job = named(
  "Job",
  z.strictObject({
    id,
    studyId: z.string(),
    name: z.string(),
    state: z.enum(["waiting", "running", "done", "stopped", "failed", "interrupted"]),
    progress: z.number(),
    text: z.string(),
    answer: z.unknown().nullable(),
    best: z.unknown().nullable().describe("the best so far, where it was stopped or is under way"),
    problem: z.unknown().nullable(),
    createdAt: z.string(),
    updatedAt: z.string(),
  }),
);

const started = named("JobStarted", z.strictObject({ id }));

const asked = openQuestions().map(
  (q): Operation => ({
    id: q.id,
    method: "post",
    path: `${STUDY}/${q.id}`,
    summary: q.summary,
    body: json(named(`${title(q.id)}Request`, bodySchema(q))),
    answers: [
      {
        status: 200,
        schema: q.takeUp ? z.union([q.answer, stored]) : q.answer,
        summary: q.takeUp ? `The answer; with ${q.takeUp.option} the study as it then stands` : "The answer",
      },
      ...(q.long ? [{ status: 202, schema: started, summary: "Begun in the background: read the job" }] : []),
    ],
    problems: [...writes, 429],
  }),
);

/** Questions that a study is asked, and long computations. */
export const ofComputing: readonly Operation[] = [
  ...asked,
  {
    id: "readJob",
    method: "get",
    path: "/api/jobs/{id}",
    summary: "State, progress and answer of a long computation",
    answers: done(job),
    problems: [404],
  },
  {
    id: "stopJob",
    method: "delete",
    path: "/api/jobs/{id}",
    summary: "Stop a long computation; a search keeps its best",
    answers: done(job),
    problems: [404],
  },
];
