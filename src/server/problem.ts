import type * as z from "zod";
import { holdAgainst, issueError, parseJson, StudyError } from "@/core";
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

/** Most bytes of a body. */
export const MOST_BYTES = 25_000_000;

const TITLES: Record<number, string> = {
  400: "Bad request",
  404: "Not found",
  405: "Method not allowed",
  409: "Stale revision",
  403: "Forbidden",
  413: "Too large",
  415: "Unsupported type",
  421: "Misdirected request",
  422: "Refused",
  429: "Too many requests",
  500: "Server error",
  503: "Not available",
  507: "Disk full",
};

/** A refusal as status, headers and body (RFC 9457), for whoever sends it. */
export function problemDocument(problem: Problem): { status: number; headers: Record<string, string>; body: object } {
  const { status, code, message, path, more, headers } = problem;
  return {
    status,
    headers: { ...headers, "content-type": "application/problem+json" },
    body: { type: "about:blank", title: TITLES[status] ?? "Refused", status, code, detail: message, path, ...more },
  };
}

/** What a disk that takes no more says of itself, by SQLite's own codes; undefined for other errors. */
function diskProblem(error: unknown): Problem | undefined {
  const { code } = ((error as { original?: unknown }).original ?? error) as { code?: string };
  if (code === "SQLITE_FULL")
    return new Problem(
      507,
      "disk-full",
      "The server's disk is full; nothing was changed. Make room on it and try again.",
    );
  if (code === "SQLITE_READONLY" || code === "SQLITE_CANTOPEN")
    return new Problem(
      503,
      "read-only",
      "The server cannot write its database; nothing was changed. Let it write its data folder and try again.",
    );
  if (code === "SQLITE_IOERR" || code === "SQLITE_CORRUPT" || code === "SQLITE_NOTADB" || code === "SQLITE_BUSY")
    return new Problem(
      503,
      "database",
      "The server's database cannot be used at the moment; nothing was changed. Its log says why.",
    );
  return undefined;
}

function problemResponse(problem: Problem): Response {
  const { status, headers, body } = problemDocument(problem);
  return Response.json(body, { status, headers });
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
      diskProblem(error) ??
        new Problem(500, "server-error", "The server could not do this; nothing was changed. Its log says why."),
    );
  }
}

/** The refusal of a body over the limit; the connection is closed, so that the rest of it is not read. */
export const tooLarge = (): Problem =>
  new Problem(413, "too-large", `The body is larger than ${MOST_BYTES / 1e6} MB.`, [], {}, { connection: "close" });

/**
 * The request's body as text, counted as it comes.
 * @throws Problem 413 for one that is too large
 */
export async function textOf(request: Request): Promise<string> {
  if (Number(request.headers.get("content-length") ?? 0) > MOST_BYTES) throw tooLarge();
  if (!request.body) return "";
  const reader = request.body.getReader();
  const decoder = new TextDecoder();
  let bytes = 0;
  let text = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return text + decoder.decode();
    bytes += value.byteLength;
    if (bytes > MOST_BYTES) {
      reader.cancel().catch(() => undefined);
      throw tooLarge();
    }
    text += decoder.decode(value, { stream: true });
  }
}

/**
 * The key by which a request names itself, so that sent twice it is done once.
 * @throws Problem `bad-key`
 */
export function keyOf(request: Request): string | undefined {
  const key = request.headers.get("idempotency-key") ?? undefined;
  if (key !== undefined && !/^[\x21-\x7e]{1,200}$/.test(key))
    throw new Problem(422, "bad-key", "An Idempotency-Key is up to 200 printable characters without spaces.", [
      "Idempotency-Key",
    ]);
  return key;
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
 * @throws Problem `not-json`, `too-deep`
 */
export async function bodyOf<S extends z.ZodType>(request: Request, schema: S): Promise<z.output<S>> {
  requireType(request, /^application\/(.+\+)?json/, "application/json");
  const text = await textOf(request);
  let data: unknown;
  try {
    data = text === "" ? {} : parseJson(text, { of: "body", name: "" });
  } catch (error) {
    const { code, message } = error as StudyError;
    throw new Problem(400, code, message);
  }
  const parsed = holdAgainst(schema, data);
  if (parsed.success) return parsed.data;
  throw issueError(parsed.error.issues[0], data);
}
