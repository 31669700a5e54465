import * as z from "zod";
import { jsonValue } from "@/core/study";
import { historyQuery, markSchema } from "../history";
import { revision } from "../questions";
import { changes, describedQuery, done, id, json, named, type Operation, STUDY, study } from "./operation";

const cell = named(
  "CellChange",
  z.strictObject({
    path: z.array(z.string()),
    from: jsonValue,
    to: jsonValue,
    text: z.string().describe("what became of it, in words"),
  }),
);

const mark = named(
  "Mark",
  z.strictObject({
    id,
    revision: z.number().describe("the state it names"),
    station: z.string(),
    name: z.string(),
    at: z.string(),
    who: z.string(),
  }),
);

const historyPage = named(
  "HistoryPage",
  z.strictObject({
    revision: z.number(),
    events: z.array(
      z.strictObject({
        id: z.number(),
        revision: z.number().describe("what the change made"),
        at: z.string(),
        who: z.string().describe("empty where nobody said a name; http for a program"),
        what: z.string(),
        changes: z.array(cell).describe("the first cells that were asked for"),
        count: z.number().describe("all its cells that were asked for"),
      }),
    ),
    next: z.number().optional().describe("before on the next page; none on the last"),
    people: z.array(z.string()).optional().describe("all who changed something, with the first page"),
    marks: z.array(mark).optional().describe("all marks, with the first page"),
  }),
);

/** What a study was, and moments that were named. */
export const ofHistory: readonly Operation[] = [
  {
    id: "listHistory",
    method: "get",
    path: `${STUDY}/history`,
    summary: "Changes of a study, the last first, a page at a time",
    query: describedQuery(historyQuery),
    answers: [...done(historyPage), { status: 200, type: "text/csv", schema: z.string(), summary: "All of them" }],
    problems: [404, 422],
  },
  {
    id: "pastStudy",
    method: "get",
    path: `${STUDY}/history/{revision}`,
    summary: "A study as it stood after a change",
    answers: done(named("PastStudy", z.strictObject({ revision: z.number(), study }))),
    problems: [404, 422],
  },
  changes(
    "bringBack",
    "history/{revision}/restore",
    "Make a study what it was after a change, as a change of its own",
    z.strictObject({ revision }),
  ),
  {
    id: "listMarks",
    method: "get",
    path: `${STUDY}/marks`,
    summary: "Moments of a study that were named, oldest first",
    answers: done(z.array(mark)),
    problems: [404],
  },
  {
    id: "addMark",
    method: "post",
    path: `${STUDY}/marks`,
    summary: "Name a state of a study",
    headers: { "x-trialmoor-who": "the name of whoever asks, as encoded text; kept with every change" },
    body: json(named("MarkRequest", markSchema)),
    answers: done(mark, "Created", 201),
    problems: [400, 404, 415, 422],
  },
  {
    id: "removeMark",
    method: "delete",
    path: `${STUDY}/marks/{mark}`,
    summary: "Take a mark away; the state it named stays",
    answers: done(z.strictObject({ id })),
    problems: [404],
  },
];
