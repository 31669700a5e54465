import { askPlain, type Progress, type QuestionId } from "@/core/questions";
import { StudyError } from "@/core/study";

export type ComputeAnswer =
  | { state: "done"; value: unknown }
  | { state: "stopped" }
  | { state: "refused"; message: string };

const PAUSE = 150;

/** Asks a study one question, telling how far it is; `onProgress` answers true to stop. */
export async function askInSteps(
  id: QuestionId,
  study: unknown,
  input: unknown,
  onProgress?: (p: Progress) => Promise<boolean>,
): Promise<ComputeAnswer> {
  try {
    const steps = askPlain(id, study, input);
    let sent = 0;
    for (;;) {
      const step = steps.next();
      if (step.done) return { state: "done", value: step.value };
      // News goes at once, mere progress a few times a second: each costs a round trip to the page.
      if (step.value.best === undefined && performance.now() - sent < PAUSE) continue;
      sent = performance.now();
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
