import { median } from "../numerics/sums";
import { settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import { countedResult, isCounted, measuredValues, resultValue } from "../study/measured";
import type { Memo } from "../study/memo";
import { hardFactors, isUsable } from "../study/roles";
import type { Model, Response, Settings, Study, Term, Trial } from "../study/schema";
import type { CovariateRanges } from "../terms/model-matrix";
import { spreadValues } from "./spread";

/** What was counted in each trial. */
export interface CountedData {
  kind: "share" | "count";
  events: readonly number[];
  of: readonly number[];
  /** Pieces or exposure of a trial that says nothing else. */
  usual: number;
  /** Whether trials may scatter beyond what counting gives. */
  scatter: "free" | "counting";
}

/** The trials whose results count for a response, in run order. */
export interface ModelData {
  trials: Trial[];
  y: number[];
  planned: Settings[];
  actual: Settings[];
  waves: string[];
  /** Of a spread measured with unequal degrees of freedom: what each value weighs, mean 1. */
  weights?: number[];
  /** Of a spread: the degrees of freedom behind each value. */
  spreadDf?: number[];
  /** Of a share or a count: events and what they were counted on; `y` is one over the other. */
  counted?: CountedData;
  /** Where a factor is hard to change and trials share set-ups: the set-up of each trial. */
  setups?: string[];
  /** Component between set-ups over the one within that waves were planned for, where too few tell it. */
  plannedRatio?: number;
  /** Of a response whose several values are units: those of each trial. */
  pieces?: number[][];
  /** Of a spread: in which trials it was 0 and stands at the response's resolution. */
  floored?: string[];
}

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
    ...(about && isCounted(about) ? { counted: countedData(about, trials) } : {}),
    ...(about?.several === "units" && !spread && !isCounted(about)
      ? {
          pieces: trials.map((t) => measuredValues(t.results[response])),
        }
      : {}),
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

function countedData(about: Response, trials: readonly Trial[]): CountedData {
  const all = trials.map((t) => countedResult(t.results[about.id], about) as { events: number; of: number });
  const of = all.map((c) => c.of);
  return {
    kind: about.measured === "share" ? "share" : "count",
    events: all.map((c) => c.events),
    of,
    usual: about.of ?? median(of),
    scatter: about.scatter ?? "free",
  };
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

/** Levels of categories in a model that none of its trials ran at: nothing is known of them. */
export function unseenLevels(
  study: Study,
  data: ModelData,
  terms: readonly Term[],
): { factor: string; levels: string[] }[] {
  const spoken = new Set(terms.flat());
  return study.factors.flatMap((f) => {
    if (f.kind !== "categorical" || !spoken.has(f.id)) return [];
    const ran = new Set(data.actual.map((s) => s[f.id]));
    const levels = f.levels.filter((l) => !ran.has(l));
    return levels.length > 0 ? [{ factor: f.id, levels }] : [];
  });
}
