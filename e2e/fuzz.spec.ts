import { readFileSync } from "node:fs";
import { Agent, request as rawRequest } from "node:http";
import { join } from "node:path";
import fc from "fast-check";
import { ASKED, LEAKS, LOADED, oddJson, oddSheet, spoilt } from "../src/core/testing/hostile";
import { expect, openExample, test } from "./help";

const REQUESTS = Number(process.env.FUZZ_REQUESTS ?? 2000);
const seed = Number(process.env.FUZZ_SEED ?? 20261125);
const AT_ONCE = 8;
/** Longest that an answer may take, in milliseconds: asked where the machine is the fuzzer's own. */
const LONGEST = Number(process.env.FUZZ_LONGEST ?? Number.POSITIVE_INFINITY);
/**
 * Heaps of threads fill until they are cleared, which stands after some 12,000 requests; the 36,000 after those took
 * 19 MB past their peak. A long run is held to what stands.
 */
const WARM = 12_000;
/** What memory may grow by after the requests that warm it, in MB. */
const GROWTH = 100;

interface Asked {
  method: string;
  path: string;
  headers: Record<string, string>;
  body: string;
}
const agent = new Agent({ keepAlive: true, maxSockets: AT_ONCE });

/** Sends a request as it is; what cannot be sent counts as sent. */
function send(
  base: string,
  { method, path, headers, body }: Asked,
): Promise<{ status: number; text: string; took: number }> {
  const start = performance.now();
  const { hostname, port } = new URL(base);
  const carried = method === "GET" || method === "HEAD" ? "" : body;
  // Said by its length: for some methods node would send a body that belongs to no request.
  const all = carried === "" ? headers : { ...headers, "content-length": String(Buffer.byteLength(carried)) };
  return new Promise((resolve, reject) => {
    // Longer than the server lets a question take, so that what never comes is told from what takes long.
    const sent = rawRequest({ hostname, port, agent, method, path, headers: all, timeout: 360_000 }, (answer) => {
      let text = "";
      answer.setEncoding("utf8");
      answer.on("data", (chunk: string) => {
        text += chunk;
      });
      answer.on("end", () => resolve({ status: answer.statusCode ?? 0, text, took: performance.now() - start }));
    });
    sent.on("timeout", () => sent.destroy(new Error(`no answer to ${method} ${path}`)));
    sent.on("error", reject);
    sent.end(carried);
  });
}

/** Memory of the server now, or the most it ever took, in MB. */
function memory(which: "VmRSS" | "VmHWM"): number {
  const { pid } = JSON.parse(
    readFileSync(join(process.env.TRIALMOOR_E2E_DATA as string, "trialmoor.holder.json"), "utf8"),
  ) as { pid: number };
  const kb = new RegExp(`${which}:\\s+(\\d+)`).exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1];
  return Number(kb) / 1024;
}

