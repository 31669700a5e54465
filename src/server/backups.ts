import { randomBytes } from "node:crypto";
import { createReadStream, createWriteStream } from "node:fs";
import { chmod, copyFile, lstat, mkdir, open, readdir, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream as NodeStream } from "node:stream/web";
import * as z from "zod";
import { apart } from "./apart";
import { database } from "./database";
import { forgetLeases } from "./held-leases";
import { Problem } from "./problem";
import { Handle } from "./sqlite";

/** Why a backup was made: asked for, by the clock, before everything was restored, or brought as a file. */
export type BackupKind = "asked" | "daily" | "before-restore" | "brought";

/** A backup in the folder. */
export interface Backup {
  name: string;
  at: string;
  bytes: number;
  /** How many it holds, deleted ones left out; null where it cannot be read. */
  studies: number | null;
}

/** A study in a backup, beside what stands of it now. */
export interface BackedUp {
  id: string;
  title: string;
  revision: number;
  updatedAt: string;
  deletedAt: string | null;
  /** The study of the same id as it stands; null where there is none. */
  now: { title: string; revision: number; updatedAt: string; deletedAt: string | null } | null;
}

/** What a restore is asked for. */
export const restoreSchema = z.strictObject({
  studies: z
    .array(z.string().max(64))
    .min(1)
    .max(5000)
    .optional()
    .describe("ids of studies to be put beside what stands; everything, in place of what stands, unless said"),
});

export interface Restored {
  /** Those that came beside what stands, under ids of their own. */
  studies: { id: string; title: string }[];
  /** The backup that was made of what stood before. */
  before?: string;
}

/** Tables that a backup brings back. What the server is told, and who may use it, stays with the server. */
const TABLES = ["studies", "waves", "trials", "results", "events", "marks", "jobs", "requests"];

const NAME = /^[\w.-]{1,120}\.sqlite$/;
const PART = ".part";

/** The folder that backups are kept in. */
export async function backupFolder(): Promise<string> {
  return process.env.TRIALMOOR_BACKUPS ?? join((await database()).folder, "backups");
}

const codeOf = (error: unknown): string => (error as { code?: string }).code ?? "";

/** What an error of the folder's disk says. */
function folderProblem(folder: string, error: unknown): unknown {
  const code = codeOf(error);
  if (["ENOSPC", "SQLITE_FULL"].includes(code)) return new Problem("backup-disk-full", { folder });
  if (["EACCES", "EPERM", "EROFS", "ENOTDIR", "EEXIST", "SQLITE_READONLY", "SQLITE_CANTOPEN"].includes(code))
    return new Problem("backup-folder", { folder });
  return error;
}

/** Files that their owner alone reads. */
const OWNER = 0o600;

/** Makes the folder of backups where it is not there, for its owner alone. */
async function ownFolder(folder: string): Promise<void> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  // One that was chosen keeps what was decided for it.
  if (process.env.TRIALMOOR_BACKUPS === undefined) await chmod(folder, 0o700);
}

/** Writes a file to its disk and gives it its name, so that a name always holds a whole backup. */
async function settle(part: string, whole: string): Promise<void> {
  for (const path of [part, join(part, "..")]) {
    const handle = await open(/* turbopackIgnore: true */ path, "r");
    await handle.sync().finally(() => handle.close());
    if (path === part) await rename(part, whole);
  }
}

/** Who may come in stays with the server: it is taken out of a copy, its bytes too. */
async function withoutAccess(path: string): Promise<void> {
  const copy = await Handle.open(path);
  await copy
    .exec("PRAGMA secure_delete = ON; DELETE FROM sessions; DELETE FROM benchKeys; PRAGMA journal_mode = DELETE;")
    .finally(() => copy.close());
}

/**
 * Writes a backup from a handle that nothing else writes beside.
 * @throws Problem `backup-folder`, `backup-disk-full`
 */
