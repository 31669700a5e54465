import { Op, type Transaction } from "sequelize";
import { sweepSessions } from "./access/sessions";
import { listBackups, makeBackup, removeBackup, sweepParts } from "./backups";
import { clock } from "./clock";
import { type Database, database, type SettingRow } from "./database";
import { log } from "./log";
import { DAY, readRetention } from "./retention";

/** How long finished computations are kept. */
const JOBS_KEPT = 7 * DAY;
/** Free pages, of all, from which on the file is written anew: it stays within a fifth of what lives in it. */
const MOST_FREE = 1 / 6;

/** What is remembered of house-keeping: how long servers ran, and since when what is deleted was found due to go. */
interface Remembered {
  ran: number;
  due: Record<string, { at: number; ran: number }>;
}
const REMEMBERED = "housekeeping";

/** Up to which time of this process its running was added up. */
const holder = globalThis as unknown as { trialmoorAddedUp?: number };

async function remembered(db: Database, transaction: Transaction): Promise<Remembered> {
  const row = await db.settings.findByPk(REMEMBERED, { raw: true, transaction });
  const kept = row ? (JSON.parse((row as unknown as SettingRow).value) as Remembered) : { ran: 0, due: {} };
  const now = clock.now();
  // In whole milliseconds: what fractions round off would make a day less than one.
  const ran = Math.round(kept.ran + now - (holder.trialmoorAddedUp ?? 0));
  holder.trialmoorAddedUp = now;
  return { ...kept, ran };
}

/**
 * Lets go of what has been kept long enough. A clock that is wrong for an hour deletes nothing for good: a study goes
 * when it was found due twice, a day or more apart by the clock and by the time for which servers ran.
 */
export async function prune(now = Date.now()): Promise<{ jobs: number; studies: number }> {
  const db = await database();
  const { deletedDays } = await readRetention();
  const before = (ms: number): string => new Date(now - ms).toISOString();
  return db.write(async (transaction) => {
    const jobs = await db.sequelize.query(
      "DELETE FROM jobs WHERE state NOT IN ('waiting', 'running') AND updatedAt < $before RETURNING id",
      { bind: { before: before(JOBS_KEPT) }, transaction },
    );
    const { ran, due: since } = await remembered(db, transaction);
    const found = (await db.studies.findAll({
      where: { deletedAt: { [Op.lt]: before(deletedDays * DAY) } },
      attributes: ["id"],
      raw: true,
      transaction,
    })) as unknown as { id: string }[];
    const due = Object.fromEntries(found.map(({ id }) => [id, since[id] ?? { at: now, ran }]));
    const gone = Object.keys(due).filter((id) => now - due[id].at >= DAY && ran - due[id].ran >= DAY);
    for (const id of gone) delete due[id];
    await db.settings.upsert({ name: REMEMBERED, value: JSON.stringify({ ran, due }) }, { transaction });
    const bind = { gone: JSON.stringify(gone) };
    const old = "(SELECT value FROM json_each($gone))";
    for (const table of ["events", "jobs", "spent", "benchKeys", "leases", "lending"])
      await db.sequelize.query(`DELETE FROM ${table} WHERE studyId IN ${old}`, { bind, transaction });
    // Waves, trials, results and marks go with their study.
    const studies = await db.sequelize.query(`DELETE FROM studies WHERE id IN ${old} RETURNING id`, {
      bind,
      transaction,
    });
    return { jobs: jobs[0].length, studies: studies[0].length };
  });
}

/** Writes the database file anew where much of it is empty; answers whether it did. */
export async function compact(): Promise<boolean> {
  const db = await database();
  return db.alone(async (handle) => {
    const one = async (name: string): Promise<number> =>
      Object.values((await handle.all<Record<string, number>>(`PRAGMA ${name}`))[0])[0];
    if ((await one("freelist_count")) <= MOST_FREE * (await one("page_count"))) return false;
    await handle.exec("VACUUM");
    await handle.all("PRAGMA wal_checkpoint(TRUNCATE)");
    return true;
  });
}

/** Makes the backup of the day where it is due, and lets the oldest of them go. */
export async function backUpDaily(now = Date.now()): Promise<void> {
  const { dailyBackup, backupsKept } = await readRetention();
  if (!dailyBackup) return;
  const daily = async () => (await listBackups()).filter((b) => b.name.startsWith("daily-"));
  const [newest] = await daily();
  // One from the future was made under a clock that was wrong.
  const age = newest ? now - Date.parse(newest.at) : DAY;
  if (age < DAY && age > -DAY / 24) return;
  await makeBackup("daily");
  for (const old of (await daily()).slice(backupsKept)) await removeBackup(old.name);
}

/** One round of all of it; what fails is logged and tried again in the next. */
async function round(): Promise<void> {
  for (const work of [backUpDaily, prune, sweepSessions, compact])
    try {
      await work();
    } catch (error) {
      log.error(error);
    }
}

/** Keeps house: soon after the start, then every hour; answers what ends it. */
export function keepHouse(): () => void {
  sweepParts().catch((error: unknown) => log.error(error));
  const soon = setTimeout(() => void round(), 60_000);
  const hourly = setInterval(() => void round(), DAY / 24);
  soon.unref();
  hourly.unref();
  return () => {
    clearTimeout(soon);
    clearInterval(hourly);
  };
}
