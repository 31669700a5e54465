import type { IncomingMessage } from "node:http";
import { type Operation, operations } from "../operations";
import { Problem } from "../problem";
import { isLoopback, type Opening } from "./opening";
import { asHeader, CLIENT, HERE, SESSION, type Session } from "./session";
import { byKey, byToken, tokenIn } from "./sessions";

type Asked = Pick<IncomingMessage, "url" | "method" | "headers">;
type Reach = NonNullable<Operation["reach"]>;

/** The page on which people sign in. */
export const LOGIN = "/login";
/** Files of the application itself: they hold nothing of anybody's. */
const FILES = /^\/(_next\/static\/[\w.~/-]+|icon\.svg|bench-sw\.js)$/;
/** Addresses that one part of the server might read otherwise than another. */
const AMBIGUOUS = /\/\/|\\|%2e|%2f|%5c|\/\.{1,2}(\/|$)/i;
/** The page that a key of the bench opens. */
const BENCH = /^\/studies\/([^/]+)\/bench$/;

/** An operation as requests name it. */
const patternOf = (method: string, path: string) => ({
  method: method.toUpperCase(),
  at: new RegExp(`^${path.replace(/\{\w+\}/g, "([^/]+)")}$`),
});
const patterns = operations.flatMap(({ method, path, reach }) =>
  reach ? [{ ...patternOf(method, path), reach }] : [],
);

/** What pages ask by themselves, over and over. */
const watched = operations.flatMap(({ method, path, watches }) => (watches ? [patternOf(method, path)] : []));

/** Whether a page asks by itself, so that nobody need be there. */
const asksItself = (request: Asked): boolean =>
  watched.some(({ method, at }) => method === request.method && at.test(pathOf(request)));

/** Who reaches an address beside the desk, and the study that it is about. */
function reachOf(method: string, path: string): { reach?: Reach; study?: string | undefined } {
  if (AMBIGUOUS.test(path)) return {};
  const reads = method === "GET" || method === "HEAD";
  if (reads && (path === LOGIN || FILES.test(path))) return { reach: "anyone" };
  const page = reads && BENCH.exec(path);
  if (page) return { reach: "bench", study: page[1] };
  for (const { method: of, at, reach } of patterns) {
    const found = of === (method === "HEAD" ? "GET" : method) && at.exec(path);
    if (found) return { reach, study: found[1] };
  }
  return {};
}

/** The address of a request without what it asks after its question mark, as it was sent. */
const pathOf = ({ url = "/" }: Asked): string => url.split(/[?#]/, 1)[0];

/**
 * Who asks, and from where, once nothing is believed that a stranger may have written: the host, the scheme and the
 * address that a proxy on this machine says, else those of the connection. They are written back where the
 * application reads them.
 * @throws Problem `not-encrypted`
 */
export function comesFrom(request: Asked, peer: string, encrypted: boolean, opening: Opening): void {
  const { headers } = request;
  const trusted = opening.proxy && isLoopback(peer);
  const said = (name: string): string | undefined =>
    trusted
      ? String(headers[name] ?? "")
          .split(",")
          .at(-1)
          ?.trim() || undefined
      : undefined;
  const scheme = encrypted ? "https" : (said("x-forwarded-proto") ?? "http");
  const host = said("x-forwarded-host") ?? headers.host;
  const client = said("x-forwarded-for") ?? peer;
  for (const name of Object.keys(headers))
    if (name.startsWith("x-forwarded-") || name === "forwarded" || name === SESSION || name === CLIENT)
      delete headers[name];
  if (host !== undefined) headers.host = host;
  headers["x-forwarded-proto"] = scheme;
  headers[CLIENT] = client;
  const health = pathOf(request) === "/api/health" && isLoopback(peer);
  if (opening.opened && scheme !== "https" && !health) throw new Problem("not-encrypted", {});
}

/** Whoever a request says it comes from; undefined where that has ended or never was. */
async function whoAsks(request: Asked): Promise<Session | undefined> {
  const { headers } = request;
  const key = /^Bearer (\S+)$/.exec(headers.authorization ?? "")?.[1];
  if (key !== undefined) return (await byKey(key))?.session;
  const token = tokenIn(headers.cookie);
  return token === undefined ? undefined : byToken(token, Date.now(), !asksItself(request));
}

/**
 * Lets a request in or refuses it: at this machine everybody; over a network the desk everywhere, a key of the bench
 * at its own study's bench, anybody else at health and the page to sign in alone. Who it is is written where the
 * application reads it.
 * @throws Problem `no-session`, `bench-only`
 */
export async function admit(request: Asked, opening: Opening): Promise<void> {
  const { reach, study } = opening.opened
    ? reachOf(request.method ?? "GET", pathOf(request))
    : { reach: undefined, study: undefined };
  const session = opening.opened ? await whoAsks(request) : HERE;
  if (session) request.headers[SESSION] = asHeader(session);
  if (reach === "anyone" || session?.role === "desk") return;
  if (!session) throw new Problem("no-session", {});
  if (reach !== "bench" || decodeURIComponent(study ?? "") !== session.study) throw new Problem("bench-only", {});
}