test(`${REQUESTS} odd requests: none crashes, hangs or tells what is inside`, async ({ baseURL, page }) => {
  test.setTimeout(1_200_000 + REQUESTS * 200);
  const base = baseURL as string;
  const ids = [await openExample(page), await openExample(page, "raspberry-drying")];
  // Every question, what changes a study, and names that mean something to JavaScript itself.
  const verbs = [...ASKED, "waves", "trials", "results", "duplicate", "restore", "import", "export", ...LOADED];
  const id = fc.constantFrom(...ids, ids[0], "none", "%20", "..", "%2e%2e", "a".repeat(300));
  const path = fc.oneof(
    { weight: 8, arbitrary: fc.tuple(id, fc.constantFrom(...verbs)).map(([i, v]) => `/api/studies/${i}/${v}`) },
    {
      weight: 2,
      arbitrary: fc
        .tuple(
          id,
          fc.constantFrom(
            "",
            "/setpoint",
            "/models/grease",
            "/models/%ff",
            "/export?format=csv",
            "/export?format=odd",
            "/import?dry=1",
            "/import?revision=1",
            "/history",
            "/history?station=trials&path=%2F%00&before=1e9&who=%27",
            "/history?format=csv",
            "/history/1",
            "/history/1/restore",
            "/history/%00/restore",
            "/marks",
            "/marks/none",
          ),
        )
        .map(([i, r]) => `/api/studies/${i}${r}`),
    },
    {
      weight: 2,
      arbitrary: fc.constantFrom(
        "/api/studies",
        "/api/studies/import",
        "/api/validate",
        "/api/health",
        "/api/examples",
        "/api/jobs/x",
        "/api/jobs/%00",
        "/api/nothing",
        "/%ff",
        "/",
        "/studies/x/plan",
        "//evil.test/",
        "/api/openapi.json",
        "/api/keeping",
        "/api/backups/none.sqlite",
        "/api/backups/..%2ftrialmoor.sqlite",
        "/api/backups/none.sqlite/studies",
        "/api/backups/none.sqlite/restore",
      ),
    },
  );
  const good = JSON.parse(readFileSync("examples/raspberry-drying.trialmoor.json", "utf8")) as unknown;
  const asking = fc.record(
    {
      family: fc.constantFrom("factorial", "fraction", "optimal", "nothing"),
      kind: fc.constantFrom("repeat", "axial", "nothing"),
      response: fc.constantFrom("grease", "colour", "__proto__"),
      trials: fc.constantFrom(4, 8, 16, 1e9, -1),
      terms: fc.constantFrom<unknown>("main", "quadratic", [["temp"]], [[]], 3),
      revision: fc.constantFrom(1, 2, 1e9),
      at: oddJson,
      starts: fc.constant(1),
    },
    { requiredKeys: ["starts"] },
  );
  const request: fc.Arbitrary<Asked> = fc.record({
    method: fc.oneof(
      { weight: 6, arbitrary: fc.constant("POST") },
      { weight: 4, arbitrary: fc.constantFrom("GET", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS") },
    ),
    path,
    headers: fc.oneof(
      { weight: 8, arbitrary: fc.constant({ "content-type": "application/json" }) },
      {
        weight: 2,
        arbitrary: fc.constantFrom<Record<string, string>>(
          { "content-type": "text/csv" },
          {},
          { "content-type": "multipart/form-data" },
          { "content-type": "application/json", origin: "http://evil.test" },
          { "content-type": "application/json", host: "evil.test" },
          { "content-type": "application/json", "idempotency-key": "x y" },
        ),
      },
    ),
    body: fc.oneof(
      asking.map((v) => JSON.stringify(v)),
      oddJson.map((v) => JSON.stringify(v) ?? ""),
      spoilt(good).map((v) => JSON.stringify(v) ?? ""),
      oddSheet,
      fc.string({ maxLength: 60 }),
    ),
  });
  const list = fc.sample(request, { numRuns: REQUESTS, seed });
  const statuses = new Map<number, number>();
  const troubles: string[] = [];
  const kinds = new Map<string, number>();
  let next = 0;
  let before: number | undefined;
  const work = async (): Promise<void> => {
    while (next < list.length) {
      // What was taken once may be taken again before it is cleared away: growth is what goes past that.
      if (next === WARM) before = memory("VmHWM");
      const asked = list[next++];
      const { status, text, took } = await send(base, asked);
      statuses.set(status, (statuses.get(status) ?? 0) + 1);
      const told = `${asked.method} ${asked.path} ${asked.body.slice(0, 200)} → ${status}, ${took.toFixed(0)} ms: ${text.slice(0, 200)}`;
      const kind = status >= 500 ? `${status}` : took > LONGEST ? "slow" : LEAKS.test(text) ? "leaks" : undefined;
      if (kind === undefined) continue;
      troubles.push(told);
      // By kind and by what was asked, the study left aside: all of them are counted where few are shown.
      const place = `${kind}: ${asked.method} ${asked.path.replace(/^(\/api\/studies\/)[^/?]+/, "$1…").split("?")[0]}`;
      kinds.set(place, (kinds.get(place) ?? 0) + 1);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, work));
  expect([...kinds, ...troubles.slice(0, 5)]).toEqual([]);
  if (before !== undefined) expect(memory("VmRSS") - before).toBeLessThan(GROWTH);
  // They reach past the door: some are answered, and refusals are of many kinds.
  expect([200, 400, 403, 404, 405, 415, 421, 422].filter((s) => !statuses.has(s))).toEqual([]);
});
