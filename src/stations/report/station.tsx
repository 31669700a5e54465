"use client";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import {
  activeFactors,
  alphabetOf,
  answerOf,
  type Confirmation,
  confirmation,
  equationOf,
  forbiddenText,
  goalText,
  isNumeric,
  limitText,
  missedLimits,
  questionOf,
  rangeText,
  reportReadings,
  type Study,
  storedModel,
  suspectOf,
  termName,
} from "@/core";
import { linear } from "@/ui/charts/axes";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { useEvidence } from "@/ui/compute/use-evidence";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { axisName, figure, ownError, settingText, shareText, valueText } from "@/ui/parts/format";
import { StationFrame } from "@/ui/shell/frame";
import { colours } from "@/ui/theme/theme";
import { LedgerSection } from "./ledger-section";
import css from "./report.module.css";

const SECTIONS = ["Question", "Plan", "Ledger", "Models", "Setpoint"] as const;
type Section = (typeof SECTIONS)[number];

/** Saves an SVG drawn on the page as a file of its own. */
function saveSvg(svg: SVGSVGElement | null, name: string): void {
  if (!svg) return;
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  const url = URL.createObjectURL(new Blob([new XMLSerializer().serializeToString(copy)], { type: "image/svg+xml" }));
  const a = document.createElement("a");
  a.href = url;
  a.download = `${name}.svg`;
  a.click();
  URL.revokeObjectURL(url);
}

/** Bars of the terms in a model with their intervals: the ladder as it prints. */
function EffectFigure({ response }: { response: string }) {
  const study = useDesk((d) => d.study);
  const svg = useRef<SVGSVGElement>(null);
  const f = useStudyView().fitted(response);
  if (!f.ok) return null;
  const rungs = f.fitted.ladder.rungs.filter((r) => r.inModel);
  const about = study.responses.find((r) => r.id === response);
  const reach = Math.max(...rungs.flatMap((r) => [Math.abs(r.size ?? 0), ...(r.interval ?? []).map(Math.abs)]), 1e-12);
  const x = linear([-reach, reach], [300, 690]);
  const height = rungs.length * 20 + 40;
  return (
    <figure style={{ margin: "6px 0" }}>
      <svg
        ref={svg}
        viewBox={`0 0 720 ${height}`}
        width="100%"
        role="img"
        aria-label={`Effects on ${about?.name}`}
        fontFamily="Source Sans 3, sans-serif"
      >
        <line x1={x(0)} x2={x(0)} y1="0" y2={rungs.length * 20} stroke="#B8AC90" />
        {rungs.map((r, i) => (
          <g key={r.key} transform={`translate(0 ${i * 20})`}>
            <text x="288" y="14" textAnchor="end" fontSize="12.5" fill={colours.ink}>
              {r.name}
            </text>
            <rect
              x={Math.min(x(0), x(r.size ?? 0))}
              width={Math.abs(x(r.size ?? 0) - x(0))}
              y="4"
              height="12"
              fill={colours.heather}
            />
            {r.interval && (
              <line
                x1={x(r.interval[0])}
                x2={x(r.interval[1])}
                y1="10"
                y2="10"
                stroke={colours.ink}
                strokeWidth="1.5"
              />
            )}
          </g>
        ))}
        {x.ticks(5).map((t) => (
          <text key={t} x={x(t)} y={rungs.length * 20 + 14} textAnchor="middle" fontSize="11" fill={colours.quiet}>
            {figure(t)}
          </text>
        ))}
        <text x={x(0)} y={rungs.length * 20 + 32} textAnchor="middle" fontSize="12" fill={colours.ink}>
          change in {axisName(about?.name ?? "", about?.unit)}, low to high (squares: centre to edge)
        </text>
      </svg>
      <button
        type="button"
        className="link small"
        data-print="no"
        onClick={() => saveSvg(svg.current, `effects-${response}`)}
      >
        save figure as SVG
      </button>
    </figure>
  );
}

function ChecksInWords({ study, response }: { study: Study; response: string }) {
  const evidence = useEvidence(study, response);
  if (!evidence) return <p className="small quiet">Working out the checks…</p>;
  return evidence.checks.map((c) => (
    <p key={c.id} className="small">
      {questionOf(c.id)} {answerOf(c)}
    </p>
  ));
}

/** Both halves of a confirmation, and what to suspect where it does not agree. */
function ConfirmationInWords({ study, tested }: { study: Study; tested: Confirmation }) {
  return (
    <p>
      {tested.trials.length} trials{" "}
      {tested.agrees === null
        ? "are planned or not all measured yet."
        : tested.agrees
          ? "agree with the prediction: every mean lies inside its interval."
          : "do not agree with the prediction."}{" "}
      {tested.meetsLimits === null
        ? ""
        : tested.meetsLimits
          ? "Every limit is met. "
          : `Short of its limit: ${missedLimits(study, tested).join(", ")}. `}
      {tested.suspects.map((s) => suspectOf(s)).join(" ")}
    </p>
  );
}

