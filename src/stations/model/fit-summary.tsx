import type { Fit } from "@/core";
import { figure, shareText } from "@/ui/parts/format";
import css from "./model.module.css";

/** A model in six figures. */
export function FitSummary({ fit }: { fit: Fit }) {
  const s = fit.summary;
  const { counted, setups, units } = fit.model;
  const whose = counted && !counted.counting ? "QAICc" : "AICc";
  return (
    <div className={css.summary} data-testid="summary">
      <span title={counted ? "share of deviance explained" : undefined}>
        {counted ? "D²" : "R²"} <b>{shareText(s.r2)}</b>
      </span>
      <span>
        adjusted <b>{shareText(s.r2Adjusted)}</b>
      </span>
      <span title={counted ? "each trial by a fit without it" : undefined}>
        predicted <b>{shareText(s.r2Predicted)}</b>
      </span>
      {counted ? (
        <span title="variance between trials over that of counting">
          scatter{" "}
          <b>
            {counted.counting
              ? "1, counting"
              : counted.dispersion === null
                ? "–"
                : `× ${figure(counted.dispersion, 3)}`}
          </b>
        </span>
      ) : (
        <span title={setups ? "of trials within one set-up" : undefined}>
          {setups ? "s within" : "s"} <b>{s.s === null ? "–" : `${figure(s.s, 3)} ${units ?? ""}`}</b>
        </span>
      )}
      {setups && (
        <span title="standard deviation of set-ups, beside that of their trials">
          between{" "}
          <b>
            {setups.bounded ? "0" : figure(Math.sqrt(setups.between), 3)} {units ?? ""}
          </b>
        </span>
      )}
      <span>
        df <b>{s.residualDf}</b>
      </span>
      <span>
        {whose} <b>{s.aicc?.toFixed(1).replace("-", "−") ?? "–"}</b>
      </span>
      {counted?.firth && (
        <span title="Firth's penalty: something separates, or hardly anything was counted">penalised</span>
      )}
    </div>
  );
}
