"use client";
import { lazy, Suspense, useCallback, useState, useSyncExternalStore } from "react";

/** A sentence for the person at the page. */
export interface Saying {
  text: string;
  kind: "done" | "warning";
}

const Messages = lazy(() => import("./lazy-antd").then((m) => ({ default: m.Messages })));

let waiting: readonly Saying[] = [];
let speak: ((saying: Saying) => void) | undefined;
const listeners = new Set<() => void>();

/** Says a sentence above the page for a while; screen readers hear it too. */
export function say(text: string, kind: Saying["kind"] = "warning"): void {
  if (speak) {
    speak({ text, kind });
    return;
  }
  waiting = [...waiting, { text, kind }];
  for (const tell of listeners) tell();
}

const subscribe = (tell: () => void): (() => void) => {
  listeners.add(tell);
  return () => listeners.delete(tell);
};

/** Where sentences appear: fetched with the first of them. */
export function SaidRegion() {
  const any = useSyncExternalStore(
    subscribe,
    () => waiting.length > 0,
    () => false,
  );
  const [wanted, setWanted] = useState(false);
  if (any && !wanted) setWanted(true);
  const ready = useCallback((to: (saying: Saying) => void) => {
    speak = to;
    for (const s of waiting) to(s);
    waiting = [];
  }, []);
  return <Suspense fallback={null}>{wanted && <Messages ready={ready} />}</Suspense>;
}
