"use client";
import { Collapse } from "antd";
import { useMemo, useState } from "react";
import { answerOf, questionOf, statisticOf } from "@/core/findings";
import {
  boxCox,
  type Check,
  type CopyCell,
  chiSquaredQuantile,
  copiesOf,
  DRAWN_LINE,
  normalQuantile,
  powerOf,
  scaleLikelihoods,
} from "@/core/model";
import type { Fitted } from "@/core/questions";
import { activeFactors, isNumeric, type Study, significance, type Transform, valueUnit } from "@/core/study";
import { Cuts } from "@/ui/charts/cuts";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Band } from "@/ui/charts/marks/band";
import { Dot } from "@/ui/charts/marks/dots";
import { Line } from "@/ui/charts/marks/line";
import { Across, Down, Rule } from "@/ui/charts/marks/rule";
import { Nearest } from "@/ui/charts/nearest";
import { useDesk } from "@/ui/desk/store";
import { axisName, figure } from "@/ui/parts/format";
import { Toggle } from "@/ui/parts/link-button";
import { say } from "@/ui/parts/say";
import { setFitting } from "../actions";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const CHECK_W = 350;
const CHECK_H = 190;
/** A chart that gives way to a narrower panel. */
const FRAME = {
  width: CHECK_W,
  viewBox: `0 0 ${CHECK_W} ${CHECK_H}`,
  style: { display: "block", maxWidth: "100%", height: "auto" },
} as const;

/** Log-likelihood over powers of the response with its interval, and the scales to fit on. */
function ScaleChart({ fitted, study }: { fitted: Fitted; study: Study }) {
  const commit = useDesk((d) => d.commit);
  const { fit } = fitted;
  const profile = useMemo(() => boxCox(fit), [fit]);
  const scales = useMemo(() => scaleLikelihoods(fit), [fit]);
  const present = JSON.stringify(fit.transform);
  const use = (transform: Transform, name: string): void => {
    const refused = commit(
      setFitting(study, fit, { transform: transform }),
      `fitted on the ${name === "none" ? "response's own" : name} scale`,
    );
    if (refused) say(refused);
  };
  const box: Box = { left: 56, top: 8, width: CHECK_W - 70, height: CHECK_H - 50 };
  const shown = profile?.profile.filter((p) => p.likelihood > -12) ?? [];
  const x = linear([-2, 3], [box.left, box.left + box.width]);
  const lowest = Math.min(-4, ...shown.map((p) => p.likelihood));
  const y = linear([lowest, 0.4], [box.top + box.height, box.top]);
  const cut = -(normalQuantile((1 + study.confidence) / 2) ** 2) / 2;
  const power = powerOf(fit.transform);
  return (
    <div style={{ marginLeft: 8 }}>
      {profile && (
        <svg {...FRAME} role="img" aria-label="Log-likelihood against power of the response">
          <AxisX scale={x} box={box} name="power of the response (1 as it is, 0 log)" count={6} />
          <AxisY scale={y} box={box} name="log-likelihood" count={4} grid offset={44} />
          <Band
            x={x(profile.interval[0])}
            y={box.top}
            width={x(profile.interval[1]) - x(profile.interval[0])}
            height={box.height}
            opacity={0.12}
          />
          <Across box={box} at={y(cut)} colour="warning" dashed />
          <Line through={shown.map((p) => [x(p.power), y(p.likelihood)])} />
          {power !== undefined && <Down box={box} at={x(power)} colour="info" width={2} />}
        </svg>
      )}
      <p className="small quiet">
        {profile
          ? `Shaded: powers the results do not speak against (${Math.round(100 * study.confidence)} %); the upright line is the present scale. `
          : ""}
        Predictions from another scale are medians brought back, intervals likewise; goals stay in the response's own
        units.
      </p>
      <div className="row small" style={{ flexWrap: "wrap", gap: 6, margin: "6px 0" }}>
        {scales.map((s) => (
          <Toggle
            key={s.name}
            disabled={s.likelihood === null}
            on={JSON.stringify(s.transform) === present}
            title={
              s.likelihood === null
                ? "These results hold values that this scale does not take"
                : `log-likelihood ${figure(s.likelihood, 3)} against the best`
            }
            onClick={() => use(s.transform, s.name)}
          >
            {s.name === "none" ? "as it is" : s.name}
            {s.likelihood !== null && (
              <span className="num quiet"> {s.likelihood > -0.005 ? "best" : figure(s.likelihood, 2)}</span>
            )}
          </Toggle>
        ))}
      </div>
    </div>
  );
}

/**
 * Standard deviation of every cell measured again, in run order, with the pooled one and where a wide one would
 * stand.
 */
