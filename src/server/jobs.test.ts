import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ask, finish, type Progress } from "@/core/questions";
import { parseStudy, type Study } from "@/core/study";
import { database } from "./database";
import { readJob, startInBackground, stopJob } from "./jobs";
import { begin, compute, endThreads } from "./pool";
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
  await endThreads();
  await (await database()).close();
  rmSync(folder, { recursive: true, force: true });
});

/** A search that takes many minutes unless it is stopped. */
const long = { family: "optimal", trials: 24, terms: "quadratic", starts: 50_000, seed: 1 } as const;
const short = { ...long, starts: 2 } as const;

interface Job {
  state: string;
  progress: number;
  text: string;
  answer: { trials: unknown[]; recipe: { starts?: number } } | null;
  problem: { code: string; detail: string } | null;
}
/** Reads a job until it is as wanted: a test's own time runs out where it never is. */
async function until(job: string, wanted: (j: Job) => boolean): Promise<Job> {
  for (;;) {
    const now = (await readJob(job)) as Job;
    if (wanted(now)) return now;
    await new Promise((r) => setTimeout(r, 50));
  }
}
/** Time for a thread to end by itself however slow it is, in milliseconds. */
const PATIENT = 120_000;

describe("the pool of workers", () => {
  it("answers as the question itself does, with progress on the way", async () => {
    const told: Progress[] = [];
    const { ended } = begin("plan", id, study, { ...short, starts: 40 }, { onProgress: (p) => told.push(p) });
    const end = await ended;
    expect("answer" in end && end.answer).toEqual(
      JSON.parse(JSON.stringify(finish(ask("plan", study, { ...short, starts: 40 })))),
    );
    expect(told.length).toBeGreaterThan(1);
    const shares = told.map((p) => p.done);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.every((d) => d >= 0 && d <= 1)).toBe(true);
    expect(told[0].text).toBe("try 1 of 40");
  });
  it("gives a refusal back with its code and its place", async () => {
    await expect(compute("fit", id, study, { response: "q" })).rejects.toMatchObject({
      code: "unknown-id",
      message: expect.stringContaining("“q”"),
    });
  });
  it("stops a search, which keeps its best", async () => {
    const search = begin("plan", id, study, long, { onProgress: (p) => p.done > 0 && search.stop(PATIENT) });
    const end = await search.ended;
    if (end.stopped) throw new Error("It ended without its best.");
    expect(end.answer.trials).toHaveLength(24);
    // The recipe says how many starts were finished: the same plan again is made from it.
    const starts = end.answer.recipe.starts as number;
    expect(starts).toBeGreaterThan(0);
    expect(starts).toBeLessThan(50_000);
    const again = await compute("plan", id, study, { ...long, starts });
    expect(again.trials).toEqual(end.answer.trials);
  });
  it("says that it was stopped where nothing can be kept", async () => {
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
    const search = begin("setpoint", id, measured, { draws: 5_000_000 });
    search.stop(PATIENT);
    expect(await search.ended).toEqual({ stopped: true, best: undefined });
  });
  it("leaves the server's own thread free while it works", async () => {
    const work = begin("plan", id, study, long);
    let over = false;
    work.ended.then(() => {
      over = true;
    });
    for (let i = 0; i < 20; i++) await new Promise((r) => setTimeout(r, 20));
    expect(over).toBe(false);
    work.stop(0);
    // Its thread may not have come to a first best: that it was stopped is all there is to say then.
    expect(await work.ended).toMatchObject({ stopped: expect.any(Boolean) });
  });
});

