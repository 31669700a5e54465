import { useSyncExternalStore } from "react";
import { useSession } from "./session";

const KEY = "trialmoor:who";
const listeners = new Set<() => void>();

/** The name that whoever sits at this browser gave; empty until then. */
export function actorName(): string {
  try {
    return localStorage.getItem(KEY) ?? "";
  } catch {
    // Private windows may refuse storage: nobody in particular.
    return "";
  }
}

/** Keeps a name for this browser. */
export function setActor(name: string): void {
  try {
    localStorage.setItem(KEY, name.trim().slice(0, 60));
  } catch {
    // As above: it is asked again in the next window.
  }
  for (const tell of listeners) tell();
}

/** Headers that say who asks; encoded, since headers hold no other letters. */
export const actorHeader = (): Record<string, string> => ({ "x-trialmoor-who": encodeURIComponent(actorName()) });

/** The name, followed as it changes; that of the session where people sign in. */
export function useActor(): string {
  const said = useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    actorName,
    () => "",
  );
  const { opened, role, name } = useSession();
  return opened && role === "desk" ? name : said;
}
