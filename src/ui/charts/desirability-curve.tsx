"use client";
import { useRef, useState } from "react";
import { desirability } from "@/core/setpoint";
import type { Goal } from "@/core/study";
import { settingText } from "../parts/format";
import { colours } from "../theme/theme";
import { KneeHandle } from "./knee-handle";
import { type Knee, kneeAt, kneesOf } from "./knees";
import { pathThrough } from "./paths";

/**
 * A desirability curve. Small, it is a picture; with `onKnee` its knees can be dragged or moved by arrow keys.
 * `value` marks where the response stands now.
 */
export function DesirabilityCurve({
  goal: kept,
  name,
  width,
  height,
  value,
  onKnee,
  labels,
}: {
  goal: Goal;
  name: string;
  width: number;
  height: number;
  value?: number | undefined;
  onKnee?: (key: Knee["key"], value: number) => void;
  labels?: boolean;
}) {
  const svg = useRef<SVGSVGElement>(null);
  // A drag is one change: the knee moves here and is handed on when it is let go.
  const [drag, setDrag] = useState<Knee | undefined>(undefined);
  const goal =
    drag && kept.aim !== "watch" ? ({ ...kept, [drag.key]: drag.at } as Exclude<Goal, { aim: "watch" }>) : kept;
  if (kept.aim === "watch" || goal.aim === "watch")
    return (
      <svg width={width} height={height} role="img" aria-label={`${name}: watched, no goal`}>
        <rect width={width} height={height} rx="4" fill={colours.track} />
        <text x={width / 2} y={height / 2 + 4} textAnchor="middle" fontSize="11" fill={colours.quiet}>
          watched
        </text>
      </svg>
    );
  // The frame stands still while a knee moves in it.
  const span = kept.high - kept.low;
  const from = kept.low - 0.25 * span;
  const to = kept.high + 0.25 * span;
  const foot = labels ? 19 : 3;
  const x = (v: number): number => ((v - from) / (to - from)) * width;
  const y = (d: number): number => height - foot - d * (height - foot - 5);
  const samples = Array.from({ length: 61 }, (_, i) => from + (i / 60) * (to - from));
  const all = [
    ...samples,
    goal.low,
    goal.high,
    ...("target" in goal && goal.target !== undefined ? [goal.target] : []),
    goal.low - span * 1e-9,
    goal.high + span * 1e-9,
  ].sort((a, b) => a - b);
  const d = (v: number): number => desirability(goal, v) ?? 0;
  const path = pathThrough(all.map((v) => [x(v), y(d(v))]));
  const drop = (): void => {
    if (drag && onKnee) onKnee(drag.key, drag.at);
    setDrag(undefined);
  };
  return (
    <svg
      ref={svg}
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role={onKnee ? "group" : "img"}
      aria-label={`${name}: desirability from ${settingText(goal.low)} to ${settingText(goal.high)}`}
      style={{ overflow: "visible", touchAction: "none" }}
    >
      <rect width={width} height={height - (labels ? 16 : 0)} rx="4" fill={colours.track} />
      <path d={`${path}L${width} ${y(0)}L0 ${y(0)}Z`} fill={colours.success} opacity="0.16" />
      <path d={path} fill="none" stroke={colours.success} strokeWidth="2" strokeLinejoin="round" />
      {value !== undefined && value >= from && value <= to && (
        <g>
          <line x1={x(value)} x2={x(value)} y1="2" y2={height - foot} stroke={colours.info} />
          <circle
            cx={x(value)}
            cy={y(d(value))}
            r="4.500"
            fill={colours.raised}
            stroke={colours.info}
            strokeWidth="2"
          />
        </g>
      )}
      {kneesOf(goal).map((k) => (
        <g key={k.key}>
          {onKnee && (
            <KneeHandle
              knee={k}
              name={name}
              place={{ x: x(k.at) - 5, y: y(d(k.at)) - 5, width: 10, height: 10 }}
              span={span}
              frame={svg}
              drag={(share) => {
                const at = kneeAt(kept, k.key, from + share * (to - from));
                if (at !== undefined) setDrag({ key: k.key, at });
              }}
              drop={drop}
              put={(v) => onKnee(k.key, v)}
            />
          )}
          {labels && (
            <text
              x={Math.max(14, Math.min(width - 14, x(k.at)))}
              y={height - 2}
              textAnchor="middle"
              fontSize="11"
              className="num"
              fill={colours.quiet}
            >
              {settingText(k.at)}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
