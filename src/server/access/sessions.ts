import { database, type SessionRow } from "../database";
import { Problem } from "../problem";
import { digestOf, keyById, keyBySecret, newSecret } from "./keys";
import { isPassphrase, passphraseMark, tooManyWaiting } from "./passphrase";
import type { Session } from "./session";
import { triesOf, WrongTries } from "./tries";

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/**
 * How long a session lives without use, and at all. A tablet's link is shown once, so its session lasts as long as a
 * series of trials may; it ends at once when the key is taken back.
 */
export const LIFE = {
  desk: { idle: 12 * HOUR, whole: 7 * DAY },
  bench: { idle: 30 * DAY, whole: 180 * DAY },
} as const;

/** Sessions that a key of a bench has at once: the newest. */
const MOST_OF_A_KEY = 20;

/** Use is written down no more often than this. */
const NOTED_MS = 60_000;
const COOKIE = "__Host-trialmoor";

const tries = new WrongTries();
/** How long somebody is asked to wait while many others sign in, in seconds. */
const BUSY_SECONDS = 5;

/** A session that was begun: what the browser is given, and who it then is. */
export interface Begun {
  cookie: string;
  session: Session;
}

const cookie = (token: string, seconds: number): string =>
  `${COOKIE}=${token}; Path=/; Max-Age=${seconds}; HttpOnly; Secure; SameSite=Strict`;

/** Lets the browser forget its session. */
export const FORGET = cookie("", 0);

/** The token that a browser sends, undefined where it sends none. */
export function tokenIn(cookies: string | undefined): string | undefined {
  for (const part of (cookies ?? "").split(";")) {
    const [name, value] = part.trim().split("=");
    if (name === COOKIE && value) return value;
  }
  return undefined;
}

async function begin(session: Session, mark: string, before: string | undefined): Promise<Begun> {
  const db = await database();
  const token = newSecret();
  const now = new Date().toISOString();
  const { role, name } = session;
  await db.write(async (transaction) => {
    if (before) await db.sessions.destroy({ where: { digest: digestOf(before) }, transaction });
    await db.sessions.create(
      { digest: digestOf(token), role, name, mark, createdAt: now, usedAt: now },
      { transaction },
    );
    // A link that is opened over and over, as a tablet without cookies does, leaves its newest sessions alone.
    if (role === "bench")
      await db.sequelize.query(
        `DELETE FROM sessions WHERE role = 'bench' AND mark = $mark AND digest NOT IN
          (SELECT digest FROM sessions WHERE role = 'bench' AND mark = $mark
            ORDER BY createdAt DESC, rowid DESC LIMIT $most)`,
        { bind: { mark, most: MOST_OF_A_KEY }, transaction },
      );
  });
  return { cookie: cookie(token, LIFE[role].whole / 1000), session };
}

/**
 * Signs a person in by the passphrase.
 * @param before token of a session that this one takes the place of
 * @throws Problem `wrong-passphrase`; `too-many-tries` after five wrong ones
 */
export async function signIn(
  passphrase: string,
  name: string,
  client: string,
  before: string | undefined,
): Promise<Begun> {
  const { folder } = await database();
  const address = triesOf(client);
  const waits = tries.waits(address);
  if (waits > 0 || tooManyWaiting()) {
    const seconds = Math.max(BUSY_SECONDS, Math.ceil(waits / 1000));
    throw new Problem("too-many-tries", { seconds }, { headers: { "retry-after": String(seconds) } });
  }
  tries.begun(address);
  if (!(await isPassphrase(folder, passphrase))) {
    tries.wrong(address);
    throw new Problem("wrong-passphrase", {}, { path: ["passphrase"] });
  }
  tries.right(address);
  return begin({ role: "desk", name, opened: true }, passphraseMark(folder) ?? "", before);
}

/** Opens the bench of one study by a key. @throws Problem `wrong-bench-key` */
export async function signInByKey(secret: string, before: string | undefined): Promise<Begun> {
  const session = await byKey(secret);
  if (!session) throw new Problem("wrong-bench-key", {}, { path: ["key"] });
  return begin(session.session, session.id, before);
}

/** Who a key lets in, undefined where it was taken back. */
export async function byKey(secret: string): Promise<{ id: string; session: Session } | undefined> {
  const key = await keyBySecret(secret);
  if (!key) return undefined;
  await note("benchKeys", "lastUsed", "id", key.id, key.lastUsed);
  return { id: key.id, session: { role: "bench", name: key.name, study: key.studyId, opened: true } };
}

/** Notes that something was used, now and then. */
async function note(table: string, column: string, by: string, id: string, before: string | null): Promise<void> {
  const now = Date.now();
  if (before !== null && now - Date.parse(before) < NOTED_MS) return;
  const db = await database();
  await db.write((transaction) =>
    db.sequelize.query(`UPDATE ${table} SET ${column} = $at WHERE ${by} = $id`, {
      bind: { at: new Date(now).toISOString(), id },
      transaction,
    }),
  );
}

/**
 * Who a token belongs to, undefined once it has ended: too old, long unused, its passphrase or key not the same.
 *
 * @param person whether a person may be behind the request; what a page asks by itself keeps no session alive
 */
export async function byToken(token: string, now = Date.now(), person = true): Promise<Session | undefined> {
  const { sessions, folder } = await database();
  const digest = digestOf(token);
  const row = (await sessions.findByPk(digest, { raw: true })) as unknown as SessionRow | null;
  if (!row) return undefined;
  const role = row.role === "bench" ? "bench" : "desk";
  const { idle, whole } = LIFE[role];
  if (now - Date.parse(row.createdAt) > whole || now - Date.parse(row.usedAt) > idle) return undefined;
  if (role === "desk") {
    if (row.mark !== passphraseMark(folder)) return undefined;
    if (person) await note("sessions", "usedAt", "digest", digest, row.usedAt);
    return { role, name: row.name, opened: true };
  }
  const key = await keyById(row.mark);
  if (!key) return undefined;
  if (person) await note("sessions", "usedAt", "digest", digest, row.usedAt);
  await note("benchKeys", "lastUsed", "id", key.id, key.lastUsed);
  return { role, name: key.name, study: key.studyId, opened: true };
}

/** Ends a session. */
export async function signOut(token: string): Promise<void> {
  const db = await database();
  await db.write((transaction) => db.sessions.destroy({ where: { digest: digestOf(token) }, transaction }));
}

/** Lets go of sessions that have ended; answers how many. */
export async function sweepSessions(now = Date.now()): Promise<number> {
  const db = await database();
  return db.write(async (transaction) => {
    let gone = 0;
    for (const [role, { idle, whole }] of Object.entries(LIFE)) {
      const rows = await db.sequelize.query(
        "DELETE FROM sessions WHERE role = $role AND (createdAt < $whole OR usedAt < $idle) RETURNING digest",
        {
          bind: { role, whole: new Date(now - whole).toISOString(), idle: new Date(now - idle).toISOString() },
          transaction,
        },
      );
      gone += rows[0].length;
    }
    return gone;
  });
}
