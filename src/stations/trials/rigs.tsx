"use client";
import { Button } from "antd";
import { useState } from "react";
import { counted } from "@/core/findings";
import type { KnownRig } from "@/server/rigs/link";
import { send } from "@/ui/parts/send";
import { paceOf, span } from "./lease-bar";
import css from "./trials.module.css";
import type { LeaseState } from "./use-leases";

type Order = "run" | "pause" | "stop";

/** How a rig stands, in words. */
function standing(rig: KnownRig): string {
  const since = `for ${span((Date.now() - Date.parse(rig.since)) / 1000)}`;
  if (rig.state === "gone") return `not heard of ${since}`;
  if (rig.state === "trouble") return `in trouble ${since}`;
  return rig.state === "running" ? `running ${since}` : `ready ${since}`;
}

/** What it does for this study, or for another. */
function work(rig: KnownRig, id: string): string {
  if (rig.study === undefined) return "nothing";
  if (rig.study !== id) return "another study’s trials";
  const trial = rig.trial === undefined ? "" : `trial ${rig.trial}`;
  if (rig.paused) return trial ? `${trial}, then rests` : "rests";
  return trial || "waits for the next trial";
}

/** Orders that make sense now, the one that people want first. */
const ordersFor = (rig: KnownRig, id: string): { order: Order; label: string }[] =>
  rig.study !== id
    ? [{ order: "run", label: "Run these" }]
    : [
        rig.paused ? { order: "run", label: "Go on" } : { order: "pause", label: "Rest after this trial" },
        { order: "stop", label: "Stop" },
      ];

/** Rigs with a controller, reached over a broker: their state, and what they are to do. */
export function Rigs({ id, lending }: { id: string; lending: LeaseState }) {
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const { now, look } = lending;
  const seen = now?.rigs;
  const tell = async (rig: KnownRig, order: Order): Promise<void> => {
    const answer = await send(`/api/studies/${id}/rigs/${encodeURIComponent(rig.id)}`, "PUT", { do: order });
    setSentence(answer.ok ? undefined : answer.sentence);
    await look();
  };
  if (!seen)
    return (
      <>
        <p>
          Rigs with a controller are reached over MQTT (3.1.1 or 5): a trial goes out, its result comes in. The file{" "}
          <code>rigs.json</code> in the server's data folder names the broker; there is none yet.
        </p>
        <p className="quiet" style={{ marginTop: 8 }}>
          To try it without a rig, type <code>npm run rig</code> beside the server: it starts a small broker and a wool
          line that stands in for one. <i>Programs and rigs</i> in docs/programs-and-rigs.md says what is sent.
        </p>
      </>
    );
  const pace = now && paceOf(now);
  return (
    <>
      <p className="quiet" style={{ marginBottom: 10 }}>
        {seen.broker.address && <code>{seen.broker.address}</code>}{" "}
        {seen.broker.state === "connected"
          ? "is connected"
          : seen.broker.state === "connecting"
            ? "is being reached"
            : ""}
        {seen.broker.state === "connected" && seen.rigs.length === 0
          ? "; no rig has made itself known yet."
          : ` · ${counted(now?.waiting ?? 0, "trial waits", "trials wait")}${pace ? ` · ${pace}` : ""}`}
      </p>
      {(sentence ?? seen.broker.sentence) && (
        <p className="danger" role="alert" style={{ marginBottom: 8 }}>
          {sentence ?? seen.broker.sentence}
        </p>
      )}
      {seen.rigs.length > 0 && (
        <table className={css.tablets}>
          <thead>
            <tr>
              <th>Rig</th>
              <th>State</th>
              <th>Runs</th>
              <th aria-label="What it is to do" />
            </tr>
          </thead>
          <tbody>
            {seen.rigs.map((rig) => (
              <tr key={rig.id}>
                <td>
                  <strong>{rig.name}</strong>
                  {rig.name !== rig.id && <div className="small quiet">{rig.id}</div>}
                </td>
                <td>
                  <span data-rig={rig.state} className={css.rigstate}>
                    {standing(rig)}
                  </span>
                  {rig.says && <div className="small">{rig.says}</div>}
                  {rig.sentence && rig.study === id && <div className="small danger">{rig.sentence}</div>}
                </td>
                <td>{work(rig, id)}</td>
                <td>
                  <span className="row" style={{ gap: 6, justifyContent: "flex-end" }}>
                    {ordersFor(rig, id).map(({ order, label }, i) => (
                      <Button
                        key={order}
                        size="small"
                        type={i === 0 && order === "run" ? "primary" : "default"}
                        aria-label={`${label}: ${rig.name}`}
                        onClick={() => void tell(rig, order)}
                      >
                        {label}
                      </Button>
                    ))}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
