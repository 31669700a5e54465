import { cellsOf, pureErrorDf } from "../appraisal/appraise";
import { fUpper } from "../numerics/distributions";
import { leastSquares, type Matrix, pickColumns, rankReport, zeros } from "../numerics/least-squares";
import { isCentre } from "../study/coding";
import type { Study } from "../study/schema";
import type { ModelData } from "./data";

/** What the residual is made of: curvature seen by centre points, lack of fit, pure error. */
export interface ResidualSplit {
  curvature?: { df: number; ss: number; f: number | null; p: number | null };
  lackOfFit?: { df: number; ss: number; f: number | null; p: number | null; pureErrorDf: number; pureErrorSs: number; approximate: boolean };
}

/** RSS of y on indicator columns of cells and waves. */
function pureErrorSs(cells: readonly number[], waves: readonly string[], z: readonly number[]): number {
  const waveIds = [...new Set(waves)];
  const cellIds = [...new Set(cells)];
  // With one wave a cell's own mean is its fit: no system to solve.
  if (waveIds.length === 1) {
    let total = 0;
    for (const c of cellIds) {
      const at = cells.flatMap((v, i) => (v === c ? [i] : []));
      if (at.length < 2) continue;
      const mean = at.reduce((t, i) => t + z[i], 0) / at.length;
      total += at.reduce((t, i) => t + (z[i] - mean) ** 2, 0);
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

/**
 * Splits the residual. Curvature is the drop of RSS when an indicator of centre points enters last, tested on what
 * then remains; lack of fit is what curvature and pure error leave.
 */
export function splitResidual(
  study: Study,
  data: ModelData,
  z: readonly number[],
  model: { matrix: Matrix; rss: number; residualDf: number; exact: boolean; hasSquares: boolean },
): ResidualSplit {
  const out: ResidualSplit = {};
  const { matrix, rss, residualDf, exact } = model;
  if (residualDf < 1) return out;
  const n = z.length;
  const centre = data.trials.map((t) => (isCentre(study, t) ? 1 : 0));
  const centres = centre.reduce((t: number, c) => t + c, 0);
  let curvatureSs = 0;
  let curvatureDf = 0;
  if (!model.hasSquares && centres > 0 && centres < n) {
    const wide = zeros(n, matrix.cols + 1);
    for (let i = 0; i < n; i++) {
      wide.data.set(matrix.data.subarray(i * matrix.cols, (i + 1) * matrix.cols), i * wide.cols);
      wide.data[i * wide.cols + matrix.cols] = centre[i];
    }
    if (rankReport(wide).rank === wide.cols) {
      curvatureSs = leastSquares(wide, z).sequential[matrix.cols];
      curvatureDf = 1;
      const restDf = residualDf - 1;
      const rest = Math.max(0, rss - curvatureSs);
      const f = restDf > 0 && !exact && rest > 1e-14 * rss ? curvatureSs / (rest / restDf) : null;
      out.curvature = { df: 1, ss: curvatureSs, f, p: f === null ? null : fUpper(f, 1, restDf) };
    }
  }
  const cells = cellsOf(study, data.actual);
  const pureDf = pureErrorDf(cells, data.waves);
  if (pureDf > 0 && pureDf <= residualDf) {
    const pureSs = pureErrorSs(cells, data.waves, z);
    const df = residualDf - pureDf - curvatureDf;
    const ss = Math.max(0, rss - pureSs - curvatureSs);
    const f = df > 0 && pureSs > 1e-14 * (rss || 1) && !exact ? ss / df / (pureSs / pureDf) : null;
    const first = new Map<number, string>();
    let approximate = false;
    data.actual.forEach((s, i) => {
      const text = study.factors.map((q) => String(s[q.id])).join("|");
      const known = first.get(cells[i]);
      if (known === undefined) first.set(cells[i], text);
      else if (known !== text) approximate = true;
    });
    out.lackOfFit = {
      df: Math.max(0, df),
      ss: df > 0 ? ss : 0,
      f,
      p: f === null ? null : fUpper(f, df, pureDf),
      pureErrorDf: pureDf,
      pureErrorSs: pureSs,
      approximate,
    };
  }
  return out;
}
