import { readNumber } from "@/core/formats";
import type { Fit } from "@/core/model";
import { MOST_RATIO, type Study } from "@/core/study";
import { Band } from "@/ui/charts/marks/band";
import { useDesk } from "@/ui/desk/store";
import { assumedText } from "@/ui/parts/assumed";
import { DraftField } from "@/ui/parts/draft";
import { figure, percent, shareText } from "@/ui/parts/format";
import { useTroubles } from "@/ui/parts/use-troubles";
import { setFitting } from "./actions";
import css from "./model.module.css";

const WIDTH = 74;

/** What of the variance of a new trial is between set-ups of hard factors, and what within them. */
function VarianceShares({ setups }: { setups: NonNullable<Fit["model"]["setups"]> }) {
  const between = Math.max(0, setups.between);
  const all = between + setups.within;
  if (!(all > 0)) return null;
  const share = between / all;
  const text = `Variance of a new trial: ${percent(share)} between set-ups, ${percent(1 - share)} within`;
  return (
    <svg width={WIDTH} height="10" role="img" aria-label={text} style={{ verticalAlign: -1 }}>
      <title>{text}</title>
      <Band width={WIDTH} height={10} round={2} opacity={0.35} />
      <Band width={WIDTH * share} height={10} round={2} colour="info" opacity={0.75} />
    </svg>
  );
}

/** How many times as much as trials set-ups are taken to vary where they are too few to tell: asked here. */
function AssumedRatio({ study, fit, ratio }: { study: Study; fit: Fit; ratio: number }) {
  const commit = useDesk((d) => d.commit);
  const { tell, first } = useTroubles();
  return (
    <label title={`${assumedText(ratio)} Left empty: the one planned with.`}>
      variance between ÷ within{" "}
      <DraftField
        name={`eta-${fit.response}`}
        label="Assumed variance between set-ups over that within"
        mono
        align="right"
        width={44}
        style={{ padding: "0 4px", lineHeight: "18px" }}
        value={String(ratio)}
        onTrouble={tell}
        take={(text) => {
          const typed = text.trim() === "" ? undefined : readNumber(text);
          if (text.trim() !== "" && !(typeof typed === "number" && typed >= 0 && typed <= MOST_RATIO))
            return `“${text}” is no ratio of variances; type a number from 0 to ${MOST_RATIO}, or nothing for the one planned with.`;
          return commit(
            setFitting(study, fit, { eta: typed ?? undefined }),
            typed === undefined
              ? "took the ratio of variances planned with"
              : `assumed ${text.trim()} times between set-ups`,
          );
        }}
      />
      {first !== undefined && (
        <span className="danger" role="alert">
          {" "}
          {first}
        </span>
      )}
    </label>
  );
}

/** A model in six figures. */
export function FitSummary({ study, fit }: { study: Study; fit: Fit }) {
  const s = fit.summary;
  const { likelihood, setups, unit } = fit.model;
  const whose = likelihood && !likelihood.counting ? "QAICc" : "AICc";
  return (
    <div className={css.summary} data-testid="summary">
      <span title={likelihood ? "share of deviance explained" : undefined}>
        {likelihood ? "D²" : "R²"} <b>{shareText(s.r2)}</b>
      </span>
      <span>
        adjusted <b>{shareText(s.r2Adjusted)}</b>
      </span>
      <span title={likelihood ? "each trial by a fit without it" : undefined}>
        predicted <b>{shareText(s.r2Predicted)}</b>
      </span>
      {likelihood ? (
        <span title="variance between trials over that of counting">
          scatter{" "}
          <b>
            {likelihood.counting
              ? "1, counting"
              : likelihood.dispersion === null
                ? "–"
                : `× ${figure(likelihood.dispersion, 3)}`}
          </b>
        </span>
      ) : (
        <span
          title={
            setups
              ? "of trials within one set-up"
              : fit.model.piecesOf()?.unequal
                ? "of the mean of a trial of usual size about the model"
                : undefined
          }
        >
          {setups ? "s within" : "s"} <b>{s.s === null ? "–" : `${figure(s.s, 3)} ${unit ?? ""}`}</b>
        </span>
      )}
      {setups && (
        <span title="standard deviation of set-ups, beside that of their trials">
          between{setups.assumed === undefined ? "" : ", assumed"}{" "}
          <b>
            {setups.bounded ? "0" : figure(Math.sqrt(setups.between), 3)} {unit ?? ""}
          </b>{" "}
          <VarianceShares setups={setups} />
        </span>
      )}
      {setups?.assumed !== undefined && <AssumedRatio study={study} fit={fit} ratio={setups.assumed} />}
      <span>
        df <b>{s.residualDf}</b>
      </span>
      <span>
        {whose} <b>{s.aicc?.toFixed(1).replace("-", "−") ?? "–"}</b>
      </span>
      {likelihood?.firth && (
        <span title="Firth's penalty: something separates, or hardly anything was counted">penalised</span>
      )}
    </div>
  );
}
