import type * as z from "zod";
import { formatMessage, type Message } from "@/core/findings";
import { parseJson } from "@/core/formats";
import { holdAgainst, issueError, StudyError } from "@/core/study";
import { log } from "./log";
import { problems } from "./words/english";
import type { ProblemValues } from "./words/values";

type Path = ReadonlyArray<string | number>;

/** HTTP statuses of what the server refuses, by code; the rest is 422. */
const STATUS: Partial<Record<keyof ProblemValues, number>> = {
  "bad-address": 400,
  "no-session": 401,
  "wrong-passphrase": 401,
  "wrong-bench-key": 401,
  "foreign-page": 403,
  "bench-only": 403,
  "not-encrypted": 403,
  "no-address": 404,
  "no-verb": 404,
  "no-study": 404,
  "no-example": 404,
  "no-job": 404,
  "no-backup": 404,
  "backup-folder": 503,
  "backup-disk-full": 507,
  "no-revision": 404,
  "no-revision.name": 404,
  "no-mark": 404,
  "no-bench-key": 404,
  "no-method": 405,
  stopped: 409,
  "stale-revision": 409,
  clash: 409,
  "no-rig": 404,
  "rig-elsewhere": 409,
  "lease-over": 409,
  "lease-over.trial": 409,
  "stale-revision.delete": 409,
  "too-large": 413,
  "wrong-type": 415,
  "wrong-type.any": 415,
  "wrong-host": 421,
  busy: 429,
  "too-many-tries": 429,
  "server-error": 500,
  "server-error.unsure": 500,
  "server-error.job": 500,
  "read-only": 503,
  database: 503,
  "disk-full": 507,
};

/** What else goes with a refusal: the place it is about, further members of the document, headers. */
interface Further {
  path?: Path;
  more?: object;
  headers?: Record<string, string>;
}

/** A refusal of the server, said by code and values. */
export class Problem extends Error {
  readonly code: string;
  readonly status: number;
  readonly path: Path;
  readonly more: object;
  readonly headers: Record<string, string>;
  /** What the sentence is made of, for another language. */
  readonly said: Message<ProblemValues>;

  constructor(
    ...[code, values, { path = [], more = {}, headers = {} } = {}]: {
      [C in keyof ProblemValues]: [code: C, values: ProblemValues[C], further?: Further];
    }[keyof ProblemValues]
  ) {
    const said = { code, values } as Message<ProblemValues>;
    super(formatMessage(problems, said));
    this.code = code.split(".")[0];
    this.status = STATUS[code] ?? 422;
    this.path = path;
    this.more = more;
    this.headers = headers;
    this.said = said;
  }

  /** One that was said elsewhere. */
  static of({ code, values }: Message<ProblemValues>, path: Path): Problem {
    return new Problem(...([code, values, { path }] as ConstructorParameters<typeof Problem>));
  }
}

/** What a problem document says. */
type Refusal = Pick<Problem, "status" | "code" | "message" | "path"> & Partial<Pick<Problem, "more" | "headers">>;

/** A body that cannot be read at all, refused before anything of it was looked at. */
class BadBody extends Error implements Refusal {
  readonly status = 400;
  readonly code: string;
  readonly path: Path;
  constructor({ code, path, message }: StudyError) {
    super(message);
    this.code = code;
    this.path = path;
  }
}

/** The type of what a program printed. */
export const PRINTED = /^text\/plain\b/;

export const JSON_TYPE = /^application\/(.+\+)?json\b/;

/** Most bytes of a body. */
export const MOST_BYTES = 25_000_000;

