import * as z from "zod";
import { keySchema } from "../access/keys";
import { entrySchema } from "../entries";
import { done, id, json, named, type Operation, STUDY, stored, writes } from "./operation";

/** What is noted beside the machine, and the keys of who may. */
export const ofBench: readonly Operation[] = [
  {
    id: "enterAtBench",
    method: "post",
    path: `${STUDY}/trials/{trial}/entries`,
    summary: "Take in one thing noted beside the machine; it says what stood in its cell, and needs no revision",
    headers: { "Idempotency-Key": "names the entry: sent twice, it is taken in once" },
    body: json(named("BenchEntryRequest", entrySchema)),
    answers: done(
      z.strictObject({ revision: z.number(), trial: z.unknown().describe("the trial as it then stands") }),
      "The revision and the trial as it then stands",
    ),
    problems: writes,
    reach: "bench",
  },
  {
    id: "readBench",
    method: "get",
    path: `${STUDY}/bench`,
    summary: "A study as the bench shows it: what to set and what came out, no plans, models or setpoint",
    answers: done(stored),
    problems: [404],
    reach: "bench",
  },
  {
    id: "listKeys",
    method: "get",
    path: `${STUDY}/keys`,
    summary: "Keys of the study's bench, the newest first",
    answers: done(
      z.array(
        named(
          "BenchKey",
          z.strictObject({ id, name: z.string(), created: z.string(), lastUsed: z.string().nullable() }),
        ),
      ),
    ),
    problems: [404],
  },
  {
    id: "makeKey",
    method: "post",
    path: `${STUDY}/keys`,
    summary: "Make a key of the study's bench; the link that holds it is told this once",
    body: json(named("KeyRequest", keySchema)),
    answers: done(z.strictObject({ id, url: z.string() }), "Made", 201),
    problems: writes,
  },
  {
    id: "revokeKey",
    method: "delete",
    path: `${STUDY}/keys/{key}`,
    summary: "Take a key back; whoever came in by it is signed out",
    answers: done(z.strictObject({ id })),
    problems: [404],
  },
];
