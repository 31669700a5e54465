"use client";
import { proxy } from "comlink";
import { useEffect, useMemo, useRef, useState } from "react";
import { type Progress, type QuestionAnswer, type QuestionId, StudyView } from "@/core/questions";
import { useDesk } from "../desk/store";
import { type Asking, asking, type Shown } from "./asking";
import { computeThread } from "./compute-thread";

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
  const memo = useDesk((d) => d.memo);
  const [thread] = useState(() => computeThread());
  const callbacks = useRef({ onProgress, onDone });
  callbacks.current = { onProgress, onDone };
  useEffect(() => thread.end, [thread]);
  const { start, stop } = useMemo(
    () =>
      asking<N>(
        name,
        (id, study, input, tell) =>
          thread.put((worker) =>
            worker.ask(
              id,
              study,
              new StudyView(study, memo).found(),
              input,
              proxy(async (p: Progress) => tell(p)),
            ),
          ),
        setState,
        {
          onProgress: (p) => callbacks.current.onProgress?.(p),
          onDone: (value) => callbacks.current.onDone?.(value),
        },
      ),
    [name, thread, memo],
  );
  return { ...state, start, stop };
}
