import { ask, type FoundFit, type Progress, type QuestionId, type Received, receiver } from "@/core/questions";
import { type Study, StudyError } from "@/core/study";

export type ComputeAnswer =
  | { state: "done"; value: unknown }
  | { state: "stopped" }
  | { state: "refused"; message: string };

const PAUSE = 150;

/** Asks a study one question, telling how far it is; `onProgress` answers true to stop. */
export async function askInSteps(
  id: QuestionId,
  { study, memo }: Received,
  input: unknown,
  onProgress?: (p: Progress) => Promise<boolean>,
): Promise<ComputeAnswer> {
  try {
    const steps = ask(id, study, input, memo);
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

/** Asks states of a study questions; what is derived of it stands from one to the next. */
export function asker() {
  const receive = receiver();
  /** @param found what the page found for fits of this state */
  return (
    id: QuestionId,
    study: Study,
    found: readonly FoundFit[],
    input: unknown,
    onProgress?: (p: Progress) => Promise<boolean>,
  ): Promise<ComputeAnswer> => askInSteps(id, receive(study, found), input, onProgress);
}
