import { settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import type { Model, Result, Settings, Study, Term, Trial } from "../study/schema";
import type { CovariateRanges } from "../terms/model-matrix";

/** Mean of the repeats that were measured; null when none was. */
export function resultValue(result: Result | undefined): number | null {
  if (result === undefined || result === null) return null;
  if (typeof result === "number") return result;
  const measured = result.filter((v): v is number => v !== null);
  return measured.length === 0 ? null : measured.reduce((t, v) => t + v, 0) / measured.length;
}

/** The trials whose results count for a response, in run order. */
export interface ModelData {
  trials: Trial[];
  y: number[];
  planned: Settings[];
  actual: Settings[];
  waves: string[];
}

/** Whether a trial's results may enter models. */
export const counts = (trial: Trial): boolean => trial.use && trial.state !== "skipped" && trial.state !== "failed";

/** Kept per list of trials: taking terms in and out reads the same results again and again. */
const known = new WeakMap<readonly Trial[], Map<string, ModelData>>();

/** Results of a response that count: measured, not skipped or failed, in use, with the covariates a model needs. */
export function modelData(study: Study, response: string, terms: readonly Term[]): ModelData {
  const covariates = study.covariates.filter((c) => terms.some((t) => t.includes(c.id))).map((c) => c.id);
  const key = JSON.stringify([response, covariates]);
  const kept = known.get(study.trials) ?? new Map<string, ModelData>();
  known.set(study.trials, kept);
  const had = kept.get(key);
  if (had) return had;
  const trials = study.trials
    .filter((t) => counts(t) && resultValue(t.results[response]) !== null && covariates.every((c) => typeof t.covariates?.[c] === "number"))
    .sort((a, b) => a.order - b.order);
  const merged = (t: Trial, s: Settings): Settings =>
    covariates.length === 0 ? s : { ...s, ...Object.fromEntries(covariates.map((c) => [c, t.covariates?.[c] as number])) };
  const data: ModelData = {
    trials,
    y: trials.map((t) => resultValue(t.results[response]) as number),
    planned: trials.map((t) => merged(t, t.settings)),
    actual: trials.map((t) => merged(t, settingsAsRun(t))),
    waves: trials.map((t) => t.wave),
  };
  kept.set(key, data);
  return data;
}

/** Measured range of each covariate in the data. */
export function covariateRanges(study: Study, data: ModelData): CovariateRanges {
  const out: CovariateRanges = new Map();
  for (const c of study.covariates) {
    const values = data.trials.map((t) => t.covariates?.[c.id]).filter((v): v is number => typeof v === "number");
    if (values.length > 0) out.set(c.id, [Math.min(...values), Math.max(...values)]);
  }
  return out;
}

/** The stored model of a response, or none. */
export const storedModel = (study: Study, response: string): Model | undefined => study.models.find((m) => m.response === response);

/**
 * The response of that id.
 * @throws StudyError listing the ids there are
 */
export function responseOf(study: Study, id: string): Study["responses"][number] {
  const found = study.responses.find((r) => r.id === id);
  if (!found)
    throw new StudyError(
      "unknown-id",
      study.responses.length === 0
        ? `There is no response “${id}”; this study has none yet.`
        : `There is no response “${id}”; the responses are ${study.responses.map((r) => r.id).join(", ")}.`,
      ["response"],
    );
  return found;
}
