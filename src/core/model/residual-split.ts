import { cellsOf, pureErrorDf } from "../appraisal/appraise";
import { fUpper } from "../numerics/distributions";
import { leastSquares, type Matrix, pickColumns, rankReport, zeros } from "../numerics/least-squares";
import type { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { encoder, modelMatrix } from "../terms/model-matrix";
import { type FittedModel, hasSquares } from "./fitted";
import type { ModelData } from "./model-data";

/** Fewest degrees of freedom between set-ups that cells are judged on. */
const LEAST_BETWEEN = 2;
/** Products that the test of cells may cost where errors are of two strata: it is made with every fit. */
const MOST_WORK = 3e5;

/** What the residual is made of: lack of fit, pure error. */
export interface ResidualSplit {
  lackOfFit?: {
    df: number;
    /** Sums of squares; null where errors are of two strata. */
    ss: number | null;
    f: number | null;
    p: number | null;
    /** Under set-ups what F is judged on (Kenward & Roger 1997), not always whole. */
    pureErrorDf: number;
    pureErrorSs: number | null;
    approximate: boolean;
  };
}

/** RSS of y on indicator columns of cells and waves. */
function pureErrorSs(cells: readonly number[], waves: readonly string[], z: readonly number[]): number {
  const waveIds = [...new Set(waves)];
  const cellIds = [...new Set(cells)];
  // With one wave a cell's own mean is its fit: no system to solve.
  if (waveIds.length === 1) {
    let total = 0;
    for (const c of cellIds) {
      const rows = cells.flatMap((v, i) => (v === c ? [i] : []));
      if (rows.length < 2) continue;
      const mean = rows.reduce((t, i) => t + z[i], 0) / rows.length;
      total += rows.reduce((t, i) => t + (z[i] - mean) ** 2, 0);
    }
    return total;
  }
  // Only cells met more than once bear on pure error; single ones fit themselves whatever the wave.
  const counts = new Map<number, number>();
  for (const c of cells) counts.set(c, (counts.get(c) ?? 0) + 1);
  const rows = cells.flatMap((c, i) => ((counts.get(c) ?? 0) > 1 ? [i] : []));
  if (rows.length === 0) return 0;
  const often = cellIds.filter((c) => (counts.get(c) ?? 0) > 1);
  const m = zeros(rows.length, often.length + waveIds.length - 1);
  rows.forEach((i, r) => {
    m.data[r * m.cols + often.indexOf(cells[i])] = 1;
    const w = waveIds.indexOf(waves[i]);
    if (w > 0) m.data[r * m.cols + often.length + w - 1] = 1;
  });
  const x = pickColumns(m, rankReport(m).kept);
  return leastSquares(
    x,
    rows.map((i) => z[i]),
  ).rss;
}

/** Independent columns of cells, waves and what else is measured. */
function cellColumns(cells: readonly number[], waves: readonly string[], more: Matrix): Matrix {
  const cellIds = [...new Set(cells)];
  const waveIds = [...new Set(waves)];
  const n = cells.length;
  const m = zeros(n, cellIds.length + waveIds.length - 1 + more.cols);
  for (let i = 0; i < n; i++) {
    m.data[i * m.cols + cellIds.indexOf(cells[i])] = 1;
    const w = waveIds.indexOf(waves[i]);
    if (w > 0) m.data[i * m.cols + cellIds.length + w - 1] = 1;
    for (let j = 0; j < more.cols; j++)
      m.data[i * m.cols + cellIds.length + waveIds.length - 1 + j] = more.data[i * more.cols + j];
  }
  return pickColumns(m, rankReport(m).kept);
}

/** Waves as the model holds them, and the columns of its covariates but the constant; none where it has none. */
export function besideCells(
  study: Study,
  data: ModelData,
  model: FittedModel,
): { waves: string[]; more: Matrix | undefined } {
  const held = model.columns.some((c) => c.key === "@wave");
  const waves = held ? data.waves : data.waves.map(() => "");
  const covariates = new Set(study.covariates.map((c) => c.id));
  const measured = model.terms.filter((t) => t.some((id) => covariates.has(id)));
  if (measured.length === 0) return { waves, more: undefined };
  const { matrix } = modelMatrix(encoder(study, measured, "sum", model.covariateRanges), data.actual);
  // The constant is among the cells.
  const more = pickColumns(
    matrix,
    Array.from({ length: matrix.cols - 1 }, (_, j) => j + 1),
  );
  return { waves, more };
}

/** Independent columns of what trials alike share: their cells, with waves and covariates as the model holds them. */
export function columnsOfCells(study: Study, data: ModelData, model: FittedModel): Matrix {
  const { waves, more } = besideCells(study, data, model);
  const cells = cellsOf(study, data.actual);
  return cellColumns(cells, waves, more ?? zeros(cells.length, 0));
}

/** Pure error: what is left of y beside cells, and waves and covariates as the model holds them. */
function pureErrorOf(
  study: Study,
  data: ModelData,
  model: FittedModel,
  cells: readonly number[],
): { ss: number; df: number } {
  const { waves, more } = besideCells(study, data, model);
  if (more) {
    const x = cellColumns(cells, waves, more);
    const df = cells.length - x.cols;
    return { ss: df > 0 ? leastSquares(x, model.observed).rss : 0, df };
  }
  const df = pureErrorDf(cells, waves);
  return { ss: df > 0 ? pureErrorSs(cells, waves, model.observed) : 0, df };
}

/** Whether trials of one cell were set a little differently: their cell is then an approximation. */
function settingsDiffer(study: Study, data: ModelData, cells: readonly number[]): boolean {
  const first = new Map<number, string>();
  return data.actual.some((s, i) => {
    const text = study.factors.map((q) => String(s[q.id])).join("|");
    const known = first.get(cells[i]);
    if (known === undefined) first.set(cells[i], text);
    return known !== undefined && known !== text;
  });
}

/**
 * Of counts: pure error is Pearson's X² of cells and waves, lack of fit the deviance that they take beyond the model,
 * against it, or against counting itself where pieces are independent.
 */
function splitDeviance(study: Study, data: ModelData, model: FittedModel, cells: readonly number[]): ResidualSplit {
  const { summary, likelihood } = model;
  if (!likelihood || hasSquares(summary) || !("deviance" in summary)) return {};
  const { waves, more } = besideCells(study, data, model);
  const x = cellColumns(cells, waves, more ?? zeros(cells.length, 0));
  const pureDf = cells.length - x.cols;
  if (pureDf <= 0 || pureDf > summary.residualDf) return {};
  const { deviance, pearson } = likelihood.refit(x);
  const df = summary.residualDf - pureDf;
  const ss = Math.max(0, summary.deviance - deviance);
  const error = likelihood.counting ? 1 : pearson / pureDf;
  const f = df > 0 && error > 1e-12 ? ss / df / error : null;
  return {
    lackOfFit: {
      df,
      ss: df > 0 ? ss : 0,
      f,
      p: f === null ? null : fUpper(f, df, likelihood.counting ? null : pureDf),
      pureErrorDf: pureDf,
      pureErrorSs: pearson,
      approximate: settingsDiffer(study, data, cells),
    },
  };
}

/**
 * Where errors are of two parts: the Kenward–Roger F of the columns of cells beyond the model, by the components
 * that cells leave.
 */
function splitStrata(study: Study, data: ModelData, model: FittedModel, cells: readonly number[]): ResidualSplit {
  if (!model.cellsBeyond) return {};
  const { waves, more } = besideCells(study, data, model);
  if (cells.length * new Set(cells).size ** 2 > MOST_WORK) return {};
  // What cells leave between set-ups is what they leave in all, less what they leave beside set-ups.
  const inSetups = model.setups ? pureErrorDf(cells, data.setups ?? []) : 0;
  if (pureErrorDf(cells, waves) - inSetups < LEAST_BETWEEN) return {};
  const test = model.cellsBeyond(cellColumns(cells, waves, more ?? zeros(cells.length, 0)));
  // Copies that leave too little between set-ups have nothing to judge cells by.
  if (!test || test.f === null) return {};
  const { df, f, p, dfDenominator } = test;
  return {
    lackOfFit: {
      df,
      ss: null,
      f,
      p,
      pureErrorDf: dfDenominator ?? 0,
      pureErrorSs: null,
      approximate: settingsDiffer(study, data, cells),
    },
  };
}

/** Splits the residual of least squares; lack of fit is what pure error leaves. */
export function splitResidual(study: Study, data: ModelData, model: FittedModel, memo: Memo): ResidualSplit {
  const { summary } = model;
  if (summary.residualDf < 1) return {};
  if (model.likelihood)
    return splitDeviance(
      study,
      data,
      model,
      memo.get("cells", [data, study.factors], () => cellsOf(study, data.actual)),
    );
  if (model.cellsBeyond)
    return splitStrata(
      study,
      data,
      model,
      memo.get("cells", [data, study.factors], () => cellsOf(study, data.actual)),
    );
  if (!hasSquares(summary)) return {};
  const { rss, residualDf } = summary;
  const cells = memo.get("cells", [data, study.factors], () => cellsOf(study, data.actual));
  const { df: pureDf, ss: pureSs } = pureErrorOf(study, data, model, cells);
  if (pureDf <= 0 || pureDf > residualDf) return {};
  const df = residualDf - pureDf;
  const ss = Math.max(0, rss - pureSs);
  const f = df > 0 && pureSs > 1e-14 * (rss || 1) && !model.exact ? ss / df / (pureSs / pureDf) : null;
  return {
    lackOfFit: {
      df,
      ss: df > 0 ? ss : 0,
      f,
      p: f === null ? null : fUpper(f, df, pureDf),
      pureErrorDf: pureDf,
      pureErrorSs: pureSs,
      approximate: settingsDiffer(study, data, cells),
    },
  };
}
