import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { openFolder } from "./folder";
import { migrations } from "./migrations";
import { certificate } from "./testing/certificate";
import { DatabaseFile } from "./testing/sqlite";

// A start that fails ends before it listens, so these run the bundled server without a built application.
const root = mkdtempSync(join(tmpdir(), "trialmoor-start-"));
const whole = join(root, "whole");
const server = join(process.cwd(), "dist/serve.mjs");
const asRoot = process.getuid?.() === 0;
let count = 0;

interface Ended {
  code: number | null;
  said: string;
}
/** Starts the server on a folder and waits until it ends; one that goes on is ended after a while. */
function start(folder: string, env: Record<string, string> = {}, uid?: number): Ended {
  const { status, stderr } = spawnSync(process.execPath, [server], {
    encoding: "utf8",
    timeout: 120_000,
    env: { ...process.env, TRIALMOOR_DATA: folder, PORT: "4299", NODE_ENV: "production", LOG_LEVEL: "silent", ...env },
    ...(uid === undefined ? {} : { uid, gid: uid }),
  });
  return { code: status, said: stderr.trim() };
}
/** A copy of a folder with a study in it. */
function copy(): string {
  const folder = join(root, `copy-${count++}`);
  mkdirSync(folder);
  for (const name of readdirSync(whole)) copyFileSync(join(whole, name), join(folder, name));
  return folder;
}
/** Ends with exit 1, by itself, and one sentence that names the folder. */
function refusedAs(ended: Ended, folder: string, cause: RegExp): void {
  expect(ended.code).toBe(1);
  expect(ended.said.split("\n")).toHaveLength(1);
  expect(ended.said).toContain(folder);
  expect(ended.said).toMatch(cause);
  // The last sentence is the way out.
  expect(ended.said).toMatch(/(TRIALMOOR_DATA|start again|start afresh|in its place|Give|Make|Stop|Move)[^.]*\.$/);
}

beforeAll(async () => {
  mkdirSync(whole);
  const held = await openFolder(whole);
  await held.release();
  const db = new DatabaseFile(join(whole, "trialmoor.sqlite"));
  await db.run(
    "INSERT INTO studies (id, title, revision, document, createdAt, updatedAt) VALUES ('s', 'S', 1, '{}', '', '')",
  );
  await db.close();
});
afterAll(() => rmSync(root, { recursive: true, force: true }));

