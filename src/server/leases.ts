import { randomBytes } from "node:crypto";
import type { Transaction } from "sequelize";
import * as z from "zod";
import {
  type Asked,
  askedOf,
  checkAnswer,
  type Outcome,
  outcomeEdits,
  programAnswer,
  readAnswer,
} from "@/core/formats";
import { trialOf, waiting } from "@/core/operator";
import type { Edit, Study, Trial } from "@/core/study";
import { type Database, database, type LeaseRow, type LendingRow } from "./database";
import { drop, end, extend, give, leaseOf, leasesOf, remaining } from "./held-leases";
import { Problem, type Sent } from "./problem";
import { linked, type RigsSeen, seenRigs } from "./rigs/seen";
import { changeNow, changesSince, digestOf, type Named, readStudy } from "./studies";

/** Before the name of a rig, where it holds a trial: programs cannot call themselves so. */
const RIG = "rig:";
export const rigHolder = (rig: string): string => `${RIG}${rig}`;
/** The rig that holds a trial; undefined where a program does. */
export const rigIn = (holder: string): string | undefined =>
  holder.startsWith(RIG) ? holder.slice(RIG.length) : undefined;
const called = (holder: string): string => rigIn(holder) ?? holder;

/** How long a trial is lent for unless said, in seconds. */
const LENT_FOR = 600;
/** Longest wait that a program is asked for before it asks again, in seconds. */
const ASK_AGAIN = 10;
/** Trials that the rate is told from, and how far back. */
const LATELY = { trials: 60, ms: 30 * 60_000 };

export const nextSchema = z.strictObject({
  holder: z
    .string()
    .trim()
    .min(1)
    .max(60)
    .regex(/^(?!rig:)/)
    .describe("who runs it: stands with the results"),
  seconds: z.number().int().min(5).max(86_400).optional().describe("how long it may take before it is lent again; 600"),
});
export const answerSchema = programAnswer;
export const failSchema = z.strictObject({ reason: z.string().trim().min(1).max(4000) });
export const lendingSchema = z.strictObject({
  stopped: z.boolean().optional().describe("no trial is lent while it is"),
  atOnce: z.number().int().min(1).max(1000).nullable().optional().describe("most trials lent at once; null for any"),
});
export const watchQuery = z.strictObject({
  since: z.coerce.number().int().nonnegative().optional().describe("tell what was changed since this revision"),
});

/** A trial as it is lent. */
export interface Lease extends Asked {
  lease: string;
  until: string;
}

/** What somebody who watches is told. */
export interface Watched {
  revision: number;
  stopped: boolean;
  atOnce: number | null;
  waiting: number;
  lent: { lease: string; trial: string; order: number; holder: string; since: string; until: string }[];
  /** Trials that came back lately, and over how many seconds; the rate of both together. */
  lately: { trials: number; seconds: number };
  /** Rigs, where a settings file names their broker. */
  rigs?: RigsSeen;
  /** What was changed since the revision asked about; absent where that is too much. */
  changes?: Edit[];
}

/** When trials came back, by study; told from what this server saw. */
const holder = globalThis as unknown as { trialmoorReturns?: Map<string, number[]> };
holder.trialmoorReturns ??= new Map();
const returns = holder.trialmoorReturns;

function noteReturn(id: string): void {
  returns.set(id, [...(returns.get(id) ?? []), Date.now()].slice(-LATELY.trials));
}

const lendingOf = async (db: Database, studyId: string, transaction?: Transaction): Promise<LendingRow> =>
  ((await db.lending.findByPk(studyId, {
    raw: true,
    ...(transaction ? { transaction } : {}),
  })) as unknown as LendingRow | null) ?? { studyId, stopped: 0, atOnce: null };

/**
 * Lends the next waiting trial. Where none is to be had, says in how many seconds it is worth asking again: trials
 * that are lent may come back. Undefined where nothing is left, or lending is stopped.
 * @throws Problem `no-study`
 */
export async function lendNext(
  id: string,
  { holder, seconds = LENT_FOR }: z.output<typeof nextSchema>,
): Promise<Lease | { again: number } | undefined> {
  const db = await database();
  return db.write(async (transaction) => {
    const { study } = await readStudy(id);
    const { stopped, atOnce } = await lendingOf(db, id, transaction);
    if (stopped) return undefined;
    const lent = await leasesOf(id);
    const out = new Set(lent.map((l) => l.trialId));
    const left = waiting(study);
    const trial = left.find((t) => !out.has(t.id));
    if (!trial || (atOnce !== null && lent.length >= atOnce)) {
      if (left.length === 0 || lent.length === 0) return undefined;
      const soonest = Math.min(...(await Promise.all(lent.map((l) => remaining(l.id)))));
      return { again: Math.max(1, Math.min(ASK_AGAIN, Math.ceil(soonest / 1000))) };
    }
    const lease = randomBytes(12).toString("hex");
    const since = new Date().toISOString();
    const until = await give(db, { id: lease, studyId: id, trialId: trial.id, holder, seconds, since }, transaction);
    return { lease, until, ...askedOf(study, trial) };
  });
}

/** The trial that somebody holds, as it was lent; undefined where none does. @throws Problem `no-study` */
export async function lentTo(id: string, holder: string): Promise<Lease | undefined> {
  const { study } = await readStudy(id);
  const row = (await leasesOf(id)).find((l) => l.holder === holder);
  const trial = row && study.trials.find((t) => t.id === row.trialId && t.state === "planned");
  return trial && { lease: row.id, until: row.until, ...askedOf(study, trial) };
}

const leaseOver = (): Problem => new Problem("lease-over", {}, { path: ["lease"] });

