// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
// biome-ignore-all lint/a11y/noNoninteractiveTabindex: drawings that are moved by keys must be reached by keys.
"use client";
import { useId, useMemo, useRef } from "react";
import type { Plane } from "@/core/model";
import { code, decode, type NumericFactor, rangeOf, type Settings, type Study, snap } from "@/core/study";
import { useDesk } from "../desk/store";
import { axisName } from "../parts/format";
import { colours, ramp } from "../theme/theme";
import { type Band, bands, type Grid, gridOf, levelsOf } from "./contours";
import { MapTicks, OnLine, ProbeCross, TrialMarks, trialGroups } from "./map-marks";
import { AxisX, type Box, linear } from "./marks/axis";
import { pathOfBox } from "./paths";
import { TagMark } from "./tag-mark";
import { useDrag } from "./use-drag";

export interface MapTag {
  settings: Settings;
  text: string;
}

/** Makes the function of the two shown factors, all others as at the point given. */
export type OverPlane = (settings: Settings, x: string, y: string) => Plane;

/** A function of whole settings over any plane, for what has no quicker way. */
export const pointwise =
  (f: (s: Settings) => number): OverPlane =>
  (settings, x, y) => {
    const s = { ...settings };
    return (vx, vy) => {
      s[x] = vx;
      s[y] = vy;
      return f(s);
    };
  };

/** Cells across and up at which a map is worked out. */
const CELLS = 26;

/** Axes reach a little past low and high, so that marks on the edge are whole. */
const MARGIN = 0.06;

/** A limit as a line over the map: what is written on it, and how far inside it a place lies (negative outside). */
export interface LimitLine {
  text: string;
  inside: OverPlane;
}

/** How far from the words on a limit a level may be written, px. */
const LIMIT_CLEAR = 90;
const LEFT = 52;
const TOP = 8;

/**
 * Filled contours of a function over two factors, others at the probe: trials with their count, the probe to drag,
 * what breaks limits hatched, the area where all limits are met outlined on request.
 */