describe("a start that cannot succeed says why, once, and ends", () => {
  it("no database in the file", () => {
    const folder = copy();
    writeFileSync(
      join(folder, "trialmoor.sqlite"),
      "not a database at all, but long enough to be read as one".repeat(80),
    );
    refusedAs(start(folder), folder, /not a database, or is scrambled/);
  });
  it("a truncated one", () => {
    const folder = copy();
    truncateSync(join(folder, "trialmoor.sqlite"), 8192);
    refusedAs(start(folder), folder, /damaged|not a database/);
    const empty = copy();
    truncateSync(join(empty, "trialmoor.sqlite"), 0);
    refusedAs(start(empty), empty, /is empty, though studies were kept/);
  });
  it("a scrambled one", () => {
    const folder = copy();
    const path = join(folder, "trialmoor.sqlite");
    const bytes = readFileSync(path);
    for (let i = 100; i < bytes.length; i += 3) bytes[i] ^= 0x5a;
    writeFileSync(path, bytes);
    refusedAs(start(folder), folder, /damaged|not a database/);
  });
  it("one that is gone", () => {
    const folder = copy();
    rmSync(join(folder, "trialmoor.sqlite"));
    refusedAs(start(folder), folder, /is gone, though studies were kept/);
  });
  it("a folder that is a file, or cannot be made", () => {
    const file = join(root, "a-file");
    writeFileSync(file, "x");
    refusedAs(start(file), file, /is a file, not a folder/);
    refusedAs(start(join(file, "below")), join(file, "below"), /not there and cannot be made/);
    refusedAs(start("/proc/trialmoor"), "/proc/trialmoor", /not there and cannot be made/);
  });
  it.runIf(asRoot)("a folder, or a file in it, that may not be written", () => {
    const folder = copy();
    // Owned by another user, and read by all.
    spawnSync("chmod", ["-R", "a+rX", root]);
    refusedAs(start(folder, {}, 65534), folder, /may not be written by this user/);
    const file = copy();
    spawnSync("chmod", ["777", file]);
    spawnSync("chmod", ["444", join(file, "trialmoor.sqlite")]);
    for (const name of ["trialmoor.lock", "trialmoor.holder.json"]) spawnSync("chmod", ["666", join(file, name)]);
    refusedAs(start(file, {}, 65534), file, /may not be written|cannot be opened/);
  });
  it.runIf(asRoot)("a full disk at the first start", () => {
    const folder = join(root, "full");
    mkdirSync(folder);
    const { status } = spawnSync("mount", ["-t", "tmpfs", "-o", "size=48k", "tmpfs", folder]);
    // Where nothing may be mounted, the sentence of SQLite's own code stands in unit form below.
    if (status !== 0) return;
    try {
      refusedAs(start(folder), folder, /disk is full/);
    } finally {
      spawnSync("umount", [folder]);
    }
  });
  it("a database of a newer version, which is left as it is", async () => {
    const folder = copy();
    const db = new DatabaseFile(join(folder, "trialmoor.sqlite"));
    await db.run("INSERT INTO SequelizeMeta (name) VALUES ('999-later')");
    await db.close();
    const before = readFileSync(join(folder, "trialmoor.sqlite"));
    refusedAs(start(folder), folder, /newer version of Trialmoor \(999-later\)/);
    expect(readFileSync(join(folder, "trialmoor.sqlite")).equals(before)).toBe(true);
  });
  it("a folder that another server holds, by its process", async () => {
    const folder = copy();
    const held = await openFolder(folder);
    try {
      refusedAs(start(folder), folder, new RegExp(`held by another Trialmoor \\(process ${process.pid}, since 20`));
    } finally {
      await held.release();
    }
    // Let go, it can be held again.
    await (await openFolder(folder)).release();
  });
  it("a port that is none", () => {
    const { code, said } = start(copy(), { PORT: "99999" });
    expect([code, said]).toEqual([1, "PORT is 99999; give a number from 1 to 65535."]);
  });
});

describe("a server that others shall reach ends before it listens where somebody could read along or walk in", () => {
  const tls = certificate(join(root, "tls"), "plant.test");
  const encrypted = { TRIALMOOR_TLS_KEY: tls.key, TRIALMOOR_TLS_CERT: tls.cert };
  const reached = { TRIALMOOR_HOST: "0.0.0.0", TRIALMOOR_NAMES: "plant.test" };
  it.each([
    ["without encryption", reached, /TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT, or TRIALMOOR_PROXY=1/],
    ["without a name", { TRIALMOOR_HOST: "0.0.0.0", ...encrypted }, /set TRIALMOOR_NAMES/],
    ["without a passphrase", { ...reached, ...encrypted }, /Set one with npm run passphrase\.$/],
    [
      "behind a proxy without a passphrase",
      { TRIALMOOR_PROXY: "1", TRIALMOOR_NAMES: "plant.test" },
      /npm run passphrase/,
    ],
    ["with half of what encrypts", { ...reached, TRIALMOOR_TLS_CERT: tls.cert }, /go together/],
  ])("%s", (_name, env: Record<string, string>, sentence) => {
    const { code, said } = start(copy(), env);
    expect([code, said.split("\n").length]).toEqual([1, 1]);
    expect(said).toMatch(sentence);
  });
  it("with a passphrase that cannot be read", () => {
    const folder = copy();
    writeFileSync(join(folder, "passphrase.json"), "{");
    const { code, said } = start(folder, { ...reached, ...encrypted });
    expect([code, said]).toEqual([
      1,
      `${join(folder, "passphrase.json")} is damaged or may not be read, so nobody could sign in. Set the passphrase anew with npm run passphrase.`,
    ]);
  });
  it("and the command that sets one refuses a short one, and says what it did", () => {
    const folder = copy();
    const set = (typed: string): [number | null, string] => {
      const { status, stdout, stderr } = spawnSync(process.execPath, [join(process.cwd(), "dist/passphrase.mjs")], {
        encoding: "utf8",
        input: `${typed}\n`,
        env: { ...process.env, TRIALMOOR_DATA: folder },
      });
      return [status, (stdout + stderr).trim()];
    };
    const short = "A passphrase has at least 12 characters; nothing was set. Several words make a good one.";
    expect(set("heather")).toEqual([1, short]);
    expect(existsSync(join(folder, "passphrase.json"))).toBe(false);
    expect(set("heather on the moor")).toEqual([0, "The passphrase is set. Whoever was signed in signs in again."]);
    expect(existsSync(join(folder, "passphrase.json"))).toBe(true);
  });
});

