import { describe, expect, it } from "vitest";
import * as z from "zod";
import { formatMessage, type Message, type Words } from "@/core/findings";
import { StudyError } from "@/core/study";
import { answering, bodyOf, keyOf, Problem } from "./problem";
import { problems, starts } from "./words/english";
import type { ProblemValues, StartValues } from "./words/values";

const answerTo = async (
  error: unknown,
): Promise<{ status: number; type: string | null; body: Record<string, unknown> }> => {
  const answer = await answering(async () => {
    throw error;
  });
  return { status: answer.status, type: answer.headers.get("content-type"), body: await answer.json() };
};
/** As Sequelize wraps what SQLite says. */
const database = (code: string): Error => Object.assign(new Error("inside"), { original: { code } });

describe("whatever a handler throws is a problem document", () => {
  it.each([
    ["SQLITE_FULL", 507, "disk-full"],
    ["SQLITE_READONLY", 503, "read-only"],
    ["SQLITE_CANTOPEN", 503, "read-only"],
    ["SQLITE_IOERR", 503, "database"],
    ["SQLITE_BUSY", 503, "database"],
  ])("%s is %i", async (code, status, said) => {
    const { body, ...answer } = await answerTo(database(code));
    expect(answer).toEqual({ status, type: "application/problem+json" });
    expect(body).toMatchObject({ status, code: said });
    expect(body.detail).toMatch(/nothing was changed\. \S.*\.$/);
    expect(JSON.stringify(body)).not.toContain("inside");
  });
  it("a refusal keeps its place and its headers, an error of the machine tells nothing", async () => {
    expect(
      (await answerTo(new StudyError("low-not-below-high", { factor: "Heat", low: 5, high: 1 }, ["factors", 0]))).body,
    ).toMatchObject({
      status: 422,
      code: "low-not-below-high",
      detail: "Heat: low (5) must be below high (1).",
      path: ["factors", 0],
    });
    const busy = await answering(async () => {
      throw new Problem("busy", { waiting: 16, seconds: 5 }, { headers: { "retry-after": "5" } });
    });
    expect([busy.status, busy.headers.get("retry-after")]).toEqual([429, "5"]);
    const { status, body } = await answerTo(new TypeError("x is not a function"));
    expect([status, body.code]).toEqual([500, "server-error"]);
    expect(JSON.stringify(body)).not.toContain("function");
  });
});

describe("a body", () => {
  const sent = (body: BodyInit, headers: Record<string, string> = {}): Request =>
    new Request("http://localhost/", {
      method: "POST",
      body,
      headers: { "content-type": "application/json", ...headers },
      ...(body instanceof ReadableStream ? { duplex: "half" } : {}),
    });
  const refusal = (request: Request): Promise<unknown> =>
    bodyOf(request, z.unknown()).catch((e: Problem) => [e.status, e.code]);
  it("is read as JSON, letters cut by a packet put together again", async () => {
    const bytes = new TextEncoder().encode('{"title":"Wäsche 60 °C"}');
    const cut = new ReadableStream({
      start(out) {
        for (const b of bytes) out.enqueue(Uint8Array.of(b));
        out.close();
      },
    });
    expect(await bodyOf(sent(cut), z.unknown())).toEqual({ title: "Wäsche 60 °C" });
    expect(await refusal(sent("{"))).toEqual([400, "not-json"]);
    expect(await refusal(sent("[".repeat(100)))).toEqual([400, "too-deep"]);
  });
  it("is counted as it comes and cut off at 25 MB", async () => {
    let taken = 0;
    const endless = new ReadableStream({
      pull(out) {
        taken++;
        out.enqueue(new Uint8Array(1_000_000).fill(32));
      },
    });
    expect(await refusal(sent(endless))).toEqual([413, "too-large"]);
    expect(taken).toBeLessThan(30);
    expect(await refusal(sent("{}", { "content-length": "25000001" }))).toEqual([413, "too-large"]);
  });
  it("may be named by a key of printable characters", () => {
    const named = (key: string): string | undefined => keyOf(sent("{}", { "idempotency-key": key }));
    expect(named("batch-7/2026")).toBe("batch-7/2026");
    expect(keyOf(sent("{}"))).toBeUndefined();
    for (const key of ["with space", "a".repeat(201)]) expect(() => named(key)).toThrow(/Idempotency-Key/);
  });
});