async function writeBackup(handle: Handle, folder: string, kind: BackupKind): Promise<string> {
  const name = `${kind}-${new Date().toISOString().replaceAll(":", "-")}.sqlite`;
  const part = join(folder, `${name}${PART}`);
  try {
    await ownFolder(folder);
    await handle.all("VACUUM INTO ?", [part]);
    await chmod(part, OWNER);
    await withoutAccess(part);
    await settle(part, join(folder, name));
    return name;
  } catch (error) {
    // Where even this fails, the first failure is what is told; the next start sweeps.
    await rm(part, { force: true }).catch(() => undefined);
    throw folderProblem(folder, error);
  }
}

/**
 * Backs up everything: studies with their ids, revisions, log, marks and deleted ones.
 * @throws Problem `backup-folder`, `backup-disk-full`
 */
export async function makeBackup(kind: BackupKind = "asked"): Promise<{ name: string }> {
  const folder = await backupFolder();
  const db = await database();
  return { name: await db.alone((handle) => writeBackup(handle, folder, kind)) };
}

/** Where a backup is kept. @throws Problem `no-backup`, `backup-link` */
async function pathOf(name: string): Promise<string> {
  const path = join(await backupFolder(), name);
  const found = NAME.test(name) ? await lstat(path).catch(() => undefined) : undefined;
  // What a link leads to is none of ours to read, send or delete.
  if (found?.isSymbolicLink()) throw new Problem("backup-link", { name }, { path: ["name"] });
  if (!found?.isFile()) throw new Problem("no-backup", { name }, { path: ["name"] });
  return path;
}

/**
 * Copies a backup, looks the copy over and brings it to the present shape, for as long as some work takes.
 * @param name what refusals call it
 * @throws Problem `not-a-backup`, `backup-foreign`, `backup-damaged`, `backup-newer`, `backup-rows`, `backup-studies`
 */
async function prepared<T>(path: string, name: string, work: (copy: string) => Promise<T>): Promise<T> {
  const file = await open(path, "r");
  const head = Buffer.alloc(16);
  await file.read(head, 0, 16, 0).finally(() => file.close());
  if (head.toString("latin1") !== "SQLite format 3\0") {
    const text = head.toString("utf8").trimStart();
    throw new Problem(text.startsWith("{") ? "not-a-backup.study" : "not-a-backup", { name });
  }
  const copy = join((await database()).folder, `restore-${randomBytes(4).toString("hex")}${PART}`);
  try {
    await copyFile(path, copy);
    await apart("backup", { path: copy, name });
    return await work(copy);
  } catch (error) {
    throw ["ENOSPC", "SQLITE_FULL"].includes(codeOf(error)) ? new Problem("disk-full", {}) : error;
  } finally {
    for (const beside of ["", "-journal", "-wal", "-shm"]) await rm(`${copy}${beside}`, { force: true });
  }
}

/** What is known of files that have not changed since they were last looked into. */
const known = new Map<string, number | null>();

async function studiesIn(path: string, stamp: string): Promise<number | null> {
  const before = known.get(stamp);
  if (before !== undefined) return before;
  const count = await (async (): Promise<number | null> => {
    const handle = await Handle.open(path, true);
    try {
      // A view of that name may go on for ever.
      const [table] = await handle.all(
        "SELECT 1 FROM sqlite_master WHERE name = 'studies' AND sql LIKE 'CREATE TABLE%'",
      );
      if (!table) return null;
      return (await handle.all<{ n: number }>("SELECT count(*) AS n FROM studies WHERE deletedAt IS NULL"))[0].n;
    } finally {
      await handle.close();
    }
  })().catch((error: unknown) => {
    if (codeOf(error).startsWith("SQLITE_")) return null;
    throw error;
  });
  known.set(stamp, count);
  return count;
}

/** All backups in the folder, the newest first. */
export async function listBackups(): Promise<Backup[]> {
  const folder = await backupFolder();
  const names = await readdir(/* turbopackIgnore: true */ folder).catch((error: unknown) => {
    if (codeOf(error) === "ENOENT") return [];
    throw folderProblem(folder, error);
  });
  const out: Backup[] = [];
  for (const name of names.filter((n) => NAME.test(n))) {
    const path = join(folder, name);
    const found = await lstat(path);
    if (!found.isFile()) continue;
    const { mtime, size } = found;
    const studies = await studiesIn(path, `${path} ${mtime.getTime()} ${size}`);
    out.push({ name, at: mtime.toISOString(), bytes: size, studies });
  }
  return out.sort((a, b) => (a.at < b.at ? 1 : -1));
}

