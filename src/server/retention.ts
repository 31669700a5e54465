import * as z from "zod";
import { database } from "./database";

/** A day, in milliseconds. */
export const DAY = 86_400_000;

/** What a person may decide about what is kept; as stored, each a setting of its name. */
export const retentionSchema = z.strictObject({
  deletedDays: z
    .number()
    .int()
    .min(1)
    .max(3650)
    .default(90)
    .describe("days for which a deleted study can be brought back"),
  dailyBackup: z.boolean().default(true).describe("whether everything is backed up once a day"),
  backupsKept: z.number().int().min(1).max(365).default(7).describe("daily backups that are kept"),
});
/** A change of it: what is not said stays. */
export const retentionChange = z.strictObject({
  deletedDays: retentionSchema.shape.deletedDays.unwrap().optional(),
  dailyBackup: z.boolean().optional(),
  backupsKept: retentionSchema.shape.backupsKept.unwrap().optional(),
});
export type Retention = z.output<typeof retentionSchema>;

/** What is kept for how long. */
export async function readRetention(): Promise<Retention> {
  const db = await database();
  const rows = (await db.settings.findAll({ raw: true })) as unknown as { name: string; value: string }[];
  const own = rows.filter((r) => r.name in retentionSchema.shape);
  return retentionSchema.parse(Object.fromEntries(own.map((r) => [r.name, JSON.parse(r.value) as unknown])));
}

/** Decides what is kept for how long; what is not said stays. */
export async function setRetention(change: Partial<Retention>): Promise<Retention> {
  const db = await database();
  await db.write(async (transaction) => {
    for (const [name, value] of Object.entries(change))
      if (value !== undefined) await db.settings.upsert({ name, value: JSON.stringify(value) }, { transaction });
  });
  return readRetention();
}

/** Until when a study that was deleted then can be brought back. */
export const keptUntil = (deletedAt: string, { deletedDays }: Pick<Retention, "deletedDays">): string => {
  const at = Date.parse(deletedAt);
  // A row that does not say when: from now on.
  return new Date((Number.isFinite(at) ? at : Date.now()) + deletedDays * DAY).toISOString();
};