describe("computations behind a request", () => {
  it("run, tell how far they are and keep their answer", async () => {
    const job = await startInBackground("plan", id, study, short);
    const done = await until(job.id, (j) => j.state === "done");
    expect(done.progress).toBe(1);
    expect(done.answer?.trials).toEqual((await compute("plan", id, study, short)).trials);
    expect(done.problem).toBeNull();
  });
  it("are stopped by name, with the best so far", async () => {
    const job = await startInBackground("plan", id, study, long);
    const running = await until(job.id, (j) => j.progress > 0);
    expect(running.state).toBe("running");
    // Who stops it is told how it ended, not that it will.
    const stopped = (await stopJob(job.id)) as Job;
    expect(stopped.state).toBe("stopped");
    expect(await readJob(job.id)).toEqual(stopped);
    // Where its thread is too slow to end by itself in time it is ended, and what it had told of is kept.
    if (stopped.answer) expect(stopped.answer.trials).toHaveLength(24);
    else expect(stopped.text).toBe("stopped");
  });
  it("keep the reason why they failed", async () => {
    const job = await startInBackground("plan", id, study, { family: "optimal", trials: 3, terms: "quadratic" });
    const failed = await until(job.id, (j) => !["waiting", "running"].includes(j.state));
    expect(failed.state).toBe("failed");
    expect(failed.answer).toBeNull();
    expect(failed.problem?.detail).toMatch(/\d+ .*\.$/);
    // Stopping what is over changes nothing.
    expect(((await stopJob(job.id)) as Job).state).toBe("failed");
  });
  it("wait their turn, two of a study at a time, and one more than may wait is refused", async () => {
    const jobs: { id: string }[] = [];
    for (let i = 0; i < 18; i++) jobs.push(await startInBackground("plan", id, study, long));
    await until(jobs[1].id, (j) => j.state === "running");
    const states = await Promise.all(jobs.map(async (j) => ((await readJob(j.id)) as Job).state));
    expect(states.filter((s) => s === "running")).toHaveLength(2);
    expect(states.filter((s) => s === "waiting")).toHaveLength(16);
    const over = await refused(startInBackground("plan", id, study, long));
    expect(over).toMatchObject({ status: 429, code: "busy", headers: { "retry-after": "5" } });
    // Another study finds a thread, and a light question one of its own.
    await compute("plan", "another", study, { family: "factorial" });
    await compute("plan", "another", study, short);
    expect(((await readJob(jobs[17].id)) as Job).state).toBe("waiting");
    // One that waits is stopped without having run.
    expect((await stopJob(jobs[17].id)) as Job).toMatchObject({ state: "stopped", answer: null });
    await Promise.all(jobs.map((j) => stopJob(j.id)));
    for (const j of jobs) expect(((await readJob(j.id)) as Job).state).toBe("stopped");
  });
  it("die with the client that asked, and free their thread", async () => {
    const client = new AbortController();
    const asked = compute("plan", id, study, long, client.signal).then(
      () => "its best",
      (error: { code?: string }) => error.code,
    );
    client.abort();
    // With its best, which nobody reads any more, or before it; left to itself it would take its whole half minute.
    expect(["its best", "stopped"]).toContain(await asked);
    expect((await compute("plan", id, study, short)).trials).toHaveLength(24);
  });
  it("end half a second after their stop where a thread does not listen", async () => {
    const ids = Array.from({ length: 50 }, (_, i) => `f${i}`);
    const wide: Study = parseStudy({
      ...file,
      factors: ids.map((f) => ({ id: f, kind: "continuous", low: -1, high: 1 })),
      waves: [{ id: "w" }],
      trials: Array.from({ length: 2000 }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        settings: Object.fromEntries(ids.map((f, j) => [f, Math.sin(i * (j + 1))])),
      })),
    });
    // One step of many seconds, in which nothing is yielded.
    const deaf = begin("appraise", id, wide, { terms: "main" });
    deaf.stop();
    expect(await deaf.ended).toEqual({ stopped: true, best: undefined });
    // The thread that was ended is made anew.
    expect((await compute("plan", id, study, short)).trials).toHaveLength(24);
  });
  it("that are not there are said not to be", async () => {
    expect(await refused(readJob("nowhere"))).toMatchObject({ status: 404, code: "no-job" });
    expect(await refused(stopJob("nowhere"))).toMatchObject({ status: 404, code: "no-job" });
  });
});
