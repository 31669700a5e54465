import {
  cellAt,
  type Edit,
  inverseEdits,
  parseStudy,
  reviseStudy,
  type Study,
  StudyError,
  sameData,
} from "@/core/study";
import { actorHeader } from "../parts/actor-name";
import { noteAnswer } from "../parts/session";
import type { Slice } from "./store";

/** What is changed here, waits to be saved, was refused, or was changed elsewhere at once. */

/** One change as a person made it: its edits, what undoes them, and what it is called. */
export interface Change {
  edits: Edit[];
  inverse: Edit[];
  what: string;
}

/** Cells that were changed here and elsewhere at once, to be chosen between. */
export interface Clash {
  path: string[];
  mine: unknown;
  theirs: unknown;
}

/** A change that the server refused, or that rests on one it refused: kept until it is tried again or let go. */
export interface RefusedChange {
  edits: Edit[];
  what: string;
  sentence: string;
}

/** What was changed elsewhere since a revision: the changes, or the whole study where they are too many. */
export interface Overtaking {
  since: number;
  revision: number;
  changes?: Edit[];
  study?: unknown;
}

export type SavedState = "saved" | "saving" | "offline" | "refused";

export interface Saving {
  id: string;
  /** Of the last acknowledgement by the server, and the study as it then stood there. */
  revision: number;
  confirmed: Study;
  study: Study;
  saved: SavedState;
  /** What the server said when it could not take a change yet. */
  trouble: string | undefined;
  pending: Change[];
  refused: RefusedChange[];
  clashes: Clash[];
  /** Takes up changes that a reload interrupted. */
  resume(): void;
  /** Applies a change and queues it; answers the reason when the study would not be one any more. */
  take(edits: Edit[], what: string): Change | string;
  /** Takes up what was changed elsewhere; while something waits here it comes with the next answer. */
  overtake(theirs: Overtaking): void;
  settle(clash: Clash, keep: "mine" | "theirs"): void;
  /** Makes a refused change again on what stands now; answers the reason when it makes no study. */
  retry(refused: RefusedChange): string | undefined;
  letGo(refused: RefusedChange): void;
}

const AFTER_PAINT_MS = 80;
const AGAIN_MS = 2000;
const keptKey = (id: string): string => `trialmoor:pending:${id}`;
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** What outlives a reload: changes not acknowledged yet, and those refused. */
interface Kept {
  pending: Change[];
  refused: RefusedChange[];
}

function keep(id: string, { pending, refused }: Kept): void {
  try {
    if (pending.length + refused.length === 0) localStorage.removeItem(keptKey(id));
    else localStorage.setItem(keptKey(id), JSON.stringify({ pending, refused }));
  } catch {
    // Private windows may refuse storage; the change is still on its way to the server.
  }
}

function kept(id: string): Kept {
  try {
    const read = JSON.parse(localStorage.getItem(keptKey(id)) ?? "{}") as Partial<Kept> | Change[];
    // As a page of an earlier version left it: the waiting changes alone.
    if (Array.isArray(read)) return { pending: read, refused: [] };
    return { pending: read.pending ?? [], refused: read.refused ?? [] };
  } catch {
    return { pending: [], refused: [] };
  }
}

/** Waiting changes laid anew on a study that is not the one they were made on. */
interface Replayed {
  study: Study;
  pending: Change[];
  clashes: Clash[];
}

/** Lays changes on a study cell by cell; cells that hold neither what was found nor what was wanted are clashes. */
function replay(base: Study, changes: readonly Change[]): Replayed {
  let study = base;
  const pending: Change[] = [];
  const clashes: Clash[] = [];
  for (const change of changes) {
    const good: Edit[] = [];
    for (const edit of change.edits) {
      const now = cellAt(study, edit.path);
      if (sameData(now, edit.to)) continue;
      if (sameData(now, edit.from)) {
        try {
          study = reviseStudy(study, [edit]);
          good.push(edit);
          continue;
        } catch (error) {
          if (!(error instanceof StudyError)) throw error;
        }
      }
      clashes.push({ path: edit.path, mine: edit.to, theirs: now });
    }
    if (good.length > 0)
      pending.push({
        edits: good,
        inverse: good.map((e) => ({ ...e, from: e.to, to: e.from })).reverse(),
        what: change.what,
      });
  }
  return { study, pending, clashes };
}

/** Lays changes on a study whole; one that makes no study there rests on what was refused and goes with it. */
function relay(base: Study, changes: readonly Change[]): { study: Study; pending: Change[]; refused: RefusedChange[] } {
  let study = base;
  const pending: Change[] = [];
  const refused: RefusedChange[] = [];
  for (const change of changes) {
    try {
      // What stood in a cell may be what was refused: a later value goes on what stands now.
      const edits = change.edits.map((e): Edit => ({ ...e, from: (cellAt(study, e.path) ?? null) as Edit["from"] }));
      const inverse = inverseEdits(study, edits);
      study = reviseStudy(study, edits);
      pending.push({ ...change, edits, inverse });
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      refused.push({
        edits: change.edits,
        what: change.what,
        sentence: `It rests on a change that was refused. ${error.message}`,
      });
    }
  }
  return { study, pending, refused };
}

