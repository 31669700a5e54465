// The doors give the same figures: what the server answers is what the headless command prints and what a worker
// thread gives, for every question of the table, with defaults left out and given. Bundlers fold constants differently,
// so that tail probabilities may differ in their sixteenth digit.

import { spawnSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout } from "node:timers/promises";
import { MessageChannel } from "node:worker_threads";
import Piscina from "piscina";
import { openQuestions, questionNamed } from "../src/core/questions/ask";
import { stopSign } from "../src/server/stop-sign";
import { describedClient } from "./client";
import { expect, importStudy, openExample, type StudyJson, stored, test } from "./help";

// Each asks the server alone: they run side by side.
test.describe.configure({ mode: "parallel" });

const EXAMPLES = readdirSync("examples")
  .flatMap((f) => /^(.*)\.trialmoor\.json$/.exec(f)?.[1] ?? [])
  .sort();

/** The headless command's answer about a study, as JSON. */
function headless(study: object, args: string[]): unknown {
  const [verb, ...rest] = args;
  const { stdout, stderr, status } = spawnSync(process.execPath, ["dist/headless.mjs", verb, ...rest, "--json"], {
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
  for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
    const found = difference(
      (a as Record<string, unknown>)[key],
      (b as Record<string, unknown>)[key],
      `${path}/${key}`,
    );
    if (found) return found;
  }
  return undefined;
}

const folder = mkdtempSync(join(tmpdir(), "trialmoor-doors-"));
/** A question's input as it is typed after the command. */
function typed(input: Record<string, unknown>): string[] {
  return Object.entries(input).flatMap(([key, value]): string[] => {
    const flag = `--${key.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)}`;
    // These are on unless they are turned off.
    if (value === true) return key === "snap" || key === "block" ? [] : [flag];
    if (value === false) return [flag.replace("--", "--no-")];
    if (Array.isArray(value) && Array.isArray(value[0])) {
      const file = join(folder, `${JSON.stringify(value).length}-${value.length}.json`);
      writeFileSync(file, JSON.stringify(value));
      return [flag, file];
    }
    if (Array.isArray(value)) return [flag, value.join(",")];
    return [flag, typeof value === "object" ? JSON.stringify(value) : String(value)];
  });
}

const terms = [["temp"], ["dose"], ["temp", "dose"], ["dose", "dose"]];
/** Beside each question's own example: the same with defaults given or other options. */
const further: Record<string, object[]> = {
  plan: [
    { family: "factorial", replicates: 1, centre: 0, blocks: 1, seed: 1, snap: true },
    { family: "composite", axial: 1.2, terms: "main", possible: "main+2fi" },
    { family: "optimal", trials: 14, terms, starts: 2, criterion: "I", seed: 4 },
  ],
  appraise: [{}, { terms: "main", possible: "main+2fi" }, { terms, noise: 0.02, effect: 0.05, alpha: 0.1 }],
  fit: [
    { response: "white", terms },
    { response: "tangle", terms: "quadratic", reduce: "backward", by: "aicc", hierarchy: "strong" },
    { response: "cost", transform: "log", block: false },
  ],
  subsets: [{ response: "colour", terms: "main", average: true, hierarchy: "off", predicted: true }],
  setpoint: [
    { seed: 7, draws: 2000 },
    { seed: 2, draws: 1000, hold: { lot: "lowland" } },
    { draws: 500, hold: {} },
  ],
  surface: [{ response: "white", at: { temp: 55, lot: "lowland" }, step: 2 }],
  power: [{ terms: "main", effect: 0.05, noise: 0.02, power: 0.9, alpha: 0.01 }],
  follow: [
    { kind: "axial", axial: "face", seed: 3 },
    { kind: "augment", trials: 8, terms: "main+2fi" },
  ],
};

for (const question of openQuestions())
  test(`${question.id}: command, server and worker answer alike, and as described`, async ({ page, baseURL }) => {
    const api = await describedClient(baseURL ?? "");
    const id = await openExample(page, question.example.study);
    const ask = (name: string, body: object) =>
      api.POST(`/api/studies/{id}/${name}` as "/api/studies/{id}/fit", {
        params: { path: { id } },
        body: body as never,
      });
    for (const { question: name, input } of question.example.after ?? []) {
      const { revision } = await stored(page, id);
      const option = questionNamed(name).takeUp?.option ?? "";
      expect((await ask(name, { ...input, [option]: true, revision })).response.status).toBe(200);
    }
    const { study } = await stored(page, id);
    const pool = new Piscina({ filename: join(process.cwd(), "dist/worker.mjs"), maxThreads: 1 });
    try {
      for (const input of [question.example.input, ...(further[question.id] ?? [])] as Record<string, unknown>[]) {
        const said = `${question.id} ${JSON.stringify(input)}`;
        const { data, response } = await ask(question.id, input);
        expect(response.status, said).toBe(200);
        const { port1, port2 } = new MessageChannel();
        const stop = stopSign();
        const task = { question: question.id, study, input, port: port2, stop };
        const threaded = (await pool.run(task, { transferList: [port2] })) as { ok: boolean; value: unknown };
        port1.close();
        expect(difference(data, JSON.parse(JSON.stringify(threaded.value))), `${said} in a worker`).toBeUndefined();
        // A rig runs and writes in one: its command prints the study when that comes from standard input.
        if (question.id === "rig") continue;
        expect(difference(data, headless(study, [question.id, "-", ...typed(input)])), said).toBeUndefined();
        // The command held this process: that the server has closed a connection meanwhile is noticed before the next.
        await setTimeout(20);
      }
    } finally {
      await pool.destroy();
    }
  });

test("the examples asked about are those that are shipped", async ({ page }) =>
  expect(((await (await page.request.get("/api/examples")).json()) as string[]).sort()).toEqual(EXAMPLES));

for (const example of EXAMPLES)
  test(`every question is answered, or refused in a sentence, of ${example}`, async ({ page, baseURL }) => {
    const id = await openExample(page, example);
    const { study } = await stored(page, id);
    const middle = Object.fromEntries(study.factors.map((f) => [f.id, study.trials[0].settings[f.id]]));
    const [first] = study.factors;
    const [most] = study.responses;
    /** Inputs of each question: of those that are about a response, one for each. */
    const inputs: Record<string, object[]> = {
      plan: [{ family: "factorial" }, { family: "optimal", trials: 24, terms: "main", starts: 1 }],
      appraise: [{}, { terms: "main", possible: "main+2fi" }],
      fit: [
        ...study.responses.map((r) => ({ response: r.id })),
        { response: most.id, terms: "main", reduce: "backward", by: "aicc" },
      ],
      subsets: study.responses.map((r) => ({ response: r.id, terms: "main" })),
      surface: study.responses.map((r) => ({ response: r.id })),
      predict: [{ at: middle }],
      setpoint: [{ draws: 200, hold: { [first.id]: middle[first.id] } }],
      power: [{ effect: 1, noise: 1, replicates: 1 }],
      follow: ["repeat", "centre", "axial", "confirm"].map((kind) => ({ kind })),
      influence: [{}],
      verdict: [{}],
      rig: [],
    };
    for (const question of openQuestions()) {
      expect(inputs[question.id], question.id).toBeDefined();
      for (const input of inputs[question.id]) {
        const said = `${example}: ${question.id} ${JSON.stringify(input)}`;
        const answer = await fetch(`${baseURL}/api/studies/${id}/${question.id}`, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify(input),
        });
        const body = (await answer.json()) as { detail?: string };
        expect([200, 422], `${said}: ${body.detail}`).toContain(answer.status);
        if (answer.status === 422) expect(body.detail, said).toMatch(/^\S.*\.$/s);
        // Whatever else may be asked too early, results can be fitted.
        if (question.id === "fit") expect(answer.status, `${said}: ${body.detail}`).toBe(200);
      }
    }
  });

