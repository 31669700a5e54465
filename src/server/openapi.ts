import * as z from "zod";
import { shapes } from "@/core/questions";
import { type Operation, operations, problemSchema } from "./operations";

type Json = Record<string, unknown>;

const uri = (id: string): string => `#/components/schemas/${id}`;
/** Schemas as they stand in the description: without what names each as a document of its own. */
const clean = ({ $schema: _schema, $id: _id, ...rest }: Json): Json => rest;

/** Every named shape, requests as they may be sent and answers as they come. */
function components(): Record<string, Json> {
  const made = (io: "input" | "output"): Record<string, Json> =>
    z.toJSONSchema(shapes, { target: "draft-2020-12", io, uri, unrepresentable: "any" }).schemas as Record<
      string,
      Json
    >;
  const [sent, answered] = [made("input"), made("output")];
  const ids = Object.keys(answered).sort();
  return Object.fromEntries(
    ids.map((id) => [id, clean(id.endsWith("Request") || id === "StudyFile" ? sent[id] : answered[id])]),
  );
}

/** A schema in place: a reference where it has a name, else written out; unions of named ones refer to each. */
function inPlace(schema: z.ZodType, io: "input" | "output"): Json {
  const id = shapes.get(schema)?.id;
  if (id !== undefined) return { $ref: uri(id) };
  if (schema instanceof z.ZodUnion) return { anyOf: schema.options.map((o) => inPlace(o as z.ZodType, io)) };
  if (schema instanceof z.ZodArray) return { type: "array", items: inPlace(schema.element as z.ZodType, io) };
  return clean(z.toJSONSchema(schema, { target: "draft-2020-12", io, unrepresentable: "any" }) as Json);
}

const PROBLEMS: Record<number, string> = {
  400: "The request cannot be read",
  401: "Not signed in, where the server is open to a network; or not let in",
  403: "A page of another address may not change anything; a key of the bench reaches only that",
  404: "There is no such thing",
  409: "Made on another revision than the one that stands",
  413: "The body is too large",
  415: "The body is of another type",
  422: "Refused, with the place and what to do",
  421: "The server does not answer by this host name",
  429: "Too many computations wait already; Retry-After says when to ask again",
  500: "The server could not do it",
  503: "The database cannot be written",
  507: "The disk is full",
};
/** What may come of any operation, and of any that writes. */
const ANYWHERE = [401, 403, 421];
const WHERE_WRITTEN = [503, 507];

function responsesOf({ method, answers, problems }: Operation): Json {
  const out: Record<string, { description: string; content?: Json }> = {};
  for (const { status, schema, type, summary } of answers) {
    const described = out[status];
    const content = schema ? { [type ?? "application/json"]: { schema: inPlace(schema, "output") } } : {};
    out[status] = { description: described?.description ?? summary, content: { ...described?.content, ...content } };
  }
  for (const status of [...problems, ...ANYWHERE, ...(method === "get" ? [] : WHERE_WRITTEN)])
    out[status] = {
      description: PROBLEMS[status],
      content: { "application/problem+json": { schema: inPlace(problemSchema, "output") } },
    };
  return out;
}

function operationOf(operation: Operation): Json {
  const { path, query, headers, body, id, summary } = operation;
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: "path",
    required: true,
    schema: { type: "string" },
  }));
  const inQuery = Object.entries(query ?? {}).map(([name, q]) => ({
    name,
    in: "query",
    required: false,
    description: q.summary,
    schema: inPlace(q.schema, "input"),
  }));
  const inHeader = Object.entries(headers ?? {}).map(([name, summary]) => ({
    name,
    in: "header",
    required: false,
    description: summary,
    schema: { type: "string" },
  }));
  return {
    operationId: id,
    summary,
    ...(inPath.length + inQuery.length + inHeader.length > 0
      ? { parameters: [...inPath, ...inQuery, ...inHeader] }
      : {}),
    ...(body
      ? {
          requestBody: {
            required: true,
            content: { [body.type]: { schema: body.schema ? inPlace(body.schema, "input") : {} } },
          },
        }
      : {}),
    responses: responsesOf(operation),
  };
}

/** The OpenAPI 3.1 document, made from the table of operations and the schemas that check requests and answers. */
export function openApi(): Json {
  const paths: Record<string, Json> = {};
  for (const operation of operations) {
    paths[operation.path] ??= {};
    paths[operation.path][operation.method] = operationOf(operation);
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Trialmoor",
      version: "1",
      description:
        "Every change carries the study's revision; a stale one is answered 409 with both versions and changes nothing.",
    },
    servers: [{ url: "/" }],
    paths,
    components: { schemas: components() },
  };
}
