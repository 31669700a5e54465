import { randomBytes } from "node:crypto";
import { join } from "node:path";
import { MessageChannel } from "node:worker_threads";
import Piscina from "piscina";
import type { Progress, QuestionAnswer, QuestionId, Study } from "@/core";
import { database } from "./database";
import { log } from "./log";
import { Problem } from "./problem";

const holder = globalThis as unknown as { trialmoorPool?: Piscina; trialmoorStops?: Map<string, Int32Array> };

const pool = (): Piscina => {
  holder.trialmoorPool ??= new Piscina({
    filename: join(/* turbopackIgnore: true */ process.cwd(), "dist/worker.mjs"),
    maxThreads: 2,
    idleTimeout: 60_000,
  });
  return holder.trialmoorPool;
};
const stops = (): Map<string, Int32Array> => {
  holder.trialmoorStops ??= new Map();
  return holder.trialmoorStops;
};

type Answer =
  | { ok: true; value: unknown }
  | { ok: false; stopped: boolean; code?: string; message?: string; path?: (string | number)[] };

/**
 * Asks a study a question in a worker thread and waits for the answer.
 * @throws Problem `stopped`
 */
export async function compute<Q extends QuestionId>(
  question: Q,
  study: Study,
  input: unknown,
  onProgress?: (p: Progress) => void,
  stop?: Int32Array,
): Promise<QuestionAnswer<Q>> {
  const channel = new MessageChannel();
  if (onProgress) channel.port1.on("message", onProgress);
  try {
    const answer = (await pool().run(
      { question, study, input, port: channel.port2, ...(stop ? { stop } : {}) },
      { transferList: [channel.port2] },
    )) as Answer;
    if (answer.ok) return answer.value as QuestionAnswer<Q>;
    if (answer.stopped) throw new Problem(409, "stopped", "The computation was stopped.");
    throw new Problem(
      422,
      answer.code ?? "refused",
      answer.message ?? "The computation was refused.",
      answer.path ?? [],
    );
  } finally {
    channel.port1.close();
  }
}

/** Starts a computation that goes on behind the request; its state is read at jobs/{id}. */
export async function startInBackground(
  name: QuestionId,
  studyId: string,
  study: Study,
  input: unknown,
): Promise<{ id: string }> {
  const db = await database();
  const id = randomBytes(6).toString("hex");
  const now = (): string => new Date().toISOString();
  const stop = new Int32Array(new SharedArrayBuffer(4));
  stops().set(id, stop);
  await db.write((transaction) =>
    db.jobs.create(
      {
        id,
        studyId,
        name,
        state: "running",
        progress: 0,
        text: "waiting",
        answer: null,
        problem: null,
        createdAt: now(),
        updatedAt: now(),
      },
      { transaction },
    ),
  );
  const set = (values: object): Promise<unknown> =>
    db.write((transaction) => db.jobs.update({ ...values, updatedAt: now() }, { where: { id }, transaction }));
  let last = 0;
  compute(
    name,
    study,
    input,
    (p) => {
      if (Date.now() - last < 250) return;
      last = Date.now();
      set({ progress: p.done, text: p.text }).catch((error: unknown) => log.error(error));
    },
    stop,
  )
    .then((value) => set({ state: "done", progress: 1, text: "done", answer: JSON.stringify(value) }))
    .catch((error: unknown) => {
      const problem =
        error instanceof Problem
          ? { code: error.code, detail: error.message, path: error.path }
          : { code: "server-error", detail: "The computation failed; the server's log says why.", path: [] };
      if (!(error instanceof Problem)) log.error(error);
      return set({
        state: problem.code === "stopped" ? "stopped" : "failed",
        text: problem.detail,
        problem: JSON.stringify(problem),
      });
    })
    .catch((error: unknown) => log.error(error))
    .finally(() => stops().delete(id));
  return { id };
}

/**
 * State, progress and answer of a long computation.
 * @throws Problem `no-job`
 */
export async function readJob(id: string): Promise<object> {
  const db = await database();
  const row = (await db.jobs.findOne({ where: { id }, raw: true })) as unknown as {
    answer: string | null;
    problem: string | null;
  } | null;
  if (!row) throw new Problem(404, "no-job", "There is no such computation.");
  return {
    ...row,
    answer: row.answer ? JSON.parse(row.answer) : null,
    problem: row.problem ? JSON.parse(row.problem) : null,
  };
}

/** Asks a running computation to stop. */
export async function stopJob(id: string): Promise<object> {
  const stop = stops().get(id);
  if (stop) Atomics.store(stop, 0, 1);
  return readJob(id);
}
