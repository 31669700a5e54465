"use client";
import { answerOf, messageText, pFigure, questionOf, warningsOfChoosing } from "@/core/findings";
import { equationOf, type Fit, storedModel } from "@/core/model";
import { activeFactors, alphabetOf, isNumeric, type Response, type Study, termName, valueUnit } from "@/core/study";
import { SurfaceMap } from "@/ui/charts/surface-map";
import { type Evident, useEvidence } from "@/ui/compute/use-evidence";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { Assumed, AssumedNote } from "@/ui/parts/assumed";
import { axisName, figure, settingText, shareText, valueText } from "@/ui/parts/format";
import { EffectFigure } from "./effect-figure";
import { InteractionFigures } from "./interaction-figure";
import type { SectionProps } from "./section";

function ChecksInWords({ evidence }: { evidence: Evident | undefined }) {
  if (!evidence) return <p className="small quiet">Working out the checks…</p>;
  return evidence.checks.map((c) => (
    <p key={c.id} className="small">
      {questionOf(c.id)} {answerOf(c)}
    </p>
  ));
}

/** The analysis of variance as it prints; without squares in two strata, where they do not add up. */
function Anova({ study, fit }: { study: Study; fit: Fit }) {
  const alphabet = alphabetOf(study);
  const { likelihood, setups, cellsBeyond } = fit.model;
  return (
    <table>
      <thead>
        <tr>
          <th>Source</th>
          <th data-n>df</th>
          {(setups || !cellsBeyond) && <th data-n>{setups ? "Judged" : likelihood ? "Deviance" : "Sum of squares"}</th>}
          <th data-n>{cellsBeyond ? "Error df" : likelihood ? "Per df" : "Mean square"}</th>
          <th data-n>F</th>
          <th data-n>p</th>
        </tr>
      </thead>
      <tbody>
        {fit.anova.map((a) => (
          <tr key={`${a.source}${a.term?.join("*") ?? ""}`}>
            <td>{a.term ? termName(alphabet, a.term) : a.source.replaceAll("-", " ")}</td>
            <td data-n>{a.df}</td>
            {(setups || !cellsBeyond) && (
              <td data-n>{setups ? (a.stratum ?? "") : a.ss === null ? "–" : figure(a.ss, 4)}</td>
            )}
            <td data-n>
              {cellsBeyond
                ? a.dfDenominator
                  ? figure(a.dfDenominator, 3)
                  : ""
                : a.ss === null || a.df === 0
                  ? "–"
                  : figure(a.ss / a.df, 4)}
            </td>
            <td data-n>{a.f === null ? "" : figure(a.f, 3)}</td>
            <td data-n>{a.p === null ? "" : pFigure(a.p)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Contours over the two factors that move the response most, the others at the setpoint or in their middle. */
function ContourFigure({ response }: { response: string }) {
  const study = useDesk((d) => d.study);
  const probe = useDesk((d) => d.probe);
  const f = useStudyView().fitted(response);
  if (!f.ok) return null;
  const numeric = activeFactors(study).filter(isNumeric);
  const led = f.fitted.ladder.rungs.filter((r) => r.inModel).flatMap((r) => r.term);
  const [x, y] = [...new Set(led)].flatMap((id) => numeric.find((n) => n.id === id) ?? []);
  if (!x || !y) return null;
  const at = { ...probe, ...study.setpoint?.settings };
  const about = study.responses.find((r) => r.id === response);
  const { predictor } = f.fitted;
  return (
    <figure style={{ margin: "8px 0" }}>
      <SurfaceMap
        study={study}
        x={x}
        y={y}
        probe={at}
        setProbe={() => undefined}
        value={(settings, a, b) => predictor.plane(settings, a, b)}
        width={420}
        height={300}
        text={(v) => valueText(about, v, null)}
        name={`${about?.name ?? response} over ${x.name} and ${y.name}`}
      />
      <figcaption className="small quiet">
        {axisName(about?.name ?? response, about && valueUnit(about))} over {x.name} and {y.name};{" "}
        {activeFactors(study)
          .filter((q) => q.id !== x.id && q.id !== y.id && led.includes(q.id))
          .map((q) => `${q.name} ${settingText(at[q.id])}`)
          .join(", ") || "nothing else is in the model"}
        .
      </figcaption>
    </figure>
  );
}

/** One response's model: figures, effects, coefficients, analysis of variance, equation, contours, checks. */
function ModelPart({ study, response: r }: { study: Study; response: Response }) {
  const f = useStudyView().fitted(r.id);
  const evidence = useEvidence(study, r.id);
  if (!f.ok) return null;
  const alphabet = alphabetOf(study);
  const { fit } = f.fitted;
  const { setups } = fit.model;
  const eq = equationOf(study, fit, f.fitted.linear.model);
  return (
    <section>
      <h2>{r.name}</h2>
      <p>
        {fit.n} trials, {fit.terms.length} terms: {fit.model.likelihood ? "D²" : "R²"} {shareText(fit.summary.r2)},
        adjusted {shareText(fit.summary.r2Adjusted)}, predicted {shareText(fit.summary.r2Predicted)};{" "}
        {fit.model.likelihood
          ? `trials scatter ${fit.model.likelihood.dispersion === null ? "–" : figure(fit.model.likelihood.dispersion, 3)} times as much as counting gives`
          : `s ${setups ? "within set-ups " : ""}${fit.summary.s === null ? "–" : figure(fit.summary.s, 3)} ${fit.model.unit ?? ""}`}{" "}
        on {fit.summary.residualDf} df
        {setups &&
          `, between ${setups.setups} set-ups ${figure(Math.sqrt(Math.max(0, setups.between)), 3)} ${fit.model.unit ?? ""}`}
        {setups?.assumed === undefined ? "" : "†"}.
      </p>
      {warningsOfChoosing(evidence?.readings ?? []).map((w) => (
        <p key={w.id}>
          <strong>!</strong> {messageText("readings", w)}
        </p>
      ))}
      <AssumedNote of={[{ name: r.name, ratio: setups?.assumed }]} />
      <EffectFigure response={r.id} />
      <table>
        <thead>
          <tr>
            <th>Term</th>
            <th data-n>Coefficient (coded)</th>
            <th data-n>Standard error</th>
            <th data-n>
              {Math.round(100 * study.confidence)} % interval
              <Assumed ratio={setups?.assumed} />
            </th>
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
                {p.interval ? p.interval.map((v) => valueText(undefined, v, p.standardError)).join(" to ") : "–"}
              </td>
              <td data-n>{p.p === null ? "–" : pFigure(p.p)}</td>
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
      <Anova fit={fit} study={study} />
      <ContourFigure response={r.id} />
      <InteractionFigures response={r.id} />
      <ChecksInWords evidence={evidence} />
    </section>
  );
}

/** The models chosen, response by response. */
export const ModelsSection = ({ study }: SectionProps) =>
  study.responses
    .filter((r) => storedModel(study, r.id))
    .map((r) => <ModelPart key={r.id} study={study} response={r} />);
