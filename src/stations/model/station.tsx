"use client";
import { Button, Tabs } from "antd";
import { useRouter } from "next/navigation";
import { useCallback, useDeferredValue, useMemo, useRef, useState } from "react";
import {
  activeFactors,
  alphabetOf,
  counts,
  type Evidence,
  type Fitted,
  isNumeric,
  type Response,
  type Study,
  significance,
  sizeUnit,
  spreadCells,
  termKey,
  termName,
} from "@/core";
import { useEvidence } from "@/ui/compute/use-evidence";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { Confidence } from "@/ui/parts/confidence";
import { axisName } from "@/ui/parts/format";
import { named, Pick } from "@/ui/parts/pick";
import { Toggle } from "@/ui/parts/quick";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { addSpread, setTerms } from "./actions";
import { AddTerm } from "./add-term";
import { FitSummary } from "./fit-summary";
import { EffectLadder } from "./ladder";
import css from "./model.module.css";
import { NoModel } from "./no-model";
import { Reduce } from "./reduce-panel";
import { AllResponses } from "./response-matrix";
import { StepsList } from "./steps";
import { useModelling } from "./use-modelling";
import { ViewPanel } from "./view-panel";
import { views } from "./views";

/** Offers to model how much a response scatters, where something was measured again. */
function SpreadButton({
  study,
  response,
  add,
}: {
  study: Study;
  response: Response;
  add(from: "repeats" | "replicates"): void;
}) {
  const { trials, responses } = study;
  const latest = useRef(study);
  latest.current = study;
  // Depends on what was measured, not on the terms that go in and out.
  const from = useMemo(
    () =>
      response.spread
        ? undefined
        : (["repeats", "replicates"] as const).find(
            (f) =>
              !responses.some((r) => r.spread?.of === response.id && r.spread.from === f) &&
              spreadCells(latest.current, response.id, f, trials.filter(counts)).length >= 4,
          ),
    [trials, responses, response],
  );
  if (!from) return null;
  return (
    <Button
      title={
        from === "repeats"
          ? "Model the standard deviation of the repeats within trials (measurement) as a response of its own"
          : "Model the standard deviation between trials run again (process) as a response of its own"
      }
      onClick={() => add(from)}
    >
      Model its spread
    </Button>
  );
}

