import * as z from "zod";
import { editSchema, jsonValue, openQuestions, shapes, studySchema } from "@/core";
import { keySchema } from "./access/keys";
import { MOST_NAME } from "./access/session";
import { restoreSchema } from "./backups";
import { changeSchemas, importQuery } from "./changes";
import { entrySchema } from "./entries";
import { SQLITE, XLSX } from "./guard";
import { historyQuery, markSchema } from "./history";

import { keepingChange, keepingSchema } from "./keeping";
import { answerSchema, failSchema, lendingSchema, nextSchema, watchQuery } from "./lending";
import { bodySchema, revision } from "./questions";
import { rigOrder } from "./rigs/order";

/** What can be asked over HTTP: one row an operation, from which the description and its clients are made. */
export interface Operation {
  id: string;
  method: "get" | "post" | "put" | "patch" | "delete";
  path: string;
  summary: string;
  /** Names of what stands in the address, each with its words. */
  query?: Record<string, { schema: z.ZodType; summary: string }>;
  /** Headers that mean something, each with its words. */
  headers?: Record<string, string>;
  body?: { schema?: z.ZodType; type: string };
  /** Status and shape of the answer; of another type than JSON where said. */
  answers: { status: number; schema?: z.ZodType; type?: string; summary: string }[];
  /** Statuses of refusals, each a problem document. */
  problems: number[];
  /** Who reaches it over a network beside the desk: a key of its study's bench, or anyone. */
  reach?: "bench" | "anyone";
  /** Pages ask it by themselves, over and over: it is no sign that a person is there. */
  watches?: true;
}

/** Gives a shape its name in the description. */
const named = <S extends z.ZodType>(id: string, schema: S): S => {
  shapes.add(schema, { id });
  return schema;
};

export const createSchema = named(
  "CreateRequest",
  z.union([
    z.strictObject({ title: z.string().trim().min(1).max(200) }),
    z.strictObject({ example: z.string().max(100), questionOnly: z.boolean().optional() }),
  ]),
);

const id = z.string();
const study = named("Study", studySchema.describe("A study as it is stored"));
const stored = named("StoredStudy", z.strictObject({ id, revision: z.number(), study }));
const revised = named("Revised", z.strictObject({ id, revision: z.number() }));
const merged = named(
  "Merged",
  revised.extend({ missed: z.array(editSchema).optional().describe("what others had changed since that revision") }),
);
const cairn = named(
  "Cairn",
  z.strictObject({
    station: z.enum(["question", "plan", "trials", "model", "setpoint", "report"]),
    fact: z.string(),
    stones: z.number().describe("how many of its three steps are done"),
    loose: z.boolean().describe("something it rests on changed since"),
  }),
);
const summary = named(
  "StudySummary",
  z.strictObject({
    id,
    title: z.string(),
    revision: z.number(),
    updatedAt: z.string(),
    trail: z.array(cairn),
    damage: z.string().nullable().describe("why it cannot be read, where it cannot"),
  }),
);
const fault = named(
  "Fault",
  z.strictObject({ code: z.string(), message: z.string(), path: z.array(z.union([z.string(), z.number()])) }),
);
const faults = named("Faults", z.strictObject({ ok: z.boolean(), faults: z.array(fault) }));
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
const change = named(
  "SheetChange",
  z.strictObject({
    trial: z.string(),
    response: z.string().optional(),
    asRun: z.string().optional(),
    covariate: z.string().optional(),
    note: z.literal(true).optional(),
    setup: z.literal(true).optional(),
    from: z.unknown(),
    to: z.unknown(),
  }),
);
const sheet = named(
  "SheetImport",
  z.strictObject({
    changes: z.array(change),
    untaken: z.array(z.strictObject({ column: z.string(), why: z.string() })),
    problems: z.array(z.string()),
    repeats: z
      .array(z.strictObject({ response: z.string(), columns: z.array(z.string()) }))
      .describe("columns that are read as repeats of one response"),
    remarks: z.array(z.string()).describe("what is odd about a workbook"),
    again: z.number().describe("rows of trials that stood in an earlier row: left out, or with rows=repeats taken"),
    id: id.optional(),
    revision: z.number().optional(),
    study: study.optional(),
  }),
);
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
const severalStudies = named(
  "SeveralStudies",
  z.strictObject({
    format: z.literal("trialmoor-backup"),
    version: z.literal(1),
    at: z.string(),
    studies: z.array(study),
    leftOut: z
      .array(z.strictObject({ id, title: z.string(), why: z.string() }))
      .optional()
      .describe("studies that cannot be read"),
  }),
);
const rawStudySchema = named(
  "RawStudy",
  z
    .looseObject({ format: z.literal("trialmoor-raw"), version: z.literal(1), id })
    .describe("A study's rows as they stand, for one that cannot be read"),
);
const studyFile = named("StudyFile", z.union([studySchema.describe("A study file"), severalStudies]));
export const problemSchema = named(
  "Problem",
  z
    .looseObject({
      type: z.string(),
      title: z.string(),
      status: z.number(),
      code: z.string(),
      detail: z.string(),
      path: z.array(z.union([z.string(), z.number()])),
    })
    .describe("A problem document (RFC 9457)"),
);
named("Json", jsonValue);
named("Edit", editSchema);

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

