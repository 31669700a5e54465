"use client";
import { useMemo, useState } from "react";
import { activeFactors, isNumeric, type NumericFactor, rangeOf, valueUnit } from "@/core/study";
import { limitLines } from "@/ui/charts/limit-lines";
import { SurfaceMap } from "@/ui/charts/surface-map";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { AxisPick } from "@/ui/parts/axis-pick";
import { axisName, figure, settingText } from "@/ui/parts/format";
import { useSize } from "@/ui/parts/use-size";
import type { ViewProps } from "./view";

/** Places along an edge at which a limit is looked at to say that it is kept everywhere. */
const GRID = Array.from({ length: 13 }, (_, i) => i / 12);

/** Every response's limits over two factors at once: one labelled line each, hatched where it is broken. */
export function LimitsView({ study, fitted }: ViewProps) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const figures = useStudyView();
  const numeric = activeFactors(study).filter((f): f is NumericFactor => isNumeric(f));
  const [axes, setAxes] = useState<{ x?: string; y?: string }>({});
  const [frame, size] = useSize<HTMLDivElement>({ width: 380, height: 540 });
  // Fits are kept by the study's view: they are the same while nothing about them changed.
  const read = study.responses.flatMap((response) => {
    const found = figures.fitted(response.id);
    return found.ok ? [{ response, predictor: found.fitted.predictor }] : [];
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the predictors say what the lines rest on.
  const limits = useMemo(
    () => read.flatMap((r) => limitLines(r.response, r.predictor)),
    [study.responses, ...read.map((r) => r.predictor)],
  );
  const inTerms = numeric.filter((f) => fitted.fit.terms.some((t) => t.includes(f.id)));
  const usual = [...inTerms, ...numeric];
  const x = numeric.find((f) => f.id === axes.x) ?? usual[0];
  const y = numeric.find((f) => f.id === axes.y && f.id !== x?.id) ?? usual.find((f) => f.id !== x?.id);
  const about = study.responses.find((r) => r.id === fitted.fit.response);
  if (!x || !y) return <p className="quiet">Limits over two factors need two numeric factors.</p>;
  if (limits.length === 0)
    return (
      <p className="quiet">
        No response has limits yet: give its goal two limits on Question, and each stands here as a line.
      </p>
    );
  const unmodelled = study.responses.filter(
    (r) => r.goal.aim !== "watch" && !read.some(({ response }) => response.id === r.id),
  );
  // Limits that have no line here.
  const kept = limits.filter((l) => {
    const over = l.inside(probe, x.id, y.id);
    const [[xl, xh], [yl, yh]] = [rangeOf(x), rangeOf(y)];
    return GRID.every((u) => GRID.every((v) => over(xl + u * (xh - xl), yl + v * (yh - yl)) >= 0));
  });
  const broken = limits.filter((l) => l.inside(probe, x.id, y.id)(probe[x.id] as number, probe[y.id] as number) < 0);
  const others = activeFactors(study).filter((f) => f.id !== x.id && f.id !== y.id);
  return (
    <div ref={frame} style={{ height: "100%" }}>
      <div className="row" style={{ flexWrap: "wrap", gap: 6 }}>
        <AxisPick factors={numeric} x={x.id} y={y.id} pick={(next) => setAxes({ ...axes, ...next })} />
      </div>
      <SurfaceMap
        study={study}
        x={x}
        y={y}
        probe={probe}
        setProbe={setProbe}
        value={fitted.predictor.plane}
        text={(v) => figure(v, 3)}
        name={`Limits of ${limits.length === 1 ? "one response" : "all responses"}`}
        limits={limits}
        width={Math.max(260, Math.min(680, size.width))}
        height={Math.max(260, Math.min(600, size.height - 120))}
      />
      <p className="small" data-testid="limits-at-probe">
        {broken.length === 0 ? (
          <span className="success">At the probe every limit is kept.</span>
        ) : (
          <span className="warning">At the probe not kept: {broken.map((l) => l.text).join(", ")}.</span>
        )}
      </p>
      <p className="small quiet">
        Shades: {axisName(about?.name ?? "", about && valueUnit(about))}. Hatched: where the limit written on the line
        is broken.
        {others.length > 0 &&
          ` Others stand at the probe: ${others
            .slice(0, 4)
            .map((f) => `${f.name} ${settingText(probe[f.id])}`)
            .join(", ")}.`}
        {kept.length > 0 && ` Kept all over this map: ${kept.map((l) => l.text).join(", ")}.`}
        {unmodelled.length > 0 && ` Without a model: ${unmodelled.map((r) => r.name).join(", ")}.`}
      </p>
    </div>
  );
}
