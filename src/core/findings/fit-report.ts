import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { type Check, runChecks } from "../model/checklist";
import { responseOf } from "../model/data";
import { equationOf, type NaturalEquation } from "../model/equation";
import type { Fit, Parameter } from "../model/fit";
import {
  type AnovaRow,
  type FewCounted,
  hasSquares,
  type LikelihoodSummary,
  type SetupModel,
  type SquaresSummary,
} from "../model/fitted";
import type { TrialFigures } from "../model/influence";
import { contrastsOf, type Lenth, type Margins } from "../model/lenth";
import type { ReduceStep } from "../model/reduce";
import type { Memo } from "../study/memo";
import type { Settings, Study, Term } from "../study/schema";
import { answerOf, messageText } from "../words/answers";
import { modelReadings } from "./model";
import { asAnswer } from "./reading";

type Whole<T, K extends keyof T> = Omit<T, K> & { [P in K]-?: Exclude<T[P], undefined> | null };

/** Summary of a fit of shares or counts: deviances explained under names of their own, besides those all laws have. */
type CountedSummary = LikelihoodSummary &
  Record<"press" | "rss" | "sst", null> &
  Record<"d2" | "d2Adjusted" | "d2LeaveOneOut" | "criteriaDispersion", number | null>;

type CountedTrial = TrialFigures &
  Record<"events" | "of" | "quantile", number> &
  Record<"pearson" | "deviance", number | null>;

/**
 * A fit with everything that is said of it, as plain data: the answer of the headless command and of HTTP. Every key
 * is always there: what a fit does not have is null, and a reading says why.
 */
export interface FitReport
  extends Omit<
    Fit,
    | "data"
    | "model"
    | "absent"
    | "fitting"
    | "centre"
    | "confidence"
    | "dropped"
    | "parameters"
    | "anova"
    | "curvature"
    | "lackOfFit"
    | "summary"
    | "trials"
  > {
  summary: SquaresSummary | LikelihoodSummary | CountedSummary;
  trials: TrialFigures[] | CountedTrial[];
  /** Of shares and counts: variance over that of counting, scatter beyond it, why the likelihood is penalised. */
  dispersion?: number | null;
  /** With set-ups: their component and that of trials within them. */
  variance?: Omit<SetupModel, "beyond" | "supposed">;
  rho?: number;
  kappa?: number;
  firth?: FewCounted | null;
  dropped: { term: Term; level: string | null; equals: { term: Term; level: string | null; factor: number }[] }[];
  parameters: Whole<Parameter, "level" | "effect">[];
  anova: (Whole<AnovaRow, "term"> & { dfDenominator?: number | null; scale?: number })[];
  lenth: Lenth | null;
  /** Of the contrasts of the half-normal plot, and where they come from. */
  margins: Margins | null;
  curvature: Exclude<Fit["curvature"], undefined> | null;
  lackOfFit: Exclude<Fit["lackOfFit"], undefined> | null;
  checks: (Pick<Check, "id" | "statistic" | "p" | "adjusted" | "alarm" | "look" | "code" | "values"> & {
    answer: string;
  })[];
  equation: {
    coded: string;
    natural: (Omit<NaturalEquation, "when"> & { when: Settings | null })[];
    note: string | null;
  };
  steps: (Omit<ReduceStep, "why"> & { why: string })[] | null;
  readings: ReturnType<typeof asAnswer>[];
}