/** The saving part of a desk: optimistic, one change in flight, on the revision of the last acknowledgement. */
// Its steps share what is in flight.
export const createSaving: (id: string, revision: number, opened: Study) => Slice<Saving> =
  (id, revision, opened) => (set, get) => {
    let flying = false;

    async function post(change: Change): Promise<Response> {
      return fetch(`/api/studies/${id}`, {
        method: "PATCH",
        headers: { "content-type": "application/json", ...actorHeader() },
        body: JSON.stringify({
          revision: get().revision,
          edits: change.edits,
          what: change.what.slice(0, 200),
          merge: true,
        }),
      });
    }

    /** A change is saved, behind what others had changed meanwhile. */
    function acknowledge(change: Change, next: number, missed: readonly Edit[]): void {
      set({ pending: get().pending.slice(1) });
      const before = missed.length > 0 ? reviseStudy(get().confirmed, missed) : get().confirmed;
      const confirmed = reviseStudy(before, change.edits);
      if (missed.length > 0) laidOn(confirmed);
      const { pending, refused } = get();
      keep(id, { pending, refused });
      set({
        revision: next,
        confirmed,
        saved: pending.length > 0 ? "saving" : refused.length > 0 ? "refused" : "saved",
        trouble: undefined,
      });
    }

    /** The server will never take this change: all others stay, those that rest on it are shown with it. */
    function refuse(change: Change, sentence: string): void {
      const { confirmed, pending, refused, undoable } = get();
      const relayed = relay(confirmed, pending.slice(1));
      const lost: RefusedChange[] = [{ edits: change.edits, what: change.what, sentence }, ...relayed.refused];
      const left = { pending: relayed.pending, refused: [...refused, ...lost] };
      keep(id, left);
      set({
        ...left,
        study: relayed.study,
        saved: relayed.pending.length > 0 ? "saving" : "refused",
        trouble: sentence,
        // What was refused cannot be undone; what was saved before it can.
        undoable: undoable.filter((c) => !pending.includes(c)).concat(relayed.pending),
        redoable: [],
      });
      get().follow(relayed.study);
    }

    /**
     * Puts the waiting changes on top of what another tab made of the study; cells both touched are shown side by
     * side.
     */
    function rebase(theirs: Study, next: number): void {
      laidOn(theirs);
      set({
        revision: next,
        undoable: [],
        redoable: [],
        saved: get().pending.length > 0 ? "saving" : "saved",
      });
    }

    /** The waiting changes on top of another state of the study. */
    function laidOn(theirs: Study): void {
      const { study, pending, clashes } = replay(theirs, get().pending);
      keep(id, { pending, refused: get().refused });
      set({ study, confirmed: theirs, pending, clashes: [...get().clashes, ...clashes] });
      get().follow(study);
    }

    /** Sends what waits, one change at a time; an answer that breaks off says nothing, and is asked for again. */
    async function send(): Promise<void> {
      if (flying) return;
      flying = true;
      try {
        for (;;) {
          const change = get().pending[0];
          if (!change) break;
          set({ saved: "saving" });
          const response = await post(change).catch(() => undefined);
          const answer = (await response?.json().catch(() => undefined)) as
            | { revision?: number; study?: unknown; detail?: string; missed?: Edit[] }
            | undefined;
          if (response) noteAnswer(response.status);
          if (response?.ok && answer?.revision !== undefined) acknowledge(change, answer.revision, answer.missed ?? []);
          else if (response?.status === 409 && answer?.study)
            rebase(parseStudy(answer.study), answer.revision ?? get().revision);
          else if (!response || !answer || response.status >= 500 || response.status === 401) {
            set({ saved: "offline", trouble: answer?.detail });
            await wait(AGAIN_MS);
          } else refuse(change, answer?.detail ?? "The server refused this change.");
        }
      } finally {
        flying = false;
      }
    }

    return {
      id,
      revision,
      confirmed: opened,
      study: opened,
      saved: "saved",
      trouble: undefined,
      pending: [],
      refused: [],
      clashes: [],
      resume() {
        const waiting = kept(id);
        if (waiting.refused.length > 0) set({ refused: waiting.refused, saved: "refused" });
        if (waiting.pending.length === 0) return;
        set({ pending: waiting.pending, saved: "saving" });
        rebase(get().study, get().revision);
        void send();
      },
      take(edits, what) {
        const { study, pending, refused } = get();
        try {
          const inverse = inverseEdits(study, edits);
          const next = reviseStudy(study, edits);
          const change: Change = { edits, inverse, what };
          const queue = [...pending, change];
          keep(id, { pending: queue, refused });
          set({ study: next, pending: queue, saved: "saving" });
          get().follow(next);
          // After the change is on the screen in all views; until then it is kept where a reload finds it.
          setTimeout(() => void send(), AFTER_PAINT_MS);
          return change;
        } catch (error) {
          if (error instanceof StudyError) return error.message;
          throw error;
        }
      },
      overtake({ revision: next, since, changes, study: whole }) {
        const now = get();
        if (flying || now.pending.length > 0 || now.revision !== since || next <= since) return;
        laidOn(changes ? reviseStudy(now.confirmed, changes) : parseStudy(whole));
        set({ revision: next });
      },
      settle(clash, choice) {
        set({ clashes: get().clashes.filter((c) => c !== clash) });
        if (choice === "theirs") return;
        const from = (cellAt(get().study, clash.path) ?? null) as Edit["from"];
        get().commit([{ path: clash.path, from, to: (clash.mine ?? null) as Edit["to"] }], "kept own version");
      },
      retry(wanted) {
        const { study } = get();
        const edits = wanted.edits.map((e): Edit => ({ ...e, from: (cellAt(study, e.path) ?? null) as Edit["from"] }));
        const sentence = get().commit(edits, wanted.what);
        if (sentence === undefined) get().letGo(wanted);
        return sentence;
      },
      letGo(wanted) {
        const refused = get().refused.filter((r) => r !== wanted);
        const { pending, saved } = get();
        keep(id, { pending, refused });
        set({
          refused,
          trouble: undefined,
          ...(refused.length === 0 && saved === "refused" ? { saved: "saved" as const } : {}),
        });
      },
    };
  };
