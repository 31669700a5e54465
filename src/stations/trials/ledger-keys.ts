import type { KeyboardEvent } from "react";

/** What keys do while no cell is edited. */
export interface KeyActs {
  /** Moves the cursor by so many rows and columns; with `more` the cells from where it stood are marked. */
  move(rows: number, columns: number, more: boolean): void;
  markAll(): void;
  unmark(): void;
  /** Opens the cell with what stands in it, or with what was typed. */
  open(typed?: string): void;
  /** Whether what stands in the cell may begin so. */
  begins(typed: string): boolean;
  empty(): void;
  menu(): void;
  history(): void;
}

/** Rows of a page up or down. */
const PAGE = 15;
const ARROWS: Readonly<Record<string, [number, number]>> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  PageDown: [PAGE, 0],
  PageUp: [-PAGE, 0],
};

/** Keys in a trial's menu, or on the button that opens it, are theirs. */
const ofAnother = ({ target, currentTarget }: KeyboardEvent): boolean =>
  !currentTarget.contains(target as Node) || (target as HTMLElement).closest("button") !== null;

/** Keys that the page itself answers to, until somebody works in the ledger. */
const OF_PAGE = new Set(["g", "w", "[", "]", " "]);
/** Whether a key may begin what stands in a cell though nobody has worked in the ledger yet. */
export const beginsUnasked = (key: string): boolean => key.length === 1 && !OF_PAGE.has(key.toLowerCase());

/** What a key is for; undefined for those that are the browser's. */
function actOf(e: KeyboardEvent, acts: KeyActs): (() => void) | undefined {
  const withControl = e.ctrlKey || e.metaKey;
  const key = e.key.toLowerCase();
  if (ARROWS[e.key]) return () => acts.move(...ARROWS[e.key], e.shiftKey);
  if (e.key === "Home" || e.key === "End") {
    const far = e.key === "Home" ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY;
    return () => (withControl ? acts.move(far, 0, e.shiftKey) : acts.move(0, far, e.shiftKey));
  }
  if (withControl && key === "a") return acts.markAll;
  if (e.key === "Enter" || e.key === "F2") return () => acts.open();
  if (e.key === "Delete" || e.key === "Backspace") return acts.empty;
  if (e.key === "ContextMenu" || (e.shiftKey && e.key === "F10")) return acts.menu;
  if (e.altKey && key === "h") return acts.history;
  if (e.key.length !== 1 || withControl || e.altKey || !acts.begins(e.key)) return undefined;
  return () => {
    e.stopPropagation();
    acts.open(e.key);
  };
}

/** Does what a key pressed in the ledger is for. */
export function ledgerKey(e: KeyboardEvent, acts: KeyActs): void {
  if (ofAnother(e)) return;
  // Whatever else it closes stays the page's.
  if (e.key === "Escape") {
    acts.unmark();
    return;
  }
  const act = actOf(e, acts);
  if (!act) return;
  e.preventDefault();
  act();
}

/** Keys that go to the ledger where nothing else has the focus: all but those the page itself answers to. */
export const meantForLedger = (e: Pick<globalThis.KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey">): boolean =>
  !(e.ctrlKey || e.metaKey || e.altKey) &&
  (beginsUnasked(e.key) || ARROWS[e.key] !== undefined || ["Enter", "F2", "Delete", "Backspace"].includes(e.key));
