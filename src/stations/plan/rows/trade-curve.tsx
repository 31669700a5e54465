// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { Button } from "antd";
import { useEffect } from "react";
import { lowerHull, type PlanOptions, type TradePoint } from "@/core/plans";
import type { Study } from "@/core/study";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Dot, pressable, Target } from "@/ui/charts/marks/dots";
import { Line } from "@/ui/charts/marks/line";
import { useQuestion } from "@/ui/compute/use-question";
import { LinkButton } from "@/ui/parts/link-button";

const WIDTH = 330;
const HEIGHT = 180;
const BOX: Box = { left: 48, top: 10, width: WIDTH - 64, height: HEIGHT - 52 };

/** Alias trace against the D-efficiency given up: a curve to pick a point on. */
export function TradeCurve({
  study,
  options,
  pick,
}: {
  study: Study;
  options: PlanOptions;
  pick(options: PlanOptions): void;
}) {
  const job = useQuestion("trade");
  const { start, stop } = job;
  useEffect(() => stop, [stop]);
  const points = (job.running ? (job.progress?.best as TradePoint[] | undefined) : job.result) ?? [];
  if (!job.running && points.length === 0)
    return (
      <div>
        <Button size="small" onClick={() => start(study, options)}>
          Draw the trade
        </Button>
        <p className="small quiet" style={{ marginTop: 4 }}>
          {job.trouble ?? "How much aliasing each share of D-efficiency buys; takes some seconds."}
        </p>
      </div>
    );
  const known = points.filter((p): p is TradePoint & { d: number } => p.d !== null);
  const x = linear([Math.min(95, ...known.map((p) => p.d)) - 2, 101], [BOX.left, BOX.left + BOX.width]);
  const y = linear([0, Math.max(0.1, ...known.map((p) => p.trace)) * 1.1], [BOX.top + BOX.height, BOX.top]).nice();
  // Every plan found serves all shares below its own: the curve is the lower hull of them all.
  const line = lowerHull(known.map((p) => ({ ...p, x: p.d, y: p.trace })));
  const onLine = new Set(line.map((p) => p.keep));
  return (
    <div>
      <svg
        width="100%"
        style={{ maxWidth: WIDTH }}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-label="Alias trace against D-efficiency kept"
      >
        <AxisX scale={x} box={BOX} name="D-efficiency, %" count={4} grid />
        <AxisY scale={y} box={BOX} name="alias trace" count={4} grid offset={36} />
        <Line through={line.map((p) => [x(p.d), y(p.trace)])} width={1.5} />
        {known.map((p) => (
          <g
            key={p.keep}
            {...pressable(
              `D-efficiency ${p.d.toFixed(1)} %, alias trace ${p.trace.toFixed(2)}: put it in the chart`,
              () => pick(p.options),
            )}
          >
            <title>{`D ${p.d.toFixed(1)} %, alias trace ${p.trace.toFixed(2)}`}</title>
            <Target at={[x(p.d), y(p.trace)]} r={11} />
            <Dot
              at={[x(p.d), y(p.trace)]}
              r={onLine.has(p.keep) ? 5 : 3.5}
              colour={onLine.has(p.keep) ? "accent" : "pale"}
            />
          </g>
        ))}
      </svg>
      {job.running ? (
        <p className="small quiet">
          {job.progress?.text ?? "starting"} <LinkButton onClick={stop}>stop</LinkButton>
        </p>
      ) : (
        <p className="small quiet">Press a point to put that plan in the chart.</p>
      )}
    </div>
  );
}
