"use client";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { lazy, Suspense, useDeferredValue, useMemo, useState } from "react";
import { type Evidence, warningsOfChoosing } from "@/core/findings";
import { sizeUnit } from "@/core/model";
import type { Fitted } from "@/core/questions";
import { activeFactors, alphabetOf, isNumeric, type Term, termKey, termName } from "@/core/study";
import { useEvidence } from "@/ui/compute/use-evidence";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { Confidence } from "@/ui/parts/confidence";
import { say } from "@/ui/parts/say";
import { useStable } from "@/ui/parts/use-stable";
import { StationFrame } from "@/ui/shell/frame";
import { historyAddress } from "@/ui/shell/history-address";
import { type Reducing, setTerms } from "./actions";
import { AddTerm } from "./add-term";
import { FitSummary } from "./fit-summary";
import { furtherTerms } from "./further-terms";
import { ModelHeading } from "./heading";
import { EffectLadder } from "./ladder";
import { LadderTitle } from "./ladder-title";
import css from "./model.module.css";
import { NoModel } from "./no-model";
import { Offered } from "./offered";
import { Parents } from "./parents";
import { Reduce, reducible } from "./reduce";
import { StepsList } from "./steps";
import { useModelling } from "./use-modelling";
import { Shown, ViewTabs } from "./view-tabs";

// Fetched when it is first asked for.
const AllResponses = lazy(() => import("./response-matrix").then((m) => ({ default: m.AllResponses })));

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
  const chooseResponse = useStable((r: string) => {
    setAll(false);
    choose(r);
    setNote(undefined);
  });
  const modelling = useModelling(study, response, fitted, setNote);
  const toggleKey = useStable((key: string) => {
    if (!fitted || !modelling) return;
    const rung = fitted.ladder.rungs.find((r) => r.key === key);
    if (rung) return modelling.toggle(rung);
    const term = fitted.contrasts.contrasts.flatMap((c) => c.chain).find((c) => termKey(c.term) === key)?.term;
    if (term) modelling.set([...fitted.fit.terms, term], `took in ${termName(alphabetOf(study), term)}`);
  });
  const walk = useStable((to: number) => modelling?.walk(to));
  const reduce = useStable((how: Reducing, everywhere: boolean) => modelling?.reduce(how, everywhere));
  const add = useStable((term: Term) => modelling?.take(term));
  const further = useStable(() => (fitted ? furtherTerms(study, fitted) : []));
  const late = evidence?.late === true;
  const checks = evidence?.checks;
  const shownModel = useMemo(
    () => ({ shown: opened ? now : undefined, marked, checks, late, toggle: toggleKey }),
    [opened, now, marked, checks, late, toggleKey],
  );
  if (!response || !modelling)
    return (
      <StationFrame name="Model" readings={[]} probe>
        <NoModel name={undefined} result={undefined} ran={false} />
      </StationFrame>
    );
  const { steps, current, toggle, stand, accept } = modelling;
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
  const sizes = fitted ? sizeUnit(fitted.fit.model) : "";
  return (
    <StationFrame
      name="Model"
      readings={evidence?.readings ?? []}
      onShow={show}
      onAct={({ id }) => {
        if (id === "take-offer" && fitted) modelling.set(fitted.offer.kept, "took the model first offered");
      }}
      probe
      wideable
      late={late}
      heading={
        <ModelHeading
          responses={study.responses}
          response={response}
          all={all}
          choose={chooseResponse}
          showAll={setAll}
        />
      }
    >
      {all ? (
        <Suspense fallback={null}>
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
        </Suspense>
      ) : !fitted ? (
        <NoModel name={response.name} result={result} ran={study.trials.length > 0} />
      ) : (
        <div className={css.split} data-wide={wide ? "yes" : "no"}>
          <div className={css.left}>
            <div className="row" style={{ marginBottom: 2 }}>
              <LadderTitle name={response.name} unit={sizes || undefined} />
              <Confidence />
              <Reduce run={reduce} {...reducible(study, fitted.fit)} />
            </div>
            <EffectLadder study={study} fitted={fitted} unit={sizes} toggle={toggle} stand={stand} marked={marked} />
            {note && (
              <p className="small warning" role="status" style={{ padding: "4px 0" }}>
                {note}
              </p>
            )}
            <StepsList study={study} steps={steps} current={current} walk={walk} />
            <FitSummary study={study} fit={fitted.fit} />
            <Offered
              fitted={fitted}
              warnings={warningsOfChoosing(evidence?.readings ?? [])}
              accept={accept}
              set={modelling.set}
            />
            <div className="row small" style={{ gap: 6, paddingTop: 4, flexWrap: "wrap" }}>
              <AddTerm further={further} add={add} />
              <Parents kept={modelling.parentsKept} keep={modelling.keepParents} />
              <Link prefetch={false} className="link" href={historyAddress(id, ["models", response.id])}>
                history of this model
              </Link>
            </div>
          </div>
          <div className={css.right}>
            <Shown value={shownModel}>
              <ViewTabs view={view} setView={setView} />
            </Shown>
          </div>
        </div>
      )}
    </StationFrame>
  );
}
