// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { Segmented } from "antd";
import { type ReactNode, useState } from "react";
import { messageText } from "@/core/findings";
import { type ContrastSet, normalQuantile } from "@/core/model";
import type { Fitted } from "@/core/questions";
import { alphabetOf, type Response, termKey, termLetters, termName, valueUnit } from "@/core/study";
import { AxisX, AxisY, type Box, linear, placeLabels } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Label } from "@/ui/charts/marks/label";
import { Down, Rule } from "@/ui/charts/marks/rule";
import { axisName, figure } from "@/ui/parts/format";
import type { ViewProps } from "./view";

/** Points named below the margin. */
const NAMED_BELOW = 2;
/** Up to so many points, those in the model carry their names wherever they stand. */
const MOST_NAMED = 24;

/** Why a contrast past its margin has a quiet rung, or one within it a clear one: they are judged by other errors. */
function explain(
  fitted: ViewProps["fitted"],
  study: ViewProps["study"],
  { contrasts, margins }: ViewProps["fitted"]["contrasts"],
): string {
  if (!margins) return "";
  const alphabet = alphabetOf(study);
  const rungs = new Map(fitted.ladder.rungs.map((r) => [r.key, r]));
  const apart = contrasts.filter((c) => {
    const rung = c.chain.map((t) => rungs.get(termKey(t.term))).find((r) => r?.inModel) ?? rungs.get(termKey(c.term));
    if (!rung || rung.clarity === null) return false;
    return Math.abs(c.scaled) > margins.margin === (rung.clarity === "quiet");
  });
  if (apart.length === 0) return "";
  const names = apart.slice(0, 3).map((c) => termLetters(alphabet, c.term));
  return `${names.join(", ")}${apart.length > 3 ? " and others" : ""} ${apart.length === 1 ? "stands" : "stand"} otherwise on the ladder, which judges by what the present model leaves (s on ${fitted.fit.summary.residualDf} df), not by ${margins.from === "pure-error" ? "repeats alone" : "the small contrasts"}.`;
}

/** What contrasts are measured in; those of counts on a scale of one variance. */
const contrastName = ({ fit }: Fitted, response: Response | undefined): string =>
  fit.model.likelihood
    ? `${response?.name ?? ""} as ${fit.model.likelihood.stable?.of === "angle" ? "twice its angle, radians" : "twice its root"}`
    : axisName(response?.name ?? "", response && valueUnit(response));

type Stratum = "within" | "between";

/** Which contrasts are looked at where set-ups part them. */
const Choice = ({
  strata,
  value,
  choose,
}: {
  strata: Record<Stratum, ContrastSet>;
  value: Stratum;
  choose(stratum: Stratum): void;
}) => (
  <Segmented<Stratum>
    size="small"
    aria-label="Contrasts told within set-ups or between them"
    value={value}
    options={[
      { value: "within", label: `within set-ups · ${strata.within.contrasts.length}` },
      { value: "between", label: `between set-ups · ${strata.between.contrasts.length}` },
    ]}
    onChange={choose}
  />
);

/** Why there is no plot. */
const Nothing = ({ choice, why }: { choice: ReactNode; why: string | undefined }) => (
  <div>
    {choice}
    <p>No half-normal plot. {why}</p>
    <p className="small quiet">
      It needs orthogonal two-level contrasts. The ladder shows the same terms with their intervals.
    </p>
  </div>
);

