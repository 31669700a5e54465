import type { Fit } from "@/core";
import { figure, shareText } from "@/ui/parts/format";
import css from "./model.module.css";

/** A model in six figures. */
export function FitSummary({ fit }: { fit: Fit }) {
  const s = fit.summary;
  const unit = fit.model.units ?? "";
  return (
    <div className={css.summary} data-testid="summary">
      <span>
        R² <b>{shareText(s.r2)}</b>
      </span>
      <span>
        adjusted <b>{shareText(s.r2Adjusted)}</b>
      </span>
      <span>
        predicted <b>{shareText(s.r2Predicted)}</b>
      </span>
      <span>
        s <b>{s.s === null ? "–" : `${figure(s.s, 3)} ${unit}`}</b>
      </span>
      <span>
        df <b>{s.residualDf}</b>
      </span>
      <span>
        AICc <b>{s.aicc?.toFixed(1).replace("-", "−") ?? "–"}</b>
      </span>
    </div>
  );
}
