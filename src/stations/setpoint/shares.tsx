// biome-ignore-all lint/a11y/noNoninteractiveElementToInteractiveRole: moved by keys and by hand it is a slider.
"use client";
import { type RefObject, useRef, useState } from "react";
import { importancePercents, importanceShares, moveSeam } from "@/core/model";
import { edit, type Response } from "@/core/study";
import { useDrag } from "@/ui/charts/use-drag";
import { useDesk } from "@/ui/desk/store";
import css from "./setpoint.module.css";

/** A seam between two responses, moved by hand or by arrow keys. */
function Seam({
  bar,
  label,
  share,
  text,
  drag,
  press,
}: {
  bar: RefObject<HTMLDivElement | null>;
  label: string;
  share: number;
  text: string;
  /** Where the hand holds it, as a share of the bar; undefined when it is let go. */
  drag(at: number | undefined): void;
  press(by: number): void;
}) {
  const seam = useRef<HTMLElement>(null);
  useDrag(seam, { start: () => undefined, move: (at) => drag(at.x), end: () => drag(undefined) }, bar);
  return (
    <i
      ref={seam}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Math.round(100 * share)}
      aria-valuetext={text}
      onKeyDown={(e) => {
        const d = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
        if (d === 0) return;
        e.preventDefault();
        press(0.01 * d * (e.shiftKey ? 5 : 1));
      }}
    />
  );
}

/** How much each response counts: one bar divided by share, its seams dragged or moved by arrow keys. */
export function Shares({ responses }: { responses: readonly Response[] }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const bar = useRef<HTMLDivElement>(null);
  // A drag is one change: it is handed on when the seam is let go.
  const [drag, setDrag] = useState<{ at: number; by: number } | undefined>(undefined);
  const moved = drag && moveSeam(responses, drag.at, drag.by);
  const shown = responses.map((r) => ({ ...r, importance: moved?.get(r.id) ?? r.importance }));
  const shares = importanceShares(shown);
  const said = importancePercents(shown).map((v) => `${v} %`);
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
          <div key={r.id} style={{ flex: shares[i] }} title={`${r.name} ${said[i]}`}>
            <span>{r.name}</span> <b>{said[i]}</b>
            {i < shown.length - 1 && (
              <Seam
                bar={bar}
                label={`Between ${r.name} and ${shown[i + 1].name}`}
                share={shares[i]}
                text={`${r.name} ${said[i]}, ${shown[i + 1].name} ${said[i + 1]}`}
                drag={(at) => {
                  if (at !== undefined) {
                    const before = importanceShares(responses)
                      .slice(0, i + 1)
                      .reduce((t, s) => t + s, 0);
                    setDrag({ at: i, by: at - before });
                    return;
                  }
                  if (moved && drag?.by !== 0) put(moved);
                  setDrag(undefined);
                }}
                press={(by) => put(moveSeam(responses, i, by))}
              />
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