/** A backup as bytes, to be saved elsewhere. @throws Problem `no-backup` */
export async function readBackup(name: string): Promise<{ bytes: number; stream: ReadableStream }> {
  const path = await pathOf(name);
  const { size } = await stat(path);
  return { bytes: size, stream: Readable.toWeb(createReadStream(path)) as ReadableStream };
}

/** Deletes a backup. @throws Problem `no-backup` */
export async function removeBackup(name: string): Promise<{ name: string }> {
  await rm(await pathOf(name));
  return { name };
}

/**
 * Puts a backup that was saved elsewhere into the folder.
 * @throws Problem `backup-folder`, `backup-disk-full`, and as it is looked over
 */
export async function bringBackup(body: ReadableStream | null, called: string): Promise<{ name: string }> {
  const folder = await backupFolder();
  const name = `brought-${new Date().toISOString().replaceAll(":", "-")}.sqlite`;
  const part = join(folder, `${name}${PART}`);
  try {
    await ownFolder(folder);
    const to = createWriteStream(part, { mode: OWNER });
    await pipeline(body ? Readable.fromWeb(body as NodeStream) : Readable.from([]), to);
    await prepared(part, called, async () => undefined);
    await settle(part, join(folder, name));
    return { name };
  } catch (error) {
    // Where even this fails, the first failure is what is told; the next start sweeps.
    await rm(part, { force: true }).catch(() => undefined);
    throw folderProblem(folder, error);
  }
}

const SHOWN = "id, title, revision, updatedAt, deletedAt";

/**
 * What a backup holds, beside what stands of it now: shown before anything is restored.
 * @throws Problem `no-backup`, `not-a-backup`, `backup-damaged`, `backup-newer`
 */
export async function lookInto(name: string): Promise<BackedUp[]> {
  const held = await prepared(await pathOf(name), name, async (copy) => {
    const handle = await Handle.open(copy, true);
    return handle
      .all<Omit<BackedUp, "now">>(`SELECT ${SHOWN} FROM studies ORDER BY updatedAt DESC`)
      .finally(() => handle.close());
  });
  const db = await database();
  const rows = (await db.studies.findAll({ attributes: SHOWN.split(", "), raw: true })) as unknown as Omit<
    BackedUp,
    "now"
  >[];
  const standing = new Map(rows.map(({ id, ...row }) => [id, row]));
  return held.map((s) => ({ ...s, now: standing.get(s.id) ?? null }));
}

/** Columns of a table, named: an older file that was brought up to date may hold them in another order. */
const columnsOf = async (handle: Handle, table: string): Promise<string[]> =>
  (await handle.all<{ name: string }>(`PRAGMA main.table_info(${table})`)).map((c) => c.name);

/**
 * Runs work in one transaction with a backup attached: all of it or nothing.
 * @param first what is done before it, while already nothing else writes
 */
async function withBackup<T>(
  path: string,
  work: (handle: Handle) => Promise<T>,
  first: (handle: Handle) => Promise<void> = async () => undefined,
): Promise<T> {
  const db = await database();
  return db.alone(async (handle) => {
    await first(handle);
    await handle.all("ATTACH ? AS old", [path]);
    await handle.exec("BEGIN IMMEDIATE");
    try {
      const done = await work(handle);
      await handle.exec("COMMIT");
      return done;
    } catch (error) {
      await handle.exec("ROLLBACK").catch(() => undefined);
      throw error;
    } finally {
      db.latest.clear();
      forgetLeases();
    }
  });
}

/**
 * Everything as it was when a backup was made; revisions that were given out since are not given out again.
 * @returns the backup of what stood until then: nothing can be written between the two
 */
