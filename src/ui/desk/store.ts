"use client";
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import { createStore, type StoreApi } from "zustand/vanilla";
import {
  cellAt,
  centreSettings,
  type Edit,
  inverseEdits,
  parseStudy,
  reviseStudy,
  type Settings,
  type Study,
  StudyError,
  sameData,
  type Term,
} from "@/core";

/** One change as a person made it: its edits, what undoes them, and what it is called. */
interface Change {
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

/** One step of a person (or of reducing) through the models of a response. */
export interface ModelStep {
  label: string;
  terms: readonly Term[];
  /** What it was judged by, and what came of it. */
  figure: string;
  title: string;
}

export type SavedState = "saved" | "saving" | "offline" | "refused";

interface Desk {
  id: string;
  /** Of the last acknowledgement by the server. */
  revision: number;
  study: Study;
  saved: SavedState;
  /** What the server said when it refused a change. */
  trouble: string | undefined;
  pending: Change[];
  undoable: Change[];
  redoable: Change[];
  clashes: Clash[];
  /** The point that all views share; retired factors at their held value. */
  probe: Settings;
  pins: Settings[];
  /** The response that Model and the probe speak of. */
  response: string | undefined;
  /** A trial pointed at in any view lights in all. */
  lit: string | undefined;
  folded: { probe: boolean; readings: boolean };
  /** The way each response's model came to be, while this desk is open. */
  modelSteps: Record<string, ModelStep[]>;
  /** Takes up changes that a reload interrupted. */
  resume(): void;
  /** Makes a change; answers the reason when the study would not be one any more, and changes nothing then. */
  commit(edits: Edit[], what: string): string | undefined;
  undo(): string | undefined;
  redo(): string | undefined;
  settle(clash: Clash, keep: "mine" | "theirs"): void;
  setProbe(settings: Settings): void;
  pin(): void;
  unpin(index: number): void;
  choose(response: string): void;
  light(trial: string | undefined): void;
  fold(panel: "probe" | "readings"): void;
  /** Puts steps after the `at`th of a response's; what came after it is forgotten. */
  stepModel(response: string, at: number, steps: ModelStep[]): void;
}

const MOST_UNDO = 200;
const AFTER_PAINT_MS = 80;
const tab = Math.random().toString(36).slice(2, 10);
const keptKey = (id: string): string => `trialmoor:pending:${id}`;

/** Changes not yet acknowledged outlive a reload. */
function keep(id: string, pending: Change[]): void {
  try {
    if (pending.length === 0) localStorage.removeItem(keptKey(id));
    else localStorage.setItem(keptKey(id), JSON.stringify(pending));
  } catch {
    // Private windows may refuse storage; the change is still on its way to the server.
  }
}

function kept(id: string): Change[] {
  try {
    return JSON.parse(localStorage.getItem(keptKey(id)) ?? "[]") as Change[];
  } catch {
    return [];
  }
}

function startProbe(study: Study): Settings {
  return { ...centreSettings(study.factors), ...study.setpoint?.settings };
}

/** Every factor of the study has a place in the probe, whatever was added or removed. */
function completed(study: Study, probe: Settings): Settings {
  const centre = centreSettings(study.factors);
  const out: Settings = {};
  for (const f of study.factors) {
    const v = probe[f.id];
    const good = f.kind === "categorical" ? typeof v === "string" && f.levels.includes(v) : typeof v === "number";
    out[f.id] = good ? v : centre[f.id];
  }
  return out;
}

const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** A desk for one study: what is edited, what waits to be saved, what can be undone, where the probe stands. */
export const createDesk = (id: string, revision: number, opened: Study): StoreApi<Desk> =>
  createStore<Desk>((set, get) => {
    let flying = false;

    /** Sends what waits, one change at a time, on the revision of the last acknowledgement. */
    async function send(): Promise<void> {
      if (flying) return;
      flying = true;
      try {
        for (;;) {
          const { pending, id, revision } = get();
          const change = pending[0];
          if (!change) break;
          set({ saved: "saving" });
          let response: Response;
          try {
            response = await fetch(`/api/studies/${id}`, {
              method: "PATCH",
              headers: { "content-type": "application/json", "x-trialmoor-tab": tab },
              body: JSON.stringify({ revision, edits: change.edits, what: change.what.slice(0, 200) }),
            });
          } catch {
            set({ saved: "offline" });
            await wait(2000);
            continue;
          }
          const answer = (await response.json().catch(() => ({}))) as {
            revision?: number;
            study?: unknown;
            detail?: string;
          };
          if (response.ok && answer.revision !== undefined) {
            const rest = get().pending.slice(1);
            keep(id, rest);
            set({
              revision: answer.revision,
              pending: rest,
              saved: rest.length > 0 ? "saving" : "saved",
              trouble: undefined,
            });
          } else if (response.status === 409 && answer.study)
            rebase(parseStudy(answer.study), answer.revision ?? revision);
          else if (response.status >= 500) {
            set({ saved: "offline", trouble: answer.detail });
            await wait(2000);
          } else {
            // The server will never take this change: step back to what it has.
            keep(id, []);
            set({ saved: "refused", trouble: answer.detail ?? "The server refused the last change.", pending: [] });
            await reload();
          }
        }
      } finally {
        flying = false;
      }
    }

    async function reload(): Promise<void> {
      const response = await fetch(`/api/studies/${get().id}`);
      if (!response.ok) return;
      const { revision, study } = (await response.json()) as { revision: number; study: Study };
      set({ revision, study, undoable: [], redoable: [], probe: completed(study, get().probe) });
    }

    /** Puts the waiting changes on top of what another tab made of the study; cells both touched are shown side by side. */
    function rebase(theirs: Study, revision: number): void {
      const clashes: Clash[] = [...get().clashes];
      const still: Change[] = [];
      let study = theirs;
      for (const change of get().pending) {
        const good: Edit[] = [];
        for (const edit of change.edits) {
          const now = cellAt(study, edit.path);
          if (sameData(now, edit.to)) continue;
          if (!sameData(now, edit.from)) {
            clashes.push({ path: edit.path, mine: edit.to, theirs: now });
            continue;
          }
          try {
            study = reviseStudy(study, [edit]);
            good.push(edit);
          } catch {
            clashes.push({ path: edit.path, mine: edit.to, theirs: now });
          }
        }
        if (good.length > 0)
          still.push({
            edits: good,
            inverse: good.map((e) => ({ ...e, from: e.to, to: e.from })).reverse(),
            what: change.what,
          });
      }
      keep(get().id, still);
      set({
        study,
        revision,
        pending: still,
        clashes,
        undoable: [],
        redoable: [],
        probe: completed(study, get().probe),
        saved: still.length > 0 ? "saving" : "saved",
      });
    }

    /** Applies and queues a change. */
    function take(edits: Edit[], what: string): Change | string {
      const { study, id, pending } = get();
      try {
        const inverse = inverseEdits(study, edits);
        const next = reviseStudy(study, edits);
        const change: Change = { edits, inverse, what };
        const queue = [...pending, change];
        keep(id, queue);
        const response = get().response;
        set({
          study: next,
          pending: queue,
          saved: "saving",
          probe: completed(next, get().probe),
          response: next.responses.some((r) => r.id === response) ? response : next.responses[0]?.id,
        });
        // After the change is on the screen in all views; until then it is kept where a reload finds it.
        setTimeout(() => void send(), AFTER_PAINT_MS);
        return change;
      } catch (error) {
        if (error instanceof StudyError) return error.message;
        throw error;
      }
    }

    return {
      id,
      revision,
      study: opened,
      saved: "saved",
      trouble: undefined,
      pending: [],
      undoable: [],
      redoable: [],
      clashes: [],
      probe: completed(opened, startProbe(opened)),
      pins: [],
      response: opened.responses[0]?.id,
      lit: undefined,
      folded: { probe: false, readings: false },
      modelSteps: {},
      resume() {
        const waiting = kept(id);
        if (waiting.length === 0) return;
        set({ pending: waiting, saved: "saving" });
        rebase(get().study, get().revision);
        void send();
      },
      commit(edits, what) {
        const real = edits.filter((e) => !sameData(e.from, e.to) || e.path.length === 1);
        if (real.length === 0) return undefined;
        const taken = take(real, what);
        if (typeof taken === "string") return taken;
        set({ undoable: [...get().undoable, taken].slice(-MOST_UNDO), redoable: [], trouble: undefined });
        return undefined;
      },
      undo() {
        const change = get().undoable.at(-1);
        if (!change) return undefined;
        const taken = take(change.inverse, `undo: ${change.what}`);
        if (typeof taken === "string") return `“${change.what}” cannot be undone: ${taken}`;
        set({ undoable: get().undoable.slice(0, -1), redoable: [...get().redoable, change] });
        return undefined;
      },
      redo() {
        const change = get().redoable.at(-1);
        if (!change) return undefined;
        const taken = take(change.edits, `redo: ${change.what}`);
        if (typeof taken === "string") return `“${change.what}” cannot be done again: ${taken}`;
        set({ redoable: get().redoable.slice(0, -1), undoable: [...get().undoable, change] });
        return undefined;
      },
      settle(clash, choice) {
        set({ clashes: get().clashes.filter((c) => c !== clash) });
        if (choice === "mine") {
          const from = cellAt(get().study, clash.path);
          get().commit(
            [{ path: clash.path, from: (from ?? null) as Edit["from"], to: (clash.mine ?? null) as Edit["to"] }],
            "kept own version",
          );
        }
      },
      setProbe: (settings) => set({ probe: completed(get().study, settings) }),
      pin: () => set({ pins: [...get().pins, get().probe].slice(-4) }),
      unpin: (index) => set({ pins: get().pins.filter((_, i) => i !== index) }),
      choose: (response) => set({ response }),
      light: (trial) => set({ lit: trial }),
      stepModel: (response, at, steps) => {
        const had = get().modelSteps[response] ?? [];
        set({ modelSteps: { ...get().modelSteps, [response]: [...had.slice(0, at), ...steps] } });
      },
      fold: (panel) => set({ folded: { ...get().folded, [panel]: !get().folded[panel] } }),
    };
  });

const DeskContext = createContext<StoreApi<Desk> | undefined>(undefined);
export const DeskProvider = DeskContext.Provider;

/** The desk itself, for handlers that need its state when they run. */
export function useDeskStore(): StoreApi<Desk> {
  const store = useContext(DeskContext);
  if (!store) throw new Error("No desk: this part stands outside a study.");
  return store;
}

/** A piece of the desk that a part of the page follows. */
export const useDesk = <T>(select: (desk: Desk) => T): T => useStore(useDeskStore(), select);