export function SurfaceMap({
  study,
  x,
  y,
  probe,
  setProbe,
  value,
  inLimits,
  allowed,
  common,
  limits,
  tags,
  notes,
  width,
  height,
  text,
  name,
  scaleOver,
}: {
  study: Study;
  x: NumericFactor;
  y: NumericFactor;
  probe: Settings;
  setProbe(s: Settings): void;
  value: OverPlane;
  /** Positive inside the limits, negative outside: drawn as a hatch where negative. */
  inLimits?: OverPlane;
  /** Positive where trials may be run, negative where the region forbids them. */
  allowed?: OverPlane;
  common?: boolean;
  /** Limits drawn one by one, each as a labelled line, hatched lightly where it is broken. */
  limits?: readonly LimitLine[];
  tags?: MapTag[];
  /** Short words written at places of the map. */
  notes?: MapTag[];
  width: number;
  height: number;
  text(v: number): string;
  name: string;
  /** Values that the shades and lines run over, where several maps are to be compared; else this map's own. */
  scaleOver?: [number, number];
}) {
  const svg = useRef<SVGSVGElement>(null);
  const hatch = useId().replace(/:/g, "");
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const box: Box = { left: LEFT, top: TOP, width: width - 64, height: height - 50 };
  const coded = (u: number): number => -1 - 2 * MARGIN + u * (2 + 4 * MARGIN);
  const px = useMemo(() => linear([-1 - 2 * MARGIN, 1 + 2 * MARGIN], [LEFT, LEFT + width - 64]), [width]);
  const py = useMemo(() => linear([-1 - 2 * MARGIN, 1 + 2 * MARGIN], [TOP + height - 50, TOP]), [height]);
  const across: [number, number] = [box.left, box.left + box.width];
  const up: [number, number] = [box.top + box.height, box.top];
  // The probe moved within the map leaves the surface as it is.
  const others = JSON.stringify({ ...probe, [x.id]: 0, [y.id]: 0 });
  // The grid depends on the functions and the probe's other settings.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const { areas, hatched, walls, lines } = useMemo(() => {
    const over = (f: OverPlane): Grid => {
      const plane = f(probe, x.id, y.id);
      const xs = Float64Array.from({ length: CELLS }, (_, i) => decode(x, coded(i / (CELLS - 1))));
      const ys = Float64Array.from({ length: CELLS }, (_, i) => decode(y, coded(i / (CELLS - 1))));
      return gridOf(CELLS, (i, j) => plane(xs[i], ys[j]));
    };
    const grid = over(value);
    const inside = inLimits ? over(inLimits) : undefined;
    const open = allowed ? over(allowed) : undefined;
    return {
      areas: bands(grid, levelsOf(scaleOver ? { low: scaleOver[0], high: scaleOver[1] } : grid, 9), across, up),
      hatched: inside && inside.low < 0 ? bands(inside, [0], across, up)[0] : undefined,
      walls: open && open.low < 0 ? bands(open, [0], across, up)[0] : undefined,
      lines: (limits ?? []).flatMap((l) => {
        const within = over(l.inside);
        return within.low < 0 ? [{ text: l.text, edge: bands(within, [0], across, up)[0] }] : [];
      }),
    };
  }, [value, inLimits, allowed, limits, x, y, others, width, height]);
  const whole = pathOfBox(box);
  /** Levels are written where no limit is: what is written on limits is longer. */
  const clear = (a: Band): a is Band & { label: NonNullable<Band["label"]> } =>
    a.label !== undefined &&
    lines.every(
      ({ edge: { label } }) =>
        !label || Math.hypot(label.x - (a.label?.x ?? 0), label.y - (a.label?.y ?? 0)) > LIMIT_CLEAR,
    );
  const shade = (i: number): string =>
    ramp[Math.min(ramp.length - 1, Math.round(((i + 1) / Math.max(1, areas.length)) * (ramp.length - 1)))];
  const trials = useMemo(() => trialGroups(study.trials, x, y, 1 + 2 * MARGIN), [study.trials, x, y]);
  useDrag(svg, {
    move(at) {
      const [cx, cy] = [px.invert(at.x * width), py.invert(at.y * height)];
      const keep = (v: number): number => Math.max(-1, Math.min(1, v));
      setProbe({ ...probe, [x.id]: snap(x, decode(x, keep(cx))), [y.id]: snap(y, decode(y, keep(cy))) });
    },
  });
  const step = (f: NumericFactor): number => {
    const [low, high] = rangeOf(f);
    return f.kind === "continuous" ? (f.step ?? (high - low) / 50) : (high - low) / 20;
  };
  return (
    <svg
      ref={svg}
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="application"
      tabIndex={0}
      aria-label={`${name} over ${x.name} and ${y.name}; arrow keys move the probe`}
      style={{ touchAction: "none", display: "block" }}
      onKeyDown={(e) => {
        const d: Record<string, [NumericFactor, number]> = {
          ArrowLeft: [x, -1],
          ArrowRight: [x, 1],
          ArrowUp: [y, 1],
          ArrowDown: [y, -1],
        };
        const m = d[e.key];
        if (!m) return;
        e.preventDefault();
        const [f, sign] = m;
        const [low, high] = rangeOf(f);
        setProbe({
          ...probe,
          [f.id]: snap(f, Math.max(low, Math.min(high, (probe[f.id] as number) + sign * step(f)))),
        });
      }}
    >
      <defs>
        <pattern id={hatch} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="7" stroke={colours.raised} strokeWidth="1.600" opacity="0.75" />
        </pattern>
        <pattern id={`${hatch}l`} width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="9" stroke={colours.ink} strokeWidth="0.800" opacity="0.35" />
        </pattern>
        <clipPath id={`${hatch}c`}>
          <path d={whole} />
        </clipPath>
      </defs>
      <g clipPath={`url(#${hatch}c)`}>
        <path d={whole} fill={ramp[0]} />
        {areas.map((a, i) => (
          <path
            key={a.level}
            d={a.path}
            fill={shade(i)}
            stroke={colours.ink}
            strokeOpacity="0.22"
            strokeWidth="0.700"
            fillRule="evenodd"
          />
        ))}
        {hatched && (
          <path d={`${whole}${hatched.path}`} fill={`url(#${hatch})`} fillRule="evenodd" pointerEvents="none" />
        )}
        {hatched && (
          <path
            d={hatched.path}
            fill="none"
            stroke={common ? colours.success : colours.ink}
            strokeWidth={common ? 6 : 1.5}
            strokeDasharray={common ? undefined : "5 3"}
            pointerEvents="none"
          />
        )}
        {/* Common ground is edged by two lines: one broad, and paper along its middle. */}
        {hatched && common && (
          <path d={hatched.path} fill="none" stroke={colours.paper} strokeWidth="2" pointerEvents="none" />
        )}
        {walls && (
          <path
            d={`${whole}${walls.path}`}
            fill={colours.paper}
            fillOpacity="0.8"
            fillRule="evenodd"
            pointerEvents="none"
          />
        )}
        {!notes && areas.map((a) => clear(a) && <OnLine key={a.level} at={a.label} text={text(a.level)} />)}
        {lines.map((l) => (
          <g key={l.text} pointerEvents="none" data-limit={l.text}>
            <path d={`${whole}${l.edge.path}`} fill={`url(#${hatch}l)`} fillRule="evenodd" />
            <path d={l.edge.path} fill="none" stroke={colours.ink} strokeWidth="1.600" />
            {l.edge.label && <OnLine at={l.edge.label} text={l.text} />}
          </g>
        ))}
        <rect
          x={px(-1)}
          y={py(1)}
          width={px(1) - px(-1)}
          height={py(-1) - py(1)}
          fill="none"
          stroke={colours.raised}
          strokeOpacity="0.55"
          strokeDasharray="2 4"
          pointerEvents="none"
        />
      </g>
      <path d={whole} fill="none" stroke={colours.rule} />
      {notes ? (
        notes.map((n, i) => (
          <text
            key={i}
            x={px(code(x, n.settings[x.id] as number))}
            y={py(code(y, n.settings[y.id] as number)) + 4}
            textAnchor="middle"
            fontSize="11"
            className="num"
            fill={colours.ink}
            stroke={colours.raised}
            strokeWidth="3"
            strokeOpacity="0.7"
            paintOrder="stroke"
            pointerEvents="none"
          >
            {n.text}
          </text>
        ))
      ) : (
        <TrialMarks groups={trials} px={px} py={py} lit={lit} light={light} />
      )}
      {/* The first on top. */}
      {tags?.toReversed().map((t) => (
        <TagMark
          key={t.text}
          x={px(code(x, t.settings[x.id] as number))}
          y={py(code(y, t.settings[y.id] as number))}
          text={t.text}
        />
      ))}
      <ProbeCross x={px(code(x, probe[x.id] as number))} y={py(code(y, probe[y.id] as number))} />
      <MapTicks x={x} y={y} px={px} py={py} box={box} />
      <AxisX scale={px} box={box} name={axisName(x.name, x.unit)} ticks={[]} />
      <text
        transform={`translate(13 ${box.top + box.height / 2}) rotate(-90)`}
        textAnchor="middle"
        fontSize="12.500"
        fill={colours.ink}
        aria-hidden="true"
      >
        {axisName(y.name, y.unit)}
      </text>
    </svg>
  );
}
