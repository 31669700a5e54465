"use client";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import { type Flag, flagLines, flagsOf, type TrialFigures } from "@/core/model";
import { activeFactors, isNumeric, type Settings, settingsAsRun, valueUnit } from "@/core/study";
import { Cuts } from "@/ui/charts/cuts";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Nearest } from "@/ui/charts/nearest";
import { useDesk } from "@/ui/desk/store";
import { CopyRows } from "@/ui/parts/copy-rows";
import { axisName, figure, valueText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Pick } from "@/ui/parts/pick";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { useSize } from "@/ui/parts/use-size";
import css from "../model.module.css";
import type { ViewProps } from "./view";

type Kind = "residual" | "studentized" | "deviance" | "quantile" | "deleted" | "leverage" | "cooks" | "dffits";
const KINDS: readonly (readonly [Kind, string])[] = [
  ["residual", "residual"],
  ["studentized", "studentized"],
  ["deleted", "deleted"],
  ["leverage", "leverage"],
  ["cooks", "Cook's distance"],
  ["dffits", "DFFITS"],
];
/** Of counts: over their standard errors, by squares, by deviance, and as the normal values that belong to them. */
const COUNTED: readonly (readonly [Kind, string])[] = [
  ["residual", "residual"],
  ["studentized", "Pearson"],
  ["deviance", "deviance"],
  ["quantile", "quantile"],
  ["deleted", "deleted"],
  ["leverage", "leverage"],
  ["cooks", "Cook's distance"],
];
const WORDS: Record<Flag, string> = {
  error: "error",
  leverage: "far out",
  pull: "pulls the fit",
  fit: "moves its fit",
};
const HEIGHT = 220;

/** A trial as this view looks at it. */
type Row = TrialFigures & {
  order: number;
  settings: Settings;
  flags: Flag[];
  deviance: number | null;
  quantile: number | null;
};

const text = (v: number | null): string => (v === null ? "–" : figure(v, 3));