const deleted = named(
  "DeletedStudy",
  z.strictObject({
    id,
    title: z.string(),
    deletedAt: z.string(),
    until: z.string().describe("until when it can be brought back"),
  }),
);
/** What a list of studies is asked for. */
export const listQuery = z.strictObject({ deleted: z.enum(["1"]).optional() });

const backup = named(
  "Backup",
  z.strictObject({
    name: z.string(),
    at: z.string(),
    bytes: z.number(),
    studies: z.number().nullable().describe("how many it holds; null where it cannot be read"),
  }),
);
const backedUp = named(
  "BackedUp",
  z.strictObject({
    id,
    title: z.string(),
    revision: z.number(),
    updatedAt: z.string(),
    deletedAt: z.string().nullable(),
    now: z
      .strictObject({
        title: z.string(),
        revision: z.number(),
        updatedAt: z.string(),
        deletedAt: z.string().nullable(),
      })
      .nullable()
      .describe("the study of this id as it stands"),
  }),
);
const keeping = named("Keeping", keepingSchema.extend({ folder: z.string().describe("where backups are kept") }));
/** What a person signs in with: the passphrase with the name that stands with changes, or a key of a bench. */
export const signInSchema = z.union([
  z.strictObject({ passphrase: z.string().max(1000), name: z.string().trim().max(MOST_NAME).default("") }),
  z.strictObject({ key: z.string().max(200) }),
]);
const sessionShape = named(
  "Session",
  z.strictObject({
    role: z.enum(["desk", "bench"]),
    name: z.string(),
    study: z.string().optional().describe("the study whose bench it is"),
    opened: z.boolean().describe("whether people sign in here: the server is open to a network"),
  }),
);
const STUDY = "/api/studies/{id}";
const json = (schema: z.ZodType): Operation["body"] => ({ schema, type: "application/json" });
const done = (schema: z.ZodType, summary = "Done", status = 200): Operation["answers"] => [{ status, schema, summary }];
const backupName = done(z.strictObject({ name: z.string() }), "Its name", 201);
const title = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1);
const writes = [400, 404, 409, 413, 415, 422];

/** What an address asks after its question mark, each with the words that its schema says of it. */
const describedQuery = (schema: z.ZodObject): NonNullable<Operation["query"]> =>
  Object.fromEntries(
    Object.entries(schema.shape).map(([name, s]) => [
      name,
      { schema: s as z.ZodType, summary: (s as z.ZodType).description ?? "" },
    ]),
  );

