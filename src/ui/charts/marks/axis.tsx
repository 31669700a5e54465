// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
import { format } from "d3-format";
import { scaleLinear, scaleLog } from "d3-scale";
import { colours } from "../../theme/theme";

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A linear scale from values to pixels. */
export const linear = (from: [number, number], to: [number, number]) => scaleLinear().domain(from).range(to);
export type Linear = ReturnType<typeof linear>;

/** A logarithmic scale from values above 0 to pixels. */
export const logarithmic = (from: [number, number], to: [number, number]) => scaleLog().domain(from).range(to);
export type Log = ReturnType<typeof logarithmic>;

/** 1, 2 and 5 times powers of ten within a domain. */
export const logTicks = ([low, high]: readonly number[]): number[] => {
  const out: number[] = [];
  for (let e = Math.floor(Math.log10(low)); e <= Math.ceil(Math.log10(high)); e++)
    for (const m of [1, 2, 5])
      if (m * 10 ** e >= low * 0.999 && m * 10 ** e <= high * 1.001) out.push(Number((m * 10 ** e).toPrecision(3)));
  return out;
};

const tickText = (v: number, all: readonly number[]): string => {
  const step = all.length > 1 ? Math.abs(all[1] - all[0]) : Math.abs(v) || 1;
  const decimals = Math.max(0, Math.min(8, Math.ceil(-Math.log10(step) - 1e-9)));
  return format(`.${decimals}f`)(v);
};

/** A number as it stands at an edge of a drawing: six figures at most, no more zeros than it needs. */
export const round = format(".6~r");

/** Bottom axis with its name and unit. */
export function AxisX({
  scale,
  box,
  name,
  count = 7,
  grid,
  ticks: wanted,
}: {
  scale: Linear;
  box: Box;
  name: string;
  count?: number;
  grid?: boolean;
  ticks?: number[];
}) {
  const ticks = wanted ?? scale.ticks(count);
  const y = box.top + box.height;
  return (
    <g aria-hidden="true">
      {ticks.map((t) => (
        <g key={t} transform={`translate(${scale(t)} 0)`}>
          {grid && <line y1={box.top} y2={y} stroke={colours.grid} />}
          <line y1={y} y2={y + 4} stroke={colours.rule} />
          <text y={y + 16} textAnchor="middle" fontSize="11.500" className="tick" fill={colours.quiet}>
            {tickText(t, ticks)}
          </text>
        </g>
      ))}
      <text x={box.left + box.width / 2} y={y + 32} textAnchor="middle" fontSize="12.500" fill={colours.ink}>
        {name}
      </text>
    </g>
  );
}

/** Left axis with its name and unit, written upwards. */
export function AxisY({
  scale,
  box,
  name,
  count = 5,
  grid,
  offset = 40,
  ticks: wanted,
  text,
}: {
  scale: Linear | Log;
  box: Box;
  name: string;
  count?: number;
  grid?: boolean;
  offset?: number;
  ticks?: number[];
  text?(v: number): string;
}) {
  const ticks = wanted ?? scale.ticks(count);
  return (
    <g aria-hidden="true">
      {ticks.map((t) => (
        <g key={t} transform={`translate(0 ${scale(t)})`}>
          {grid && <line x1={box.left} x2={box.left + box.width} stroke={colours.grid} />}
          <text x={box.left - 6} y="4" textAnchor="end" fontSize="11.500" className="tick" fill={colours.quiet}>
            {text ? text(t) : tickText(t, ticks)}
          </text>
        </g>
      ))}
      <text
        transform={`translate(${box.left - offset} ${box.top + box.height / 2}) rotate(-90)`}
        textAnchor="middle"
        fontSize="12.500"
        fill={colours.ink}
      >
        {name}
      </text>
    </g>
  );
}

/** A label to place near its point. */
export interface Label {
  key: string;
  x: number;
  y: number;
  text: string;
}

/** Approximate width of a label at 12.5 px. */
const widthOf = (text: string): number => text.length * 6.3 + 4;

/**
 * Places labels beside their points without overlap: right, left, above, below, then farther out; the first free place
 * wins, and a label that finds none is left out rather than drawn over another.
 *
 * @param blocked areas that hold something else
 */
export function placeLabels(
  labels: readonly Label[],
  box: Box,
  radius = 9,
  blocked: readonly { x0: number; x1: number; y0: number; y1: number }[] = [],
): (Label & { lx: number; ly: number; anchor: "start" | "end" | "middle"; leader: boolean })[] {
  const taken: { x0: number; x1: number; y0: number; y1: number }[] = [
    ...blocked,
    ...labels.map((l) => ({
      x0: l.x - radius + 2,
      x1: l.x + radius - 2,
      y0: l.y - radius + 2,
      y1: l.y + radius - 2,
    })),
  ];
  const out: ReturnType<typeof placeLabels> = [];
  for (const l of labels) {
    const w = widthOf(l.text);
    const places = [0, 16, 32].flatMap((far) => [
      { lx: l.x + radius, ly: l.y + 4 + far, anchor: "start" as const },
      { lx: l.x - radius, ly: l.y + 4 + far, anchor: "end" as const },
      { lx: l.x, ly: l.y - radius - 3 - far, anchor: "middle" as const },
      { lx: l.x, ly: l.y + radius + 11 + far, anchor: "middle" as const },
      { lx: l.x + radius, ly: l.y + 4 - far, anchor: "start" as const },
    ]);
    for (const [i, p] of places.entries()) {
      const x0 = p.anchor === "start" ? p.lx : p.anchor === "end" ? p.lx - w : p.lx - w / 2;
      const area = { x0, x1: x0 + w, y0: p.ly - 11, y1: p.ly + 3 };
      if (
        area.x0 < box.left ||
        area.x1 > box.left + box.width + 10 ||
        area.y0 < box.top - 4 ||
        area.y1 > box.top + box.height
      )
        continue;
      if (taken.some((t) => t.x0 < area.x1 && t.x1 > area.x0 && t.y0 < area.y1 && t.y1 > area.y0)) continue;
      taken.push(area);
      out.push({ ...l, ...p, leader: i >= 5 });
      break;
    }
  }
  return out;
}
