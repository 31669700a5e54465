import Papa from "papaparse";
import { beforeEach, describe, expect, it } from "vitest";
import { edit, inverseEdits, type Study } from "@/core/study";
import { actorOf } from "./actor";
import { database } from "./database";
import { addMark, bringBack, historyCsv, listHistory, listMarks, pastStudy, removeMark } from "./history";
import { changeStudy, deleteStudy, importFile, readStudy, restoreStudy } from "./studies";
import { ownFolder } from "./testing/own-folder";
import { refused } from "./testing/refused";

ownFolder("history");

const small = {
  format: "trialmoor-study",
  version: 1,
  title: "Small",
  factors: [
    { id: "a", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 0, high: 10 },
    { id: "b", name: "Dose", kind: "continuous", low: 0, high: 1 },
  ],
  responses: [{ id: "y", name: "Grease", unit: "%" }],
  waves: [{ id: "w1" }, { id: "w2" }],
  trials: [
    { id: "t1", wave: "w1", order: 1, state: "done", settings: { a: 0, b: 0 }, results: { y: 1 } },
    { id: "t2", wave: "w1", order: 2, state: "done", settings: { a: 10, b: 1 }, results: { y: [1, 2] } },
    { id: "t3", wave: "w2", order: 3, settings: { a: 5, b: 1 } },
  ],
};

const codeOf = async (work: Promise<unknown>): Promise<[number, string]> => {
  const { status, code } = await refused(work);
  return [status, code];
};

let id = "";
let states: Study[] = [];
const change = async (path: string[], to: unknown, who = "", what = "changed a cell"): Promise<void> => {
  const { revision, study } = await readStudy(id);
  states.push((await changeStudy(id, revision, [edit(study, path, to)], what, who)).study);
};
beforeEach(async () => {
  const [made] = await importFile(small, "Ada");
  ({ id } = made);
  states = [made.study];
  await change(["trials", "t1", "results", "y"], 1.5, "Ada");
  await change(["trials", "t2", "asRun"], { a: 9, b: 1 }, "Berta");
  await change(["trials", "t1"], null, "Ada", "took a trial out");
  await change(["factors", "a", "name"], "Bowl heat", "http");
  await change(["trials", "t3", "results", "y"], 4);
  await change(["models", "y"], { response: "y", terms: [["b"]], transform: "none", block: true, curvature: true });
});

const texts = async (query: Parameters<typeof listHistory>[1] = {}): Promise<string[]> =>
  (await listHistory(id, query)).events.flatMap((e) => e.changes.map((c) => c.text));

