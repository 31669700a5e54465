"use client";
import { useMemo } from "react";
import { counted, decisionOf, listed, messageText, missedText, reportReadings, withUnit } from "@/core/findings";
import { goalText } from "@/core/formats";
import { missedLimits } from "@/core/setpoint";
import { activeFactors, isNumeric, kindOf } from "@/core/study";
import { useStudyView } from "@/ui/desk/view";
import { figure, ownError, percent, settingText, valueText, valueWithUnit } from "@/ui/parts/format";
import css from "./report.module.css";
import type { SectionProps } from "./section";

/** Whether trials at the setpoint bear out what is promised, in a sentence. */
function confirmedText({ study, tested }: SectionProps): string {
  if (!tested) return "Not confirmed: no trial was run at this setpoint.";
  const trials = counted(tested.trials.length, "trial");
  if (tested.agrees === null) return `Not confirmed yet: ${trials} there are planned or not all measured.`;
  if (!tested.agrees) return `Not confirmed: ${trials} there do not agree with what was predicted.`;
  const missed = missedLimits(study, tested);
  return missed.length > 0
    ? `${trials} there agree with what was predicted, but are short of a limit: ${missed.map(missedText).join(", ")}.`
    : `Confirmed: ${trials} there agree with what was predicted.`;
}

/** One page for whoever decides: what to set, what to expect, how far it is confirmed, what is open. */
export function DecisionSection({ study, tested }: SectionProps) {
  const figures = useStudyView();
  const { setpoint } = study;
  const told = useMemo(() => {
    const whole = activeFactors(study).every((f) => setpoint?.settings[f.id] !== undefined);
    const problem = setpoint && whole ? figures.wishes() : undefined;
    return setpoint && problem?.ok ? decisionOf(problem.wishes, setpoint.settings) : undefined;
  }, [study, setpoint, figures]);
  if (!setpoint || !told) return null;
  const open = reportReadings(study, tested).filter((r) => r.code !== "unconfirmed");
  return (
    <section className={css.decision}>
      <h2>In short</h2>
      <div className={css.pair}>
        <div>
          <h3>Set this</h3>
          <table>
            <tbody>
              {activeFactors(study).map((f) => (
                <tr key={f.id}>
                  <td>{f.name}</td>
                  <td data-n>
                    {withUnit(settingText(setpoint.settings[f.id]), isNumeric(f) ? f.unit : undefined)}
                    {isNumeric(f) && f.tolerance ? ` ± ${f.tolerance}` : ""}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {told.hold.length > 0 && (
            <p>
              Hold tight:{" "}
              {listed(
                told.hold.map((h) => {
                  const f = study.factors.find((x) => x.id === h.factor);
                  return `${f?.name} (off by ${withUnit(figure(h.off, 2), f && isNumeric(f) ? f.unit : undefined)} costs ${figure(h.loss, 1)} of the desirability)`;
                }),
              )}
              .
            </p>
          )}
        </div>
        <div>
          <h3>Expect that</h3>
          <table>
            <thead>
              <tr>
                <th />
                <th data-n>Mean</th>
                <th data-n>One trial</th>
                <th data-n>Limits</th>
              </tr>
            </thead>
            <tbody>
              {told.expected.map(({ response: r, said, meets }) => {
                const f = figures.fitted(r.id);
                const error = f.ok ? ownError(said, f.fitted.fit.model.link) : null;
                return (
                  <tr key={r.id}>
                    <td>{r.name}</td>
                    <td data-n className={meets ? undefined : "warning"}>
                      {valueWithUnit(r, said.mean, error)}
                    </td>
                    <td data-n>{said.trialInterval?.map((v) => valueText(r, v, error)).join(" to ") ?? "–"}</td>
                    <td data-n>{goalText(r.goal, r)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {told.lots.map(({ response: r, of, middle, here }) => (
            <p key={r.id}>
              {r.name} in a lot of {figure(of, 4)} {kindOf(r).lot.size(r)}: {figure(here.events, 2)} expected
              {here.lot ? ` (${figure(here.lot[0], 2)} to ${figure(here.lot[1], 2)} in one lot)` : ""},{" "}
              {figure(middle, 2)} in the middle of the ranges.
              {here.chance === null ? "" : ` Chance that a lot keeps its limits: ${percent(here.chance, 0)}.`}
            </p>
          ))}
        </div>
      </div>
      <p>
        <strong>{confirmedText({ study, tested })}</strong>{" "}
        {open.length === 0 ? "" : `Still open: ${open.map((r) => messageText("readings", r)).join(" ")} `}
        What must be said beside each response stands under Findings.
      </p>
    </section>
  );
}
