// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { costText } from "@/core/findings";
import { isFullyReset, type PlanSummary } from "@/core/plans";
import type { Prices } from "@/core/study";
import { AxisX, AxisY, type Box, linear, logarithmic, logTicks, placeLabels } from "@/ui/charts/marks/axis";
import { Band } from "@/ui/charts/marks/band";
import { Diamond, Dot, pressable, Target } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Line } from "@/ui/charts/marks/line";
import { Across, Rule } from "@/ui/charts/marks/rule";
import type { Spot } from "@/ui/charts/paths";
import { figure } from "@/ui/parts/format";
import type { Colour } from "@/ui/theme/theme";

const WIDTH = 960;

/** Begins the key of a label that is no plan's. */
const MORE = "more";

/** Where the letter of a picked plan may stand beside its point: above first. */
const LETTER_SIDES = [
  { dx: 0, dy: -22 },
  { dx: -20, dy: 0 },
  { dx: 0, dy: 22 },
  { dx: 20, dy: 0 },
];

/** A place on the chart. */
interface Place {
  cx: number;
  cy: number;
}

const spotOf = ({ cx, cy }: Place): Spot => [cx, cy];

/** A picked plan with more pieces of each trial. */
interface MorePieces {
  plan: string;
  times: number;
  /** What there is more of. */
  what: string;
  /** Trials that its pieces cost beside its trials. */
  extra: number;
  sees: number;
}

/** Below this line plans see all that is worth finding. */
const WorthFinding = ({ box, at, text }: { box: Box; at: number; text: string }) => (
  <g>
    <Band x={box.left} y={at} width={box.width} height={box.top + box.height - at} colour="success" opacity={0.09} />
    <Across box={box} at={at} colour="success" dashed />
    <Label at={[box.left + box.width + 6, at - 4]} colour="success">
      smallest change
    </Label>
    <Label at={[box.left + box.width + 6, at + 10]} colour="success">
      worth finding: {text}
    </Label>
  </g>
);

/** What a picked plan would see with more pieces of each trial. */
const MoreMark = ({ from, to }: { from: Place; to: Place }) => (
  <g pointerEvents="none">
    <Rule from={spotOf(from)} to={spotOf(to)} colour="info" dashed="2 3" />
    <Dot at={spotOf(to)} r={4} colour="paper" outline="info" />
  </g>
);

/** Trials, and the set-ups of those that keep hard factors set. */
const costOf = ({ n, cost, strata }: PlanSummary, prices: Prices): string =>
  `${n} trials${strata ? ` in ${strata.setups} set-ups` : ""}${cost === n ? "" : `, cost ${costText(prices, cost)}`}`;

/** What stands under the chart: trials, or a cost with what it is made of. */
function costAxis(prices: Prices, setups: boolean): string {
  const { unit, trial, setup, piece, wave } = prices;
  const parts = [
    ["a trial", trial],
    ["a set-up", setups ? setup : 0],
    ["a piece", piece],
    ["a wave", wave],
  ].flatMap(([name, price]) => (price === 0 ? [] : [`${name} ${figure(Number(price))}`]));
  if (unit === undefined && parts.length === 1) return "trials, centre points included";
  return `cost in ${unit === undefined ? "trials" : unit || "your unit"}: ${parts.join(", ")}`;
}

/** Filled where a plan tells all that is asked, dashed where it has no error of its own. */
const drawn = (s: PlanSummary) =>
  ({
    colour: s.tellsAll ? "accent" : "paper",
    outline: s.tellsAll ? "accent" : "beside",
    outlineWidth: 2,
    ...(s.noErrorDf ? { dashed: "3 2" } : {}),
  }) as const;

/** A plan that can be picked: filled where it tells all that is asked, ringed and lettered where it is picked. */
const PlanMark = ({
  plan: s,
  at,
  sees,
  letter,
  costs,
  pick,
}: {
  plan: PlanSummary;
  at: Place;
  /** Its trials and what they cost. */
  costs: string;
  sees: string;
  /** Of a picked plan, and where it stands. */
  letter: { letter: string; at: Place } | undefined;
  pick(): void;
}) => (
  <g
    {...pressable(
      `${s.label}: ${costs}, sees ${sees}${s.tellsAll ? ", tells all that is asked" : ", leaves some of it shared or lost"}${s.noErrorDf ? ", no degrees of freedom for error" : ""}`,
      pick,
      letter !== undefined,
    )}
    data-plan={s.id}
  >
    <title>{`${s.label}: ${costs}, sees ${sees}`}</title>
    <Target at={spotOf(at)} r={13} ring={letter && "info"} />
    {s.strata && isFullyReset(s.strata) ? (
      <Diamond at={spotOf(at)} {...drawn(s)} />
    ) : (
      <Dot at={spotOf(at)} r={6} {...drawn(s)} />
    )}
    {letter && (
      <Label at={[letter.at.cx, letter.at.cy + 5]} anchor="middle" size={14} bold serif colour="info">
        {letter.letter}
      </Label>
    )}
  </g>
);

