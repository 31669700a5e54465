"use client";
import { Button, Segmented } from "antd";
import { memo, useDeferredValue, useMemo } from "react";
import { readNumber } from "@/core/formats";
import type { Prediction } from "@/core/model";
import type { FitResult, Fitted } from "@/core/questions";
import { limitsOf, overallDesirability } from "@/core/setpoint";
import {
  activeFactors,
  decode,
  type Factor,
  isNumeric,
  kindOf,
  type NumericFactor,
  type Response,
  rangeOf,
  type Settings,
  type Study,
  settingsAsRun,
  snap,
} from "@/core/study";
import { LinkButton } from "@/ui/parts/link-button";
import { useDesk, useDeskStore } from "../desk/store";
import { useStudyView } from "../desk/view";
import { Assumed, assumedText } from "../parts/assumed";
import { DraftField } from "../parts/draft";
import { ownError, rangeText, settingText, spanText, valueText, valueWithUnit } from "../parts/format";
import { useStable } from "../parts/use-stable";
import { colours } from "../theme/theme";
import { Rule } from "./rule";
import css from "./shell.module.css";

const WIDTH = 218;

/** A number of the probe to type; drawn anew only when it changes. */
const SettingField = memo(function SettingField({ factor, value }: { factor: NumericFactor; value: number }) {
  const desk = useDeskStore();
  const [low, high] = rangeOf(factor);
  return (
    <DraftField
      name={`probe:${factor.id}`}
      label={`${factor.name} value`}
      value={settingText(value)}
      width={58}
      align="right"
      take={(text) => {
        const v = readNumber(text);
        if (v === null || v === undefined)
          return `${factor.name}: “${text}” is not a number; type one between ${low} and ${high}.`;
        if (v < low - (high - low) * 2 || v > high + (high - low) * 2)
          return `${factor.name}: ${text} lies far outside ${low} to ${high}.`;
        const { probe, setProbe } = desk.getState();
        setProbe({ ...probe, [factor.id]: v });
        return undefined;
      }}
    />
  );
});

/** One factor's row of the probe. */
function FactorRow({
  factor,
  fitted,
  study,
  probe,
  tight,
  set,
}: {
  factor: Factor;
  fitted: Fitted | undefined;
  study: Study;
  probe: Settings;
  tight: boolean;
  set(settings: Settings): void;
}) {
  if (!isNumeric(factor))
    return (
      <div className={css.factor}>
        <header>
          <i>{factor.letter}</i>
          <span title={factor.name}>{factor.name}</span>
        </header>
        <Segmented
          size="small"
          className={css.levels}
          aria-label={`${factor.name} at the probe`}
          value={String(probe[factor.id])}
          options={factor.levels}
          onChange={(level) => set({ ...probe, [factor.id]: level })}
        />
      </div>
    );
  const value = probe[factor.id] as number;
  return (
    <div className={css.factor}>
      <header>
        <i>{factor.letter}</i>
        <span title={factor.name}>{factor.name}</span>
        <SettingField factor={factor} value={value} />
        <small>{factor.unit}</small>
      </header>
      <Rule
        factor={factor}
        fitted={fitted}
        study={study}
        probe={probe}
        tight={tight}
        set={(v) => set({ ...probe, [factor.id]: v })}
      />
    </div>
  );
}

/** A bar of the response's range with its goal, the intervals and the prediction. */
function GoalBar({ fitted, study, probe }: { fitted: Fitted; study: Study; probe: Settings }) {
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const p = fitted.predictor.predict(probe);
  const seen = fitted.fit.data.y;
  const goal = response?.goal ?? { aim: "watch" as const };
  const limits = limitsOf(goal);
  const ends = [...seen, p.mean, ...[limits.low, limits.high].filter(Number.isFinite)];
  const low = Math.min(...ends);
  const high = Math.max(...ends);
  const x = (v: number): number => 4 + ((Math.max(low, Math.min(high, v)) - low) / (high - low || 1)) * (WIDTH - 8);
  return (
    <svg
      width="100%"
      style={{ maxWidth: 320 }}
      viewBox={`0 0 ${WIDTH} 18`}
      role="img"
      aria-label={`${response?.name}: prediction against its limits`}
    >
      <rect x="0" y="7" width={WIDTH} height="4" rx="2" fill={colours.empty} />
      {goal.aim !== "watch" && (
        <rect
          x={x(limits.low)}
          y="6"
          width={Math.max(0, x(limits.high) - x(limits.low))}
          height="6"
          rx="2"
          fill={colours.success}
          opacity="0.55"
        />
      )}
      {p.trialInterval && (
        <line
          x1={x(p.trialInterval[0])}
          x2={x(p.trialInterval[1])}
          y1="9"
          y2="9"
          stroke={colours.info}
          strokeWidth="1.500"
        />
      )}
      {p.meanInterval && (
        <rect
          x={x(p.meanInterval[0])}
          y="6.500"
          width={Math.max(1, x(p.meanInterval[1]) - x(p.meanInterval[0]))}
          height="5"
          fill={colours.info}
          opacity="0.5"
        />
      )}
      <circle cx={x(p.mean)} cy="9" r="5" fill={colours.raised} stroke={colours.info} strokeWidth="2" />
    </svg>
  );
}