describe("the history of a study", () => {
  it("tells who, when, what, old and new, the last change first", async () => {
    const { events, people, revision, next } = await listHistory(id, {});
    expect(revision).toBe(7);
    expect(next).toBeUndefined();
    expect(people).toEqual(["", "Ada", "Berta", "http"]);
    expect(events.map((e) => [e.revision, e.who, e.what])).toEqual([
      [7, "", "changed a cell"],
      [6, "", "changed a cell"],
      [5, "http", "changed a cell"],
      [4, "Ada", "took a trial out"],
      [3, "Berta", "changed a cell"],
      [2, "Ada", "changed a cell"],
      [1, "Ada", "opened from file"],
    ]);
    expect(events[5].changes).toEqual([
      { path: ["trials", "t1", "results", "y"], from: 1, to: 1.5, text: "Grease of trial 1: 1 → 1.5 %" },
    ]);
    expect(await texts()).toEqual([
      "Model of Grease added",
      "Grease of trial 3: 4 %",
      "Bowl temperature, name: Bowl temperature → Bowl heat".replace(/^Bowl temperature/, "Bowl heat"),
      "Trial 1 removed",
      "Bowl heat of trial 2, as run: 9 °C",
      "Dose of trial 2, as run: 1",
      "Grease of trial 1: 1 → 1.5 %",
    ]);
  });
  it("is filtered by station, cell, wave and person, on its own and together", async () => {
    expect(await texts({ station: "question" })).toEqual(["Bowl heat, name: Bowl temperature → Bowl heat"]);
    expect(await texts({ station: "model" })).toEqual(["Model of Grease added"]);
    // A cell's history holds that its trial went.
    expect(await texts({ path: "trials/t1/results/y" })).toEqual(["Trial 1 removed", "Grease of trial 1: 1 → 1.5 %"]);
    expect(await texts({ path: "trials/t2/asRun/b" })).toEqual(["Dose of trial 2, as run: 1"]);
    expect(await texts({ wave: "w2" })).toEqual(["Grease of trial 3: 4 %"]);
    expect(await texts({ wave: "w1" })).toEqual([
      "Trial 1 removed",
      "Bowl heat of trial 2, as run: 9 °C",
      "Dose of trial 2, as run: 1",
    ]);
    expect(await texts({ who: "" })).toHaveLength(2);
    expect(await texts({ who: "Ada", station: "trials" })).toEqual(["Trial 1 removed", "Grease of trial 1: 1 → 1.5 %"]);
    expect(await texts({ who: "nobody" })).toEqual([]);
  });
  it("comes a page at a time, and long changes with their first cells and how many there are", async () => {
    const { revision, study } = await readStudy(id);
    const more = Array.from({ length: 60 }, (_, i) => ({ ...study.trials[0], id: `n${i}`, order: 10 + i }));
    const edits = more.map((t) =>
      edit(study, ["trials", t.id], JSON.parse(JSON.stringify({ ...t, standard: t.order }))),
    );
    await changeStudy(id, revision, edits, "sixty more", "Ada");
    const [long] = (await listHistory(id, {})).events;
    expect([long.changes.length, long.count]).toEqual([40, 60]);
    const db = await database();
    const at = new Date().toISOString();
    const rows = Array.from({ length: 230 }, () => ({ studyId: id, revision: 8, at, who: "", what: "x", edits: "[]" }));
    await db.events.bulkCreate(rows);
    const ids: number[] = [];
    let pages = 0;
    for (let before: number | undefined; ; pages++) {
      const page = await listHistory(id, before === undefined ? {} : { before });
      ids.push(...page.events.map((e) => e.id));
      expect(page.people === undefined).toBe(pages > 0);
      before = page.next;
      if (before === undefined) break;
    }
    expect(pages).toBe(2);
    expect(ids).toHaveLength(238);
    expect(ids).toEqual([...new Set(ids)].sort((a, b) => b - a));
  });
  it("is a table too, one line a cell, formulas made harmless", async () => {
    await change(["trials", "t3", "note"], "=1+1", "Ada");
    const { data } = Papa.parse<Record<string, string>>((await historyCsv(id, {})).trim(), { header: true });
    expect(data).toHaveLength(9);
    expect(data[0]).toMatchObject({
      revision: "8",
      who: "Ada",
      "in words": "Trial 3, note: =1+1",
      path: "trials/t3/note",
    });
    expect(data[0].to).toBe("'=1+1");
    expect(data[2]).toMatchObject({ who: "somebody at this machine", from: "", to: "4" });
    expect(data[8]).toMatchObject({ change: "opened from file", path: "" });
  });
  it("a log row that is damaged is passed over, not the history", async () => {
    const db = await database();
    await db.events.update({ edits: "{" }, { where: { studyId: id, revision: 3 } });
    expect((await listHistory(id, {})).events.map((e) => e.count)).toEqual([1, 1, 1, 1, 0, 1, 0]);
    expect(await texts({ station: "trials" })).toHaveLength(3);
  });
});

describe("ten thousand changes", () => {
  it("are told page by page, filtered, and back to the first state", async () => {
    const db = await database();
    const at = new Date().toISOString();
    const cell = (n: number) => ({ path: ["trials", "t3", "results", "y"], from: n, to: n + 1 });
    const rows = Array.from({ length: 10_000 }, (_, i) => ({
      studyId: id,
      revision: 8 + i,
      at,
      who: i % 3 ? "Ada" : "Berta",
      what: "trial 3",
      edits: JSON.stringify([cell(4 + i)]),
    }));
    await db.events.bulkCreate(rows);
    const last = JSON.stringify(10_004);
    await db.results.update({ value: last }, { where: { studyId: id, trialId: "t3", response: "y" } });
    await db.studies.update({ revision: 10_007 }, { where: { id } });
    db.latest.clear();
    const { events, next } = await listHistory(id, {});
    expect(events[0].revision).toBe(10_007);
    const { events: older } = await listHistory(id, { before: next as number });
    expect(older[0].revision).toBe(10_007 - events.length);
    expect((await listHistory(id, { station: "question" })).events).toHaveLength(1);
    expect((await pastStudy(id, 1)).study).toEqual(states[0]);
  });
});

