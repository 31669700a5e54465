import * as z from "zod";
import { adoptPlan } from "@/core/plans";
import { planInput } from "@/core/questions";
import {
  additions,
  edit,
  editSchema,
  enterResults,
  modelSchema,
  resultSchema,
  StudyError,
  setpointSchema,
  settingsSchema,
  TRIAL_STATES,
} from "@/core/study";
import { compute, sheetAside } from "./pool";
import { Problem } from "./problem";
import { revision } from "./questions";
import { changeStudy, readStudy, requireRevision, type StoredStudy } from "./studies";

const name = z.string().max(200);

/** A plan as it was previewed: what a question answered, of which its waves and trials are taken. */
const previewed = z.looseObject({
  waves: z.array(z.looseObject({ id: z.string(), name: z.string(), recipe: z.record(z.string(), z.unknown()) })).min(1),
  trials: z
    .array(
      z.looseObject({
        id: z.string(),
        wave: z.string(),
        standard: z.number().int().positive(),
        order: z.number().int().positive(),
        kind: z.string(),
        settings: settingsSchema,
      }),
    )
    .min(1)
    .max(5000),
});

/** The bodies of what changes a study under /api/studies/{id}/. */
export const changeSchemas = {
  waves: z.strictObject({
    revision,
    plan: z
      .union([z.strictObject(planInput), previewed])
      .describe("options of a plan to be made, or a plan as it was answered, taken as it is"),
    purpose: name.optional(),
  }),
  trials: z.strictObject({
    revision,
    id: z.string(),
    state: z.enum(TRIAL_STATES).optional(),
    note: z.string().max(4000).optional(),
    use: z.boolean().optional(),
    asRun: settingsSchema.nullable().optional(),
  }),
  results: z.strictObject({
    revision,
    results: z
      .array(z.strictObject({ trial: z.string(), response: z.string(), value: resultSchema }))
      .min(1)
      .max(5000),
  }),
  edits: z.strictObject({
    revision,
    edits: z.array(editSchema).min(1).max(20000),
    what: name.optional(),
    merge: z
      .boolean()
      .optional()
      .describe("take them on a later revision too, where each cell still holds what its edit expects"),
  }),
  model: z.strictObject({
    revision,
    // Its response stands in the address; said again, it must be the same.
    model: modelSchema.partial({ response: true }).nullable().describe("null takes the model away"),
  }),
  setpoint: z.strictObject({ revision, setpoint: setpointSchema.nullable().describe("null takes it away") }),
} as const;

export type ChangeName = keyof typeof changeSchemas;
type Body<C extends ChangeName> = z.output<(typeof changeSchemas)[C]>;

/** Adopts a plan: as it was previewed, or made from its options here. */
export async function adoptWave(
  id: string,
  body: Body<"waves">,
  who: string,
  signal?: AbortSignal,
): Promise<StoredStudy> {
  const stored = await readStudy(id);
  requireRevision(stored, body.revision);
  const { plan } = body;
  const made =
    "trials" in plan && Array.isArray(plan.trials) ? plan : await compute("plan", id, stored.study, plan, signal);
  const adopted = adoptPlan(stored.study, made as Parameters<typeof adoptPlan>[1], body.purpose);
  return changeStudy(id, body.revision, additions(stored.study, adopted), "adopted a plan", who);
}

/** Changes one trial's state, note, use or as-run settings. */
export async function changeTrial(id: string, body: Body<"trials">, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  const { revision: revisionSeen, id: trial, ...patch } = body;
  const edits = Object.entries(patch).flatMap(([key, value]) =>
    value === undefined ? [] : [edit(study, ["trials", trial, key], value)],
  );
  return changeStudy(id, revisionSeen, edits, "changed a trial", who);
}

/** Enters one or many results; a trial begins to count with its first. */
export async function enterStored(id: string, body: Body<"results">, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  return changeStudy(id, body.revision, enterResults(study, body.results), "entered results", who);
}

/**
 * Stores or takes away the model of a response.
 * @throws StudyError `wrong-place`
 */
export async function putModel(id: string, response: string, body: Body<"model">, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  const said = body.model?.response ?? response;
  if (said !== response) throw new StudyError("wrong-place", { of: said, response }, ["model", "response"]);
  const edits = [edit(study, ["models", response], body.model && { ...body.model, response })];
  return changeStudy(id, body.revision, edits, `stored the model of ${response}`, who);
}

/** Chooses or takes away the setpoint. */
export async function putSetpoint(id: string, body: Body<"setpoint">, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  return changeStudy(id, body.revision, [edit(study, ["setpoint"], body.setpoint)], "chose a setpoint", who);
}

/** How a sheet is taken: looked at alone, or on the revision that was seen; what its rows are. */
export const importQuery = z.strictObject({
  dry: z.enum(["1"]).optional().describe("only say what would change"),
  revision: z
    .string()
    .regex(/^[1-9]\d{0,14}$/)
    .optional()
    .describe("the revision to change"),
  rows: z.enum(["repeats"]).optional().describe("repeats: several rows of one trial are its repeats"),
});

/**
 * What a sheet would change, and, unless it is only looked at, the study as it then stands.
 * @throws Problem `missing` without a revision to change
 */
export async function importSheet(
  id: string,
  sheet: string | Uint8Array,
  { dry, revision, rows }: z.output<typeof importQuery>,
  who: string,
): Promise<object> {
  if (dry === undefined && revision === undefined) throw new Problem("missing", {}, { path: ["revision"] });
  const revisionSeen = dry === undefined ? Number(revision) : undefined;
  const stored = await readStudy(id);
  if (revisionSeen !== undefined) requireRevision(stored, revisionSeen);
  const { edits, ...read } = await sheetAside(stored.study, sheet, rows === "repeats");
  if (revisionSeen === undefined) return read;
  const after = edits.length === 0 ? stored : await changeStudy(id, revisionSeen, edits, "imported a sheet", who);
  return { ...read, ...after };
}