/** What must be said of a prediction: where it stands, and what it may lack. */
function ProbeCautions({ response, said, error }: { response: Response; said: Prediction; error: number | null }) {
  const { bend, mean } = said;
  const off = bend !== null && Math.abs(bend) > 1e-9 * Math.abs(mean);
  return (
    <div className="small warning">
      {said.extrapolates && <div>Outside what the trials cover.</div>}
      {off && (
        <div>
          A bend is seen at the centre: it may lie up to {valueWithUnit(response, Math.abs(bend), error)}{" "}
          {bend > 0 ? "higher" : "lower"}.
        </div>
      )}
      {said.breaksBounds && <div>Passes a physical bound.</div>}
      {said.assumed !== undefined && <div>† {assumedText(said.assumed)}</div>}
      {!said.meanInterval && <div>No interval: nothing is left to judge noise by.</div>}
    </div>
  );
}

/** Where the probe can be put by one press; drawn anew only when that changes. */
const ProbeHead = memo(function ProbeHead({
  centre,
  best,
  ran,
  setpoint,
}: {
  centre(): void;
  best(): void;
  ran: boolean;
  setpoint: Settings | undefined;
}) {
  const desk = useDeskStore();
  const { fold, pin } = desk.getState();
  return (
    <>
      <div className={css.head}>
        <h2>Probe</h2>
        <Button type="text" size="small" onClick={() => fold("probe")} title="Fold ( [ )">
          fold
        </Button>
      </div>
      <div className="row small" style={{ gap: 10, marginBottom: 8 }}>
        <LinkButton onClick={centre}>centre</LinkButton>
        <LinkButton onClick={best} disabled={!ran}>
          best trial
        </LinkButton>
        {setpoint && (
          <LinkButton
            onClick={() => {
              const { probe, setProbe } = desk.getState();
              setProbe({ ...probe, ...setpoint });
            }}
          >
            setpoint
          </LinkButton>
        )}
        <LinkButton onClick={pin} title="Keep this point to compare">
          keep
        </LinkButton>
      </div>
    </>
  );
});

/** What is predicted of the response shown, how sure that is, and against which limits. */
function Said({
  response,
  said: p,
  ...at
}: {
  response: Response;
  said: Prediction;
  fitted: Fitted;
  probe: Settings;
  study: Study;
}) {
  const error = ownError(p, at.fitted.fit.model.link);
  const span = (ends: readonly number[]): string => rangeText(response, ends, error);
  const scatter = at.study.responses.find((r) => r.id === p.scatter);
  return (
    <>
      <div>
        <span style={{ whiteSpace: "nowrap" }}>
          <span style={{ font: "500 24px/1.1 var(--mono)" }}>{valueText(response, p.mean, error)}</span>{" "}
          <span className="quiet small">{kindOf(response).shownUnit(response)}</span>
        </span>
        {p.meanInterval && p.trialInterval && (
          <div className="num quiet" style={{ fontSize: 11, lineHeight: 1.4 }}>
            mean {span(p.meanInterval)}
            <Assumed ratio={p.assumed} />
            <br />
            <span title={scatter && `It scatters here as the model of ${scatter.name} says.`}>
              {response.several === "units" ? "one unit" : "one trial"} {span(p.trialInterval)}
            </span>
            <Assumed ratio={p.assumed} />
          </div>
        )}
      </div>
      <GoalBar {...at} />
      <ProbeCautions response={response} said={p} error={error} />
    </>
  );
}

/** The name of another response, which it shows. */
const OtherName = memo(function OtherName({ id, name }: { id: string; name: string }) {
  const choose = useDesk((d) => d.choose);
  return (
    <Button type="text" size="small" className={css.other} onClick={() => choose(id)} title={`Show ${name}`}>
      {name}
    </Button>
  );
});

