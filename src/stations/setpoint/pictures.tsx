"use client";
import { useMemo, useState } from "react";
import type { SearchResult, SetpointProblem } from "@/core/setpoint";
import { activeFactors, isNumeric, type NumericFactor, rangeOf, type Study } from "@/core/study";
import { SlicePick, Slices } from "@/ui/charts/slices";
import { type OverPlane, SurfaceMap } from "@/ui/charts/surface-map";
import { useDesk } from "@/ui/desk/store";
import { AxisPick } from "@/ui/parts/axis-pick";
import { Pick } from "@/ui/parts/pick";
import { useSize } from "@/ui/parts/use-size";
import { ThreeAtOnce } from "./three";
import { Trade } from "./trade";
import { useDesirabilityFields } from "./use-desirability-fields";

/** Overall desirability over two factors, over slices of a third, with a third at its best, or what is traded off. */
export function Pictures({
  study,
  wishes: problem,
  result,
  stale,
  opened,
}: {
  study: Study;
  wishes: SetpointProblem;
  result: SearchResult | undefined;
  /** Something changed since the search: its candidates are not shown. */
  stale: boolean;
  /** The page stands: what takes time to draw may begin. */
  opened: boolean;
}) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const [axes, setAxes] = useState<{ x?: string; y?: string; third?: string }>({});
  const [picture, setPicture] = useState<"map" | "slices" | "three" | "trade">("map");
  const [frame, size] = useSize<HTMLDivElement>({ width: 440, height: 400 });
  const numeric = activeFactors(study).filter((f): f is NumericFactor => isNumeric(f));
  // The two factors that move overall desirability most from here make the first map.
  // The choice of axes follows results, not every move of the probe.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const movers = useMemo(() => {
    const shownAt = result?.settable.settings ?? probe;
    const swing = (f: NumericFactor): number => {
      const d = [0, 0.25, 0.5, 0.75, 1].map((u) =>
        problem.overall({ ...shownAt, [f.id]: rangeOf(f)[0] + u * (rangeOf(f)[1] - rangeOf(f)[0]) }),
      );
      return Math.max(...d) - Math.min(...d);
    };
    return [...numeric].sort((a, b) => swing(b) - swing(a)).map((f) => f.id);
  }, [problem, result]);
  const x = numeric.find((f) => f.id === (axes.x ?? movers[0]));
  const y =
    numeric.find((f) => f.id === axes.y && f.id !== x?.id) ??
    numeric.find((f) => f.id === movers.find((m) => m !== x?.id));
  const third =
    activeFactors(study).find((f) => f.id === axes.third && f.id !== x?.id && f.id !== y?.id) ??
    activeFactors(study).find((f) => !isNumeric(f)) ??
    numeric.find((f) => f.id === movers.find((m) => m !== x?.id && m !== y?.id));
  const { overall, meets, common, limits, inRegion } = useDesirabilityFields(study, problem);
  const room = { width: Math.max(280, Math.min(620, size.width)), height: 372 };
  /** What the map and its slices have in common. */
  const drawn = (across: NumericFactor, up: NumericFactor, value: OverPlane) => ({
    study,
    x: across,
    y: up,
    probe,
    setProbe,
    value,
    inLimits: common,
    common: true,
    ...(inRegion ? { allowed: inRegion } : {}),
    text: (v: number) => v.toFixed(2).replace(/0$/, ""),
    name: "Overall desirability",
  });
  return (
    <div data-testid="desirability-map" ref={frame}>
      {!opened ? null : x && y ? (
        <>
          <div className="row" style={{ flexWrap: "wrap" }}>
            <Pick
              label="Picture"
              value={picture}
              options={[
                ["map", "map"],
                ["slices", "slices over a third"],
                ["three", "three at once"],
                ["trade", "trade-off"],
              ]}
              set={setPicture}
            />
            {picture !== "trade" && (
              <AxisPick factors={numeric} x={x.id} y={y.id} pick={(a) => setAxes({ ...axes, ...a })} />
            )}
            {(picture === "slices" || picture === "three") && third && (
              <span className="row small">
                <span className="quiet">{picture === "slices" ? "at each of" : "with the best"}</span>
                <SlicePick
                  study={study}
                  x={x.id}
                  y={y.id}
                  third={third}
                  pick={(id) => setAxes({ ...axes, third: id })}
                />
              </span>
            )}
          </div>
          {picture === "trade" ? (
            <Trade study={study} wishes={problem} candidates={stale ? [] : (result?.candidates ?? [])} {...room} />
          ) : picture === "three" && third ? (
            <ThreeAtOnce
              study={study}
              wishes={problem}
              common={meets}
              x={x}
              y={y}
              third={third}
              probe={probe}
              setProbe={setProbe}
              room={room}
            />
          ) : picture === "slices" && third ? (
            <Slices
              {...drawn(x, y, overall)}
              third={third}
              room={{ width: size.width, height: 400 }}
              scaleOver={[0, 1]}
            />
          ) : (
            <SurfaceMap
              {...drawn(x, y, overall)}
              {...room}
              limits={limits}
              tags={
                stale ? [] : (result?.candidates ?? []).map((c, i) => ({ settings: c.settings, text: String(i + 1) }))
              }
            />
          )}
          <p className="small quiet" hidden={picture === "trade" || picture === "three"}>
            Overall desirability. Inside the double line every limit is met: the common ground. Numbered tags:
            candidates.
          </p>
        </>
      ) : (
        <p className="quiet">A map needs two numeric factors; candidates are below.</p>
      )}
    </div>
  );
}
