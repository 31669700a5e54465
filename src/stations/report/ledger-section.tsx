import { isStanding, kindOf, measuredResponses, resultValue, settingsAsRun, valueUnit } from "@/core/study";
import { axisName, settingText, valueText } from "@/ui/parts/format";
import type { SectionProps } from "./section";

/** Cells that a page is given to draw; what is beyond stands in the CSV. */
const MOST_CELLS = 40_000;

/** The ledger as it prints, in run order. */
export function LedgerSection({ study }: SectionProps) {
  if (study.trials.length === 0) return null;
  const responses = measuredResponses(study);
  const waves = new Map(study.waves.map((w) => [w.id, w.name]));
  const rows = Math.max(1, Math.floor(MOST_CELLS / (2 + study.factors.length + responses.length)));
  const ordered = [...study.trials].sort((a, b) => a.order - b.order).slice(0, rows);
  return (
    <section>
      <h2>Ledger</h2>
      {ordered.length < study.trials.length && (
        <p className="small">
          The first {ordered.length} of {study.trials.length} trials; all of them stand in the ledger CSV.
        </p>
      )}
      <table>
        <thead>
          <tr>
            <th data-n>Run</th>
            <th>Wave</th>
            {study.factors.map((f) => (
              <th key={f.id} data-n>
                {f.letter} {f.unit}
              </th>
            ))}
            {responses.map((r) => (
              <th key={r.id} data-n>
                {axisName(r.name, valueUnit(r))}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ordered.map((t) => (
            <tr key={t.id}>
              <td data-n>{t.order}</td>
              <td style={{ whiteSpace: "nowrap" }}>{waves.get(t.wave)}</td>
              {study.factors.map((f) => (
                <td key={f.id} data-n>
                  {settingText(settingsAsRun(t)[f.id])}
                </td>
              ))}
              {responses.map((r) => {
                const v = resultValue(t.results[r.id], r);
                const measured = kindOf(r).said(t.results[r.id], r) ?? (v === null ? "–" : valueText(r, v, null));
                return (
                  <td key={r.id} data-n>
                    {!isStanding(t) ? t.state : measured}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
