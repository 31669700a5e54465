import { createHash, randomBytes } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { Op, QueryTypes, type Transaction } from "sequelize";
import { type StageMarker, trailOf } from "@/core/findings";
import { readStudyFile } from "@/core/formats";
import { blankStudy, differences, type Edit, parseStudy, reviseStudy, type Study, StudyError } from "@/core/study";
import { type Database, database } from "./database";
import { factsAside, parseAside } from "./pool";
import { Problem } from "./problem";
import { keptUntil, readRetention } from "./retention";
import { assemble, changesOf, type NewStudy, newStudy, readRows, rowOf, storeChanges } from "./rows";

export interface StoredStudy {
  id: string;
  revision: number;
  study: Study;
}

export interface StudySummary {
  id: string;
  title: string;
  revision: number;
  updatedAt: string;
  trail: StageMarker[];
  /** Why it cannot be read, where it cannot. */
  damage: string | null;
}

const now = (): string => new Date().toISOString();
/** Studies kept in memory beside the database. */
const MOST_KEPT = 24;
const newId = (): string => randomBytes(6).toString("hex");
/** A text that stands for some data. */
export const digestOf = (data: unknown): string => createHash("sha256").update(JSON.stringify(data)).digest("hex");

/** The refusal of a study whose rows cannot be read. */
const damaged = (id: string, title: string, why: string): Problem => new Problem("damaged-study", { title, why, id });

async function load(db: Database, id: string, transaction?: Transaction): Promise<StoredStudy | undefined> {
  const now = (await db.studies.findOne({
    where: { id, deletedAt: null },
    attributes: ["revision"],
    raw: true,
    ...(transaction ? { transaction } : {}),
  })) as unknown as { revision: number } | null;
  if (!now) return undefined;
  const kept = db.latest.get(id);
  if (kept?.revision === now.revision) return { id, ...kept };
  const rows = await readRows(db, id, transaction);
  if (!rows) return undefined;
  try {
    return keep(db, { id, revision: rows.study.revision, study: parseStudy(assemble(rows)) });
  } catch (error) {
    const why = error instanceof StudyError ? error.message.replace(/\.$/, "") : "a row of it is damaged";
    if (!transaction) await db.write((t) => db.studies.update({ damage: why }, { where: { id }, transaction: t }));
    throw damaged(id, rows.study.title, why);
  }
}

/** Remembers a study that stands on disk; studies are never changed in place. */
function keep(db: Database, stored: StoredStudy): StoredStudy {
  const { id, revision, study } = stored;
  db.latest.delete(id);
  db.latest.set(id, { revision, study });
  const [oldest] = db.latest.keys();
  if (db.latest.size > MOST_KEPT && oldest !== undefined) db.latest.delete(oldest);
  return stored;
}

/** A request that names itself, so that sent again it is not done again. */
export interface Named {
  key: string;
  digest: string;
}

/**
 * What a request with this key made before; nothing where it is the first, which is kept with what it makes.
 * @throws Problem `key-reused` where another request was made under the key
 */
async function doneBefore(
  db: Database,
  request: Named,
  studies: readonly string[],
  transaction: Transaction,
): Promise<string[] | undefined> {
  const done = (await db.requests.findOne({ where: { key: request.key }, raw: true, transaction })) as unknown as {
    digest: string;
    studies: string;
  } | null;
  if (done && done.digest !== request.digest) throw new Problem("key-reused", {}, { path: ["Idempotency-Key"] });
  if (done) return JSON.parse(done.studies) as string[];
  await db.requests.create({ ...request, studies: JSON.stringify(studies), at: now() }, { transaction });
  return undefined;
}

/**
 * Stores new studies in one transaction, all or none. A request with the key of one that was done answers what that
 * one made.
 * @throws Problem `key-reused`
 */
