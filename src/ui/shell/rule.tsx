// biome-ignore-all lint/a11y/noNoninteractiveElementToInteractiveRole: moved by keys and by hand it is a slider.
"use client";
import { useMemo, useRef } from "react";
import type { Fitted } from "@/core/questions";
import { limitsOf } from "@/core/setpoint";
import { code, decode, type NumericFactor, rangeOf, type Settings, type Study, snap } from "@/core/study";
import { type Graduated, graduate, labelled } from "../charts/graduate";
import { pathOfBox, pathThrough, type Spot } from "../charts/paths";
import { useDrag } from "../charts/use-drag";
import { colours } from "../theme/theme";
import css from "./shell.module.css";

const defaults = Object.freeze({
  width: 218,
  /** Free at both ends, so that a marker is never cut. */
  edge: 6,
  /** Places along a rule at which the response is read. */
  places: 25,
  /** Distance between labels, at least, and what a figure of one takes. */
  room: 34,
  figure: 7.6,
  bar: 14,
  labels: 15,
  /** Farthest that a mark is blurred to either side. */
  blur: 11,
});

/** Decimals that a step needs to be told. */
const decimalsOf = (step: number): number => Math.max(0, Math.min(8, -Math.floor(Math.log10(step) + 1e-9)));

/** Strokes at places along a rule, as one path: a rule is redrawn with every move of the probe. */
const upright = (places: readonly number[], from: number, to: number): string =>
  pathThrough(places.flatMap((x): (Spot | undefined)[] => [[x, from], [x, to], undefined]));

/** Graduations with their labels, the stretch within limits and what lies beyond the trials. */
function Graduations({ rule, here, tight }: { rule: Graduated; here: number; tight: boolean }) {
  const { bar } = defaults;
  const top = tight ? 0 : 5;
  const minor = rule.marks.filter((m) => !m.major).map((m) => m.x);
  const major = rule.marks.filter((m) => m.major).map((m) => m.x);
  const blur = rule.marks
    .filter((m) => m.major)
    .map((m) => {
      const half = Math.min(defaults.blur, m.blur / 2);
      return pathOfBox({ left: m.x - half, top, width: 2 * half, height: bar });
    })
    .join("");
  const decimals = decimalsOf(rule.step);
  const wide = defaults.figure * Math.max(0, ...rule.marks.map((m) => m.value.toFixed(decimals).length));
  return (
    <g>
      {rule.within.map(([a, b]) => (
        <rect key={a} x={a} y={top} width={Math.max(0, b - a)} height={bar} fill={colours.success} opacity="0.3" />
      ))}
      {rule.beyond.map(([a, b]) => (
        <line
          key={a}
          x1={a}
          x2={b}
          y1={top + bar - 1}
          y2={top + bar - 1}
          stroke={colours.warning}
          strokeWidth="2"
          strokeDasharray="2 3"
        />
      ))}
      <path d={blur} fill={colours.info} opacity="0.13" />
      <path d={upright(major, top, top + bar)} stroke={colours.info} strokeWidth="1.500" />
      <path d={upright(minor, top, top + bar * 0.45)} stroke={colours.info} opacity="0.45" />
      {!tight &&
        labelled(rule.marks, Math.max(defaults.room, wide + 6), here).map((m, i) => (
          <text
            key={i}
            x={Math.max(wide / 2, Math.min(defaults.width - wide / 2, m.x))}
            y={bar + 16}
            fontSize="10.500"
            textAnchor="middle"
            className="num"
            fill={colours.info}
          >
            {m.value.toFixed(decimals).replace("-", "−")}
          </text>
        ))}
      {rule.flat ? (
        <text x="12" y={bar + (tight ? -3 : 2)} fontSize="10.500" fill={colours.quiet}>
          no effect here
        </text>
      ) : (
        rule.marks.length === 0 && (
          <text x="12" y={bar + (tight ? -3 : 2)} fontSize="10.500" fill={colours.quiet}>
            less than {(rule.step / 5).toFixed(decimalsOf(rule.step / 5))} here
          </text>
        )
      )}
    </g>
  );
}

/**
 * One factor's rule, graduated in the response: marks stand where the prediction passes round values as one moves along
 * it with the others held. Before there is a model it shows where trials lie.
 */
export function Rule({
  factor,
  fitted,
  study,
  probe,
  tight,
  set,
}: {
  factor: NumericFactor;
  fitted: Fitted | undefined;
  study: Study;
  probe: Settings;
  tight: boolean;
  set(value: number): void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const { width, edge, bar } = defaults;
  const [low, high] = rangeOf(factor);
  const x = (v: number): number => edge + ((code(factor, v) + 1) / 2) * (width - 2 * edge);
  const rule = useMemo(() => {
    if (!fitted) return undefined;
    const at = Array.from({ length: defaults.places }, (_, i) => -1 + (2 * i) / (defaults.places - 1));
    const values = at.map((c) => decode(factor, c));
    const goal = study.responses.find((r) => r.id === fitted.fit.response)?.goal ?? { aim: "watch" as const };
    const samples = fitted.predictor.line(probe, factor.id, values).map((p, i) => ({
      x: edge + ((at[i] + 1) / 2) * (width - 2 * edge),
      mean: p.mean,
      interval: p.meanInterval,
      extrapolates: p.extrapolates,
    }));
    return graduate(samples, fitted.span, limitsOf(goal));
  }, [fitted, factor, probe, study.responses]);
  useDrag(svg, {
    move(at) {
      const share = (at.x * width - edge) / (width - 2 * edge);
      set(snap(factor, decode(factor, Math.max(-1, Math.min(1, 2 * share - 1)))));
    },
  });
  const here = probe[factor.id] as number;
  const step = factor.kind === "continuous" ? (factor.step ?? (high - low) / 50) : 0;
  const top = tight ? 0 : 5;
  const height = tight ? bar : top + bar + defaults.labels;
  const marker = x(Math.max(low, Math.min(high, here)));
  return (
    <svg
      ref={svg}
      className={css.track}
      viewBox={`0 0 ${width} ${height}`}
      height={height}
      role="slider"
      tabIndex={0}
      aria-label={`${factor.name} at the probe`}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuenow={here}
      onKeyDown={(e) => {
        const d =
          e.key === "ArrowRight" || e.key === "ArrowUp" ? 1 : e.key === "ArrowLeft" || e.key === "ArrowDown" ? -1 : 0;
        if (d === 0) return;
        e.preventDefault();
        if (factor.kind === "discrete")
          set(factor.values[Math.max(0, Math.min(factor.values.length - 1, factor.values.indexOf(here) + d))]);
        else set(Math.max(low, Math.min(high, snap(factor, here + d * step * (e.shiftKey ? 5 : 1)))));
      }}
    >
      <rect y={top} width={width} height={bar} rx="3" fill={colours.bed} />
      {rule && <Graduations rule={rule} here={marker} tight={tight} />}
      {!rule &&
        [...new Set(study.trials.map((t) => t.settings[factor.id] as number))].map((v) => (
          <line
            key={v}
            x1={x(v)}
            x2={x(v)}
            y1={top + 5}
            y2={top + bar - 2}
            stroke={colours.quiet}
            strokeWidth="1.500"
          />
        ))}
      <line x1={marker} x2={marker} y1={top} y2={top + bar + 2} stroke={colours.info} strokeWidth="2.500" />
      <polygon points={`${marker - 5},0 ${marker + 5},0 ${marker},7`} fill={colours.info} />
    </svg>
  );
}
