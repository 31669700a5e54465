import { randomBytes } from "node:crypto";
import { QueryTypes } from "sequelize";
import * as z from "zod";
import { messageText, STATIONS, type Station, whoText } from "@/core/findings";
import { csvOf } from "@/core/formats";
import { changeOf, differences, type Edit, goneKey, type Mark, type Names, type Study, StudyError } from "@/core/study";
import { type Database, database, type EventRow, type MarkRow } from "./database";
import { pastAside } from "./pool";
import { Problem } from "./problem";
import { changeStudy, readStudy, type StoredStudy } from "./studies";

/** Changes that a page of the history holds, and cells it shows of each. */
const PAGE = 100;
const MOST_CELLS = 40;

/** Where in a study's data each station writes. */
const HEADS: Readonly<Record<Station, readonly string[]>> = {
  question: ["title", "factors", "responses", "covariates", "region", "confidence", "setupCost", "costs"],
  plan: ["waves", "rivals"],
  trials: ["trials"],
  model: ["models"],
  setpoint: ["setpoint"],
  report: ["report", "notes"],
};

/** What a history is asked for. */
export const historyQuery = z.strictObject({
  before: z.coerce.number().int().positive().optional().describe("events older than this one, by its id"),
  station: z.enum(STATIONS).optional().describe("changes made there"),
  path: z
    .string()
    .min(1)
    .max(900)
    .optional()
    .describe("changes of one cell or thing: parts of its path, with / between"),
  wave: z.string().max(64).optional().describe("changes of a wave and its trials"),
  who: z.string().max(60).optional().describe("changes of one person; empty for those without a name"),
  format: z.enum(["json", "csv"]).optional().describe("csv for all of them in one file"),
});
export type HistoryQuery = z.output<typeof historyQuery>;

/** One cell of a change, with what became of it in words. */
export interface CellChange {
  path: string[];
  from: Edit["from"];
  to: Edit["to"];
  text: string;
}
export interface HistoryEvent {
  id: number;
  revision: number;
  at: string;
  who: string;
  what: string;
  /** The first of its cells that were asked for; `count` are all of them. */
  changes: CellChange[];
  count: number;
}
export interface HistoryPage {
  revision: number;
  events: HistoryEvent[];
  /** What `before` is on the next page; none on the last. */
  next?: number;
  /** With the first page: all who changed something, all waves, all marks. */
  people?: string[];
  marks?: Mark[];
}

/** What an edit must be, as SQL on `e.value`; what it compares with is bound. */
function conditions(study: Study, { station, path, wave }: HistoryQuery, bind: Record<string, unknown>): string[] {
  const out: string[] = [];
  const part = (i: number): string => `json_extract(e.value, '$.path[${i}]')`;
  if (station) {
    bind.heads = JSON.stringify(HEADS[station]);
    out.push(`${part(0)} IN (SELECT value FROM json_each($heads))`);
  }
  if (path)
    for (const [i, text] of path.split("/").slice(0, 4).entries()) {
      bind[`part${i}`] = decodeURIComponent(text);
      // What holds it came or went: that is its history too.
      out.push(`(${part(i)} IS NULL OR ${part(i)} = $part${i})`);
    }
  if (wave) {
    bind.wave = wave;
    bind.trials = JSON.stringify(study.trials.flatMap((t) => (t.wave === wave ? [t.id] : [])));
    const own = `${part(1)} IN (SELECT value FROM json_each($trials))`;
    const told = ["from", "to"].map((end) => `json_extract(e.value, '$.${end}.wave') = $wave`).join(" OR ");
    out.push(`((${part(0)} = 'waves' AND ${part(1)} = $wave) OR (${part(0)} = 'trials' AND (${own} OR ${told})))`);
  }
  return out;
}

/** The edits of an event, as SQL; what is none, in a row that is damaged, is left out. */
const EDITS = `(SELECT value FROM json_each(CASE WHEN json_valid(edits) THEN edits ELSE '[]' END)
  WHERE type = 'object' AND json_type(value, '$.path') = 'array') e`;

