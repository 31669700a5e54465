// The doors give the same figures: what the server answers is what the headless command prints. Bundlers fold constants
// differently, so that tail probabilities may differ in their sixteenth digit.
import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, importStudy, openExample, stored, test } from "./help";

/** The headless command's answer about a study, as JSON. */
function headless(study: object, args: string[]): unknown {
  const [verb, ...rest] = args;
  const { stdout, stderr, status } = spawnSync(process.execPath, ["dist/headless.mjs", verb, "-", ...rest, "--json"], {
    input: JSON.stringify(study),
    encoding: "utf8",
    maxBuffer: 64 * 1024 * 1024,
  });
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout);
}

/** The first place where two answers differ by more than the last digits; undefined where they are alike. */
function difference(a: unknown, b: unknown, path = ""): string | undefined {
  if (typeof a === "number" && typeof b === "number")
    return Math.abs(a - b) <= 1e-12 * Math.max(Math.abs(a), Math.abs(b)) ? undefined : `${path}: ${a} and ${b}`;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null)
    return a === b ? undefined : `${path}: ${a} and ${b}`;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  for (const key of keys) {
    const found = difference(
      (a as Record<string, unknown>)[key],
      (b as Record<string, unknown>)[key],
      `${path}/${key}`,
    );
    if (found) return found;
  }
  return undefined;
}

const terms = [["temp"], ["dose"], ["temp", "dose"], ["dose", "dose"]];
const termFile = join(mkdtempSync(join(tmpdir(), "trialmoor-doors-")), "terms.json");
writeFileSync(termFile, JSON.stringify(terms));
const at = { temp: 61, dose: 7.5, soda: 3, feed: 600, squeeze: 8, lot: "lowland" };
const questions: [string, object, string[]][] = [
  ["appraise", {}, []],
  ["appraise", { terms: "main+2fi" }, ["--terms", "main+2fi"]],
  ["fit", { response: "grease" }, ["--response", "grease"]],
  ["fit", { response: "white", terms }, ["--response", "white", "--terms", termFile]],
  [
    "fit",
    { response: "tangle", terms: "quadratic", reduce: "backward", by: "aicc" },
    ["--response", "tangle", "--terms", "quadratic", "--reduce", "backward", "--by", "aicc"],
  ],
  [
    "fit",
    { response: "cost", transform: "log", block: false },
    ["--response", "cost", "--transform", "log", "--no-block"],
  ],
  ["predict", { at }, ["--at", JSON.stringify(at)]],
  ["surface", { response: "grease" }, ["--response", "grease"]],
  ["setpoint", { seed: 7, draws: 2000 }, ["--seed", "7", "--draws", "2000"]],
  [
    "setpoint",
    { seed: 2, draws: 1000, hold: { lot: "lowland" } },
    ["--seed", "2", "--draws", "1000", "--hold", '{"lot":"lowland"}'],
  ],
  ["power", { effect: 0.05, noise: 0.02, replicates: 1 }, ["--effect", "0.05", "--noise", "0.02", "--replicates", "1"]],
  ["follow", { kind: "repeat" }, ["--kind", "repeat"]],
];

test("server and headless command answer alike, question by question", async ({ page }) => {
  const id = await openExample(page);
  const { study } = await stored(page, id);
  for (const [verb, body, args] of questions) {
    const answer = await page.request.post(`/api/studies/${id}/${verb}`, { data: body });
    expect(answer.status(), `${verb} ${JSON.stringify(body)}`).toBe(200);
    expect(
      difference(await answer.json(), headless(study, [verb, ...args])),
      `${verb} ${JSON.stringify(body)}`,
    ).toBeUndefined();
  }
});

test("all subsets alike, their average too", async ({ page }) => {
  const id = await openExample(page, "raspberry-drying");
  const { study } = await stored(page, id);
  const response = study.responses[0].id;
  const answer = await page.request.post(`/api/studies/${id}/subsets`, { data: { response, average: true } });
  expect(answer.status()).toBe(200);
  expect(
    difference(await answer.json(), headless(study, ["subsets", "--response", response, "--average"])),
  ).toBeUndefined();
});

test("a study file goes in and comes out the same through the server", async ({ page }) => {
  for (const name of ["wool-scouring", "raspberry-drying", "nickel-screening"]) {
    const file = JSON.parse(readFileSync(`examples/${name}.trialmoor.json`, "utf8")) as Record<string, unknown>;
    const id = await importStudy(page, file);
    const first = await (await page.request.get(`/api/studies/${id}/export?format=json`)).json();
    const again = await importStudy(page, first as object);
    expect(await (await page.request.get(`/api/studies/${again}/export?format=json`)).json()).toEqual(first);
    const { study } = await stored(page, id);
    expect(study.trials).toHaveLength((file.trials as unknown[]).length);
  }
});

test("what the server refuses is one sentence with a code and a place, whatever is sent", async ({ page, allowed }) => {
  allowed.statuses.push(400, 404, 409, 415, 422);
  const id = await openExample(page);
  const refusals: [string, unknown, number][] = [
    ["fit", { response: "nothing" }, 422],
    ["fit", {}, 422],
    ["fit", { response: "grease", terms: ["steam"] }, 422],
    ["fit", { response: "grease", alpha: 3 }, 422],
    ["fit", { response: "grease", colour: "red" }, 422],
    ["predict", { at: { temp: "hot" } }, 422],
    ["setpoint", { hold: { steam: 1 } }, 422],
    ["setpoint", { draws: 1 }, 422],
    ["surface", { response: "cost", step: -1 }, 422],
    ["follow", { kind: "dance" }, 422],
    ["results", { revision: 1, results: [{ trial: "none", response: "grease", value: 1 }] }, 422],
    ["results", { revision: 99, results: [{ trial: "t1", response: "grease", value: 1 }] }, 409],
    ["plan", { family: "fraction", trials: 7 }, 422],
  ];
  for (const [verb, data, status] of refusals) {
    const answer = await page.request.post(`/api/studies/${id}/${verb}`, { data: data as object });
    expect(answer.status(), `${verb} ${JSON.stringify(data)}`).toBe(status);
    expect(answer.headers()["content-type"]).toContain("application/problem+json");
    const problem = (await answer.json()) as { code: string; detail: string; status: number };
    expect(problem.code).toMatch(/^[a-z0-9-]+$/);
    expect(problem.detail).toMatch(/^[^\n]{10,}\.$/);
    expect(problem.detail).not.toMatch(/NaN|undefined|\[object|Error:/);
  }
  expect((await page.request.post("/api/studies/none/fit", { data: { response: "y" } })).status()).toBe(404);
  expect((await page.request.post(`/api/studies/${id}/nonsense`, { data: {} })).status()).toBe(404);
  const torn = await page.request.post(`/api/studies/${id}/fit`, {
    data: Buffer.from('{"response":'),
    headers: { "content-type": "application/json" },
  });
  expect(torn.status()).toBe(400);
  // None of it changed anything.
  expect((await stored(page, id)).revision).toBe(1);
});
