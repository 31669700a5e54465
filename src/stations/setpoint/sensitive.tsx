"use client";
import { useMemo } from "react";
import { sensitivity } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { capability, type NextLot, nextLot, type SetpointProblem } from "@/core/setpoint";
import { edit, isNumeric, kindOf, type Settings, type Study, valueUnit } from "@/core/study";
import { Meter } from "@/ui/charts/marks/bars";
import { useDesk } from "@/ui/desk/store";
import { Assumed } from "@/ui/parts/assumed";
import { DraftField } from "@/ui/parts/draft";
import { figure, percent } from "@/ui/parts/format";
import { useTroubles } from "@/ui/parts/use-troubles";
import css from "./setpoint.module.css";

/** What a next lot of each share or count brings, and the chance that it keeps its limits. */
function NextLots({ study, lots }: { study: Study; lots: readonly NextLot[] }) {
  const commit = useDesk((d) => d.commit);
  const { tell, first } = useTroubles();
  return (
    <>
      <h2 style={{ marginTop: 10 }}>The next lot</h2>
      <table className={css.verdict}>
        <thead>
          <tr>
            <th>Response</th>
            <th>lot</th>
            <th>expected</th>
            <th>one lot</th>
            <th>chance</th>
          </tr>
        </thead>
        <tbody>
          {lots.map((l) => {
            const r = study.responses.find((q) => q.id === l.response);
            const ends = (e: [number, number] | null): string => (e ? `${figure(e[0], 2)} to ${figure(e[1], 2)}` : "–");
            return (
              <tr key={l.response}>
                <td>{r?.name}</td>
                <td>
                  <DraftField
                    name={`lot-${l.response}`}
                    label={`${r?.name}: ${r && kindOf(r).lot.exposure} of the next lot`}
                    mono
                    width={64}
                    align="right"
                    value={String(l.of)}
                    onTrouble={tell}
                    take={(t) => {
                      const v = t.trim() === "" ? null : readNumber(t);
                      if (v === undefined || (v !== null && !(v > 0)))
                        return `${r?.name}: “${t}” is no size of a lot; type a number above 0.`;
                      return commit([edit(study, ["responses", l.response, "lot"], v)], `next lot of ${r?.name}`);
                    }}
                  />
                </td>
                <td className="num" title={`${figure(l.mean, 3)} ${r ? valueUnit(r) : ""}; where the expected lies`}>
                  {figure(l.events, 3)} <span className="quiet">({ends(l.expected)})</span>
                </td>
                <td className="num" title="where what is counted in one lot lies">
                  {ends(l.lot)}
                </td>
                <td className="num">{l.chance === null ? "–" : percent(l.chance, 1)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {first && (
        <p className="small danger" role="alert">
          {first}
        </p>
      )}
      <p className="small quiet">
        Events of {Math.round(100 * study.confidence)} % intervals; limits of the goal are asked of the lot itself, ends
        included.
      </p>
    </>
  );
}

/** What each factor may be off by, what that costs, and how comfortably single trials keep their limits. */
export function Sensitive({
  study,
  wishes: problem,
  settings: at,
}: {
  study: Study;
  wishes: SetpointProblem;
  settings: Settings;
}) {
  const losses = useMemo(() => sensitivity(problem, at), [problem, at]);
  const able = useMemo(() => capability(problem, at), [problem, at]);
  const lots = useMemo(
    () =>
      problem.responses.flatMap((r) => {
        const read = problem.predictors.get(r.id);
        return (read && nextLot(problem.study, r, read, at)) ?? [];
      }),
    [problem, at],
  );
  const name = (id: string | undefined): string => study.responses.find((r) => r.id === id)?.name ?? "";
  const most = Math.max(0.01, ...losses.map((l) => l.loss));
  if (losses.length === 0 && able.length === 0 && lots.length === 0) return null;
  return (
    <section className={css.confirm} aria-label="Sensitivity at the probe">
      <div className={css.twin}>
        <div>
          <h2>What to hold tightest, at the probe</h2>
          {losses.slice(0, 8).map((l) => {
            const f = study.factors.find((q) => q.id === l.factor);
            return (
              <div key={l.factor} className={css.loss}>
                <span>
                  {f?.name} ±{figure(l.off, 2)} {f && isNumeric(f) ? (f.unit ?? "") : ""}
                </span>
                <svg width="100%" height="10" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
                  <Meter share={l.loss / most} length={100} thick={10} colour="warning" />
                </svg>
                <span className="num">{l.loss < 0.0005 ? "< 0.001" : `−${l.loss.toFixed(3)}`}</span>
              </div>
            );
          })}
          <p className="small quiet">
            Overall desirability lost on the worse side when the factor is off by its tolerance (else its step, else 2 %
            of its range).
          </p>
        </div>
        <div>
          <h2>Capability of single trials and units</h2>
          <table className={css.verdict} hidden={able.length === 0}>
            <thead>
              <tr>
                <th>Response</th>
                <th>Ppk</th>
                <th title={`one-sided ${Math.round(100 * study.confidence)} % bound`}>at least</th>
                <th>σ of one</th>
              </tr>
            </thead>
            <tbody>
              {able.map((c) => {
                const r = study.responses.find((q) => q.id === c.response);
                const assumed = problem.predictors.get(c.response)?.assumed;
                return (
                  <tr key={c.response}>
                    <td>{r?.name}</td>
                    <td className="num">
                      {c.ppk.toFixed(2).replace("-", "−")}
                      <Assumed ratio={assumed} />
                    </td>
                    <td className="num">
                      {c.lower === null ? "–" : c.lower.toFixed(2).replace("-", "−")}
                      <Assumed ratio={assumed} />
                    </td>
                    <td className="num">
                      {figure(c.sigma, 2)} {r?.unit}
                      <Assumed ratio={assumed} />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {able.length > 0 && (
            <p className="small quiet">
              Noise and setting errors together, at the fitted coefficients.
              {able
                .filter((c) => c.scatter !== undefined)
                .map((c) => ` ${name(c.response)} scatters here as the model of ${name(c.scatter)} says.`)
                .join("")}
            </p>
          )}
        </div>
      </div>
      {lots.length > 0 && <NextLots study={study} lots={lots} />}
    </section>
  );
}