/** What was removed is called by what it was when it went. */
async function namesOf(db: Database, id: string, study: Study): Promise<Names> {
  const rows = await db.sequelize.query<{ list: string; thing: string; name: string | number | null }>(
    `SELECT e.value ->> '$.path[0]' AS list, e.value ->> '$.path[1]' AS thing,
        COALESCE(e.value ->> '$.from.name', e.value ->> '$.from.order') AS name
      FROM events, json_each(CASE WHEN json_valid(edits) THEN edits ELSE '[]' END) e
      WHERE studyId = $id AND e.type = 'object' AND json_type(e.value, '$.path') = 'array' AND edits LIKE '%"to":null%'
        AND json_array_length(e.value, '$.path') = 2 AND e.value ->> '$.to' IS NULL`,
    { bind: { id }, type: QueryTypes.SELECT },
  );
  return {
    study,
    gone: new Map(rows.flatMap((r) => (r.name === null ? [] : [[goneKey(r.list, r.thing), String(r.name)]]))),
  };
}

type Row = Pick<EventRow, "revision" | "at" | "who" | "what"> & { id: number; cells: string; count: number };

async function rowsOf(
  db: Database,
  id: string,
  study: Study,
  query: HistoryQuery,
  most: { events: number; cells: number },
): Promise<Row[]> {
  const bind: Record<string, unknown> = { id, most: most.events, cells: most.cells };
  const cells = conditions(study, query, bind);
  const where = ["studyId = $id"];
  if (query.before !== undefined) {
    bind.before = query.before;
    where.push("events.id < $before");
  }
  if (query.who !== undefined) {
    bind.who = query.who;
    where.push("who = $who");
  }
  const matching = cells.length > 0 ? ` WHERE ${cells.join(" AND ")}` : "";
  if (matching) where.push(`EXISTS (SELECT 1 FROM ${EDITS}${matching})`);
  return db.sequelize.query<Row>(
    `SELECT id, revision, at, who, what,
        (SELECT json_group_array(json(value))
          FROM (SELECT e.value AS value FROM ${EDITS}${matching} LIMIT $cells)) AS cells,
        (SELECT count(*) FROM ${EDITS}${matching}) AS count
      FROM events WHERE ${where.join(" AND ")} ORDER BY id DESC LIMIT $most`,
    { bind, type: QueryTypes.SELECT },
  );
}

const inWords = (names: Names, cells: string): CellChange[] =>
  (JSON.parse(cells) as Edit[]).map(({ path, from, to }) => ({
    path,
    from,
    to,
    text: messageText("changes", changeOf(names, { path, from, to })),
  }));

/**
 * Changes of a study, the last first, a page at a time.
 * @throws Problem `no-study`
 */
export async function listHistory(id: string, query: HistoryQuery): Promise<HistoryPage> {
  const { study, revision } = await readStudy(id);
  const db = await database();
  const rows = await rowsOf(db, id, study, query, { events: PAGE + 1, cells: MOST_CELLS });
  const names = await namesOf(db, id, study);
  const events = rows.slice(0, PAGE).map(({ cells, ...row }) => ({ ...row, changes: inWords(names, cells) }));
  return {
    revision,
    events,
    ...(rows.length > PAGE ? { next: events[PAGE - 1].id } : {}),
    ...(query.before === undefined ? { people: await peopleOf(db, id), marks: await listMarks(id) } : {}),
  };
}

async function peopleOf(db: Database, id: string): Promise<string[]> {
  const rows = await db.sequelize.query<{ who: string }>(
    "SELECT DISTINCT who FROM events WHERE studyId = $id ORDER BY who",
    { bind: { id }, type: QueryTypes.SELECT },
  );
  return rows.map((r) => r.who);
}

/** Most changes of one file. */
const MOST_ROWS = 200_000;

