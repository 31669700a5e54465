// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useMemo, useState } from "react";
import { regionSample } from "@/core/plans";
import { type Candidate, desirability, type SetpointProblem } from "@/core/setpoint";
import { activeFactors, isNumeric, type Settings, type Study, snap } from "@/core/study";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Line } from "@/ui/charts/marks/line";
import { TagMark } from "@/ui/charts/tag-mark";
import { useDesk } from "@/ui/desk/store";
import { axisName, figure } from "@/ui/parts/format";
import { named, Pick } from "@/ui/parts/pick";

const SAMPLE = 2500;

/**
 * What one response must give for another: places of the region by two responses, the best trade drawn through them.
 */
export function Trade({
  study,
  wishes: problem,
  candidates,
  width,
  height,
}: {
  study: Study;
  wishes: SetpointProblem;
  candidates: readonly Candidate[];
  width: number;
  height: number;
}) {
  const setProbe = useDesk((d) => d.setProbe);
  const probe = useDesk((d) => d.probe);
  const { responses, predictors } = problem;
  const [pick, setPick] = useState<{ a?: string; b?: string }>({});
  const a = responses.find((r) => r.id === pick.a) ?? responses[0];
  const b = responses.find((r) => r.id === pick.b && r.id !== a?.id) ?? responses.find((r) => r.id !== a?.id);
  const places = useMemo(() => {
    const steps = activeFactors(study).filter(isNumeric);
    const all: Settings[] = regionSample(study, SAMPLE).map((s) => ({
      ...s,
      ...Object.fromEntries(steps.map((f) => [f.id, snap(f, s[f.id] as number)])),
    }));
    // Thinly sampled regions are joined by what the search found.
    return [...all, ...candidates.map((c) => c.settings)].map((settings) => ({
      settings,
      values: new Map(responses.map((r) => [r.id, predictors.get(r.id)?.value(settings) ?? Number.NaN])),
    }));
  }, [study, responses, predictors, candidates]);
  if (!a || !b) return <p className="quiet">A trade-off needs two responses with goals.</p>;
  const points = places.map((p) => {
    const u = p.values.get(a.id) as number;
    const v = p.values.get(b.id) as number;
    const others = responses
      .filter((r) => r !== a && r !== b)
      .every((r) => (desirability(r.goal, p.values.get(r.id) as number) ?? 1) > 0);
    return { settings: p.settings, u, v, da: desirability(a.goal, u) ?? 0, db: desirability(b.goal, v) ?? 0, others };
  });
  // Best trade: no other place is better for both.
  const open = points.filter((p) => p.others);
  const front: typeof open = [];
  for (const p of [...open].sort((p, q) => q.da - p.da || q.db - p.db))
    if (front.length === 0 || p.db > front[front.length - 1].db + 1e-9) front.push(p);
  const box: Box = { left: 58, top: 12, width: width - 78, height: height - 60 };
  const x = linear([-0.02, 1.02], [box.left, box.left + box.width]);
  const y = linear([-0.02, 1.02], [box.top + box.height, box.top]);
  const here = {
    da: desirability(a.goal, predictors.get(a.id)?.value(probe) ?? 0) ?? 0,
    db: desirability(b.goal, predictors.get(b.id)?.value(probe) ?? 0) ?? 0,
  };
  const select = (label: string, now: string, set: (id: string) => void) => (
    <Pick style={{ maxWidth: 150 }} label={label} value={now} options={named(responses)} set={set} />
  );
  const said = (p: { u: number; v: number }): string =>
    `${a.name} ${figure(p.u, 3)} ${a.unit ?? ""}, ${b.name} ${figure(p.v, 3)} ${b.unit ?? ""}`;
  return (
    <div>
      <div className="row small" style={{ marginBottom: 4 }}>
        {select("Response across", a.id, (id) => setPick({ a: id, b: id === b.id ? a.id : b.id }))}{" "}
        <span className="quiet">against</span>
        {select("Response upwards", b.id, (id) => setPick({ a: id === a.id ? b.id : a.id, b: id }))}
      </div>
      <svg
        width={width}
        height={height}
        viewBox={`0 0 ${width} ${height}`}
        role="group"
        aria-label={`Desirability of ${b.name} against ${a.name}`}
      >
        <AxisX scale={x} box={box} name={`desirability of ${axisName(a.name, undefined)}`} count={6} grid />
        <AxisY scale={y} box={box} name={`desirability of ${axisName(b.name, undefined)}`} count={6} grid offset={42} />
        {points.map((p, i) =>
          i % 2 === 0 || p.others ? (
            <Dot
              key={i}
              at={[x(p.da), y(p.db)]}
              r={1.6}
              colour={p.others ? "accent" : "rule"}
              opacity={p.others ? 0.55 : 0.35}
            />
          ) : null,
        )}
        <Line through={front.map((p) => [x(p.da), y(p.db)])} colour="ink" width={1.5} />
        {front.map((p) => (
          <Dot
            key={JSON.stringify(p.settings)}
            at={[x(p.da), y(p.db)]}
            r={4.5}
            colour="raised"
            outline="ink"
            label={`Take the probe to ${said(p)}`}
            title={said(p)}
            press={() => setProbe({ ...probe, ...p.settings })}
          />
        ))}
        {/* The first on top. */}
        {candidates
          .map((c, i) => (
            <TagMark
              key={JSON.stringify(c.settings)}
              x={x(c.responses[a.id]?.desirability ?? 0)}
              y={y(c.responses[b.id]?.desirability ?? 0)}
              text={String(i + 1)}
            />
          ))
          .reverse()}
        <Dot at={[x(here.da), y(here.db)]} r={5} colour="raised" outline="info" outlineWidth={2.5} through />
      </svg>
      <p className="small quiet">
        Each dot is a settable place of the region; darker where every other goal is met at all, the line through the
        best trades. Press a ring to take the probe there; tags are candidates.
      </p>
    </div>
  );
}
