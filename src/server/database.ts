import { DataTypes, type Model, type ModelStatic, Sequelize, Transaction } from "sequelize";
import type { Study } from "@/core/study";
import { dataFolder, openFolder } from "./folder";
import { markDamage } from "./rows";
import { Handle } from "./sqlite";

type Row<T extends object> = Model<T, T>;
export interface StudyRow {
  id: string;
  title: string;
  revision: number;
  document: string;
  createdAt: string;
  updatedAt: string;
  deletedAt: string | null;
  /** What Home lists, as JSON; null until it was worked out. */
  facts: string | null;
  /** Why the study cannot be read, where it cannot. */
  damage: string | null;
}
export interface WaveRow {
  studyId: string;
  id: string;
  position: number;
  document: string;
}
export interface TrialRow {
  studyId: string;
  id: string;
  position: number;
  wave: string;
  runOrder: number;
  document: string;
}
export interface ResultRow {
  studyId: string;
  trialId: string;
  response: string;
  value: string;
}
export interface EventRow {
  id?: number;
  studyId: string;
  revision: number;
  at: string;
  who: string;
  what: string;
  edits: string;
}
export interface JobRow {
  id: string;
  studyId: string;
  name: string;
  state: string;
  progress: number;
  text: string;
  answer: string | null;
  /** The best so far of a computation that was stopped or interrupted, as JSON. */
  best: string | null;
  problem: string | null;
  createdAt: string;
  updatedAt: string;
}

export interface MarkRow {
  id: string;
  studyId: string;
  /** The state it names. */
  revision: number;
  /** Where the person stood who made it. */
  station: string;
  name: string;
  at: string;
  who: string;
}

export interface SettingRow {
  name: string;
  value: string;
}

/** The highest revision that a study ever had; none is given out twice, whatever is brought back. */
export interface SpentRow {
  studyId: string;
  revision: number;
}

/** The key by which a device reaches the bench of one study; of the key itself only its digest is kept. */
export interface BenchKeyRow {
  id: string;
  studyId: string;
  name: string;
  digest: string;
  createdAt: string;
  lastUsed: string | null;
}

export interface SessionRow {
  /** Of the token that the browser holds. */
  digest: string;
  role: string;
  /** Under which changes stand. */
  name: string;
  /** What it rests on: the passphrase as it was set, or the bench key. */
  mark: string;
  createdAt: string;
  usedAt: string;
}

/** A trial lent to a program or a rig. */
export interface LeaseRow {
  id: string;
  studyId: string;
  trialId: string;
  holder: string;
  /** How long it is lent for, each time. */
  seconds: number;
  since: string;
  until: string;
}

/** Whether a study lends trials, and how many at once; a study without lends as many as are asked for. */
export interface LendingRow {
  studyId: string;
  stopped: 0 | 1;
  atOnce: number | null;
}

export interface RequestRow {
  key: string;
  digest: string;
  studies: string;
  at: string;
}

export interface Database {
  sequelize: Sequelize;
  studies: ModelStatic<Row<StudyRow>>;
  waves: ModelStatic<Row<WaveRow>>;
  trials: ModelStatic<Row<TrialRow>>;
  results: ModelStatic<Row<ResultRow>>;
  events: ModelStatic<Row<EventRow>>;
  jobs: ModelStatic<Row<JobRow>>;
  /** Requests that name themselves by a key, so that one sent twice is done once. */
  requests: ModelStatic<Row<RequestRow>>;
  marks: ModelStatic<Row<MarkRow>>;
  settings: ModelStatic<Row<SettingRow>>;
  spent: ModelStatic<Row<SpentRow>>;
  benchKeys: ModelStatic<Row<BenchKeyRow>>;
  sessions: ModelStatic<Row<SessionRow>>;
  leases: ModelStatic<Row<LeaseRow>>;
  lending: ModelStatic<Row<LendingRow>>;
  /** Studies as they were last read or written, so that what has not changed is not read from its rows again. */
  latest: Map<string, { revision: number; study: Study }>;
  /** Runs one writing transaction; they queue up, since SQLite takes one writer at a time. */
  write<T>(work: (transaction: Transaction) => Promise<T>): Promise<T>;
  /** Runs work on a handle of its own while nothing else writes. */
  alone<T>(work: (handle: Handle) => Promise<T>): Promise<T>;
  /** Where the database and what belongs to it is kept. */
  folder: string;
  /** Closes the database and lets its folder go. */
  close(): Promise<void>;
}

/** Thirty days, in milliseconds. */
const KEYS_KEPT = 30 * 86_400_000;

const PRAGMAS = [
  "PRAGMA journal_mode = WAL",
  "PRAGMA busy_timeout = 5000",
  "PRAGMA foreign_keys = ON",
  "PRAGMA synchronous = FULL",
];

/** A handle as the pool holds it. */
interface Pooled {
  run(sql: string, done: (error: Error | null) => void): void;
}

