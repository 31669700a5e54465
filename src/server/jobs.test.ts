import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ask, finish, type Progress, parseStudy, type Study } from "@/core";
import { database } from "./database";
import { compute, readJob, startInBackground, stopJob } from "./jobs";
import { importFile } from "./studies";
import { refused } from "./testing/refused";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-jobs-"));
let id = "";
let study: Study;
const file = {
  format: "trialmoor-study",
  version: 1,
  title: "Jobs",
  factors: ["a", "b", "c", "d", "e"].map((f) => ({ id: f, kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y" }],
};
beforeAll(async () => {
  // The pool runs the bundled worker, as the server does.
  if (!existsSync("dist/worker.mjs")) throw new Error("dist/worker.mjs is missing: npm test bundles it first.");
  process.env.TRIALMOOR_DATA = folder;
  study = parseStudy(file);
  [{ id }] = await importFile(file, "test");
});
afterAll(async () => {
  const pool = (globalThis as { trialmoorPool?: { destroy(): Promise<void> } }).trialmoorPool;
  await pool?.destroy();
  await (await database()).sequelize.close();
  rmSync(folder, { recursive: true, force: true });
});

/** A search that takes many seconds unless it is stopped. */
const long = { family: "optimal", trials: 24, terms: "quadratic", starts: 50_000, seed: 1 } as const;
const short = { ...long, starts: 2 } as const;

interface Job {
  state: string;
  progress: number;
  text: string;
  answer: { trials: unknown[]; recipe: { starts?: number } } | null;
  problem: { code: string; detail: string } | null;
}
/** Reads a job until it is as wanted. */
async function until(job: string, wanted: (j: Job) => boolean, seconds = 20): Promise<Job> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const now = (await readJob(job)) as Job;
    if (wanted(now)) return now;
    if (Date.now() > end) throw new Error(`still ${now.state} at ${now.progress}`);
    await new Promise((r) => setTimeout(r, 50));
  }
}

describe("the pool of workers", () => {
  it("answers as the question itself does, with progress on the way", async () => {
    const told: Progress[] = [];
    const answer = await compute("plan", study, { ...short, starts: 40 }, (p) => told.push(p));
    expect(answer).toEqual(JSON.parse(JSON.stringify(finish(ask("plan", study, { ...short, starts: 40 })))));
    expect(told.length).toBeGreaterThan(1);
    const shares = told.map((p) => p.done);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.every((d) => d >= 0 && d <= 1)).toBe(true);
    expect(told[0].text).toBe("try 1 of 40");
  });
  it("gives a refusal back with its code and its place", async () => {
    const unknown = await refused(compute("fit", study, { response: "q" }));
    expect(unknown).toMatchObject({ status: 422, code: "unknown-id" });
    expect(unknown.message).toContain("“q”");
  });
  it("stops a search at once, which keeps its best", async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4));
    const start = Date.now();
    const answer = await compute("plan", study, long, () => Atomics.store(stop, 0, 1), stop);
    expect(Date.now() - start).toBeLessThan(10_000);
    expect(answer.trials).toHaveLength(24);
    // The recipe says how many starts were finished: the same plan again is made from it.
    expect(answer.recipe.starts as number).toBeGreaterThan(0);
    expect(answer.recipe.starts as number).toBeLessThan(50_000);
    const again = await compute("plan", study, { ...long, starts: answer.recipe.starts as number });
    expect(again.trials).toEqual(answer.trials);
  });
  it("says that it was stopped where nothing can be kept", async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4));
    Atomics.store(stop, 0, 1);
    const settings = { a: 0, b: 0, c: 0, d: 0, e: 0 };
    const measured: Study = parseStudy({
      ...file,
      responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 9 } }],
      waves: [{ id: "w" }],
      trials: Array.from({ length: 12 }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: { ...settings, a: i % 2 ? 1 : -1, b: i % 3 ? 1 : -1 },
        results: { y: i },
      })),
      models: [{ response: "y", terms: [["a"], ["b"]] }],
    });
    const start = Date.now();
    const stopped = await refused(compute("setpoint", measured, { draws: 5_000_000 }, undefined, stop));
    expect(stopped).toMatchObject({ status: 409, code: "stopped" });
    expect(Date.now() - start).toBeLessThan(10_000);
  });
  it("leaves the server's own thread free while it works", async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4));
    const work = compute("plan", study, long, undefined, stop);
    let late = 0;
    for (let i = 0; i < 20; i++) {
      const before = performance.now();
      await new Promise((r) => setTimeout(r, 20));
      late = Math.max(late, performance.now() - before - 20);
    }
    Atomics.store(stop, 0, 1);
    await work;
    expect(late).toBeLessThan(500);
  });
});

describe("computations behind a request", () => {
  it("run, tell how far they are and keep their answer", async () => {
    const job = await startInBackground("plan", id, study, short);
    const done = await until(job.id, (j) => j.state === "done");
    expect(done.progress).toBe(1);
    expect(done.answer?.trials).toEqual((await compute("plan", study, short)).trials);
    expect(done.problem).toBeNull();
  });
  it("are stopped by name, with the best so far", async () => {
    const job = await startInBackground("plan", id, study, long);
    const running = await until(job.id, (j) => j.progress > 0);
    expect(running.state).toBe("running");
    await stopJob(job.id);
    const done = await until(job.id, (j) => j.state !== "running");
    expect(done.state).toBe("done");
    expect(done.answer?.trials).toHaveLength(24);
  });
  it("keep the reason why they failed", async () => {
    const job = await startInBackground("plan", id, study, { family: "optimal", trials: 3, terms: "quadratic" });
    const failed = await until(job.id, (j) => j.state !== "running");
    expect(failed.state).toBe("failed");
    expect(failed.answer).toBeNull();
    expect(failed.problem?.detail).toMatch(/\d+ .*\.$/);
    // Stopping what is over changes nothing.
    expect(((await stopJob(job.id)) as Job).state).toBe("failed");
  });
  it("that are not there are said not to be", async () => {
    expect(await refused(readJob("nowhere"))).toMatchObject({ status: 404, code: "no-job" });
    expect(await refused(stopJob("nowhere"))).toMatchObject({ status: 404, code: "no-job" });
  });
});
