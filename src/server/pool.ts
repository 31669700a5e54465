import { availableParallelism } from "node:os";
import { join } from "node:path";
import { MessageChannel } from "node:worker_threads";
import Piscina from "piscina";
import { type Progress, type QuestionAnswer, type QuestionId, questionNamed } from "@/core/questions";
import { type Study, StudyError, type StudyFault } from "@/core/study";
import { readOpening } from "./access/opening";
import { apart } from "./apart";
import { Problem } from "./problem";
import type { NewStudy } from "./rows";
import { LISTENS, STOP, stopSign } from "./stop-sign";
import type { Answer, SheetReading, Task } from "./worker";

/**
 * Threads for what takes long: all but one of a study's, so that another study finds one. A server that others reach
 * leaves a processor to them.
 */
const longThreads = (): number =>
  readOpening().opened ? Math.max(1, Math.min(MOST_LONG, availableParallelism() - 1)) : MOST_LONG;
const MOST_LONG = 3;
/** Long computations that may wait for a thread; the next is refused. */
const MOST_WAITING = 16;
/** Seconds after which one that waits is worth asking for again. */
const RETRY_AFTER = 5;
/**
 * Time that a thread has to end by itself once it is asked to stop, in milliseconds; and one that is known to listen,
 * which on a busy machine may not have come to it yet, and would lose its best.
 */
const GRACE = 500;
const PATIENCE = 10_000;
/** Time that a request waits for its answer, in milliseconds: half a minute, unless a slow machine was given more. */
const FOREGROUND = 1000 * (Number(process.env.TRIALMOOR_ANSWER_SECONDS) || 30);

/** Memory of one thread, in MB. */
const MOST_MEMORY = 1024;

interface Waiting {
  study: string;
  start(): void;
}
interface Threads {
  light: Piscina;
  long: Piscina;
  /** Long computations at once, of all studies and of one. */
  most: { all: number; study: number };
  /** Long computations that run, by study. */
  running: Map<string, number>;
  waiting: Waiting[];
}
// One holder for the process: separate route bundles must share it.
const holder = globalThis as unknown as { trialmoorThreads?: Threads };

const threads = (): Threads => {
  const pool = (maxThreads: number): Piscina =>
    new Piscina({
      filename: join(/* turbopackIgnore: true */ process.cwd(), "dist/worker.mjs"),
      maxThreads,
      idleTimeout: 60_000,
      // A thread that wants more ends alone, and not the server with it.
      // What is young is kept small: five threads would otherwise hold a quarter of a gigabyte of garbage between them.
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY, maxYoungGenerationSizeMb: 8 },
    });
  if (!holder.trialmoorThreads) {
    const all = longThreads();
    const most = { all, study: Math.max(1, all - 1) };
    holder.trialmoorThreads = { light: pool(2), long: pool(all), most, running: new Map(), waiting: [] };
  }
  return holder.trialmoorThreads;
};

/** Ends all threads, where a server or a test is done with them. */
export async function endThreads(): Promise<void> {
  const { trialmoorThreads: held } = holder;
  holder.trialmoorThreads = undefined;
  await Promise.all([held?.light.destroy(), held?.long.destroy()]);
}

/** Whether a thread is free for a study. */
function isFree({ running, most }: Threads, study: string): boolean {
  const busy = [...running.values()].reduce((t, n) => t + n, 0);
  return busy < most.all && (running.get(study) ?? 0) < most.study;
}

/** Starts what waits and may run, in order. */
function startWaiting(held: Threads): void {
  const { running, waiting } = held;
  for (let i = 0; i < waiting.length; ) {
    const { study, start } = waiting[i];
    if (isFree(held, study)) {
      waiting.splice(i, 1);
      running.set(study, (running.get(study) ?? 0) + 1);
      start();
    } else i++;
  }
}

function letGo(held: Threads, study: string): void {
  const left = (held.running.get(study) ?? 1) - 1;
  if (left === 0) held.running.delete(study);
  else held.running.set(study, left);
  startWaiting(held);
}

/** How a computation ended: with its answer, or stopped before it, with the best that it had told of until then. */
export type Ended<A> = { stopped: false; answer: A } | { stopped: true; best: unknown };

/** A computation under way in a thread. */
export interface Computation<A> {
  /** Refused as the question is. */
  ended: Promise<Ended<A>>;
  /**
   * Asks it to stop: a search that can ends with its best, as its answer; a thread that has not ended after its grace
   * is ended.
   * @param grace milliseconds in which it may end by itself
   */
  stop(grace?: number): void;
}

interface Asked {
  onStart?(): void;
  onProgress?(p: Progress): void;
}

/** Runs one task in a pool's thread. */
function run(pool: Piscina, task: Omit<Task, "port" | "stop">, { onProgress }: Asked = {}): Computation<unknown> {
  const { port1, port2 } = new MessageChannel();
  const stop = stopSign();
  const end = new AbortController();
  let best: unknown;
  let timer: NodeJS.Timeout | undefined;
  port1.on("message", (p: Progress) => {
    if (p.best !== undefined) best = p.best;
    onProgress?.(p);
  });
  const ran = pool.run({ ...task, port: port2, stop } satisfies Task, {
    transferList: [port2],
    signal: end.signal,
  }) as Promise<Answer>;
  const ended = ran
    .catch((error: unknown): Answer => {
      if (end.signal.aborted) return { ok: false, stopped: true };
      if ((error as { code?: string }).code === "ERR_WORKER_OUT_OF_MEMORY")
        throw new Problem("takes-too-much", { megabytes: MOST_MEMORY });
      throw error;
    })
    .then((a): Ended<unknown> => {
      if (a.ok) return { stopped: false, answer: a.value };
      if (a.stopped) return { stopped: true, best };
      throw StudyError.of(a.said, a.path);
    })
    .finally(() => {
      clearTimeout(timer);
      port1.close();
    });
  return {
    ended,
    stop(grace = GRACE) {
      Atomics.store(stop, STOP, 1);
      const late = (): void => end.abort();
      timer ??= setTimeout(() => {
        if (Atomics.load(stop, LISTENS) === 0) late();
        else timer = setTimeout(late, PATIENCE);
      }, grace);
    },
  };
}

