import { type Edit, sameData } from "@/core/study";
import { actorName } from "../parts/actor-name";
import { send } from "../parts/send";
import type { Change } from "./saving";
import type { Slice } from "./store";

export interface Undo {
  undoable: Change[];
  redoable: Change[];
  /** Makes a change; answers the reason when the study would not be one any more, and changes nothing then. */
  commit(edits: Edit[], what: string): string | undefined;
  /** Takes up what a reload let go of: the last changes of whoever sits here, from the history. */
  recall(): Promise<void>;
  undo(): string | undefined;
  redo(): string | undefined;
}

const MOST_UNDO = 200;

/** What the history tells of a change. */
interface Past {
  what: string;
  changes: Pick<Edit, "path" | "from" | "to">[];
  /** Of all its cells; more than are told where it is large. */
  count: number;
}

/** A row of a list that went: the history does not say where it stood. */
const tookRow = ({ path, to }: Pick<Edit, "path" | "to">): boolean => path.length === 2 && to === null;

/**
 * Changes that can be undone, from the newest events of a person backwards: an undoing takes the change before it with
 * it, and what is not told whole ends the way back.
 */
export function undoableOf(newestFirst: readonly Past[]): Change[] {
  const out: Change[] = [];
  let undone = 0;
  for (const { what, changes, count } of newestFirst) {
    if (count === 0 || count !== changes.length || changes.some(tookRow)) break;
    if (what.startsWith("undo: ")) undone++;
    else if (undone > 0) undone--;
    else {
      const edits = changes.map(({ path, from, to }) => ({ path, from, to }));
      const inverse = edits.map((e) => ({ ...e, from: e.to, to: e.from })).reverse();
      out.unshift({ edits, inverse, what: what.replace(/^redo: /, "") });
    }
  }
  return out;
}

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
  async recall() {
    const answer = await send<{ events: Past[] }>(
      `/api/studies/${get().id}/history?who=${encodeURIComponent(actorName())}`,
    );
    // Without an answer there is no way back but the one of this page.
    if (!answer.ok || get().undoable.length > 0) return;
    set({ undoable: undoableOf(answer.data.events) });
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
