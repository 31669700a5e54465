import { editSchema, parseStudy, StudyError } from "@/core/study";
import { migrate, newerThanHere } from "./folder";
import { migrations } from "./migrations";
import { Problem } from "./problem";
import { assemble, factsOf, type RawStudy } from "./rows";
import { Handle } from "./sqlite";

// A backup is a database that somebody may have written by hand: nothing of it is believed before it was looked at.

/** Longest row: a study's question, a change of a whole ledger, or an answer of a computation, in bytes. */
const MOST_ROW = 100_000_000;
/** Studies that are named where they cannot be read; more are counted. */
const MOST_NAMED = 5;

/** What stands in the list of a database's tables. */
interface Listed {
  type: string;
  name: string;
  sql: string | null;
}
const LISTED = "SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_%'";

/** A statement that makes a table, however it was written down. */
const plain = (sql: string): string =>
  sql
    .replaceAll(/[`"]/g, "")
    .replaceAll(/\s+/g, " ")
    .replace(/\bIF NOT EXISTS /i, "")
    .trim();

/** The tables and indexes of our own database after some migrations. */
async function oursAfter(names: readonly string[]): Promise<Map<string, string>> {
  const model = await Handle.inMemory();
  try {
    await migrate(model, undefined, names);
    const listed = await model.all<Listed>(LISTED);
    return new Map(listed.map(({ type, name, sql }) => [`${type} ${name}`, plain(sql ?? "")]));
  } finally {
    await model.close();
  }
}

/** Refuses what holds anything but our own tables as some migrations left them: views, triggers, other columns. */
async function requireOurs(handle: Handle, name: string): Promise<void> {
  const listed = await handle.all<Listed>(`${LISTED} LIMIT 200`);
  const notOurs = new Problem("not-a-backup", { name });
  const has = (table: string): boolean => listed.some((l) => l.type === "table" && l.name === table);
  if (!has("studies") || !has("SequelizeMeta")) throw notOurs;
  // Read as a table before its shape is known to be one: the list says what it is.
  const mark = listed.find((l) => l.name === "SequelizeMeta");
  if (!/^CREATE TABLE SequelizeMeta \(name VARCHAR\(255\) NOT NULL UNIQUE PRIMARY KEY\)$/i.test(plain(mark?.sql ?? "")))
    throw notOurs;
  const unknown = await newerThanHere(handle);
  if (unknown.length > 0) throw new Problem("backup-newer", { name, unknown });
  const done = (await handle.all<{ name: string }>("SELECT name FROM SequelizeMeta ORDER BY name")).map((r) => r.name);
  const damaged = new Problem("backup-damaged", { name });
  // Migrations are made in order: a mark that is missing was taken out.
  if (done.length === 0 || done.some((n, i) => n !== migrations[i].name)) throw damaged;
  const ours = await oursAfter(done);
  for (const { type, name: called, sql } of listed) {
    if (called === "SequelizeMeta") continue;
    const wanted = ours.get(`${type} ${called}`);
    if (wanted === undefined || wanted !== plain(sql ?? ""))
      throw new Problem("backup-foreign", { name, what: `${type} ${called}`.slice(0, 80) });
    ours.delete(`${type} ${called}`);
  }
  ours.delete("table SequelizeMeta");
  if (ours.size > 0) throw damaged;
}

/** What a column of a type may hold, as SQLite calls it. */
const TYPES: Readonly<Record<string, string>> = {
  TEXT: "'text'",
  INTEGER: "'integer'",
  REAL: "'real', 'integer'",
  FLOAT: "'real', 'integer'",
};
const TIME = "[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]T[0-9][0-9]:[0-9][0-9]:[0-9][0-9]*Z";
/** Further conditions that a row of a table fails by. */
const UNFIT: Readonly<Record<string, string>> = {
  studies: `createdAt NOT GLOB '${TIME}' OR updatedAt NOT GLOB '${TIME}' OR deletedAt NOT GLOB '${TIME}' OR revision < 1
    OR length(title) > 400`,
  events: `at NOT GLOB '${TIME}' OR revision < 0`,
  marks: `at NOT GLOB '${TIME}' OR length(name) > 1000`,
  jobs: "NOT json_valid(coalesce(answer, '0')) OR NOT json_valid(coalesce(best, '0')) OR NOT json_valid(coalesce(problem, '0'))",
  requests: "NOT json_valid(studies)",
};

/** Refuses rows whose values are of another type than their column's, or that no server of ours wrote. */
async function requireTypes(handle: Handle, name: string): Promise<void> {
  const tables = await handle.all<{ name: string }>(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name <> 'SequelizeMeta'",
  );
  for (const { name: table } of tables) {
    const columns = await handle.all<{ name: string; type: string; notnull: number; pk: number }>(
      `PRAGMA table_info(${table})`,
    );
    const odd = columns.map((c) => {
      const types = `${TYPES[c.type] ?? "''"}${c.notnull || c.pk ? "" : ", 'null'"}`;
      return `typeof(${c.name}) NOT IN (${types})`;
    });
    const [row] = await handle.all<{ n: number }>(
      `SELECT count(*) AS n FROM ${table} WHERE ${[...odd, ...(UNFIT[table] ? [UNFIT[table]] : [])].join(" OR ")}`,
    );
    if (row.n > 0) throw new Problem("backup-rows", { name, table, rows: row.n });
  }
}

async function rowsOf(handle: Handle, id: string): Promise<RawStudy> {
  const ledger = (table: string) =>
    handle.all<{ id: string; document: string }>(
      `SELECT id, document FROM ${table} WHERE studyId = ? ORDER BY position`,
      [id],
    );
  const [study] = await handle.all<RawStudy["study"]>(
    "SELECT title, revision, document, createdAt, updatedAt FROM studies WHERE id = ?",
    [id],
  );
  return {
    study,
    waves: await ledger("waves"),
    trials: await ledger("trials"),
    results: await handle.all<RawStudy["results"][number]>(
      "SELECT trialId, response, value FROM results WHERE studyId = ?",
      [id],
    ),
  };
}

const isEdits = editSchema.array();

/** Why the log of a study cannot be read; undefined where it can. */
async function oddLog(handle: Handle, id: string): Promise<string | undefined> {
  const events = await handle.all<{ revision: number; edits: string }>(
    "SELECT revision, edits FROM events WHERE studyId = ?",
    [id],
  );
  for (const { revision, edits } of events)
    try {
      if (!isEdits.safeParse(JSON.parse(edits)).success) return `its log at revision ${revision} is none`;
    } catch {
      return `its log at revision ${revision} is no JSON`;
    }
  return undefined;
}

/** Reads every study as it will be read, and works out anew what Home lists of each. */
async function requireStudies(handle: Handle, name: string): Promise<void> {
  const studies = await handle.all<{ id: string; title: string; damage: string | null }>(
    "SELECT id, title, damage FROM studies",
  );
  const faults: { title: string; why: string }[] = [];
  for (const { id, title, damage } of studies) {
    const log = await oddLog(handle, id);
    if (log) faults.push({ title, why: log });
    let facts: string | null = null;
    try {
      facts = factsOf(parseStudy(assemble(await rowsOf(handle, id))));
    } catch (error) {
      // One that was damaged when the backup was made is listed as what it is, as it was there.
      const why = error instanceof StudyError ? error.message.replace(/\.$/, "") : "a row of it is damaged";
      if (damage === null) faults.push({ title, why });
    }
    const mended = facts === null ? (damage ?? "a row of it is damaged").slice(0, 1000) : null;
    await handle.all("UPDATE studies SET facts = ?, damage = ? WHERE id = ?", [facts, mended, id]);
  }
  if (faults.length > 0)
    throw new Problem("backup-studies", { name, count: faults.length, named: faults.slice(0, MOST_NAMED) });
}

/**
 * Looks a copy of a backup over, brings it to the present shape of the database and works out what is listed of its
 * studies. Called in a process of its own: a file can be made such that it ends, or holds up, whatever reads it.
 * @param name what refusals call it
 * @throws Problem `not-a-backup`, `backup-foreign`, `backup-damaged`, `backup-newer`, `backup-rows`, `backup-studies`
 */
export async function prepareBackup({ path, name }: { path: string; name: string }): Promise<{ studies: number }> {
  const damaged = new Problem("backup-damaged", { name });
  const handle = await Handle.open(path);
  try {
    handle.limit(MOST_ROW);
    await handle.exec("PRAGMA trusted_schema = OFF; PRAGMA cell_size_check = ON; PRAGMA foreign_keys = OFF;");
    await requireOurs(handle, name);
    const [{ quick_check: check }] = await handle.all<{ quick_check: string }>("PRAGMA quick_check(1)");
    if (check !== "ok") throw damaged;
    await migrate(handle);
    await requireTypes(handle, name);
    await handle.exec("BEGIN");
    await requireStudies(handle, name);
    await handle.exec("COMMIT");
    const [{ n }] = await handle.all<{ n: number }>("SELECT count(*) AS n FROM studies WHERE deletedAt IS NULL");
    return { studies: n };
  } catch (error) {
    throw ((error as { code?: unknown }).code as string | undefined)?.startsWith("SQLITE_") &&
      (error as { code: string }).code !== "SQLITE_FULL"
      ? damaged
      : error;
  } finally {
    await handle.close();
  }
}
