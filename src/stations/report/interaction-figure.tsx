"use client";
import type { Rung } from "@/core/model";
import {
  decode,
  type Factor,
  isNumeric,
  rangeOf,
  type Setting,
  type Settings,
  type Study,
  valueUnit,
} from "@/core/study";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Label } from "@/ui/charts/marks/label";
import { Line } from "@/ui/charts/marks/line";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { axisName, clip, settingText } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";

const WIDTH = 330;
const HEIGHT = 210;
const BOX: Box = { left: 56, top: 10, width: WIDTH - 56 - 86, height: HEIGHT - 56 };
/** Interactions of a response that are drawn. */
const MOST = 2;
const STROKES = ["warning", "accent", "info"] as const;

/** Settings along a factor with where they stand from its one end (0) to the other (1). */
const alongOf = (f: Factor): { at: number; v: Setting }[] =>
  isNumeric(f)
    ? Array.from({ length: 13 }, (_, i) => ({ at: i / 12, v: decode(f, -1 + i / 6) }))
    : f.levels.map((l, i) => ({ at: i / (f.levels.length - 1), v: l }));

/** The response along one factor at the ends of the other, the rest as given. */
function Interaction({
  study,
  rung,
  response,
  at,
  value,
}: {
  study: Study;
  rung: Rung;
  response: { name: string; unit: string | undefined };
  at: Settings;
  value(settings: Settings): number;
}) {
  const [a, b] = rung.term.map((id) => study.factors.find((f) => f.id === id));
  if (!a || !b) return null;
  const ends: Setting[] = isNumeric(b) ? rangeOf(b) : b.levels.slice(0, 3);
  const along = alongOf(a);
  const lines = ends.map((e) => along.map(({ at: u, v }) => ({ u, y: value({ ...at, [a.id]: v, [b.id]: e }) })));
  const heights = lines.flat().map((p) => p.y);
  const x = linear([0, 1], [BOX.left, BOX.left + BOX.width]);
  const y = linear([Math.min(...heights), Math.max(...heights)], [BOX.top + BOX.height - 6, BOX.top + 6]);
  const first = isNumeric(a) ? settingText(rangeOf(a)[0]) : a.levels[0];
  const last = isNumeric(a) ? settingText(rangeOf(a)[1]) : a.levels[a.levels.length - 1];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      style={{ width: WIDTH, maxWidth: "100%" }}
      role="img"
      aria-label={`${response.name} along ${a.name} at ${ends.map((e) => `${b.name} ${e}`).join(" and ")}`}
    >
      <AxisX scale={x} box={BOX} name={axisName(a.name, a.unit)} ticks={[]} />
      <AxisY scale={y} box={BOX} name={axisName(response.name, response.unit)} count={4} grid offset={42} />
      {[first, last].map((text, i) => (
        <text
          key={i}
          x={x(i)}
          y={BOX.top + BOX.height + 16}
          textAnchor="middle"
          fontSize="11"
          className="tick"
          fill={colours.quiet}
        >
          {text}
        </text>
      ))}
      {lines.map((points, i) => (
        <g key={String(ends[i])}>
          <Line through={points.map((p) => [x(p.u), y(p.y)])} colour={STROKES[i]} dashed={i === 0 && "5 3"} />
          <Label at={[BOX.left + BOX.width + 6, y(points[points.length - 1].y) + 4]} size={11} colour={STROKES[i]}>
            {clip(`${b.letter} ${settingText(ends[i])}`, 13)}
          </Label>
        </g>
      ))}
    </svg>
  );
}

/** The clearest interactions of a response, each along one factor at the ends of the other. */
export function InteractionFigures({ response }: { response: string }) {
  const study = useDesk((d) => d.study);
  const probe = useDesk((d) => d.probe);
  const f = useStudyView().fitted(response);
  const about = study.responses.find((r) => r.id === response);
  if (!f.ok || !about) return null;
  const pairs = f.fitted.ladder.rungs
    .filter((r) => r.inModel && r.term.length === 2 && r.term[0] !== r.term[1])
    .sort((p, q) => (p.p ?? 1) - (q.p ?? 1))
    .slice(0, MOST);
  if (pairs.length === 0) return null;
  const at = { ...probe, ...study.setpoint?.settings };
  return (
    <figure style={{ margin: "8px 0" }}>
      <div style={{ display: "flex", flexWrap: "wrap", gap: 12 }}>
        {pairs.map((rung) => (
          <Interaction
            key={rung.key}
            study={study}
            rung={rung}
            response={{ name: about.name, unit: valueUnit(about) }}
            at={at}
            value={(s) => f.fitted.predictor.value(s)}
          />
        ))}
      </div>
      <figcaption className="small quiet">
        {pairs.map((r) => r.name).join(" and ")}: where the lines are not parallel, one factor changes what the other
        does. Others at the {study.setpoint ? "setpoint" : "probe"}.
      </figcaption>
    </figure>
  );
}
