import type { Unit } from "../messages/message";
import type { BlockEffect } from "../model/block-effects";
import type { Fit } from "../model/fit";
import { effectLadder, type Rung } from "../model/ladder";
import { significance } from "../study/coding";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";

/** How much the numbers of a reading matter: active terms before cautions on small print. */
export const WEIGHTS = {
  askedOut: 99,
  ofChoosing: 98,
  leftOut: 91,
  likely: 85,
  noDf: 100,
  dropped: 88,
  drivers: 90,
  curvature: 86,
  alias: 84,
  influential: 80,
  lackOfFit: 76,
  overfit: 74,
  penalised: 87,
  scatter: 58,
  setups: 89,
  wave: 60,
  bounds: 72,
  check: 66,
  idle: 40,
  nothing: 92,
  parents: 50,
};

/** The lower-case start of a name inside a sentence is kept as the person wrote it. */
export const nameOf = (study: Study, id: string): string => study.factors.find((f) => f.id === id)?.name ?? id;

/** What readings of a response's model are told from. */
export interface ModelContext {
  study: Study;
  /** Where what is derived of the study stands. */
  memo: Memo;
  fit: Fit;
  /** The response's name. */
  name: string;
  /** What stands behind every size: the response's unit, or the scale it is fitted on. */
  unit: Unit;
  rungs: readonly Rung[];
  standing: readonly BlockEffect[];
  /** Terms in the model that are past their own p. */
  active: readonly Rung[];
}

export function modelContext(study: Study, fit: Fit, memo = new Memo()): ModelContext {
  const alpha = significance(study);
  const { link, unit, likelihood } = fit.model;
  const { rungs, standing } = effectLadder(study, fit, [], memo);
  return {
    study,
    memo,
    fit,
    name: study.responses.find((r) => r.id === fit.response)?.name ?? fit.response,
    unit: link.identity ? (unit ?? "") : { scale: link.name, ...(likelihood ? { times: link.multiplies } : {}) },
    rungs,
    standing,
    active: rungs.filter((r) => r.inModel && r.p !== null && r.p < alpha),
  };
}