/** Trials across, the smallest effect a plan would see upwards; the frontier joined, picked plans ringed. */
export function CostChart({
  summaries,
  picked,
  pick,
  unit,
  noise,
  wanted,
  name,
  pieces = [],
  prices,
  setups = false,
  height,
}: {
  summaries: readonly PlanSummary[];
  picked: readonly string[];
  pick(id: string): void;
  unit: string;
  noise: number;
  wanted: number | undefined;
  name: string;
  /** What picked plans would see with more pieces of each trial, and what that costs. */
  pieces?: readonly MorePieces[];
  prices: Prices;
  /** Plans are made in set-ups of hard factors. */
  setups?: boolean;
  height: number;
}) {
  const shown = summaries.filter((s) => s.ratio !== null);
  const box: Box = { left: 62, top: 10, width: WIDTH - 62 - 150, height: height - 52 };
  const value = (s: PlanSummary): number => (s.ratio ?? 0) * noise;
  const most = Math.max(...shown.map(value), wanted ?? 0);
  const least = Math.min(...shown.map(value), ...pieces.map((p) => p.sees), wanted ?? Number.POSITIVE_INFINITY);
  const costs = shown.map((s) => s.cost);
  const margin =
    4 * (prices.unit === undefined ? 1 : prices.trial || (Math.max(...costs) - Math.min(...costs)) / 20 || 1);
  const x = linear(
    [Math.max(0, Math.min(...costs) - margin), Math.max(...costs) + margin],
    [box.left, box.left + box.width],
  );
  // Logarithmic: twice as sharp is the same step everywhere, and one blunt plan does not flatten the rest.
  const y = logarithmic([(least || 1) / 1.35, (most || 1) * 1.25], [box.top + box.height, box.top]);
  const frontier = shown.filter((s) => s.onFrontier);
  // Plans that fall on one spot stand around it, tied to it, so that each can be picked: the frontier's on it, others
  // never where they would look sharper than they are.
  const around = [0, 1, -1, 2, -2]
    .flatMap((i) => [0, -1, -2].map((j) => ({ dx: 15 * i, dy: 15 * j })))
    .sort((a, b) => Math.hypot(a.dx, a.dy) - Math.hypot(b.dx, b.dy));
  const spots = new Map<string, Place>();
  const real = (s: PlanSummary): Place => ({ cx: x(s.cost), cy: y(value(s)) });
  for (const s of [...frontier, ...shown.filter((p) => !p.onFrontier)]) {
    const taken = [...spots.values()];
    const places = around.map(({ dx, dy }) => ({ cx: real(s).cx + dx, cy: real(s).cy + dy }));
    spots.set(s.id, places.find((q) => taken.every((t) => Math.hypot(t.cx - q.cx, t.cy - q.cy) >= 14)) ?? places[0]);
  }
  const spot = (s: PlanSummary): Place => spots.get(s.id) ?? real(s);
  // The letter of a picked plan stands above its point, or where no other plan does: no label goes there.
  const letterOf = (p: PlanSummary): Place => {
    const own = spot(p);
    const sides = LETTER_SIDES.map(({ dx, dy }) => ({ cx: own.cx + dx, cy: own.cy + dy }));
    const free = (q: Place): boolean =>
      q.cy > box.top && shown.every((o) => o === p || Math.hypot(spot(o).cx - q.cx, spot(o).cy - q.cy) > 14);
    return sides.find(free) ?? sides[0];
  };
  const lettered = shown
    .filter((p) => picked.includes(p.id))
    .map((p) => ({ id: p.id, at: letterOf(p), letter: String.fromCharCode(97 + picked.indexOf(p.id)) }));
  const more = pieces.flatMap((p) => {
    const own = shown.find((s) => s.id === p.plan);
    if (!own) return [];
    const to = { cx: Math.min(box.left + box.width, x(own.cost + p.extra)), cy: y(p.sees) };
    return [{ key: `${MORE} ${p.plan} ${p.times}`, from: spot(own), to, text: `× ${p.times} ${p.what}` }];
  });
  const labels = placeLabels(
    [
      ...more.map(({ key, to, text }) => ({ key, x: to.cx, y: to.cy, text })),
      ...shown.map((p) => ({ key: p.id, x: spot(p).cx, y: spot(p).cy, text: p.label })),
    ],
    box,
    16,
    lettered.map(({ at: { cx, cy } }) => ({ x0: cx - 8, x1: cx + 8, y0: cy - 8, y1: cy + 8 })),
  );
  const inkOf = (key: string): Colour => (key.startsWith(MORE) ? "info" : picked.includes(key) ? "ink" : "beside");
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="group"
      aria-label={`Plans: trials against the smallest ${name} they would see`}
    >
      {wanted !== undefined && <WorthFinding box={box} at={y(wanted)} text={`${figure(wanted)} ${unit}`} />}
      <AxisX scale={x} box={box} name={costAxis(prices, setups)} grid />
      <AxisY scale={y} box={box} name={name} grid offset={46} ticks={logTicks(y.domain())} text={(v) => figure(v)} />
      {frontier.length > 1 && <Line through={frontier.map((s) => [x(s.cost), y(value(s))])} width={1.5} />}
      {more.map(({ key, from, to }) => (
        <MoreMark key={key} from={from} to={to} />
      ))}
      {labels.map((l) => (
        <g key={l.key} pointerEvents="none">
          {l.leader && <Rule from={[l.x, l.y]} to={[l.lx, l.ly - 4]} width={0.8} />}
          <Label
            at={[l.lx, l.ly]}
            anchor={l.anchor}
            size={12.5}
            colour={inkOf(l.key)}
            bold={picked.includes(l.key)}
            halo
          >
            {l.text}
          </Label>
        </g>
      ))}
      {shown.map((s) => {
        const [at, truly] = [spot(s), real(s)];
        if (at.cx === truly.cx && at.cy === truly.cy) return null;
        return (
          <g key={s.id} pointerEvents="none">
            <Rule from={spotOf(at)} to={spotOf(truly)} colour="accent" />
            <Dot at={spotOf(truly)} r={1.5} />
          </g>
        );
      })}
      {shown.map((s) => (
        <PlanMark
          key={s.id}
          plan={s}
          at={spot(s)}
          costs={costOf(s, prices)}
          sees={`${figure(value(s), 3)} ${unit}`}
          letter={lettered.find((l) => l.id === s.id)}
          pick={() => pick(s.id)}
        />
      ))}
    </svg>
  );
}
