import { beforeEach, describe, expect, it } from "vitest";
import { edit, StudyError } from "@/core/study";
import { type Entry, enterAtBench } from "./entries";
import { listHistory } from "./history";
import { changeStudy, importFile, readStudy } from "./studies";
import { ownFolder } from "./testing/own-folder";
import { refused } from "./testing/refused";

ownFolder("entries");

let id = "";
beforeEach(async () => {
  [{ id }] = await importFile(
    {
      format: "trialmoor-study",
      version: 1,
      title: "Bench",
      factors: [{ id: "a", kind: "continuous", low: 0, high: 10 }],
      responses: [{ id: "y", name: "Grease" }],
      waves: [{ id: "w1" }],
      trials: [1, 2].map((n) => ({ id: `t${n}`, wave: "w1", order: n, settings: { a: n } })),
    },
    "",
  );
});
const grease = (value: number | null, was: number | null = null): Entry => ({ cell: "results", of: "y", value, was });

describe("an entry at the bench", () => {
  it("is taken in without a revision, whatever was changed beside it, under a name", async () => {
    const { study } = await readStudy(id);
    await changeStudy(id, 1, [edit(study, ["title"], "Renamed meanwhile")], "renamed", "Ada");
    const entered = await enterAtBench(id, "t1", grease(0.5), "Per", "k1");
    expect(entered).toMatchObject({ revision: 3, trial: { id: "t1", state: "done", results: { y: 0.5 } } });
    const [event] = (await listHistory(id, {})).events;
    expect([event.who, event.what]).toEqual(["Per", "trial 1: entered at the bench"]);
  });
  it("sent again under its key is not taken in again; another under that key is refused", async () => {
    await enterAtBench(id, "t1", grease(0.5), "", "k2");
    await enterAtBench(id, "t1", grease(0.7, 0.5), "", "k3");
    // The first one's answer was lost, and it comes once more.
    expect(await enterAtBench(id, "t1", grease(0.5), "", "k2")).toMatchObject({
      revision: 3,
      trial: { results: { y: 0.7 } },
    });
    expect((await refused(enterAtBench(id, "t1", grease(0.9), "", "k2"))).code).toBe("key-reused");
  });
  it("on a cell that was changed elsewhere overwrites nothing and says what stands; the same value is no clash", async () => {
    await enterAtBench(id, "t1", grease(0.5), "Ada", undefined);
    const clash = await refused(enterAtBench(id, "t1", grease(0.6), "Per", "k4"));
    expect([clash.status, clash.code, clash.more]).toEqual([409, "clash", { now: 0.5, yours: 0.6 }]);
    expect((await enterAtBench(id, "t1", grease(0.5), "Per", "k5")).revision).toBe(2);
    // The clash settled, the same key may be used: nothing was kept under it.
    expect((await enterAtBench(id, "t1", grease(0.6, 0.5), "Per", "k6")).trial.results.y).toBe(0.6);
  });
  it("of a trial or response that is not there is refused", async () => {
    await expect(enterAtBench(id, "t9", grease(1), "", undefined)).rejects.toThrow(StudyError);
    await expect(
      enterAtBench(id, "t1", { cell: "results", of: "z", value: 1, was: null }, "", undefined),
    ).rejects.toThrow(StudyError);
    expect((await refused(enterAtBench("none", "t1", grease(1), "", undefined))).code).toBe("no-study");
    expect((await readStudy(id)).revision).toBe(1);
  });
});
