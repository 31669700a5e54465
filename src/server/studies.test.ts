import { describe, expect, it } from "vitest";
import { edit, type Study } from "@/core/study";
import { database } from "./database";
import {
  changeStudy,
  createFromExample,
  deleteStudy,
  duplicateStudy,
  importFile,
  listStudies,
  readStudy,
  restoreStudy,
  seedExamples,
} from "./studies";
import { ownFolder } from "./testing/own-folder";
import { refused } from "./testing/refused";

ownFolder("studies");

const small = {
  format: "trialmoor-study",
  version: 1,
  title: "Small",
  factors: [{ id: "a", kind: "continuous", low: 0, high: 10 }],
  responses: [{ id: "y" }],
  waves: [{ id: "w1" }],
  trials: [
    { id: "t1", wave: "w1", settings: { a: 0 } },
    { id: "t2", wave: "w1", settings: { a: 10 }, results: { y: [1, 2] } },
  ],
};
const fresh = async (): Promise<{ id: string; study: Study }> => (await importFile(small, "test"))[0];

/** What the rows say, whatever is remembered beside them. */
const fromDisk: typeof readStudy = async (id) => {
  (await database()).latest.clear();
  return readStudy(id);
};

describe("studies in the database", () => {
  it("come back as they were stored, by rows", async () => {
    const { id, study } = await fresh();
    const back = await fromDisk(id);
    expect(back.revision).toBe(1);
    expect(back.study).toEqual(study);
    const db = await database();
    expect(await db.trials.count({ where: { studyId: id } })).toBe(2);
    expect(await db.results.count({ where: { studyId: id } })).toBe(1);
  });

  it("are read from their rows again only when another revision stands there", async () => {
    const { id, study } = await fresh();
    expect((await readStudy(id)).study).toBe(study);
    const changed = await changeStudy(id, 1, [edit(study, ["title"], "Second")], "renamed", "a");
    expect((await readStudy(id)).study).toBe(changed.study);
    const db = await database();
    const row = (await db.studies.findOne({ where: { id }, raw: true })) as unknown as { document: string };
    const document = JSON.parse(row.document);
    await db.studies.update(
      { revision: 3, document: JSON.stringify({ ...document, title: "By another hand" }) },
      { where: { id } },
    );
    expect(await readStudy(id)).toMatchObject({ revision: 3, study: { title: "By another hand" } });
    await deleteStudy(id, 3, "a");
    expect((await refused(readStudy(id))).status).toBe(404);
  });

  it("a change that is refused leaves nothing behind in memory either", async () => {
    const { id, study } = await fresh();
    await expect(
      changeStudy(id, 1, [edit(study, ["title"], "Half"), edit(study, ["factors", "a", "low"], 99)], "x", "a"),
    ).rejects.toThrow();
    expect(await readStudy(id)).toMatchObject({ revision: 1, study: { title: "Small" } });
  });

  it("are changed edit by edit, each kept in the log with old and new value", async () => {
    const { id, study } = await fresh();
    const changed = await changeStudy(id, 1, [edit(study, ["trials", "t1", "results", "y"], 4.5)], "entered", "Ada");
    expect(changed.revision).toBe(2);
    expect((await fromDisk(id)).study.trials[0].results.y).toBe(4.5);
    const db = await database();
    const events = (await db.events.findAll({ where: { studyId: id }, order: ["id"], raw: true })) as unknown as {
      who: string;
      what: string;
      edits: string;
      revision: number;
    }[];
    expect(events.map((e) => [e.revision, e.who, e.what])).toEqual([
      [1, "test", "opened from file"],
      [2, "Ada", "entered"],
    ]);
    expect(JSON.parse(events[1].edits)).toEqual([{ path: ["trials", "t1", "results", "y"], from: null, to: 4.5 }]);
  });

  it("refuse a stale revision with both versions and overwrite nothing", async () => {
    const { id, study } = await fresh();
    await changeStudy(id, 1, [edit(study, ["title"], "First")], "renamed", "a");
    const mine = [edit(study, ["title"], "Second")];
    const stale = await refused(changeStudy(id, 1, mine, "renamed", "b"));
    expect([stale.status, stale.code]).toEqual([409, "stale-revision"]);
    expect(stale.more).toMatchObject({ revision: 2, study: { title: "First" }, yours: mine });
    expect((await fromDisk(id)).study.title).toBe("First");
  });

  it("take all edits of a change or none", async () => {
    const { id, study } = await fresh();
    await expect(
      changeStudy(id, 1, [edit(study, ["title"], "Half"), edit(study, ["factors", "a", "low"], 99)], "x", "a"),
    ).rejects.toThrow(/must be below high/);
    const back = await fromDisk(id);
    expect([back.revision, back.study.title]).toEqual([1, "Small"]);
  });

  it("remove rows that an edit removed and keep their order", async () => {
    const { id, study } = await fresh();
    await changeStudy(id, 1, [edit(study, ["trials", "t1"], null)], "removed", "a");
    expect((await fromDisk(id)).study.trials.map((t) => t.id)).toEqual(["t2"]);
    const db = await database();
    expect(await db.trials.count({ where: { studyId: id } })).toBe(1);
  });

  it("queue writes from many hands: fifty changes on their own studies and one on the same", async () => {
    const made = await Promise.all(Array.from({ length: 10 }, fresh));
    await Promise.all(
      made.flatMap(({ id, study }, i) => [changeStudy(id, 1, [edit(study, ["title"], `T${i}`)], "renamed", "a")]),
    );
    for (const [i, { id }] of made.entries()) expect((await fromDisk(id)).study.title).toBe(`T${i}`);
    const { id, study } = made[0];
    const results = await Promise.allSettled(
      Array.from({ length: 5 }, (_, i) =>
        changeStudy(id, 2, [edit({ ...study, title: "T0" }, ["title"], `R${i}`)], "r", "a"),
      ),
    );
    expect(results.filter((r) => r.status === "fulfilled")).toHaveLength(1);
  });

  it("are deleted so that they can come back, and are gone in between", async () => {
    const { id } = await fresh();
    await deleteStudy(id, 1, "a");
    expect((await refused(readStudy(id))).status).toBe(404);
    expect((await listStudies()).some((s) => s.id === id)).toBe(false);
    expect((await restoreStudy(id, "a")).study.title).toBe("Small");
    expect((await refused(restoreStudy("nowhere", "a"))).status).toBe(404);
    expect((await refused(deleteStudy(id, 7, "a"))).status).toBe(409);
  });

  it("a confirmed setpoint is listed as one, and judged anew once a trial of its confirmation says otherwise", async () => {
    const { id, revision, study } = await createFromExample("horn-buttons", "");
    const fact = async (): Promise<string | undefined> =>
      (await listStudies()).find((s) => s.id === id)?.trail.find((c) => c.station === "setpoint")?.fact;
    expect(await fact()).toBe("chosen, confirmed");
    const spoilt = study.trials
      .filter((t) => t.kind === "confirm")
      .map((t) => edit(study, ["trials", t.id, "results", "cracked"], { events: 150, of: 200 }));
    await changeStudy(id, revision, spoilt, "spoilt", "");
    expect(await fact()).toBe("chosen, not as predicted");
  });
  it("are copied, opened from examples, listed last touched first with their trail", async () => {
    const { id } = await fresh();
    const copy = await duplicateStudy(id, "a");
    expect(copy.study.title).toBe("Small (copy)");
    const wool = await createFromExample("wool-scouring", "a");
    expect(wool.study.trials.length).toBeGreaterThan(20);
    const list = await listStudies();
    expect(list[0].id).toBe(wool.id);
    expect(list[0].trail.map((c) => c.station)).toEqual(["question", "plan", "trials", "model", "setpoint", "report"]);
    expect((await refused(createFromExample("no-such", "a"))).message).toContain("no-such");
  });

  it("come in as one file that an earlier version made, whole or not at all", async () => {
    const studies = [small, { ...small, title: "Second" }];
    const opened = await importFile({ format: "trialmoor-backup", version: 1, at: "", studies }, "b");
    expect(opened.map((s) => s.study.title)).toEqual(["Small", "Second"]);
    const before = (await listStudies()).length;
    await expect(
      importFile({ format: "trialmoor-backup", version: 1, studies: [small, { ...small, title: "" }] }, "b"),
    ).rejects.toThrow();
    expect((await listStudies()).length).toBe(before);
    await expect(importFile({ format: "trialmoor-backup", studies: [] }, "b")).rejects.toThrow("holds no studies");
  });

  it("are not seeded into a database that holds some", async () => {
    const before = (await listStudies()).length;
    await seedExamples();
    expect((await listStudies()).length).toBe(before);
  });
});
