import { kindLaw } from "../kinds/laws";
import { settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import { resultValue } from "../study/measured";
import type { Memo } from "../study/memo";
import { hardFactors, isUsable } from "../study/roles";
import type { Model, Response, Settings, Study, Term, Trial } from "../study/schema";
import type { ModelData } from "./model-data";
import { spreadValues } from "./spread";

/** Results of a response that count: measured, not skipped or failed, in use, with the covariates a model needs. */
export function modelData(study: Study, response: string, terms: readonly Term[], memo?: Memo): ModelData {
  const covariates = study.covariates.filter((c) => terms.some((t) => t.includes(c.id))).map((c) => c.id);
  const about = study.responses.find((r) => r.id === response);
  if (!memo) return gatherData(study, about, response, covariates);
  // A spread rests on the decimals of its source and on the factors' steps, too.
  const source = about?.spread && study.responses.find((r) => r.id === about.spread?.of);
  return memo.get("model data", [study.trials, study.factors, about, source, response, covariates.join()], () =>
    gatherData(study, about, response, covariates),
  );
}

function gatherData(
  study: Study,
  about: Response | undefined,
  response: string,
  covariates: readonly string[],
): ModelData {
  const usable = study.trials
    .filter((t) => isUsable(t) && covariates.every((c) => typeof t.covariates?.[c] === "number"))
    .sort((a, b) => a.order - b.order);
  const spread = about?.spread ? spreadValues(study, about, usable) : undefined;
  const trials = spread
    ? spread.cells.map((c) => c.trial)
    : about === undefined
      ? []
      : usable.filter((t) => resultValue(t.results[response], about) !== null);
  const valueIn = (t: Trial): number => (about ? (resultValue(t.results[response], about) as number) : 0);
  const merged = (t: Trial, s: Settings): Settings =>
    covariates.length === 0
      ? s
      : { ...s, ...Object.fromEntries(covariates.map((c) => [c, t.covariates?.[c] as number])) };
  return {
    trials,
    y: spread ? spread.y : trials.map(valueIn),
    planned: trials.map((t) => merged(t, t.settings)),
    actual: trials.map((t) => merged(t, settingsAsRun(t))),
    waves: trials.map((t) => t.wave),
    ...setupsOf(study, trials),
    ...(about && !spread ? kindLaw(about).gathered(about, trials) : {}),
    ...(spread?.weights.some((w) => Math.abs(w - 1) > 1e-12) ? { weights: spread.weights } : {}),
    ...(spread ? { spreadDf: spread.cells.map((c) => c.df) } : {}),
    ...(spread?.cells.some((c) => c.floored)
      ? { floored: spread.cells.flatMap((c) => (c.floored ? [c.trial.id] : [])) }
      : {}),
  };
}

/**
 * The set-up of each trial where a factor is hard to change and some wave has fewer set-ups than trials; a trial of a
 * wave without set-ups is its own.
 */
function setupsOf(study: Study, trials: readonly Trial[]): Pick<ModelData, "setups" | "plannedRatio"> {
  if (hardFactors(study).length === 0) return {};
  const setups = trials.map((t) => (t.setup === undefined ? `trial ${t.id}` : `${t.wave} ${t.setup}`));
  if (new Set(setups).size === trials.length) return {};
  const planned = study.waves.flatMap((w) => w.plan.eta ?? []).at(-1);
  return { setups, ...(planned === undefined ? {} : { plannedRatio: planned }) };
}

/** The stored model of a response, or none. */
export const storedModel = (study: Study, response: string): Model | undefined =>
  study.models.find((m) => m.response === response);

/** How a model is fitted besides its terms: its scale, waves in it, the centre in it, what it assumes of set-ups. */
export type Fitting = Pick<Model, "transform" | "block" | "curvature" | "eta">;

/** How a response is fitted: as its stored model says, else on its own scale with all that stands in. */
export const fittingOf = (
  stored: Model | undefined,
  asked: { [K in keyof Fitting]?: Fitting[K] | undefined } = {},
): Fitting => {
  const eta = asked.eta ?? stored?.eta;
  return {
    transform: asked.transform ?? stored?.transform ?? "none",
    block: asked.block ?? stored?.block ?? true,
    curvature: asked.curvature ?? stored?.curvature ?? true,
    ...(eta === undefined ? {} : { eta }),
  };
};

/**
 * The response of that id.
 * @throws StudyError listing the ids there are
 */
export function responseOf(study: Study, id: string): Study["responses"][number] {
  const found = study.responses.find((r) => r.id === id);
  if (!found)
    throw new StudyError("unknown-id.response", { id, responses: study.responses.map((r) => r.id) }, ["response"]);
  return found;
}