/** A lease that holds. @throws Problem `lease-over` */
async function held(studyId: string, id: string): Promise<LeaseRow> {
  const row = await leaseOf(studyId, id);
  if (!row || (await remaining(id)) === 0) throw leaseOver();
  return row;
}

/** What came back of a lent trial. */
export interface Returned {
  revision: number;
  trial: Trial;
}

/** Takes what came of a lent trial in, once; the lease is over with it. */
async function takeBack(
  id: string,
  lease: string,
  outcomeOf: (study: Study, trial: Trial) => Outcome,
  whoIs: (holder: string) => string,
  request: Named | undefined,
): Promise<Returned> {
  const db = await database();
  const before = (await readStudy(id)).study;
  // Looked up before anything waits for its turn to write: floods of results for no lease cost no more than that.
  const known = await leaseOf(id, lease);
  if (!known) throw leaseOver();
  let came = false;
  const { revision, study } = await changeNow(
    id,
    async (study, _stored, transaction) => {
      await held(id, lease);
      // Over from here on, and kept, so that a request sent again finds its trial.
      await end(db, lease, transaction);
      const { trialId } = known;
      const trial = study.trials.find((t) => t.id === trialId);
      if (!trial) throw leaseOver();
      if (trial.state !== "planned") throw new Problem("lease-over.trial", { order: trial.order }, { path: ["lease"] });
      came = true;
      return outcomeEdits(study, [outcomeOf(study, trial)]);
    },
    `trial ${trialOf(before, known.trialId).order}: run by a program`,
    whoIs(called(known.holder)),
    request,
  );
  if (came) noteReturn(id);
  return { revision, trial: trialOf(study, known.trialId) };
}

const named = (key: string | undefined, what: object): Named | undefined =>
  key === undefined ? undefined : { key, digest: digestOf(what) };

/**
 * Takes the results of a lent trial. Sent again under the same key they are not taken again.
 * @throws Problem `no-study`, `lease-over`, `key-reused`
 * @throws StudyError `program-answer`; the trial stays lent
 */
export const takeResults = (
  id: string,
  lease: string,
  sent: Sent<z.output<typeof answerSchema>>,
  whoIs: (holder: string) => string,
  key: string | undefined,
): Promise<Returned> =>
  takeBack(
    id,
    lease,
    (study, trial) => ({
      trial: trial.id,
      answer: "text" in sent ? readAnswer(study, sent.text) : checkAnswer(study, sent.data),
    }),
    whoIs,
    named(key, { id, lease, sent }),
  );

/**
 * Marks a lent trial as failed, with why.
 * @throws Problem as `takeResults`
 */
export const takeFailure = (
  id: string,
  lease: string,
  reason: string,
  whoIs: (holder: string) => string,
  key: string | undefined,
): Promise<Returned> =>
  takeBack(id, lease, (_study, trial) => ({ trial: trial.id, why: reason }), whoIs, named(key, { id, lease, reason }));

/** Lends a trial on for as long again. @throws Problem `no-study`, `lease-over` */
export async function renewLease(id: string, lease: string): Promise<{ until: string }> {
  const db = await database();
  await readStudy(id);
  return db.write(async (transaction) => {
    return { until: await extend(db, await held(id, lease), transaction) };
  });
}

/** Gives a trial back as it was lent: it waits again. @throws Problem `no-study`, `lease-over` */
export async function giveBack(id: string, lease: string): Promise<{ lease: string }> {
  const db = await database();
  await readStudy(id);
  return db.write(async (transaction) => {
    await held(id, lease);
    await drop(db, lease, transaction);
    return { lease };
  });
}

/** Stops lending, lets it go on, or says how many at once. @throws Problem `no-study` */
export async function setLeasing(id: string, asked: z.output<typeof lendingSchema>): Promise<Watched> {
  const db = await database();
  await readStudy(id);
  await db.write(async (transaction) => {
    const now = await lendingOf(db, id, transaction);
    await db.lending.upsert(
      {
        studyId: id,
        stopped: (asked.stopped ?? now.stopped === 1) ? 1 : 0,
        atOnce: asked.atOnce === undefined ? now.atOnce : asked.atOnce,
      },
      { transaction },
    );
  });
  if (asked.stopped === false) linked().link?.wake(id);
  return watchLeases(id, {});
}

/** How lending stands, and what was changed since a revision. @throws Problem `no-study` */
export async function watchLeases(id: string, { since }: z.output<typeof watchQuery>): Promise<Watched> {
  const db = await database();
  const { revision, study } = await readStudy(id);
  const { stopped, atOnce } = await lendingOf(db, id);
  const orders = new Map(study.trials.map((t) => [t.id, t]));
  const rigs = seenRigs();
  const nameOf = (holder: string): string => rigs?.rigs.find((r) => rigHolder(r.id) === holder)?.name ?? called(holder);
  const lent = (await leasesOf(id)).flatMap((l) => {
    const trial = orders.get(l.trialId);
    if (trial?.state !== "planned") return [];
    const { id: lease, holder, since, until } = l;
    return [{ lease, trial: trial.id, order: trial.order, holder: nameOf(holder), since, until }];
  });
  const times = (returns.get(id) ?? []).filter((t) => t > Date.now() - LATELY.ms);
  const changes = since === undefined ? undefined : await changesSince(id, since, revision);
  return {
    revision,
    stopped: stopped === 1,
    atOnce,
    waiting: waiting(study).length,
    lent: lent.sort((a, b) => a.order - b.order),
    lately: { trials: times.length, seconds: times.length === 0 ? 0 : (Date.now() - times[0]) / 1000 },
    ...(rigs ? { rigs } : {}),
    ...(changes ? { changes } : {}),
  };
}
