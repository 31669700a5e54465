import { Fragment } from "react";
import { counted } from "@/core/findings";
import { hardFactors, type Study, setupOpenings, type Trial } from "@/core/study";
import { settingText } from "@/ui/parts/format";
import css from "./trials.module.css";

/** One line of the ledger: a band of a wave or a set-up, or a trial. */
export type Line =
  | { kind: "band"; wave: string }
  | { kind: "setup"; trial: Trial }
  | { kind: "trial"; trial: Trial; row: number };

/** What the ledger shows from top to bottom: bands of waves and set-ups, and under them the trials. */
export function linesOf(study: Study, rows: readonly Trial[], by: "run" | "standard"): Line[] {
  const out: Line[] = [];
  const openings = setupOpenings(study);
  rows.forEach((trial, row) => {
    if (rows[row - 1]?.wave !== trial.wave) out.push({ kind: "band", wave: trial.wave });
    // Only in run order do the trials of one set-up stand together.
    if (by === "run" && openings.has(trial.id)) out.push({ kind: "setup", trial });
    out.push({ kind: "trial", trial, row });
  });
  return out;
}

/** The line above a wave's trials. */
export function Band({ study, wave, top }: { study: Study; wave: string; top: number }) {
  const about = study.waves.find((w) => w.id === wave);
  const trials = study.trials.filter((t) => t.wave === wave);
  return (
    <div className={css.band} style={{ transform: `translateY(${top}px)` }}>
      <span>
        {about?.name}
        {about?.purpose ? ` · ${about.purpose}` : ""} · {counted(trials.length, "trial")} ·{" "}
        {trials.filter((t) => t.state === "done").length} run
      </span>
    </div>
  );
}

/** The line above a set-up's trials: what is set, to be reset even where it shows the same. */
export function SetupBand({ study, trial, top }: { study: Study; trial: Trial; top: number }) {
  const waits = trial.state === "planned";
  return (
    <div className={`${css.band} ${css.setup}`} style={{ transform: `translateY(${top}px)` }} data-setup={trial.setup}>
      <span>
        Set-up {trial.setup}
        {hardFactors(study).map((f) => (
          <Fragment key={f.id}>
            {" · "}
            {f.name} {settingText(trial.settings[f.id])} {"unit" in f ? f.unit : ""}
          </Fragment>
        ))}
        {waits && <em>: reset, even if it shows the same</em>}
      </span>
    </div>
  );
}
