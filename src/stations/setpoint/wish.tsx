"use client";
import { desirability, edit, type Goal, limitsOf, type Response } from "@/core";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { useDesk } from "@/ui/desk/store";
import { settingText } from "@/ui/parts/format";
import css from "./setpoint.module.css";

const AIM: Record<Goal["aim"], string> = {
  raise: "raise",
  lower: "lower",
  hit: "hit",
  within: "within",
  watch: "watch",
};

/**
 * One wish: its curve with the probe on it, its importance. Where there are many, curve and importance share a line.
 */
export function Wish({ response, value, tight }: { response: Response; value: number | undefined; tight: boolean }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { goal } = response;
  const limits = limitsOf(goal);
  const ends =
    goal.aim === "raise"
      ? `${settingText(goal.low)} to ${settingText(goal.high)}`
      : goal.aim === "lower"
        ? `${settingText(goal.high)} to ${settingText(goal.low)}`
        : goal.aim === "watch"
          ? ""
          : `${settingText(limits.low)}–${settingText(limits.high)}`;
  const d = <span className="num">d {value === undefined ? "–" : (desirability(goal, value) ?? 0).toFixed(2)}</span>;
  return (
    <div className={css.wish} data-tight={tight ? "yes" : undefined}>
      <header>
        <strong title={response.name}>{response.name}</strong>
        <span className={css.ends}>
          {AIM[goal.aim]} {ends} {response.unit}
        </span>
      </header>
      <DesirabilityCurve
        goal={goal}
        name={response.name}
        width={tight ? 176 : 252}
        height={tight ? 24 : 48}
        labels={!tight}
        value={value}
        onKnee={(key, value) => {
          if (goal.aim === "watch") return;
          const next = { ...goal, [key]: value } as Goal & { low: number; high: number; target?: number };
          if (
            next.low < next.high &&
            (next.target === undefined || (next.target >= next.low && next.target <= next.high))
          )
            commit([edit(study, ["responses", response.id, "goal"], next)], `goal of ${response.name}`);
        }}
      />
      <div className={css.importance}>
        {!tight && <span className="quiet">importance</span>}
        <span role="group" aria-label={`Importance of ${response.name}`} title="Importance, 1 to 5">
          {[1, 2, 3, 4, 5].map((n) => (
            <button
              key={n}
              type="button"
              aria-label={`${response.name}: importance ${n}`}
              aria-pressed={n === response.importance}
              data-full={n <= response.importance ? "yes" : "no"}
              onClick={() =>
                commit([edit(study, ["responses", response.id, "importance"], n)], `importance of ${response.name}`)
              }
            />
          ))}
        </span>
        {d}
      </div>
    </div>
  );
}
