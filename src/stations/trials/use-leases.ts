"use client";
import { useCallback, useEffect, useState } from "react";
import type { Watched } from "@/server/leases";
import { useDeskStore } from "@/ui/desk/store";
import { send } from "@/ui/parts/send";

/** Between two looks, in milliseconds: while programs are at work, and otherwise. */
const AT_WORK = 1200;
const IDLE = 5000;

/** Whether anything is to be expected soon. */
const atWork = (seen: Watched): boolean => seen.lent.length > 0 || (seen.rigs?.rigs.some((r) => r.study) ?? false);

/** How trials are lent, and a change of it. */
export interface LeaseState {
  now: Watched | undefined;
  /** Answers the sentence where it could not be done. */
  change(how: { stopped?: boolean; atOnce?: number | null }): Promise<string | undefined>;
  takeBack(lease: string): Promise<string | undefined>;
  /** Looks again now. */
  look(): Promise<unknown>;
}

/** Watches how trials are lent to programs and rigs; what they enter falls into the study as it comes. */
export function useLeases(): LeaseState {
  const desk = useDeskStore();
  const [now, setNow] = useState<Watched | undefined>(undefined);
  const look = useCallback(async (): Promise<Watched | undefined> => {
    const { id, revision: since, overtake } = desk.getState();
    const answer = await send<Watched>(`/api/studies/${id}/next?since=${since}`);
    if (!answer.ok) return undefined;
    const { revision, changes } = answer.data;
    setNow(answer.data);
    if (changes) overtake({ since, revision, changes });
    else if (revision > since) {
      const whole = await send<{ revision: number; study: unknown }>(`/api/studies/${id}`);
      if (whole.ok) overtake({ since, ...whole.data });
    }
    return answer.data;
  }, [desk]);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>;
    let gone = false;
    const round = async (): Promise<void> => {
      const seen = document.visibilityState === "visible" ? await look() : undefined;
      if (!gone) timer = setTimeout(() => void round(), seen && atWork(seen) ? AT_WORK : IDLE);
    };
    void round();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [look]);
  const id = desk.getState().id;
  return {
    now,
    look,
    async change(how) {
      const answer = await send<Watched>(`/api/studies/${id}/next`, "PUT", how);
      if (!answer.ok) return answer.sentence;
      setNow(answer.data);
      return undefined;
    },
    async takeBack(lease) {
      const answer = await send(`/api/studies/${id}/next/${lease}`, "DELETE");
      await look();
      return answer.ok ? undefined : answer.sentence;
    },
  };
}