const TITLES: Record<number, string> = {
  400: "Bad request",
  401: "Not signed in",
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
export function problemDocument({ status, code, message, path, more = {}, headers = {} }: Refusal): {
  status: number;
  headers: Record<string, string>;
  body: object;
} {
  return {
    status,
    headers: { ...headers, "content-type": "application/problem+json", "cache-control": "no-store" },
    body: { type: "about:blank", title: TITLES[status] ?? "Refused", status, code, detail: message, path, ...more },
  };
}

/** What a disk that takes no more says of itself, by SQLite's own codes; undefined for other errors. */
function diskProblem(error: unknown): Problem | undefined {
  const { code } = ((error as { original?: unknown }).original ?? error) as { code?: string };
  if (code === "SQLITE_FULL") return new Problem("disk-full", {});
  if (code === "SQLITE_READONLY" || code === "SQLITE_CANTOPEN") return new Problem("read-only", {});
  if (code === "SQLITE_IOERR" || code === "SQLITE_CORRUPT" || code === "SQLITE_NOTADB" || code === "SQLITE_BUSY")
    return new Problem("database", {});
  return undefined;
}

function problemResponse(problem: Refusal): Response {
  const { status, headers, body } = problemDocument(problem);
  return Response.json(body, { status, headers });
}

/** What is true now is asked for anew: no browser and no proxy keeps it. */
function notKept(answer: Response): Response {
  if (JSON_TYPE.test(answer.headers.get("content-type") ?? "") && !answer.headers.has("cache-control"))
    answer.headers.set("cache-control", "no-store");
  return answer;
}

/** Runs a handler; anything it throws becomes a problem document, and only unexpected errors are logged. */
export async function answering(work: () => Promise<Response | object>): Promise<Response> {
  return notKept(await answered(work));
}

async function answered(work: () => Promise<Response | object>): Promise<Response> {
  try {
    const answer = await work();
    return answer instanceof Response ? answer : Response.json(answer);
  } catch (error) {
    if (error instanceof Problem || error instanceof BadBody) return problemResponse(error);
    if (error instanceof StudyError) {
      const { code, message, path } = error;
      return problemResponse({ status: 422, code, message, path });
    }
    log.error(error);
    return problemResponse(diskProblem(error) ?? new Problem("server-error", {}));
  }
}

/** The refusal of a body over the limit; the connection is closed, so that the rest of it is not read. */
export const tooLarge = (): Problem =>
  new Problem("too-large", { megabytes: MOST_BYTES / 1e6 }, { headers: { connection: "close" } });

/**
 * The request's body, counted as it comes.
 * @throws Problem 413 for one that is too large
 */
export async function bytesOf(request: Request): Promise<Uint8Array> {
  if (Number(request.headers.get("content-length") ?? 0) > MOST_BYTES) throw tooLarge();
  if (!request.body) return new Uint8Array();
  const reader = request.body.getReader();
  const parts: Uint8Array[] = [];
  let bytes = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return Buffer.concat(parts);
    bytes += value.byteLength;
    if (bytes > MOST_BYTES) {
      reader.cancel().catch(() => undefined);
      throw tooLarge();
    }
    parts.push(value);
  }
}

/** The request's body as text. @throws Problem 413 for one that is too large */
export const textOf = async (request: Request): Promise<string> => new TextDecoder().decode(await bytesOf(request));

/**
 * The key by which a request names itself, so that sent twice it is done once.
 * @throws Problem `bad-key`
 */
export function keyOf(request: Request): string | undefined {
  const key = request.headers.get("idempotency-key") ?? undefined;
  if (key !== undefined && !/^[\x21-\x7e]{1,200}$/.test(key))
    throw new Problem("bad-key", {}, { path: ["Idempotency-Key"] });
  return key;
}

/**
 * What an address asks after its question mark, checked by a schema.
 * @throws StudyError for a value that does not fit
 */
export function queryOf<S extends z.ZodType>(request: Request, schema: S): z.output<S> {
  const data = Object.fromEntries(new URL(request.url).searchParams);
  const parsed = holdAgainst(schema, data);
  if (parsed.success) return parsed.data;
  throw issueError(parsed.error.issues[0], data);
}

/**
 * The revision that an address names.
 * @throws Problem `no-revision`
 */
export function revisionIn(text: string): number {
  if (/^[1-9]\d{0,14}$/.test(text)) return Number(text);
  throw new Problem("no-revision.name", { text }, { path: ["revision"] });
}

/**
 * Refuses a body of another type.
 * @throws Problem `wrong-type`
 */
export function requireType(request: Request, types: RegExp, wanted: string): void {
  if (!types.test(request.headers.get("content-type") ?? "")) throw new Problem("wrong-type", { wanted });
}

/**
 * The request's JSON body, within size, checked by a schema.
 * @throws Problem `not-json`, `too-deep`
 */
export async function bodyOf<S extends z.ZodType>(request: Request, schema: S): Promise<z.output<S>> {
  requireType(request, JSON_TYPE, "application/json");
  const text = await textOf(request);
  let data: unknown;
  try {
    data = text === "" ? {} : parseJson(text, { of: "body", name: "" });
  } catch (error) {
    throw new BadBody(error as StudyError);
  }
  const parsed = holdAgainst(schema, data);
  if (parsed.success) return parsed.data;
  throw issueError(parsed.error.issues[0], data);
}

/** What a program printed, or data. */
export type Sent<T> = { text: string } | { data: T };

/**
 * The request's body as text where it was sent as what a program printed, else as JSON.
 * @throws Problem as `bodyOf`
 */
export async function printedOr<S extends z.ZodType>(request: Request, schema: S): Promise<Sent<z.output<S>>> {
  return PRINTED.test(request.headers.get("content-type") ?? "")
    ? { text: await textOf(request) }
    : { data: await bodyOf(request, schema) };
}
