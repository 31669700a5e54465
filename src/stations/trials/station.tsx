"use client";
import { Button, Progress, Segmented } from "antd";
import { useRouter } from "next/navigation";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { type Evidence, measuredResponses, type QuestionAnswer, rigEdits, rigsFor, type Study, waiting } from "@/core";
import { useTrialsEvidence } from "@/ui/compute/use-evidence";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk, useDeskStore } from "@/ui/desk/store";
import { axisName, clip } from "@/ui/parts/format";
import { Quick } from "@/ui/parts/quick";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { type Given, ImportDialog, type Preview } from "./import-dialog";
import { Ledger } from "./ledger";
import { LendingBar } from "./lending-bar";
import { NoTrials } from "./no-trials";
import { Strip } from "./strip";
import css from "./trials.module.css";
import { type LendingState, useLending } from "./use-lending";

/** How long a trial on the rig is shown, so that a person can follow it. */
const PACE = 45;

/** In which order the ledger stands. */
const OrderPick = ({ by, setBy }: { by: "run" | "standard"; setBy(by: "run" | "standard"): void }) => (
  <>
    <span className="small quiet">order:</span>
    <Segmented
      size="small"
      aria-label="Order of the ledger"
      value={by}
      options={[
        { value: "run", label: "as run" },
        { value: "standard", label: "standard" },
      ]}
      onChange={setBy}
    />
  </>
);

// Fetched when it is asked for.
const Tablets = lazy(() => import("./tablets"));
const Programs = lazy(() => import("./programs"));

/** Ways to take trials along to the machine. */
function AtTheMachine({ id, study, lending }: { id: string; study: Study; lending: LendingState }) {
  const [tablets, setTablets] = useState(false);
  const [programs, setPrograms] = useState(false);
  return (
    <>
      <Button href={`/studies/${id}/bench`} title="One trial at a time, large, beside the machine">
        At the bench
      </Button>
      <Button onClick={() => setTablets(true)} title="Which tablets open the bench of this study">
        Tablets
      </Button>
      <Button href={`/studies/${id}/paper`} title="Run sheets and a card for each trial">
        On paper
      </Button>
      <Button onClick={() => setPrograms(true)} title="Let a program, such as a simulation, run the waiting trials">
        By a program
      </Button>
      <Suspense fallback={null}>
        {tablets && <Tablets id={id} close={() => setTablets(false)} />}
        {programs && <Programs id={id} study={study} lending={lending} close={() => setPrograms(false)} />}
      </Suspense>
    </>
  );
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
  const [importing, setImporting] = useState<{ open: boolean; given: Given | undefined }>({
    open: false,
    given: undefined,
  });
  const [goTo, setGoTo] = useState<string | undefined>(undefined);
  const [shown, setShown] = useState<{ answer: QuestionAnswer<"rig">; at: number } | undefined>(undefined);
  const evidence = useTrialsEvidence(study);
  const lending = useLending();
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
  const onPaste = (block: Preview | undefined, text: string): void =>
    setImporting({ open: true, given: block ? { block } : { text } });
  const show = (evidence: Evidence, about: string | undefined): void => {
    if (evidence === "plans") router.push(`/studies/${id}/plan`);
    else if (evidence === "ladder") router.push(`/studies/${id}/model`);
    else if (about && measuredResponses(study).some((r) => r.id === about)) setStrip(about);
    else if (about) {
      light(about);
      setGoTo(`${about}#${Date.now()}`);
    }
  };
  const progress = shown ?? (job.running ? { at: 0 } : undefined);
  const total = shown?.answer.ran.length ?? left;
  return (
    <StationFrame
      name="Trials"
      late={evidence?.late === true}
      readings={evidence?.readings ?? []}
      onShow={show}
      heading={
        study.trials.length > 0 && (
          <div className="row grow" style={{ flexWrap: "wrap" }}>
            <OrderPick by={by} setBy={setBy} />
            <span className="grow" />
            <AtTheMachine id={id} study={study} lending={lending} />
            <Button onClick={() => setImporting({ open: true, given: undefined })}>Paste or import</Button>
            <Button href={`/api/studies/${id}/export?format=csv`}>Export CSV</Button>
            <Button href={`/api/studies/${id}/export?format=xlsx`} title="Question, plans, ledger and models as sheets">
              Workbook
            </Button>
            {progress ? (
              <span className="row" role="status">
                <Progress
                  percent={(100 * progress.at) / Math.max(1, total)}
                  showInfo={false}
                  size="small"
                  style={{ width: 120 }}
                  aria-label="Share of trials run"
                />
                <span className="small">
                  rig: {progress.at} of {total}
                </span>
                <Button
                  size="small"
                  onClick={() => {
                    job.stop();
                    if (shown) keepRun({ ...shown.answer, ran: shown.answer.ran.slice(0, shown.at) });
                  }}
                >
                  Stop, keep these
                </Button>
              </span>
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
          </div>
        )
      }
    >
      {job.trouble && (
        <p className="rowan" role="alert">
          {job.trouble}
        </p>
      )}
      <LendingBar study={study} lending={lending} />
      {study.trials.length === 0 ? (
        <NoTrials asked={study.factors.length > 0} />
      ) : (
        <div className={css.wrap}>
          {response && (
            <div>
              <div className="row" style={{ flexWrap: "wrap", gap: 10 }}>
                <strong>{axisName(response.name, response.unit)}</strong>
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
                          <Quick onClick={() => setStrip(r.id)} title={r.name}>
                            {clip(r.name, 22)}
                          </Quick>
                        </span>
                      ))}
                  </span>
                )}
              </div>
              <Strip study={study} response={response.id} />
            </div>
          )}
          <Ledger key={by} by={by} onPaste={onPaste} goTo={goTo} />
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
