import * as z from "zod";
import { studySchema } from "@/core";
import { verbSchemas } from "./verbs";

export const createSchema = z.union([
  z.strictObject({ title: z.string().trim().min(1).max(200) }),
  z.strictObject({ example: z.string().max(100), questionOnly: z.boolean().optional() }),
]);

const schemaOf = (schema: z.ZodType): object =>
  z.toJSONSchema(schema, { target: "draft-2020-12", io: "input", unrepresentable: "any" });
const json = (schema: object): object => ({ content: { "application/json": { schema } } });
const problem = {
  description: "A problem document (RFC 9457) with code, detail and path",
  content: {
    "application/problem+json": {
      schema: {
        type: "object",
        required: ["status", "code", "detail"],
        properties: {
          status: { type: "integer" },
          code: { type: "string" },
          detail: { type: "string" },
          path: { type: "array", items: {} },
        },
      },
    },
  },
};
const id = { name: "id", in: "path", required: true, schema: { type: "string" } };
const refusals = { "404": problem, "409": problem, "422": problem };

interface Operation {
  summary: string;
  body?: z.ZodType;
  created?: boolean;
  withId?: boolean;
}

const operation = ({ summary, body, created, withId }: Operation): object => ({
  summary,
  ...(withId ? { parameters: [id] } : {}),
  ...(body ? { requestBody: { required: true, ...json(schemaOf(body)) } } : {}),
  responses: { [created ? "201" : "200"]: { description: "Done", ...json({}) }, ...refusals },
});

const VERB_SUMMARIES: Record<Exclude<keyof typeof verbSchemas, "edits">, string> = {
  waves: "Make a plan and adopt it as a wave",
  trials: "Change one trial's state, note, use or as-run settings",
  results: "Enter one or many results",
  plan: "Make and appraise a plan without adopting it",
  appraise: "Appraise all trials",
  fit: "Fit one response",
  subsets: "All subsets of candidate terms, exactly, with weights; background for long ones",
  predict: "Predict every modelled response at one point",
  surface: "Stationary point, path of steepest ascent and each factor's share of variation",
  follow: "Plan the wave that follows, appraised before and after; adopt: true puts it in the ledger",
  setpoint: "Search the best settings (background: true answers a job)",
  power: "Solve effect, noise, power or replicates",
  rig: "Run the remaining trials on a virtual process",
};

/** The OpenAPI 3.1 document, made from the schemas that check the requests. */
export function openApi(): object {
  const study = "/api/studies/{id}";
  return {
    openapi: "3.1.0",
    info: {
      title: "Trialmoor",
      version: "1",
      description:
        "Every write carries the study's revision; a stale one is answered 409 with both versions and changes nothing.",
    },
    paths: {
      "/api/health": { get: operation({ summary: "Whether the server and its database answer" }) },
      "/api/examples": { get: operation({ summary: "Names of the shipped studies" }) },
      "/api/studies": {
        get: operation({ summary: "All studies, last touched first" }),
        post: operation({
          summary: "Create a blank study or open a shipped example",
          body: createSchema,
          created: true,
        }),
      },
      "/api/studies/import": {
        post: operation({ summary: "Open a study file or a backup", body: studySchema, created: true }),
      },
      "/api/studies/backup": { get: operation({ summary: "Every study as one file" }) },
      [study]: {
        get: operation({ summary: "Read a study with its revision", withId: true }),
        patch: operation({ summary: "Change cells of a study", body: verbSchemas.edits, withId: true }),
        delete: operation({
          summary: "Delete a study; it can be restored",
          body: z.strictObject({ revision: z.number().int().positive() }),
          withId: true,
        }),
      },
      [`${study}/duplicate`]: { post: operation({ summary: "Copy a study", created: true, withId: true }) },
      [`${study}/restore`]: { post: operation({ summary: "Bring a deleted study back", withId: true }) },
      [`${study}/export`]: {
        get: {
          ...operation({ summary: "Download the ledger (csv) or the study file (json)" }),
          parameters: [id, { name: "format", in: "query", schema: { enum: ["csv", "json"] } }],
        },
      },
      ...Object.fromEntries(
        Object.entries(VERB_SUMMARIES).map(([verb, summary]) => [
          `${study}/${verb}`,
          { post: operation({ summary, body: verbSchemas[verb as keyof typeof verbSchemas], withId: true }) },
        ]),
      ),
      "/api/jobs/{id}": {
        get: operation({ summary: "State, progress and answer of a long computation", withId: true }),
        delete: operation({ summary: "Stop it", withId: true }),
      },
    },
  };
}
