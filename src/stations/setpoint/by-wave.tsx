"use client";
import { useMemo, useState } from "react";
import { type SetpointProblem, type WaveLevels, waveLevels } from "@/core/setpoint";
import { type Settings, type Study, valueUnit } from "@/core/study";
import { axisName, ownError, pShown, valueText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import css from "./setpoint.module.css";

/** What is predicted at some settings as in one of the waves that were run, and in a wave of its own. */
export function ByWave({
  study,
  wishes: problem,
  settings,
}: {
  study: Study;
  wishes: SetpointProblem;
  settings: Settings;
}) {
  const rows = useMemo(
    () =>
      problem.responses.flatMap((r) => {
        const read = problem.predictors.get(r.id);
        const levels = read && !r.spread ? waveLevels(study, r, read, settings) : undefined;
        return read && levels ? [{ r, levels, error: ownError(read.predict(settings), read.link) }] : [];
      }),
    [study, problem, settings],
  );
  const known = new Set(rows.flatMap(({ levels }) => levels.levels.map((l) => l.wave)));
  const waves = study.waves.filter((w) => known.has(w.id));
  const [named, setNamed] = useState<string | undefined>(undefined);
  const wave = waves.some((w) => w.id === named) ? named : waves.at(-1)?.id;
  if (rows.length === 0 || wave === undefined) return null;
  const apart = rows.filter(({ levels }) => levels.differ);
  const at = (levels: WaveLevels) => levels.levels.find((l) => l.wave === wave);
  return (
    <section className={css.confirm} aria-label="By wave, at the probe">
      <h2>By wave, at the probe</h2>
      <p className="small quiet">
        {apart.length === 0
          ? "Waves do not clearly differ: what is promised of new trials takes them for alike."
          : `Waves differ in ${apart.map(({ r, levels }) => `${r.name} (${pShown(levels.p)})`).join(", ")}: what is promised of new trials counts how far waves lie apart.`}
      </p>
      <table className={css.verdict}>
        <thead>
          <tr>
            <th>Response</th>
            <th colSpan={2}>
              as in{" "}
              <Pick
                label="Wave to predict as in"
                value={wave}
                options={waves.map((w) => [w.id, w.name])}
                set={setNamed}
              />
            </th>
            <th>in a new wave</th>
          </tr>
          <tr className="quiet">
            <th />
            <th>mean</th>
            <th>one trial</th>
            <th>one trial</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ r, levels, error }) => {
            const level = at(levels);
            const range = (i: [number, number] | null | undefined): string =>
              i ? i.map((v) => valueText(r, v, error)).join(" to ") : "–";
            return (
              <tr key={r.id}>
                <td>{axisName(r.name, valueUnit(r))}</td>
                <td className="num">
                  {level ? valueText(r, level.mean, error) : "–"}
                  {level?.meanInterval && <span className="quiet"> ({range(level.meanInterval)})</span>}
                </td>
                <td className="num">{range(level?.trialInterval)}</td>
                <td className={levels.differ ? "num" : "num quiet"}>{range(levels.fresh?.trialInterval)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
