import { type RefObject, useEffect } from "react";
import { meantForLedger } from "./ledger-keys";

/** Nothing of the page has the focus: it was opened just now, or what had it is gone. */
const unfocused = (): boolean => document.activeElement === null || document.activeElement === document.body;

/**
 * Keeps the framed cell what keys go to: the ledger has the focus as it opens, and takes what is typed once a button or
 * a dialog that had it is gone.
 */
export function useLedgerFocus(grid: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    if (unfocused()) grid.current?.focus({ preventScroll: true });
    const listen = (e: KeyboardEvent): void => {
      if (!unfocused() || e.defaultPrevented || !meantForLedger(e) || !grid.current) return;
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
}
