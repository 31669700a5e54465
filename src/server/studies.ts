import { randomBytes } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { Transaction } from "sequelize";
import {
  blankStudy,
  type Cairn,
  type Edit,
  parseStudy,
  readStudyFile,
  reviseStudy,
  type Study,
  StudyError,
  sameData,
  type Trial,
  trailOf,
  type Wave,
} from "@/core";
import { type Database, database } from "./database";
import { Problem } from "./problem";

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
  trail: Cairn[];
}

const now = (): string => new Date().toISOString();
/** Studies kept in memory beside the database. */
const MOST_KEPT = 24;
const newId = (): string => randomBytes(6).toString("hex");

/** What is asked: the study without the ledger, which lives in rows. */
const questionOf = ({ waves: _waves, trials: _trials, ...question }: Study): string => JSON.stringify(question);
const trialDocument = ({ results: _results, ...trial }: Trial): string => JSON.stringify(trial);

async function load(db: Database, id: string, transaction?: Transaction): Promise<StoredStudy | undefined> {
  const raw = { raw: true as const, ...(transaction ? { transaction } : {}) };
  const now = (await db.studies.findOne({
    where: { id, deletedAt: null },
    attributes: ["revision"],
    ...raw,
  })) as unknown as {
    revision: number;
  } | null;
  if (!now) return undefined;
  const kept = db.latest.get(id);
  if (kept?.revision === now.revision) return { id, ...kept };
  const row = await db.studies.findOne({ where: { id }, ...raw });
  const [waves, trials, results] = [
    await db.waves.findAll({ where: { studyId: id }, order: ["position"], ...raw }),
    await db.trials.findAll({ where: { studyId: id }, order: ["position"], ...raw }),
    await db.results.findAll({ where: { studyId: id }, ...raw }),
  ] as unknown as [
    { document: string }[],
    { id: string; document: string }[],
    { trialId: string; response: string; value: string }[],
  ];
  const byTrial = new Map<string, Record<string, unknown>>();
  for (const r of results) {
    const bag = byTrial.get(r.trialId) ?? {};
    bag[r.response] = JSON.parse(r.value);
    byTrial.set(r.trialId, bag);
  }
  const { revision, document } = row as unknown as { revision: number; document: string };
  const study: unknown = {
    ...JSON.parse(document),
    waves: waves.map((w) => JSON.parse(w.document)),
    trials: trials.map((t) => ({ ...JSON.parse(t.document), results: byTrial.get(t.id) ?? {} })),
  };
  return keep(db, { id, revision, study: parseStudy(study) });
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

async function writeTrial(
  db: Database,
  studyId: string,
  trial: Trial,
  position: number,
  transaction: Transaction,
): Promise<void> {
  await db.trials.upsert(
    { studyId, id: trial.id, position, wave: trial.wave, runOrder: trial.order, document: trialDocument(trial) },
    { transaction },
  );
}

/** Stores what differs between two states of a study. */
async function storeChanges(
  db: Database,
  id: string,
  before: Study | undefined,
  after: Study,
  transaction: Transaction,
): Promise<void> {
  const wavesBefore = new Map((before?.waves ?? []).map((w, i) => [w.id, { w, i }]));
  for (const [i, w] of after.waves.entries()) {
    const stored = wavesBefore.get(w.id);
    wavesBefore.delete(w.id);
    if (stored?.w !== w || stored.i !== i)
      await db.waves.upsert(
        { studyId: id, id: w.id, position: i, document: JSON.stringify(w satisfies Wave) },
        { transaction },
      );
  }
  const trialsBefore = new Map((before?.trials ?? []).map((t, i) => [t.id, { t, i }]));
  for (const [i, t] of after.trials.entries()) {
    const stored = trialsBefore.get(t.id);
    trialsBefore.delete(t.id);
    if (stored && stored.i === i && sameData(stored.t, t)) continue;
    await writeTrial(db, id, t, i, transaction);
    const responses = new Set([...Object.keys(t.results), ...Object.keys(stored?.t.results ?? {})]);
    for (const response of responses) {
      const value = t.results[response];
      if (value === undefined)
        await db.results.destroy({ where: { studyId: id, trialId: t.id, response }, transaction });
      else if (!stored || !sameData(stored.t.results[response], value))
        await db.results.upsert(
          { studyId: id, trialId: t.id, response, value: JSON.stringify(value) },
          { transaction },
        );
    }
  }
  for (const gone of trialsBefore.keys()) await db.trials.destroy({ where: { studyId: id, id: gone }, transaction });
  for (const gone of wavesBefore.keys()) await db.waves.destroy({ where: { studyId: id, id: gone }, transaction });
}

async function insert(study: Study, what: string, who: string): Promise<StoredStudy> {
  const db = await database();
  const id = newId();
  await db.write(async (transaction) => {
    await db.studies.create(
      {
        id,
        title: study.title,
        revision: 1,
        document: questionOf(study),
        createdAt: now(),
        updatedAt: now(),
        deletedAt: null,
      },
      { transaction },
    );
    await storeChanges(db, id, undefined, study, transaction);
    await db.events.create({ studyId: id, revision: 1, at: now(), who, what, edits: "[]" }, { transaction });
  });
  return keep(db, { id, revision: 1, study });
}

const gone = (): Problem =>
  new Problem(404, "no-study", "There is no such study; it may have been deleted. Open another from Home.");

/** All studies, last touched first. */
export async function listStudies(): Promise<StudySummary[]> {
  const db = await database();
  const rows = (await db.studies.findAll({
    where: { deletedAt: null },
    attributes: ["id", "title", "revision", "updatedAt"],
    order: [["updatedAt", "DESC"]],
    raw: true,
  })) as unknown as Omit<StudySummary, "trail">[];
  const out: StudySummary[] = [];
  for (const row of rows) {
    const stored = await load(db, row.id);
    if (stored) out.push({ ...row, trail: trailOf(stored.study) });
  }
  return out;
}

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
  if (!exampleNames().includes(name)) throw new Problem(404, "no-example", `There is no shipped example “${name}”.`);
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
export const importStudy = async (file: unknown, who: string): Promise<StoredStudy> =>
  insert(parseStudy(file), "opened from file", who);

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
 * Changes a study in one transaction: all edits or none, each kept in the event log with old and new value.
 * @throws Problem 404, 409 with both versions when the revision is stale, 422 when the result is not a study
 */
export async function changeStudy(
  id: string,
  revision: number,
  edits: readonly Edit[],
  what: string,
  who: string,
): Promise<StoredStudy> {
  const db = await database();
  const written = await db.write(async (transaction) => {
    const stored = await load(db, id, transaction);
    if (!stored) throw gone();
    requireRevision(stored, revision, edits);
    const after = reviseStudy(stored.study, edits);
    const next = stored.revision + 1;
    await storeChanges(db, id, stored.study, after, transaction);
    await db.studies.update(
      { title: after.title, revision: next, document: questionOf(after), updatedAt: now() },
      { where: { id }, transaction },
    );
    await db.events.create(
      { studyId: id, revision: next, at: now(), who, what, edits: JSON.stringify(edits) },
      { transaction },
    );
    return { id, revision: next, study: after };
  });
  return keep(db, written);
}

/**
 * Refuses a change made on another revision than the one that stands, with both versions.
 * @throws Problem 409
 */
export function requireRevision(stored: StoredStudy, revision: number, yours?: readonly Edit[]): void {
  if (stored.revision === revision) return;
  throw new Problem(
    409,
    "stale-revision",
    `The study was changed elsewhere: it is at revision ${stored.revision}, this change was made on ${revision}. Nothing was overwritten.`,
    ["revision"],
    { revision: stored.revision, study: stored.study, ...(yours ? { yours } : {}) },
  );
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
      throw new Problem(
        409,
        "stale-revision",
        "The study was changed elsewhere since this page showed it; look again before deleting it.",
        ["revision"],
        { revision: stored.revision },
      );
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
    await db.events.create(
      { studyId: id, revision: 0, at: now(), who, what: "restored", edits: "[]" },
      { transaction },
    );
  });
  return readStudy(id);
}

/** Every study as one file that can be opened again. */
export async function backup(): Promise<{ format: "trialmoor-backup"; version: 1; at: string; studies: Study[] }> {
  const all = await listStudies();
  const studies: Study[] = [];
  for (const { id } of all) studies.push((await readStudy(id)).study);
  return { format: "trialmoor-backup", version: 1, at: now(), studies };
}

/**
 * Opens a study file or a backup; answers the studies made, all or none checked first.
 * @throws StudyError `empty-backup`
 */
export async function importFile(file: unknown, who: string): Promise<StoredStudy[]> {
  const bag = file as { format?: unknown; studies?: unknown };
  if (typeof file === "object" && file !== null && bag.format === "trialmoor-backup") {
    if (!Array.isArray(bag.studies) || bag.studies.length === 0)
      throw new StudyError("empty-backup", "The backup holds no studies.", ["studies"]);
    const studies = bag.studies.map((s) => parseStudy(s));
    const out: StoredStudy[] = [];
    for (const s of studies) out.push(await insert(s, "opened from backup", who));
    return out;
  }
  return [await importStudy(file, who)];
}