async function insertAll(
  studies: readonly NewStudy[],
  what: string,
  who: string,
  request?: Named,
): Promise<StoredStudy[]> {
  const db = await database();
  const made = studies.map((study) => ({ id: newId(), revision: 1, ...study }));
  const earlier = await db.write(async (transaction) => {
    const ids = made.map((m) => m.id);
    const done = request && (await doneBefore(db, request, ids, transaction));
    if (done) return done;
    for (const { id, row, ledger } of made) {
      await db.studies.create(
        { id, ...row, revision: 1, createdAt: now(), updatedAt: now(), deletedAt: null, damage: null },
        { transaction },
      );
      await storeChanges(db, id, ledger, transaction);
      await db.events.create({ studyId: id, revision: 1, at: now(), who, what, edits: "[]" }, { transaction });
    }
    return undefined;
  });
  if (earlier) return Promise.all(earlier.map(readStudy));
  return made.map(({ id, revision, study }) => keep(db, { id, revision, study }));
}

const insert = async (study: Study, what: string, who: string): Promise<StoredStudy> =>
  (await insertAll([newStudy(study)], what, who))[0];

const gone = (): Problem => new Problem("no-study", {});

/** The trail of a study that was stored without its facts; null where it cannot be read. */
async function workOutFacts(db: Database, id: string): Promise<StageMarker[] | null> {
  try {
    const stored = await load(db, id);
    if (!stored) return null;
    // A confirmation that takes longer to judge than a request waits is listed without its verdict.
    const facts = await factsAside(stored.study).catch((error: unknown) => {
      if (error instanceof Problem) return JSON.stringify(trailOf(stored.study));
      throw error;
    });
    // What was changed meanwhile has facts of its own.
    const { revision } = stored;
    await db.write((transaction) => db.studies.update({ facts }, { where: { id, revision }, transaction }));
    return JSON.parse(facts) as StageMarker[];
  } catch (error) {
    if (error instanceof Problem && error.code === "damaged-study") return null;
    throw error;
  }
}

/** The trail that is kept beside a study; null where none is, or what is kept is none. */
function trailIn(facts: string | null): StageMarker[] | null {
  try {
    const kept: unknown = facts === null ? null : JSON.parse(facts);
    return Array.isArray(kept) ? (kept as StageMarker[]) : null;
  } catch {
    return null;
  }
}

/** All studies, last touched first, from what is kept beside them; one that cannot be read says why. */
export async function listStudies(): Promise<StudySummary[]> {
  const db = await database();
  const rows = (await db.studies.findAll({
    where: { deletedAt: null },
    attributes: ["id", "title", "revision", "updatedAt", "facts", "damage"],
    order: [["updatedAt", "DESC"]],
    raw: true,
  })) as unknown as (Omit<StudySummary, "trail"> & { facts: string | null })[];
  const out: StudySummary[] = [];
  for (const { facts, title, ...rest } of rows) {
    const row = { ...rest, title: String(title) };
    if (row.damage !== null) out.push({ ...row, trail: [] });
    else {
      const trail = trailIn(facts) ?? (await workOutFacts(db, row.id));
      out.push(trail ? { ...row, trail } : { ...row, damage: "a row of it is damaged", trail: [] });
    }
  }
  return out;
}

/** A deleted study, and until when it can be brought back. */
export interface DeletedStudy {
  id: string;
  title: string;
  deletedAt: string;
  until: string;
}

/** Studies that were deleted and can be brought back, the last one first. */
export async function listDeleted(): Promise<DeletedStudy[]> {
  const db = await database();
  const keeping = await readRetention();
  const rows = (await db.studies.findAll({
    where: { deletedAt: { [Op.ne]: null } },
    attributes: ["id", "title", "deletedAt"],
    order: [["deletedAt", "DESC"]],
    raw: true,
  })) as unknown as Omit<DeletedStudy, "until">[];
  return rows.map((row) => ({ ...row, until: keptUntil(row.deletedAt, keeping) }));
}

/**
 * A study's rows as they stand, to be saved where it cannot be read.
 * @throws Problem `no-study`
 */
export async function rawStudy(id: string): Promise<object> {
  const rows = await readRows(await database(), id);
  if (!rows) throw gone();
  return { format: "trialmoor-raw", version: 1, id, ...rows };
}

/** @throws Problem `no-study`, `damaged-study` */
export async function readStudy(id: string): Promise<StoredStudy> {
  const stored = await load(await database(), id);
  if (!stored) throw gone();
  return stored;
}

