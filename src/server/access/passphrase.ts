import { randomBytes, scrypt, timingSafeEqual } from "node:crypto";
import { closeSync, fsyncSync, openSync, readFileSync, renameSync, statSync, writeSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import * as z from "zod";
import { StartError } from "../folder";

/** Fewest and most characters of a passphrase. */
export const LEAST_CHARACTERS = 12;
export const MOST_CHARACTERS = 200;

/** What the file holds: the digest with what it was made by, so that a later version can ask for more work. */
const fileSchema = z.strictObject({
  algorithm: z.literal("scrypt"),
  n: z.number().int().min(2),
  r: z.number().int().min(1),
  p: z.number().int().min(1),
  salt: z.string().min(22),
  digest: z.string().min(40),
});
type Kept = z.output<typeof fileSchema>;

/** Work of one digest: 128 MB and about half a second (Percival 2009; parameters as commonly advised). */
const WORK = { n: 2 ** 17, r: 8, p: 1 };
const BYTES = 32;

const pathIn = (folder: string): string => join(folder, "passphrase.json");
const derive = promisify<string, Buffer, number, object, Buffer>(scrypt);

async function digestOf(passphrase: string, { n, r, p, salt }: Omit<Kept, "digest" | "algorithm">): Promise<Buffer> {
  const options = { N: n, r, p, maxmem: 256 * n * r };
  return derive(passphrase.normalize("NFKC"), Buffer.from(salt, "base64"), BYTES, options);
}

/** What was read last, until the file changes. */
let last: { stamp: string; kept: Kept } | undefined;

/**
 * The passphrase as it is kept, undefined where none was set.
 * @throws StartError `bad-passphrase-file`
 */
function read(folder: string): Kept | undefined {
  const path = pathIn(folder);
  try {
    const { mtimeMs, ino } = statSync(/* turbopackIgnore: true */ path);
    const stamp = `${path} ${mtimeMs} ${ino}`;
    if (last?.stamp !== stamp)
      last = { stamp, kept: fileSchema.parse(JSON.parse(readFileSync(/* turbopackIgnore: true */ path, "utf8"))) };
    return last.kept;
  } catch (error) {
    if ((error as { code?: string }).code === "ENOENT") return undefined;
    throw new StartError("bad-passphrase-file", { path });
  }
}

/**
 * What tells one setting of the passphrase from the next, undefined where none is set: sessions begun under another
 * have ended.
 * @throws StartError `bad-passphrase-file`
 */
export const passphraseMark = (folder: string): string | undefined => read(folder)?.salt;

/**
 * Sets the passphrase of a data folder; sessions that were begun under another end.
 * @throws StartError `passphrase-short`, `passphrase-long`
 */
export async function setPassphrase(folder: string, passphrase: string): Promise<void> {
  const length = [...passphrase].length;
  if (length < LEAST_CHARACTERS) throw new StartError("passphrase-short", { least: LEAST_CHARACTERS });
  if (length > MOST_CHARACTERS) throw new StartError("passphrase-long", { most: MOST_CHARACTERS });
  const made = { ...WORK, salt: randomBytes(16).toString("base64") };
  const digest = (await digestOf(passphrase, made)).toString("base64");
  const part = `${pathIn(folder)}.part`;
  const file = openSync(/* turbopackIgnore: true */ part, "w", 0o600);
  try {
    writeSync(file, `${JSON.stringify({ algorithm: "scrypt", ...made, digest })}\n`);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  renameSync(part, pathIn(folder));
}

/** Digests are made one after another: each takes much memory, and half a second. */
let queue: Promise<unknown> = Promise.resolve();
let waiting = 0;
const MOST_WAITING = 20;

/** Whether so many wait for a digest already that nobody else should. */
export const tooManyWaiting = (): boolean => waiting >= MOST_WAITING;

/** Whether it is the passphrase; takes as long when it is not, or when none is set. */
export function isPassphrase(folder: string, passphrase: string): Promise<boolean> {
  const next = queue.then(async () => {
    const kept = read(folder);
    const against = kept ?? { ...WORK, salt: "", digest: Buffer.alloc(BYTES).toString("base64") };
    const same = timingSafeEqual(await digestOf(passphrase, against), Buffer.from(against.digest, "base64"));
    return same && kept !== undefined;
  });
  waiting++;
  queue = next
    .catch(() => undefined)
    .finally(() => {
      waiting--;
    });
  return next;
}
