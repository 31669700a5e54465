import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { Umzug } from "umzug";
import { formatMessage, type Message } from "@/core/findings";
import { migrations } from "./migrations";
import { Handle } from "./sqlite";
import { starts } from "./words/english";
import type { StartValues } from "./words/values";

/** Why the server cannot start. */
export class StartError extends Error {
  constructor(...[code, values]: { [C in keyof StartValues]: [code: C, values: StartValues[C]] }[keyof StartValues]) {
    super(formatMessage(starts, { code, values } as Message<StartValues>));
  }
}

interface Coded {
  code?: string;
  message?: string;
}

/** Where everything is kept, as the environment says. */
export const dataFolder = (): string => process.env.TRIALMOOR_DATA ?? join(process.cwd(), "data");

/** A data folder that is held by this process alone, its database checked and up to date. */
export interface DataFolder {
  storage: string;
  /** Lets the folder go, so that another process can hold it. */
  release(): Promise<void>;
}

/** What the holder file says: who holds the folder, and whether a database was ever made in it. */
interface Holder {
  pid: number;
  since: string;
  made: boolean;
}

function readHolder(path: string): Holder | undefined {
  try {
    return JSON.parse(readFileSync(path, "utf8")) as Holder;
  } catch {
    // No holder yet, or a file cut short by a kill: it only names the holder, the lock is what counts.
    return undefined;
  }
}

/** What an error of the disk or of SQLite says of the folder. */
export function startErrorOf(folder: string, error: unknown): StartError {
  const { code, message } = error as Coded;
  switch (code) {
    case "SQLITE_NOTADB":
      return new StartError("no-database", { folder });
    case "SQLITE_CORRUPT":
      return new StartError("damaged", { folder });
    case "SQLITE_FULL":
    case "ENOSPC":
      return new StartError("disk-full", { folder });
    case "SQLITE_READONLY":
    case "EROFS":
    case "EACCES":
    case "EPERM":
      return new StartError("not-allowed", { folder });
    case "SQLITE_CANTOPEN":
      return new StartError("cannot-open", { folder });
    case "ENOENT":
    case "ENOTDIR":
    case "EEXIST":
      return new StartError("cannot-make", { folder });
    default:
      return new StartError("other", { folder, what: `${code ? `${code}, ` : ""}${message ?? String(error)}` });
  }
}

/** Makes a folder and those above it, step by step: node's own way goes on for ever where a system makes none. */
function makeFolder(folder: string): void {
  if (existsSync(folder)) return;
  const above = dirname(folder);
  if (above !== folder) makeFolder(above);
  mkdirSync(folder);
}

/** Holds a folder by SQLite's own exclusive lock on a file of its own; the system lets it go when the process ends. */
async function hold(folder: string, holder: string): Promise<Handle> {
  const lock = await Handle.open(join(folder, "trialmoor.lock"));
  try {
    await lock.exec("PRAGMA locking_mode = EXCLUSIVE; PRAGMA journal_mode = MEMORY; BEGIN EXCLUSIVE;");
    return lock;
  } catch (error) {
    await lock.close();
    if ((error as Coded).code !== "SQLITE_BUSY") throw error;
    const who = readHolder(holder);
    throw new StartError("held", { folder, by: who ?? null });
  }
}

const NAMES_TABLE = "SequelizeMeta";

/** Migrations that a database has seen; none of one that no server made. */
async function seenBy(db: Handle): Promise<string[]> {
  const tables = await db.all<{ name: string }>("SELECT name FROM sqlite_master WHERE type = 'table'");
  return tables.some((t) => t.name === NAMES_TABLE)
    ? (await db.all<{ name: string }>(`SELECT name FROM ${NAMES_TABLE} ORDER BY name`)).map((r) => r.name)
    : [];
}

/** Migrations that a newer version made in a database. */
export async function newerThanHere(db: Handle): Promise<string[]> {
  const known = new Set(migrations.map((m) => m.name));
  return (await seenBy(db)).filter((name) => !known.has(name));
}

