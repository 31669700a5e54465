// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useMemo, useRef, useState } from "react";
import { desirability } from "@/core/setpoint";
import type { Goal } from "@/core/study";
import { colours } from "../theme/theme";
import { KneeHandle } from "./knee-handle";
import { type Knee, kneeAt, kneesOf } from "./knees";

const defaults = Object.freeze({
  bar: 14,
  top: 10,
  labels: 16,
  /** Between two strokes where all is as wanted, and how much farther apart they stand where next to nothing is. */
  gap: 3,
  thin: 13,
});

/** Places of the strokes over a rule: the nearer to what is wanted, the denser; none where it is not acceptable. */
export function strokes(worth: (x: number) => number, width: number): number[] {
  const out: number[] = [];
  for (let x = 1; x < width; ) {
    const d = worth(x);
    if (d > 0) out.push(x);
    x += d > 0 ? defaults.gap + defaults.thin * (1 - d) : 1;
  }
  return out;
}

/**
 * What values of a response are worth, as a rule over its range: strokes the denser the nearer to what is wanted. Its
 * ends are dragged, or moved by arrow keys; above it stands the prediction with its interval.
 */
export function WorthRule({
  goal: kept,
  name,
  text,
  width,
  value,
  interval,
  tight = false,
  onKnee,
}: {
  goal: Exclude<Goal, { aim: "watch" }>;
  name: string;
  /** How a value of the response is read. */
  text(value: number): string;
  width: number;
  value: number | undefined;
  interval: readonly [number, number] | null;
  /** Without the figures of its ends, where many stand below one another. */
  tight?: boolean;
  onKnee(key: Knee["key"], value: number): void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  // A drag is one change: the knee moves here and is handed on when it is let go.
  const [drag, setDrag] = useState<Knee | undefined>(undefined);
  const goal = drag ? ({ ...kept, [drag.key]: drag.at } as typeof kept) : kept;
  // The frame stands still while a knee moves in it.
  const span = kept.high - kept.low;
  const from = kept.low - 0.2 * span;
  const to = kept.high + 0.2 * span;
  const x = (v: number): number => ((v - from) / (to - from)) * width;
  const lines = useMemo(
    () => strokes((at) => desirability(goal, from + (at / width) * (to - from)) ?? 0, width),
    [goal, from, to, width],
  );
  const { top, bar } = defaults;
  const labels = tight ? 3 : defaults.labels;
  const inside = (v: number): number => Math.max(2, Math.min(width - 2, x(v)));
  const knees = kneesOf(goal);
  const drop = (): void => {
    if (drag) onKnee(drag.key, drag.at);
    setDrag(undefined);
  };
  return (
    <svg
      ref={svg}
      width="100%"
      viewBox={`0 0 ${width} ${top + bar + labels}`}
      role="group"
      aria-label={`${name}: worth from ${text(goal.low)} to ${text(goal.high)}`}
      style={{ display: "block", overflow: "visible", touchAction: "none" }}
    >
      <rect y={top} width={width} height={bar} rx="3" fill={colours.bed} />
      {lines.map((at) => (
        <line
          key={at}
          x1={at}
          x2={at}
          y1={top}
          y2={top + bar}
          stroke={colours.success}
          strokeWidth="1.600"
          opacity="0.65"
        />
      ))}
      {interval && (
        <line
          x1={inside(interval[0])}
          x2={inside(interval[1])}
          y1="3"
          y2="3"
          stroke={colours.info}
          strokeWidth="2.500"
        />
      )}
      {value !== undefined && (
        <polygon
          points={`${inside(value) - 5},2 ${inside(value) + 5},2 ${inside(value)},9`}
          fill={colours.info}
          opacity={value < from || value > to ? 0.5 : 1}
        />
      )}
      {knees.map((k) => (
        <g key={k.key}>
          <KneeHandle
            knee={k}
            name={name}
            place={{ x: x(k.at) - 3.5, y: top - 3, width: 7, height: bar + 6 }}
            span={span}
            frame={svg}
            drag={(share) => {
              const at = kneeAt(kept, k.key, from + share * (to - from));
              if (at !== undefined) setDrag({ key: k.key, at });
            }}
            drop={drop}
            put={(v) => onKnee(k.key, v)}
          />
          {!tight && (
            <text
              x={Math.max(12, Math.min(width - 12, x(k.at)))}
              y={top + bar + 13}
              textAnchor="middle"
              fontSize="11"
              className="num"
              fill={colours.success}
            >
              {text(k.at)}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
