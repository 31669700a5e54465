"use client";
import { useRouter } from "next/navigation";
import { Fragment, useDeferredValue, useMemo, useState } from "react";
import {
  additions,
  adoptPlan,
  bendable,
  type Evidence,
  edit,
  hardestResponse,
  judgedResponses,
  missingFractions,
  type PlanDetail,
  type PlanOptions,
  type PlanRequest,
  type PlanSummary,
  planCsv,
  planReadings,
  planRisks,
  requestedTerms,
  riskOf,
  type Study,
  significance,
  type TermSetName,
} from "@/core";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { figure, percent } from "@/ui/parts/format";
import { say } from "@/ui/parts/say";
import { StationFrame } from "@/ui/shell/frame";
import { CostChart } from "./cost-chart";
import { Count } from "./count";
import { ImportTrials } from "./import-trials";
import { NextWave } from "./next-wave";
import { OwnPlan } from "./own-plan";
import css from "./plan.module.css";
import { PowerChart, SpaceChart } from "./rows/curves";
import { DfBar } from "./rows/df-bar";
import { PointsMatrix } from "./rows/points-matrix";
import { TradeCurve } from "./rows/trade-curve";
import { TermMap } from "./term-map";
import { TermPicker } from "./term-picker";
import { useDetails } from "./use-details";
import { useOwnPlans } from "./use-own-plans";
import { usePlanSummaries } from "./use-plan-summaries";

const ASKS: [TermSetName, string][] = [
  ["main", "main effects"],
  ["main+2fi", "+ interactions"],
  ["quadratic", "+ curvature"],
];

