import { type Edit, sameData } from "@/core";
import type { Change } from "./saving";
import type { Slice } from "./store";

export interface Undo {
  undoable: Change[];
  redoable: Change[];
  /** Makes a change; answers the reason when the study would not be one any more, and changes nothing then. */
  commit(edits: Edit[], what: string): string | undefined;
  undo(): string | undefined;
  redo(): string | undefined;
}

const MOST_UNDO = 200;

/** The way back and forth: undoing is the inverse change, made anew. */
export const createUndo: Slice<Undo> = (set, get) => ({
  undoable: [],
  redoable: [],
  commit(edits, what) {
    const real = edits.filter((e) => !sameData(e.from, e.to) || e.path.length === 1);
    if (real.length === 0) return undefined;
    const taken = get().take(real, what);
    if (typeof taken === "string") return taken;
    set({ undoable: [...get().undoable, taken].slice(-MOST_UNDO), redoable: [], trouble: undefined });
    return undefined;
  },
  undo() {
    const change = get().undoable.at(-1);
    if (!change) return undefined;
    const taken = get().take(change.inverse, `undo: ${change.what}`);
    if (typeof taken === "string") return `“${change.what}” cannot be undone: ${taken}`;
    set({ undoable: get().undoable.slice(0, -1), redoable: [...get().redoable, change] });
    return undefined;
  },
  redo() {
    const change = get().redoable.at(-1);
    if (!change) return undefined;
    const taken = get().take(change.edits, `redo: ${change.what}`);
    if (typeof taken === "string") return `“${change.what}” cannot be done again: ${taken}`;
    set({ redoable: get().redoable.slice(0, -1), undoable: [...get().undoable, change] });
    return undefined;
  },
});
