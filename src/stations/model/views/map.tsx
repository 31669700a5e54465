"use client";
import { memo, useMemo, useState } from "react";
import { regionSample } from "@/core/plans";
import { limitsOf } from "@/core/setpoint";
import { activeFactors, isNumeric, valueUnit } from "@/core/study";
import { Relief } from "@/ui/charts/relief";
import { SlicePick, Slices } from "@/ui/charts/slices";
import { type OverPlane, SurfaceMap } from "@/ui/charts/surface-map";
import { useDesk } from "@/ui/desk/store";
import { AxisPick } from "@/ui/parts/axis-pick";
import { axisName, figure, settingText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import { useSize } from "@/ui/parts/use-size";
import { useStable } from "@/ui/parts/use-stable";
import type { ViewProps } from "./view";

type Mode = "contours" | "surface" | "slices";

/** How the map is drawn; apart, since the map moves with every term and every step of the probe. */
const DrawnAs = memo(function DrawnAs({ mode, set }: { mode: Mode; set(mode: Mode): void }) {
  return (
    <Pick
      label="Drawn as"
      value={mode}
      options={[
        ["contours", "contours"],
        ["surface", "surface"],
        ["slices", "slices"],
      ]}
      set={set}
    />
  );
});

/** Filled contours of the response over two factors at the probe. */
export function MapView({ study, fitted }: ViewProps) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  // biome-ignore lint/correctness/useExhaustiveDependencies: of the study only its factors.
  const numeric = useMemo(() => activeFactors(study).filter(isNumeric), [study.factors]);
  const strongest = useMemo(() => {
    const found: string[] = [];
    for (const r of fitted.ladder.rungs)
      if (r.inModel)
        for (const id of r.term) if (numeric.some((f) => f.id === id) && !found.includes(id)) found.push(id);
    return [...found, ...numeric.map((f) => f.id)];
  }, [fitted, numeric]);
  const [pick, setPick] = useState<{ x?: string; y?: string; third?: string }>({});
  const [mode, setMode] = useState<Mode>("contours");
  const pickAxes = useStable((axes: { x?: string; y?: string }) => setPick({ ...pick, ...axes }));
  const [frame, size] = useSize<HTMLDivElement>({ width: 380, height: 540 });
  const x = numeric.find((f) => f.id === (pick.x ?? strongest[0]));
  const y =
    numeric.find((f) => f.id === pick.y && f.id !== x?.id) ??
    numeric.find((f) => f.id === strongest.find((s) => s !== x?.id));
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const limits = limitsOf(response?.goal ?? { aim: "watch" });
  const inLimits = useMemo(
    (): OverPlane | undefined =>
      Number.isFinite(limits.low) || Number.isFinite(limits.high)
        ? (settings, a, b) => {
            const plane = fitted.predictor.plane(settings, a, b);
            return (vx, vy) => {
              const v = plane(vx, vy);
              return Math.min(v - limits.low, limits.high - v);
            };
          }
        : undefined,
    [fitted, limits.low, limits.high],
  );
  // One scale over all slices, so that their shades can be compared.
  const span = useMemo((): [number, number] | undefined => {
    if (mode !== "slices") return undefined;
    const values = regionSample({ ...study, region: { limits: [], forbidden: [] } }, 400).map((settings) =>
      fitted.predictor.value(settings),
    );
    return [Math.min(...values), Math.max(...values)];
  }, [study, fitted, mode]);
  if (!x || !y) return <p className="quiet">A map needs two numeric factors.</p>;
  const others = activeFactors(study).filter(
    (f) => f.id !== x.id && f.id !== y.id && fitted.fit.terms.some((t) => t.includes(f.id)),
  );
  const unitName = axisName(response?.name ?? "", response && valueUnit(response));
  // Slices stand over the strongest category, else over the next numeric factor.
  const third =
    activeFactors(study).find((f) => f.id === pick.third && f.id !== x.id && f.id !== y.id) ??
    others.find((f) => !isNumeric(f)) ??
    others[0] ??
    activeFactors(study).find((f) => f.id !== x.id && f.id !== y.id);
  const drawn = { x, y, probe, value: fitted.predictor.plane, text: (v: number) => figure(v, 3), name: unitName };
  const marked = { study, setProbe, ...(inLimits ? { inLimits } : {}) };
  return (
    <div ref={frame} style={{ height: "100%" }}>
      <div className="row" style={{ flexWrap: "wrap", gap: 6 }}>
        <AxisPick factors={numeric} x={x.id} y={y.id} pick={pickAxes} />
        <DrawnAs mode={mode} set={setMode} />
        {mode === "slices" && third && (
          <SlicePick study={study} x={x.id} y={y.id} third={third} pick={(id) => setPick({ ...pick, third: id })} />
        )}
      </div>
      {mode === "surface" ? (
        <Relief
          {...drawn}
          width={Math.max(260, Math.min(640, size.width))}
          height={Math.max(260, Math.min(520, size.height - 140))}
        />
      ) : span && third ? (
        <Slices
          {...drawn}
          {...marked}
          third={third}
          room={{ width: size.width, height: size.height - 120 }}
          scaleOver={span}
        />
      ) : (
        <SurfaceMap
          {...drawn}
          {...marked}
          width={Math.max(260, Math.min(640, size.width))}
          height={Math.max(260, Math.min(560, size.height - 140))}
        />
      )}
      <p className="small quiet">
        {unitName}.{" "}
        {mode === "surface"
          ? "Drag or use the arrow keys to turn it; the ring is the probe; others stand at it"
          : `${inLimits ? "Hatched: outside its limits. " : ""}Numbers: trials run there. Drag to move the probe; others stand at it`}
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