/**
 * Brings a database up to date: each migration with its mark in one transaction.
 *
 * @param keep called before the first, with its name, where there is something to keep a copy of
 * @param only those of these names, in place of all
 */
export async function migrate(
  db: Handle,
  keep?: (next: string) => Promise<void>,
  only?: readonly string[],
): Promise<void> {
  const executed = (): Promise<string[]> => seenBy(db);
  const done = await executed();
  const tables = await db.all<{ name: string }>("SELECT name FROM sqlite_master WHERE type = 'table'");
  const next = migrations.find((m) => !done.includes(m.name));
  if (next && tables.some((t) => t.name === "studies")) await keep?.(next.name);
  const umzug = new Umzug({
    migrations: migrations
      .filter((m) => only === undefined || only.includes(m.name))
      .map(({ name, statements }) => ({
        name,
        up: async () => {
          const marked = `INSERT INTO ${NAMES_TABLE} (name) VALUES ('${name}')`;
          try {
            await db.exec(["BEGIN IMMEDIATE", ...statements, marked, "COMMIT"].join(";\n"));
          } catch (error) {
            await db.exec("ROLLBACK").catch(() => undefined);
            throw error;
          }
        },
      })),
    storage: {
      executed,
      // The migration's own transaction writes its mark.
      logMigration: async () => undefined,
      unlogMigration: async () => undefined,
    },
    logger: undefined,
  });
  await db.exec(`CREATE TABLE IF NOT EXISTS ${NAMES_TABLE} (name VARCHAR(255) NOT NULL UNIQUE PRIMARY KEY)`);
  await umzug.up();
}

/**
 * Takes hold of a data folder, checks its database and brings it up to date.
 * @throws StartError with the sentence for whoever starts the server
 */
export async function openFolder(folder: string): Promise<DataFolder> {
  const storage = join(folder, "trialmoor.sqlite");
  const holder = join(folder, "trialmoor.holder.json");
  let lock: Handle | undefined;
  try {
    if (statSync(folder, { throwIfNoEntry: false })?.isDirectory() === false)
      throw new StartError("no-folder", { folder });
    makeFolder(folder);
    lock = await hold(folder, holder);
    const made = readHolder(holder)?.made === true;
    const sign = (made: boolean): void =>
      writeFileSync(holder, JSON.stringify({ pid: process.pid, since: new Date().toISOString(), made }));
    sign(made);
    const size = statSync(storage, { throwIfNoEntry: false })?.size ?? 0;
    if (made && size === 0) throw new StartError("gone-or-empty", { folder, empty: existsSync(storage) });
    const db = await Handle.open(storage);
    try {
      await db.exec("PRAGMA busy_timeout = 2000; PRAGMA journal_mode = WAL;");
      const [{ quick_check: check }] = await db.all<{ quick_check: string }>("PRAGMA quick_check(1)");
      if (check !== "ok") throw Object.assign(new Error(check), { code: "SQLITE_CORRUPT" });
      const unknown = await newerThanHere(db);
      if (unknown.length > 0) throw new StartError("newer", { folder, unknown });
      await migrate(db, async (next) => {
        const copy = join(folder, `before-${next}.sqlite`);
        rmSync(`${copy}.part`, { force: true });
        await db.all("VACUUM INTO ?", [`${copy}.part`]);
        renameSync(`${copy}.part`, copy);
      });
      // A write that is taken back: a file that can be read alone is found now, not by the first person.
      await db.exec("BEGIN IMMEDIATE; UPDATE studies SET revision = revision WHERE id = ''; ROLLBACK");
    } finally {
      await db.close();
    }
    sign(true);
  } catch (error) {
    await lock?.close();
    throw error instanceof StartError ? error : startErrorOf(folder, error);
  }
  const held = lock;
  return { storage, release: () => held.close() };
}
