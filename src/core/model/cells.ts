import { cellsOf } from "../appraisal/appraise";
import { settingsAsRun } from "../study/coding";
import type { Settings, Study } from "../study/schema";
import type { Fit } from "./fit";

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