/** Which factors matter, and how sure we are. */
export function ModelStation() {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const chosen = useDesk((d) => d.response);
  const wide = useDesk((d) => d.wide);
  const choose = useDesk((d) => d.choose);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  // A map needs two numeric factors: where there are none, pairs say the most.
  const [view, setView] = useState(() => (activeFactors(study).filter(isNumeric).length >= 2 ? "Map" : "Pairs"));
  const [all, setAll] = useState(false);
  const [marked, setMarked] = useState<string | undefined>(undefined);
  const [note, setNote] = useState<string | undefined>(undefined);
  const response = study.responses.find((r) => r.id === chosen) ?? study.responses[0];
  const figures = useStudyView();
  const result = response ? figures.fitted(response.id) : undefined;
  const fitted: Fitted | undefined = result?.ok ? result.fitted : undefined;
  const evidence = useEvidence(study, response?.id);
  const now = useMemo(() => (fitted ? { study, fitted } : undefined), [study, fitted]);
  // As the station opens the ladder stands first, the view beside it a moment later; from then on they move as one.
  const opened = useDeferredValue(true, false);
  const latest = useRef<(key: string) => void>(() => undefined);
  const toggleKey = useCallback((key: string) => latest.current(key), []);
  const modelling = useModelling(study, response, fitted, setNote);
  if (!response || !modelling)
    return (
      <StationFrame name="Model" readings={[]} probe>
        <p className="quiet">Name a response on Question first.</p>
      </StationFrame>
    );
  const { steps, current, set, toggle, take, stand, reduce, walk, accept } = modelling;
  const show = (evidence: Evidence, about: string | undefined): void => {
    setAll(false);
    const viewOf: Partial<Record<Evidence, string>> = {
      pairs: "Pairs",
      "half-normal": "Half-normal",
      checks: "Checks",
      table: "Table",
      equation: "Equation",
      map: "Map",
    };
    const wanted = viewOf[evidence];
    setMarked(undefined);
    if (wanted) setView(wanted);
    if (about) requestAnimationFrame(() => setMarked(about));
    if (evidence === "plans") router.push(`/studies/${id}/plan`);
  };
  latest.current = (key) => {
    if (!fitted) return;
    const rung = fitted.ladder.rungs.find((r) => r.key === key);
    if (rung) return toggle(rung);
    const term = fitted.contrasts.contrasts.flatMap((c) => c.chain).find((c) => termKey(c.term) === key)?.term;
    if (term) set([...fitted.fit.terms, term], `took in ${termName(alphabetOf(study), term)}`);
  };
  const sizes = fitted ? sizeUnit(fitted.fit.model) : "";
  return (
    <StationFrame
      name="Model"
      readings={evidence?.readings ?? []}
      onShow={show}
      probe
      wideable
      late={evidence?.late === true}
      heading={
        <div className="row grow" style={{ minWidth: 0, flexWrap: "wrap" }}>
          {study.responses.length <= 5 ? (
            study.responses.map((r) => (
              <Toggle
                key={r.id}
                style={{ maxWidth: 190, overflow: "hidden", textOverflow: "ellipsis", display: "inline-block" }}
                on={!all && r.id === response.id}
                title={r.name}
                onClick={() => {
                  setAll(false);
                  choose(r.id);
                  setNote(undefined);
                }}
              >
                {r.name}
              </Toggle>
            ))
          ) : (
            <Pick
              label="Response"
              value={response.id}
              options={named(study.responses)}
              set={(r) => {
                setAll(false);
                choose(r);
                setNote(undefined);
              }}
            />
          )}
          <span className="grow" />
          <SpreadButton
            study={study}
            response={response}
            add={(from) => {
              const made = addSpread(study, response.id, from);
              const refused = commit(made.edits, `made the spread of ${response.name} a response`);
              if (refused) say(refused);
              else choose(made.id);
            }}
          />
          {study.responses.length > 1 && (
            <Toggle on={all} onClick={() => setAll(!all)}>
              All responses
            </Toggle>
          )}
        </div>
      }
    >
      {all ? (
        <AllResponses
          study={study}
          choose={(r) => {
            choose(r);
            setAll(false);
          }}
          copy={(from, to) => {
            const terms = figures.fitted(from);
            if (!terms.ok) return;
            const refused = commit(setTerms(study, to, terms.fitted.fit.terms), `copied a set of terms`);
            if (refused) say(refused);
          }}
        />
      ) : !fitted ? (
        <NoModel name={response.name} result={result} ran={study.trials.length > 0} />
      ) : (
        <div className={css.split} data-wide={wide ? "yes" : "no"}>
          <div className={css.left}>
            <div className="row" style={{ marginBottom: 2 }}>
              <strong className="grow" style={{ fontSize: 13.5 }}>
                Change in {axisName(response.name, sizes || undefined)}, low to high
                <span className="quiet" style={{ fontWeight: 400 }}>
                  {" "}
                  (squares: centre to edge)
                </span>
              </strong>
              <Confidence />
              <Reduce run={reduce} several={study.responses.length > 1} usual={significance(study)} />
            </div>
            <EffectLadder study={study} fitted={fitted} unit={sizes} toggle={toggle} stand={stand} marked={marked} />
            {note && (
              <p className="small bracken" role="status" style={{ padding: "4px 0" }}>
                {note}
              </p>
            )}
            <StepsList study={study} steps={steps} current={current} walk={walk} />
            <FitSummary fit={fitted.fit} />
            <div className="row small" style={{ gap: 6, paddingTop: 4, flexWrap: "wrap" }}>
              <AddTerm study={study} fitted={fitted} add={take} />
              {!fitted.chosen && (
                <>
                  <Button size="small" type="primary" onClick={accept}>
                    Accept this model
                  </Button>
                  <span className="quiet">Offered, not chosen yet: Setpoint asks for it.</span>
                </>
              )}
            </div>
          </div>
          <div className={css.right}>
            <Tabs
              size="small"
              className={css.tabs}
              aria-label="Views"
              activeKey={view}
              destroyOnHidden
              items={views.map(({ name }) => ({
                key: name,
                label: name,
                children: name === view && (
                  <ViewPanel
                    view={view}
                    shown={opened ? now : undefined}
                    marked={marked}
                    checks={evidence?.checks}
                    late={evidence?.late === true}
                    toggle={toggleKey}
                  />
                ),
              }))}
              onChange={setView}
            />
          </div>
        </div>
      )}
    </StationFrame>
  );
}
