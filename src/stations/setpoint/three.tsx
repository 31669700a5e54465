"use client";
import { useMemo } from "react";
import type { SetpointProblem } from "@/core/setpoint";
import {
  decode,
  type Factor,
  isNumeric,
  type NumericFactor,
  type Setting,
  type Settings,
  type Study,
  snap,
} from "@/core/study";
import { type OverPlane, pointwise, SurfaceMap } from "@/ui/charts/surface-map";
import { settingText } from "@/ui/parts/format";

/** Places at which a continuous third factor is tried. */
const TRIED = 11;
/** Where the third factor's best setting is written, coded. */
const ACROSS = [-0.8, -0.4, 0, 0.4, 0.8];
const UP = [-0.75, -0.25, 0.25, 0.75];

const choicesOf = (f: Factor): Setting[] =>
  f.kind === "categorical"
    ? f.levels
    : f.kind === "discrete"
      ? f.values
      : [...new Set(Array.from({ length: TRIED }, (_, i) => snap(f, decode(f, -1 + (2 * i) / (TRIED - 1)))))];

/**
 * Three factors in one picture: overall desirability over two of them with the third, at each place, set where it is
 * best; small figures say where that is. The probe takes the third along.
 */
export function ThreeAtOnce({
  study,
  wishes: problem,
  common,
  x,
  y,
  third,
  probe,
  setProbe,
  room,
}: {
  study: Study;
  wishes: SetpointProblem;
  /** Positive where every limit is met. */
  common: (s: Settings) => number;
  x: NumericFactor;
  y: NumericFactor;
  third: Factor;
  probe: Settings;
  setProbe(s: Settings): void;
  room: { width: number; height: number };
}) {
  const bestThird = useMemo(() => {
    const choices = choicesOf(third);
    return (s: Settings): { choice: Setting; overall: number } => {
      let best = { choice: choices[0], overall: -1 };
      for (const choice of choices) {
        const overall = problem.overall({ ...s, [third.id]: choice });
        if (overall > best.overall) best = { choice, overall };
      }
      return best;
    };
  }, [problem, third]);
  const value = useMemo((): OverPlane => pointwise((s) => bestThird(s).overall), [bestThird]);
  const inLimits = useMemo((): OverPlane => {
    const choices = choicesOf(third);
    return pointwise((s) => Math.max(...choices.map((choice) => common({ ...s, [third.id]: choice }))));
  }, [common, third]);
  const others = JSON.stringify({ ...probe, [x.id]: 0, [y.id]: 0, [third.id]: 0 });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the figures depend on the probe's other settings alone.
  const notes = useMemo(
    () =>
      ACROSS.flatMap((u) =>
        UP.flatMap((v) => {
          const settings = { ...probe, [x.id]: decode(x, u), [y.id]: decode(y, v) };
          const { choice, overall } = bestThird(settings);
          return overall > 0 ? [{ settings, text: settingText(choice) }] : [];
        }),
      ),
    [bestThird, x, y, others],
  );
  return (
    <>
      <SurfaceMap
        study={study}
        x={x}
        y={y}
        // Where the third stands makes no difference here, so that it may move without the picture being drawn anew.
        probe={{ ...probe, [third.id]: choicesOf(third)[0] }}
        setProbe={(s) => setProbe({ ...s, [third.id]: bestThird(s).choice })}
        value={value}
        inLimits={inLimits}
        common
        notes={notes}
        width={room.width}
        height={room.height}
        text={(v) => v.toFixed(2).replace(/0$/, "")}
        name={`Overall desirability with ${third.name} where it is best`}
      />
      <p className="small quiet">
        Overall desirability with {third.name} set, at each place, where it is best; the small figures are that setting
        {isNumeric(third) && third.unit ? `, ${third.unit}` : ""}. Inside the double line some setting of it meets every
        limit.
      </p>
    </>
  );
}
