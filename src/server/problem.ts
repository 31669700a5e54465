import type * as z from "zod";
import { issueError, StudyError } from "@/core";
import { log } from "./log";

/** A refusal with its HTTP status and further members of the problem document. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly path: ReadonlyArray<string | number> = [],
    readonly more: object = {},
    readonly headers: Record<string, string> = {},
  ) {
    super(message);
  }
}

const MOST_BYTES = 25_000_000;

const TITLES: Record<number, string> = {
  400: "Bad request",
  404: "Not found",
  405: "Method not allowed",
  409: "Stale revision",
  413: "Too large",
  415: "Unsupported type",
  422: "Refused",
  500: "Server error",
};

/** RFC 9457. */
function problemResponse(problem: Problem): Response {
  const { status, code, message, path, more, headers } = problem;
  return Response.json(
    { type: "about:blank", title: TITLES[status] ?? "Refused", status, code, detail: message, path, ...more },
    { status, headers: { ...headers, "content-type": "application/problem+json" } },
  );
}

/** Runs a handler; anything it throws becomes a problem document, and only unexpected errors are logged. */
export async function answering(work: () => Promise<Response | object>): Promise<Response> {
  try {
    const answer = await work();
    return answer instanceof Response ? answer : Response.json(answer);
  } catch (error) {
    if (error instanceof Problem) return problemResponse(error);
    if (error instanceof StudyError) return problemResponse(new Problem(422, error.code, error.message, error.path));
    log.error(error);
    return problemResponse(
      new Problem(500, "server-error", "The server could not do this; nothing was changed. Its log says why."),
    );
  }
}

/**
 * The request's body as text.
 * @throws Problem 413 for one that is too large
 */
export async function textOf(request: Request): Promise<string> {
  const declared = Number(request.headers.get("content-length") ?? 0);
  if (declared > MOST_BYTES) throw new Problem(413, "too-large", `The body is larger than ${MOST_BYTES / 1e6} MB.`);
  const text = await request.text();
  if (text.length > MOST_BYTES) throw new Problem(413, "too-large", `The body is larger than ${MOST_BYTES / 1e6} MB.`);
  return text;
}

/**
 * Refuses a body of another type.
 * @throws Problem `wrong-type`
 */
export function requireType(request: Request, types: RegExp, said: string): void {
  if (!types.test(request.headers.get("content-type") ?? ""))
    throw new Problem(415, "wrong-type", `The body must be sent as ${said}.`);
}

/**
 * The request's JSON body, within size, checked by a schema.
 * @throws Problem `not-json`
 */
export async function bodyOf<S extends z.ZodType>(request: Request, schema: S): Promise<z.output<S>> {
  requireType(request, /^application\/(.+\+)?json/, "application/json");
  const text = await textOf(request);
  let data: unknown;
  try {
    data = text === "" ? {} : JSON.parse(text);
  } catch {
    throw new Problem(400, "not-json", "The body is not JSON.");
  }
  const parsed = schema.safeParse(data);
  if (parsed.success) return parsed.data;
  throw issueError(parsed.error.issues[0], data);
}
