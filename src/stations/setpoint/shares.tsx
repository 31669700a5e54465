// biome-ignore-all lint/a11y/noNoninteractiveElementToInteractiveRole: moved by keys and by hand it is a slider.
"use client";
import { useRef, useState } from "react";
import { edit, moveSeam, type Response, sharesOf } from "@/core";
import { useDesk } from "@/ui/desk/store";
import css from "./setpoint.module.css";

const percent = (share: number): string => `${(100 * share).toFixed(0)} %`;

/** How much each response counts: one bar divided by share, its seams dragged or moved by arrow keys. */
export function Shares({ responses }: { responses: readonly Response[] }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const bar = useRef<HTMLDivElement>(null);
  // A drag is one change: it is handed on when the seam is let go.
  const [drag, setDrag] = useState<{ at: number; by: number } | undefined>(undefined);
  const moved = drag && moveSeam(responses, drag.at, drag.by);
  const shown = responses.map((r) => ({ ...r, importance: moved?.get(r.id) ?? r.importance }));
  const shares = sharesOf(shown);
  const put = (after: Map<string, number>): void => {
    commit(
      [...after].map(([id, importance]) => edit(study, ["responses", id, "importance"], importance)),
      "how much responses count",
    );
  };
  if (responses.length < 2) return null;
  return (
    <div style={{ marginBottom: 10 }}>
      <p className="small" style={{ marginBottom: 3 }}>
        <b style={{ fontSize: 13 }}>How much each counts</b>{" "}
        <span className="quiet">drag a seam, or press arrow keys on it</span>
      </p>
      <div ref={bar} className={css.shares}>
        {shown.map((r, i) => (
          <div key={r.id} style={{ flex: shares[i] }} title={`${r.name} ${percent(shares[i])}`}>
            <span>{r.name}</span> <b>{percent(shares[i])}</b>
            {i < shown.length - 1 && (
              <i
                role="slider"
                tabIndex={0}
                aria-label={`Between ${r.name} and ${shown[i + 1].name}`}
                aria-valuenow={Math.round(100 * shares[i])}
                aria-valuetext={`${r.name} ${percent(shares[i])}, ${shown[i + 1].name} ${percent(shares[i + 1])}`}
                onPointerDown={(e) => {
                  e.currentTarget.setPointerCapture(e.pointerId);
                  setDrag({ at: i, by: 0 });
                }}
                onPointerMove={(e) => {
                  const box = bar.current?.getBoundingClientRect();
                  if (e.buttons !== 1 || !box || drag?.at !== i) return;
                  const before = sharesOf(responses)
                    .slice(0, i + 1)
                    .reduce((t, s) => t + s, 0);
                  setDrag({ at: i, by: (e.clientX - box.left) / box.width - before });
                }}
                onPointerUp={() => {
                  if (moved && drag?.by !== 0) put(moved);
                  setDrag(undefined);
                }}
                onPointerCancel={() => setDrag(undefined)}
                onKeyDown={(e) => {
                  const d = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
                  if (d === 0) return;
                  e.preventDefault();
                  put(moveSeam(responses, i, 0.01 * d * (e.shiftKey ? 5 : 1)));
                }}
              />
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
