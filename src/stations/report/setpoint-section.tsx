"use client";
import { messageText, missedText } from "@/core/findings";
import { storedModel } from "@/core/model";
import { type Confirmation, missedLimits } from "@/core/setpoint";
import { activeFactors, isNumeric, type Study, valueUnit } from "@/core/study";
import { useStudyView } from "@/ui/desk/view";
import { Assumed, AssumedNote } from "@/ui/parts/assumed";
import { axisName, ownError, settingText, valueText } from "@/ui/parts/format";
import type { SectionProps } from "./section";

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
          : `Short of its limit: ${missedLimits(study, tested).map(missedText).join(", ")}. `}
      {tested.suspects.map((s) => messageText("suspects", s)).join(" ")}
    </p>
  );
}

/** The setpoint with what it promises, and its confirmation. */
export function SetpointSection({ study, tested }: SectionProps) {
  const figures = useStudyView();
  const { setpoint } = study;
  if (!setpoint) return null;
  if (!activeFactors(study).every((f) => setpoint.settings[f.id] !== undefined)) return null;
  const factors = activeFactors(study);
  const modelled = study.responses.filter((r) => storedModel(study, r.id));
  return (
    <section>
      <h2>Setpoint</h2>
      <p>
        {factors
          .map((f) => `${f.name} ${settingText(setpoint.settings[f.id])}${isNumeric(f) && f.unit ? ` ${f.unit}` : ""}`)
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
                <td>{axisName(r.name, valueUnit(r))}</td>
                <td data-n>{valueText(r, p.mean, error)}</td>
                <td data-n>
                  {span(p.meanInterval)}
                  <Assumed ratio={p.assumed} />
                </td>
                <td data-n>
                  {span(p.trialInterval)}
                  <Assumed ratio={p.assumed} />
                </td>
                <td className="warning">
                  {p.extrapolates ? "outside what trials cover" : p.breaksBounds ? "passes a physical bound" : ""}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <AssumedNote
        of={modelled.map((r) => {
          const f = figures.fitted(r.id);
          return { name: r.name, ratio: f.ok ? f.fitted.predictor.assumed : undefined };
        })}
      />
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
                      <td>{axisName(r?.name ?? v.response, r && valueUnit(r))}</td>
                      <td data-n>{valueText(r, v.predicted, width)}</td>
                      <td data-n>
                        {v.interval ? v.interval.map((x) => valueText(r, x, width)).join(" to ") : "–"}
                        <Assumed ratio={v.assumed} />
                      </td>
                      <td data-n>{valueText(r, v.mean, width)}</td>
                      <td className={v.agrees === false ? "warning" : "success"}>
                        {v.agrees === null ? "" : v.agrees ? "agrees" : "outside"}
                        <Assumed ratio={v.agrees === null ? undefined : v.assumed} />
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
  );
}
