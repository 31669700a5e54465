"use client";
import { createContext, type ReactNode, useContext, useSyncExternalStore } from "react";

/** Who sits here, as the server knows them. */
export interface Session {
  role: "desk" | "bench";
  name: string;
  /** Whether people sign in here. */
  opened: boolean;
}

const Known = createContext<Session>({ role: "desk", name: "", opened: false });

export const SessionProvider = ({ session, children }: { session: Session; children: ReactNode }) => (
  <Known.Provider value={session}>{children}</Known.Provider>
);

export const useSession = (): Session => useContext(Known);

let ended = false;
const listeners = new Set<() => void>();

function tell(now: boolean): void {
  if (ended === now) return;
  ended = now;
  for (const listener of listeners) listener();
}

/**
 * Takes note of what the server answers to: once it knows this browser no more, whoever sits here is asked to sign in
 * again, and what waits is sent then.
 */
export function noteAnswer(status: number): void {
  // 403: another bench's link was opened in this browser meanwhile.
  if (status === 401 || status === 403) tell(true);
  else if (status < 400) tell(false);
}

/** Whether the session has ended while the page stood open. */
export const useSessionEnded = (): boolean =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => ended,
    () => false,
  );