describe("migrations", () => {
  it("of an older database keep a copy of it, and what it held", async () => {
    const folder = join(root, "older");
    mkdirSync(folder);
    const old = new DatabaseFile(join(folder, "trialmoor.sqlite"));
    for (const sql of migrations[0].statements) await old.run(sql);
    await old.run("CREATE TABLE SequelizeMeta (name VARCHAR(255) NOT NULL UNIQUE PRIMARY KEY)");
    await old.run("INSERT INTO SequelizeMeta (name) VALUES ('001-studies')");
    await old.run(
      "INSERT INTO studies (id, title, revision, document, createdAt, updatedAt) VALUES ('s', 'Kept', 7, '{}', '', '')",
    );
    await old.close();
    await (await openFolder(folder)).release();
    const now = new DatabaseFile(join(folder, "trialmoor.sqlite"));
    expect(await now.all("SELECT title, revision, facts FROM studies")).toEqual([
      { title: "Kept", revision: 7, facts: null },
    ]);
    expect(await now.all("SELECT name FROM SequelizeMeta ORDER BY name")).toEqual(
      migrations.map(({ name }) => ({ name })),
    );
    await now.close();
    const kept = new DatabaseFile(join(folder, "before-002-facts.sqlite"));
    expect(await kept.all("SELECT title FROM studies")).toEqual([{ title: "Kept" }]);
    await expect(kept.all("SELECT facts FROM studies")).rejects.toThrow(/no such column/);
    await kept.close();
  });
  const KILLS = Number(process.env.SOAK_KILLS ?? 8);
  it(`killed ${KILLS} times midway start again each time, marks and tables together`, {
    timeout: 120_000 + KILLS * 8000,
  }, async () => {
    const folder = join(root, "killed");
    for (let k = 0; k < KILLS; k++) {
      rmSync(folder, { recursive: true, force: true });
      const child: ChildProcess = spawn(process.execPath, [server], {
        stdio: "ignore",
        env: { ...process.env, TRIALMOOR_DATA: folder, PORT: "4299", NODE_ENV: "production" },
      });
      const database = join(folder, "trialmoor.sqlite");
      // From the moment the file is there, the kill comes a little later each time.
      for (let i = 0; i < 4000 && !existsSync(database); i++) await new Promise((r) => setTimeout(r, 1));
      await new Promise((r) => setTimeout(r, (k * 40) / KILLS));
      const ended = new Promise((r) => child.once("exit", r));
      child.kill("SIGKILL");
      await ended;
      await (await openFolder(folder)).release();
      const db = new DatabaseFile(database);
      expect((await db.all("SELECT name FROM SequelizeMeta")).length).toBe(migrations.length);
      expect(await db.all("SELECT facts, damage FROM studies LIMIT 1")).toBeDefined();
      await db.close();
    }
  });
});
