import type { Transaction } from "sequelize";
import { trailOf } from "@/core/findings";
import { confirmedFact, confirmedUnfitted } from "@/core/setpoint";
import { type Study, sameData, type Trial, type Wave } from "@/core/study";
import type { Database, StudyRow } from "./database";

/** What is asked: the study without the ledger, which lives in rows. */
export const questionOf = ({ waves: _waves, trials: _trials, ...question }: Study): string => JSON.stringify(question);
const trialDocument = ({ results: _results, ...trial }: Trial): string => JSON.stringify(trial);

/** Rows that go in together, each a list of its columns after the study's id. */
type Rows = (string | number)[][];

/** Statements over many rows at once, given as one JSON text: a ledger of thousands is written in a few of them. */
const WRITES = {
  waves: `INSERT INTO waves (studyId, id, position, document)
    SELECT $id, value ->> 0, value ->> 1, value ->> 2 FROM json_each($rows) WHERE true
    ON CONFLICT (studyId, id) DO UPDATE SET position = excluded.position, document = excluded.document`,
  trials: `INSERT INTO trials (studyId, id, position, wave, runOrder, document)
    SELECT $id, value ->> 0, value ->> 1, value ->> 2, value ->> 3, value ->> 4 FROM json_each($rows) WHERE true
    ON CONFLICT (studyId, id) DO UPDATE SET position = excluded.position, wave = excluded.wave,
      runOrder = excluded.runOrder, document = excluded.document`,
  results: `INSERT INTO results (studyId, trialId, response, value)
    SELECT $id, value ->> 0, value ->> 1, value ->> 2 FROM json_each($rows) WHERE true
    ON CONFLICT (studyId, trialId, response) DO UPDATE SET value = excluded.value`,
  goneResults: `DELETE FROM results WHERE studyId = $id AND (trialId, response) IN
    (SELECT value ->> 0, value ->> 1 FROM json_each($rows))`,
  goneTrials: `DELETE FROM trials WHERE studyId = $id AND id IN (SELECT value ->> 0 FROM json_each($rows))`,
  goneWaves: `DELETE FROM waves WHERE studyId = $id AND id IN (SELECT value ->> 0 FROM json_each($rows))`,
};

/** What a change writes: for each statement its rows, as JSON. */
type Changes = [sql: string, rows: string][];

/** What differs between two states of a study's ledger; worked out before others have to wait for the writing. */
export function changesOf(before: Study | undefined, after: Study): Changes {
  const rows: Record<keyof typeof WRITES, Rows> = {
    waves: [],
    trials: [],
    results: [],
    goneResults: [],
    goneTrials: [],
    goneWaves: [],
  };
  const wavesBefore = new Map((before?.waves ?? []).map((w, i) => [w.id, { w, i }]));
  for (const [i, w] of after.waves.entries()) {
    const stored = wavesBefore.get(w.id);
    wavesBefore.delete(w.id);
    if (stored?.w !== w || stored.i !== i) rows.waves.push([w.id, i, JSON.stringify(w satisfies Wave)]);
  }
  // Of thousands of trials nearly all stand as they stood.
  const trialsBefore = new Map(
    (before?.trials ?? []).flatMap((t, i) => (after.trials[i] === t ? [] : [[t.id, { t, i }] as const])),
  );
  for (const [i, t] of after.trials.entries()) {
    if (before?.trials[i] === t) continue;
    const stored = trialsBefore.get(t.id);
    trialsBefore.delete(t.id);
    if (stored && stored.i === i && sameData(stored.t, t)) continue;
    rows.trials.push([t.id, i, t.wave, t.order, trialDocument(t)]);
    for (const response of new Set([...Object.keys(t.results), ...Object.keys(stored?.t.results ?? {})])) {
      const value = t.results[response];
      if (value === undefined) rows.goneResults.push([t.id, response]);
      else if (!stored || !sameData(stored.t.results[response], value))
        rows.results.push([t.id, response, JSON.stringify(value)]);
    }
  }
  rows.goneTrials = [...trialsBefore.keys()].map((gone) => [gone]);
  rows.goneWaves = [...wavesBefore.keys()].map((gone) => [gone]);
  return (Object.keys(WRITES) as (keyof typeof WRITES)[])
    .filter((kind) => rows[kind].length > 0)
    .map((kind) => [WRITES[kind], JSON.stringify(rows[kind])]);
}

