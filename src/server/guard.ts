import type { IncomingMessage } from "node:http";
import { JSON_TYPE, MOST_BYTES, PRINTED, Problem, tooLarge } from "./problem";

/** Names by which a browser on this machine calls it. */
const HERE = ["127.0.0.1", "localhost", "[::1]"];
const WRITES = new Set(["POST", "PUT", "PATCH", "DELETE"]);
/** A backup as a file. */
export const SQLITE = "application/vnd.sqlite3";
export const SQLITE_TYPE = /^application\/vnd\.sqlite3\b/;
export const TEXT_SHEET = /^text\/(csv|tab-separated-values|plain)\b/;
/** A workbook as a file. */
export const XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

/** Ports that an address leaves out. */
const USUAL = new Set([80, 443]);

/** An origin whose port is the one its scheme has anyhow, without it. */
const withoutPort = (origin: string): string => origin.replace(/^(http:\/\/.*):80$|^(https:\/\/.*):443$/, "$1$2");

/** Hosts that are answered: this machine's own names with the port, and those that were set, with it or without. */
export const hostsAnswered = (port: number, names: readonly string[]): Set<string> =>
  new Set(
    [...HERE, ...names].flatMap((n) => (USUAL.has(port) || names.includes(n) ? [n, `${n}:${port}`] : [`${n}:${port}`])),
  );

/**
 * Refuses what must not reach the application: an address that cannot be decoded, a host that is not ours (DNS
 * rebinding), a write from a foreign page, a body of another kind or too large by its own word.
 * @throws Problem 400, 421, 403, 415, 413
 */
export function guard(request: Pick<IncomingMessage, "url" | "method" | "headers">, hosts: ReadonlySet<string>): void {
  const { headers, method = "GET", url = "/" } = request;
  try {
    if (decodeURIComponent(url).includes("\0")) throw new URIError("a zero byte");
  } catch {
    throw new Problem("bad-address", {});
  }
  const host = headers.host?.toLowerCase();
  if (host === undefined || !hosts.has(host)) throw new Problem("wrong-host", { host: host ?? "" });
  if (!WRITES.has(method)) return;
  // A browser says from where; a program says neither. The same name at another port is another page.
  const { origin, "sec-fetch-site": site } = headers;
  const own = `${headers["x-forwarded-proto"] ?? "http"}://${host}`;
  if (origin !== undefined && withoutPort(origin.toLowerCase()) !== withoutPort(own))
    throw new Problem("foreign-page", {});
  if (site !== undefined && site !== "same-origin") throw new Problem("foreign-page", {});
  const length = Number(headers["content-length"] ?? 0);
  const type = headers["content-type"];
  // A backup is written to the disk as it comes, whatever its size.
  if (SQLITE_TYPE.test(type ?? "") && /^\/api\/backups(\?|$)/.test(url) && method === "POST") return;
  if (length > MOST_BYTES) throw tooLarge();
  const answer = PRINTED.test(type ?? "") && /^\/api\/studies\/[^/]+\/next\/[^/]+\/(results|fail)$/.test(url);
  const sheet = (TEXT_SHEET.test(type ?? "") || type === XLSX) && /^\/api\/studies\/[^/]+\/import(\?|$)/.test(url);
  const hasBody = length > 0 || headers["transfer-encoding"] !== undefined;
  if ((hasBody || type !== undefined) && !JSON_TYPE.test(type ?? "") && !sheet && !answer)
    throw new Problem("wrong-type.any", {});
}

/** Headers of every answer; `nonce` lets the page's own scripts and style elements run, and nothing else. */
export const securityHeaders = (nonce: string): Record<string, string> => ({
  "content-security-policy": [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}'`,
    `style-src 'self' 'nonce-${nonce}'`,
    // Charts and tables place their parts by style attributes, which carry no nonce.
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; "),
  "x-content-type-options": "nosniff",
  "referrer-policy": "no-referrer",
  "x-frame-options": "DENY",
  "cross-origin-opener-policy": "same-origin",
  "cross-origin-resource-policy": "same-origin",
});