/**
 * Asks a study a question in a thread: a light one at once, a long one when a thread is free for its study.
 * @throws Problem `busy` where too many wait already
 */
export function begin<Q extends QuestionId>(
  question: Q,
  studyId: string,
  study: Study,
  input: unknown,
  asked: Asked = {},
): Computation<QuestionAnswer<Q>> {
  const held = threads();
  const task = { question, study, input };
  if (!questionNamed(question).heavy(study, input as never)) {
    asked.onStart?.();
    return run(held.light, task, asked) as Computation<QuestionAnswer<Q>>;
  }
  if (held.waiting.length >= MOST_WAITING && !isFree(held, studyId))
    throw new Problem(
      "busy",
      { waiting: MOST_WAITING, seconds: RETRY_AFTER },
      { headers: { "retry-after": String(RETRY_AFTER) } },
    );
  let inner: Computation<unknown> | undefined;
  /** The grace given, where it was asked to stop before a thread was free. */
  let stopping: number | undefined;
  let leave: () => void = () => undefined;
  const place: Waiting = { study: studyId, start: () => undefined };
  const turn = new Promise<"came" | "left">((resolve) => {
    place.start = () => resolve("came");
    leave = () => resolve("left");
    held.waiting.push(place);
    startWaiting(held);
  });
  const ended = turn.then(async (how): Promise<Ended<unknown>> => {
    if (how === "left") return { stopped: true, best: undefined };
    try {
      asked.onStart?.();
      inner = run(held.long, task, asked);
      if (stopping !== undefined) inner.stop(stopping);
      return await inner.ended;
    } finally {
      letGo(held, studyId);
    }
  });
  return {
    ended: ended as Promise<Ended<QuestionAnswer<Q>>>,
    stop(grace = GRACE) {
      stopping = grace;
      const slot = held.waiting.indexOf(place);
      if (slot >= 0) {
        held.waiting.splice(slot, 1);
        leave();
      }
      inner?.stop(grace);
    },
  };
}

/** Waits for an answer within the time of a request, and no longer than its client does. */
async function within<A>(computation: Computation<A>, background: boolean, signal?: AbortSignal): Promise<A> {
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    computation.stop();
  }, FOREGROUND);
  const gone = (): void => computation.stop();
  signal?.addEventListener("abort", gone);
  if (signal?.aborted) gone();
  const tooLong = (): Problem => new Problem("takes-too-long", { seconds: FOREGROUND / 1000, background });
  try {
    const end = await computation.ended;
    if (late) throw tooLong();
    if (end.stopped) throw new Problem("stopped", {});
    return end.answer;
  } catch (error) {
    throw late ? tooLong() : error;
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener("abort", gone);
  }
}

/**
 * Asks a study a question and waits for the answer, half a minute at most and only while its client does.
 * @throws Problem `busy`, `takes-too-long`, `stopped`
 * @throws StudyError as the question
 */
export const compute = <Q extends QuestionId>(
  question: Q,
  studyId: string,
  study: Study,
  input: unknown,
  signal?: AbortSignal,
): Promise<QuestionAnswer<Q>> =>
  within(begin(question, studyId, study, input), questionNamed(question).long === true, signal);

/**
 * Reads study files in a thread, all or none, each with what is written of it.
 * @throws StudyError for the first fault of the first that has one
 */
export const parseAside = (files: readonly unknown[]): Promise<NewStudy[]> =>
  within(run(threads().light, { files }) as Computation<NewStudy[]>, false);

/** A study as a file, written in a thread. */
export const writtenAside = <F extends NonNullable<Task["written"]>>(
  study: Study,
  format: F,
): Promise<F extends "xlsx" ? Uint8Array : string> =>
  within(
    run(threads().light, { study, written: format }) as Computation<F extends "xlsx" ? Uint8Array : string>,
    false,
  );

/**
 * Reads a sheet for a study in a thread; a workbook is made text in a process of its own before.
 * @throws StudyError for a sheet that cannot be read
 */
export async function sheetAside(
  study: Study,
  sheet: string | Uint8Array,
  rowsAreRepeats: boolean,
): Promise<SheetReading & { remarks: string[] }> {
  const { text, remarks } =
    typeof sheet === "string" ? { text: sheet, remarks: [] } : await apart("workbook", { bytes: sheet });
  const read = await within(
    run(threads().light, { study, sheet: text, rowsAreRepeats }) as Computation<SheetReading>,
    false,
  );
  return { ...read, remarks };
}

/**
 * A study before changes, taken back in a thread.
 * @throws StudyError where the log does not lead back to a study
 */
export const pastAside = (study: Study, past: readonly string[]): Promise<Study> =>
  within(run(threads().light, { study, past }) as Computation<Study>, false);

/** What Home lists of a study, worked out in a thread: a confirmation is judged for it. */
export const factsAside = (listed: Study): Promise<string> =>
  within(run(threads().light, { listed }) as Computation<string>, false);

/** Every fault of a study file, found in a thread. */
export const faultsAside = (suspect: unknown): Promise<StudyFault[]> =>
  within(run(threads().light, { suspect }) as Computation<StudyFault[]>, false);