describe("a past state", () => {
  it("is what stood after each change, whatever came and went since", async () => {
    for (const [i, study] of states.entries())
      expect((await pastStudy(id, i + 1)).study, `revision ${i + 1}`).toEqual(study);
  });
  it("that never was is refused", async () => {
    for (const revision of [0, 8, 1e9]) expect(await codeOf(pastStudy(id, revision))).toEqual([404, "no-revision"]);
  });
  it("is brought back as a change of its own, which can be undone", async () => {
    const before = await readStudy(id);
    const back = await bringBack(id, 2, before.revision, "Ada");
    expect(back.revision).toBe(8);
    expect(back.study).toEqual(states[1]);
    const [event] = (await listHistory(id, {})).events;
    expect([event.what, event.who]).toEqual(["brought back revision 2", "Ada"]);
    expect(event.changes.map((c) => c.text)).toContain("Trial 1 added");
    const edits = event.changes.map(({ path, from, to }) => ({ path, from, to }));
    const undone = await changeStudy(id, 8, inverseEdits(before.study, edits), "undo", "Ada");
    expect({ ...undone.study, trials: [] }).toEqual({ ...before.study, trials: [] });
    expect((await pastStudy(id, 8)).study).toEqual(states[1]);
  });
  it("is not brought back over a change that was not seen", async () =>
    expect(await codeOf(bringBack(id, 2, 3, ""))).toEqual([409, "stale-revision"]));
  it("that a damaged log does not lead to is said, and nothing changes", async () => {
    const db = await database();
    await db.events.update(
      { edits: JSON.stringify([{ path: ["trials", "gone", "note"], from: "a", to: "b" }]) },
      { where: { studyId: id, revision: 3 } },
    );
    expect(await codeOf(pastStudy(id, 2))).toEqual([422, "past-unreadable"]);
    expect((await readStudy(id)).revision).toBe(7);
  });
  it("stays within reach when a study was deleted and brought back", async () => {
    await deleteStudy(id, 7, "Ada");
    await restoreStudy(id, "Ada");
    expect((await pastStudy(id, 1)).study).toEqual(states[0]);
    expect((await listHistory(id, {})).events.slice(0, 2).map((e) => [e.what, e.revision])).toEqual([
      ["restored", 7],
      ["deleted", 7],
    ]);
  });
});

describe("marks", () => {
  it("name a state, stand with the history, and go", async () => {
    const mark = await addMark(id, { name: "before the second wave", station: "plan", revision: 3 }, "Ada");
    const now = await addMark(id, { name: "all run" }, "");
    expect([mark.revision, mark.station, mark.who, now.revision]).toEqual([3, "plan", "Ada", 7]);
    expect((await listHistory(id, {})).marks).toEqual([mark, now]);
    expect(await removeMark(id, mark.id)).toEqual({ id: mark.id });
    expect(await listMarks(id)).toEqual([now]);
    expect(await codeOf(removeMark(id, mark.id))).toEqual([404, "no-mark"]);
    expect(await codeOf(addMark(id, { name: "later", revision: 9 }, ""))).toEqual([404, "no-revision"]);
  });
});

describe("who changes something", () => {
  const sent = (headers: Record<string, string>): string => actorOf(new Request("http://127.0.0.1/", { headers }));
  it.each([
    [{}, "http"],
    [{ "x-trialmoor-who": "" }, ""],
    [{ "x-trialmoor-who": encodeURIComponent("Łucja Ødegård") }, "Łucja Ødegård"],
    [{ "x-trialmoor-who": "50%" }, "50%"],
    [{ "x-trialmoor-who": "x".repeat(99) }, "x".repeat(60)],
  ])("%j", (headers, who) => expect(sent(headers as Record<string, string>)).toBe(who));
});