test("a study through the whole interface by its described client: made, planned, run, modelled, set, confirmed", async ({
  page,
  baseURL,
}) => {
  const api = await describedClient(baseURL ?? "");
  const made = await api.POST("/api/studies", { body: { example: "wool-scouring", questionOnly: true } });
  const { id } = made.data as StudyJson & { id: string };
  const path = { id };
  const at = async (): Promise<number> => (await stored(page, id)).revision;
  // A plan is previewed and then adopted as it was seen, whatever its search would find another time.
  const plan = await api.POST("/api/studies/{id}/plan", {
    params: { path },
    body: { family: "fraction", trials: 16, centre: 3, seed: 5 } as never,
  });
  const preview = plan.data as { trials: { settings: object }[]; recipe: object; waves: object[] };
  const adopted = await api.POST("/api/studies/{id}/waves", {
    params: { path },
    body: { revision: await at(), plan: preview as never, purpose: "screen" },
  });
  expect(adopted.response.status).toBe(200);
  const after = await stored(page, id);
  expect(after.study.trials.map((t) => t.settings)).toEqual(preview.trials.map((t) => t.settings));
  const rig = await api.POST("/api/studies/{id}/rig", {
    params: { path },
    // A rig is run for its results: with a revision they are entered.
    body: { name: "wool-line", revision: await at() } as never,
  });
  expect(rig.response.status).toBe(200);
  expect((await stored(page, id)).study.trials.every((t) => t.state === "done")).toBe(true);
  for (const { id: response } of after.study.responses) {
    const fit = await api.POST("/api/studies/{id}/fit", {
      params: { path },
      body: { response, terms: "main+2fi", reduce: "backward", store: true, revision: await at() } as never,
    });
    expect(fit.response.status).toBe(200);
  }
  const { models } = (await stored(page, id)).study;
  expect(models.map((m) => m.response).sort()).toEqual(["cost", "grease", "tangle", "white"]);
  await api.PUT("/api/studies/{id}/models/{response}", {
    params: { path: { id, response: "grease" } },
    body: {
      revision: await at(),
      model: { response: "grease", transform: "none", block: true, terms: [["temp"], ["dose"]] },
    },
  });
  await api.POST("/api/studies/{id}/setpoint", {
    params: { path },
    body: { draws: 500, choose: true, revision: await at() } as never,
  });
  const chosen = await stored(page, id);
  expect(chosen.study.models.find((m) => m.response === "grease")?.terms).toEqual([["temp"], ["dose"]]);
  expect(Object.keys(chosen.study.setpoint?.settings ?? {})).toHaveLength(6);
  await api.PUT("/api/studies/{id}/setpoint", {
    params: { path },
    body: { revision: await at(), setpoint: { settings: { temp: 60 }, held: ["temp"] } },
  });
  expect((await stored(page, id)).study.setpoint).toEqual({ settings: { temp: 60 }, held: ["temp"] });
  // Every other read of the interface is as described, too.
  for (const get of ["/api/health", "/api/examples", "/api/studies", "/api/backups", "/api/keeping"] as const)
    expect((await api.GET(get, {})).response.status).toBe(200);
  expect(
    (await api.GET("/api/studies/{id}/export", { params: { path, query: { format: "csv" } }, parseAs: "text" })).data,
  ).toContain("order,standard,wave");
  const copy = await api.POST("/api/studies/{id}/duplicate", { params: { path } });
  const other = copy.data as { id: string; revision: number };
  const gone = await api.DELETE("/api/studies/{id}", { params: { path: { id: other.id } }, body: { revision: 1 } });
  expect(gone.response.status).toBe(200);
  expect((await api.POST("/api/studies/{id}/restore", { params: { path: { id: other.id } } })).response.status).toBe(
    200,
  );
  expect((await api.POST("/api/validate", { body: chosen.study as never })).data).toEqual({ ok: true, faults: [] });
});

