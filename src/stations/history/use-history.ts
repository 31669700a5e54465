"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Station } from "@/core/findings";
import type { HistoryEvent, HistoryPage } from "@/server/history";
import { send } from "@/ui/parts/send";

/** What of the history is asked for. */
export interface Filter {
  station?: Station | undefined;
  wave?: string | undefined;
  /** Empty for those who gave no name. */
  who?: string | undefined;
  /** A cell or thing, its parts with / between. */
  path?: string | undefined;
}

const addressOf = (id: string, filter: Filter, more: Record<string, string> = {}): string => {
  const query = new URLSearchParams(more);
  for (const [name, value] of Object.entries(filter)) if (value !== undefined) query.set(name, value as string);
  return `/api/studies/${id}/history?${query}`;
};

export const csvAddress = (id: string, filter: Filter): string => addressOf(id, filter, { format: "csv" });

export interface ListState {
  events: readonly HistoryEvent[];
  people: readonly string[];
  /** Whether there are more, and what fetches them. */
  more: (() => void) | undefined;
  /** While it is on its way; why it did not come. */
  busy: boolean;
  sentence: string | undefined;
}

/** The history of a study, page by page, read anew when the study was saved or is filtered otherwise. */
export function useHistory(id: string, filter: Filter, revision: number): ListState {
  const [events, setEvents] = useState<readonly HistoryEvent[]>([]);
  const [people, setPeople] = useState<readonly string[]>([]);
  const [next, setNext] = useState<number | undefined>(undefined);
  const [busy, setBusy] = useState(true);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  // An answer to an earlier question is no answer to this one.
  const asked = useRef(0);
  const read = useCallback(
    async (before: number | undefined): Promise<void> => {
      const mine = ++asked.current;
      setBusy(true);
      const more: Record<string, string> = before === undefined ? {} : { before: String(before) };
      const answer = await send<HistoryPage>(addressOf(id, filter, more));
      if (mine !== asked.current) return;
      setBusy(false);
      setSentence(answer.ok ? undefined : answer.sentence);
      if (!answer.ok) return;
      setEvents((held) => (before === undefined ? answer.data.events : [...held, ...answer.data.events]));
      setNext(answer.data.next);
      if (answer.data.people) setPeople(answer.data.people);
    },
    [id, filter],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: a saved change is news.
  useEffect(() => {
    void read(undefined);
  }, [read, revision]);
  return { events, people, more: next === undefined ? undefined : () => void read(next), busy, sentence };
}
