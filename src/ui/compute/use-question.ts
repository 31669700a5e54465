"use client";
import { proxy, type Remote, wrap } from "comlink";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Progress, QuestionAnswer, QuestionId } from "@/core";
import { type Asking, asking, type Shown } from "./asking";
import type { ComputeWorker } from "./compute.worker";

/** A question put to a study in a web worker of its own, with progress and stop. */
export function useQuestion<N extends QuestionId>(
  name: N,
  onProgress?: (p: Progress) => void,
  onDone?: (value: QuestionAnswer<N>) => void,
): Shown<N> & Asking<N> {
  const [state, setState] = useState<Shown<N>>({
    running: false,
    progress: undefined,
    result: undefined,
    trouble: undefined,
  });
  const worker = useRef<{ raw: Worker; remote: Remote<ComputeWorker> } | undefined>(undefined);
  const callbacks = useRef({ onProgress, onDone });
  callbacks.current = { onProgress, onDone };
  useEffect(
    () => () => {
      worker.current?.raw.terminate();
      worker.current = undefined;
    },
    [],
  );
  const { start, stop } = useMemo(
    () =>
      asking<N>(
        name,
        (id, study, input, tell) => {
          if (!worker.current) {
            const raw = new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" });
            worker.current = { raw, remote: wrap<ComputeWorker>(raw) };
          }
          return worker.current.remote.ask(
            id,
            study,
            input,
            proxy(async (p: Progress) => tell(p)),
          );
        },
        setState,
        {
          onProgress: (p) => callbacks.current.onProgress?.(p),
          onDone: (value) => callbacks.current.onDone?.(value),
        },
      ),
    [name],
  );
  return { ...state, start, stop };
}
