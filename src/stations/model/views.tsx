"use client";
import { App } from "antd";
import { type ReactNode, useMemo, useState } from "react";
import {
  activeFactors,
  alphabetOf,
  type Check,
  decode,
  equationOf,
  type Factor,
  isNumeric,
  limitsOf,
  normalQuantile,
  type Rung,
  rangeOf,
  type Settings,
  type Study,
  termKey,
  termLetters,
  termName,
} from "@/core";
import { AxisX, AxisY, type Box, linear, placeLabels } from "@/ui/charts/axes";
import { SurfaceMap } from "@/ui/charts/surface-map";
import type { Fitted } from "@/ui/desk/derive";
import { useDesk } from "@/ui/desk/store";
import { axisName, clip, figure, settingText, valueText } from "@/ui/parts/format";
import { useSize } from "@/ui/parts/use-size";
import { colours } from "@/ui/theme/theme";
import css from "./model.module.css";

interface ViewProps {
  study: Study;
  fitted: Fitted;
}

/** Copies a table's rows as tab-separated text, full precision. */
export function CopyRows({ rows, what }: { rows: (string | number | null | undefined)[][]; what: string }) {
  const { message } = App.useApp();
  return (
    <button
      type="button"
      className="link small"
      onClick={() => {
        navigator.clipboard
          .writeText(rows.map((r) => r.map((c) => c ?? "").join("\t")).join("\n"))
          .then(() => message.success(`${what} copied as tab-separated text`))
          .catch(() => message.warning("The browser does not let this page copy; select the table and copy it by hand."));
      }}
    >
      copy
    </button>
  );
}

/** Filled contours of the response over two factors at the probe. */
export function MapView({ study, fitted }: ViewProps) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const numeric = activeFactors(study).filter(isNumeric);
  const strongest = useMemo(() => {
    const found: string[] = [];
    for (const r of fitted.ladder.rungs)
      if (r.inModel) for (const id of r.term) if (numeric.some((f) => f.id === id) && !found.includes(id)) found.push(id);
    return [...found, ...numeric.map((f) => f.id)];
  }, [fitted, numeric]);
  const [pick, setPick] = useState<{ x?: string; y?: string }>({});
  const [frame, size] = useSize<HTMLDivElement>({ width: 380, height: 540 });
  const x = numeric.find((f) => f.id === (pick.x ?? strongest[0]));
  const y = numeric.find((f) => f.id === pick.y && f.id !== x?.id) ?? numeric.find((f) => f.id === strongest.find((s) => s !== x?.id));
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const value = useMemo(() => fitted.predictor.value, [fitted]);
  const limits = limitsOf(response?.goal ?? { aim: "watch" });
  const inLimits = useMemo(() => {
    if (!Number.isFinite(limits.low) && !Number.isFinite(limits.high)) return undefined;
    return (s: Settings): number =>
      Math.min(
        Number.isFinite(limits.low) ? value(s) - limits.low : Number.POSITIVE_INFINITY,
        Number.isFinite(limits.high) ? limits.high - value(s) : Number.POSITIVE_INFINITY,
      );
  }, [value, limits.low, limits.high]);
  if (!x || !y) return <p className="quiet">A map needs two numeric factors.</p>;
  const select = (which: "x" | "y", now: string) => (
    <select
      className="field"
      style={{ height: 26, minWidth: 0, maxWidth: 130 }}
      aria-label={which === "x" ? "Across" : "Upwards"}
      value={now}
      onChange={(e) => setPick({ ...pick, [which]: e.target.value })}
    >
      {numeric.map((f) => (
        <option key={f.id} value={f.id}>
          {f.name}
        </option>
      ))}
    </select>
  );
  const others = activeFactors(study).filter((f) => f.id !== x.id && f.id !== y.id && fitted.fit.terms.some((t) => t.includes(f.id)));
  return (
    <div ref={frame} style={{ height: "100%" }}>
      <div className="row small" style={{ marginBottom: 4 }}>
        {select("x", x.id)} <span className="quiet">across,</span> {select("y", y.id)} <span className="quiet">up</span>
      </div>
      <SurfaceMap
        study={study}
        x={x}
        y={y}
        probe={probe}
        setProbe={setProbe}
        value={value}
        {...(inLimits ? { inLimits } : {})}
        width={Math.max(260, Math.min(640, size.width))}
        height={Math.max(260, Math.min(560, size.height - 96))}
        text={(v) => figure(v, 3)}
        name={axisName(response?.name ?? "", response?.unit)}
      />
      <p className="small quiet">
        {axisName(response?.name ?? "", response?.unit)}. {inLimits ? "Hatched: outside its limits. " : ""}Numbers: trials run there. Drag to move the
        probe; others stand at it
        {others.length > 0
          ? `: ${others
              .slice(0, 4)
              .map((f) => `${f.name} ${settingText(probe[f.id])}`)
              .join(", ")}`
          : ""}
        .
      </p>
    </div>
  );
}