/** What is predicted of another response. */
function Other({ response: r, result, probe }: { response: Response; result: FitResult | undefined; probe: Settings }) {
  const q = result?.ok ? result.fitted.predictor.predict(probe) : undefined;
  const error = result?.ok && q ? ownError(q, result.fitted.fit.model.link) : null;
  const span = q ? spanText(r, q.meanInterval, error) : "";
  return (
    <tr>
      <td>
        <OtherName id={r.id} name={r.name} />
      </td>
      <td className="num">
        {q ? valueText(r, q.mean, error) : "–"} <span className="quiet">{span}</span>
        <Assumed ratio={span === "" ? undefined : q?.assumed} />
      </td>
    </tr>
  );
}

/** The probe; as a station opens, a moment after the work beside it. */
export function Probe() {
  const study = useDesk((d) => d.study);
  const opened = useDeferredValue(true, false);
  return opened ? <ProbeOf study={study} /> : <aside className={`${css.side} ${css.probe}`} aria-label="Probe" />;
}

/** One point of the region, shared by all views. */
const ProbeOf = memo(function ProbeOf({ study }: { study: Study }) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const chosen = useDesk((d) => d.response);
  const folded = useDesk((d) => d.folded.probe);
  const fold = useDesk((d) => d.fold);
  const pins = useDesk((d) => d.pins);
  const unpin = useDesk((d) => d.unpin);
  const view = useStudyView();
  const results = useMemo(() => new Map(study.responses.map((r) => [r.id, view.fitted(r.id)])), [study, view]);
  const response = study.responses.find((r) => r.id === chosen) ?? study.responses[0];
  const result = response ? results.get(response.id) : undefined;
  const fitted = result?.ok ? result.fitted : undefined;
  const p = fitted?.predictor.predict(probe);
  const factors = activeFactors(study);
  const tight = factors.length > 7;
  const inModel = new Set(fitted?.fit.terms.flat() ?? []);
  const ordered = tight ? [...factors].sort((a, b) => Number(inModel.has(b.id)) - Number(inModel.has(a.id))) : factors;
  const centre = useStable((): void =>
    setProbe(
      Object.fromEntries(
        factors.map((f) => [f.id, isNumeric(f) ? snap(f, decode(f, 0)) : (probe[f.id] ?? f.levels[0])]),
      ),
    ),
  );
  const best = useStable((): void => {
    // Best by overall desirability of what the models say of each trial that was run.
    const value =
      (s: Settings) =>
      (id: string): number => {
        const r = results.get(id);
        return r?.ok ? r.fitted.predictor.value(s) : Number.NaN;
      };
    const run = study.trials
      .filter((t) => t.state === "done" && t.use)
      .map((t) => ({ s: settingsAsRun(t), d: overallDesirability(study.responses, value(settingsAsRun(t))) }));
    const top = run.sort((a, b) => b.d - a.d)[0];
    if (top) setProbe(top.s);
  });
  if (folded)
    return (
      <aside className={`${css.side} ${css.probe} ${css.folded}`} aria-label="Probe, folded">
        <Button type="text" size="small" onClick={() => fold("probe")} title="Unfold the probe ( [ )">
          Probe
        </Button>
      </aside>
    );
  return (
    <aside className={`${css.side} ${css.probe}`} aria-label="Probe">
      <ProbeHead
        centre={centre}
        best={best}
        ran={study.trials.some((t) => t.state === "done")}
        setpoint={study.setpoint?.settings}
      />
      {response && (
        <div style={{ marginBottom: 8 }}>
          <div className="small quiet" title={response.name}>
            {response.name}
          </div>
          {p && fitted ? (
            <Said response={response} said={p} fitted={fitted} probe={probe} study={study} />
          ) : (
            <p className="small quiet">{result && !result.ok ? result.refused.message : "No model yet."}</p>
          )}
        </div>
      )}
      {ordered.map((f) => (
        <FactorRow key={f.id} factor={f} fitted={fitted} study={study} probe={probe} tight={tight} set={setProbe} />
      ))}
      {study.responses.length > 1 && (
        <table className={css.others}>
          <tbody>
            {study.responses
              .filter((r) => r.id !== response?.id)
              .map((r) => (
                <Other key={r.id} response={r} result={results.get(r.id)} probe={probe} />
              ))}
          </tbody>
        </table>
      )}
      {pins.map((s, i) => {
        const q = fitted?.predictor.predict(s);
        return (
          <div key={i} className="row small" style={{ marginTop: 4 }}>
            <LinkButton onClick={() => setProbe(s)}>kept {i + 1}</LinkButton>
            <span className="grow num">
              {q && response && fitted ? valueWithUnit(response, q.mean, ownError(q, fitted.fit.model.link)) : ""}
            </span>
            <LinkButton aria-label={`Let go of kept point ${i + 1}`} onClick={() => unpin(i)}>
              let go
            </LinkButton>
          </div>
        );
      })}
    </aside>
  );
});