async function restoreAll(path: string): Promise<string> {
  const folder = await backupFolder();
  let before = "";
  await withBackup(
    path,
    async (handle) => {
      await handle.exec(
        `INSERT INTO main.spent (studyId, revision) SELECT id, revision FROM main.studies WHERE true
          ON CONFLICT (studyId) DO UPDATE SET revision = max(revision, excluded.revision)`,
      );
      // A trial that is lent may be another one afterwards.
      for (const table of ["leases", ...[...TABLES].reverse()]) await handle.exec(`DELETE FROM main.${table}`);
      for (const table of TABLES) {
        const columns = (await columnsOf(handle, table)).join(", ");
        await handle.exec(`INSERT INTO main.${table} (${columns}) SELECT ${columns} FROM old.${table}`);
      }
    },
    async (handle) => {
      before = await writeBackup(handle, folder, "before-restore");
    },
  );
  return before;
}

/** Studies of a backup under new ids, with their log and marks, each saying in its title from when it is. */
const restoreBeside = (path: string, ids: readonly string[], at: string, who: string): Promise<Restored["studies"]> =>
  withBackup(path, async (handle) => {
    const out: Restored["studies"] = [];
    const found = await handle.all<{ id: string; title: string; revision: number }>(
      "SELECT id, title, revision FROM old.studies WHERE id IN (SELECT value FROM json_each(?))",
      [JSON.stringify(ids)],
    );
    const missing = ids.filter((id) => !found.some((s) => s.id === id));
    if (missing.length > 0) throw new Problem("not-in-backup", { studies: missing }, { path: ["studies"] });
    for (const { id, title: was, revision } of found) {
      const made = randomBytes(6).toString("hex");
      const title = `${was.slice(0, 170)} (as of ${at.slice(0, 10)})`;
      const next = revision + 1;
      const now = new Date().toISOString();
      await handle.all(
        `INSERT INTO main.studies (id, title, revision, document, createdAt, updatedAt, deletedAt, facts, damage)
          SELECT ?, ?, ?, json_set(document, '$.title', ?), createdAt, ?, NULL, facts, damage
          FROM old.studies WHERE id = ?`,
        [made, title, next, title, now, id],
      );
      for (const table of ["waves", "trials", "results", "events", "marks"]) {
        // Rows that have a key of their own beside the study's get a new one.
        const own = { events: undefined, marks: "lower(hex(randomblob(6)))" }[table];
        const named = (await columnsOf(handle, table)).filter((c) => !(table === "events" && c === "id"));
        const read = named.map((c) => (c === "studyId" ? "?" : c === "id" && own !== undefined ? own : c));
        const order = table === "events" ? " ORDER BY id" : "";
        await handle.all(
          `INSERT INTO main.${table} (${named.join(", ")}) SELECT ${read.join(", ")} FROM old.${table}
            WHERE studyId = ?${order}`,
          [made, id],
        );
      }
      const edits = JSON.stringify([{ path: ["title"], from: was, to: title }]);
      await handle.all("INSERT INTO main.events (studyId, revision, at, who, what, edits) VALUES (?, ?, ?, ?, ?, ?)", [
        made,
        next,
        now,
        who,
        "restored from a backup",
        edits,
      ]);
      out.push({ id: made, title });
    }
    return out;
  });

/**
 * Restores everything in place of what stands, of which a backup is made first; or single studies beside it. All or
 * nothing.
 * @throws Problem `no-backup`, `not-a-backup`, `backup-damaged`, `backup-newer`, `not-in-backup`, `backup-disk-full`
 */
export async function restoreBackup(name: string, ids: readonly string[] | undefined, who: string): Promise<Restored> {
  const kept = await pathOf(name);
  return prepared(kept, name, async (path) => {
    if (ids) {
      const { mtime } = await stat(kept);
      return { studies: await restoreBeside(path, [...new Set(ids)], mtime.toISOString(), who) };
    }
    return { studies: [], before: await restoreAll(path) };
  });
}

/** What a kill may leave half made, and what SQLite keeps beside such a file. */
const LEFT = /^(restore|asked|daily|before-restore|brought)-.*\.part(-journal|-wal|-shm)?$/;

/** Takes away what a kill left half made. */
export async function sweepParts(): Promise<void> {
  for (const folder of [await backupFolder(), (await database()).folder])
    for (const name of await readdir(/* turbopackIgnore: true */ folder).catch(() => []))
      if (LEFT.test(name)) await rm(join(folder, name), { force: true });
}
