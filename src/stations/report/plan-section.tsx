"use client";
import { counted } from "@/core";
import type { SectionProps } from "./section";

/** Waves with what made them and how far they are run. */
export function PlanSection({ study }: SectionProps) {
  if (study.waves.length === 0) return null;
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
          </tr>
        </thead>
        <tbody>
          {study.waves.map((w) => {
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
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
