// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
// biome-ignore-all lint/a11y/noNoninteractiveTabindex: drawings that are moved by keys must be reached by keys.
"use client";
import { useMemo, useRef, useState } from "react";
import { code, decode, type NumericFactor, rangeOf, type Settings } from "@/core/study";
import { axisName } from "../parts/format";
import { colours, ramp } from "../theme/theme";
import { linear, round } from "./marks/axis";
import { pathAround } from "./paths";
import type { OverPlane } from "./surface-map";
import { useDrag } from "./use-drag";

const CELLS = 18;
const RISE = 0.75;

/** A function over two factors as a surface seen from above and aside; turned by drag and by arrow keys. */
export function Relief({
  x,
  y,
  probe,
  value,
  width,
  height,
  text,
  name,
}: {
  x: NumericFactor;
  y: NumericFactor;
  probe: Settings;
  value: OverPlane;
  width: number;
  height: number;
  text(v: number): string;
  name: string;
}) {
  const [turn, setTurn] = useState({ around: -0.6, up: 0.55 });
  const svg = useRef<SVGSVGElement>(null);
  useDrag(svg, {
    start: () => undefined,
    move: ({ dx, dy }) =>
      setTurn((t) => ({ around: t.around + dx / 120, up: Math.max(0.15, Math.min(1.4, t.up + dy / 160)) })),
  });
  const { heights, low, high } = useMemo(() => {
    const plane = value(probe, x.id, y.id);
    const codeAt = (i: number): number => -1 + (2 * i) / CELLS;
    const grid = Array.from({ length: CELLS + 1 }, (_, i) =>
      Array.from({ length: CELLS + 1 }, (__, j) => plane(decode(x, codeAt(i)), decode(y, codeAt(j)))),
    );
    const all = grid.flat();
    return { heights: grid, low: Math.min(...all), high: Math.max(...all) };
  }, [value, x, y, probe]);
  const scale = Math.min(width / 3, height / 2.8);
  const cos = Math.cos(turn.around);
  const sin = Math.sin(turn.around);
  const up = Math.sin(turn.up);
  const rise = (v: number): number => (high > low ? ((v - low) / (high - low) - 0.5) * 2 * RISE : 0);
  /** Screen place and depth of a point in coded units. */
  const project = (a: number, b: number, h: number): [number, number, number] => {
    const px = a * cos - b * sin;
    const depth = a * sin + b * cos;
    return [width / 2 + scale * px, height * 0.44 + scale * (-depth * up - h * Math.cos(turn.up) * 1.1), depth];
  };
  const codeOf = (i: number): number => -1 + (2 * i) / CELLS;
  const faces = [];
  for (let i = 0; i < CELLS; i++)
    for (let j = 0; j < CELLS; j++) {
      const corners = [
        [i, j],
        [i + 1, j],
        [i + 1, j + 1],
        [i, j + 1],
      ].map(([a, b]) => project(codeOf(a), codeOf(b), rise(heights[a][b])));
      const mean = (heights[i][j] + heights[i + 1][j] + heights[i + 1][j + 1] + heights[i][j + 1]) / 4;
      faces.push({
        key: `${i}.${j}`,
        depth: corners.reduce((t, c) => t + c[2], 0),
        path: pathAround(corners.map(([px, py]) => [px, py])),
        fill: ramp[
          Math.max(0, Math.min(ramp.length - 1, Math.floor(((mean - low) / (high - low || 1)) * ramp.length)))
        ],
      });
    }
  faces.sort((a, b) => b.depth - a.depth);
  const hx = code(x, probe[x.id] as number);
  const hy = code(y, probe[y.id] as number);
  const here = value(probe, x.id, y.id)(probe[x.id] as number, probe[y.id] as number);
  const foot = project(hx, hy, -RISE * 1.25);
  const top = project(hx, hy, rise(here));
  const floor = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([a, b]) => project(a, b, -RISE * 1.25));
  const [xl, xh] = rangeOf(x);
  const [yl, yh] = rangeOf(y);
  // Each axis is written along the near edge of the floor.
  const front = cos >= 0 ? -1 : 1;
  const side = sin >= 0 ? -1 : 1;
  const label = (a: number, b: number, t: string, key: string, bold = false) => {
    const p = project(a, b, -RISE * 1.25);
    return (
      <text
        key={key}
        x={p[0]}
        y={p[1] + (bold ? 26 : 14)}
        textAnchor="middle"
        fontSize={bold ? "12.500" : "11.500"}
        className={bold ? undefined : "tick"}
        fill={bold ? colours.ink : colours.quiet}
      >
        {t}
      </text>
    );
  };
  const z = linear([low, high], [-RISE, RISE]);
  return (
    <svg
      ref={svg}
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="application"
      tabIndex={0}
      aria-label={`${name} over ${x.name} and ${y.name} as a surface; arrow keys turn it`}
      style={{ touchAction: "none", display: "block", cursor: "grab" }}
      onKeyDown={(e) => {
        const d: Record<string, [number, number]> = {
          ArrowLeft: [-0.12, 0],
          ArrowRight: [0.12, 0],
          ArrowUp: [0, 0.08],
          ArrowDown: [0, -0.08],
        };
        const m = d[e.key];
        if (!m) return;
        e.preventDefault();
        setTurn((t) => ({ around: t.around + m[0], up: Math.max(0.15, Math.min(1.4, t.up + m[1])) }));
      }}
    >
      <path d={pathAround(floor.map(([px, py]) => [px, py]))} fill={colours.floor} stroke={colours.dull} />
      <line x1={foot[0]} y1={foot[1]} x2={top[0]} y2={top[1]} stroke={colours.info} strokeDasharray="3 3" />
      {faces.map((f) => (
        <path key={f.key} d={f.path} fill={f.fill} stroke={colours.ink} strokeOpacity="0.28" strokeWidth="0.600" />
      ))}
      <circle cx={top[0]} cy={top[1]} r="5.500" fill={colours.raised} stroke={colours.info} strokeWidth="2.500" />
      <g aria-hidden="true">
        {label(-0.82, front, round(xl), "xl")}
        {label(0.82, front, round(xh), "xh")}
        {label(0, front, axisName(x.name, x.unit), "x", true)}
        {label(side, -0.82, round(yl), "yl")}
        {label(side, 0.82, round(yh), "yh")}
        {label(side, 0, axisName(y.name, y.unit), "y", true)}
        {z.ticks(4).map((v) => {
          const p = project(front * -1, side, z(v));
          return (
            <text
              key={v}
              x={Math.max(30, p[0] - 8)}
              y={p[1] + 4}
              textAnchor="end"
              fontSize="11.500"
              className="tick"
              fill={colours.quiet}
            >
              {text(v)}
            </text>
          );
        })}
        <text x="6" y="14" fontSize="12.500" fill={colours.ink}>
          {name}
        </text>
      </g>
    </svg>
  );
}
