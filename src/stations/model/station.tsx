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
  fitModel,
  isNumeric,
  type Response,
  type Rung,
  type StandingRung,
  type Study,
  StudyError,
  significance,
  sizeUnit,
  spreadCells,
  stepsOn,
  storedModel,
  type Term,
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
import { addSpread, ownStep, type Reducing, reduceResponse, setFitting, setTerms, toggleTerm } from "./actions";
import { FitSummary } from "./fit-summary";
import { EffectLadder } from "./ladder";
import css from "./model.module.css";
import { NoModel } from "./no-model";
import { Reduce } from "./reduce-panel";
import { AllResponses } from "./response-matrix";
import { StepsList } from "./steps";
import { ViewPanel } from "./view-panel";
import { views } from "./views";

const termsKey = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");

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
  const alphabet = alphabetOf(study);
  if (!response)
    return (
      <StationFrame name="Model" readings={[]} probe>
        <p className="quiet">Name a response on Question first.</p>
      </StationFrame>
    );
  const stored = storedModel(study, response.id);
  const steps = stored?.steps ?? [];
  const present = fitted ? termsKey(fitted.fit.terms) : "";
  // Where the present model stands on its way; undo may have gone back along it.
  const current = steps.findLastIndex((s) => termsKey(s.terms) === present);
  /** Stores terms with the step that led to them. */
  const set = (terms: readonly Term[], what: string): void => {
    const before = fitted?.fit;
    const r2 = before
      ? fitModel(study, response.id, { terms: [...terms], ...before.fitting }).summary.r2Predicted
      : null;
    const way = before && stepsOn(stored, before, [ownStep(before.terms, terms, r2)]);
    const refused = commit(setTerms(study, response.id, terms, way), what);
    if (refused) say(refused);
  };
  const toggle = (rung: Rung, force = false): void => {
    if (!fitted) return;
    if (rung.lost && !rung.inModel) {
      setNote(
        `${rung.name} cannot be estimated beside what is in the model${
          rung.aliases.length > 0
            ? `: these trials cannot tell it from ${rung.aliases
                .slice(0, 3)
                .map((t) => termName(alphabet, t))
                .join(", ")}`
            : ""
        }.`,
      );
      return;
    }
    const next = toggleTerm(study, fitted.fit.terms, rung.term, force);
    if (!next.ok) {
      setNote(next.sentence);
      return;
    }
    setNote(next.note);
    set(next.terms, `${rung.inModel ? "took out" : "took in"} ${rung.name}`);
  };
  const stand = ({ id: which }: StandingRung, inModel: boolean): void => {
    if (!fitted) return;
    const name = which === "wave" ? "waves" : "curvature";
    const refused = commit(
      setFitting(study, fitted.fit, which === "wave" ? { block: inModel } : { curvature: inModel }),
      `${inModel ? `took ${name} into` : `left ${name} out of`} the model of ${response.name}`,
    );
    if (refused) say(refused);
  };
  const reduce = (how: Reducing, everywhere: boolean): void => {
    if (!fitted) return;
    try {
      const about = everywhere ? study.responses : [response];
      const done = about.flatMap((r) => {
        const found = figures.fitted(r.id);
        return found.ok ? [{ name: r.name, ...reduceResponse(study, found.fitted.fit, how) }] : [];
      });
      const changed = done.filter((d) => d.steps > 0);
      const notes = done.flatMap((d) => (d.note ? [everywhere ? `${d.name}: ${d.note}` : d.note] : []));
      if (changed.length === 0) notes.push("Nothing to reduce: every term earns its place.");
      else if (everywhere) notes.push(`${changed.length} of ${done.length} models reduced.`);
      setNote(notes.length > 0 ? notes.join(" ") : undefined);
      const by = how.by === "p" ? `p ${how.alpha}` : how.by === "aicc" ? "AICc" : "BIC";
      const refused = commit(
        changed.flatMap((d) => d.edits),
        `reduced ${everywhere ? "all responses" : response.name} by ${by}`,
      );
      if (refused) say(refused);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      say(error.message);
    }
  };
  const walk = (to: number): void => {
    const refused = commit(setTerms(study, response.id, steps[to].terms), `back to step ${to} of ${response.name}`);
    if (refused) say(refused);
  };
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
    if (term) set([...fitted.fit.terms, term], `took in ${termName(alphabet, term)}`);
  };
  const sizes = fitted ? sizeUnit(fitted.fit.model) : "";
  return (
    <StationFrame
      name="Model"
      readings={evidence?.readings ?? []}
      onShow={show}
      probe
      wideable
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