/** A change under a study's address. */
const changes = (
  name: string,
  verb: string,
  summary: string,
  schema: z.ZodType,
  more: Partial<Operation> = {},
): Operation => ({
  id: name,
  method: "post",
  path: `${STUDY}/${verb}`,
  summary,
  body: json(named(`${title(name)}Request`, schema)),
  answers: done(stored, "The study as it then stands"),
  problems: writes,
  ...more,
});

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

/** Every operation, in the order of the addresses. */
export const operations: readonly Operation[] = [
  {
    id: "health",
    method: "get",
    path: "/api/health",
    summary: "Whether the server and its database answer",
    answers: done(named("Health", z.strictObject({ status: z.literal("ok") }))),
    problems: [500, 503, 507],
    reach: "anyone",
  },
  {
    id: "readSession",
    method: "get",
    path: "/api/session",
    summary: "Who asks, and whether people sign in here",
    answers: done(sessionShape),
    problems: [401],
    reach: "anyone",
  },
  {
    id: "signIn",
    method: "post",
    path: "/api/session",
    summary: "Sign in by the passphrase, or by a key of a bench; a cookie holds the session",
    body: json(named("SignInRequest", signInSchema)),
    answers: [{ status: 204, summary: "Signed in" }],
    problems: [400, 401, 413, 415, 422, 429],
    reach: "anyone",
  },
  {
    id: "signOut",
    method: "delete",
    path: "/api/session",
    summary: "End the session",
    answers: [{ status: 204, summary: "Signed out" }],
    problems: [],
    reach: "anyone",
  },
  {
    id: "listExamples",
    method: "get",
    path: "/api/examples",
    summary: "Names of the shipped studies",
    answers: done(z.array(z.string())),
    problems: [],
  },
  {
    id: "validate",
    method: "post",
    path: "/api/validate",
    summary: "Every fault of a study file at once; nothing is stored",
    body: json(z.unknown()),
    answers: done(faults),
    problems: [400, 413, 415],
  },
  {
    id: "listStudies",
    method: "get",
    path: "/api/studies",
    summary: "All studies, last touched first; with deleted=1 those that can be brought back",
    query: { deleted: { schema: listQuery.shape.deleted, summary: "1 for deleted studies" } },
    answers: done(z.union([z.array(summary), z.array(deleted)])),
    problems: [422],
  },
  {
    id: "createStudy",
    method: "post",
    path: "/api/studies",
    summary: "Create a blank study or open a shipped example",
    body: json(createSchema),
    answers: done(stored, "Created", 201),
    problems: [400, 404, 415, 422],
  },
  {
    id: "importStudies",
    method: "post",
    path: "/api/studies/import",
    summary: "Open a study file, or one of several studies that an earlier version made",
    headers: { "Idempotency-Key": "names the request: sent twice, it is done once" },
    body: json(studyFile),
    answers: done(z.array(stored), "The studies made", 201),
    problems: [400, 413, 415, 422],
  },
  {
    id: "listBackups",
    method: "get",
    path: "/api/backups",
    summary: "All backups in their folder, the newest first",
    answers: done(z.array(backup)),
    problems: [503],
  },
  {
    id: "makeBackup",
    method: "post",
    path: "/api/backups",
    summary: "Back up everything now; or, where a backup is sent as a file, put it into the folder",
    query: { called: { schema: z.string().optional(), summary: "what a file that is sent is called" } },
    body: { type: SQLITE },
    answers: backupName,
    problems: [415, 422, 503, 507],
  },
  {
    id: "readBackup",
    method: "get",
    path: "/api/backups/{name}",
    summary: "A backup as a file",
    answers: [{ status: 200, type: SQLITE, schema: z.string(), summary: "The file" }],
    problems: [404],
  },
  {
    id: "removeBackup",
    method: "delete",
    path: "/api/backups/{name}",
    summary: "Delete a backup",
    answers: done(z.strictObject({ name: z.string() })),
    problems: [404],
  },
  {
    id: "lookIntoBackup",
    method: "get",
    path: "/api/backups/{name}/studies",
    summary: "What a backup holds, beside what stands of it",
    answers: done(z.array(backedUp)),
    problems: [404, 422],
  },
  {
    id: "restoreBackup",
    method: "post",
    path: "/api/backups/{name}/restore",
    summary: "Restore everything in place of what stands, of which a backup is made first; or studies beside it",
    body: json(named("RestoreRequest", restoreSchema)),
    answers: done(
      z.strictObject({
        studies: z.array(z.strictObject({ id, title: z.string() })).describe("those put beside what stands"),
        before: z.string().optional().describe("the backup of what stood before"),
      }),
    ),
    problems: [400, 404, 413, 415, 422, 503, 507],
  },
  {
    id: "readKeeping",
    method: "get",
    path: "/api/keeping",
    summary: "How long deleted studies and daily backups are kept",
    answers: done(keeping),
    problems: [],
  },
  {
    id: "setKeeping",
    method: "patch",
    path: "/api/keeping",
    summary: "Decide how long they are kept; what is not said stays",
    body: json(named("KeepingRequest", keepingChange)),
    answers: done(keeping),
    problems: [400, 413, 415, 422],
  },
  {
    id: "readStudy",
    method: "get",
    path: STUDY,
    summary: "Read a study with its revision",
    answers: done(stored),
    problems: [404],
  },
  {
    id: "editStudy",
    method: "patch",
    path: STUDY,
    summary: "Change cells of a study",
    body: json(named("EditRequest", changeSchemas.edits)),
    answers: done(merged),
    problems: writes,
  },
  {
    id: "deleteStudy",
    method: "delete",
    path: STUDY,
    summary: "Delete a study; it can be restored",
    body: json(named("DeleteRequest", z.strictObject({ revision }))),
    answers: done(revised),
    problems: writes,
  },
  {
    id: "duplicateStudy",
    method: "post",
    path: `${STUDY}/duplicate`,
    summary: "Copy a study",
    answers: done(stored, "Created", 201),
    problems: [404],
  },
  {
    id: "restoreStudy",
    method: "post",
    path: `${STUDY}/restore`,
    summary: "Bring a deleted study back",
    answers: done(stored),
    problems: [404],
  },
  {
    id: "exportStudy",
    method: "get",
    path: `${STUDY}/export`,
    summary: "Download the ledger (csv), the study as a workbook (xlsx) or its file (json)",
    query: { format: { schema: z.enum(["csv", "xlsx", "json", "raw"]).optional(), summary: "json unless said" } },
    answers: [
      {
        status: 200,
        schema: z.union([study, rawStudySchema]),
        summary: "The study file, or the ledger as text/csv, or with raw the rows as they stand",
      },
      { status: 200, type: "text/csv", schema: z.string(), summary: "The ledger" },
      { status: 200, type: XLSX, schema: z.string(), summary: "The workbook" },
    ],
    problems: [404, 422],
  },
  {
    id: "importSheet",
    method: "post",
    path: `${STUDY}/import`,
    summary: "What a sheet (text/csv or an xlsx workbook) would change (dry=1), or take it (revision)",
    query: describedQuery(importQuery),
    body: { schema: z.string(), type: "text/csv" },
    answers: done(sheet),
    problems: writes,
  },
  changes(
    "adoptWave",
    "waves",
    "Adopt a plan as a wave: as it was answered, or made from its options",
    changeSchemas.waves,
  ),
  changes("changeTrial", "trials", "Change one trial's state, note, use or as-run settings", changeSchemas.trials),
  changes("enterResults", "results", "Enter one or many results", changeSchemas.results),
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
  changes("putModel", "models/{response}", "Store or take away the model of a response", changeSchemas.model, {
    method: "put",
  }),
  changes("putSetpoint", "setpoint", "Choose or take away the setpoint", changeSchemas.setpoint, { method: "put" }),
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
