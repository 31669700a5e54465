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

/** Marks of a trial that stands out, and the lines past which it does. */
export type Flag = "error" | "leverage" | "pull" | "fit";

/** Past these a trial is flagged: 2p/n and 2√(p/n) by Belsley, Kuh & Welsch (1980), 1 by Cook & Weisberg (1982). */
export const flagLines = ({ columns, trials }: Pick<FittedModel, "columns" | "trials">) => ({
  error: 3,
  leverage: (2 * columns.length) / trials.length,
  pull: 1,
  fit: 2 * Math.sqrt(columns.length / trials.length),
});

/** What a trial is flagged for. */
export function flagsOf(t: TrialFigures, lines: ReturnType<typeof flagLines>): Flag[] {
  const out: Flag[] = [];
  if (Math.abs(t.deleted ?? 0) > lines.error) out.push("error");
  if (t.leverage > lines.leverage) out.push("leverage");
  if ((t.cooks ?? 0) > lines.pull) out.push("pull");
  if (Math.abs(t.dffits ?? 0) > lines.fit) out.push("fit");
  return out;
}
