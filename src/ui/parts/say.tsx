"use client";
import { useSyncExternalStore } from "react";
import css from "./say.module.css";

interface Said {
  id: number;
  text: string;
  kind: "done" | "warning";
}

const MOST = 2;
const LASTS = 6000;
let said: readonly Said[] = [];
let next = 1;
const listeners = new Set<() => void>();
const change = (to: readonly Said[]): void => {
  said = to;
  for (const tell of listeners) tell();
};

/** Says a sentence above the page for a while; screen readers hear it too. */
export function say(text: string, kind: Said["kind"] = "warning"): void {
  const id = next++;
  change([...said, { id, text, kind }].slice(-MOST));
  setTimeout(() => change(said.filter((s) => s.id !== id)), LASTS);
}

const subscribe = (tell: () => void): (() => void) => {
  listeners.add(tell);
  return () => listeners.delete(tell);
};
const nothing: readonly Said[] = [];

/** Where sentences appear. */
export function SaidRegion() {
  const now = useSyncExternalStore(
    subscribe,
    () => said,
    () => nothing,
  );
  return (
    <div className={css.region} role="status" aria-live="polite">
      {now.map((s) => (
        <div key={s.id} className={css.said} data-kind={s.kind}>
          <span aria-hidden="true">{s.kind === "done" ? "✓" : "!"}</span>
          {s.text}
        </div>
      ))}
    </div>
  );
}