test("a sheet as text/csv: what it would change is answered first, then taken at its revision", async ({
  page,
  baseURL,
}) => {
  const api = await describedClient(baseURL ?? "");
  const id = await openExample(page);
  const csv = "trial id,white,who\nt1,60.5,A\nt2,x,B\n";
  const send = (query: { dry?: "1"; revision?: string }) =>
    api.POST("/api/studies/{id}/import", {
      params: { path: { id }, query },
      body: csv,
      bodySerializer: (b) => b,
      headers: { "content-type": "text/csv" },
    });
  const first = await send({ dry: "1" });
  const { study } = await stored(page, id);
  const before = study.trials.find((t) => t.id === "t1")?.results.white;
  expect(first.data).toEqual({
    changes: [{ trial: "t1", response: "white", from: before, to: 60.5 }],
    untaken: [{ column: "who", why: "it names nothing of this study" }],
    problems: ["Row 3: “x” in Whiteness is not a number; that cell is left as it was."],
    repeats: [],
    remarks: [],
    again: 0,
  });
  expect((await stored(page, id)).revision).toBe(1);
  expect((await send({})).response.status).toBe(422);
  expect((await send({ revision: "7" })).response.status).toBe(409);
  expect((await send({ revision: "1" })).response.status).toBe(200);
  expect((await stored(page, id)).study.trials.find((t) => t.id === "t1")?.results.white).toBe(60.5);
});

test("a stale revision is refused before anything is searched for; long work goes to the background", async ({
  page,
  baseURL,
}) => {
  const api = await describedClient(baseURL ?? "");
  const id = await openExample(page);
  const params = { path: { id } };
  const search = { family: "optimal", trials: 40, terms: "quadratic", starts: 100_000 };
  // Searched for first, it would be answered after half a minute, and not like this.
  const stale = await api.POST("/api/studies/{id}/plan", {
    params,
    body: { ...search, adopt: true, revision: 99 } as never,
  });
  expect(stale.response.status).toBe(409);
  const started = await api.POST("/api/studies/{id}/plan", { params, body: { ...search, background: true } as never });
  expect(started.response.status).toBe(202);
  const job = { params: { path: { id: (started.data as unknown as { id: string }).id } } };
  await expect(async () => {
    expect(((await api.GET("/api/jobs/{id}", job)).data as { progress: number }).progress).toBeGreaterThan(0);
  }).toPass();
  await api.DELETE("/api/jobs/{id}", job);
  await expect(async () => {
    expect(((await api.GET("/api/jobs/{id}", job)).data as { state: string }).state).toBe("stopped");
  }).toPass();
  // What it found till then is its answer, and is adopted as it is.
  const { answer } = (await api.GET("/api/jobs/{id}", job)).data as { answer: { trials: object[] } };
  expect(answer.trials).toHaveLength(40);
  const adopted = await api.POST("/api/studies/{id}/waves", { params, body: { revision: 1, plan: answer as never } });
  expect(adopted.response.status).toBe(200);
  expect((await stored(page, id)).study.trials).toHaveLength(71);
});

