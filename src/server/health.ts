import { database } from "./database";

/**
 * Writes a row, so that health fails when a write of a study would, and recovers when it would.
 * @throws the database's own error, which becomes 507 for a full disk and 503 for one that cannot be written
 */
export async function checkHealth(): Promise<{ status: "ok" }> {
  const db = await database();
  await db.write((transaction) =>
    db.sequelize.query("INSERT INTO probes (id, at) VALUES (1, $at) ON CONFLICT (id) DO UPDATE SET at = excluded.at", {
      bind: { at: new Date().toISOString() },
      transaction,
    }),
  );
  return { status: "ok" };
}
