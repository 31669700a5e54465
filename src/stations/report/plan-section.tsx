"use client";
import { costText, counted } from "@/core/findings";
import { pricesOf, spentOn } from "@/core/study";
import type { SectionProps } from "./section";

/** Waves with what made them and how far they are run. */
export function PlanSection({ study }: SectionProps) {
  if (study.waves.length === 0) return null;
  const prices = pricesOf(study);
  const spent = study.waves.map((w) => spentOn(study, w.id));
  return (
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
            {prices.unit !== undefined && <th data-n>Spent</th>}
          </tr>
        </thead>
        <tbody>
          {study.waves.map((w, i) => {
            const trials = study.trials.filter((t) => t.wave === w.id);
            const setups = new Set(trials.flatMap((t) => t.setup ?? [])).size;
            return (
              <tr key={w.id}>
                <td>{w.name}</td>
                <td>{w.purpose}</td>
                <td>
                  {[
                    w.plan.family,
                    w.plan.generators,
                    w.plan.centre ? `${w.plan.centre} centre` : "",
                    setups > 0 ? counted(setups, "set-up") : "",
                    w.plan.seed === undefined ? "" : `seed ${w.plan.seed}`,
                  ]
                    .filter(Boolean)
                    .join(", ")}
                </td>
                <td data-n>{trials.length}</td>
                <td data-n>{trials.filter((t) => t.state === "done").length}</td>
                {prices.unit !== undefined && <td data-n>{costText(prices, spent[i])}</td>}
              </tr>
            );
          })}
        </tbody>
      </table>
      {prices.unit !== undefined && (
        <p>
          Spent so far:{" "}
          {costText(
            prices,
            spent.reduce((sum, s) => sum + s, 0),
          )}
          , of trials that were run or failed.
        </p>
      )}
    </section>
  );
}
