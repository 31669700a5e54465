"use client";
import { useRouter } from "next/navigation";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { type Evidence, goalReadings, setpointReadings } from "@/core/findings";
import type { SetpointProblem } from "@/core/setpoint";
import { edit, type Settings } from "@/core/study";
import { useSetpointDoubts } from "@/ui/compute/use-evidence";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { ByWave } from "./by-wave";
import { Candidates } from "./candidates";
import { Confirm } from "./confirm";
import { SetpointHeading } from "./heading";
import { NoSetpoint } from "./no-setpoint";
import { Pictures } from "./pictures";
import { Sensitive } from "./sensitive";
import css from "./setpoint.module.css";
import { Shares } from "./shares";
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
  // As the station opens wishes stand first, pictures and what is below a moment later.
  const opened = useDeferredValue(true, false);
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
  const doubts = useSetpointDoubts(study, stale ? undefined : result?.candidates[0]?.settings)?.readings;
  const readings = useMemo(() => {
    if (!problem) return goalReadings(study);
    return result && !stale
      ? // Wishes outlive a choice, which they do not rest on; what is said of the chosen rests on the study as it is.
        setpointReadings({ ...problem, study }, result, doubts ?? [])
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
  }, [problem, result, stale, study, doubts]);
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
  return (
    <StationFrame
      name="Setpoint"
      readings={readings}
      onShow={show}
      probe
      heading={
        problem && (
          <SetpointHeading
            wishes={problem}
            hold={hold}
            setHold={setHold}
            job={job}
            stale={stale}
            search={search}
            choose={choose}
          />
        )
      }
    >
      {!problem ? (
        <NoSetpoint study={study} why={found.ok ? "" : found.refused.message} />
      ) : (
        <>
          {job.trouble && (
            <p className="danger" role="alert" style={{ marginBottom: 8 }}>
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
            <Pictures study={study} wishes={problem} result={result} stale={stale} opened={opened} />
          </div>
          {result && <Candidates study={study} result={result} wishes={problem} stale={stale} pick={choose} />}
          {opened && (
            <>
              <ByWave study={study} wishes={problem} settings={probe} />
              <Confirm study={study} />
              <Sensitive study={study} wishes={problem} settings={probe} />
            </>
          )}
        </>
      )}
    </StationFrame>
  );
}