const examplesFolder = (): string => join(/* turbopackIgnore: true */ process.cwd(), "examples");

/** Names of the studies that ship. */
export const exampleNames = (): string[] =>
  readdirSync(examplesFolder())
    .filter((f) => f.endsWith(".trialmoor.json"))
    .map((f) => f.replace(".trialmoor.json", ""))
    .sort()
    .reverse();

const readExample = (name: string): Study => {
  if (!exampleNames().includes(name)) throw new Problem("no-example", { name });
  return readStudyFile(readFileSync(join(examplesFolder(), `${name}.trialmoor.json`), "utf8"));
};

export const createStudy = (title: string, who: string): Promise<StoredStudy> =>
  insert(blankStudy(title), "created", who);
export const createFromExample = async (name: string, who: string, questionOnly = false): Promise<StoredStudy> => {
  const example = readExample(name);
  const { setpoint: _setpoint, ...rest } = example;
  return questionOnly
    ? insert(
        { ...rest, title: `${example.title}: the tour`, waves: [], trials: [], models: [], rivals: [] },
        `began the tour of ${name}`,
        who,
      )
    : insert(example, `opened example ${name}`, who);
};
export async function duplicateStudy(id: string, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  return insert({ ...study, title: `${study.title} (copy)`.slice(0, 200) }, `copied from ${id}`, who);
}

/** Puts the shipped examples into an empty database, so that a first visit finds something to look at. */
export async function seedExamples(): Promise<void> {
  const db = await database();
  if ((await db.studies.count()) > 0) return;
  for (const name of exampleNames().reverse()) await createFromExample(name, "shipped");
}

/**
 * Changes a study in one transaction by edits worked out from what stands: all or none, each kept in the event log as
 * what became of its cell. A request with the key of one that was done is not done again.
 *
 * @param edits none where nothing is to be changed
 * @throws Problem 404, `key-reused`, 422 when the result is not a study
 */
export async function changeNow(
  id: string,
  edits: (study: Study, stored: StoredStudy, transaction: Transaction) => readonly Edit[] | Promise<readonly Edit[]>,
  what: string,
  who: string,
  request?: Named,
): Promise<StoredStudy> {
  const db = await database();
  const written = await db.write(async (transaction) => {
    const stored = await load(db, id, transaction);
    if (!stored) throw gone();
    if (request && (await doneBefore(db, request, [id], transaction))) return stored;
    const made = await edits(stored.study, stored, transaction);
    if (made.length === 0) return stored;
    const after = reviseStudy(stored.study, made);
    const spent = (await db.spent.findByPk(id, { raw: true, transaction })) as unknown as { revision: number } | null;
    const next = Math.max(stored.revision, spent?.revision ?? 0) + 1;
    await storeChanges(db, id, changesOf(stored.study, after), transaction);
    await db.studies.update(
      {
        ...rowOf(after),
        revision: next,
        updatedAt: now(),
        damage: null,
      },
      { where: { id }, transaction },
    );
    await db.events.create(
      // What really became of each cell, so that it can be taken back exactly.
      { studyId: id, revision: next, at: now(), who, what, edits: JSON.stringify(differences(stored.study, after)) },
      { transaction },
    );
    return { id, revision: next, study: after };
  });
  return keep(db, written);
}

/** Most cells of changes that are told at once; whoever lags behind further reads the study anew. */
const MOST_CELLS = 4000;

/** What was changed since a revision, in order; undefined where that is too much to tell. */
export async function changesSince(
  id: string,
  since: number,
  now: number,
  transaction?: Transaction,
): Promise<Edit[] | undefined> {
  if (since >= now) return [];
  const rows = await (await database()).sequelize.query<{ revision: number; edits: string }>(
    "SELECT revision, edits FROM events WHERE studyId = $id AND revision > $since ORDER BY id LIMIT $most",
    {
      bind: { id, since, most: MOST_CELLS },
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    },
  );
  if (rows.at(-1)?.revision !== now) return undefined;
  const edits = rows.flatMap((r) => JSON.parse(r.edits) as Edit[]);
  return edits.length > MOST_CELLS ? undefined : edits;
}

/** A study as an edit left it, and what others had changed in it meanwhile. */
export interface Merged {
  id: string;
  revision: number;
  missed?: Edit[];
}

