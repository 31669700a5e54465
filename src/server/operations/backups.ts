import * as z from "zod";
import { restoreSchema } from "../backups";
import { SQLITE } from "../guard";
import { retentionChange, retentionSchema } from "../retention";
import { done, id, json, named, type Operation } from "./operation";

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

const keeping = named("Keeping", retentionSchema.extend({ folder: z.string().describe("where backups are kept") }));

const backupName = done(z.strictObject({ name: z.string() }), "Its name", 201);

/** Backups, and for how long what is deleted is kept. */
export const ofBackups: readonly Operation[] = [
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
    body: json(named("KeepingRequest", retentionChange)),
    answers: done(keeping),
    problems: [400, 413, 415, 422],
  },
];
