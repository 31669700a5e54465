"use client";
import { useMemo } from "react";
import { type PlanSummary, termPower } from "@/core/plans";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Line } from "@/ui/charts/marks/line";
import { Down } from "@/ui/charts/marks/rule";
import { figure } from "@/ui/parts/format";

const STROKES = ["info", "accent", "warning"] as const;
const DASHES = [undefined, "6 3", "2 3"];
const WIDTH = 380;
const HEIGHT = 170;
const BOX: Box = { left: 46, top: 8, width: WIDTH - 70, height: HEIGHT - 48 };

interface Curve {
  letter: string;
  points: { x: number; y: number }[];
  /** A place on the curve to mark, said in words. */
  dot?: { x: number; y: number; text: string };
}

/** Curves of the picked plans in one chart, each with its letter; a wanted place marked across. */
function Curves({
  curves,
  xName,
  yName,
  xMost,
  yMost,
  mark,
  text,
}: {
  curves: readonly Curve[];
  xName: string;
  yName: string;
  xMost: number;
  yMost: number;
  mark?: { x: number; text: string };
  text: string;
}) {
  const x = linear([0, xMost], [BOX.left, BOX.left + BOX.width]);
  const y = linear([0, yMost], [BOX.top + BOX.height, BOX.top]);
  // Letters stand where the curves end, pushed apart where they end together.
  const ends = curves
    .map((c, i) => ({ i, y: y(Math.min(yMost, c.points[c.points.length - 1]?.y ?? 0)) }))
    .sort((a, b) => a.y - b.y);
  ends.forEach((e, n) => {
    if (n > 0) e.y = Math.max(e.y, ends[n - 1].y + 14);
  });
  return (
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label={text}>
      <AxisX scale={x} box={BOX} name={xName} count={5} grid />
      <AxisY scale={y} box={BOX} name={yName} count={4} grid offset={36} />
      {mark && mark.x <= xMost && (
        <g>
          <Down box={BOX} at={x(mark.x)} colour="success" dashed />
          <Label at={[x(mark.x) + 4, BOX.top + BOX.height - 5]} size={11.5} colour="success">
            {mark.text}
          </Label>
        </g>
      )}
      {curves.map((c, i) => (
        <Line
          key={c.letter}
          through={c.points.filter((p) => p.y <= yMost).map((p) => [x(p.x), y(p.y)])}
          colour={STROKES[i]}
          dashed={DASHES[i] ?? false}
        />
      ))}
      {curves.map((c, i) =>
        c.dot && c.dot.x <= xMost ? (
          <Dot
            key={c.letter}
            at={[x(c.dot.x), y(c.dot.y)]}
            r={4.5}
            colour="raised"
            outline={STROKES[i]}
            outlineWidth={2}
            title={c.dot.text}
          />
        ) : null,
      )}
      {ends.map((e) => (
        <Label key={e.i} at={[BOX.left + BOX.width + 5, e.y + 4]} size={13} bold serif colour={STROKES[e.i]}>
          {curves[e.i].letter}
        </Label>
      ))}
    </svg>
  );
}

/** Fraction-of-space curves: share of the region against prediction error in σ. */
export function SpaceChart({
  curves,
}: {
  curves: { letter: string; points: { fraction: number; value: number }[] }[];
}) {
  // A plan that predicts the last corners very badly must not flatten the others: the scale ends at three times the
  // typical.
  const typical = Math.max(0.1, ...curves.map((c) => c.points[50]?.value ?? 0));
  const most = Math.min(3 * typical, Math.max(0.1, ...curves.flatMap((c) => c.points.map((p) => p.value))) * 1.08);
  return (
    <Curves
      curves={curves.map((c) => ({
        letter: c.letter,
        points: c.points.map((p) => ({ x: 100 * p.fraction, y: p.value })),
      }))}
      xName="share of the region, %"
      yName="prediction error, σ"
      xMost={100}
      yMost={most}
      text={`Prediction error over the region for plans ${curves.map((c) => c.letter).join(", ")}`}
    />
  );
}

const STEPS = 32;

/** Power of each picked plan for its hardest effect, over the size of the effect in the response's units. */
export function PowerChart({
  summaries,
  noise,
  unit,
  wanted,
  alpha,
  power,
}: {
  summaries: readonly PlanSummary[];
  noise: number;
  unit: string;
  wanted: number | undefined;
  alpha: number;
  /** The power at which each plan's effect is marked. */
  power: number;
}) {
  const reach = Math.max(wanted ?? 0, ...summaries.map((s) => (s.ratio ?? 0) * noise), noise * 0.5) * 1.6;
  const curves = useMemo(
    () =>
      summaries.map((s, i): Curve => {
        const worst = s.worst;
        return {
          letter: String.fromCharCode(97 + i),
          ...(s.ratio !== null && !s.noErrorDf
            ? {
                dot: {
                  x: s.ratio * noise,
                  y: power,
                  text: `sees ${figure(s.ratio * noise)} ${unit} at power ${power.toFixed(2)}`,
                },
              }
            : {}),
          points: worst
            ? Array.from({ length: STEPS + 1 }, (_, k) => {
                const effect = (reach * k) / STEPS;
                return { x: effect, y: termPower(worst, effect / noise, alpha, s.residualDf) ?? Number.NaN };
              }).filter((p) => Number.isFinite(p.y))
            : [],
        };
      }),
    [summaries, noise, alpha, reach, power, unit],
  );
  if (curves.every((c) => c.points.length === 0))
    return (
      <p className="small quiet">
        None of these plans leaves degrees of freedom for error, so there is no power to draw; the chart above goes by
        the stated noise.
      </p>
    );
  return (
    <Curves
      curves={curves}
      xName={`effect, ${unit || "its unit"}`}
      yName="power"
      xMost={reach}
      yMost={1}
      {...(wanted !== undefined ? { mark: { x: wanted, text: "worth finding" } } : {})}
      text={`Power for the hardest effect of plans ${curves.map((c) => c.letter).join(", ")}`}
    />
  );
}