/** Saves text as a file. */
function saveText(text: string, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

const efficiencyText = (v: number | null): string => (v === null ? "–" : `${figure(v, 3)} %`);

/** What makes the same trials again, in a line. */
const recipeText = (r: PlanSummary["plan"]["recipe"]): string =>
  [
    r.family,
    r.generators,
    r.axial !== undefined ? `axial ${r.axial}` : undefined,
    r.criterion,
    typeof r.terms === "string" ? r.terms : r.terms ? `${r.terms.length} terms` : undefined,
    r.keepEfficiency !== undefined ? `keeps ${r.keepEfficiency}` : undefined,
    r.starts !== undefined ? `${r.starts} starts` : undefined,
    `seed ${r.seed}`,
  ]
    .filter(Boolean)
    .join(" · ");

/** What could go wrong with a plan, in words; of a next wave its own cautions first. */
const risksOf = (study: Study, ask: PlanRequest, s: PlanSummary, d: PlanDetail | undefined): string[] => [
  ...(s.follow?.cautions ?? []),
  ...(d ? planRisks(study, ask, s, d).map((r) => riskOf(r)) : []),
];

/** Weigh plans against what they can tell, pick up to three, adopt one as a wave. */
export function PlanStation() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const id = useDesk((d) => d.id);
  const [request, setAsk] = useState<PlanRequest>({
    terms: "main+2fi",
    budget: 40,
    replicates: 1,
    centre: 3,
    blocks: 1,
    power: 0.8,
    alpha: significance(study),
    seed: 1,
    standardOrder: false,
    // A wave that follows is judged with what was run before it.
    together: study.trials.some((t) => t.state !== "skipped" && t.state !== "failed"),
  });
  const [responseId, setResponse] = useState<string | undefined>(undefined);
  const [chosen, setChosen] = useState<string[] | undefined>(undefined);
  const [open, setOpen] = useState<Record<string, boolean>>({ map: true, df: true, risks: true });
  const [naming, setNaming] = useState<{ plan: string; text: string } | undefined>(undefined);
  const [importing, setImporting] = useState(false);
  const deferred = useDeferredValue(request);
  const judged = judgedResponses(study);
  const response = judged.find((r) => r.id === responseId) ?? hardestResponse(study);
  const noise = response?.noise ?? 1;
  const unit = response ? (response.unit ?? "") : "σ";
  const search = usePlanSummaries(study, deferred);
  const ownPlans = useOwnPlans(study, deferred);
  const { refusals } = search.step;
  const summaries = useMemo(
    () => [...search.step.summaries, ...ownPlans.summaries],
    [search.step.summaries, ownPlans.summaries],
  );
  const follows = useMemo(() => summaries.filter((s) => s.follow), [summaries]);
  const usual = useMemo(() => {
    const needed = follows.filter((s) => s.follow?.why).slice(0, 2);
    if (needed.length > 0) return needed.map((s) => s.id);
    const affordable = summaries.filter((s) => s.ratio !== null && !s.follow);
    const able = affordable.filter((s) => s.tellsAll);
    // The cheapest that tells all, the sharpest that does, and what is left cheaper than both.
    const first = able.find((s) => !s.noErrorDf) ?? able[0] ?? affordable[affordable.length - 1];
    const cheaper = affordable
      .filter((s) => s.n < (first?.n ?? 0))
      .sort((a, b) => b.n - a.n || a.lostTerms.length - b.lostTerms.length || (a.ratio ?? 0) - (b.ratio ?? 0))[0];
    return [cheaper, first].filter((s): s is PlanSummary => s !== undefined).map((s) => s.id);
  }, [summaries, follows]);
  const pickedIds = (chosen ?? usual).filter((p) => summaries.some((s) => s.id === p));
  const pickedKey = pickedIds.join("|");
  // The ids say which; a new list of the same plans is no news.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const picked = useMemo(
    () => pickedIds.map((p) => summaries.find((s) => s.id === p) as PlanSummary),
    [pickedKey, summaries],
  );
  // What opens below takes longer than a frame for large plans: the pick itself is shown first.
  const late = useDeferredValue(picked);
  const view = useStudyView();
  const known = useDetails(view, late, deferred);
  const details = picked.map((s) => known.get(s.id));
  const readings = useMemo(
    () => planReadings(study, deferred, summaries, picked, response?.id),
    [study, deferred, summaries, picked, response?.id],
  );
  const pick = (plan: string): void =>
    setChosen(pickedIds.includes(plan) ? pickedIds.filter((p) => p !== plan) : [...pickedIds.slice(-2), plan]);
  const letterOf = (i: number): string => String.fromCharCode(97 + i);
  const adopt = (s: PlanSummary): void => {
    const refused = commit(
      additions(
        study,
        adoptPlan(study, s.plan, s.follow?.purpose ?? (study.waves.length === 0 ? "screen" : "next wave")),
      ),
      `adopted ${s.label}`,
    );
    if (refused) say(refused);
    else router.push(`/studies/${id}/trials`);
  };
  const addOwn = (options: PlanOptions): void => setChosen([...pickedIds.slice(-2), ownPlans.add(options)]);
  const keep = (s: PlanSummary, name: string): void => {
    const text = name.trim();
    if (text === "") {
      setNaming(undefined);
      return;
    }
    const known = study.rivals.find((r) => s.id === `rival ${r.id}`);
    const taken = new Set(study.rivals.map((r) => r.id));
    let n = study.rivals.length + 1;
    while (taken.has(`plan${n}`)) n++;
    const refused = commit(
      [
        known
          ? edit(study, ["rivals", known.id, "name"], text)
          : edit(study, ["rivals", `plan${n}`], {
              id: `plan${n}`,
              name: text,
              recipe: JSON.parse(JSON.stringify(s.plan.recipe)),
            }),
      ],
      `kept the plan ${text}`,
    );
    if (refused) say(refused);
    else if (!known) setChosen(pickedIds.map((p) => (p === s.id ? `rival plan${n}` : p)));
    setNaming(undefined);
  };
  const forget = (s: PlanSummary): void => {
    const known = study.rivals.find((r) => s.id === `rival ${r.id}`);
    if (known) commit([edit(study, ["rivals", known.id], null)], `let go of the plan ${known.name}`);
  };
  const show = (evidence: Evidence): void => {
    if (evidence === "responses" || evidence === "factors" || evidence === "region")
      router.push(`/studies/${id}/question`);
    else {
      const row = evidence === "chains" ? "chains" : evidence === "df" ? "df" : evidence === "power" ? "power" : "map";
      setOpen({ ...open, [row]: true });
      document.getElementById(`row-${row}`)?.scrollIntoView({ block: "center", behavior: "smooth" });
    }
  };
  const rows: {
    key: string;
    name: string;
    note: string;
    cell(s: PlanSummary, i: number): React.ReactNode;
    across?: React.ReactNode;
  }[] = [
    {
      key: "map",
      name: "Term map",
      note: "a cell is one effect, filled by how much of it is its own",
      cell: (s, i) => <TermMap study={study} map={s.map} letter={letterOf(i)} />,
    },
    {
      key: "df",
      name: "Degrees of freedom",
      note: "model · lack of fit · pure error",
      cell: (s) => <DfBar df={s.df} />,
    },
    {
      key: "risks",
      name: "Risks",
      note: "what could go wrong",
      cell: (s, i) => {
        const risks = risksOf(study, deferred, s, details[i]);
        return (
          <ul className={css.risks}>
            {risks.length === 0 ? <li>None that the plan itself shows.</li> : risks.map((r) => <li key={r}>{r}</li>)}
          </ul>
        );
      },
    },
    {
      key: "power",
      name: "Power",
      note: `α ${figure(request.alpha)}; for the hardest effect asked`,
      across: (
        <PowerChart
          summaries={picked}
          noise={noise}
          unit={unit}
          wanted={response?.smallest}
          alpha={request.alpha}
          power={request.power}
        />
      ),
      cell: (s) => (
        <div className="small">
          sees{" "}
          <span className="num" style={{ fontSize: 14 }}>
            {s.ratio === null ? "–" : `${figure(s.ratio * noise)} ${unit}`}
          </span>{" "}
          at power {request.power.toFixed(2)}
          {s.noErrorDf ? ", by the stated noise alone" : ""}
          {s.squareRatio !== null ? `; bends ${figure(s.squareRatio * noise)} ${unit}` : ""}
        </div>
      ),
    },
    {
      key: "chains",
      name: "Chains",
      note: "what one estimate cannot tell apart",
      cell: (s, i) => {
        const d = details[i];
        if (!s.regular)
          return (
            <span className="small quiet">Not a regular plan: the term map and the risks show what is shared.</span>
          );
        if (d?.chains.length === 0)
          return (
            <span className="small">
              {s.resolution === null
                ? "None: every combination is run."
                : `None among mains and pairs: resolution ${s.resolution}.`}
            </span>
          );
        return (
          <>
            <div className="small quiet">
              resolution {s.resolution}, I = {d?.definingRelation.slice(0, 4).join(" = ")}
              {(d?.definingRelation.length ?? 0) > 4 ? ` = … (${d?.definingRelation.length} words)` : ""}
            </div>
            {s.plan.recipe.generators && (
              <div className="small quiet">
                missing fractions:{" "}
                <span className="num">
                  {missingFractions(s.plan.recipe.generators)
                    .slice(0, 2)
                    .map((g) => g.replaceAll("-", "−"))
                    .join(" or ")}
                </span>
                {missingFractions(s.plan.recipe.generators).length > 2
                  ? ` and ${missingFractions(s.plan.recipe.generators).length - 2} more`
                  : ""}
              </div>
            )}
            <div className={css.chains} tabIndex={0} role="region" aria-label="Alias chains">
              {d?.chains.map((c) => (
                <span key={c}>{c}</span>
              ))}
            </div>
          </>
        );
      },
    },
    {
      key: "space",
      name: "Prediction error",
      note: "over the region, in σ",
      across: <SpaceChart curves={picked.map((_, i) => ({ letter: letterOf(i), points: details[i]?.space ?? [] }))} />,
      cell: (_s, i) => (
        <div className="small">
          on average{" "}
          <span className="num" style={{ fontSize: 14 }}>
            {typeof details[i]?.meanError === "number" ? `${figure(details[i]?.meanError ?? 0)} σ` : "–"}
          </span>
        </div>
      ),
    },
    {
      key: "efficiency",
      name: "Efficiency and inflation",
      note: "for what is asked and can be estimated",
      cell: (_s, i) => {
        const d = details[i];
        return (
          <div className="small num">
            D {efficiencyText(d?.efficiency.d ?? null)} · A {efficiencyText(d?.efficiency.a ?? null)} · G{" "}
            {efficiencyText(d?.efficiency.g ?? null)}
            <br />
            variance inflated up to {d?.largestVif === null || d === undefined ? "–" : figure(d.largestVif, 3)} · alias
            trace {d?.aliasTrace === null || d === undefined ? "–" : figure(d.aliasTrace, 3)}
          </div>
        );
      },
    },
    {
      key: "points",
      name: "Where it runs",
      note: "trials over every pair of factors; shaded: excluded",
      cell: (s, i) => <PointsMatrix study={study} plan={s.plan} letter={letterOf(i)} />,
    },
    {
      key: "trade",
      name: "Aliasing traded",
      note: "alias trace against D-efficiency given up",
      cell: (s) =>
        s.options.family === "least-aliasing" ? (
          <TradeCurve study={study} options={s.options} pick={addOwn} />
        ) : (
          <span className="small quiet">Only for plans of least aliasing.</span>
        ),
    },
    {
      key: "recipe",
      name: "Recipe",
      note: "makes the same trials again",
      cell: (s) => <span className="num small">{recipeText(s.plan.recipe)}</span>,
    },
  ];
  // Rows that say nothing of any plan picked stay away.
  const shownRows = rows.filter((r) => r.key !== "trade" || picked.some((s) => s.options.family === "least-aliasing"));
  const picking = typeof request.terms !== "string";
  return (
    <StationFrame
      name="Plan"
      readings={readings}
      onShow={show}
      heading={
        <div className={css.asks}>
          <span className="quiet">must tell</span>
          {ASKS.filter(([t]) => t !== "quadratic" || bendable(study)).map(([t, name]) => (
            <button
              key={t}
              type="button"
              className="btn"
              aria-pressed={request.terms === t}
              onClick={() => setAsk({ ...request, terms: t })}
            >
              {name}
            </button>
          ))}
          <TermPicker
            study={study}
            terms={requestedTerms(study, request)}
            active={picking}
            set={(terms) => setAsk({ ...request, terms })}
          />
          <Count
            label="up to"
            value={request.budget}
            least={4}
            most={1024}
            set={(budget) => setAsk({ ...request, budget })}
          />
          <Count
            label="replicates"
            value={request.replicates}
            least={1}
            most={16}
            set={(replicates) => setAsk({ ...request, replicates })}
          />
          <Count
            label="centre points"
            value={request.centre}
            least={0}
            most={24}
            set={(centre) => setAsk({ ...request, centre })}
          />
          <Count
            label="blocks"
            value={request.blocks}
            least={1}
            most={16}
            set={(blocks) => setAsk({ ...request, blocks })}
          />
        </div>
      }
    >
      {follows.length > 0 && (
        <NextWave
          study={study}
          follows={follows}
          ask={deferred}
          noise={noise}
          unit={unit}
          picked={pickedIds}
          pick={pick}
          adopt={adopt}
        />
      )}
      {summaries.length > 0 ? (
        <>
          <div className={css.key}>
            {judged.length > 0 && (
              <label className="row">
                judged by
                <select
                  className="field"
                  style={{ height: 26, maxWidth: 150 }}
                  value={response?.id}
                  onChange={(e) => setResponse(e.target.value)}
                >
                  {judged.map((r) => (
                    <option key={r.id} value={r.id}>
                      {r.name}
                    </option>
                  ))}
                </select>
              </label>
            )}
            <label className="row">
              at power
              <select
                className="field num"
                style={{ height: 26 }}
                value={request.power}
                onChange={(e) => setAsk({ ...request, power: Number(e.target.value) })}
              >
                {[0.7, 0.8, 0.9, 0.95, 0.99].map((p) => (
                  <option key={p} value={p}>
                    {p.toFixed(2)}
                  </option>
                ))}
              </select>
            </label>
            <span>● tells all asked</span>
            <span>○ leaves some shared</span>
            <label className="row" title="The seed makes the same run order again">
              <input
                type="checkbox"
                checked={!request.standardOrder}
                onChange={(e) => setAsk({ ...request, standardOrder: !e.target.checked })}
              />
              randomise
            </label>
            <span className={css.asks}>
              <Count
                label="seed"
                value={request.seed}
                least={0}
                most={999999}
                set={(seed) => setAsk({ ...request, seed })}
              />
            </span>
            <span style={{ marginLeft: "auto" }} className="row">
              <button type="button" className="link" onClick={() => setImporting(true)}>
                trials run elsewhere
              </button>
              <OwnPlan study={study} ask={request} add={addOwn} busy={ownPlans.running} sentence={ownPlans.trouble} />
            </span>
          </div>
          <div className={css.search} role="status" data-searching={search.running ? "yes" : "no"}>
            {ownPlans.running && (
              <span>
                own plan: {ownPlans.text ?? "starting"}{" "}
                <button type="button" className="link" onClick={ownPlans.stop}>
                  stop and keep the best
                </button>
              </span>
            )}
            {search.running && !ownPlans.running && (
              <span>
                {search.progress?.text || "looking at plans"} · {percent(search.progress?.done ?? 0)}{" "}
                <button type="button" className="link" onClick={search.stop}>
                  stop and keep the best
                </button>
              </span>
            )}
            {!search.running && search.step.text === "stopped" && (
              <span>
                Stopped; what was found stands.{" "}
                <button type="button" className="link" onClick={search.again}>
                  search on
                </button>
              </span>
            )}
            {ownPlans.trouble && !ownPlans.running && <span className="rowan">Own plan: {ownPlans.trouble}</span>}
            {search.trouble && <span className="rowan">{search.trouble}</span>}
          </div>
          <CostChart
            summaries={summaries}
            picked={pickedIds}
            pick={pick}
            unit={unit}
            noise={noise}
            wanted={response?.smallest}
            name={`smallest change seen, ${unit || "its unit"}`}
            height={226}
          />
          {picked.length > 0 ? (
            <div
              className={css.picked}
              style={{ gridTemplateColumns: `124px repeat(${picked.length}, minmax(0, 1fr))` }}
            >
              <div />
              {picked.map((s, i) => (
                <div key={s.id} className={css.head}>
                  <span className={css.letter}>{letterOf(i)}</span>
                  {naming?.plan === s.id ? (
                    <input
                      className="field grow"
                      style={{ minWidth: 60, height: 26 }}
                      aria-label="Name of the plan"
                      autoFocus
                      maxLength={80}
                      value={naming.text}
                      onChange={(e) => setNaming({ plan: s.id, text: e.target.value })}
                      onBlur={() => keep(s, naming.text)}
                      onKeyDown={(e) => {
                        if (e.key === "Enter") keep(s, naming.text);
                        if (e.key === "Escape") setNaming(undefined);
                      }}
                    />
                  ) : (
                    <strong
                      className="grow"
                      style={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}
                      title={s.label}
                    >
                      {s.label}
                      {(s.options.centre ?? 0) > 0 && !s.rival && !s.follow ? ` + ${s.options.centre}` : ""}
                    </strong>
                  )}
                  <button
                    type="button"
                    className={`btn small ${s.tellsAll || picked.length === 1 ? "main" : ""}`}
                    onClick={() => adopt(s)}
                    data-adopt={s.id}
                  >
                    Adopt as wave {study.waves.length + 1}
                  </button>
                </div>
              ))}
              <div className={css.rowname} />
              {picked.map((s) => (
                <div key={s.id} className={css.verdict}>
                  <span className={`small ${s.tellsAll ? "moss" : "bracken"}`}>
                    {s.n} trials ·{" "}
                    {s.tellsAll
                      ? "tells all that is asked"
                      : s.plan.excluded > 0
                        ? `loses ${s.plan.excluded} ${s.plan.excluded === 1 ? "trial" : "trials"} to the region`
                        : `${s.lostTerms.length} of ${requestedTerms(study, deferred).length} cannot be told apart`}
                  </span>
                  <span className="grow" />
                  {!s.follow && (
                    <button
                      type="button"
                      className="link small"
                      onClick={() => setNaming({ plan: s.id, text: s.rival ?? s.label })}
                    >
                      {s.rival ? "rename" : "keep"}
                    </button>
                  )}
                  {s.rival && (
                    <button type="button" className="link small" onClick={() => forget(s)}>
                      let go
                    </button>
                  )}
                  <button
                    type="button"
                    className="link small"
                    onClick={() => saveText(planCsv(study, s.plan), `${s.label}.csv`)}
                  >
                    CSV
                  </button>
                </div>
              ))}
              {shownRows.map((r) => (
                <Fragment key={r.key}>
                  <div className={css.rowname} id={`row-${r.key}`}>
                    <button
                      type="button"
                      className={css.fold}
                      aria-expanded={open[r.key] ?? false}
                      onClick={() => setOpen({ ...open, [r.key]: !open[r.key] })}
                    >
                      <strong style={{ color: "var(--ink)" }}>
                        {open[r.key] ? "▾" : "▸"} {r.name}
                      </strong>
                    </button>
                    {open[r.key] && <div>{r.note}</div>}
                  </div>
                  {picked.map((s, i) => (
                    <div key={s.id} className={css.cell}>
                      {open[r.key] && r.cell(s, i)}
                    </div>
                  ))}
                  {open[r.key] && r.across && (
                    <>
                      <div className={css.rowname} />
                      <div className={css.cell} style={{ gridColumn: `2 / span ${picked.length}` }}>
                        {r.across}
                      </div>
                    </>
                  )}
                </Fragment>
              ))}
            </div>
          ) : (
            <p className={css.empty}>Pick up to three plans in the chart to read them side by side.</p>
          )}
        </>
      ) : (
        <div className={css.empty}>
          <p>
            {study.factors.length < 2
              ? "Plans appear here once Question lists two factors."
              : search.running
                ? "Looking at plans…"
                : (search.trouble ?? refusals[0]?.text ?? `No plan fits ${request.budget} trials; raise the budget.`)}
          </p>
          {study.factors.length >= 2 && (
            <p style={{ marginTop: 8 }}>
              <button type="button" className="btn" onClick={() => setImporting(true)}>
                Take trials run elsewhere
              </button>
            </p>
          )}
        </div>
      )}
      {refusals.length > 0 && summaries.length > 0 && (
        <details className="small quiet" style={{ marginTop: 8 }}>
          <summary>
            Not on offer here: {refusals.length} {refusals.length === 1 ? "kind of plan" : "kinds of plans"}
          </summary>
          {refusals.map((r) => (
            <p key={`${r.family}${r.text}`}>{r.text}</p>
          ))}
        </details>
      )}
      {study.trials.length > 0 && (
        <p className="small quiet" style={{ marginTop: 8 }}>
          The ledger holds {study.trials.length} trials,{" "}
          {percent(study.trials.filter((t) => t.state === "done").length / study.trials.length)} of them run. A further
          wave is added to it; nothing is replaced.
        </p>
      )}
      {importing && (
        <ImportTrials
          close={(took) => {
            setImporting(false);
            if (took) router.push(`/studies/${id}/trials`);
          }}
        />
      )}
    </StationFrame>
  );
}
