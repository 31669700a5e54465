import * as z from "zod";
import { editSchema, studySchema } from "@/core/study";
import { changeSchemas, importQuery } from "../changes";
import { XLSX } from "../guard";
import { revision } from "../questions";
import {
  changes,
  describedQuery,
  done,
  id,
  json,
  named,
  type Operation,
  revised,
  STUDY,
  stored,
  study,
  writes,
} from "./operation";

export const createSchema = named(
  "CreateRequest",
  z.union([
    z.strictObject({ title: z.string().trim().min(1).max(200) }),
    z.strictObject({ example: z.string().max(100), questionOnly: z.boolean().optional() }),
  ]),
);

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

/** Studies as a whole, and changes of one. */
export const ofStudies: readonly Operation[] = [
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
  changes("putModel", "models/{response}", "Store or take away the model of a response", changeSchemas.model, {
    method: "put",
  }),
  changes("putSetpoint", "setpoint", "Choose or take away the setpoint", changeSchemas.setpoint, { method: "put" }),
];
