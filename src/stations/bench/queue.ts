"use client";
import { get as fetchKept, set as keepOnDevice } from "idb-keyval";
import { createStore, type StoreApi } from "zustand/vanilla";
import { type BenchEntry, entryEdits, standingAt } from "@/core/operator";
import { parseStudy, reviseStudy, type Study, StudyError } from "@/core/study";
import { actorHeader } from "@/ui/parts/actor-name";
import { noteAnswer } from "@/ui/parts/session";

/** An entry that the server has not acknowledged yet. */
export interface Waiting {
  /** Names it, so that sent twice it is taken in once. */
  key: string;
  trial: string;
  entry: BenchEntry;
}

/** An entry whose cell was changed elsewhere meanwhile. */
export interface Clash extends Waiting {
  /** What stands there now. */
  now: BenchEntry["was"];
}

/** An entry that the server will never take, and why. */
export interface Refused extends Waiting {
  sentence: string;
}

export interface Bench {
  id: string;
  /** As the server had it last, and with what waits on top. */
  confirmed: Study;
  revision: number;
  study: Study;
  waiting: readonly Waiting[];
  clashes: readonly Clash[];
  refused: readonly Refused[];
  /** The server did not answer the last time it was asked. */
  away: boolean;
  /** Takes up what an earlier visit left on this device. */
  resume(): Promise<void>;
  /** Notes something for a trial; what stands in its cell is added. */
  note(trial: string, entry: Unknowing): void;
  /** Settles clashes of one trial together. */
  settle(clashes: readonly Clash[], keep: "mine" | "theirs"): void;
  letGo(refused: Refused): void;
  /** Asks the server for what others entered, and sends what waits. */
  refresh(): Promise<void>;
}

/** An entry before it is known what stands in its cell. */
export type Unknowing = BenchEntry extends infer E ? (E extends unknown ? Omit<E, "was"> : never) : never;

const keptKey = (id: string): string => `trialmoor:bench:${id}`;
const AGAIN_MS = 300;
/** The longest pause, in first ones: a quarter of a minute. */
const MOST_AGAIN = 50;
/** What this device keeps of a bench: entries that wait, and the study as the server had it last. */
type KeptOnDevice = Pick<Bench, "waiting" | "clashes" | "refused" | "confirmed" | "revision">;
/** Whether the server may take the same thing later: in trouble, asked too much, or waiting for somebody to sign in. */
const takesLater = (status: number): boolean => status >= 500 || [401, 403, 429].includes(status);

/** A study as this device kept it; undefined where an earlier version kept what is none now. */
function studyKept(kept: unknown): Study | undefined {
  try {
    return parseStudy(kept);
  } catch (error) {
    if (error instanceof StudyError) return undefined;
    throw error;
  }
}

/** The study with entries on top; what cannot be taken in here is left for the server to refuse. */
export function withEntries(study: Study, waiting: readonly Waiting[]): Study {
  return waiting.reduce((now, { trial, entry }) => {
    try {
      return reviseStudy(now, entryEdits(now, trial, entry));
    } catch (error) {
      if (error instanceof StudyError) return now;
      throw error;
    }
  }, study);
}

/**
 * A study at the bench: entries are kept on this device until the server has them, and sent in order, once each.
 * @param againMs how long after the first failure it tries again; twice as long after each further one, up to fifty
 *   times
 */
