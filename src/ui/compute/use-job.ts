"use client";
import { proxy, type Remote, wrap } from "comlink";
import { useCallback, useEffect, useRef, useState } from "react";
import type { JobInput, JobName, JobOutput, JobProgress } from "@/core";
import type { Door } from "./compute.worker";

export interface JobState<N extends JobName> {
  running: boolean;
  progress: JobProgress | undefined;
  result: JobOutput<N> | undefined;
  trouble: string | undefined;
  start(input: JobInput<N>): void;
  stop(): void;
}

/** A named computation in a web worker of its own, with progress and stop. */
export function useJob<N extends JobName>(
  name: N,
  onProgress?: (p: JobProgress) => void,
  onDone?: (value: JobOutput<N>) => void,
): JobState<N> {
  const [state, setState] = useState<Pick<JobState<N>, "running" | "progress" | "result" | "trouble">>({
    running: false,
    progress: undefined,
    result: undefined,
    trouble: undefined,
  });
  const worker = useRef<{ raw: Worker; door: Remote<Door> } | undefined>(undefined);
  const stopping = useRef(false);
  const generation = useRef(0);
  const callbacks = useRef({ onProgress, onDone });
  callbacks.current = { onProgress, onDone };
  useEffect(() => () => worker.current?.raw.terminate(), []);
  const start = useCallback(
    (input: JobInput<N>) => {
      if (!worker.current) {
        const raw = new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" });
        worker.current = { raw, door: wrap<Door>(raw) };
      }
      const run = ++generation.current;
      stopping.current = false;
      setState((s) => ({ ...s, running: true, progress: undefined, trouble: undefined }));
      const tell = (p: JobProgress): boolean => {
        if (run !== generation.current) return true;
        callbacks.current.onProgress?.(p);
        setState((s) => ({ ...s, progress: p }));
        return stopping.current;
      };
      worker.current.door
        .run(
          name,
          input,
          proxy(async (p: JobProgress) => tell(p)),
        )
        .then(
          (answer) => {
            if (run !== generation.current) return;
            if (answer.state === "done") {
              const value = answer.value as JobOutput<N>;
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
