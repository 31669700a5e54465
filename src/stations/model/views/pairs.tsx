"use client";
import { useMemo, useState } from "react";
import type { Rung } from "@/core/model";
import type { Fitted } from "@/core/questions";
import {
  activeFactors,
  alphabetOf,
  decode,
  type Factor,
  isNumeric,
  rangeOf,
  type Study,
  significance,
  termKey,
  termLetters,
  valueUnit,
} from "@/core/study";
import { linear } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Line } from "@/ui/charts/marks/line";
import { useDesk } from "@/ui/desk/store";
import { axisName, clip, figure, settingText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { colours } from "@/ui/theme/theme";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const STROKES = ["warning", "accent", "info"] as const;

const W = 160;
const H = 96;
const LINE = 11;

/** Where a factor begins and ends, under a small picture. */
function Ends({ factor, y, right }: { factor: Factor; y: number; right: number }) {
  const [first, last] = isNumeric(factor)
    ? [settingText(rangeOf(factor)[0]), `${settingText(rangeOf(factor)[1])} ${factor.unit ?? ""}`]
    : [clip(factor.levels[0], 8), clip(factor.levels[factor.levels.length - 1], 9)];
  return (
    <>
      <text x="4" y={y} fontSize="10" className="tick" fill={colours.quiet}>
        {first}
      </text>
      <text x={right} y={y} fontSize="10" textAnchor="end" className="tick" fill={colours.quiet}>
        {last}
      </text>
    </>
  );
}

/** What these trials cannot tell a term from. */
function Chain({ study, rung }: { study: Study; rung: Rung }) {
  if (rung.aliases.length === 0) return null;
  const alphabet = alphabetOf(study);
  const names = rung.aliases.map((t) => termLetters(alphabet, t));
  return (
    <div className="small warning num" style={{ fontSize: 11 }}>
      = {names.slice(0, 3).join(" = ")}
      {names.length > 3 ? " = …" : ""}
    </div>
  );
}

/** Heights of labels beside the ends of lines, pushed apart where lines meet and kept in the frame. */
function spread(wanted: readonly number[]): number[] {
  const order = wanted
    .map((v, i) => ({ i, v: Math.max(8, Math.min(H - 18, v)) }))
    .sort((p, q) => p.v - q.v || p.i - q.i);
  order.forEach((o, n) => {
    if (n > 0) o.v = Math.max(o.v, order[n - 1].v + LINE);
  });
  // What was pushed out below comes back up, taking those above along.
  let floor = H - 18;
  for (const o of [...order].reverse()) {
    o.v = Math.min(o.v, floor);
    floor = o.v - LINE;
  }
  const out = new Array<number>(wanted.length);
  for (const o of order) out[o.i] = o.v;
  return out;
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
  const ends: (number | string)[] = isNumeric(b) ? rangeOf(b) : b.levels.slice(0, 3);
  const along: { at: number; v: number | string }[] = isNumeric(a)
    ? Array.from({ length: 13 }, (_, i) => ({ at: i / 12, v: decode(a, -1 + i / 6) }))
    : a.levels.map((l, i) => ({ at: i / (a.levels.length - 1), v: l }));
  const x = linear([0, 1], [4, W - 42]);
  const y = linear([low, high], [H - 16, 6]);
  const lines = ends.map((e) => ({
    e,
    points: along.map((p) => ({ x: x(p.at), y: y(fitted.predictor.value({ ...probe, [b.id]: e, [a.id]: p.v })) })),
  }));
  const labelAt = spread(lines.map((l) => l.points[l.points.length - 1].y + 4));
  const active = rung?.inModel === true && rung.p !== null && rung.p < significance(study);
  return (
    <div
      className={css.pair}
      data-active={active || mark ? "yes" : "no"}
      style={mark ? { boxShadow: `0 0 0 2px ${colours.highlight}` } : undefined}
    >
      <h3 title={`${a.name} × ${b.name}`}>
        {a.letter} × {b.letter} <span style={{ fontWeight: 400 }}>{clip(a.name, 16)}</span>
      </h3>
      <svg
        width="100%"
        viewBox={`0 0 ${W} ${H}`}
        role="img"
        aria-label={`${a.name} at ${b.name} ${ends.join(" and ")}`}
      >
        {lines.map(({ e, points }, i) => (
          <g key={String(e)}>
            <Line through={points.map((p) => [p.x, p.y])} colour={STROKES[i]} dashed={i === 0} />
            <Label at={[W - 39, labelAt[i]]} size={10} colour={STROKES[i]}>
              {clip(`${b.letter} ${settingText(e)}`, 8)}
            </Label>
          </g>
        ))}
        <Ends factor={a} y={H - 3} right={W - 42} />
      </svg>
      {rung && <Chain study={study} rung={rung} />}
    </div>
  );
}

/** One main effect along its factor, others at the probe; drawn quiet where an active interaction takes part in it. */
function Main({
  study,
  fitted,
  f,
  low,
  high,
  rung,
  with: partners,
}: {
  study: Study;
  fitted: Fitted;
  f: Factor;
  low: number;
  high: number;
  rung: Rung;
  with: readonly string[];
}) {
  const probe = useDesk((d) => d.probe);
  const height = 66;
  const x = linear([0, 1], [4, W - 8]);
  const y = linear([low, high], [height - 16, 5]);
  const along: { at: number; v: number | string }[] = isNumeric(f)
    ? Array.from({ length: 13 }, (_, i) => ({ at: i / 12, v: decode(f, -1 + i / 6) }))
    : f.levels.map((l, i) => ({ at: i / (f.levels.length - 1), v: l }));
  const points = along.map((p) => ({ x: x(p.at), y: y(fitted.predictor.value({ ...probe, [f.id]: p.v })) }));
  const active = rung.p !== null && rung.p < significance(study);
  const quiet = partners.length > 0;
  return (
    <div
      className={css.pair}
      data-active={active && !quiet ? "yes" : "no"}
      style={quiet ? { background: "none" } : undefined}
    >
      <h3 title={f.name}>
        {f.letter} <span style={{ fontWeight: 400 }}>{clip(f.name, 20)}</span>
      </h3>
      <svg
        width="100%"
        viewBox={`0 0 ${W} ${height}`}
        role="img"
        aria-label={`Main effect of ${f.name}`}
        opacity={quiet ? 0.4 : 1}
      >
        <Line through={points.map((p) => [p.x, p.y])} />
        {!isNumeric(f) && points.map((p) => <Dot key={p.x} at={[p.x, p.y]} r={3} />)}
        <Ends factor={f} y={height - 3} right={W - 8} />
      </svg>
      {quiet && <div className="small">depends on {partners.join(", ")}: read the pair</div>}
      <Chain study={study} rung={rung} />
    </div>
  );
}

/**
 * All pairs as small multiples on one scale, those in the model first; a main effect with an active interaction is
 * read here.
 */
export function PairsView({ study, fitted, marked }: ViewProps & { marked: string | undefined }) {
  const probe = useDesk((d) => d.probe);
  const [all, setAll] = useState(false);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const factors = activeFactors(study);
  const rungs = new Map(fitted.ladder.rungs.map((r) => [r.key, r]));
  const pairs = factors.flatMap((a, i) =>
    factors.slice(i + 1).map((b) => ({ a, b, rung: rungs.get(termKey([a.id, b.id])) })),
  );
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
            (isNumeric(g) ? rangeOf(g) : g.levels).map((v) =>
              fitted.predictor.value({ ...probe, [f.id]: u, [g.id]: v }),
            ),
          ),
        ),
    );
    return [Math.min(...values), Math.max(...values)];
  }, [factors, fitted, probe]);
  const alpha = significance(study);
  const mains = fitted.ladder.rungs.filter((r) => r.term.length === 1 && r.inModel);
  const entangled = mains.filter((m) =>
    fitted.ladder.rungs.some(
      (r) =>
        r.term.length === 2 &&
        r.term[0] !== r.term[1] &&
        r.inModel &&
        r.p !== null &&
        r.p < alpha &&
        r.term.includes(m.term[0]),
    ),
  );
  if (factors.length < 2) return <p className="quiet">Pairs need two factors.</p>;
  return (
    <div>
      <div className="row small" style={{ marginBottom: 6 }}>
        <span className="quiet grow">
          {axisName(response?.name ?? "", response && valueUnit(response))}, {figure(span[0], 3)} to{" "}
          {figure(span[1], 3)} in every frame; others at the probe.
        </span>
        <LinkButton onClick={() => setAll(!all)}>{all ? "the strongest only" : `all ${pairs.length} pairs`}</LinkButton>
      </div>
      {entangled.length > 0 && (
        <p className="small" style={{ marginBottom: 6 }}>
          Do not read {entangled.map((m) => m.name).join(", ")} alone: an active interaction says{" "}
          {entangled.length === 1 ? "its" : "their"} effect depends on another factor.
        </p>
      )}
      <div className={css.pairs} style={{ marginBottom: 12 }}>
        {mains.map((m) => {
          const f = factors.find((q) => q.id === m.term[0]);
          const partners = fitted.ladder.rungs
            .filter(
              (r) =>
                r.term.length === 2 &&
                r.term[0] !== r.term[1] &&
                r.inModel &&
                r.p !== null &&
                r.p < alpha &&
                r.term.includes(m.term[0]),
            )
            .map((r) => factors.find((q) => q.id === r.term.find((id) => id !== m.term[0]))?.name ?? "");
          return f ? (
            <Main
              key={m.key}
              study={study}
              fitted={fitted}
              f={f}
              low={span[0]}
              high={span[1]}
              rung={m}
              with={partners}
            />
          ) : null;
        })}
      </div>
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