function CopiesChart({ fitted, study }: { fitted: Fitted; study: Study }) {
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const copies = useMemo(() => copiesOf(study, fitted.fit), [study, fitted]);
  if (!copies) return null;
  const unit = study.responses.find((r) => r.id === fitted.fit.response)?.unit;
  const own = fitted.fit.model.link.identity;
  const trialOf = (c: CopyCell): string => fitted.fit.data.trials[c.places[0]].id;
  const box: Box = { left: 56, top: 8, width: CHECK_W - 70, height: CHECK_H - 50 };
  const orders = copies.cells.map((c) => c.orders[0]);
  const x = linear([Math.min(...orders) - 0.5, Math.max(...orders) + 0.5], [box.left, box.left + box.width]);
  const limit = (df: number): number =>
    copies.pooled * Math.sqrt(chiSquaredQuantile(1 - significance(study) / copies.cells.length, df) / df);
  const limits = copies.cells.map((c) => limit(c.df));
  const y = linear([0, Math.max(...copies.cells.map((c) => c.s), ...limits) * 1.08], [box.top + box.height, box.top]);
  return (
    <div style={{ marginLeft: 8 }}>
      <svg {...FRAME} role="img" aria-label="Standard deviation of each cell in run order">
        <AxisX scale={x} box={box} name="first trial of the cell, in run order" count={6} />
        <AxisY scale={y} box={box} name={own ? axisName("s", unit) : "s, fitted scale"} count={4} grid offset={44} />
        <Across box={box} at={y(copies.pooled)} colour="tick" />
        {copies.cells.map((c, i) => (
          <g key={trialOf(c)} onPointerEnter={() => light(trialOf(c))} onPointerLeave={() => light(undefined)}>
            <Rule from={[x(c.orders[0]) - 5, y(limits[i])]} to={[x(c.orders[0]) + 5, y(limits[i])]} colour="warning" />
            <Dot
              at={[x(c.orders[0]), y(c.s)]}
              r={lit === trialOf(c) ? 6 : 3.5}
              colour={lit === trialOf(c) ? "highlight" : c.s > limits[i] ? "warning" : "accent"}
              title={`${c.orders.length > 1 ? "Trials" : "Trial"} ${c.orders.join(", ")}: s ${figure(c.s, 3)}, range ${figure(c.range, 3)}, ${c.n} values`}
            />
          </g>
        ))}
      </svg>
      <p className="small quiet">
        Line: pooled s {figure(copies.pooled, 3)}. A point above its orange bar is wider than the widest of{" "}
        {copies.cells.length} should be.
        {copies.cells.some((c) => c.s === 0) ? " Cells with equal values stand at 0." : ""}
      </p>
    </div>
  );
}

