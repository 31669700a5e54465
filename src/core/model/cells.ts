import { cellsOf } from "../appraisal/appraise";
import { settingsAsRun } from "../study/coding";
import type { Settings, Study } from "../study/schema";
import type { Fit } from "./fit";
import type { Contrast } from "./lenth";

/** All results at one combination of settings. */
export interface CellSummary {
  settings: Settings;
  trials: string[];
  n: number;
  mean: number;
  /** Standard deviation; null for a single result. */
  s: number | null;
}

/**
 * Mean, standard deviation and count per distinct combination of settings, on the response's own scale, by first run.
 */
export function cellSummary(study: Study, fit: Fit): CellSummary[] {
  const { data } = fit;
  const cells = cellsOf(study, data.trials.map(settingsAsRun));
  return [...new Set(cells)].map((cell) => {
    const rows = cells.flatMap((c, i) => (c === cell ? [i] : []));
    const mean = rows.reduce((t, i) => t + data.y[i], 0) / rows.length;
    return {
      settings: data.actual[rows[0]],
      trials: rows.map((i) => data.trials[i].id),
      n: rows.length,
      mean,
      s: rows.length > 1 ? Math.sqrt(rows.reduce((t, i) => t + (data.y[i] - mean) ** 2, 0) / (rows.length - 1)) : null,
    };
  });
}

/** One effect worked out by hand: each corner trial's sign and result, their sums, the divisor, the effect. */
export interface ContrastWorking {
  rows: { trial: string; sign: 1 | -1; value: number }[];
  plus: number;
  minus: number;
  /** Number of results on each side. */
  divisor: number;
  effect: number;
}

/**
 * The sign table of one contrast with its sums, so that a person can follow the effect by hand (Yates 1937):
 * (Σ of results at + less Σ of results at −) / half their number.
 */
export function contrastWorking(contrast: Contrast, fit: Fit): ContrastWorking {
  const { data } = fit;
  const rows = contrast.signs.map(({ corner, sign }) => ({
    trial: data.trials[corner].id,
    sign,
    value: fit.model.observed[corner],
  }));
  const side = (sign: 1 | -1): number => rows.reduce((t, r) => (r.sign === sign ? t + r.value : t), 0);
  const plus = side(1);
  const minus = side(-1);
  const divisor = rows.length / 2;
  return { rows, plus, minus, divisor, effect: (plus - minus) / divisor };
}