/** The whole history, or what of it was asked for, one line a cell. */
export async function historyCsv(id: string, query: HistoryQuery): Promise<string> {
  const { study } = await readStudy(id);
  const db = await database();
  const rows = await rowsOf(db, id, study, query, { events: MOST_ROWS, cells: MOST_ROWS });
  const names = await namesOf(db, id, study);
  const json = (v: unknown): string => (v === null ? "" : typeof v === "string" ? v : JSON.stringify(v));
  const lines = rows.flatMap(({ cells, revision, at, who, what }) => {
    const changes = inWords(names, cells);
    const head = [revision, at, whoText(who), what];
    return changes.length === 0
      ? [[...head, "", "", "", ""]]
      : changes.map((c) => [...head, c.text, c.path.join("/"), json(c.from), json(c.to)]);
  });
  return csvOf(["revision", "time", "who", "change", "in words", "path", "from", "to"], lines);
}

/**
 * A study as it stood after a change.
 * @throws Problem `no-study`, `no-revision`, `past-unreadable`
 */
export async function pastStudy(id: string, revision: number): Promise<StoredStudy> {
  const stored = await readStudy(id);
  if (revision === stored.revision) return stored;
  const db = await database();
  const [{ first }] = await db.sequelize.query<{ first: number | null }>(
    "SELECT min(revision) AS first FROM events WHERE studyId = $id AND revision > 0",
    { bind: { id }, type: QueryTypes.SELECT },
  );
  if (revision > stored.revision || revision < (first ?? stored.revision))
    throw new Problem("no-revision", { revision, now: stored.revision }, { path: ["revision"] });
  const later = await db.sequelize.query<{ edits: string }>(
    "SELECT edits FROM events WHERE studyId = $id AND revision > $revision AND edits <> '[]' ORDER BY id DESC",
    { bind: { id, revision }, type: QueryTypes.SELECT },
  );
  try {
    const past = later.map((r) => r.edits);
    return { id, revision, study: await pastAside(stored.study, past) };
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    throw new Problem("past-unreadable", { revision, why: error.message }, { path: ["revision"] });
  }
}

/**
 * Makes a study what it was after a change, as a change of its own.
 * @throws Problem as `pastStudy` and `changeStudy`
 */
export async function bringBack(id: string, past: number, revision: number, who: string): Promise<StoredStudy> {
  const { study } = await readStudy(id);
  const edits = differences(study, (await pastStudy(id, past)).study);
  return changeStudy(id, revision, edits, `brought back revision ${past}`, who);
}

/** The bodies of what marks a moment, and of what brings one back. */
export const markSchema = z.strictObject({
  name: z.string().trim().min(1).max(80),
  station: z.enum(STATIONS).optional().describe("where it stands on the trail"),
  revision: z.number().int().positive().optional().describe("the state it names; the present one unless said"),
});

const shownMark = ({ studyId: _study, ...mark }: MarkRow): Mark => mark;

/** Moments that were named, oldest first. */
export async function listMarks(id: string): Promise<Mark[]> {
  const db = await database();
  const order: [string, string][] = [
    ["revision", "ASC"],
    ["at", "ASC"],
  ];
  const rows = await db.marks.findAll({ where: { studyId: id }, order, raw: true });
  return (rows as unknown as MarkRow[]).map(shownMark);
}

/**
 * Names a state of a study.
 * @throws Problem `no-study`, `no-revision`
 */
export async function addMark(id: string, body: z.output<typeof markSchema>, who: string): Promise<Mark> {
  const stored = await readStudy(id);
  const { name, station = "trials", revision = stored.revision } = body;
  if (revision > stored.revision)
    throw new Problem("no-revision", { revision, now: stored.revision }, { path: ["revision"] });
  const mark: MarkRow = {
    id: randomBytes(6).toString("hex"),
    studyId: id,
    revision,
    station,
    name,
    at: new Date().toISOString(),
    who,
  };
  const db = await database();
  await db.write((transaction) => db.marks.create(mark, { transaction }));
  return shownMark(mark);
}

/**
 * Takes a mark away; the state it named stays.
 * @throws Problem `no-mark`
 */
export async function removeMark(id: string, mark: string): Promise<{ id: string }> {
  const db = await database();
  const gone = await db.write((transaction) => db.marks.destroy({ where: { studyId: id, id: mark }, transaction }));
  if (gone === 0) throw new Problem("no-mark", {});
  return { id: mark };
}
