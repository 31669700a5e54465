"use client";
import { useMemo } from "react";
import { capability, isNumeric, type SetpointProblem, type Settings, type Study, sensitivity } from "@/core";
import { figure } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";
import css from "./setpoint.module.css";

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
  const most = Math.max(0.01, ...losses.map((l) => l.loss));
  if (losses.length === 0 && able.length === 0) return null;
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
                  <rect width="100" height="10" fill="#F0ECE1" />
                  <rect width={(100 * l.loss) / most} height="10" fill={colours.bracken} />
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
          <table className={css.verdict}>
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
                return (
                  <tr key={c.response}>
                    <td>{r?.name}</td>
                    <td className="num">{c.ppk.toFixed(2).replace("-", "−")}</td>
                    <td className="num">{c.lower === null ? "–" : c.lower.toFixed(2).replace("-", "−")}</td>
                    <td className="num">
                      {figure(c.sigma, 2)} {r?.unit}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <p className="small quiet">Noise and setting errors together, at the fitted coefficients.</p>
        </div>
      </div>
    </section>
  );
}
