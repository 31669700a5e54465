"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import type { ActionId, Evidence, Reading, ReadingAction } from "@/core/findings";
import { rigsFor, waiting } from "@/core/operator";
import { type QuestionAnswer, rigEdits } from "@/core/questions";
import { edit, guessedSetupEdits, measuredResponses, type Response, valueUnit } from "@/core/study";
import { useTrialsEvidence } from "@/ui/compute/use-evidence";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk, useDeskStore } from "@/ui/desk/store";
import { axisName, clip } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { Heading, Running } from "./heading";
import { type Given, ImportDialog } from "./import-dialog";
import { LeaseBar } from "./lease-bar";
import { Ledger } from "./ledger";
import { NoTrials } from "./no-trials";
import { Strip } from "./strip";
import css from "./trials.module.css";
import { type LeaseState, useLeases } from "./use-leases";

/** How long a trial on the rig is shown, so that a person can follow it. */
const PACE = 45;

/** What the evidence says; where nothing is at work there is nothing to stop. */
function useReadings(readings: readonly Reading[] | undefined, { now }: LeaseState): readonly Reading[] {
  const stoppable = now !== undefined && now.lent.length > 0 && !now.stopped;
  return useMemo(
    () =>
      (readings ?? []).map((r): Reading => {
        if (r.action?.id !== "stop-running" || stoppable) return r;
        const { action: _action, ...rest } = r;
        return rest;
      }),
    [readings, stoppable],
  );
}

/** The dialog that takes results, and what was pasted. */
interface Importing {
  open: boolean;
  given: Given | undefined;
}

/** What several values of a trial are, by the button that says it. */
const SEVERAL: Partial<Record<ActionId, Response["several"]>> = {
  "several-repeats": "repeats",
  "several-units": "units",
};

/** What the buttons of readings do here. */
function useActs({ change }: LeaseState): (action: ReadingAction) => void {
  const desk = useDeskStore();
  const done = async ({ id, response }: ReadingAction): Promise<string | undefined> => {
    const { study, commit } = desk.getState();
    if (id === "mark-setups") return commit(guessedSetupEdits(study), "marked set-ups");
    const what = SEVERAL[id];
    if (what === undefined || response === undefined) return change({ stopped: true });
    const name = study.responses.find((r) => r.id === response)?.name ?? response;
    return commit([edit(study, ["responses", response, "several"], what)], `several values of ${name}`);
  };
  return async (action) => {
    const refused = await done(action);
    if (refused) say(refused);
  };
}

/** Enter what was measured, watch it come in, keep what was really set. */
export function TrialsStation() {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  const light = useDesk((d) => d.light);
  const desk = useDeskStore();
  const router = useRouter();
  const [by, setBy] = useState<"run" | "standard">("run");
  const [strip, setStrip] = useState<string | undefined>(undefined);
  const [importing, setImporting] = useState<Importing>({ open: false, given: undefined });
  const [goTo, setGoTo] = useState<string | undefined>(undefined);
  const [shown, setShown] = useState<{ answer: QuestionAnswer<"rig">; at: number } | undefined>(undefined);
  const evidence = useTrialsEvidence(study);
  const lending = useLeases();
  const lentNow = lending.now?.lent;
  const lent = useMemo(() => new Map(lentNow?.map((l) => [l.trial, l.holder])), [lentNow]);
  const rig = useMemo(() => rigsFor(study)[0], [study]);
  const left = waiting(study).length;
  const job = useQuestion("rig", undefined, (answer) => setShown({ answer, at: 0 }));
  const keepRun = (answer: QuestionAnswer<"rig">): void => {
    setShown(undefined);
    const refused = commit(rigEdits(desk.getState().study, answer), `ran ${answer.ran.length} trials on the rig`);
    if (refused) say(refused);
  };
  const finishing = useRef(keepRun);
  finishing.current = keepRun;
  useEffect(() => {
    if (!shown) return;
    const timer = setTimeout(() => {
      if (shown.at >= shown.answer.ran.length) finishing.current(shown.answer);
      else {
        light(shown.answer.ran[shown.at]);
        setShown({ ...shown, at: shown.at + 1 });
      }
    }, PACE);
    return () => clearTimeout(timer);
  }, [shown, light]);
  // While the rig runs, the ledger shows the trials it has done so far, not yet stored.
  const response = measuredResponses(study).find((r) => r.id === strip) ?? measuredResponses(study)[0];
  const show = (evidence: Evidence, about: string | undefined): void => {
    if (evidence === "plans") router.push(`/studies/${id}/plan`);
    else if (evidence === "ladder") router.push(`/studies/${id}/model`);
    else if (about && measuredResponses(study).some((r) => r.id === about)) setStrip(about);
    else if (about) {
      light(about);
      setGoTo(`${about}#${Date.now()}`);
    }
  };
  const readings = useReadings(evidence?.readings, lending);
  const act = useActs(lending);
  const take = (given: Given | undefined): void => setImporting({ open: true, given });
  const progress = shown ?? (job.running ? { at: 0 } : undefined);
  const total = shown?.answer.ran.length ?? left;
  return (
    <StationFrame
      name="Trials"
      late={evidence?.late === true}
      readings={readings}
      onShow={show}
      onAct={act}
      heading={
        study.trials.length > 0 && (
          <Heading id={id} study={study} lending={lending} by={by} setBy={setBy} bring={() => take(undefined)}>
            {progress ? (
              <Running
                done={progress.at}
                total={total}
                stop={() => {
                  job.stop();
                  if (shown) keepRun({ ...shown.answer, ran: shown.answer.ran.slice(0, shown.at) });
                }}
              />
            ) : (
              rig &&
              left > 0 && (
                <Button
                  type="primary"
                  onClick={() => job.start(study, { name: rig.id, seed: 1 })}
                  title={`A virtual ${rig.name} that knows these factors`}
                >
                  Run the rest on the rig
                </Button>
              )
            )}
          </Heading>
        )
      }
    >
      {job.trouble && (
        <p className="danger" role="alert">
          {job.trouble}
        </p>
      )}
      <LeaseBar study={study} lending={lending} />
      {study.trials.length === 0 ? (
        <NoTrials asked={study.factors.length > 0} />
      ) : (
        <div className={css.wrap}>
          {response && (
            <div>
              <div className="row" style={{ flexWrap: "wrap", gap: 10 }}>
                <strong>{axisName(response.name, valueUnit(response))}</strong>
                <span className="small quiet">in the order run; shaded: within limits; ticks: fitted</span>
                <span className="grow" />
                {measuredResponses(study).length > 1 && (
                  <span className="small">
                    <span className="quiet">also: </span>
                    {measuredResponses(study)
                      .filter((r) => r.id !== response.id)
                      .map((r, i) => (
                        <span key={r.id}>
                          {i > 0 ? " · " : ""}
                          <LinkButton onClick={() => setStrip(r.id)} title={r.name}>
                            {clip(r.name, 22)}
                          </LinkButton>
                        </span>
                      ))}
                  </span>
                )}
              </div>
              <Strip study={study} response={response.id} />
            </div>
          )}
          <Ledger key={by} by={by} lent={lent} onPaste={take} goTo={goTo} />
        </div>
      )}
      <ImportDialog
        open={importing.open}
        given={importing.given}
        close={() => setImporting({ open: false, given: undefined })}
      />
    </StationFrame>
  );
}
