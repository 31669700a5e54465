"use client";
import { proxy, type Remote, wrap } from "comlink";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Progress, QuestionAnswer, QuestionId, QuestionInput, Study } from "@/core";
import type { ComputeWorker } from "./compute.worker";

export interface QuestionState<N extends QuestionId> {
  running: boolean;
  progress: Progress | undefined;
  result: QuestionAnswer<N> | undefined;
  trouble: string | undefined;
  start(study: Study, input: QuestionInput<N>): void;
  stop(): void;
}

/** A question put to a study in a web worker of its own, with progress and stop. */
export function useQuestion<N extends QuestionId>(
  name: N,
  onProgress?: (p: Progress) => void,
  onDone?: (value: QuestionAnswer<N>) => void,
): QuestionState<N> {
  const [state, setState] = useState<Pick<QuestionState<N>, "running" | "progress" | "result" | "trouble">>({
    running: false,
    progress: undefined,
    result: undefined,
    trouble: undefined,
  });
  const worker = useRef<{ raw: Worker; remote: Remote<ComputeWorker> } | undefined>(undefined);
  const stopping = useRef(false);
  const generation = useRef(0);
  const callbacks = useRef({ onProgress, onDone });
  callbacks.current = { onProgress, onDone };
  useEffect(() => () => worker.current?.raw.terminate(), []);
  const start = useCallback(
    (study: Study, input: QuestionInput<N>) => {
      if (!worker.current) {
        const raw = new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" });
        worker.current = { raw, remote: wrap<ComputeWorker>(raw) };
      }
      const run = ++generation.current;
      stopping.current = false;
      setState((s) => ({ ...s, running: true, progress: undefined, trouble: undefined }));
      const tell = (p: Progress): boolean => {
        if (run !== generation.current) return true;
        callbacks.current.onProgress?.(p);
        setState((s) => ({ ...s, progress: p }));
        return stopping.current;
      };
      worker.current.remote
        .ask(
          name,
          study,
          input,
          proxy(async (p: Progress) => tell(p)),
        )
        .then(
          (answer) => {
            if (run !== generation.current) return;
            if (answer.state === "done") {
              const value = answer.value as QuestionAnswer<N>;
              callbacks.current.onDone?.(value);
              setState({ running: false, progress: undefined, result: value, trouble: undefined });
            } else
              setState((s) => ({
                ...s,
                running: false,
                progress: undefined,
                trouble: answer.state === "refused" ? answer.message : undefined,
              }));
          },
          () =>
            setState((s) => ({
              ...s,
              running: false,
              progress: undefined,
              trouble: "The computation failed in the page; reload and try again.",
            })),
        );
    },
    [name],
  );
  const stop = useCallback(() => {
    stopping.current = true;
  }, []);
  return { ...state, start, stop };
}
