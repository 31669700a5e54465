"use client";
import { useState } from "react";
import { activeFactors, type Check, isNumeric, normalQuantile, type Study } from "@/core";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/axes";
import type { Fitted } from "@/ui/desk/derive";
import { useDesk } from "@/ui/desk/store";
import { axisName, figure } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const CHECK_W = 350;
const CHECK_H = 190;

/** The small chart behind a check's answer. */
function CheckChart({ check, fitted, study }: { check: Check; fitted: Fitted; study: Study }) {
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const { fit } = fitted;
  const orders = new Map(study.trials.map((t) => [t.id, t.order]));
  const rows = fit.trials.map((t) => ({ ...t, order: orders.get(t.id) ?? 0, wave: study.trials.find((s) => s.id === t.id)?.wave ?? "" }));
  const box: Box = { left: 56, top: 8, width: CHECK_W - 70, height: CHECK_H - 50 };
  let points: { id: string; x: number; y: number }[];
  let xName: string;
  let yName: string;
  let cut: number[] = [];
  const unit = study.responses.find((r) => r.id === fit.response)?.unit;
  const errorName = fit.transform === "none" ? axisName("error", unit) : "error, fitted scale";
  if (check.id === "bell") {
    const sorted = [...rows].sort((a, b) => a.residual - b.residual);
    points = sorted.map((r, i) => ({ id: r.id, x: normalQuantile((i + 0.625) / (sorted.length + 0.25)), y: r.residual }));
    xName = "normal quantile";
    yName = errorName;
  } else if (check.id === "spread") {
    points = rows.map((r) => ({ id: r.id, x: r.predicted, y: r.residual }));
    xName = fit.transform === "none" ? axisName("predicted", unit) : "predicted, fitted scale";
    yName = errorName;
  } else if (check.id === "single") {
    points = rows.filter((r) => r.deleted !== null).map((r) => ({ id: r.id, x: r.order, y: r.deleted as number }));
    xName = "trial in run order";
    yName = "deleted residual";
    cut = [-3, 3];
  } else if (check.id === "waves" || check.id === "order") {
    points = rows.map((r) => ({ id: r.id, x: r.order, y: r.residual }));
    xName = "trial in run order";
    yName = errorName;
  } else {
    // A bend shows as errors that are low in the middle or at the ends of a factor.
    const f = activeFactors(study).find((x) => isNumeric(x) && fit.parts.data.actual.some((s) => s[x.id] !== fit.parts.data.actual[0][x.id]));
    points = f ? rows.map((r, i) => ({ id: r.id, x: fit.parts.data.actual[i][f.id] as number, y: r.residual })) : [];
    xName = f ? axisName(f.name, f.unit) : "";
    yName = errorName;
  }
  if (points.length === 0) return null;
  const xs = points.map((p) => p.x);
  const ys = [...points.map((p) => p.y), ...cut];
  const x = linear([Math.min(...xs), Math.max(...xs)], [box.left + 6, box.left + box.width - 6]);
  const reach = Math.max(...ys.map(Math.abs)) * 1.12 || 1;
  const y = linear([-reach, reach], [box.top + box.height, box.top]);
  return (
    <svg width={CHECK_W} height={CHECK_H} role="img" aria-label={`${yName} against ${xName}`} style={{ marginLeft: 8 }}>
      <AxisX scale={x} box={box} name={xName} count={6} />
      <AxisY scale={y} box={box} name={yName} count={4} grid offset={44} />
      <line x1={box.left} x2={box.left + box.width} y1={y(0)} y2={y(0)} stroke="#B8AC90" />
      {cut.map((c) => (
        <line key={c} x1={box.left} x2={box.left + box.width} y1={y(c)} y2={y(c)} stroke={colours.bracken} strokeDasharray="4 3" />
      ))}
      {points.map((p) => (
        <circle
          key={p.id}
          cx={x(p.x)}
          cy={y(p.y)}
          r={lit === p.id ? 6 : 3.5}
          fill={lit === p.id ? colours.gorse : colours.heather}
          fillOpacity="0.9"
          onPointerEnter={() => light(p.id)}
          onPointerLeave={() => light(undefined)}
        >
          <title>{`Trial ${orders.get(p.id)}: ${figure(p.y, 3)}`}</title>
        </circle>
      ))}
    </svg>
  );
}

/** Questions a careful person asks, each with its answer; the chart opens below. */
export function ChecksView({ study, fitted, marked, checks }: ViewProps & { marked: string | undefined; checks: readonly Check[] | undefined }) {
  const [open, setOpen] = useState<string | undefined>(marked);
  const shown = open ?? checks?.find((c) => c.concern)?.id;
  if (!checks) return <p className="quiet small">Working out the checks…</p>;
  return (
    <div>
      {checks.map((c) => (
        <div key={c.id} className={css.check}>
          <button type="button" aria-expanded={shown === c.id} onClick={() => setOpen(shown === c.id ? "none" : c.id)}>
            <span className={c.concern ? "bracken" : c.p === null ? "quiet" : "moss"} aria-hidden="true" style={{ fontWeight: 700 }}>
              {c.concern ? "!" : c.p === null ? "–" : "✓"}
            </span>
            <span>
              <strong>{c.question}</strong>
              {c.answer}
              {c.statistic !== null && (
                <span className="num quiet" style={{ fontSize: 11.5 }}>
                  {" "}
                  {c.statisticName} {figure(c.statistic, 3)}
                </span>
              )}
            </span>
          </button>
          {shown === c.id && <CheckChart check={c} fitted={fitted} study={study} />}
        </div>
      ))}
    </div>
  );
}
