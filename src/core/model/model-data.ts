import type { Settings, Study, Term, Trial } from "../study/schema";
import type { CovariateRanges } from "../terms/model-matrix";

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

/** Measured range of each covariate in the data. */
export function covariateRanges(study: Study, data: ModelData): CovariateRanges {
  const out: CovariateRanges = new Map();
  for (const c of study.covariates) {
    const values = data.trials.map((t) => t.covariates?.[c.id]).filter((v): v is number => typeof v === "number");
    if (values.length > 0) out.set(c.id, [Math.min(...values), Math.max(...values)]);
  }
  return out;
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