/** What a fit of shares or counts has beyond: deviance explained, scatter, its penalty, kinds of residuals. */
function countedFigures(study: Study, fit: Fit): Partial<FitReport> {
  const { likelihood, link } = fit.model;
  const { summary, data } = fit;
  if (!likelihood || hasSquares(summary)) return {};
  const about = responseOf(study, fit.response);
  const pearson = fit.model.residuals("scaled");
  const quantiles = likelihood.quantiles();
  const { law, s, r2, r2Adjusted, r2Predicted, r2AfterWaves, aicc, bic, residualDf } = summary;
  const { deviance, nullDeviance, criterion } = summary;
  return {
    summary: {
      ...{
        law,
        s,
        r2,
        r2Adjusted,
        r2Predicted,
        r2AfterWaves,
        aicc,
        bic,
        residualDf,
        deviance,
        nullDeviance,
        criterion,
      },
      ...{ press: null, rss: null, sst: null },
      ...{ d2: r2, d2Adjusted: r2Adjusted, d2LeaveOneOut: r2Predicted },
      criteriaDispersion: likelihood.criteriaDispersion,
    },
    dispersion: likelihood.dispersion,
    ...(link.multiplies === "odds" ? { rho: likelihood.extra } : { kappa: likelihood.extra }),
    firth: likelihood.firth ?? null,
    trials: fit.trials.map((t, i) => ({
      ...t,
      ...kindOf(about).events(data.trials[i].results[about.id], about),
      pearson: pearson[i],
      deviance: likelihood.deviances[i],
      quantile: quantiles[i],
    })),
  };
}

/** The components of a fit in set-ups, without what is asked of them. */
const componentsOf = ({ supposed: _supposed, ...components }: SetupModel) => components;

/** What units vary by between trials and within them; nothing where a response is made of none. */
function piecesOf({ model }: Fit) {
  const units = model.piecesOf();
  if (!units) return {};
  const { variances, dfWithin, unequal } = units;
  const { between, within } = variances;
  return { units: { between, within, dfWithin, ...(unequal ? { unequal } : {}) } };
}

/**
 * Gathers a fit's figures, checks, equation and readings.
 *
 * @param how what must be said of how the model was reduced
 */
export function fitReport(
  study: Study,
  fit: Fit,
  memo: Memo,
  steps?: ReduceStep[],
  how?: Message<RemarkValues>,
): FitReport {
  const { data, model, absent, fitting: _fitting, centre: _centre, confidence: _confidence, ...figures } = fit;
  const contrasts = contrastsOf(study, fit);
  const { coded, natural, note } = equationOf(study, fit);
  const checks = runChecks(study, fit, memo);
  const said = modelReadings(study, fit, memo, checks);
  const why: FitReport["readings"] = absent.map((a) => ({
    kind: "caution",
    text: messageText("remarks", a),
    evidence: "table",
  }));
  if (how !== undefined) why.push({ kind: "caution", text: messageText("remarks", how), evidence: "ladder" });
  if (!contrasts.lenth && contrasts.refusal)
    why.push({
      kind: "finding",
      text: `${messageText("remarks", { code: "no-margins", values: {} })} ${messageText("remarks", contrasts.refusal)}`,
      evidence: "half-normal",
    });
  return {
    ...figures,
    dropped: fit.dropped.map((d) => ({
      term: d.term,
      level: d.level ?? null,
      equals: d.equals.map((e) => ({ term: e.term, level: e.level ?? null, factor: e.factor })),
    })),
    parameters: fit.parameters.map((p) => ({ ...p, level: p.level ?? null, effect: p.effect ?? null })),
    anova: fit.anova.map((r) => ({ ...r, term: r.term ?? null })),
    ...(fit.model.setups ? { variance: componentsOf(fit.model.setups) } : {}),
    ...piecesOf(fit),
    ...countedFigures(study, fit),
    lenth: contrasts.lenth ?? null,
    margins: contrasts.margins ?? null,
    curvature: fit.curvature ?? null,
    lackOfFit: fit.lackOfFit ?? null,
    checks: checks.map((c) => {
      const { id, statistic, p, adjusted, alarm, look, code, values } = c;
      return { id, answer: answerOf(c), statistic, p, adjusted, alarm, ...(look ? { look } : {}), code, values };
    }),
    equation: {
      coded,
      natural: natural.map((n) => ({ ...n, when: n.when ?? null })),
      note: note ? messageText("remarks", note) : null,
    },
    steps: steps?.map((s) => ({ ...s, why: messageText("remarks", s.why) })) ?? null,
    readings: [...why, ...said.map(asAnswer)],
  };
}
