import type { FittedModel } from "./fitted";

/** One trial as the model sees it, on the fitted scale. */
export interface TrialFigures {
  id: string;
  observed: number;
  predicted: number;
  residual: number;
  leverage: number;
  studentized: number | null;
  deleted: number | null;
  cooks: number | null;
  dffits: number | null;
}

/** Residuals of every kind, leverage, Cook's distance (1977) and DFFITS (Belsley, Kuh & Welsch 1980) by trial. */
export function trialFigures(model: FittedModel): TrialFigures[] {
  const raw = model.residuals("raw");
  const studentized = model.residuals("studentized");
  const deleted = model.residuals("deleted");
  const p = model.columns.length;
  return model.trials.map((id, i) => {
    const h = model.leverages[i];
    const residual = raw[i] ?? 0;
    const r = studentized[i];
    const d = deleted[i];
    return {
      id,
      observed: model.observed[i],
      predicted: model.observed[i] - residual,
      residual,
      leverage: h,
      studentized: r,
      deleted: d,
      cooks: r === null ? null : (r ** 2 * h) / ((1 - h) * p),
      dffits: d === null ? null : d * Math.sqrt(h / (1 - h)),
    };
  });
}
