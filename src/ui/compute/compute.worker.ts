import { expose } from "comlink";
import { type JobName, type JobProgress, StudyError, startJob } from "@/core";

export type ComputeAnswer =
  | { state: "done"; value: unknown }
  | { state: "stopped" }
  | { state: "refused"; message: string };

const PAUSE = 150;

/** Runs one named computation, telling how far it is; `onProgress` answers true to stop. */
async function run(
  name: JobName,
  input: unknown,
  onProgress?: (p: JobProgress) => Promise<boolean>,
): Promise<ComputeAnswer> {
  try {
    const steps = startJob(name, input);
    let told = 0;
    for (;;) {
      const step = steps.next();
      if (step.done) return { state: "done", value: step.value };
      // News goes at once, mere progress a few times a second: each costs a round trip to the page.
      if (step.value.best === undefined && performance.now() - told < PAUSE) continue;
      told = performance.now();
      if (await onProgress?.(step.value)) {
        // A search that can end early does so with the best it has.
        const last = steps.next(true);
        return last.done ? { state: "done", value: last.value } : { state: "stopped" };
      }
    }
  } catch (error) {
    if (error instanceof StudyError) return { state: "refused", message: error.message };
    throw error;
  }
}

export const door = { run };
export type Door = typeof door;
expose(door);
