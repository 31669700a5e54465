import { database } from "./database";

/** How long what was found stands for those who ask next, in milliseconds. */
const STANDS = 1000;

interface Probe {
  at: number;
  found: Promise<{ status: "ok" }>;
}
// One holder for the process: separate route bundles must share it.
const holder = globalThis as unknown as { trialmoorHealth?: Probe };

async function probe(writes: boolean): Promise<{ status: "ok" }> {
  const db = await database();
  if (writes)
    await db.write((transaction) =>
      db.sequelize.query(
        "INSERT INTO probes (id, at) VALUES (1, $at) ON CONFLICT (id) DO UPDATE SET at = excluded.at",
        { bind: { at: new Date().toISOString() }, transaction },
      ),
    );
  else await db.sequelize.query("SELECT at FROM probes");
  return { status: "ok" };
}

/**
 * Writes a row, so that health fails when a write of a study would, and recovers when it would. Those who ask within a
 * second share one answer; for a stranger of a network nothing is written.
 * @throws the database's own error, which becomes 507 for a full disk and 503 for one that cannot be written
 */
export function checkHealth(writes: boolean): Promise<{ status: "ok" }> {
  const now = performance.now();
  const last = holder.trialmoorHealth;
  if (last && now - last.at < STANDS) return last.found;
  const found = probe(writes);
  // Looked at by whoever asked; what nobody reads any more is no fault of its own.
  found.catch(() => undefined);
  // What a stranger is told rests on no write: who may write asks anew.
  if (writes) holder.trialmoorHealth = { at: now, found };
  return found;
}