/** Half-normal plot of all contrasts; tapping a point takes its term in or out. */
export function HalfNormalView({ study, fitted, toggle }: ViewProps & { toggle(key: string): void }) {
  const [stratum, setStratum] = useState<Stratum>("within");
  const { strata } = fitted.contrasts;
  const shown = strata?.[stratum] ?? fitted.contrasts;
  const { contrasts, margins, refusal } = shown;
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const alphabet = alphabetOf(study);
  const refused = refusal && messageText("remarks", refusal);
  const choice = strata && <Choice strata={strata} value={stratum} choose={setStratum} />;
  if (contrasts.length === 0) return <Nothing choice={choice} why={refused} />;
  const W = 338;
  const H = 430;
  const box: Box = { left: 50, top: 10, width: W - 74, height: H - 56 };
  const m = contrasts.length;
  const points = [...contrasts]
    .sort((a, b) => Math.abs(a.scaled) - Math.abs(b.scaled))
    .map((c, i) => ({ c, q: normalQuantile(0.5 + (0.5 * (i + 0.5)) / m), v: Math.abs(c.scaled) }));
  // The axis fits the points; a margin beyond them is told below.
  const most = Math.max(...points.map((p) => p.v));
  const x = linear([0, most * 1.12], [box.left, box.left + box.width]);
  const y = linear([0, points[m - 1].q * 1.08], [box.top + box.height, box.top]);
  const inside = new Set(fitted.fit.terms.map(termKey));
  const keyOf = (p: (typeof points)[number]): string =>
    termKey((p.c.chain.find((t) => inside.has(termKey(t.term))) ?? p.c.chain[0]).term);
  // Names where there is something to tell: past the margin, the next few below it, and what is in the model while
  // that is few.
  const quiet = points.filter((p) => p.v <= (margins?.margin ?? 0)).length;
  const large = points.filter((p, i) => i >= quiet - NAMED_BELOW || (m <= MOST_NAMED && inside.has(keyOf(p))));
  const chainText = (chain: (typeof contrasts)[number]["chain"]): string => {
    const names = chain.filter((t, k) => k === 0 || t.term.length <= 2).map((t) => termLetters(alphabet, t.term));
    return names.slice(0, 2).join(" = ") + (names.length > 2 ? " = …" : "");
  };
  const labels = placeLabels(
    large.map((p) => ({
      key: keyOf(p),
      x: x(p.v),
      y: y(p.q),
      text: chainText(p.c.chain),
    })),
    box,
    8,
  );
  const explained = explain(fitted, study, shown);
  return (
    <div>
      {choice}
      <svg width={W} height={H} role="group" aria-label={`Half-normal plot of ${m} contrasts`}>
        <AxisX scale={x} box={box} name={`size of contrast, ${contrastName(fitted, response)}`} grid />
        <AxisY scale={y} box={box} name="half-normal quantile" grid offset={36} />
        {margins &&
          [
            { v: margins.margin, name: "margin" },
            { v: margins.simultaneousMargin, name: "for all together" },
          ].flatMap((l) =>
            l.v > most * 1.12
              ? []
              : [
                  <g key={l.name}>
                    <Down box={box} at={x(l.v)} colour="warning" dashed />
                    <Label
                      at={[x(l.v) + 4, box.top + box.height - (l.name === "margin" ? 6 : 22)]}
                      size={11.5}
                      colour="limit"
                    >
                      {l.name}
                    </Label>
                  </g>,
                ],
          )}
        {margins && (
          <Rule
            from={[x(0), y(0)]}
            to={[
              x(Math.min(most * 1.12, margins.error * y.domain()[1])),
              y(Math.min(y.domain()[1], (most * 1.12) / margins.error)),
            ]}
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
            <Dot
              key={key}
              at={[x(p.v), y(p.q)]}
              r={5}
              colour={inside.has(key) ? "accent" : "paper"}
              outline={inside.has(key) ? "accent" : "beside"}
              on={inside.has(key)}
              label={`${name}: ${figure(p.c.effect, 3)}${inside.has(key) ? ", in the model" : ""}`}
              title={`${name}: ${figure(p.c.effect, 3)} ${fitted.fit.model.likelihood ? "" : (response?.unit ?? "")}`}
              press={() => toggle(key)}
            />
          );
        })}
        {labels.map((l) => (
          <Label key={l.key} at={[l.lx, l.ly]} anchor={l.anchor} className="num" halo>
            {l.text}
          </Label>
        ))}
      </svg>
      <p className="small quiet" style={{ maxWidth: W }}>
        {margins
          ? `${margins.from === "pure-error" ? `Margins from pure error on ${margins.df} degrees of freedom` : "Margins from the small contrasts (pseudo standard error, Lenth)"}: past ${figure(margins.margin)} a contrast is hard to put down to noise, past ${figure(margins.simultaneousMargin)} (“all at once”) harder still.`
          : refused}{" "}
        {explained} Tap a point to take its term in or out; filled points are in the model.
      </p>
    </div>
  );
}