describe("what the server says", () => {
  // Figures of every sentence: a type holds the lists to be whole.
  const refused = (n: number): ProblemValues => ({
    "bad-address": {},
    "wrong-host": { host: n === 1 ? "" : "elsewhere.example" },
    "foreign-page": {},
    "no-session": {},
    "no-rig": { rig: "east" },
    "rig-elsewhere": { rig: "East line", study: "Wool" },
    "lease-over": {},
    "lease-over.trial": { order: n },
    "wrong-passphrase": {},
    "wrong-bench-key": {},
    "too-many-tries": { seconds: n },
    "bench-only": {},
    "not-encrypted": {},
    "this-machine-only": {},
    "too-many-bench-keys": { most: n },
    "no-bench-key": {},
    "wrong-type": { wanted: "text/csv" },
    "wrong-type.any": {},
    "too-large": { megabytes: 25 },
    "bad-key": {},
    "key-reused": {},
    "no-method": { method: "PUT", allowed: n === 1 ? ["GET"] : ["GET", "POST"] },
    "no-address": { address: "/api/nowhere" },
    "no-verb": { verb: "dance" },
    "no-study": {},
    "no-example": { name: "none" },
    "no-job": {},
    "no-backup": { name: "daily.sqlite" },
    "backup-damaged": { name: "Daily.sqlite" },
    "backup-newer": { name: "Daily.sqlite", unknown: n === 1 ? ["009-later"] : ["008-soon", "009-later"] },
    "not-a-backup": { name: "Sheet.csv" },
    "not-a-backup.study": { name: "Wool.trialmoor.json" },
    "backup-foreign": { name: "x.sqlite", what: "view studies" },
    "backup-rows": { name: "x.sqlite", table: "events", rows: 2 },
    "backup-studies": { name: "x.sqlite", count: 7, named: [{ title: "Moor", why: "a row of it is damaged" }] },
    "backup-link": { name: "x.sqlite" },
    "not-in-backup": { studies: n === 1 ? ["abc"] : ["abc", "def"] },
    "backup-folder": { folder: "/srv/backups" },
    "backup-disk-full": { folder: "/srv/backups" },
    "no-revision": { revision: n + 1, now: n },
    "no-revision.name": { text: "first" },
    "past-unreadable": { revision: n, why: "a row of it is damaged." },
    "no-mark": {},
    "bad-format": { format: "odt" },
    missing: {},
    "damaged-study": { title: "Wool", why: "a row of it is damaged", id: "abc" },
    "stale-revision": { now: n + 1, seen: n },
    "stale-revision.delete": {},
    clash: {},
    "background-change": {},
    busy: { waiting: n, seconds: n },
    "takes-too-much": { megabytes: 512 },
    "takes-too-long": { seconds: 30, background: n > 1 },
    stopped: {},
    "disk-full": {},
    "read-only": {},
    database: {},
    "server-error": {},
    "server-error.unsure": {},
    "server-error.job": {},
  });
  const folder = "/srv/studies";
  const stopped = (n: number): StartValues => ({
    "bad-port": { port: "none" },
    "port-taken": { port: 4270 },
    "not-encrypted": { host: "0.0.0.0" },
    "no-names": { host: "0.0.0.0" },
    "no-passphrase": { host: "0.0.0.0", folder },
    "bad-passphrase-file": { path: `${folder}/passphrase.json` },
    "tls-half": {},
    "tls-unreadable": { what: "no start line" },
    "bad-proxy": { text: "yes" },
    "bad-host": { host: "10.1.2.3" },
    "passphrase-short": { least: 12 },
    "passphrase-long": { most: 200 },
    "passphrase-differs": {},
    "no-database": { folder },
    damaged: { folder },
    "disk-full": { folder },
    "not-allowed": { folder },
    "cannot-open": { folder },
    "cannot-make": { folder },
    other: { folder, what: "EMFILE, too many open files" },
    held: { folder, by: n === 1 ? null : { pid: 12, since: "2026-11-25T08:00:00Z" } },
    newer: { folder, unknown: n === 1 ? ["009"] : ["009", "010"] },
    "no-folder": { folder },
    "gone-or-empty": { folder, empty: n > 1 },
  });
  const sentences = <V extends object>(words: Words<V>, values: V): string[] =>
    Object.entries(values).map(([code, v]) => formatMessage(words, { code, values: v } as Message<V>));
  it.each([1, 2, 16])("is whole sentences without a plural of one, by code and values (%i)", (n) => {
    const all = [...sentences(problems, refused(n)), ...sentences(starts, stopped(n))];
    expect(all).toHaveLength(Object.keys(problems).length + Object.keys(starts).length);
    for (const text of all) {
      expect(text).toMatch(/^[A-Z\d/].*\.$/);
      expect(text).not.toMatch(/undefined|null|NaN|\[object| {2}|(?<!\d)1 (computations|seconds)\b/);
    }
  });
});