/** Transactions open handles of their own: each new one gets the pragmas before it is used. */
function withPragmas(sequelize: Sequelize): void {
  const manager = (sequelize as unknown as { connectionManager: { getConnection(options: object): Promise<Pooled> } })
    .connectionManager;
  const original = manager.getConnection.bind(manager);
  const ready = new WeakSet<Pooled>();
  manager.getConnection = async (options) => {
    const handle = await original(options);
    if (!ready.has(handle)) {
      for (const sql of PRAGMAS)
        await new Promise<void>((resolve, reject) => handle.run(sql, (error) => (error ? reject(error) : resolve())));
      ready.add(handle);
    }
    return handle;
  };
}

async function open(): Promise<Database> {
  const folder = dataFolder();
  const { storage, release } = await openFolder(folder);
  const sequelize = new Sequelize({ dialect: "sqlite", storage, logging: false });
  withPragmas(sequelize);
  // Functions, since Sequelize writes each column's name into the object that describes it.
  const text = () => ({ type: DataTypes.TEXT, allowNull: false });
  const key = () => ({ ...text(), primaryKey: true });
  const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
  const open = () => ({ type: DataTypes.TEXT, allowNull: true });
  const options = { timestamps: false };
  let queue: Promise<unknown> = Promise.resolve();
  const db: Database = {
    sequelize,
    latest: new Map(),
    studies: sequelize.define(
      "studies",
      {
        id: key(),
        title: text(),
        revision: whole(),
        document: text(),
        createdAt: text(),
        updatedAt: text(),
        deletedAt: open(),
        facts: open(),
        damage: open(),
      },
      options,
    ),
    waves: sequelize.define("waves", { studyId: key(), id: key(), position: whole(), document: text() }, options),
    trials: sequelize.define(
      "trials",
      { studyId: key(), id: key(), position: whole(), wave: text(), runOrder: whole(), document: text() },
      options,
    ),
    results: sequelize.define("results", { studyId: key(), trialId: key(), response: key(), value: text() }, options),
    events: sequelize.define(
      "events",
      {
        id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
        studyId: text(),
        revision: whole(),
        at: text(),
        who: text(),
        what: text(),
        edits: text(),
      },
      options,
    ),
    jobs: sequelize.define(
      "jobs",
      {
        id: key(),
        studyId: text(),
        name: text(),
        state: text(),
        progress: { type: DataTypes.FLOAT, allowNull: false },
        text: text(),
        answer: open(),
        best: open(),
        problem: open(),
        createdAt: text(),
        updatedAt: text(),
      },
      options,
    ),
    marks: sequelize.define(
      "marks",
      { id: key(), studyId: text(), revision: whole(), station: text(), name: text(), at: text(), who: text() },
      options,
    ),
    settings: sequelize.define("settings", { name: key(), value: text() }, options),
    spent: sequelize.define("spent", { studyId: key(), revision: whole() }, { ...options, freezeTableName: true }),
    benchKeys: sequelize.define(
      "benchKeys",
      { id: key(), studyId: text(), name: text(), digest: text(), createdAt: text(), lastUsed: open() },
      { ...options, freezeTableName: true },
    ),
    sessions: sequelize.define(
      "sessions",
      { digest: key(), role: text(), name: text(), mark: text(), createdAt: text(), usedAt: text() },
      options,
    ),
    leases: sequelize.define(
      "leases",
      { id: key(), studyId: text(), trialId: text(), holder: text(), seconds: whole(), since: text(), until: text() },
      options,
    ),
    lending: sequelize.define(
      "lending",
      { studyId: key(), stopped: whole(), atOnce: { type: DataTypes.INTEGER, allowNull: true } },
      { ...options, freezeTableName: true },
    ),
    requests: sequelize.define("requests", { key: key(), digest: text(), studies: text(), at: text() }, options),
    write(work) {
      const next = queue.then(() => sequelize.transaction({ type: Transaction.TYPES.IMMEDIATE }, work));
      queue = next.catch(() => undefined);
      return next;
    },
    folder,
    alone(work) {
      const next = queue.then(async () => {
        const handle = await Handle.open(storage);
        try {
          await handle.exec("PRAGMA busy_timeout = 5000; PRAGMA synchronous = FULL; PRAGMA foreign_keys = OFF;");
          return await work(handle);
        } finally {
          await handle.close();
        }
      });
      queue = next.catch(() => undefined);
      return next;
    },
    async close() {
      await queue;
      await sequelize.close();
      await release();
    },
  };
  await markDamage(db);
  // Keys of requests are kept for as long as one may still be sent again.
  await sequelize.query("DELETE FROM requests WHERE at < $before", {
    bind: { before: new Date(Date.now() - KEYS_KEPT).toISOString() },
  });
  // What was running when the server last went down will not go on.
  await db.jobs.update(
    { state: "interrupted", text: "interrupted by a restart; start it again", updatedAt: new Date().toISOString() },
    { where: { state: ["waiting", "running"] } },
  );
  return db;
}

// One holder for the process: hot reloads and separate route bundles must share it.
const holder = globalThis as unknown as { trialmoorDatabase?: Promise<Database> };

/** The database, opened and migrated on first use. */
export const database = (): Promise<Database> => {
  holder.trialmoorDatabase ??= open();
  return holder.trialmoorDatabase;
};
