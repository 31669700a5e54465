import * as z from "zod";
import { shapes } from "@/core/questions";
import { editSchema, jsonValue, studySchema } from "@/core/study";

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
export const named = <S extends z.ZodType>(id: string, schema: S): S => {
  shapes.add(schema, { id });
  return schema;
};

/** Shapes that answers of several subjects are made of. */
export const id = z.string();
export const study = named("Study", studySchema.describe("A study as it is stored"));
export const stored = named("StoredStudy", z.strictObject({ id, revision: z.number(), study }));
export const revised = named("Revised", z.strictObject({ id, revision: z.number() }));

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

export const STUDY = "/api/studies/{id}";
/** A body as JSON. */
export const json = (schema: z.ZodType): Operation["body"] => ({ schema, type: "application/json" });

/** The one answer of what succeeds. */
export const done = (schema: z.ZodType, summary = "Done", status = 200): Operation["answers"] => [
  { status, schema, summary },
];

/** The name of an operation as that of a shape. */
export const title = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1);

/** Refusals of whatever changes something. */
export const writes = [400, 404, 409, 413, 415, 422];

/** What an address asks after its question mark, each with the words that its schema says of it. */
export const describedQuery = (schema: z.ZodObject): NonNullable<Operation["query"]> =>
  Object.fromEntries(
    Object.entries(schema.shape).map(([name, s]) => [
      name,
      { schema: s as z.ZodType, summary: (s as z.ZodType).description ?? "" },
    ]),
  );

/** A change under a study's address. */
export const changes = (
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
