"use client";
import { useEffect, useState } from "react";
import { whoText } from "@/core/findings";
import type { HistoryEvent, HistoryPage } from "@/server/history";
import { useDesk } from "@/ui/desk/store";
import { send } from "@/ui/parts/send";

/** Changes that a report prints; what is beyond stands in the CSV. */
const MOST_EVENTS = 1000;

const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "short", timeStyle: "short" });

/** Every change as an appendix, the first one first. */
export function HistorySection() {
  const id = useDesk((d) => d.id);
  const revision = useDesk((d) => d.revision);
  const [read, setRead] = useState<{ events: HistoryEvent[]; more: boolean } | string | undefined>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a saved change is news.
  useEffect(() => {
    let here = true;
    const all = async (): Promise<void> => {
      const events: HistoryEvent[] = [];
      let next: number | undefined;
      do {
        const before = next === undefined ? "" : `?before=${next}`;
        const answer = await send<HistoryPage>(`/api/studies/${id}/history${before}`);
        if (!here) return;
        if (!answer.ok) {
          setRead(answer.sentence);
          return;
        }
        events.push(...answer.data.events);
        next = answer.data.next;
      } while (next !== undefined && events.length < MOST_EVENTS);
      setRead({ events: events.reverse(), more: next !== undefined });
    };
    void all();
    return () => {
      here = false;
    };
  }, [id, revision]);
  return (
    <section>
      <h2>History</h2>
      {read === undefined && <p className="small quiet">Reading every change…</p>}
      {typeof read === "string" && (
        <p className="danger" role="alert">
          {read}
        </p>
      )}
      {read !== undefined && typeof read !== "string" && (
        <>
          {read.more && (
            <p className="small">The last {read.events.length} changes; all of them stand in the CSV of the history.</p>
          )}
          <table>
            <thead>
              <tr>
                <th>When</th>
                <th>Who</th>
                <th>What</th>
              </tr>
            </thead>
            <tbody>
              {read.events.map((e) => (
                <tr key={e.id}>
                  <td style={{ whiteSpace: "nowrap" }}>{when.format(new Date(e.at))}</td>
                  <td>{whoText(e.who)}</td>
                  <td>
                    {e.what}
                    {e.changes.length > 0 &&
                      `: ${e.changes.map((c) => c.text).join("; ")}${e.count > e.changes.length ? `; and ${e.count - e.changes.length} more` : ""}`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
