"use client";
import {
  type Check,
  defaultTerms,
  effectLadder,
  type Fit,
  fitModel,
  modelReadings,
  type Predictor,
  predictor,
  type Reading,
  runChecks,
  type Study,
  StudyError,
  saturatedContrasts,
  storedModel,
  type Term,
} from "@/core";

/** A fit with what the Model station reads off it, each worked out when first asked for. */
export interface Fitted {
  fit: Fit;
  predictor: Predictor;
  /** Whether the model was chosen, rather than the first look of main effects. */
  chosen: boolean;
  ladder: ReturnType<typeof effectLadder>;
  readonly contrasts: ReturnType<typeof saturatedContrasts>;
  readonly checks: Check[];
  readonly readings: Reading[];
}

export type FitResult = { ok: true; fitted: Fitted } | { ok: false; reason: string };

const cache = new WeakMap<Study, Map<string, FitResult>>();

/** Keeps the value of a function's first call. */
const once = <T>(make: () => T): (() => T) => {
  let held: { value: T } | undefined;
  return () => {
    held ??= { value: make() };
    return held.value;
  };
};

/** The fit of a response as the study stands: its stored model, else main effects. Worked out once per study state. */
export function fittedOf(study: Study, response: string): FitResult {
  const byResponse = cache.get(study) ?? new Map<string, FitResult>();
  cache.set(study, byResponse);
  const had = byResponse.get(response);
  if (had) return had;
  let result: FitResult;
  try {
    const stored = storedModel(study, response);
    const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
    const terms: Term[] = defaultTerms(study, response).filter((t) => !t.some((id) => retired.has(id)));
    const fit = fitModel(study, response, { terms, transform: stored?.transform ?? "none", block: stored?.block ?? true });
    const contrasts = once(() => saturatedContrasts(study, fit.parts.data, fit.parts.z));
    const checks = once(() => runChecks(study, fit));
    const readings = once(() => modelReadings(study, fit));
    result = {
      ok: true,
      fitted: {
        fit,
        predictor: predictor(study, fit),
        chosen: stored !== undefined,
        ladder: effectLadder(study, fit),
        get contrasts() {
          return contrasts();
        },
        get checks() {
          return checks();
        },
        get readings() {
          return readings();
        },
      },
    };
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    result = { ok: false, reason: error.message };
  }
  byResponse.set(response, result);
  return result;
}
