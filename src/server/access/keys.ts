import { createHash, randomBytes } from "node:crypto";
import * as z from "zod";
import { type BenchKeyRow, database } from "../database";
import { Problem } from "../problem";
import { readStudy } from "../studies";

/** Most keys of one study's bench. */
const MOST_KEYS = 50;

/** Of a secret that is long and random, so that nothing slower is needed. */
export const digestOf = (secret: string): string => createHash("sha256").update(secret).digest("hex");
export const newSecret = (): string => randomBytes(32).toString("base64url");

export const keySchema = z.strictObject({ name: z.string().trim().min(1).max(60) });

/** A key of a bench, as it is listed. */
export interface BenchKey {
  id: string;
  name: string;
  created: string;
  lastUsed: string | null;
}

/** The keys of a study's bench, the newest first. @throws Problem `no-study` */
export async function listKeys(study: string): Promise<BenchKey[]> {
  const { id } = await readStudy(study);
  const { benchKeys } = await database();
  const rows = await benchKeys.findAll({ where: { studyId: id }, order: [["createdAt", "DESC"]], raw: true });
  return (rows as unknown as BenchKeyRow[]).map((k) => ({
    id: k.id,
    name: k.name,
    created: k.createdAt,
    lastUsed: k.lastUsed,
  }));
}

/**
 * Makes a key of a study's bench. The link that holds it is told this once: only a digest is kept.
 * @param origin the address by which the server was asked
 * @throws Problem `no-study`, `too-many-bench-keys`
 */
export async function makeKey(study: string, name: string, origin: string): Promise<{ id: string; url: string }> {
  const { id: studyId } = await readStudy(study);
  const db = await database();
  const secret = newSecret();
  const id = randomBytes(6).toString("hex");
  await db.write(async (transaction) => {
    if ((await db.benchKeys.count({ where: { studyId }, transaction })) >= MOST_KEYS)
      throw new Problem("too-many-bench-keys", { most: MOST_KEYS });
    const createdAt = new Date().toISOString();
    await db.benchKeys.create(
      { id, studyId, name, digest: digestOf(secret), createdAt, lastUsed: null },
      { transaction },
    );
  });
  // Behind the hash, so that it stands in no log and is sent to nobody.
  return { id, url: `${origin}/studies/${studyId}/bench#key=${secret}` };
}

/** Takes a key back; sessions that rest on it end. @throws Problem `no-bench-key` */
export async function revokeKey(study: string, id: string): Promise<{ id: string }> {
  const db = await database();
  await db.write(async (transaction) => {
    const gone = await db.benchKeys.destroy({ where: { id, studyId: study }, transaction });
    if (gone === 0) throw new Problem("no-bench-key", {}, { path: ["key"] });
    await db.sessions.destroy({ where: { role: "bench", mark: id }, transaction });
  });
  return { id };
}

const one = async (where: Partial<BenchKeyRow>): Promise<BenchKeyRow | undefined> =>
  ((await (await database()).benchKeys.findOne({ where, raw: true })) as unknown as BenchKeyRow | null) ?? undefined;

/** The key of a secret, undefined where there is none. */
export const keyBySecret = (secret: string): Promise<BenchKeyRow | undefined> => one({ digest: digestOf(secret) });
/** A key by its id, undefined where it was taken back. */
export const keyById = (id: string): Promise<BenchKeyRow | undefined> => one({ id });
