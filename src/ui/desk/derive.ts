"use client";
import {
  effectLadder,
  type Fit,
  type Predictor,
  presentFit,
  presentPredictor,
  type Study,
  StudyError,
  saturatedContrasts,
  storedModel,
} from "@/core";

/** A fit with what the Model station reads off it, each worked out when first asked for. */
export interface Fitted {
  fit: Fit;
  predictor: Predictor;
  /** Whether the model was chosen, rather than the first look of main effects. */
  chosen: boolean;
  readonly ladder: ReturnType<typeof effectLadder>;
  /** Least and greatest fitted value over the trials, in the response's own units. */
  span: [number, number];
  readonly contrasts: ReturnType<typeof saturatedContrasts>;
}

function spanOf(fit: Fit): [number, number] {
  const { back } = fit.model.link;
  const values = fit.trials.map((t) => back(t.predicted));
  return [Math.min(...values), Math.max(...values)];
}

export type FitResult = { ok: true; fitted: Fitted } | { ok: false; reason: string };

/** Keeps the value of a function's first call. */
const once = <T>(make: () => T): (() => T) => {
  let held: { value: T } | undefined;
  return () => {
    held ??= { value: make() };
    return held.value;
  };
};

/** What a response's fit and predictions rest on; lists keep their identity while nothing in them is edited. */
const groundsOf = (study: Study, response: string): unknown[] => [
  study.factors,
  study.covariates,
  study.waves,
  study.region,
  study.confidence,
  ...study.responses.filter((r) => r.id === response),
  JSON.stringify(storedModel(study, response)),
];

const cache = new WeakMap<Study["trials"], Map<string, { grounds: unknown[]; result: FitResult }>>();

/** The fit of a response as the study stands: its stored model, else main effects. Worked out anew only when what it rests on changes. */
export function fittedOf(study: Study, response: string): FitResult {
  const byResponse = cache.get(study.trials) ?? new Map<string, { grounds: unknown[]; result: FitResult }>();
  cache.set(study.trials, byResponse);
  const grounds = groundsOf(study, response);
  const had = byResponse.get(response);
  if (had && had.grounds.length === grounds.length && had.grounds.every((g, i) => g === grounds[i])) return had.result;
  let result: FitResult;
  try {
    const fit = presentFit(study, response);
    const contrasts = once(() => saturatedContrasts(study, fit.data, fit.model.observed));
    const ladder = once(() => effectLadder(study, fit));
    result = {
      ok: true,
      fitted: {
        fit,
        predictor: presentPredictor(study, response, fit),
        chosen: storedModel(study, response) !== undefined,
        get ladder() {
          return ladder();
        },
        span: spanOf(fit),
        get contrasts() {
          return contrasts();
        },
      },
    };
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    result = { ok: false, reason: error.message };
  }
  byResponse.set(response, { grounds, result });
  return result;
}
