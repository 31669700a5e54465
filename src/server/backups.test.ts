import { spawn, spawnSync } from "node:child_process";
import {
  copyFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { buildSync } from "esbuild";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { edit } from "@/core/study";
import {
  bringBackup,
  listBackups,
  lookInto,
  makeBackup,
  readBackup,
  removeBackup,
  restoreBackup,
  sweepParts,
} from "./backups";
import { clock } from "./clock";
import { database } from "./database";
import { addMark, listHistory, listMarks, pastStudy } from "./history";
import { backUpDaily, compact, prune } from "./housekeeping";
import { migrations } from "./migrations";
import { endThreads } from "./pool";
import { DAY, readRetention, setRetention } from "./retention";
import { changeStudy, deleteStudy, importFile, listDeleted, listStudies, readStudy, restoreStudy } from "./studies";
import { refused } from "./testing/refused";
import { DatabaseFile } from "./testing/sqlite";

const root = mkdtempSync(join(tmpdir(), "trialmoor-backups-"));
const folder = join(root, "data");
const backups = join(folder, "backups");
/** Takes a folder away, however often the process of a task that outlives a kill by a moment still writes into it. */
async function emptied(place: string): Promise<void> {
  for (;;)
    try {
      return rmSync(place, { recursive: true, force: true });
    } catch (error) {
      if ((error as { code?: string }).code !== "ENOTEMPTY") throw error;
      await new Promise((next) => setTimeout(next, 20));
    }
}

const KILLS = Number(process.env.SOAK_KILLS ?? 4);
beforeAll(() => {
  process.env.TRIALMOOR_DATA = folder;
});
afterAll(async () => {
  await endThreads();
  await (await database()).close();
  rmSync(root, { recursive: true, force: true });
});

const TABLES = ["studies", "waves", "trials", "results", "events", "marks", "jobs", "requests"];
/** Every row of every table, as text. */
async function dump(path: string): Promise<Record<string, string[]>> {
  const db = new DatabaseFile(path);
  const out: Record<string, string[]> = {};
  for (const table of TABLES)
    out[table] = (await db.all(`SELECT * FROM ${table}`)).map((row) => JSON.stringify(row)).sort();
  await db.close();
  return out;
}
const standing = (): Promise<Record<string, string[]>> => dump(join(folder, "trialmoor.sqlite"));

const study = (title: string, trials = 20) => ({
  format: "trialmoor-study",
  version: 1,
  title,
  factors: [{ id: "a", kind: "continuous", low: 0, high: 10 }],
  responses: [{ id: "y" }],
  waves: [{ id: "w1" }],
  trials: Array.from({ length: trials }, (_, i) => ({
    id: `t${i}`,
    wave: "w1",
    settings: { a: i },
    results: { y: i },
  })),
});
/** A study with a log, a mark, and one beside it that was deleted. */
async function furnish(title: string): Promise<{ id: string; deleted: string }> {
  const [{ id, study: made }] = await importFile(study(title), "Ada");
  await changeStudy(id, 1, [edit(made, ["trials", "t3", "results", "y"], 99)], "corrected", "Ada");
  await addMark(id, { name: "all run" }, "Ada");
  const [other] = await importFile(study(`${title}, discarded`), "Ada");
  await deleteStudy(other.id, 1, "Ada");
  return { id, deleted: other.id };
}
const saved = async (name: string): Promise<Buffer> =>
  Buffer.from(await new Response((await readBackup(name)).stream).arrayBuffer());
const sent = (bytes: Buffer): ReadableStream => new Blob([new Uint8Array(bytes)]).stream();
const codeOf = async (work: Promise<unknown>): Promise<[number, string]> => {
  const { status, code } = await refused(work);
  return [status, code];
};

describe("a backup", () => {
  it("holds everything: ids, revisions, the log, marks, deleted studies; listed with date, size and number", async () => {
    const { id, deleted } = await furnish("Kept");
    const { name } = await makeBackup();
    const [listed] = await listBackups();
    expect(listed).toMatchObject({ name, studies: (await listStudies()).length });
    expect(listed.bytes).toBe(readFileSync(join(backups, name)).length);
    expect(Date.now() - Date.parse(listed.at)).toBeLessThan(60_000);
    expect(await dump(join(backups, name))).toEqual(await standing());
    const inside = await lookInto(name);
    expect(inside.find((s) => s.id === id)).toMatchObject({ title: "Kept", revision: 2, now: { revision: 2 } });
    expect(inside.find((s) => s.id === deleted)?.deletedAt).not.toBeNull();
  });
  it("is restored whole, in place of what stands, of which a backup is made first", async () => {
    const { id } = await furnish("Whole");
    const { name } = await makeBackup();
    const then = await standing();
    const stood = await readStudy(id);
    await changeStudy(id, 2, [edit(stood.study, ["title"], "Spoilt")], "renamed", "Berta");
    const [later] = await importFile(study("Later"), "Berta");
    expect((await lookInto(name)).find((s) => s.id === id)?.now).toMatchObject({ title: "Spoilt", revision: 3 });
    const now = await standing();
    const { before } = await restoreBackup(name, undefined, "Ada");
    expect(await standing()).toEqual(then);
    expect((await readStudy(id)).study).toEqual(stood.study);
    expect(await codeOf(readStudy(later.id))).toEqual([404, "no-study"]);
    expect(await dump(join(backups, before as string))).toEqual(now);
    // A page that still shows revision 3 of before must not meet another state under the same number.
    const changed = await changeStudy(id, 2, [edit(stood.study, ["title"], "Again")], "renamed", "");
    expect(changed.revision).toBe(4);
    // And back again.
    await restoreBackup(before as string, undefined, "Ada");
    expect(await standing()).toEqual(now);
  });
  it("gives single studies beside what stands, with log and marks, under ids of their own", async () => {
    const { id } = await furnish("Beside");
    const { name } = await makeBackup();
    const stood = await readStudy(id);
    await changeStudy(id, 2, [edit(stood.study, ["trials", "t0"], null)], "took one out", "Berta");
    const { studies, before } = await restoreBackup(name, [id], "Cleo");
    expect(before).toBeUndefined();
    expect(studies).toHaveLength(1);
    expect(studies[0].id).not.toBe(id);
    const beside = await readStudy(studies[0].id);
    expect(beside.study).toEqual({ ...stood.study, title: studies[0].title });
    expect(studies[0].title).toMatch(/^Beside \(as of \d{4}-\d\d-\d\d\)$/);
    expect((await readStudy(id)).study.trials).toHaveLength(19);
    const { events, marks } = await listHistory(beside.id, {});
    expect(events.map((e) => [e.revision, e.who, e.what])).toEqual([
      [3, "Cleo", "restored from a backup"],
      [2, "Ada", "corrected"],
      [1, "Ada", "opened from file"],
    ]);
    expect(marks?.map((m) => m.name)).toEqual(["all run"]);
    expect(marks?.[0].id).not.toBe((await listMarks(id))[0].id);
    expect((await pastStudy(beside.id, 1)).study.trials[3].results.y).toBe(3);
  });
  it("puts no study beside others where one asked for is not in it", async () => {
    const { id } = await furnish("None");
    const { name } = await makeBackup();
    const now = await standing();
    expect(await codeOf(restoreBackup(name, [id, "not-there"], ""))).toEqual([422, "not-in-backup"]);
    expect(await standing()).toEqual(now);
  });
  it("made by an older version is brought up to date on the way, and itself left as it is", async () => {
    const { id } = await furnish("Older");
    const { name } = await makeBackup();
    const old = join(backups, "old.sqlite");
    copyFileSync(join(backups, name), old);
    const db = new DatabaseFile(old);
    for (const sql of [
      "DROP TABLE leases",
      "DROP TABLE lending",
      "DROP TABLE benchKeys",
      "DROP TABLE sessions",
      "DROP TABLE marks",
      "DROP TABLE spent",
      "DROP TABLE settings",
      "DROP INDEX events_in_order",
      "UPDATE events SET who = 'x7tab' WHERE who <> ''",
      // As it was after its second step.
      ...migrations.slice(2).map(({ name }) => `DELETE FROM SequelizeMeta WHERE name = '${name}'`),
    ])
      await db.run(sql);
    await db.close();
    const bytes = readFileSync(old);
    await restoreBackup("old.sqlite", undefined, "");
    expect((await readStudy(id)).study.title).toBe("Older");
    expect((await listHistory(id, {})).people).toEqual([""]);
    expect(readFileSync(old).equals(bytes)).toBe(true);
  });
  it("saved as a file comes back as one", async () => {
    const { name } = await makeBackup();
    const bytes = await saved(name);
    await removeBackup(name);
    expect((await listBackups()).some((b) => b.name === name)).toBe(false);
    const brought = await bringBackup(sent(bytes), "backup.sqlite");
    expect(await dump(join(backups, brought.name))).toEqual(await standing());
  });
});

describe("what is no backup, or not a whole one", () => {
  it("is refused in a sentence, and nothing changes", async () => {
    const { name } = await makeBackup();
    const whole = await saved(name);
    const now = await standing();
    const files = readdirSync(backups);
    const newer = join(root, "newer.sqlite");
    writeFileSync(newer, whole);
    const db = new DatabaseFile(newer);
    await db.run("INSERT INTO SequelizeMeta (name) VALUES ('999-later')");
    await db.close();
    const other = join(root, "other.sqlite");
    const another = new DatabaseFile(other);
    await another.run("CREATE TABLE things (id)");
    await another.close();
    const scrambled = Buffer.from(whole);
    scrambled.fill(7, 8192, 40_000);
    const cases: [Buffer, [number, string]][] = [
      [Buffer.from(JSON.stringify(study("A file"))), [422, "not-a-backup"]],
      [Buffer.from("order,standard\n1,2\n"), [422, "not-a-backup"]],
      [Buffer.alloc(0), [422, "not-a-backup"]],
      [whole.subarray(0, whole.length / 2), [422, "backup-damaged"]],
      [scrambled, [422, "backup-damaged"]],
      [readFileSync(newer), [422, "backup-newer"]],
      [readFileSync(other), [422, "not-a-backup"]],
    ];
    for (const [bytes, refusal] of cases) expect(await codeOf(bringBackup(sent(bytes), "it"))).toEqual(refusal);
    expect((await refused(bringBackup(sent(cases[0][0]), "wool.json"))).message).toBe(
      "wool.json is a study file, not a backup: open it with “Open a study file” on Home.",
    );
    expect(readdirSync(backups)).toEqual(files);
    // The same where one lies in the folder.
    copyFileSync(newer, join(backups, "newer.sqlite"));
    writeFileSync(join(backups, "cut.sqlite"), whole);
    truncateSync(join(backups, "cut.sqlite"), Math.floor(whole.length / 3));
    for (const restore of [undefined, ["x"]]) {
      expect(await codeOf(restoreBackup("newer.sqlite", restore, ""))).toEqual([422, "backup-newer"]);
      expect(await codeOf(restoreBackup("cut.sqlite", restore, ""))).toEqual([422, "backup-damaged"]);
    }
    expect((await listBackups()).find((b) => b.name === "cut.sqlite")?.studies ?? null).toBeNull();
    for (const name of ["none.sqlite", "../trialmoor.sqlite", "a/b.sqlite", ""])
      expect(await codeOf(restoreBackup(name, undefined, ""))).toEqual([404, "no-backup"]);
    expect(await standing()).toEqual(now);
    for (const name of ["newer.sqlite", "cut.sqlite"]) rmSync(join(backups, name));
  });
  it("written by hand it is looked over before anything of it is believed: what fails is named, nothing of it is taken", async () => {
    const { id } = await furnish("Believed");
    const { name } = await makeBackup();
    const now = await standing();
    const files = readdirSync(backups);
    const endless = "WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r)";
    const cases: [what: string, sql: string[], code: string, said: RegExp][] = [
      ["facts", ["UPDATE studies SET facts = x'00'"], "backup-rows", /studies/],
      ["a time", ["UPDATE studies SET deletedAt = 'x'"], "backup-rows", /studies/],
      ["a title", ["UPDATE studies SET title = x'00ff'"], "backup-rows", /studies/],
      ["a table less", ["DROP TABLE marks"], "backup-damaged", /damaged/],
      ["a column less", ["ALTER TABLE studies DROP COLUMN facts"], "backup-foreign", /table studies/],
      ["marks of migrations", ["DELETE FROM SequelizeMeta"], "backup-damaged", /damaged/],
      ["edits", ["UPDATE events SET edits = '5'"], "backup-studies", /log at revision/],
      ["edits of another kind", ["UPDATE events SET edits = '[{\"path\": 3}]'"], "backup-studies", /log at revision/],
      [
        "a document",
        [`UPDATE trials SET document = '{' WHERE studyId = '${id}'`],
        "backup-studies",
        /“Believed”: a row/,
      ],
      [
        "a study",
        [`UPDATE waves SET document = '{"id": 7}' WHERE studyId = '${id}'`],
        "backup-studies",
        /“Believed”: /,
      ],
      [
        "an endless view",
        ["DROP TABLE events", `CREATE VIEW events AS ${endless} SELECT n AS id FROM r`],
        "backup-foreign",
        /view events/,
      ],
      [
        "an endless list",
        ["DROP TABLE SequelizeMeta", `CREATE VIEW SequelizeMeta AS ${endless} SELECT n AS name FROM r`],
        "not-a-backup",
        /no backup/,
      ],
      [
        "a column worked out",
        ["ALTER TABLE marks ADD COLUMN big TEXT AS (printf('%.*c', 999999999, 'x'))"],
        "backup-foreign",
        /table marks/,
      ],
      [
        "a trigger",
        ["CREATE TRIGGER t AFTER UPDATE ON studies BEGIN DELETE FROM events; END"],
        "backup-foreign",
        /trigger t/,
      ],
      ["a table more", ["CREATE TABLE things (id)"], "backup-foreign", /table things/],
      ["an index over a sum", ["CREATE INDEX odd ON studies (length(document))"], "backup-foreign", /index odd/],
    ];
    for (const [what, statements, code, said] of cases) {
      const path = join(root, "hostile.sqlite");
      writeFileSync(path, await saved(name));
      const db = new DatabaseFile(path);
      for (const sql of statements) await db.run(sql);
      await db.close();
      const problem = await refused(bringBackup(sent(readFileSync(path)), "it")).catch((error: Error) => {
        throw new Error(`${what}: ${error.message}`);
      });
      expect([what, problem.status, problem.code]).toEqual([what, 422, code]);
      expect(problem.message, what).toMatch(said);
      // The same where somebody put it into the folder; one way in is looked over like the other.
      if (!/view|edits/.test(what)) continue;
      copyFileSync(path, join(backups, "hostile.sqlite"));
      for (const ids of [undefined, [id]])
        expect((await refused(restoreBackup("hostile.sqlite", ids, ""))).code, what).toBe(code);
      expect((await refused(lookInto("hostile.sqlite"))).code, what).toBe(code);
      expect((await listBackups()).some((b) => b.name === "hostile.sqlite")).toBe(true);
      rmSync(join(backups, "hostile.sqlite"));
    }
    expect(readdirSync(backups)).toEqual(files);
    expect(await standing()).toEqual(now);
  });
  it("facts that are no JSON are worked out anew, and a study that was damaged already comes back as one", async () => {
    const { id } = await furnish("Facts");
    const { id: bad } = await furnish("Was damaged");
    const { name } = await makeBackup();
    const path = join(backups, "facts.sqlite");
    copyFileSync(join(backups, name), path);
    const db = new DatabaseFile(path);
    await db.run("UPDATE studies SET facts = '{'");
    await db.run(`UPDATE trials SET document = '{' WHERE studyId = '${bad}'`);
    await db.run(`UPDATE studies SET damage = 'a row of it is damaged' WHERE id = '${bad}'`);
    await db.close();
    const then = (await listStudies()).find((s) => s.id === id);
    await restoreBackup("facts.sqlite", undefined, "");
    expect((await listStudies()).find((s) => s.id === id)).toEqual(then);
    expect((await listStudies()).find((s) => s.id === bad)).toMatchObject({ damage: "a row of it is damaged" });
    await restoreBackup(name, undefined, "");
    rmSync(path);
  });
  it("a row that was damaged here never takes Home or a history with it", async () => {
    const { id } = await furnish("Damaged here");
    const { name } = await makeBackup();
    const { sequelize } = await database();
    await sequelize.query("UPDATE studies SET facts = '{', title = x'00ff' WHERE id = $id", { bind: { id } });
    await sequelize.query("UPDATE events SET edits = '5' WHERE studyId = $id", { bind: { id } });
    await sequelize.query("UPDATE studies SET deletedAt = 'x' WHERE deletedAt IS NOT NULL");
    expect((await listStudies()).find((s) => s.id === id)?.trail).toHaveLength(6);
    expect((await listHistory(id, {})).events.map((e) => e.changes)).toEqual([[], []]);
    expect((await listDeleted()).length).toBeGreaterThan(0);
    await restoreBackup(name, undefined, "");
  });
  it("a link in the folder is not followed, and folder and files are their owner's alone", async () => {
    const elsewhere = join(root, "elsewhere.txt");
    writeFileSync(elsewhere, "of somebody else");
    symlinkSync(elsewhere, join(backups, "link.sqlite"));
    for (const act of [readBackup, removeBackup, lookInto])
      expect(await codeOf(act("link.sqlite"))).toEqual([422, "backup-link"]);
    expect(await codeOf(restoreBackup("link.sqlite", undefined, ""))).toEqual([422, "backup-link"]);
    expect((await listBackups()).map((b) => b.name)).not.toContain("link.sqlite");
    rmSync(join(backups, "link.sqlite"));
    const { name } = await makeBackup();
    const brought = await bringBackup(sent(await saved(name)), "it");
    expect(statSync(backups).mode & 0o777).toBe(0o700);
    for (const n of [name, brought.name]) expect(statSync(join(backups, n)).mode & 0o777).toBe(0o600);
  });
  it("a folder that cannot be written is named", async () => {
    const file = join(root, "a-file");
    writeFileSync(file, "");
    process.env.TRIALMOOR_BACKUPS = join(file, "below");
    try {
      expect(await codeOf(makeBackup())).toEqual([503, "backup-folder"]);
    } finally {
      delete process.env.TRIALMOOR_BACKUPS;
    }
  });
  // Only root can mount a disk that is full.
  it.skipIf(process.getuid?.() !== 0)("a disk that fills up is named, and everything stands as it stood", async () => {
    const { name } = await makeBackup();
    const [{ id }] = await importFile(study("Since"), "");
    const small = join(root, "small");
    mkdirSync(small);
    expect(spawnSync("mount", ["-t", "tmpfs", "-o", "size=64k", "tmpfs", small]).status).toBe(0);
    const kept = join(backups, name);
    const now = await standing();
    process.env.TRIALMOOR_BACKUPS = small;
    try {
      expect(await codeOf(makeBackup())).toEqual([507, "backup-disk-full"]);
      expect(await codeOf(bringBackup(sent(readFileSync(kept)), "it"))).toEqual([507, "backup-disk-full"]);
      expect(readdirSync(small)).toEqual([]);
    } finally {
      spawnSync("umount", [small]);
      delete process.env.TRIALMOOR_BACKUPS;
    }
    expect(await standing()).toEqual(now);
    expect((await readStudy(id)).study.title).toBe("Since");
  });
});

describe("restoring while others work", () => {
  it("what was acknowledged before it stands in the backup made of it, and what comes after rests on what it brought", async () => {
    const { id } = await furnish("Busy");
    const { name } = await makeBackup();
    const { study: stood } = await readStudy(id);
    let revision = 2;
    let over = false;
    const done: [revision: number, title: string][] = [];
    // One after another while the restore is on its way, each on the revision that the last one made.
    const writing = (async () => {
      for (let n = 0; !over; n++) {
        const { study: now } = await readStudy(id);
        const made = await changeStudy(id, revision, [edit(now, ["title"], `Busy ${n}`)], "renamed", "").catch(
          () => undefined,
        );
        if (made) done.push([made.revision, made.study.title]);
        revision = made?.revision ?? (await readStudy(id)).revision;
      }
    })();
    while (done.length < 3) await new Promise((next) => setTimeout(next, 5));
    const { before } = await restoreBackup(name, undefined, "");
    const acknowledged = [...done];
    over = true;
    await writing;
    const held = (await lookInto(before as string)).find((s) => s.id === id);
    const last = acknowledged.filter(([r]) => r <= (held?.revision ?? 0)).at(-1);
    expect([held?.revision, held?.title]).toEqual(last);
    // None of them is in neither: the next revision was given out after the restore, on what it brought.
    const after = acknowledged.filter(([r]) => r > (held?.revision ?? 0));
    const events = (await listHistory(id, {})).events.map((e) => e.revision);
    for (const [r] of after) expect(events).toContain(r);
    for (const [r] of acknowledged.filter(([r]) => r <= (held?.revision ?? 0))) expect(events).not.toContain(r);
    expect((await pastStudy(id, 2)).study).toEqual(stood);
  });
  it(`killed ${KILLS} times midway it is all or nothing, table by table`, {
    timeout: 200_000 + KILLS * 20_000,
  }, async () => {
    const place = join(root, "killed");
    // Bundled once: compiled at each of its starts, it would take longer to start than to restore.
    const restorer = join(process.cwd(), "dist/restorer.mjs");
    buildSync({
      entryPoints: ["src/server/testing/restorer.ts"],
      outfile: restorer,
      bundle: true,
      platform: "node",
      format: "esm",
      packages: "external",
      logLevel: "error",
    });
    const { id } = await furnish("Killed");
    for (let i = 0; i < 30; i++) await importFile(study(`Many ${i}`, 200), "Ada");
    const { name } = await makeBackup();
    const { study: stood } = await readStudy(id);
    await changeStudy(id, 2, [edit(stood, ["title"], "Changed since")], "renamed", "");
    const now = await standing();
    const then = await dump(join(backups, name));
    let kept = 0;
    const db = await database();
    await db.alone((handle) => handle.all("PRAGMA wal_checkpoint(TRUNCATE)"));
    const run = async (killAfter?: number): Promise<number> => {
      await emptied(place);
      mkdirSync(join(place, "backups"), { recursive: true });
      cpSync(join(folder, "trialmoor.sqlite"), join(place, "trialmoor.sqlite"));
      copyFileSync(join(backups, name), join(place, "backups", name));
      const child = spawn(process.execPath, [restorer, name], {
        env: { ...process.env, TRIALMOOR_DATA: place },
        stdio: ["ignore", "pipe", "inherit"],
      });
      let begun = 0;
      child.stdout.on("data", (text: Buffer) => {
        if (begun > 0 || !text.toString().includes("ready")) return;
        begun = performance.now();
        if (killAfter !== undefined) setTimeout(() => child.kill("SIGKILL"), killAfter);
      });
      await new Promise((done) => child.once("exit", done));
      return performance.now() - begun;
    };
    const took = await run();
    expect(await dump(join(place, "trialmoor.sqlite"))).toEqual(then);
    for (let i = 0; i < KILLS; i++) {
      await run((took * (i + 0.5)) / KILLS);
      const left = await dump(join(place, "trialmoor.sqlite"));
      if (JSON.stringify(left) === JSON.stringify(then)) continue;
      kept++;
      expect(left).toEqual(now);
    }
    expect(kept).toBeGreaterThan(0);
  });
  it("what a kill left half made is swept away", async () => {
    const parts = [
      join(backups, "asked-x.sqlite.part"),
      join(folder, "restore-1234.part"),
      join(folder, "restore-1234.part-journal"),
    ];
    for (const part of parts) writeFileSync(part, "half");
    writeFileSync(join(backups, "mine.part"), "not ours");
    await sweepParts();
    expect([...parts, join(backups, "mine.part")].map((p) => existsSync(p))).toEqual([false, false, false, true]);
    rmSync(join(backups, "mine.part"));
  });
});

/** The server runs on for so long. */
function runOn(ms: number): void {
  const now = clock.now();
  vi.spyOn(clock, "now").mockImplementation(() => now + ms);
}

describe("what is kept for how long", () => {
  afterAll(() => vi.restoreAllMocks());
  it("a backup made under a clock that was years ahead does not keep the next ones from being made", async () => {
    for (const b of await listBackups()) await removeBackup(b.name);
    await backUpDaily();
    const [made] = await listBackups();
    const ahead = new Date("2090-01-01");
    utimesSync(join(backups, made.name), ahead, ahead);
    await backUpDaily();
    expect((await listBackups()).filter((b) => b.name.startsWith("daily-"))).toHaveLength(2);
  });
  it("one backup a day, seven of them, and none where it is switched off; those asked for stay", async () => {
    for (const b of await listBackups()) await removeBackup(b.name);
    const asked = await makeBackup();
    const start = Date.now();
    for (let day = 0; day < 9; day++) {
      await backUpDaily(start + day * DAY);
      // As if it had been made that day.
      for (const b of await listBackups())
        if (b.name.startsWith("daily-") && Date.parse(b.at) >= start - 1000 && Date.parse(b.at) < start + DAY / 2) {
          const at = new Date(start + day * DAY);
          utimesSync(join(backups, b.name), at, at);
        }
      await backUpDaily(start + (day + 0.5) * DAY);
    }
    const names = (await listBackups()).map((b) => b.name);
    expect(names.filter((n) => n.startsWith("daily-"))).toHaveLength(7);
    expect(names).toContain(asked.name);
    await setRetention({ dailyBackup: false });
    await backUpDaily(start + 30 * DAY);
    expect(await listBackups()).toHaveLength(8);
    expect(await setRetention({ dailyBackup: true })).toEqual({ deletedDays: 90, dailyBackup: true, backupsKept: 7 });
  });
  it("deleted studies for ninety days, or as long as is said, with all that is theirs; finished jobs for seven", async () => {
    const { deleted, id } = await furnish("Kept long enough");
    const db = await database();
    // One reading of the clock: it may be set back a little between two.
    const today = Date.now();
    const job = (name: string, state: string, age: number) => ({
      id: name,
      studyId: id,
      name: "fit",
      state,
      progress: 1,
      text: "",
      answer: null,
      best: null,
      problem: null,
      createdAt: "",
      updatedAt: new Date(today - age * DAY).toISOString(),
    });
    await db.jobs.bulkCreate([job("old", "done", 8), job("young", "done", 6), job("runs", "running", 9)]);
    const [listed] = await listDeleted();
    expect(listed.id).toBe(deleted);
    expect((Date.parse(listed.until) - Date.parse(listed.deletedAt)) / DAY).toBeCloseTo(90, 9);
    await restoreStudy(deleted, "");
    await deleteStudy(deleted, 1, "");
    expect((await prune(today + 89 * DAY)).studies).toBe(0);
    await setRetention({ deletedDays: 30 });
    expect((await readRetention()).deletedDays).toBe(30);
    expect((await prune(today + 29 * DAY)).studies).toBe(0);
    // Found due, and a day later by the clock alone, as one that is set wrong says.
    expect((await prune(today + 31 * DAY)).studies).toBe(0);
    expect((await prune(today + 32 * DAY)).studies).toBe(0);
    runOn(DAY);
    // Set right again it is not due any more; what was found under the wrong clock counts for nothing.
    expect((await prune(today + 29 * DAY)).studies).toBe(0);
    expect((await prune(today + 32 * DAY)).studies).toBe(0);
    runOn(DAY);
    expect((await prune(today + 33 * DAY)).studies).toBeGreaterThan(0);
    expect(await listDeleted()).toEqual([]);
    expect(await db.studies.count({ where: { id: deleted } })).toBe(0);
    expect(await db.trials.count({ where: { studyId: deleted } })).toBe(0);
    expect(await db.events.count({ where: { studyId: deleted } })).toBe(0);
    expect(await codeOf(restoreStudy(deleted, ""))).toEqual([404, "no-study"]);
    expect((await db.jobs.findAll({ raw: true })).map((j) => (j as unknown as { id: string }).id)).toEqual(["runs"]);
    await setRetention({ deletedDays: 90 });
  });
  it("the database file comes down to within a fifth of what lives in it", async () => {
    const db = await database();
    const pages = async (): Promise<[all: number, free: number]> =>
      db.alone(async (handle) => {
        const one = async (name: string): Promise<number> =>
          Object.values((await handle.all<Record<string, number>>(`PRAGMA ${name}`))[0])[0];
        return [await one("page_count"), await one("freelist_count")];
      });
    const made = await importFile(study("Large", 5000), "");
    await deleteStudy(made[0].id, 1, "");
    const today = Date.now();
    await prune(today + 91 * DAY);
    runOn(DAY);
    await prune(today + 92 * DAY);
    const [all, free] = await pages();
    expect(free / all).toBeGreaterThan(1 / 6);
    expect(await compact()).toBe(true);
    const [after, left] = await pages();
    expect(after).toBeLessThan(all);
    expect(after / (after - left)).toBeLessThan(1.2);
    expect(await compact()).toBe(false);
  });
});
