// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useMemo, useState } from "react";
import {
  activeFactors,
  allowed,
  type Factor,
  isNumeric,
  rangeOf,
  type Setting,
  type Settings,
  settingsAsRun,
  valueUnit,
} from "@/core/study";
import { Band, Shade } from "@/ui/charts/marks/band";
import { pressable } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Rule } from "@/ui/charts/marks/rule";
import { useDesk } from "@/ui/desk/store";
import { axisName, clip, ownError, settingText, valueText } from "@/ui/parts/format";
import { named, Pick } from "@/ui/parts/pick";
import { colours, ramp } from "@/ui/theme/theme";
import type { ViewProps } from "./view";

const W = 400;
const H = 384;
/** Where each corner of the cube stands: right is the first factor, up the second, back the third. */
const pixelOf = (i: number, j: number, k: number): [number, number] => [88 + 174 * i + 84 * k, 296 - 182 * j - 72 * k];

const endsOf = (f: Factor): [Setting, Setting] =>
  isNumeric(f) ? rangeOf(f) : [f.levels[0], f.levels[f.levels.length - 1]];

/** One corner: what is predicted there, and below it the mean of what was run. Pressed it takes the probe there. */
function CornerBox({
  at: [x, y],
  predicted,
  run,
  place,
  open,
  on,
  fill,
  press,
  light,
}: {
  at: readonly [number, number];
  predicted: string;
  run: string | undefined;
  /** Its settings in words. */
  place: string;
  /** The region lets it be run. */
  open: boolean;
  on: boolean;
  fill: string;
  press(): void;
  light(on: boolean): void;
}) {
  return (
    <g transform={`translate(${x} ${y})`} opacity={open ? 1 : 0.45}>
      <g
        {...pressable(`${predicted}: move the probe to ${place}`, press)}
        onPointerEnter={() => light(true)}
        onPointerLeave={() => light(false)}
      >
        <Band
          x={-46}
          y={-18}
          width={92}
          height={36}
          round={6}
          colour="raised"
          outline={on ? "highlight" : "ink"}
          outlineWidth={on ? 3 : 1}
        />
        <Shade x={-46} y={-18} width={8} height={36} round={3} fill={fill} />
        <Label at={[4, run === undefined ? 5 : -2]} anchor="middle" size={13} className="num" bold>
          {predicted}
        </Label>
        <title>{`${place}${open ? "" : "; the region forbids it"}`}</title>
      </g>
      {/* Beside the button, not in it: a button is called by what it shows. */}
      {run !== undefined && (
        <Label at={[4, 12]} anchor="middle" size={10.5} className="num" colour="quiet">
          {run}
        </Label>
      )}
    </g>
  );
}

/**
 * Cube plot: what the model says at the corners of three factors, others at the probe, beside what was measured
 * there.
 */