/**
 * Changes cells of a study that may have been changed elsewhere since: taken where each cell still holds what its edit
 * expects, so that a person can work on while programs enter results.
 * @throws Problem 404, 409 with both versions where a cell holds something else, 422 when the result is not a study
 */
export async function mergeIntoStudy(
  id: string,
  revision: number,
  edits: readonly Edit[],
  what: string,
  who: string,
): Promise<Merged> {
  let missed: Edit[] | undefined;
  const changed = await changeNow(
    id,
    async (study, stored, transaction) => {
      if (stored.revision === revision) return edits;
      missed = revision < stored.revision ? await changesSince(id, revision, stored.revision, transaction) : undefined;
      if (!missed) requireRevision(stored, revision, edits);
      try {
        reviseStudy(study, edits);
      } catch (error) {
        if (error instanceof StudyError) requireRevision(stored, revision, edits);
        throw error;
      }
      return edits;
    },
    what,
    who,
  );
  return { id, revision: changed.revision, ...(missed ? { missed } : {}) };
}

/**
 * Changes a study that stands at a revision: all edits or none.
 * @throws Problem 404, 409 with both versions when the revision is stale, 422 when the result is not a study
 */
export const changeStudy = (
  id: string,
  revision: number,
  edits: readonly Edit[],
  what: string,
  who: string,
): Promise<StoredStudy> =>
  changeNow(
    id,
    (_study, stored) => {
      requireRevision(stored, revision, edits);
      return edits;
    },
    what,
    who,
  );

/**
 * Refuses a change made on another revision than the one that stands, with both versions.
 * @throws Problem 409
 */
export function requireRevision(stored: StoredStudy, revision: number, yours?: readonly Edit[]): void {
  if (stored.revision === revision) return;
  const more = { revision: stored.revision, study: stored.study, ...(yours ? { yours } : {}) };
  throw new Problem("stale-revision", { now: stored.revision, seen: revision }, { path: ["revision"], more });
}

/**
 * Deletes a study so that it can be restored.
 * @throws Problem `stale-revision`
 */
export async function deleteStudy(
  id: string,
  revision: number,
  who: string,
): Promise<{ id: string; revision: number }> {
  const db = await database();
  return db.write(async (transaction) => {
    const stored = await load(db, id, transaction);
    if (!stored) throw gone();
    if (stored.revision !== revision)
      throw new Problem("stale-revision.delete", {}, { path: ["revision"], more: { revision: stored.revision } });
    await db.studies.update({ deletedAt: now() }, { where: { id }, transaction });
    await db.events.create({ studyId: id, revision, at: now(), who, what: "deleted", edits: "[]" }, { transaction });
    return { id, revision };
  });
}

export async function restoreStudy(id: string, who: string): Promise<StoredStudy> {
  const db = await database();
  await db.write(async (transaction) => {
    const [changed] = await db.studies.update({ deletedAt: null, updatedAt: now() }, { where: { id }, transaction });
    if (changed === 0) throw gone();
    const { revision } = (await db.studies.findByPk(id, { raw: true, transaction })) as unknown as StoredStudy;
    await db.events.create({ studyId: id, revision, at: now(), who, what: "restored", edits: "[]" }, { transaction });
  });
  return readStudy(id);
}

/**
 * Opens a study file, or a file of several that an earlier version made; answers the studies made, all or none. They
 * are read in a worker thread.
 * @throws StudyError `empty-backup`
 * @throws Problem `key-reused`
 */
export async function importFile(file: unknown, who: string, key?: string): Promise<StoredStudy[]> {
  const bag = file as { format?: unknown; studies?: unknown };
  const backup = typeof file === "object" && file !== null && bag.format === "trialmoor-backup";
  if (backup && !(Array.isArray(bag.studies) && bag.studies.length > 0))
    throw new StudyError("empty-backup", {}, ["studies"]);
  const request = key === undefined ? undefined : { key, digest: digestOf(file) };
  const studies = await parseAside(backup ? (bag.studies as unknown[]) : [file]);
  return insertAll(studies, backup ? "opened from backup" : "opened from file", who, request);
}
