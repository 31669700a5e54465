import { type Remote, wrap } from "comlink";
import type { ComputeWorker } from "./compute.worker";

/** What a worker offers, and whether it still runs. */
export interface Thread {
  /** Puts something to the worker; rejects where it could not be loaded or came to an end meanwhile. */
  put<P extends Promise<unknown>>(work: (worker: Remote<ComputeWorker>) => P): Promise<Awaited<P>>;
  end(): void;
}

/** What the page knows of a worker: its messages, and that it failed. */
export type RawWorker = Pick<Worker, "postMessage" | "addEventListener" | "removeEventListener" | "terminate">;

const started = (): RawWorker => new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" });

/**
 * A worker that starts with the first thing put to it. One that cannot be loaded, or fails outside of an answer, says
 * nothing more: whatever waits for it is refused, and the next thing put starts another.
 */
export function computeThread(start: () => RawWorker = started): Thread {
  let running: { raw: RawWorker; remote: Remote<ComputeWorker>; failed: Promise<never> } | undefined;
  const end = (): void => {
    running?.raw.terminate();
    running = undefined;
  };
  const begin = (): NonNullable<typeof running> => {
    const raw = start();
    const failed = new Promise<never>((_, reject) => {
      raw.addEventListener("error", (e) => {
        if (running?.raw === raw) end();
        reject(new Error((e as ErrorEvent).message || "the worker could not be loaded"));
      });
    });
    // Whoever waits hears of it; where nobody does there is nothing to say.
    failed.catch(() => undefined);
    return { raw, remote: wrap<ComputeWorker>(raw as Worker), failed };
  };
  return {
    put(work) {
      running ??= begin();
      return Promise.race([work(running.remote), running.failed]);
    },
    end,
  };
}