/** A study and everything that is written when it is new. */
export interface NewStudy {
  study: Study;
  row: Pick<StudyRow, "title" | "document" | "facts">;
  ledger: Changes;
}

/** What Home lists of a study. Its models are fitted where a confirmation is to be judged. */
export const factsOf = (study: Study): string => JSON.stringify(trailOf(study, confirmedFact(study)));

/** The same for a study that was just changed: null where it takes fits, which are left to whoever lists it next. */
function factsAtOnce(study: Study): string | null {
  const confirmed = confirmedUnfitted(study);
  return confirmed === undefined ? null : JSON.stringify(trailOf(study, confirmed));
}

/** What is written of a study besides its parts. */
export const rowOf = (study: Study): Pick<StudyRow, "title" | "document" | "facts"> => ({
  title: study.title,
  document: questionOf(study),
  facts: factsAtOnce(study),
});

export const newStudy = (study: Study): NewStudy => ({
  study,
  row: rowOf(study),
  ledger: changesOf(undefined, study),
});

/** Stores changes of a study's ledger, in the transaction given. */
export async function storeChanges(
  db: Database,
  id: string,
  changes: Changes,
  transaction: Transaction,
): Promise<void> {
  for (const [sql, rows] of changes) await db.sequelize.query(sql, { bind: { id, rows }, transaction });
}

interface Stored {
  revision: number;
  document: string;
}

/** A study's rows as they stand, whatever they hold. */
export interface RawStudy {
  study: Stored & { title: string; createdAt: string; updatedAt: string };
  waves: { id: string; document: string }[];
  trials: { id: string; document: string }[];
  results: { trialId: string; response: string; value: string }[];
}

/** Reads a study's rows; undefined where there is none. */
export async function readRows(db: Database, id: string, transaction?: Transaction): Promise<RawStudy | undefined> {
  const raw = { raw: true as const, ...(transaction ? { transaction } : {}) };
  const study = await db.studies.findOne({
    where: { id, deletedAt: null },
    attributes: ["title", "revision", "document", "createdAt", "updatedAt"],
    ...raw,
  });
  if (!study) return undefined;
  const ledger = { where: { studyId: id }, attributes: ["id", "document"], order: ["position"], ...raw };
  return {
    study,
    waves: await db.waves.findAll(ledger),
    trials: await db.trials.findAll(ledger),
    results: await db.results.findAll({
      where: { studyId: id },
      attributes: ["trialId", "response", "value"],
      ...raw,
    }),
  } as unknown as RawStudy;
}

/**
 * A study put together from its rows, as plain data.
 * @throws SyntaxError for a row that is damaged
 */
export function assemble({ study, waves, trials, results }: RawStudy): unknown {
  const byTrial = new Map<string, Record<string, unknown>>();
  for (const r of results) {
    const bag = byTrial.get(r.trialId) ?? {};
    bag[r.response] = JSON.parse(r.value);
    byTrial.set(r.trialId, bag);
  }
  return {
    ...JSON.parse(study.document),
    waves: waves.map((w) => JSON.parse(w.document)),
    trials: trials.map((t) => ({ ...JSON.parse(t.document), results: byTrial.get(t.id) ?? {} })),
  };
}

/** Marks the studies that hold a row which is no JSON, so that they are listed as what they are. */
export async function markDamage(db: Database): Promise<void> {
  const bad = ["waves", "trials"]
    .map((t) => `SELECT studyId FROM ${t} WHERE NOT json_valid(document)`)
    .concat("SELECT studyId FROM results WHERE NOT json_valid(value)")
    .concat("SELECT id FROM studies WHERE NOT json_valid(document)");
  await db.sequelize.query(
    `UPDATE studies SET damage = CASE WHEN id IN (${bad.join(" UNION ")}) THEN 'a row of it is damaged' END
      WHERE damage IS NOT NULL OR id IN (${bad.join(" UNION ")})`,
  );
}