/** The small chart behind a check's answer. */
function CheckChart({ check, fitted, study }: { check: Check; fitted: Fitted; study: Study }) {
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const { fit } = fitted;
  const orders = new Map(study.trials.map((t) => [t.id, t.order]));
  const rows = fit.trials.map((t) => ({
    ...t,
    order: orders.get(t.id) ?? 0,
    wave: study.trials.find((s) => s.id === t.id)?.wave ?? "",
  }));
  const box: Box = { left: 56, top: 8, width: CHECK_W - 70, height: CHECK_H - 50 };
  let points: { id: string; x: number; y: number }[];
  let xName: string;
  let yName: string;
  let cut: number[] = [];
  const about = study.responses.find((r) => r.id === fit.response);
  const unit = about && valueUnit(about);
  const own = fit.model.link.identity || fit.model.ownErrors;
  const errorName = own ? axisName("error", unit) : "error, fitted scale";
  if (check.id === "bell") {
    const sorted = [...rows].sort((a, b) => a.residual - b.residual);
    points = sorted.map((r, i) => ({
      id: r.id,
      x: normalQuantile((i + 0.625) / (sorted.length + 0.25)),
      y: r.residual,
    }));
    xName = "normal quantile";
    yName = errorName;
  } else if (check.id === "spread") {
    points = rows.map((r) => ({ id: r.id, x: r.predicted, y: r.residual }));
    xName = own ? axisName("predicted", unit) : "predicted, fitted scale";
    yName = errorName;
  } else if (check.id === "single") {
    points = rows.filter((r) => r.deleted !== null).map((r) => ({ id: r.id, x: r.order, y: r.deleted as number }));
    xName = "trial in run order";
    yName = "deleted residual";
    cut = [-DRAWN_LINE, DRAWN_LINE];
  } else if (check.id === "pull") {
    points = rows.filter((r) => r.cooks !== null).map((r) => ({ id: r.id, x: r.order, y: r.cooks as number }));
    xName = "trial in run order";
    yName = "Cook's distance";
  } else if (check.id === "spread-factor") {
    const f = study.factors.find((q) => q.id === check.about);
    const position = (value: number | string | undefined): number =>
      !f ? 0 : isNumeric(f) ? (value as number) : f.levels.indexOf(String(value)) + 1;
    points = f ? rows.map((r, i) => ({ id: r.id, x: position(fit.data.actual[i][f.id]), y: r.residual })) : [];
    xName = f
      ? isNumeric(f)
        ? axisName(f.name, f.unit)
        : `${f.name}: ${f.levels.map((l, i) => `${i + 1} ${l}`).join(", ")}`
      : "";
    yName = errorName;
  } else if (check.id === "waves" || check.id === "setup" || check.id === "order" || check.id === "neighbours") {
    points = rows.map((r) => ({ id: r.id, x: r.order, y: r.residual }));
    xName = "trial in run order";
    yName = errorName;
  } else {
    // A bend shows as errors that are low in the middle or at the ends of a factor.
    const f = activeFactors(study).find(
      (x) => isNumeric(x) && fit.data.actual.some((s) => s[x.id] !== fit.data.actual[0][x.id]),
    );
    points = f ? rows.map((r, i) => ({ id: r.id, x: fit.data.actual[i][f.id] as number, y: r.residual })) : [];
    xName = f ? axisName(f.name, f.unit) : "";
    yName = errorName;
  }
  if (check.id === "scale") return <ScaleChart fitted={fitted} study={study} />;
  if (check.id === "copies" || check.id === "repeats") return <CopiesChart fitted={fitted} study={study} />;
  if (points.length === 0) return null;
  const xs = points.map((p) => p.x);
  const ys = [...points.map((p) => p.y), ...cut];
  const x = linear([Math.min(...xs), Math.max(...xs)], [box.left + 6, box.left + box.width - 6]);
  const reach = Math.max(...ys.map(Math.abs)) * 1.12 || 1;
  const y = linear([-reach, reach], [box.top + box.height, box.top]);
  return (
    <svg {...FRAME} role="img" aria-label={`${yName} against ${xName}`}>
      <AxisX scale={x} box={box} name={xName} count={6} />
      <AxisY scale={y} box={box} name={yName} count={4} grid offset={44} />
      <Cuts box={box} scale={y} cuts={cut} />
      {points.map((p) => (
        <Dot
          key={p.id}
          at={[x(p.x), y(p.y)]}
          r={lit === p.id ? 6 : 3.5}
          colour={lit === p.id ? "highlight" : "accent"}
          opacity={0.9}
        />
      ))}
      <Nearest
        box={box}
        dots={points.map((p) => ({
          id: p.id,
          x: x(p.x),
          y: y(p.y),
          text: `Trial ${orders.get(p.id)}: ${figure(p.y, 3)}`,
        }))}
        near={light}
      />
    </svg>
  );
}

/** Something by itself, though not among all checks. */
const unsure = (c: Check): boolean => c.code.endsWith("-perhaps") || c.code === "bend-or-shift";

/** Questions a careful person asks, each with its answer; the chart opens below. */
export function ChecksView({
  study,
  fitted,
  marked,
  checks,
  late,
}: ViewProps & { marked: string | undefined; checks: readonly Check[] | undefined; late: boolean }) {
  const [open, setOpen] = useState<string | undefined>(marked);
  const shown = open ?? checks?.find((c) => c.alarm)?.id;
  if (!checks) return <p className="quiet small">Working out the checks…</p>;
  return (
    <Collapse
      ghost
      size="small"
      className={css.checks}
      data-late={late ? "yes" : "no"}
      activeKey={shown === undefined ? [] : [shown]}
      // One at a time: what opens closes the one before.
      onChange={(keys) => setOpen(keys.find((k) => k !== shown) ?? "none")}
      items={checks.map((c) => ({
        key: c.id,
        label: (
          <span className={css.check}>
            <span
              className={c.alarm || unsure(c) ? "warning" : c.p === null ? "quiet" : "success"}
              aria-hidden="true"
              style={{ fontWeight: 700 }}
            >
              {c.alarm ? "!" : unsure(c) ? "?" : c.p === null ? "–" : "✓"}
            </span>
            <span>
              <strong>{questionOf(c.id)}</strong>
              {answerOf(c)}
              {c.statistic !== null && (
                <span className="num quiet" style={{ fontSize: 11.5 }}>
                  {" "}
                  {statisticOf(c.id)} {figure(c.statistic, 3)}
                </span>
              )}
            </span>
          </span>
        ),
        showArrow: false,
        children: <CheckChart check={c} fitted={fitted} study={study} />,
      }))}
    />
  );
}