/** One small interaction plot: the response along one factor at both ends of another. */
function Pair({
  study,
  fitted,
  a,
  b,
  low,
  high,
  rung,
  mark,
}: {
  study: Study;
  fitted: Fitted;
  a: Factor;
  b: Factor;
  low: number;
  high: number;
  rung: Rung | undefined;
  mark: boolean;
}) {
  const probe = useDesk((d) => d.probe);
  const W = 160;
  const H = 96;
  const ends: (number | string)[] = isNumeric(b) ? rangeOf(b) : b.levels.slice(0, 3);
  const along: { at: number; v: number | string }[] = isNumeric(a)
    ? Array.from({ length: 13 }, (_, i) => ({ at: i / 12, v: decode(a, -1 + i / 6) }))
    : a.levels.map((l, i) => ({ at: i / (a.levels.length - 1), v: l }));
  const x = linear([0, 1], [4, W - 42]);
  const y = linear([low, high], [H - 16, 6]);
  const active = rung?.inModel === true && rung.p !== null && rung.p < 1 - study.confidence;
  const strokes = [colours.bracken, colours.heather, colours.loch];
  return (
    <div className={css.pair} data-active={active || mark ? "yes" : "no"} style={mark ? { boxShadow: `0 0 0 2px ${colours.gorse}` } : undefined}>
      <h3 title={`${a.name} × ${b.name}`}>
        {a.letter} × {b.letter} <span style={{ fontWeight: 400 }}>{clip(a.name, 16)}</span>
      </h3>
      <svg width="100%" viewBox={`0 0 ${W} ${H}`} role="img" aria-label={`${a.name} at ${b.name} ${ends.join(" and ")}`}>
        {ends.map((e, i) => {
          const points = along.map((p) => ({ x: x(p.at), y: y(fitted.predictor.value({ ...probe, [b.id]: e, [a.id]: p.v })) }));
          const last = points[points.length - 1];
          return (
            <g key={String(e)}>
              <path
                d={points.map((p, k) => `${k === 0 ? "M" : "L"}${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join("")}
                fill="none"
                stroke={strokes[i]}
                strokeWidth="2"
                strokeDasharray={i === 0 ? "4 3" : undefined}
              />
              <text
                x={W - 39}
                y={Math.max(
                  8,
                  Math.min(
                    H - 18,
                    last.y +
                      4 +
                      (i === 0
                        ? 0
                        : ends.length === 2 &&
                            Math.abs(last.y - y(fitted.predictor.value({ ...probe, [b.id]: ends[0], [a.id]: along[along.length - 1].v }))) < 11
                          ? 11
                          : 0),
                  ),
                )}
                fontSize="10"
                fill={strokes[i]}
              >
                {clip(`${b.letter} ${settingText(e)}`, 8)}
              </text>
            </g>
          );
        })}
        <text x="4" y={H - 3} fontSize="10" className="tick" fill={colours.quiet}>
          {isNumeric(a) ? settingText(rangeOf(a)[0]) : clip(a.levels[0], 7)}
        </text>
        <text x={W - 42} y={H - 3} fontSize="10" textAnchor="end" className="tick" fill={colours.quiet}>
          {isNumeric(a) ? `${settingText(rangeOf(a)[1])} ${a.unit ?? ""}` : clip(a.levels[a.levels.length - 1], 9)}
        </text>
      </svg>
      {rung && rung.aliases.length > 0 && (
        <div className="small bracken num" style={{ fontSize: 11 }}>
          ={" "}
          {rung.aliases
            .map((t) => termLetters(alphabetOf(study), t))
            .slice(0, 3)
            .join(" = ")}
        </div>
      )}
    </div>
  );
}

/** All pairs as small multiples on one scale, those in the model first; a main effect with an active interaction is read here. */
export function PairsView({ study, fitted, marked }: ViewProps & { marked: string | undefined }) {
  const probe = useDesk((d) => d.probe);
  const [all, setAll] = useState(false);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const factors = activeFactors(study);
  const rungs = new Map(fitted.ladder.rungs.map((r) => [r.key, r]));
  const pairs = factors.flatMap((a, i) => factors.slice(i + 1).map((b) => ({ a, b, rung: rungs.get(termKey([a.id, b.id])) })));
  const strong = (p: (typeof pairs)[number]): number => (p.rung?.inModel ? 1e9 : 0) + Math.abs(p.rung?.size ?? 0);
  const ordered = [...pairs].sort((p, q) => strong(q) - strong(p));
  const inside = ordered.filter((p) => p.rung?.inModel);
  const shown = all ? ordered : ordered.slice(0, Math.max(6, inside.length));
  const span = useMemo(() => {
    const values = factors.flatMap((f) =>
      factors
        .filter((g) => g.id !== f.id)
        .flatMap((g) =>
          (isNumeric(f) ? rangeOf(f) : f.levels).flatMap((u) =>
            (isNumeric(g) ? rangeOf(g) : g.levels).map((v) => fitted.predictor.value({ ...probe, [f.id]: u, [g.id]: v })),
          ),
        ),
    );
    return [Math.min(...values), Math.max(...values)];
  }, [factors, fitted, probe]);
  const alpha = 1 - study.confidence;
  const mains = fitted.ladder.rungs.filter((r) => r.term.length === 1 && r.inModel);
  const entangled = mains.filter((m) =>
    fitted.ladder.rungs.some(
      (r) => r.term.length === 2 && r.term[0] !== r.term[1] && r.inModel && r.p !== null && r.p < alpha && r.term.includes(m.term[0]),
    ),
  );
  if (factors.length < 2) return <p className="quiet">Pairs need two factors.</p>;
  return (
    <div>
      <div className="row small" style={{ marginBottom: 6 }}>
        <span className="quiet grow">
          {axisName(response?.name ?? "", response?.unit)}, {figure(span[0], 3)} to {figure(span[1], 3)} in every frame; others at the probe.
        </span>
        <button type="button" className="link" onClick={() => setAll(!all)}>
          {all ? "the strongest only" : `all ${pairs.length} pairs`}
        </button>
      </div>
      {entangled.length > 0 && (
        <p className="small" style={{ marginBottom: 6 }}>
          Do not read {entangled.map((m) => m.name).join(", ")} alone: an active interaction says {entangled.length === 1 ? "its" : "their"} effect
          depends on another factor.
        </p>
      )}
      <div className={css.pairs}>
        {shown.map(({ a, b, rung }) => (
          <Pair
            key={`${a.id}-${b.id}`}
            study={study}
            fitted={fitted}
            a={a}
            b={b}
            low={span[0]}
            high={span[1]}
            rung={rung}
            mark={marked === termKey([a.id, b.id])}
          />
        ))}
      </div>
    </div>
  );
}

/** Half-normal plot of all contrasts; tapping a point takes its term in or out. */
export function HalfNormalView({ study, fitted, toggle }: ViewProps & { toggle(key: string): void }) {
  const { contrasts, lenth, refusal } = fitted.contrasts;
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const alphabet = alphabetOf(study);
  if (contrasts.length === 0)
    return (
      <div>
        <p>No half-normal plot: {refusal}</p>
        <p className="small quiet" style={{ marginTop: 4 }}>
          It needs orthogonal two-level contrasts. The ladder shows the same terms with their intervals.
        </p>
      </div>
    );
  const W = 338;
  const H = 430;
  const box: Box = { left: 50, top: 10, width: W - 74, height: H - 56 };
  const m = contrasts.length;
  const points = [...contrasts]
    .sort((a, b) => Math.abs(a.scaled) - Math.abs(b.scaled))
    .map((c, i) => ({ c, q: normalQuantile(0.5 + (0.5 * (i + 0.5)) / m), v: Math.abs(c.scaled) }));
  const most = Math.max(...points.map((p) => p.v), lenth?.simultaneousMargin ?? 0);
  const x = linear([0, most * 1.12], [box.left, box.left + box.width]);
  const y = linear([0, points[m - 1].q * 1.08], [box.top + box.height, box.top]);
  const inside = new Set(fitted.fit.terms.map(termKey));
  const keyOf = (p: (typeof points)[number]): string => termKey((p.c.chain.find((t) => inside.has(termKey(t.term))) ?? p.c.chain[0]).term);
  const large = points.filter((p) => p.v > (lenth?.margin ?? 0) * 0.6 || inside.has(keyOf(p)));
  const labels = placeLabels(
    large.map((p) => ({
      key: keyOf(p),
      x: x(p.v),
      y: y(p.q),
      text: p.c.chain
        .filter((t, k) => k === 0 || t.term.length <= 2)
        .slice(0, 2)
        .map((t) => termLetters(alphabet, t.term))
        .join(" = "),
    })),
    box,
    8,
  );
  return (
    <div>
      <svg width={W} height={H} role="group" aria-label={`Half-normal plot of ${m} contrasts`}>
        <AxisX scale={x} box={box} name={`size of contrast, ${axisName(response?.name ?? "", response?.unit)}`} grid />
        <AxisY scale={y} box={box} name="half-normal quantile" grid offset={36} />
        {lenth &&
          [
            { v: lenth.margin, name: "margin" },
            { v: lenth.simultaneousMargin, name: "all at once" },
          ].map((l) => (
            <g key={l.name}>
              <line x1={x(l.v)} x2={x(l.v)} y1={box.top} y2={box.top + box.height} stroke={colours.bracken} strokeDasharray="4 3" />
              <text x={x(l.v) + 4} y={box.top + box.height - (l.name === "margin" ? 6 : 22)} fontSize="11.500" fill="#97511F">
                {l.name}
              </text>
            </g>
          ))}
        {lenth && (
          <line
            x1={x(0)}
            y1={y(0)}
            x2={x(Math.min(most * 1.12, lenth.pse * y.domain()[1]))}
            y2={y(Math.min(y.domain()[1], (most * 1.12) / lenth.pse))}
            stroke="#B8AC90"
          />
        )}
        {points.map((p) => {
          const key = keyOf(p);
          const name = p.c.chain
            .filter((t, k) => k === 0 || t.term.length <= 2)
            .map((t) => termName(alphabet, t.term))
            .slice(0, 3)
            .join(" = ");
          return (
            <circle
              key={key}
              cx={x(p.v)}
              cy={y(p.q)}
              r="5"
              fill={inside.has(key) ? colours.heather : colours.paper}
              stroke={inside.has(key) ? colours.heather : "#5d5e54"}
              strokeWidth="1.500"
              style={{ cursor: "pointer" }}
              tabIndex={0}
              role="button"
              aria-pressed={inside.has(key)}
              aria-label={`${name}: ${figure(p.c.effect, 3)}${inside.has(key) ? ", in the model" : ""}`}
              onClick={() => toggle(key)}
              onKeyDown={(e) => {
                if (e.key === " " || e.key === "Enter") {
                  e.preventDefault();
                  toggle(key);
                }
              }}
            >
              <title>{`${name}: ${figure(p.c.effect, 3)} ${response?.unit ?? ""}`}</title>
            </circle>
          );
        })}
        {labels.map((l) => (
          <text
            key={l.key}
            x={l.lx}
            y={l.ly}
            textAnchor={l.anchor}
            fontSize="12"
            className="num"
            fill={colours.ink}
            stroke={colours.paper}
            strokeWidth="3"
            paintOrder="stroke"
            pointerEvents="none"
          >
            {l.text}
          </text>
        ))}
      </svg>
      <p className="small quiet" style={{ maxWidth: W }}>
        {lenth
          ? `Pseudo standard error ${figure(lenth.pse)}; a contrast past the margin (${figure(lenth.margin)}) is hard to put down to noise, past “all at once” (${figure(lenth.simultaneousMargin)}) harder still.`
          : refusal}{" "}
        Tap a point to take its term in or out; filled points are in the model.
      </p>
    </div>
  );
}

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
export function ChecksView({ study, fitted, marked }: ViewProps & { marked: string | undefined }) {
  const [open, setOpen] = useState<string | undefined>(marked);
  const shown = open ?? fitted.checks.find((c) => c.concern)?.id;
  return (
    <div>
      {fitted.checks.map((c) => (
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

const SOURCES: Record<string, string> = {
  wave: "waves",
  model: "model",
  curvature: "curvature",
  residual: "residual",
  "lack-of-fit": "lack of fit",
  "pure-error": "pure error",
  total: "total",
};
const pText = (p: number | null): string => (p === null ? "" : p < 0.0001 ? "<.0001" : p.toFixed(4));

/** Analysis of variance and coefficients. */
export function TableView({ study, fitted }: ViewProps) {
  const { fit } = fitted;
  const alphabet = alphabetOf(study);
  const name = (level: string | undefined, term: string[]): string => `${termName(alphabet, term)}${level ? ` [${level}]` : ""}`;
  const anova = fit.anova.map((r) => ({ ...r, name: r.term ? termName(alphabet, r.term) : SOURCES[r.source] }));
  const section = (title: string, copy: ReactNode, table: ReactNode): ReactNode => (
    <>
      <div className="row" style={{ margin: "4px 0" }}>
        <h2 className="grow">{title}</h2>
        {copy}
      </div>
      {table}
    </>
  );
  return (
    <div>
      {section(
        "Coefficients, coded",
        <CopyRows
          what="Coefficients"
          rows={[
            ["term", "level", "coefficient", "standard error", "t", "p", "low", "high", "VIF"],
            ...fit.parameters.map((p) => [
              termName(alphabet, p.term),
              p.level,
              p.coefficient,
              p.standardError,
              p.t,
              p.p,
              p.interval?.[0],
              p.interval?.[1],
              p.vif,
            ]),
          ]}
        />,
        <table className={css.table}>
          <thead>
            <tr>
              <th>Term</th>
              <th>coef</th>
              <th>std err</th>
              <th>p</th>
              <th>{Math.round(100 * study.confidence)} % interval</th>
              <th>VIF</th>
            </tr>
          </thead>
          <tbody>
            {fit.parameters.map((p) => (
              <tr key={`${termKey(p.term)}-${p.level}`}>
                <td>{name(p.level, p.term)}</td>
                <td title={String(p.coefficient)}>{valueText(undefined, p.coefficient, p.standardError)}</td>
                <td title={String(p.standardError ?? "")}>{p.standardError === null ? "–" : figure(p.standardError)}</td>
                <td title={String(p.p ?? "")}>{pText(p.p)}</td>
                <td>{p.interval ? p.interval.map((v) => valueText(undefined, v, p.standardError)).join(" … ") : "–"}</td>
                <td>{p.vif === null ? "" : p.vif.toFixed(2)}</td>
              </tr>
            ))}
          </tbody>
        </table>,
      )}
      <div style={{ height: 10 }} />
      {section(
        "Analysis of variance",
        <CopyRows
          what="Analysis of variance"
          rows={[
            ["source", "df", "partial SS", "sequential SS", "mean square", "F", "p"],
            ...anova.map((r) => [r.name, r.df, r.ss, r.sequentialSs, r.ms, r.f, r.p]),
          ]}
        />,
        <table className={css.table}>
          <thead>
            <tr>
              <th>Source</th>
              <th>df</th>
              <th>sum of squares</th>
              <th>mean square</th>
              <th>F</th>
              <th>p</th>
            </tr>
          </thead>
          <tbody>
            {anova.map((r) => (
              <tr key={r.source + r.name}>
                <td
                  style={{
                    paddingLeft: r.source === "term" || r.source === "lack-of-fit" || r.source === "pure-error" || r.source === "curvature" ? 20 : 8,
                  }}
                >
                  {r.name}
                </td>
                <td>{r.df}</td>
                <td title={String(r.ss)}>{figure(r.ss, 4)}</td>
                <td title={String(r.ms ?? "")}>{r.ms === null ? "" : figure(r.ms, 4)}</td>
                <td title={String(r.f ?? "")}>{r.f === null ? "" : r.f < 1000 ? r.f.toFixed(2) : figure(r.f, 4)}</td>
                <td title={String(r.p ?? "")}>{pText(r.p)}</td>
              </tr>
            ))}
          </tbody>
        </table>,
      )}
      {fit.lackOfFit?.approximate && (
        <p className="small quiet">Pure error is approximate: some repeats ran at settings that differ within a step.</p>
      )}
      {fit.absent.map((a) => (
        <p key={a.figure} className="small bracken" style={{ marginTop: 6 }}>
          No {a.figure}: {a.reason}
        </p>
      ))}
    </div>
  );
}

/** The equation in coded and in natural units. */
export function EquationView({ study, fitted }: ViewProps) {
  const equation = useMemo(() => equationOf(study, fitted.fit), [study, fitted]);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const left =
    fitted.fit.transform === "none"
      ? (response?.name ?? "")
      : `${typeof fitted.fit.transform === "string" ? fitted.fit.transform : "power"}(${response?.name})`;
  return (
    <div>
      <div className="row">
        <h2 className="grow">Coded units, −1 at low and +1 at high</h2>
        <CopyRows what="Equation" rows={[[`${left} = ${equation.coded}`]]} />
      </div>
      <div className={css.equation}>
        {left} = {equation.coded}
      </div>
      {equation.natural.map((n) => (
        <div key={JSON.stringify(n.when)}>
          <div className="row">
            <h2 className="grow">
              Natural units
              {n.when
                ? ` · ${Object.entries(n.when)
                    .map(([id, l]) => `${study.factors.find((f) => f.id === id)?.name} ${l}`)
                    .join(", ")}`
                : ""}
            </h2>
            <CopyRows what="Coefficients at full precision" rows={n.coefficients.map((c) => [termName(alphabetOf(study), c.term), c.coefficient])} />
          </div>
          <div className={css.equation}>
            {left} = {n.text}
          </div>
        </div>
      ))}
      {equation.note && <p className="quiet">{equation.note}</p>}
      <p className="small quiet">Waves stand at their average. “copy” takes every coefficient at full precision.</p>
    </div>
  );
}