/** Every kind of residual of every trial. */
function ResidualsTable({
  kinds,
  rows,
  observed,
  go,
}: {
  kinds: typeof KINDS;
  rows: readonly Row[];
  observed(value: number): string;
  go(trial: string): void;
}) {
  return (
    <>
      <div className="row" style={{ margin: "6px 0 4px" }}>
        <h2 className="grow">All kinds</h2>
        <CopyRows
          what="Residuals"
          rows={[
            ["trial", "observed", "predicted", ...kinds.map(([, name]) => name), "flags"],
            ...rows.map((r) => [
              r.order,
              r.observed,
              r.predicted,
              ...kinds.map(([k]) => r[k]),
              r.flags.map((f) => WORDS[f]).join(", "),
            ]),
          ]}
        />
      </div>
      <ScrollBox className={css.wideTable} name="Residuals of every kind">
        <table className={`${css.table} ${css.tight}`}>
          <thead>
            <tr>
              <th>trial</th>
              <th>observed</th>
              <th>predicted</th>
              {kinds.map(([k, name]) => (
                <th key={k}>{name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} data-flagged={r.flags.length > 0 ? "yes" : "no"}>
                <td>
                  <LinkButton onClick={() => go(r.id)}>{r.order}</LinkButton>
                  {r.flags.length > 0 ? " !" : ""}
                </td>
                <td>{observed(r.observed)}</td>
                <td>{figure(r.predicted, 4)}</td>
                {kinds.map(([k]) => (
                  <td key={k}>{text(r[k])}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollBox>
    </>
  );
}

/** Residuals of every kind: drawn against anything, and in a table with what stands out. */
export function ResidualsView({ study, fitted }: ViewProps) {
  const { fit } = fitted;
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const [kind, setKind] = useState<Kind>("deleted");
  const [against, setAgainst] = useState("order");
  const [frame, size] = useSize<HTMLDivElement>({ width: 340, height: HEIGHT });
  const lines = flagLines(fit.model);
  const response = study.responses.find((r) => r.id === fit.response);
  const factors = activeFactors(study);
  const { likelihood } = fit.model;
  const kinds = likelihood ? COUNTED : KINDS;
  const quantiles = useMemo(() => likelihood?.quantiles(), [likelihood]);
  const rows = fit.trials.map((t, i): Row => {
    const trial = study.trials.find((x) => x.id === t.id);
    const more = { deviance: likelihood?.deviances[i] ?? null, quantile: quantiles?.[i] ?? null };
    return {
      ...t,
      ...more,
      order: trial?.order ?? 0,
      settings: trial ? settingsAsRun(trial) : {},
      flags: flagsOf(t, lines),
    };
  });
  const factor = factors.find((f) => f.id === against);
  const place = (r: (typeof rows)[number]): number => {
    if (!factor) return against === "order" ? r.order : against === "observed" ? r.observed : r.predicted;
    const value = r.settings[factor.id];
    return isNumeric(factor) ? (value as number) : factor.levels.indexOf(String(value)) + 1;
  };
  const own = response && (fit.model.link.identity || fit.model.ownErrors) ? valueUnit(response) : undefined;
  const againstName = factor
    ? isNumeric(factor)
      ? axisName(factor.name, factor.unit)
      : `${factor.name}: ${factor.levels.map((l, i) => `${i + 1} ${l}`).join(", ")}`
    : against === "order"
      ? "trial in run order"
      : axisName(against, own);
  const kindName = kinds.find(([k]) => k === kind)?.[1] ?? kind;
  const points = rows.flatMap((r) => (r[kind] === null ? [] : [{ r, x: place(r), y: r[kind] as number }]));
  const width = Math.max(260, size.width);
  const box: Box = { left: 56, top: 10, width: width - 70, height: HEIGHT - 52 };
  const xs = points.map((p) => p.x);
  const cut =
    kind === "deleted"
      ? [-lines.error, lines.error]
      : kind === "leverage"
        ? [lines.leverage]
        : kind === "cooks"
          ? [lines.pull]
          : kind === "dffits"
            ? [-lines.fit, lines.fit]
            : [];
  const ys = [...points.map((p) => p.y), 0];
  const near = cut.filter((c) => Math.abs(c) < 1.6 * Math.max(...ys.map(Math.abs)));
  const reach = Math.max(...[...ys, ...near].map(Math.abs), 1e-12) * 1.12;
  const signed = ys.some((v) => v < 0);
  const x = linear([Math.min(...xs), Math.max(...xs)], [box.left + 6, box.left + box.width - 6]);
  const y = linear([signed ? -reach : 0, reach], [box.top + box.height, box.top]);
  const observed = (v: number): string => (fit.model.link.identity ? valueText(response, v, null) : figure(v, 4));
  const flagged = rows.filter((r) => r.flags.length > 0);
  const go = (trial: string): void => {
    light(trial);
    router.push(`/studies/${id}/trials`);
  };
  return (
    <div>
      <div className="row small" style={{ marginBottom: 4 }}>
        <Pick label="Kind of residual" value={kind} options={kinds} set={setKind} />
        <span className="quiet">against</span>
        <Pick
          label="Against"
          value={against}
          options={[
            ["order", "run order"],
            ["predicted", "predicted"],
            ["observed", "observed"],
            ...factors.map((f) => [f.id, f.name] as const),
          ]}
          set={setAgainst}
        />
      </div>
      <div ref={frame}>
        {points.length === 0 ? (
          <p className="quiet small">This kind is not to be had of this model: nothing is left to judge noise by.</p>
        ) : (
          <svg width={width} height={HEIGHT} role="img" aria-label={`${kindName} against ${againstName}`}>
            <AxisX scale={x} box={box} name={againstName} count={6} />
            <AxisY
              scale={y}
              box={box}
              name={kind === "residual" ? axisName("residual", own) : kindName}
              count={4}
              grid
              offset={44}
            />
            <Cuts box={box} scale={y} cuts={near} />
            {points.map(({ r, x: px, y: py }) => (
              <g key={r.id}>
                <Dot
                  at={[x(px), y(py)]}
                  r={lit === r.id ? 6 : points.length > 150 ? 2.2 : 3.5}
                  colour={lit === r.id ? "highlight" : r.flags.length > 0 ? "warning" : "accent"}
                />
                {r.flags.length > 0 && (
                  <Label at={[x(px) + 6, y(py) - 5]} size={11} colour="warning">
                    {r.order}
                  </Label>
                )}
              </g>
            ))}
            <Nearest
              box={box}
              dots={points.map((p) => ({
                id: p.r.id,
                x: x(p.x),
                y: y(p.y),
                text: `Trial ${p.r.order}: ${figure(p.y, 3)}`,
              }))}
              near={light}
            />
          </svg>
        )}
      </div>
      <p className="small" data-testid="flagged">
        {flagged.length === 0
          ? "No trial is flagged."
          : flagged.map((r, i) => (
              <span key={r.id}>
                {i > 0 ? "; " : "Flagged: "}
                <LinkButton onClick={() => go(r.id)}>trial {r.order}</LinkButton> (
                {r.flags.map((f) => WORDS[f]).join(", ")})
              </span>
            ))}
      </p>
      <ResidualsTable kinds={kinds} rows={rows} observed={observed} go={go} />
    </div>
  );
}
