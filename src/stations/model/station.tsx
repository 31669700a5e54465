"use client";
import { useRouter } from "next/navigation";
import { useCallback, useDeferredValue, useMemo, useRef, useState } from "react";
import {
  alphabetOf,
  type Criterion,
  candidateTerms,
  type Direction,
  type Evidence,
  type ReduceStep,
  type Rung,
  reduceModel,
  type Study,
  StudyError,
  storedModel,
  type Term,
  termKey,
  termName,
} from "@/core";
import { useEvidence } from "@/ui/compute/use-evidence";
import { type Fitted, fittedOf } from "@/ui/desk/derive";
import { useDesk } from "@/ui/desk/store";
import { axisName, figure, pShort } from "@/ui/parts/format";
import { Popover } from "@/ui/parts/overlays";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { colours } from "@/ui/theme/theme";
import { setTerms, toggleTerm } from "./actions";
import { EffectLadder } from "./ladder";
import css from "./model.module.css";
import { VIEWS, type View, ViewPanel } from "./view-panel";

/** Every response against every term that any model holds: which factor drives what, at a glance. */
function AllResponses({ study, choose }: { study: Study; choose(id: string): void }) {
  const alphabet = alphabetOf(study);
  const fits = study.responses.map((r) => ({ r, f: fittedOf(study, r.id) }));
  const keys = new Map<string, Term>();
  for (const { f } of fits) if (f.ok) for (const t of f.fitted.fit.terms) keys.set(termKey(t), t);
  const terms = [...keys.values()].sort((a, b) => a.length - b.length);
  return (
    <div style={{ overflow: "auto", maxHeight: "calc(100vh - 190px)" }}>
      <table className={`${css.table} ${css.matrix}`}>
        <thead>
          <tr>
            <th>Term</th>
            {fits.map(({ r }) => (
              <th key={r.id}>
                <button type="button" className="link" onClick={() => choose(r.id)}>
                  {r.name}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {terms.map((t) => (
            <tr key={termKey(t)}>
              <td>{termName(alphabet, t)}</td>
              {fits.map(({ r, f }) => {
                const rung = f.ok ? f.fitted.ladder.rungs.find((x) => x.key === termKey(t)) : undefined;
                const most = f.ok ? Math.max(...f.fitted.ladder.rungs.filter((x) => x.inModel).map((x) => Math.abs(x.size ?? 0)), 1e-300) : 1;
                if (!rung?.inModel) return <td key={r.id}>·</td>;
                const share = Math.abs(rung.size ?? 0) / most;
                return (
                  <td key={r.id} title={`${r.name}: ${rung.size} ${r.unit ?? ""}, ${pShort(rung.p)}`}>
                    <svg width="72" height="12" aria-hidden="true">
                      <rect
                        x={(rung.size ?? 0) < 0 ? 36 - 34 * share : 36}
                        width={34 * share}
                        y="1"
                        height="10"
                        fill={colours.heather}
                        opacity={rung.p !== null && rung.p < 0.05 ? 1 : 0.4}
                      />
                      <line x1="36" x2="36" y1="0" y2="12" stroke="#B8AC90" />
                    </svg>{" "}
                    {figure(rung.size ?? 0)}
                  </td>
                );
              })}
            </tr>
          ))}
          <tr>
            <td>
              <strong>R² predicted</strong>
            </td>
            {fits.map(({ r, f }) => (
              <td key={r.id}>{f.ok && f.fitted.fit.summary.r2Predicted !== null ? f.fitted.fit.summary.r2Predicted.toFixed(2) : "–"}</td>
            ))}
          </tr>
        </tbody>
      </table>
      <p className="small quiet" style={{ marginTop: 6 }}>
        Change from low to high (centre to edge for squares) in each response's unit; bars are scaled within a response, pale where not clear of
        noise.
      </p>
    </div>
  );
}

/** What to reduce by; the steps stay below the ladder. */
function Reduce({ run }: { run(direction: Direction, by: Criterion, alpha: number, from: "model" | "all"): void }) {
  const [direction, setDirection] = useState<Direction>("backward");
  const [by, setBy] = useState<Criterion>("p");
  const [alpha, setAlpha] = useState("0.05");
  const [from, setFrom] = useState<"model" | "all">("all");
  const [open, setOpen] = useState(false);
  const a = Number(alpha.replace(",", "."));
  const wrong = by === "p" && !(a > 0 && a < 1);
  const pick = <T extends string>(name: string, now: T, set: (v: T) => void, options: [T, string][]) => (
    <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
      {name}
      <select className="field" aria-label={`reduce ${name}`} value={now} onChange={(e) => set(e.target.value as T)}>
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
  const trigger = (
    <button type="button" className="btn" {...(open ? {} : { onClick: () => setOpen(true) })}>
      Reduce
    </button>
  );
  // The panel is built when first asked for, so that taking terms in and out does not pay for it.
  if (!open) return trigger;
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      open={open}
      onOpenChange={setOpen}
      content={
        <div style={{ width: 250 }}>
          {pick("way", direction, setDirection, [
            ["backward", "backward"],
            ["forward", "forward"],
            ["both", "both ways"],
          ])}
          {pick("by", by, setBy, [
            ["p", "p"],
            ["aicc", "AICc"],
            ["bic", "BIC"],
          ])}
          {by === "p" && (
            <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
              α to stay
              <input
                className="field num"
                style={{ width: 80, textAlign: "right", ...(wrong ? { borderColor: colours.rowan } : {}) }}
                value={alpha}
                aria-invalid={wrong}
                onChange={(e) => setAlpha(e.target.value)}
              />
            </label>
          )}
          {pick("among", from, setFrom, [
            ["all", "all it can estimate"],
            ["model", "terms in the model"],
          ])}
          {wrong && (
            <p className="rowan small" role="alert">
              α must lie between 0 and 1, such as 0.05.
            </p>
          )}
          <button
            type="button"
            className="btn main"
            disabled={wrong}
            onClick={() => {
              setOpen(false);
              run(direction, by, by === "p" ? a : 0.05, from);
            }}
          >
            Reduce
          </button>
        </div>
      }
    >
      {trigger}
    </Popover>
  );
}

/** Which factors matter, and how sure we are. */
export function ModelStation() {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const chosen = useDesk((d) => d.response);
  const choose = useDesk((d) => d.choose);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const [view, setView] = useState<View>("Map");
  const [all, setAll] = useState(false);
  const [marked, setMarked] = useState<string | undefined>(undefined);
  const [history, setHistory] = useState<{ response: string; start: Term[]; steps: ReduceStep[]; at: number } | undefined>(undefined);
  const [note, setNote] = useState<string | undefined>(undefined);
  const response = study.responses.find((r) => r.id === chosen) ?? study.responses[0];
  const result = response ? fittedOf(study, response.id) : undefined;
  const fitted: Fitted | undefined = result?.ok ? result.fitted : undefined;
  const evidence = useEvidence(study, response?.id);
  // The ladder and its figures are painted first; the view beside it follows in the next frame.
  const now = useMemo(() => (fitted ? { study, fitted } : undefined), [study, fitted]);
  const late = useDeferredValue(now, undefined);
  const latest = useRef<(key: string) => void>(() => undefined);
  const toggleKey = useCallback((key: string) => latest.current(key), []);
  const alphabet = alphabetOf(study);
  if (!response)
    return (
      <StationFrame name="Model" readings={[]} probe>
        <p className="quiet">Name a response on Question first.</p>
      </StationFrame>
    );
  const set = (terms: readonly Term[], what: string): void => {
    const refused = commit(setTerms(study, response.id, terms), what);
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
  const reduce = (direction: Direction, by: Criterion, alpha: number, from: "model" | "all"): void => {
    if (!fitted) return;
    try {
      const pool =
        from === "model"
          ? fitted.fit.terms
          : candidateTerms(study, fitted.fit.terms).filter((t) => t.every((f) => study.factors.find((x) => x.id === f)?.retired === undefined));
      const stored = storedModel(study, response.id);
      const { fit, steps } = reduceModel(study, response.id, pool, {
        direction,
        by,
        alpha,
        hierarchy: stored?.hierarchy ?? "strong",
        transform: stored?.transform ?? "none",
        block: stored?.block ?? true,
      });
      setHistory({ response: response.id, start: fitted.fit.terms, steps, at: steps.length });
      setNote(steps.length === 0 ? "Nothing to reduce: every term earns its place." : undefined);
      set(fit.terms, `reduced ${response.name} by ${by === "p" ? `p ${alpha}` : by === "aicc" ? "AICc" : "BIC"}`);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      say(error.message);
    }
  };
  const walk = (at: number): void => {
    if (!history) return;
    setHistory({ ...history, at });
    set(at === 0 ? history.start : history.steps[at - 1].terms, at === 0 ? "back to before reducing" : `step ${at} of reducing`);
  };
  const show = (evidence: Evidence, about: string | undefined): void => {
    setAll(false);
    const views: Partial<Record<Evidence, View>> = {
      pairs: "Pairs",
      "half-normal": "Half-normal",
      checks: "Checks",
      table: "Table",
      equation: "Equation",
      map: "Map",
    };
    const wanted = views[evidence];
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
  const s = fitted?.fit.summary;
  const unit = fitted?.fit.transform === "none" ? (response.unit ?? "") : "";
  return (
    <StationFrame
      name="Model"
      readings={evidence?.readings ?? []}
      onShow={show}
      probe
      heading={
        <div className="row grow" style={{ minWidth: 0, flexWrap: "wrap" }}>
          {study.responses.length <= 5 ? (
            study.responses.map((r) => (
              <button
                key={r.id}
                type="button"
                className="btn"
                style={{ maxWidth: 190, overflow: "hidden", textOverflow: "ellipsis", display: "inline-block" }}
                aria-pressed={!all && r.id === response.id}
                title={r.name}
                onClick={() => {
                  setAll(false);
                  choose(r.id);
                  setNote(undefined);
                }}
              >
                {r.name}
              </button>
            ))
          ) : (
            <select
              className="field"
              aria-label="Response"
              value={response.id}
              onChange={(e) => {
                setAll(false);
                choose(e.target.value);
                setNote(undefined);
              }}
            >
              {study.responses.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </select>
          )}
          <span className="grow" />
          {study.responses.length > 1 && (
            <button type="button" className="btn" aria-pressed={all} onClick={() => setAll(!all)}>
              All responses
            </button>
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
        />
      ) : !fitted ? (
        <div style={{ border: "1px dashed #bdb49d", borderRadius: 6, padding: 24, maxWidth: 520 }}>
          <h2>No model of {response.name} yet</h2>
          <p style={{ margin: "6px 0 12px" }}>{result && !result.ok ? result.reason : ""}</p>
          <button type="button" className="btn main" onClick={() => router.push(`/studies/${id}/${study.trials.length === 0 ? "plan" : "trials"}`)}>
            {study.trials.length === 0 ? "Weigh plans" : "Enter results"}
          </button>
        </div>
      ) : (
        <div className={css.split}>
          <div className={css.left}>
            <div className="row" style={{ marginBottom: 2 }}>
              <strong className="grow" style={{ fontSize: 13.5 }}>
                Change in {axisName(response.name, unit || undefined)}, low to high
                <span className="quiet" style={{ fontWeight: 400 }}>
                  {" "}
                  (squares: centre to edge)
                </span>
              </strong>
              <Reduce run={reduce} />
            </div>
            <EffectLadder study={study} fitted={fitted} unit={unit} toggle={toggle} marked={marked} />
            {note && (
              <p className="small bracken" role="status" style={{ padding: "4px 0" }}>
                {note}
              </p>
            )}
            {history && history.response === response.id && history.steps.length > 0 && (
              <div className={css.steps} role="list" aria-label="Steps of reducing">
                <button type="button" aria-current={history.at === 0} onClick={() => walk(0)}>
                  <span className="grow">before reducing</span>
                </button>
                {history.steps.map((step, i) => (
                  <button
                    key={`${step.action}-${termKey(step.term)}`}
                    type="button"
                    aria-current={history.at === i + 1}
                    onClick={() => walk(i + 1)}
                    title={`${step.why}; compared with ${step.compared.length} terms`}
                  >
                    <span className="grow">
                      {i + 1}. {step.action === "drop" ? "out" : "in"}: {termName(alphabet, step.term)}
                    </span>
                    <span className="num quiet">
                      {step.value === null ? "" : Math.abs(step.value) < 1 ? pShort(step.value) : figure(step.value, 4)}
                    </span>
                    <span className="num quiet">R²p {step.after.r2Predicted === null ? "–" : step.after.r2Predicted.toFixed(2)}</span>
                  </button>
                ))}
              </div>
            )}
            <div className={css.summary} data-testid="summary">
              <span>
                R² <b>{s?.r2?.toFixed(3) ?? "–"}</b>
              </span>
              <span>
                adjusted <b>{s?.r2Adjusted?.toFixed(3) ?? "–"}</b>
              </span>
              <span>
                predicted <b>{s?.r2Predicted?.toFixed(3) ?? "–"}</b>
              </span>
              <span>
                s <b>{s?.s === null || s?.s === undefined ? "–" : `${figure(s.s, 3)} ${unit}`}</b>
              </span>
              <span>
                df <b>{s?.residualDf}</b>
              </span>
              <span>
                AICc <b>{s?.aicc?.toFixed(1) ?? "–"}</b>
              </span>
            </div>
          </div>
          <div className={css.right}>
            <div className={css.tabs} role="tablist" aria-label="Views">
              {VIEWS.map((v) => (
                <button key={v} type="button" role="tab" aria-selected={view === v} onClick={() => setView(v)}>
                  {v}
                </button>
              ))}
            </div>
            <ViewPanel view={view} shown={late} marked={marked} checks={evidence?.checks} toggle={toggleKey} />
          </div>
        </div>
      )}
    </StationFrame>
  );
}
