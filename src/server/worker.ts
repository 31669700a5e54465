import type { MessagePort } from "node:worker_threads";
import { askPlain, type Progress, type QuestionId, StudyError } from "@/core";

/** What the pool hands to a thread. `port` carries progress out; `stop` is set to 1 to stop. */
interface Task {
  question: QuestionId;
  study: unknown;
  input: unknown;
  port?: MessagePort;
  stop?: Int32Array;
}

type Answer =
  | { ok: true; value: unknown }
  | { ok: false; stopped: true }
  | { ok: false; stopped: false; code: string; message: string; path: ReadonlyArray<string | number> };

/** Asks a study one question in a worker thread. Errors a person caused come back as data. */
export default function work(task: Task): Answer {
  try {
    const steps = askPlain(task.question, task.study, task.input);
    for (;;) {
      const step = steps.next();
      if (step.done) return { ok: true, value: step.value };
      if (task.stop && Atomics.load(task.stop, 0) === 1) {
        // A search that can end early does so with the best it has.
        const last = steps.next(true);
        return last.done ? { ok: true, value: last.value } : { ok: false, stopped: true };
      }
      task.port?.postMessage({ done: step.value.done, text: step.value.text } satisfies Progress);
    }
  } catch (error) {
    if (error instanceof StudyError)
      return { ok: false, stopped: false, code: error.code, message: error.message, path: error.path };
    throw error;
  }
}
