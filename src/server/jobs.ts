import { randomBytes } from "node:crypto";
import type { QuestionId } from "@/core/questions";
import { type Study, StudyError } from "@/core/study";
import { database, type JobRow } from "./database";
import { log } from "./log";
import { begin } from "./pool";
import { Problem } from "./problem";

interface UnderWay {
  stopping: boolean;
  stop(): void;
  /** Settles when its end is kept. */
  over: Promise<unknown>;
}
// One holder for the process: separate route bundles must share it.
const holder = globalThis as unknown as { trialmoorJobs?: Map<string, UnderWay> };
const underWay = (): Map<string, UnderWay> => {
  holder.trialmoorJobs ??= new Map();
  return holder.trialmoorJobs;
};

const now = (): string => new Date().toISOString();

/** The refusal or failure of a computation as its job keeps it. */
function problemOf(error: unknown): { code: string; detail: string; path: ReadonlyArray<string | number> } {
  const known = error instanceof Problem || error instanceof StudyError;
  if (!known) log.error(error);
  const { code, message, path } = known ? error : new Problem("server-error.job", {});
  return { code, detail: message, path };
}

/**
 * Starts a computation that goes on behind the request; its state is read at jobs/{id}.
 * @throws Problem `busy`
 */
export async function startInBackground(
  name: QuestionId,
  studyId: string,
  study: Study,
  input: unknown,
): Promise<{ id: string }> {
  const db = await database();
  const id = randomBytes(6).toString("hex");
  const set = (values: Partial<JobRow>): Promise<unknown> =>
    db.write((transaction) => db.jobs.update({ ...values, updatedAt: now() }, { where: { id }, transaction }));
  const note = (values: Partial<JobRow>): void => {
    set(values).catch((error: unknown) => log.error(error));
  };
  let last = 0;
  // What is said before the row stands would be lost: it is held until then.
  let ready: () => void = () => undefined;
  const standing = new Promise<void>((resolve) => {
    ready = resolve;
  });
  const computation = begin(name, studyId, study, input, {
    onStart: () => standing.then(() => note({ state: "running", text: "running" })),
    onProgress(p) {
      if (Date.now() - last < 250) return;
      last = Date.now();
      note({
        progress: p.done,
        text: p.text,
        ...(p.best === undefined ? {} : { best: JSON.stringify(p.best) }),
      });
    },
  });
  // It may end before its row stands.
  const outcome = computation.ended.catch((error: unknown) => ({ error }));
  const job: UnderWay = { stopping: false, stop: computation.stop, over: Promise.resolve() };
  underWay().set(id, job);
  await db.write((transaction) =>
    db.jobs.create(
      {
        id,
        studyId,
        name,
        state: "waiting",
        progress: 0,
        text: "waiting for a thread",
        answer: null,
        best: null,
        problem: null,
        createdAt: now(),
        updatedAt: now(),
      },
      { transaction },
    ),
  );
  ready();
  const stopped = { state: "stopped", text: "stopped" };
  job.over = outcome
    .then((end) => {
      if ("error" in end) {
        const problem = problemOf(end.error);
        return set({ state: "failed", text: problem.detail, problem: JSON.stringify(problem) });
      }
      if (end.stopped)
        return set({ ...stopped, ...(end.best === undefined ? {} : { best: JSON.stringify(end.best) }) });
      const answer = JSON.stringify(end.answer);
      return set(job.stopping ? { ...stopped, answer } : { state: "done", progress: 1, text: "done", answer });
    })
    .catch((error: unknown) => log.error(error))
    .finally(() => underWay().delete(id));
  return { id };
}

/**
 * State, progress and answer of a long computation.
 * @throws Problem `no-job`
 */
export async function readJob(id: string): Promise<object> {
  const db = await database();
  const row = (await db.jobs.findOne({ where: { id }, raw: true })) as unknown as JobRow | null;
  if (!row) throw new Problem("no-job", {});
  const read = (text: string | null): unknown => (text ? JSON.parse(text) : null);
  return { ...row, answer: read(row.answer), best: read(row.best), problem: read(row.problem) };
}

/**
 * Asks a computation to stop; it says "stopped" within a second, with the best so far.
 * @throws Problem `no-job`
 */
export async function stopJob(id: string): Promise<object> {
  const job = underWay().get(id);
  if (job) {
    job.stopping = true;
    job.stop();
    await job.over;
  }
  return readJob(id);
}
