// biome-ignore-all lint/a11y/useAriaPropsSupportedByRole: a closed tag is named by what it frees.
"use client";
import { Button, Tag } from "antd";
import { useRouter } from "next/navigation";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import {
  activeFactors,
  type Evidence,
  edit,
  goalReadings,
  isNumeric,
  type NumericFactor,
  rangeOf,
  type SetpointProblem,
  type Settings,
  setpointReadings,
} from "@/core";
import { SlicePick, Slices } from "@/ui/charts/slices";
import { type OverPlane, SurfaceMap } from "@/ui/charts/surface-map";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { AxisPick } from "@/ui/parts/axis-pick";
import { percent, settingText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import { say } from "@/ui/parts/say";
import { useSize } from "@/ui/parts/use-size";
import { StationFrame } from "@/ui/shell/frame";
import { Candidates } from "./candidates";
import { Confirm } from "./confirm";
import { NoSetpoint } from "./no-setpoint";
import { Sensitive } from "./sensitive";
import css from "./setpoint.module.css";
import { Shares } from "./shares";
import { ThreeAtOnce } from "./three";
import { Trade } from "./trade";
import { useGround } from "./use-ground";
import { Wish } from "./wish";

/** The best settings, with how sure one can be of them. */
export function SetpointStation() {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const found = useStudyView(study).wishes();
  const problem = found.ok ? found.wishes : undefined;
  const [hold, setHold] = useState<string[]>(study.setpoint?.held ?? []);
  const [axes, setAxes] = useState<{ x?: string; y?: string; third?: string }>({});
  const [picture, setPicture] = useState<"map" | "slices" | "three" | "trade">("map");
  // As the station opens wishes stand first, pictures and what is below a moment later.
  const opened = useDeferredValue(true, false);
  const [frame, size] = useSize<HTMLDivElement>({ width: 440, height: 400 });
  const asked = useRef<SetpointProblem | undefined>(undefined);
  const job = useQuestion("setpoint", undefined, (r) => setProbe(r.settable.settings));
  const result = job.result;
  const stale = result !== undefined && asked.current !== problem;
  const search = (): void => {
    asked.current = problem;
    const held = Object.fromEntries(hold.map((f) => [f, probe[f]]));
    job.start(study, { hold: held, seed: 1 });
  };
  // A first visit finds the answer being looked for, once the page stands: the search would share its processor.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once per visit.
  useEffect(() => {
    if (!problem || result || job.running) return;
    const soon = setTimeout(search, 150);
    return () => clearTimeout(soon);
  }, []);
  const readings = useMemo(() => {
    if (!problem) return goalReadings(study);
    return result && !stale
      ? setpointReadings(problem, result)
      : [
          {
            id: "search",
            kind: "next step" as const,
            code: stale ? ("search-again" as const) : ("search" as const),
            values: {},
            evidence: "candidates" as const,
            weight: 100,
          },
        ];
  }, [problem, result, stale, study]);
  const numeric = activeFactors(study).filter((f): f is NumericFactor => isNumeric(f));
  // The two factors that move overall desirability most from here make the first map.
  // The choice of axes follows results, not every move of the probe.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const movers = useMemo(() => {
    if (!problem) return numeric.map((f) => f.id);
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
  const { overall, meets, common, limits, inRegion } = useGround(study, problem);
  const room = { width: Math.max(280, Math.min(620, size.width)), height: 372 };
  /** What the map and its slices have in common. */
  const drawn = (across: NumericFactor, up: NumericFactor, value: OverPlane) => ({
    study,
    x: across,
    y: up,
    probe,
    setProbe,
    value,
    ...(common ? { inLimits: common, common: true } : {}),
    ...(inRegion ? { allowed: inRegion } : {}),
    text: (v: number) => v.toFixed(2).replace(/0$/, ""),
    name: "Overall desirability",
  });
  const choose = (c: { settings: Settings }): void => {
    const refused = commit([edit(study, ["setpoint"], { settings: c.settings, held: hold })], "chose a setpoint");
    if (refused) say(refused);
    else say("Chosen: it stands in the report now.", "done");
  };
  const show = (evidence: Evidence): void => {
    if (evidence === "ladder") router.push(`/studies/${id}/model`);
    else
      document
        .querySelector(`[data-testid="${evidence === "map" ? "desirability-map" : "candidates"}"]`)
        ?.scrollIntoView({ block: "center", behavior: "smooth" });
  };
  const free = activeFactors(study).filter((f) => !hold.includes(f.id));
  return (
    <StationFrame
      name="Setpoint"
      readings={readings}
      onShow={show}
      probe
      heading={
        problem && (
          <div className="row grow" style={{ flexWrap: "wrap" }}>
            <span className="quiet">
              desirability here{" "}
              <strong className="num" style={{ color: "var(--ink)", fontSize: 14 }}>
                {problem.overall(probe).toFixed(2)}
              </strong>
            </span>
            <span className="grow" />
            {hold.map((f) => {
              const factor = study.factors.find((q) => q.id === f);
              return factor ? (
                <Tag
                  key={f}
                  closeIcon={<span aria-label={`Free ${factor.name}`}>×</span>}
                  onClose={() => setHold(hold.filter((h) => h !== f))}
                >
                  {factor.name} = {settingText(probe[f])}
                </Tag>
              ) : null;
            })}
            {free.length > 0 && (
              <Pick
                label="Hold a factor at the probe"
                placeholder="hold …"
                value={undefined}
                options={free.map((f) => [f.id, `${f.name} at ${settingText(probe[f.id])}`])}
                set={(f) => setHold([...hold, f])}
              />
            )}
            <Button
              title="Make the probe's place the setpoint, as it stands"
              onClick={() => choose({ settings: probe })}
            >
              Choose the probe
            </Button>
            {job.running ? (
              <Button onClick={job.stop}>
                Stop · {job.progress ? `${job.progress.text} ${percent(job.progress.done)}` : "starting"}
              </Button>
            ) : (
              <Button type="primary" onClick={search}>
                {stale ? "Search again" : "Search the region"}
              </Button>
            )}
          </div>
        )
      }
    >
      {!problem ? (
        <NoSetpoint study={study} why={found.ok ? "" : found.refused.message} />
      ) : (
        <>
          {job.trouble && (
            <p className="rowan" role="alert" style={{ marginBottom: 8 }}>
              {job.trouble}
            </p>
          )}
          <div className={css.split}>
            <div style={{ maxHeight: problem.responses.length > 4 ? 590 : 476, overflow: "auto" }}>
              <Shares responses={problem.responses} />
              {problem.responses.map((r) => (
                <Wish
                  key={r.id}
                  response={r}
                  said={problem.predictors.get(r.id)?.predict(probe)}
                  tight={problem.responses.length > 4}
                />
              ))}
              <p className="small quiet">
                The denser the strokes, the nearer to what is wanted; none: not acceptable. Ends are dragged, or typed
                on Question.
              </p>
            </div>
            <div data-testid="desirability-map" ref={frame}>
              {!opened ? null : x && y && overall ? (
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
                    <Trade
                      study={study}
                      wishes={problem}
                      candidates={stale ? [] : (result?.candidates ?? [])}
                      {...room}
                    />
                  ) : picture === "three" && third && meets ? (
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
                        stale
                          ? []
                          : (result?.candidates ?? []).map((c, i) => ({ settings: c.settings, text: String(i + 1) }))
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
          </div>
          {result && <Candidates study={study} result={result} wishes={problem} stale={stale} pick={choose} />}
          {opened && (
            <>
              <Confirm study={study} />
              <Sensitive study={study} wishes={problem} settings={probe} />
            </>
          )}
        </>
      )}
    </StationFrame>
  );
}