export function CornersView({ study, fitted }: ViewProps) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const factors = activeFactors(study);
  const strongest = useMemo(() => {
    const found: string[] = [];
    for (const r of fitted.ladder.rungs)
      if (r.inModel) for (const id of r.term) if (!found.includes(id)) found.push(id);
    return [
      ...found.filter((id) => factors.some((f) => f.id === id)),
      ...factors.map((f) => f.id).filter((id) => !found.includes(id)),
    ];
  }, [fitted, factors]);
  const [pick, setPick] = useState<(string | undefined)[]>([]);
  const ids: string[] = [];
  for (const wanted of [pick[0], pick[1], pick[2]]) {
    const id = wanted && !ids.includes(wanted) ? wanted : strongest.find((s) => !ids.includes(s) && !pick.includes(s));
    if (id) ids.push(id);
  }
  const three = ids.map((id) => factors.find((f) => f.id === id)).filter((f): f is Factor => f !== undefined);
  if (three.length < 3) return <p className="quiet">A cube needs three factors.</p>;
  const corners = [0, 1].flatMap((i) =>
    [0, 1].flatMap((j) =>
      [0, 1].map((k) => {
        const settings: Settings = { ...probe };
        [i, j, k].forEach((end, n) => {
          settings[three[n].id] = endsOf(three[n])[end];
        });
        const said = fitted.predictor.predict(settings);
        const trials = fitted.fit.data.trials.filter((t) =>
          three.every((f) => settingsAsRun(t)[f.id] === settings[f.id]),
        );
        const y = fitted.fit.data.y;
        const values = trials.map((t) => y[fitted.fit.data.trials.indexOf(t)]);
        return {
          key: `${i}${j}${k}`,
          at: pixelOf(i, j, k),
          settings,
          said,
          trials,
          mean: values.length > 0 ? values.reduce((a, b) => a + b, 0) / values.length : undefined,
          open: allowed(study, settings),
        };
      }),
    ),
  );
  const values = corners.map((c) => c.said.mean);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const shade = (v: number): string =>
    ramp[Math.min(ramp.length - 1, Math.round(((v - low) / (high - low || 1)) * (ramp.length - 1)))];
  const edges = corners.flatMap((a, i) =>
    corners.slice(i + 1).flatMap((b) => ([...a.key].filter((c, n) => c !== b.key[n]).length === 1 ? [{ a, b }] : [])),
  );
  const axis = (n: number, from: [number, number], to: [number, number], dy: number) => {
    const f = three[n];
    const [lo, hi] = endsOf(f);
    return (
      <g key={f.id} aria-hidden="true">
        <text
          x={(from[0] + to[0]) / 2}
          y={(from[1] + to[1]) / 2 + dy}
          textAnchor="middle"
          fontSize="12.500"
          fill={colours.ink}
        >
          {clip(axisName(f.name, isNumeric(f) ? f.unit : undefined), 22)}
        </text>
        <text
          x={from[0]}
          y={from[1] + dy * 0.75}
          textAnchor="middle"
          fontSize="11.500"
          className="tick"
          fill={colours.quiet}
        >
          {settingText(lo)}
        </text>
        <text
          x={to[0]}
          y={to[1] + dy * 0.75}
          textAnchor="middle"
          fontSize="11.500"
          className="tick"
          fill={colours.quiet}
        >
          {settingText(hi)}
        </text>
      </g>
    );
  };
  return (
    <div>
      <div className="row small" style={{ flexWrap: "wrap", gap: 6 }}>
        {["across", "up", "back"].map((side, n) => (
          <label key={side} className="row" style={{ gap: 4 }}>
            {side}
            <Pick
              style={{ maxWidth: 120 }}
              label={`Factor ${side}`}
              value={three[n].id}
              options={named(factors)}
              set={(id) => setPick([0, 1, 2].map((m) => (m === n ? id : ids[m] === id ? ids[n] : ids[m])))}
            />
          </label>
        ))}
      </div>
      <svg
        width="100%"
        viewBox={`0 0 ${W} ${H}`}
        role="group"
        aria-label={`${response?.name} at the corners of ${three.map((f) => f.name).join(", ")}`}
      >
        {edges.map(({ a, b }) => (
          <Rule key={a.key + b.key} from={a.at} to={b.at} dashed={a.key === "001" || b.key === "001"} />
        ))}
        {axis(0, pixelOf(0, 0, 0), pixelOf(1, 0, 0), 50)}
        <g aria-hidden="true">
          <text x={W - 4} y={pixelOf(1, 0, 0)[1] + 62} textAnchor="end" fontSize="12.500" fill={colours.ink}>
            {clip(axisName(three[2].name, isNumeric(three[2]) ? three[2].unit : undefined), 24)}
          </text>
          {endsOf(three[2]).map((end, k) => (
            <text
              key={String(end)}
              x={pixelOf(1, 0, k)[0] + 30}
              y={pixelOf(1, 0, k)[1] + 30}
              textAnchor="middle"
              fontSize="11.500"
              className="tick"
              fill={colours.quiet}
            >
              {settingText(end)}
            </text>
          ))}
        </g>
        <g aria-hidden="true">
          <text
            transform={`translate(16 ${(pixelOf(0, 0, 0)[1] + pixelOf(0, 1, 0)[1]) / 2}) rotate(-90)`}
            textAnchor="middle"
            fontSize="12.500"
            fill={colours.ink}
          >
            {axisName(three[1].name, isNumeric(three[1]) ? three[1].unit : undefined)}
          </text>
          {endsOf(three[1]).map((end, j) => (
            <text
              key={String(end)}
              x="37"
              y={pixelOf(0, j, 0)[1] + 4}
              textAnchor="end"
              fontSize="11.500"
              className="tick"
              fill={colours.quiet}
            >
              {settingText(end)}
            </text>
          ))}
        </g>
        {corners.map((c) => {
          const ids = c.trials.map((t) => t.id);
          const { identity } = fitted.fit.model.link;
          return (
            <CornerBox
              key={c.key}
              at={c.at}
              predicted={valueText(response, c.said.mean, ownError(c.said, fitted.fit.model.link))}
              run={
                c.mean === undefined
                  ? undefined
                  : `${valueText(response, c.mean, identity ? fitted.fit.summary.s : null)} (${c.trials.length})`
              }
              place={three.map((f) => `${f.name} ${settingText(c.settings[f.id])}`).join(", ")}
              open={c.open}
              on={ids.includes(lit ?? "")}
              fill={shade(c.said.mean)}
              press={() => setProbe(c.settings)}
              light={(on) => (on ? ids[0] && light(ids[0]) : light(undefined))}
            />
          );
        })}
      </svg>
      <p className="small quiet">
        {axisName(response?.name ?? "", response && valueUnit(response))}: predicted, other factors at the probe; small,
        the trials run at that corner and their mean whatever else was set. Press a corner to take the probe there.
      </p>
    </div>
  );
}
