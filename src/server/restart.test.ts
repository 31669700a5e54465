import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { edit } from "@/core/study";
import { database } from "./database";
import { readJob, stopJob } from "./jobs";
import { changeStudy, importFile, readStudy } from "./studies";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-restart-"));
const held = globalThis as { trialmoorDatabase?: unknown };
beforeAll(() => {
  process.env.TRIALMOOR_DATA = folder;
});
afterAll(async () => {
  await (await database()).close();
  rmSync(folder, { recursive: true, force: true });
});
/** What a server that goes down and comes up again finds. */
async function restart(): Promise<void> {
  await (await database()).close();
  held.trialmoorDatabase = undefined;
}

describe("after a restart", () => {
  it("what was acknowledged stands, with its revision and its log", async () => {
    const [{ id, study }] = await importFile(
      {
        format: "trialmoor-study",
        version: 1,
        title: "Kept",
        factors: [{ id: "a", kind: "continuous", low: 0, high: 1 }],
        responses: [{ id: "y" }],
        waves: [{ id: "w" }],
        trials: [{ id: "t1", wave: "w", settings: { a: 0 } }],
      },
      "test",
    );
    const changed = await changeStudy(
      id,
      1,
      [edit(study, ["trials", "t1", "results", "y"], [1.25, null, 3])],
      "entered",
      "Ada",
    );
    await restart();
    const back = await readStudy(id);
    expect(back).toEqual(changed);
    expect(back.study.trials[0].results.y).toEqual([1.25, null, 3]);
    const db = await database();
    expect(await db.events.count({ where: { studyId: id } })).toBe(2);
  });
  it("a computation that was running says that it was interrupted; finished ones keep their answers", async () => {
    const db = await database();
    const at = new Date().toISOString();
    const job = {
      studyId: "s",
      name: "plan",
      progress: 0.4,
      text: "try 3",
      answer: null,
      problem: null,
      createdAt: at,
      updatedAt: at,
    };
    await db.jobs.create({ ...job, id: "running", state: "running" });
    await db.jobs.create({ ...job, id: "done", state: "done", text: "done", answer: JSON.stringify({ trials: 3 }) });
    await restart();
    expect(await readJob("running")).toMatchObject({
      state: "interrupted",
      text: "interrupted by a restart; start it again",
      answer: null,
    });
    expect(await readJob("done")).toMatchObject({ state: "done", answer: { trials: 3 } });
    // Stopping what does not run any more changes nothing.
    expect(await stopJob("running")).toMatchObject({ state: "interrupted" });
    await expect(readJob("nobody")).rejects.toMatchObject({ status: 404, code: "no-job" });
  });
});
