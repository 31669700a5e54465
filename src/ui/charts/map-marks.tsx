// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
"use client";
import { memo } from "react";
import { code, type NumericFactor, rangeOf, settingsAsRun, type Trial } from "@/core/study";
import { colours } from "../theme/theme";
import type { Band } from "./contours";
import { type Box, linear, round } from "./marks/axis";
import { pathThrough } from "./paths";

/** What stands on a map over two factors. */

/** Places that still carry the number of their trials. */
const MOST_NUMBERED = 60;
interface TrialGroup {
  x: number;
  y: number;
  ids: string[];
}

/** Trials that count, by where they were run, within so many coded units of the centre. */
export function trialGroups(trials: readonly Trial[], x: NumericFactor, y: NumericFactor, reach: number): TrialGroup[] {
  const groups = new Map<string, TrialGroup>();
  for (const t of trials) {
    if (t.state !== "done" || !t.use) continue;
    const s = settingsAsRun(t);
    const key = `${s[x.id]}|${s[y.id]}`;
    const g = groups.get(key) ?? { x: code(x, s[x.id] as number), y: code(y, s[y.id] as number), ids: [] };
    g.ids.push(t.id);
    groups.set(key, g);
  }
  return [...groups.values()].filter((g) => Math.abs(g.x) <= reach && Math.abs(g.y) <= reach);
}

/** Trials with their count; drawn anew only when they or the frame change. */
export const TrialMarks = memo(function TrialMarks({
  groups,
  px,
  py,
  lit,
  light,
}: {
  groups: readonly TrialGroup[];
  px(v: number): number;
  py(v: number): number;
  lit: string | undefined;
  light(trial: string | undefined): void;
}) {
  // Many places: small dots, lest the marks hide the surface.
  const small = groups.length > MOST_NUMBERED;
  return groups.map((g) => (
    <g key={g.ids[0]} onPointerEnter={() => light(g.ids[0])} onPointerLeave={() => light(undefined)}>
      <circle
        cx={px(g.x)}
        cy={py(g.y)}
        r={small ? (g.ids.includes(lit ?? "") ? 5 : 2.6) : g.ids.length > 9 ? 10 : 8}
        fill={g.ids.includes(lit ?? "") ? colours.highlight : colours.mist}
        stroke={colours.ink}
        strokeOpacity="0.75"
      />
      {!small && (
        <text
          x={px(g.x)}
          y={py(g.y) + 4}
          textAnchor="middle"
          fontSize="10.500"
          className="num"
          fill={colours.ink}
          pointerEvents="none"
        >
          {g.ids.length}
        </text>
      )}
    </g>
  ));
});

/** Words on a line of a map: upright, for a turned 6 is a 9. */
export function OnLine({ at, text }: { at: NonNullable<Band["label"]>; text: string }) {
  return (
    <text
      transform={`translate(${at.x} ${at.y})`}
      dy="4"
      textAnchor="middle"
      fontSize="11.500"
      className="num"
      fill={colours.ink}
      stroke={colours.paper}
      strokeWidth="3"
      paintOrder="stroke"
      strokeOpacity="0.9"
      pointerEvents="none"
    >
      {text}
    </text>
  );
}

/** Where the probe stands. */
export function ProbeCross({ x, y }: { x: number; y: number }) {
  const cross = pathThrough([[x - 14, y], [x + 14, y], undefined, [x, y - 14], [x, y + 14]]);
  return (
    <g pointerEvents="none">
      <path d={cross} stroke={colours.raised} strokeWidth="4.500" />
      <path d={cross} stroke={colours.info} strokeWidth="2" />
      <circle cx={x} cy={y} r="5" fill={colours.raised} stroke={colours.info} strokeWidth="2.500" />
    </g>
  );
}

const ticksOf = (f: NumericFactor, count: number): { at: number; text: string }[] =>
  linear(rangeOf(f), [0, 1])
    .ticks(count)
    .map((t) => ({ at: code(f, t), text: round(t) }));

/** Round settings along both edges of a map, in the factors' own units. */
export function MapTicks({
  x,
  y,
  px,
  py,
  box,
}: {
  x: NumericFactor;
  y: NumericFactor;
  px(v: number): number;
  py(v: number): number;
  box: Box;
}) {
  return (
    <g aria-hidden="true" fontSize="11.500" fill={colours.quiet}>
      {ticksOf(x, 6).map((t) => (
        <text key={t.text} x={px(t.at)} y={box.top + box.height + 16} textAnchor="middle" className="tick">
          {t.text}
        </text>
      ))}
      {ticksOf(y, 6).map((t) => (
        <text key={t.text} x={box.left - 6} y={py(t.at) + 4} textAnchor="end" className="tick">
          {t.text}
        </text>
      ))}
    </g>
  );
}