/** A page as it will print: question, plan, ledger, models, setpoint. */
export function ReportStation() {
  const study = useDesk((d) => d.study);
  const figures = useStudyView();
  const id = useDesk((d) => d.id);
  const [shown, setShown] = useState<Record<Section, boolean>>({
    Question: true,
    Plan: true,
    Ledger: true,
    Models: true,
    Setpoint: true,
  });
  const alphabet = alphabetOf(study);
  const factors = activeFactors(study);
  const modelled = study.responses.filter((r) => storedModel(study, r.id));
  // As the station opens the question stands first, what rests on models a moment later.
  const opened = useDeferredValue(true, false);
  const tested = useMemo(() => (opened ? confirmation(study) : undefined), [study, opened]);
  const readings = useMemo(() => reportReadings(study, opened ? (tested ?? null) : undefined), [study, tested, opened]);
  const setpoint = study.setpoint;
  const complete =
    setpoint && study.factors.every((f) => f.retired !== undefined || setpoint.settings[f.id] !== undefined);
  return (
    <StationFrame
      name="Report"
      readings={readings}
      heading={
        <div className={`${css.switches} grow`} data-print="no">
          {SECTIONS.map((s) => (
            <label key={s} className="row" style={{ gap: 4 }}>
              <input
                type="checkbox"
                checked={shown[s]}
                onChange={(e) => setShown({ ...shown, [s]: e.target.checked })}
              />
              {s}
            </label>
          ))}
          <span className="grow" />
          <a
            className="btn"
            style={{ textDecoration: "none", color: "inherit" }}
            href={`/api/studies/${id}/export?format=csv`}
          >
            Ledger CSV
          </a>
          <a
            className="btn"
            style={{ textDecoration: "none", color: "inherit" }}
            href={`/api/studies/${id}/export?format=json`}
          >
            Study file
          </a>
          <button type="button" className="btn main" onClick={() => window.print()}>
            Print or save PDF
          </button>
        </div>
      }
    >
      <article className={css.sheet} data-testid="report">
        <h1>{study.title}</h1>
        {study.notes && <p style={{ marginTop: 6 }}>{study.notes}</p>}
        {shown.Question && (
          <section>
            <h2>Question</h2>
            <table>
              <thead>
                <tr>
                  <th>Response</th>
                  <th>Aim</th>
                  <th>Limits</th>
                  <th data-n>Importance</th>
                  <th data-n>Noise</th>
                  <th data-n>Smallest change</th>
                  <th>Desirability</th>
                </tr>
              </thead>
              <tbody>
                {study.responses.map((r) => (
                  <tr key={r.id}>
                    <td>{axisName(r.name, r.unit)}</td>
                    <td>{r.goal.aim}</td>
                    <td>{goalText(r.goal)}</td>
                    <td data-n>{r.importance}</td>
                    <td data-n>{r.noise ?? "–"}</td>
                    <td data-n>{r.smallest ?? "–"}</td>
                    <td>
                      <DesirabilityCurve goal={r.goal} name={r.name} width={90} height={20} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <table>
              <thead>
                <tr>
                  <th />
                  <th>Factor</th>
                  <th>Range or levels</th>
                  <th data-n>Step</th>
                  <th data-n>± set</th>
                  <th>To change</th>
                </tr>
              </thead>
              <tbody>
                {study.factors.map((f) => (
                  <tr key={f.id}>
                    <td>{f.letter}</td>
                    <td>{axisName(f.name, f.unit)}</td>
                    <td>{f.retired !== undefined ? `retired, held at ${settingText(f.retired)}` : rangeText(f)}</td>
                    <td data-n>{f.kind === "continuous" ? (f.step ?? "–") : ""}</td>
                    <td data-n>{f.kind === "continuous" ? (f.tolerance ?? "–") : ""}</td>
                    <td>{f.change}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {study.region.limits.map((l) => (
              <p key={limitText(study, l)}>Limit: {limitText(study, l)}</p>
            ))}
            {study.region.forbidden.map((c) => (
              <p key={forbiddenText(study, c)}>Never: {forbiddenText(study, c)}</p>
            ))}
          </section>
        )}
        {shown.Plan && study.waves.length > 0 && (
          <section>
            <h2>Plan</h2>
            <table>
              <thead>
                <tr>
                  <th>Wave</th>
                  <th>Purpose</th>
                  <th>Recipe</th>
                  <th data-n>Trials</th>
                  <th data-n>Run</th>
                </tr>
              </thead>
              <tbody>
                {study.waves.map((w) => {
                  const trials = study.trials.filter((t) => t.wave === w.id);
                  return (
                    <tr key={w.id}>
                      <td>{w.name}</td>
                      <td>{w.purpose}</td>
                      <td>
                        {[
                          w.plan.family,
                          w.plan.generators,
                          w.plan.centre ? `${w.plan.centre} centre` : "",
                          w.plan.seed === undefined ? "" : `seed ${w.plan.seed}`,
                        ]
                          .filter(Boolean)
                          .join(", ")}
                      </td>
                      <td data-n>{trials.length}</td>
                      <td data-n>{trials.filter((t) => t.state === "done").length}</td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </section>
        )}
        {shown.Models &&
          modelled.map((r) => {
            const f = figures.fitted(r.id);
            if (!f.ok) return null;
            const { fit } = f.fitted;
            const eq = equationOf(study, fit, f.fitted.predictor.model);
            return (
              <section key={r.id}>
                <h2>{r.name}</h2>
                <p>
                  {fit.n} trials, {fit.terms.length} terms: R² {shareText(fit.summary.r2)}, adjusted{" "}
                  {shareText(fit.summary.r2Adjusted)}, predicted {shareText(fit.summary.r2Predicted)}; s{" "}
                  {fit.summary.s === null ? "–" : figure(fit.summary.s, 3)} {fit.model.units ?? ""} on{" "}
                  {fit.summary.residualDf} df.
                </p>
                <EffectFigure response={r.id} />
                <table>
                  <thead>
                    <tr>
                      <th>Term</th>
                      <th data-n>Coefficient (coded)</th>
                      <th data-n>Standard error</th>
                      <th data-n>{Math.round(100 * study.confidence)} % interval</th>
                      <th data-n>p</th>
                    </tr>
                  </thead>
                  <tbody>
                    {fit.parameters.map((p) => (
                      <tr key={`${p.term.join("*")}-${p.level}`}>
                        <td>
                          {termName(alphabet, p.term)}
                          {p.level ? ` [${p.level}]` : ""}
                        </td>
                        <td data-n>{valueText(undefined, p.coefficient, p.standardError)}</td>
                        <td data-n>{p.standardError === null ? "–" : figure(p.standardError)}</td>
                        <td data-n>
                          {p.interval
                            ? p.interval.map((v) => valueText(undefined, v, p.standardError)).join(" to ")
                            : "–"}
                        </td>
                        <td data-n>{p.p === null ? "–" : p.p < 0.0001 ? "<.0001" : p.p.toFixed(4)}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {eq.natural.slice(0, 4).map((n) => (
                  <p key={JSON.stringify(n.when)} className="num" style={{ fontSize: 11.5, marginTop: 4 }}>
                    {r.name}
                    {n.when ? ` (${Object.values(n.when).join(", ")})` : ""} = {n.text}
                  </p>
                ))}
                <ChecksInWords study={study} response={r.id} />
              </section>
            );
          })}
        {opened && shown.Setpoint && setpoint && complete && (
          <section>
            <h2>Setpoint</h2>
            <p>
              {factors
                .map(
                  (f) =>
                    `${f.name} ${settingText(setpoint.settings[f.id])}${isNumeric(f) && f.unit ? ` ${f.unit}` : ""}`,
                )
                .join(", ")}
              .{tested ? "" : " Not confirmed by trials of its own."}
            </p>
            <table>
              <thead>
                <tr>
                  <th>Response</th>
                  <th data-n>Predicted</th>
                  <th data-n>Interval of the mean</th>
                  <th data-n>One trial</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {modelled.map((r) => {
                  const f = figures.fitted(r.id);
                  if (!f.ok) return null;
                  const p = f.fitted.predictor.predict(setpoint.settings);
                  const error = ownError(p, f.fitted.fit.model.link);
                  const span = (i: [number, number] | null): string =>
                    i ? i.map((v) => valueText(r, v, error)).join(" to ") : "–";
                  return (
                    <tr key={r.id}>
                      <td>{axisName(r.name, r.unit)}</td>
                      <td data-n>{valueText(r, p.mean, error)}</td>
                      <td data-n>{span(p.meanInterval)}</td>
                      <td data-n>{span(p.trialInterval)}</td>
                      <td className="bracken">
                        {p.extrapolates ? "outside what trials cover" : p.breaksBounds ? "passes a physical bound" : ""}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {tested && (
              <>
                <h3>Confirmation</h3>
                <ConfirmationInWords study={study} tested={tested} />
                {tested.verdicts.length > 0 && (
                  <table>
                    <thead>
                      <tr>
                        <th>Response</th>
                        <th data-n>Predicted</th>
                        <th data-n>Interval for the mean of {tested.verdicts[0].n}</th>
                        <th data-n>Mean</th>
                        <th />
                      </tr>
                    </thead>
                    <tbody>
                      {tested.verdicts.map((v) => {
                        const r = study.responses.find((q) => q.id === v.response);
                        const width = v.interval ? (v.interval[1] - v.interval[0]) / 4 : null;
                        return (
                          <tr key={v.response}>
                            <td>{axisName(r?.name ?? v.response, r?.unit)}</td>
                            <td data-n>{valueText(r, v.predicted, width)}</td>
                            <td data-n>
                              {v.interval ? v.interval.map((x) => valueText(r, x, width)).join(" to ") : "–"}
                            </td>
                            <td data-n>{valueText(r, v.mean, width)}</td>
                            <td className={v.agrees === false ? "bracken" : "moss"}>
                              {v.agrees === null ? "" : v.agrees ? "agrees" : "outside"}
                            </td>
                          </tr>
                        );
                      })}
                    </tbody>
                  </table>
                )}
              </>
            )}
          </section>
        )}
        {opened && shown.Ledger && study.trials.length > 0 && <LedgerSection study={study} />}
      </article>
    </StationFrame>
  );
}