export function createBench(id: string, revision: number, opened: Study, againMs = AGAIN_MS): StoreApi<Bench> {
  let sending = false;
  let pause = againMs;
  let timer: ReturnType<typeof setTimeout> | undefined;
  return createStore<Bench>()((set, get) => {
    // Written in turn: a later state must never be overtaken by an earlier one.
    let written: Promise<unknown> = Promise.resolve();
    const keep = (): void => {
      const { waiting, clashes, refused, confirmed, revision } = get();
      const kept: KeptOnDevice = { waiting, clashes, refused, confirmed, revision };
      written = written
        .then(() => keepOnDevice(keptKey(id), kept))
        // Private windows may refuse storage: entries then wait in this page alone.
        .catch(() => undefined);
    };
    const stand = (confirmed: Study, more: Partial<Bench>): void => {
      const waiting = more.waiting ?? get().waiting;
      set({ ...more, confirmed, study: withEntries(confirmed, waiting) });
      keep();
    };
    const later = (): void => {
      clearTimeout(timer);
      timer = setTimeout(() => void send(), pause);
      pause = Math.min(2 * pause, MOST_AGAIN * againMs);
    };

    async function post({ key, trial, entry }: Waiting): Promise<Response> {
      return fetch(`/api/studies/${id}/trials/${encodeURIComponent(trial)}/entries`, {
        method: "POST",
        headers: { "content-type": "application/json", "idempotency-key": key, ...actorHeader() },
        body: JSON.stringify(entry),
      });
    }

    /** Sends what waits, the oldest first. */
    async function send(): Promise<void> {
      if (sending) return;
      sending = true;
      try {
        for (let first = get().waiting[0]; first; first = get().waiting[0]) {
          const response = await post(first).catch(() => undefined);
          if (response) noteAnswer(response.status);
          const answer = (await response?.json().catch(() => undefined)) as
            | { revision?: number; trial?: Study["trials"][number]; detail?: string; now?: BenchEntry["was"] }
            | undefined;
          const rest = get().waiting.slice(1);
          if (response?.ok && answer?.trial && answer.revision !== undefined) {
            const { confirmed } = get();
            const trials = confirmed.trials.map((t) => (t.id === answer.trial?.id ? answer.trial : t));
            pause = againMs;
            stand({ ...confirmed, trials }, { revision: answer.revision, waiting: rest, away: false });
          } else if (response?.status === 409 && answer && "now" in answer) {
            const clash = { ...first, now: answer.now ?? null };
            stand(get().confirmed, { waiting: rest, clashes: [...get().clashes, clash], away: false });
          } else if (!response || !answer || takesLater(response.status)) {
            // An answer that is cut short says nothing of what became of the entry: it is sent again under its key.
            set({ away: true });
            later();
            return;
          } else {
            const refused = { ...first, sentence: answer?.detail ?? "The server refused this entry." };
            stand(get().confirmed, { waiting: rest, refused: [...get().refused, refused], away: false });
          }
        }
      } finally {
        sending = false;
      }
    }

    return {
      id,
      confirmed: opened,
      revision,
      study: opened,
      waiting: [],
      clashes: [],
      refused: [],
      away: false,
      async resume() {
        const kept = (await fetchKept(keptKey(id)).catch(() => undefined)) as Partial<KeptOnDevice> | undefined;
        if (kept) {
          // A page that opened without the server is as old as it was kept: what was taken in since is known here.
          const known = (kept.revision ?? 0) > get().revision ? studyKept(kept.confirmed) : undefined;
          stand(known ?? get().confirmed, {
            ...(known && kept.revision !== undefined ? { revision: kept.revision } : {}),
            waiting: [...(kept.waiting ?? []), ...get().waiting],
            clashes: kept.clashes ?? [],
            refused: kept.refused ?? [],
          });
        }
        await send();
        void get().refresh();
      },
      note(trial, entry) {
        const { study, waiting, confirmed } = get();
        const probe = { ...entry, was: null } as BenchEntry;
        const was = standingAt(study, trial, probe);
        if (JSON.stringify(was) === JSON.stringify(entry.value)) return;
        const key = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random().toString(36).slice(2)}`;
        stand(confirmed, { waiting: [...waiting, { key, trial, entry: { ...entry, was } as BenchEntry }] });
        void send();
      },
      settle(clashes, choice) {
        set({ clashes: get().clashes.filter((c) => !clashes.includes(c)) });
        keep();
        void get()
          .refresh()
          .then(() => {
            if (choice === "mine") for (const { trial, entry } of clashes) get().note(trial, entry);
          });
      },
      letGo(refused) {
        set({ refused: get().refused.filter((r) => r.key !== refused.key) });
        keep();
      },
      async refresh() {
        await send();
        if (get().waiting.length > 0) return;
        const response = await fetch(`/api/studies/${id}/bench`).catch(() => undefined);
        if (response) noteAnswer(response.status);
        if (!response?.ok) {
          set({ away: !response || takesLater(response.status) });
          return;
        }
        const answer = (await response.json()) as { revision: number; study: unknown };
        set({ away: false });
        // What was noted while this was on its way stands on top of it.
        if (answer.revision > get().revision) stand(parseStudy(answer.study), { revision: answer.revision });
      },
    };
  });
}
