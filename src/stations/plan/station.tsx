"use client";
import { App } from "antd";
import { useRouter } from "next/navigation";
import { Fragment, useDeferredValue, useMemo, useState } from "react";
import {
  type Ask,
  additions,
  adoptPlan,
  bendable,
  type Evidence,
  makePlan,
  planReadings,
  readNumber,
  type Sight,
  StudyError,
  sightDetail,
  sightOf,
  sightsFor,
  type TermSetName,
} from "@/core";
import { useDesk } from "@/ui/desk/store";
import { figure, percent } from "@/ui/parts/format";
import { StationFrame } from "@/ui/shell/frame";
import { colours } from "@/ui/theme/theme";
import { CostSight } from "./cost-sight";
import css from "./plan.module.css";
import { SpaceChart } from "./space-chart";
import { TermMap } from "./term-map";

const ASKS: [TermSetName, string][] = [
  ["main", "main effects"],
  ["main+2fi", "+ interactions"],
  ["quadratic", "+ curvature"],
];

/** A whole number typed into a small box; what cannot be read stays and says why. */
function Count({ label, value, least, most, set }: { label: string; value: number; least: number; most: number; set(v: number): void }) {
  const [text, setText] = useState<string | undefined>(undefined);
  const read = readNumber(text ?? String(value));
  const wrong = typeof read !== "number" || !Number.isInteger(read) || read < least || read > most;
  return (
    <label>
      {label}
      <input
        type="text"
        className="field num"
        inputMode="numeric"
        value={text ?? String(value)}
        aria-invalid={wrong}
        title={wrong ? `Type a whole number from ${least} to ${most}.` : undefined}
        style={wrong ? { borderColor: colours.rowan } : undefined}
        onChange={(e) => {
          setText(e.target.value);
          const v = readNumber(e.target.value);
          if (typeof v === "number" && Number.isInteger(v) && v >= least && v <= most) set(v);
        }}
        onBlur={() => !wrong && setText(undefined)}
      />
      {wrong && (
        <span className="rowan small" role="alert">
          {least}–{most}
        </span>
      )}
    </label>
  );
}

