import type { Transaction } from "sequelize";
import { clock } from "./clock";
import { type Database, database, type LeaseRow } from "./database";

// Leases stand on the disk, so that they outlive a restart, and in memory, where they are looked up and timed.

/** A lease with when it is over, by the clock that only goes forward. */
interface Held extends LeaseRow {
  deadline: number;
}
const holder = globalThis as unknown as { trialmoorLeases?: { of: Database; all: Promise<Map<string, Held>> } };

/** After a restart a lease has what the clock says is left of it, and never more than its own length. */
const remaindered = (row: LeaseRow): Held => {
  const left = Date.parse(row.until) - Date.now();
  return {
    ...row,
    deadline: clock.now() + Math.max(0, Math.min(row.seconds * 1000, Number.isFinite(left) ? left : 0)),
  };
};

/** All leases of the database that is open, read once. */
async function known(): Promise<Map<string, Held>> {
  const db = await database();
  if (holder.trialmoorLeases?.of !== db) {
    const read = async (): Promise<Map<string, Held>> => {
      const rows = (await db.leases.findAll({ raw: true })) as unknown as LeaseRow[];
      return new Map(rows.map((row) => [row.id, remaindered(row)]));
    };
    holder.trialmoorLeases = { of: db, all: read() };
  }
  return holder.trialmoorLeases.all;
}

/** Lets go of what is known, where the table was changed as a whole. */
export function forgetLeases(): void {
  delete holder.trialmoorLeases;
}

/** A lease, over or not; undefined for one that was never given or whose trial was lent again. */
export async function leaseOf(studyId: string, id: string): Promise<LeaseRow | undefined> {
  const found = (await known()).get(id);
  return found?.studyId === studyId ? found : undefined;
}

/** How long a lease still holds, in milliseconds; 0 where it is over. */
export async function remaining(id: string): Promise<number> {
  return Math.max(0, ((await known()).get(id)?.deadline ?? 0) - clock.now());
}

/** Leases of a study that hold, each with the time until which it does as the clock now says it. */
export async function leasesOf(studyId: string): Promise<LeaseRow[]> {
  const now = clock.now();
  return [...(await known()).values()].flatMap(({ deadline, ...row }) =>
    row.studyId === studyId && deadline > now ? [{ ...row, until: untilOf(deadline - now) }] : [],
  );
}

const untilOf = (ms: number): string => new Date(Date.now() + ms).toISOString();

/** Gives a lease, in place of one of the same trial that is over. */
export async function give(db: Database, row: Omit<LeaseRow, "until">, transaction: Transaction): Promise<string> {
  const all = await known();
  const until = untilOf(row.seconds * 1000);
  const { id, studyId, trialId, holder: who, seconds, since } = row;
  await db.sequelize.query(
    `INSERT OR REPLACE INTO leases (id, studyId, trialId, holder, seconds, since, until)
      VALUES ($id, $studyId, $trialId, $who, $seconds, $since, $until)`,
    { bind: { id, studyId, trialId, who, seconds, since, until }, transaction },
  );
  transaction.afterCommit(() => {
    for (const other of all.values()) if (other.studyId === studyId && other.trialId === trialId) all.delete(other.id);
    all.set(id, { ...row, until, deadline: clock.now() + seconds * 1000 });
  });
  return until;
}

/** Lends on for as long again. */
export async function extend(db: Database, { id, seconds }: LeaseRow, transaction: Transaction): Promise<string> {
  const held = (await known()).get(id);
  const until = untilOf(seconds * 1000);
  await db.leases.update({ until }, { where: { id }, transaction });
  if (held) transaction.afterCommit(() => void Object.assign(held, { until, deadline: clock.now() + seconds * 1000 }));
  return until;
}

/** Ends a lease that is kept, so that a request sent again finds its trial. */
export async function end(db: Database, id: string, transaction: Transaction): Promise<void> {
  const held = (await known()).get(id);
  const until = new Date(0).toISOString();
  await db.leases.update({ until }, { where: { id }, transaction });
  if (held) transaction.afterCommit(() => void Object.assign(held, { until, deadline: 0 }));
}

/** Takes a lease away altogether. */
export async function drop(db: Database, id: string, transaction: Transaction): Promise<void> {
  const all = await known();
  await db.leases.destroy({ where: { id }, transaction });
  transaction.afterCommit(() => void all.delete(id));
}
