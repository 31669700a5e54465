"use client";
import { bin } from "d3-array";
import { counted } from "@/core/findings";
import { limitsOf, type Verdict } from "@/core/setpoint";
import { measuredValues, type Response, type Trial } from "@/core/study";
import { AxisX, linear } from "@/ui/charts/marks/axis";
import { Band } from "@/ui/charts/marks/band";
import { Across, Down } from "@/ui/charts/marks/rule";
import { CopyRows } from "@/ui/parts/copy-rows";
import { axisName, figure, percent, rounded } from "@/ui/parts/format";
import type { Colour } from "@/ui/theme/theme";
import css from "./setpoint.module.css";

const BOX = { left: 14, top: 10, width: 620, height: 92 };
const HEIGHT = BOX.top + BOX.height + 40;

const minmax = (values: readonly number[]): [number, number] =>
  values.reduce<[number, number]>(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [values[0], values[0]]);

/** Units as bars over their values, with the limits and the mean. */
function Picture({ values, response, mean }: { values: readonly number[]; response: Response; mean: number }) {
  const { low, high } = limitsOf(response.goal);
  const ends = [...minmax(values), low, high].filter(Number.isFinite);
  const [from, to] = [Math.min(...ends), Math.max(...ends)];
  const margin = 0.04 * (to - from || 1);
  const scale = linear([from - margin, to + margin], [BOX.left, BOX.left + BOX.width]);
  const bars = bin()
    .domain(scale.domain() as [number, number])
    .thresholds(scale.ticks(28))([...values]);
  const most = bars.reduce((m, b) => Math.max(m, b.length), 1);
  const bottom = BOX.top + BOX.height;
  const line = (at: number, text: string, colour: Colour, dashed: boolean) =>
    Number.isFinite(at) && (
      <g key={text}>
        <Down box={BOX} at={scale(at)} colour={colour} width={dashed ? 1.5 : 2} dashed={dashed && "5 3"} />
        <title>{`${text} ${at}`}</title>
      </g>
    );
  return (
    <svg
      width={BOX.width + 2 * BOX.left}
      height={HEIGHT}
      role="img"
      aria-label={`${counted(values.length, "unit")} of ${response.name} by their values, with limits and mean`}
    >
      {bars.map((b) => {
        const { x0 = 0, x1 = 0 } = b;
        const tall = (b.length / most) * (BOX.height - 6);
        const out = x1 <= low || x0 >= high;
        return (
          <Band
            key={x0}
            x={scale(x0) + 0.5}
            width={scale(x1) - scale(x0) - 1}
            y={bottom - tall}
            height={tall}
            colour={out ? "warning" : "accent"}
            opacity={0.75}
            title={`${b.length} from ${x0} to ${x1}`}
          />
        );
      })}
      <Across box={BOX} at={bottom} />
      {line(low, "limit", "success", false)}
      {line(high, "limit", "success", false)}
      {line(mean, "mean", "ink", true)}
      <AxisX scale={scale} box={BOX} name={axisName(response.name, response.unit)} />
    </svg>
  );
}

const two = (v: number): string => v.toFixed(2).replace("-", "−");
const range = (i: readonly [number, number] | null): string => (i ? ` (${two(i[0])} to ${two(i[1])})` : "");

/** What units of a confirmation say of the process: spread, capability, how the limits hold them. */
export function Pieces({
  verdict,
  response,
  trials,
}: {
  verdict: Verdict;
  response: Response;
  trials: readonly Trial[];
}) {
  const u = verdict.units;
  if (!u) return null;
  const values = trials.flatMap((t) => measuredValues(t.results[response.id], response));
  const share = (v: number | null): string => (v === null ? "–" : v > 0 && v < 0.001 ? "under 0.1 %" : percent(v));
  const rows: [string, string][] = [
    ["mean", `${rounded(u.mean, u.s / Math.sqrt(u.n))} ${response.unit ?? ""}`],
    ["σ of one unit", `${figure(u.s, 3)} ${response.unit ?? ""}`],
    ...(u.pp === null ? [] : [["Pp", `${two(u.pp)}${range(u.ppInterval)}`] as [string, string]]),
    ...(u.ppk === null ? [] : [["Ppk", `${two(u.ppk)}${range(u.ppkInterval)}`] as [string, string]]),
    ...(u.outside.counted === null
      ? []
      : [
          ["outside the limits", `${share(u.outside.counted)} counted, ${share(u.outside.normal)} by a normal`] as [
            string,
            string,
          ],
        ]),
    ...(u.spreadAgrees === null
      ? []
      : [
          [
            "spread within trials",
            u.spreadAgrees ? "as in the trials before" : `not as in the trials before (p ${figure(u.spreadP ?? 0, 2)})`,
          ] as [string, string],
        ]),
  ];
  return (
    <section aria-label={`Units of ${response.name}`} className={css.units}>
      <div>
        <div className="row">
          <h3 className="grow">
            {response.name}: {counted(u.n, "unit")} of {counted(u.trials, "trial")}
          </h3>
          <CopyRows
            what={`Units of ${response.name}`}
            rows={[
              ["figure", "value"],
              ["n", u.n],
              ["mean", u.mean],
              ["s of one unit", u.s],
              ["Pp", u.pp],
              ["Ppk", u.ppk],
              ["Ppk from", u.ppkInterval?.[0]],
              ["Ppk to", u.ppkInterval?.[1]],
              ["share outside, counted", u.outside.counted],
              ["share outside, normal", u.outside.normal],
            ]}
          />
        </div>
        <dl>
          {rows.map(([what, text]) => (
            <div key={what}>
              <dt className="quiet">{what}</dt>
              <dd className={what === "spread within trials" && u.spreadAgrees === false ? "warning" : "num"}>
                {text}
              </dd>
            </div>
          ))}
        </dl>
        {u.withinOnly && (
          <p className="small warning">
            All units come from one trial: what trials vary by from one to the next is not in these figures.
          </p>
        )}
      </div>
      <Picture values={values} response={response} mean={u.mean} />
    </section>
  );
}