/** Degrees of freedom as one bar: model, lack of fit, pure error. */
function DfBar({ df }: { df: Sight["df"] }) {
  const total = Math.max(1, df.model + df.lackOfFit + df.pureError);
  const parts = [
    { n: df.model, fill: colours.heather },
    { n: df.lackOfFit, fill: "#C4A25A" },
    { n: df.pureError, fill: "#8A8268" },
  ];
  let x = 0;
  return (
    <div>
      <svg
        width="100%"
        height="12"
        viewBox="0 0 240 12"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${df.model} model, ${df.lackOfFit} lack of fit, ${df.pureError} pure error`}
      >
        {parts.map((p) => {
          const w = (240 * p.n) / total;
          const at = x;
          x += w;
          return p.n > 0 ? <rect key={p.fill} x={at} width={Math.max(0, w - 1.5)} height="12" rx="2" fill={p.fill} /> : null;
        })}
      </svg>
      <div className="small quiet">
        {df.model} model · {df.lackOfFit} lack of fit · {df.pureError} pure error
      </div>
    </div>
  );
}

/** Weigh plans against what they can tell, pick up to three, adopt one as a wave. */
export function PlanStation() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const id = useDesk((d) => d.id);
  const { message } = App.useApp();
  const [ask, setAsk] = useState<Ask>({
    terms: "main+2fi",
    budget: 40,
    replicates: 1,
    centre: 3,
    power: 0.8,
    alpha: 1 - study.confidence,
    seed: 1,
    standardOrder: false,
  });
  const [responseId, setResponse] = useState<string | undefined>(undefined);
  const [own, setOwn] = useState<{ text: string; sights: Sight[]; sentence: string | undefined }>({ text: "", sights: [], sentence: undefined });
  const [chosen, setChosen] = useState<string[] | undefined>(undefined);
  const [open, setOpen] = useState<Record<string, boolean>>({ map: true, df: true, power: true });
  const deferred = useDeferredValue(ask);
  const judged = study.responses.filter((r) => r.noise !== undefined);
  // The hardest first: the response whose smallest change is smallest against its noise.
  const hardest = [...judged].sort(
    (a, b) => (a.smallest ?? Number.POSITIVE_INFINITY) / (a.noise ?? 1) - (b.smallest ?? Number.POSITIVE_INFINITY) / (b.noise ?? 1),
  )[0];
  const response = judged.find((r) => r.id === responseId) ?? hardest;
  const noise = response?.noise ?? 1;
  const unit = response ? (response.unit ?? "") : "σ";
  const { sights: found, refusals } = useMemo(() => {
    if (study.factors.filter((f) => f.retired === undefined).length < 2) return { sights: [], refusals: [] };
    return sightsFor(study, deferred);
  }, [study, deferred]);
  const sights = useMemo(() => [...found, ...own.sights], [found, own.sights]);
  const usual = useMemo(() => {
    const affordable = sights.filter((s) => s.ratio !== null);
    const first = affordable.find((s) => s.tellsAll) ?? affordable[affordable.length - 1];
    const cheaper = affordable
      .filter((s) => s.n < (first?.n ?? 0))
      .sort((a, b) => b.n - a.n || a.lostTerms.length - b.lostTerms.length || (a.ratio ?? 0) - (b.ratio ?? 0))[0];
    return [cheaper, first].filter((s): s is Sight => s !== undefined).map((s) => s.id);
  }, [sights]);
  const pickedIds = (chosen ?? usual).filter((p) => sights.some((s) => s.id === p));
  const picked = pickedIds.map((p) => sights.find((s) => s.id === p) as Sight);
  const details = useMemo(() => picked.map((s) => sightDetail(study, s, deferred)), [study, picked, deferred]);
  const readings = useMemo(() => planReadings(study, deferred, sights, picked, response?.id), [study, deferred, sights, picked, response?.id]);
  const pick = (plan: string): void => setChosen(pickedIds.includes(plan) ? pickedIds.filter((p) => p !== plan) : [...pickedIds.slice(-2), plan]);
  const adopt = (s: Sight): void => {
    try {
      const plan = makePlan(study, s.options);
      const refused = commit(additions(study, adoptPlan(study, plan, study.waves.length === 0 ? "screen" : "next wave")), `adopted ${s.label}`);
      if (refused) void message.warning(refused);
      else router.push(`/studies/${id}/trials`);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      void message.warning(error.message);
    }
  };
  const addOwn = (): void => {
    try {
      const options = { family: "fraction", generators: own.text, replicates: ask.replicates, centre: ask.centre, seed: ask.seed };
      const plan = makePlan(study, options);
      const sight = { ...sightOf(study, plan, `Own ${plan.recipe.trials}`, options, ask), id: `own-${own.text}-${ask.replicates}-${ask.centre}` };
      setOwn({ text: "", sights: [...own.sights.filter((s) => s.id !== sight.id), sight].slice(-3), sentence: undefined });
      setChosen([...pickedIds.slice(-2), sight.id]);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      setOwn({ ...own, sentence: error.message });
    }
  };
  const show = (evidence: Evidence): void => {
    if (evidence === "responses" || evidence === "factors" || evidence === "region") router.push(`/studies/${id}/question`);
    else {
      const row = evidence === "chains" ? "chains" : evidence === "df" ? "df" : evidence === "power" ? "power" : "map";
      setOpen({ ...open, [row]: true });
      document.getElementById(`row-${row}`)?.scrollIntoView({ block: "center", behavior: "smooth" });
    }
  };
  const rows: { key: string; name: string; note: string; cell(s: Sight, i: number): React.ReactNode }[] = [
    {
      key: "map",
      name: "Term map",
      note: "a cell is one effect, filled by how much of it is its own",
      cell: (s, i) => <TermMap study={study} map={s.map} letter={String.fromCharCode(97 + i)} />,
    },
    { key: "df", name: "Degrees of freedom", note: "model · lack of fit · pure error", cell: (s) => <DfBar df={s.df} /> },
    {
      key: "power",
      name: "Sees",
      note: `at power ${ask.power.toFixed(2)}, α ${figure(ask.alpha)}`,
      cell: (s, i) => (
        <div>
          <span className="num">{s.ratio === null ? "–" : `${figure(s.ratio * noise)} ${unit}`}</span>
          <span className="quiet small">
            {" "}
            {s.noErrorDf ? "by the stated noise alone" : "worst effect"}
            {s.squareRatio !== null ? `; squares ${figure(s.squareRatio * noise)} ${unit}` : ""} · mean prediction error{" "}
            {details[i]?.meanError === null ? "–" : `${figure(details[i]?.meanError ?? 0)} σ`}
          </span>
        </div>
      ),
    },
    {
      key: "chains",
      name: "Chains",
      note: "what one estimate cannot tell apart",
      cell: (s, i) => {
        const d = details[i];
        if (!s.regular) return <span className="small quiet">Not a regular plan: see the correlations in the term map.</span>;
        if (d?.chains.length === 0)
          return (
            <span className="small">
              {s.resolution === null ? "None: every combination is run." : `None among mains and pairs: resolution ${s.resolution}.`}
            </span>
          );
        return (
          <>
            <div className="small quiet">
              resolution {s.resolution}, I = {d?.definingRelation.slice(0, 4).join(" = ")}
              {(d?.definingRelation.length ?? 0) > 4 ? ` = … (${d?.definingRelation.length} words)` : ""}
            </div>
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
      key: "inflation",
      name: "Variance inflation",
      note: "largest; 1 is none",
      cell: (_s, i) => <span className="num">{details[i]?.largestVif === null ? "–" : figure(details[i]?.largestVif ?? 0, 3)}</span>,
    },
    {
      key: "recipe",
      name: "Recipe",
      note: "makes the same trials again",
      cell: (s) => (
        <span className="num small">{[s.options.family, s.plan.recipe.generators, `seed ${s.options.seed}`].filter(Boolean).join(" · ")}</span>
      ),
    },
  ];
  return (
    <StationFrame
      name="Plan"
      readings={readings}
      onShow={show}
      heading={
        <div className={css.asks}>
          <span className="quiet">must tell</span>
          {ASKS.filter(([t]) => t !== "quadratic" || bendable(study)).map(([t, name]) => (
            <button key={t} type="button" className="btn" aria-pressed={ask.terms === t} onClick={() => setAsk({ ...ask, terms: t })}>
              {name}
            </button>
          ))}
          <Count label="up to" value={ask.budget} least={4} most={1024} set={(budget) => setAsk({ ...ask, budget })} />
          <Count label="replicates" value={ask.replicates} least={1} most={16} set={(replicates) => setAsk({ ...ask, replicates })} />
          <Count label="centre points" value={ask.centre} least={0} most={24} set={(centre) => setAsk({ ...ask, centre })} />
          <label>
            power
            <select className="field num" value={ask.power} onChange={(e) => setAsk({ ...ask, power: Number(e.target.value) })}>
              {[0.7, 0.8, 0.9, 0.95, 0.99].map((p) => (
                <option key={p} value={p}>
                  {p.toFixed(2)}
                </option>
              ))}
            </select>
          </label>
        </div>
      }
    >
      {sights.length > 0 ? (
        <>
          <div className={css.key}>
            {judged.length > 0 && (
              <label className="row">
                judged by
                <select className="field" style={{ height: 26, maxWidth: 190 }} value={response?.id} onChange={(e) => setResponse(e.target.value)}>
                  {judged.map((r) => (
                    <option key={r.id} value={r.id}>
                      {r.name}
                    </option>
                  ))}
                </select>
              </label>
            )}
            <span>● tells all asked</span>
            <span>○ leaves some shared</span>
            <label className="row" title="The seed makes the same run order again">
              <input type="checkbox" checked={!ask.standardOrder} onChange={(e) => setAsk({ ...ask, standardOrder: !e.target.checked })} />
              randomise
            </label>
            <span className={css.asks}>
              <Count label="seed" value={ask.seed} least={0} most={999999} set={(seed) => setAsk({ ...ask, seed })} />
            </span>
            <form
              className="row"
              style={{ marginLeft: "auto" }}
              onSubmit={(e) => {
                e.preventDefault();
                addOwn();
              }}
            >
              <input
                className="field num"
                style={{ width: 132, height: 26 }}
                aria-label="Own generators"
                placeholder="E=ABC, F=BCD"
                value={own.text}
                onChange={(e) => setOwn({ ...own, text: e.target.value, sentence: undefined })}
              />
              <button type="submit" className="btn small" disabled={own.text.trim() === ""}>
                Add
              </button>
            </form>
          </div>
          {own.sentence && (
            <p className="rowan small" role="alert">
              {own.sentence}
            </p>
          )}
          <CostSight
            sights={sights}
            picked={pickedIds}
            pick={pick}
            unit={unit}
            noise={noise}
            wanted={response?.smallest}
            name={`smallest change seen, ${unit || "its unit"}`}
            height={226}
          />
          {picked.length > 0 ? (
            <div className={css.picked} style={{ gridTemplateColumns: `124px repeat(${picked.length}, minmax(0, 1fr))` }}>
              <div />
              {picked.map((s, i) => (
                <div key={s.id} className={css.head}>
                  <span className={css.letter}>{String.fromCharCode(97 + i)}</span>
                  <strong className="grow" style={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }} title={s.label}>
                    {s.label}
                    {ask.centre > 0 ? ` + ${ask.centre}` : ""}
                  </strong>
                  <span className={`small ${s.tellsAll ? "moss" : "bracken"}`}>
                    {s.tellsAll ? "all clear of each other" : s.plan.lost > 0 ? `loses ${s.plan.lost} trials` : `${s.lostTerms.length} in chains`}
                  </span>
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
              {rows.map((r) => (
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
                </Fragment>
              ))}
              <div className={css.rowname}>
                <button
                  type="button"
                  className={css.fold}
                  aria-expanded={open.space ?? false}
                  onClick={() => setOpen({ ...open, space: !open.space })}
                >
                  <strong style={{ color: "var(--ink)" }}>{open.space ? "▾" : "▸"} Prediction error</strong>
                </button>
              </div>
              <div className={css.cell} style={{ gridColumn: `2 / span ${picked.length}` }}>
                {open.space && (
                  <SpaceChart curves={picked.map((_, i) => ({ letter: String.fromCharCode(97 + i), points: details[i]?.space ?? [] }))} />
                )}
              </div>
            </div>
          ) : (
            <p className={css.empty}>Pick up to three plans in the chart to read them side by side.</p>
          )}
        </>
      ) : (
        <p className={css.empty}>
          {study.factors.length < 2
            ? "Plans appear here once Question lists two factors."
            : (refusals[0]?.text ?? `No plan fits ${ask.budget} trials; raise the budget.`)}
        </p>
      )}
      {refusals.length > 0 && sights.length > 0 && (
        <p className="small quiet" style={{ marginTop: 8 }}>
          Not on offer: {refusals.map((r) => r.text).join(" ")}
        </p>
      )}
      {study.trials.length > 0 && (
        <p className="small quiet" style={{ marginTop: 8 }}>
          The ledger holds {study.trials.length} trials, {percent(study.trials.filter((t) => t.state === "done").length / study.trials.length)} of
          them run. A further wave is added to it; nothing is replaced.
        </p>
      )}
    </StationFrame>
  );
}
