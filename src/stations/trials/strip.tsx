"use client";
import { useMemo } from "react";
import { limitsOf } from "@/core/setpoint";
import { resultValue, type Study, settingsAsRun, type Trial, valueUnit } from "@/core/study";
import { type Box, linear } from "@/ui/charts/marks/axis";
import { Band } from "@/ui/charts/marks/band";
import { Dot } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Line } from "@/ui/charts/marks/line";
import { Rule } from "@/ui/charts/marks/rule";
import { Nearest } from "@/ui/charts/nearest";
import type { Spot } from "@/ui/charts/paths";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { axisName, figure } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";

const WIDTH = 960;
const HEIGHT = 96;

/** Set-ups of the hard factors as runs of places in the order run. */
function setupRuns(ordered: readonly Trial[]): { wave: string; setup: number; from: number; to: number }[] {
  const out: { wave: string; setup: number; from: number; to: number }[] = [];
  ordered.forEach(({ wave, setup }, i) => {
    const last = out.at(-1);
    if (setup === undefined) return;
    if (last && last.wave === wave && last.setup === setup && last.to === i - 1) last.to = i;
    else out.push({ wave, setup, from: i, to: i });
  });
  return out;
}

/** A bar below the trials of each set-up. */
const SetupBars = ({
  ordered,
  x,
  gap,
  y,
}: {
  ordered: readonly Trial[];
  x(place: number): number;
  gap: number;
  y: number;
}) => (
  <g>
    {setupRuns(ordered).map((s) => (
      <Band
        key={`${s.wave} ${s.setup}`}
        x={x(s.from) - 0.72 * gap}
        width={x(s.to) - x(s.from) + 1.44 * gap}
        y={y}
        height={3}
        round={1.5}
        colour="info"
        opacity={0.55}
        title={`Set-up ${s.setup}`}
      />
    ))}
  </g>
);

/**
 * Results of one response in the order run, waves as bands, set-ups of hard factors as bars below, the fitted value as
 * a tick, limits shaded.
 */
export function Strip({ study, response, upTo }: { study: Study; response: string; upTo?: number | undefined }) {
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const about = study.responses.find((r) => r.id === response);
  const ordered = useMemo(() => [...study.trials].sort((a, b) => a.order - b.order), [study]);
  const points = useMemo(
    () =>
      ordered.flatMap((t, i) => {
        const v = about ? resultValue(t.results[response], about) : null;
        return v === null ? [] : [{ t, i, v }];
      }),
    [ordered, response, about],
  );
  const view = useStudyView(study);
  const model = useMemo(
    () => (study.models.some((m) => m.response === response) ? view.fitted(response) : undefined),
    [study, view, response],
  );
  if (!about) return null;
  const box: Box = { left: 46, top: 6, width: WIDTH - 56, height: HEIGHT - 26 };
  const limits = limitsOf(about.goal);
  const values = points.map((p) => p.v);
  const low = Math.min(...values, ...(Number.isFinite(limits.low) && values.length > 0 ? [limits.low] : []));
  const high = Math.max(...values, ...(Number.isFinite(limits.high) && values.length > 0 ? [limits.high] : []));
  const has = values.length > 0;
  const pad = (high - low) * 0.08 || Math.abs(high) * 0.05 || 1;
  const y = linear(has ? [low - pad, high + pad] : [0, 1], [box.top + box.height, box.top]);
  const x = linear([0, Math.max(1, ordered.length - 1)], [box.left + 8, box.left + box.width - 8]);
  const waves = study.waves.map((w) => {
    const positions = ordered.flatMap((t, i) => (t.wave === w.id ? [i] : []));
    return { w, from: Math.min(...positions), to: Math.max(...positions), count: positions.length };
  });
  const gap = ordered.length > 1 ? (x(1) - x(0)) / 2 : 8;
  const ticks = has ? y.ticks(3) : [];
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${axisName(about.name, valueUnit(about))} in the order run, ${points.length} results`}
      style={{ display: "block" }}
    >
      {waves.map((b, i) =>
        b.count === 0 ? null : (
          <g key={b.w.id}>
            {i % 2 === 1 && (
              <Band
                x={x(b.from) - gap}
                y={box.top - 4}
                width={x(b.to) - x(b.from) + 2 * gap}
                height={box.height + 8}
                colour="stripe"
              />
            )}
            <Label at={[x(b.from) - 4, HEIGHT - 5]} colour="beside">
              {b.w.name}
              {b.w.purpose ? ` · ${b.w.purpose}` : ""} · {b.count}
            </Label>
          </g>
        ),
      )}
      <SetupBars ordered={ordered} x={x} gap={gap} y={box.top + box.height + 1} />
      {has && about.goal.aim !== "watch" && (
        <Band
          x={box.left}
          width={box.width}
          y={y(Math.min(limits.high, high + pad))}
          height={y(Math.max(limits.low, low - pad)) - y(Math.min(limits.high, high + pad))}
          colour="success"
          opacity={0.1}
        />
      )}
      {ticks.map((t) => (
        <text
          key={t}
          x={box.left - 6}
          y={y(t) + 4}
          fontSize="11.500"
          textAnchor="end"
          className="tick"
          fill={colours.quiet}
        >
          {figure(t, 3)}
        </text>
      ))}
      {!has && (
        <text x={WIDTH / 2} y={HEIGHT / 2} textAnchor="middle" fontSize="13" fill={colours.quiet}>
          Results appear here in the order run as they are entered.
        </text>
      )}
      <Line
        through={points.flatMap((p, k): (Spot | undefined)[] => [
          ...(k > 0 && points[k - 1].i !== p.i - 1 ? [undefined] : []),
          [x(p.i), y(p.v)],
        ])}
        colour="path"
        width={1}
      />
      {model?.ok &&
        points.map((p) => {
          const v = model.fitted.predictor.value(settingsAsRun(p.t));
          return (
            <Rule
              key={p.t.id}
              from={[x(p.i) - Math.min(6, gap), y(v)]}
              to={[x(p.i) + Math.min(6, gap), y(v)]}
              colour="info"
              width={1.5}
            />
          );
        })}
      {points.map((p) => (
        <Dot
          key={p.t.id}
          at={[x(p.i), y(p.v)]}
          r={lit === p.t.id ? 6 : ordered.length > 200 ? 2 : 4}
          colour={lit === p.t.id ? "highlight" : p.t.use ? "accent" : "paper"}
          outline={p.t.use ? undefined : "accent"}
          outlineWidth={1}
          opacity={upTo !== undefined && p.i > upTo ? 0.3 : 1}
        />
      ))}
      <Nearest
        box={box}
        dots={points.map((p) => ({
          id: p.t.id,
          x: x(p.i),
          y: y(p.v),
          text: `Trial ${p.t.order}: ${p.v} ${valueUnit(about)}`,
        }))}
        near={light}
      />
    </svg>
  );
}
