import { type RefObject, useEffect, useRef } from "react";
import { meantForLedger } from "./ledger-keys";

/** Nothing of the page has the focus: it was opened just now, or what had it is gone. */
const unfocused = (): boolean => document.activeElement === null || document.activeElement === document.body;

/** How long the page waits for the letter of a station behind a g, in milliseconds. */
const STATION_MS = 1000;

/**
 * Keeps the framed cell what keys go to: the ledger has the focus as it opens, and takes what is typed once a button or
 * a dialog that had it is gone.
 *
 * @returns whether the page waits for the letter of a station, which is none of the ledger's
 */
export function useLedgerFocus(grid: RefObject<HTMLElement | null>): () => boolean {
  const since = useRef(Number.NEGATIVE_INFINITY);
  const awaited = useRef(() => performance.now() - since.current < STATION_MS);
  useEffect(() => {
    if (unfocused()) grid.current?.focus({ preventScroll: true });
    const listen = (e: KeyboardEvent): void => {
      if (e.key === "g" && !e.ctrlKey && !e.metaKey) {
        since.current = performance.now();
        return;
      }
      if (!unfocused() || e.defaultPrevented || !meantForLedger(e) || awaited.current() || !grid.current) return;
      grid.current.focus({ preventScroll: true });
      // React's handlers stand on the grid: they see the key as if it had been pressed there.
      const { key, code, shiftKey } = e;
      if (
        !grid.current.dispatchEvent(
          new KeyboardEvent("keydown", { key, code, shiftKey, bubbles: true, cancelable: true }),
        )
      )
        e.preventDefault();
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [grid]);
  return awaited.current;
}
