import * as z from "zod";
import { editSchema } from "@/core/study";
import { answerSchema, failSchema, lendingSchema, nextSchema, watchQuery } from "../leases";
import { rigOrder } from "../rigs/order";
import { describedQuery, done, id, json, named, type Operation, STUDY, writes } from "./operation";

const settings = z.record(z.string(), z.union([z.number(), z.string()]));

const lease = z.strictObject({
  lease: z.string(),
  until: z.string().describe("when it may be lent again"),
  trial: z.string(),
  order: z.number(),
  settings,
  coded: settings,
  factors: z.array(z.strictObject({ id, letter: z.string(), name: z.string(), unit: z.string().optional() })),
});

const returned = z.strictObject({
  revision: z.number(),
  trial: z.unknown().describe("the trial as it then stands"),
});

const rigsSeen = named(
  "Rigs",
  z.strictObject({
    broker: z.strictObject({
      state: z.enum(["connecting", "connected", "refused"]),
      address: z.string(),
      sentence: z.string().optional(),
    }),
    rigs: z.array(
      z.strictObject({
        id,
        name: z.string(),
        state: z.enum(["ready", "running", "trouble", "gone"]),
        since: z.string(),
        says: z.string().optional().describe("what it says of itself"),
        study: z.string().optional().describe("whose trials it runs"),
        paused: z.boolean().optional(),
        trial: z.number().optional().describe("order of the trial that it was sent and has not answered"),
        sentence: z.string().optional().describe("what went wrong last"),
      }),
    ),
  }),
);

const lendingState = named(
  "Lending",
  z.strictObject({
    revision: z.number(),
    stopped: z.boolean(),
    atOnce: z.number().nullable(),
    waiting: z.number(),
    lent: z.array(
      z.strictObject({
        lease: z.string(),
        trial: z.string(),
        order: z.number(),
        holder: z.string(),
        since: z.string(),
        until: z.string(),
      }),
    ),
    lately: z.strictObject({ trials: z.number(), seconds: z.number() }),
    rigs: rigsSeen.optional().describe("where a settings file names their broker"),
    changes: z.array(editSchema).optional().describe("since the revision asked about, where that is not too much"),
  }),
);

/** Trials lent to programs and rigs. */
export const ofLeases: readonly Operation[] = [
  {
    id: "watchLending",
    watches: true,
    method: "get",
    path: `${STUDY}/next`,
    summary: "Trials lent to programs and rigs, how fast they come back, and what was changed since a revision",
    query: describedQuery(watchQuery),
    answers: done(lendingState),
    problems: [404, 422],
  },
  {
    id: "lendNext",
    method: "post",
    path: `${STUDY}/next`,
    summary: "Lend the next waiting trial to a program",
    body: json(named("NextRequest", nextSchema)),
    answers: [
      ...done(named("Lease", lease), "Lent"),
      { status: 204, summary: "Nothing to lend; with Retry-After where trials that are lent may come back" },
    ],
    problems: [400, 404, 415, 422],
    reach: "bench",
  },
  {
    id: "setLending",
    method: "put",
    path: `${STUDY}/next`,
    summary: "Stop lending trials, let it go on, or say how many at once",
    body: json(named("LendingRequest", lendingSchema)),
    answers: done(lendingState),
    problems: [400, 404, 415, 422],
  },
  {
    id: "returnResults",
    method: "post",
    path: `${STUDY}/next/{lease}/results`,
    summary: "Results of a lent trial, as data or (text/plain) as the program printed them",
    headers: { "Idempotency-Key": "names the results: sent twice, they are taken once" },
    body: json(named("ReturnRequest", answerSchema)),
    answers: done(named("Returned", returned)),
    problems: writes,
    reach: "bench",
  },
  {
    id: "returnFailure",
    method: "post",
    path: `${STUDY}/next/{lease}/fail`,
    summary: "Say that a lent trial failed, and why",
    headers: { "Idempotency-Key": "names the failure: sent twice, it is taken once" },
    body: json(named("FailRequest", failSchema)),
    answers: done(returned),
    problems: writes,
    reach: "bench",
  },
  {
    id: "renewLease",
    method: "post",
    path: `${STUDY}/next/{lease}/renew`,
    summary: "Lend a trial on for as long again",
    answers: done(z.strictObject({ until: z.string() })),
    problems: [404, 409],
    reach: "bench",
  },
  {
    id: "giveBack",
    method: "delete",
    path: `${STUDY}/next/{lease}`,
    summary: "Give a lent trial back as it was: it waits again",
    answers: done(z.strictObject({ lease: z.string() })),
    problems: [404, 409],
    reach: "bench",
  },
  {
    id: "orderRig",
    method: "put",
    path: `${STUDY}/rigs/{rig}`,
    summary: "Tell a rig to run the waiting trials, to rest after the present one, or to stop",
    body: json(named("RigOrder", rigOrder)),
    answers: done(rigsSeen, "The rigs as they are known now"),
    problems: [400, 404, 409, 415, 422],
  },
];