test("addresses and methods that are not there answer problem documents", async ({ page }) => {
  const id = await openExample(page);
  for (const [method, path, status] of [
    ["GET", "/api/nothing/here", 404],
    ["DELETE", "/api/studies", 405],
    ["PUT", `/api/studies/${id}`, 405],
    ["GET", `/api/studies/${id}/fit`, 405],
    ["PUT", `/api/studies/${id}/fit`, 404],
    ["POST", `/api/studies/${id}/constructor`, 404],
    ["POST", `/api/studies/${id}/edits`, 404],
  ] as const) {
    const answer = await page.request.fetch(path, { method, ...(method === "GET" ? {} : { data: {} }) });
    expect([answer.status(), answer.headers()["content-type"]], `${method} ${path}`).toEqual([
      status,
      "application/problem+json",
    ]);
    if (status === 405) expect(answer.headers().allow).toBeTruthy();
    expect(((await answer.json()) as { detail: string }).detail).toMatch(/^[^\n]{10,}\.$/);
  }
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

test("the script in the docs goes the whole way against a server that runs", async ({ page, baseURL }) => {
  const script = /```js\n([\s\S]*?)```/.exec(readFileSync("docs/http.md", "utf8"))?.[1] ?? "";
  const file = join(folder, "way.mjs");
  writeFileSync(file, script);
  const { status, stdout, stderr } = spawnSync(process.execPath, [file], {
    encoding: "utf8",
    env: { ...process.env, TRIALMOOR: baseURL, FORCE_COLOR: "0" },
  });
  expect(stderr).toBe("");
  expect(status).toBe(0);
  // Four corners and two centre points for four columns: |X′X|^(1/4)/N = (6·4·4·4)^(1/4)/6, in percent.
  expect(Number(/efficiency D ([\d.]+)/.exec(stdout)?.[1])).toBeCloseTo((100 * 384 ** 0.25) / 6, 9);
  // Loss falls with low temperature and long time.
  expect(stdout).toMatch(/best \{ temp: 40, time: 60 \}/);
  const studies = (await (await page.request.get("/api/studies")).json()) as { title: string }[];
  expect(JSON.stringify(studies)).toContain("Rinse");
});

test("every change asks for the revision it was made on: without one it is refused, with a stale one nothing is changed", async ({
  page,
  allowed,
}) => {
  allowed.statuses.push(409, 422);
  const id = await openExample(page);
  const at = `/api/studies/${id}`;
  const { study } = await stored(page, id);
  const title = { path: ["title"], from: study.title, to: "Another" };
  const changes: [method: string, path: string, body: object][] = [
    ["PATCH", at, { edits: [title] }],
    ["POST", `${at}/waves`, { plan: { family: "fraction", trials: 8 } }],
    ["POST", `${at}/trials`, { id: "t1", use: false }],
    ["POST", `${at}/results`, { results: [{ trial: "t1", response: "grease", value: 0.4 }] }],
    ["PUT", `${at}/models/grease`, { model: { terms: [["temp"]] } }],
    ["PUT", `${at}/setpoint`, { setpoint: null }],
    ["DELETE", at, {}],
    ["POST", `${at}/fit`, { response: "grease", store: true }],
    ["POST", `${at}/plan`, { family: "fraction", trials: 8, adopt: true }],
    ["POST", `${at}/setpoint`, { draws: 200, choose: true }],
    ["POST", `${at}/follow`, { kind: "repeat", adopt: true }],
    ["POST", `${at}/rig`, { name: "wool-line", adopt: true }],
  ];
  for (const [method, path, body] of changes) {
    const said = `${method} ${path.replace(at, "")}`;
    const send = async (data: object) => {
      const answer = await page.request.fetch(path, { method, data });
      return { status: answer.status(), problem: (await answer.json()) as Record<string, unknown> };
    };
    const without = await send(body);
    expect(without.status, said).toBe(422);
    expect(`${without.problem.detail} ${without.problem.path}`, said).toContain("revision");
    const stale = await send({ ...body, revision: 99 });
    expect(stale.status, said).toBe(409);
    expect(String(stale.problem.detail), said).toMatch(/^[^\n]{10,}\.$/);
  }
  const after = await stored(page, id);
  expect(after.revision).toBe(1);
  expect(after.study).toEqual(study);
});
