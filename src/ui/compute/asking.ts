import type { Progress, QuestionAnswer, QuestionId, QuestionInput } from "@/core/questions";
import type { Study } from "@/core/study";
import type { ComputeAnswer } from "./steps";

/** What a page shows of a question that is being worked out. */
export interface Shown<N extends QuestionId> {
  running: boolean;
  progress: Progress | undefined;
  /** The last answer; it stands while the next one is worked out. */
  result: QuestionAnswer<N> | undefined;
  trouble: string | undefined;
}

/** Puts a question to a worker; `onProgress` answers true to stop. */
export type Worker<N extends QuestionId> = (
  name: N,
  study: Study,
  input: QuestionInput<N>,
  onProgress: (p: Progress) => boolean,
) => Promise<ComputeAnswer>;

export interface Asking<N extends QuestionId> {
  start(study: Study, input: QuestionInput<N>): void;
  /** Ends the present computation; a search keeps its best. */
  stop(): void;
}

/**
 * One question at a time: a newer one makes the worker leave the older, whose answer and progress are not shown any
 * more whenever they come.
 */
export function asking<N extends QuestionId>(
  name: N,
  worker: Worker<N>,
  show: (change: (s: Shown<N>) => Shown<N>) => void,
  heard: { onProgress?(p: Progress): void; onDone?(value: QuestionAnswer<N>): void },
): Asking<N> {
  let latest = 0;
  let stopping = false;
  return {
    start(study, input) {
      latest++;
      const run = latest;
      stopping = false;
      show((s) => ({ ...s, running: true, progress: undefined, trouble: undefined }));
      const tell = (p: Progress): boolean => {
        if (run !== latest) return true;
        heard.onProgress?.(p);
        show((s) => ({ ...s, progress: p }));
        return stopping;
      };
      const end = (over: Partial<Shown<N>>): void =>
        show((s) => ({ ...s, running: false, progress: undefined, trouble: undefined, ...over }));
      worker(name, study, input, tell).then(
        (answer) => {
          if (run !== latest) return;
          if (answer.state !== "done") return end(answer.state === "refused" ? { trouble: answer.message } : {});
          const value = answer.value as QuestionAnswer<N>;
          heard.onDone?.(value);
          end({ result: value });
        },
        () => {
          if (run === latest) end({ trouble: "The computation failed in the page; try again." });
        },
      );
    },
    stop() {
      stopping = true;
    },
  };
}
