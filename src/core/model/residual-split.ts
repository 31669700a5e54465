import { cellsOf, pureErrorDf } from "../appraisal/appraise";
import { fUpper } from "../numerics/distributions";
import { type LeastSquares, leastSquares, pickColumns, rankReport, zeros } from "../numerics/least-squares";
import { isCentre } from "../study/coding";
import type { Study } from "../study/schema";
import type { ModelData } from "./data";

/** What the residual is made of: curvature seen by centre points, lack of fit, pure error. */
export interface ResidualSplit {
  curvature?: { df: number; ss: number; f: number | null; p: number | null };
  lackOfFit?: {
    df: number;
    ss: number;
    f: number | null;
    p: number | null;
    pureErrorDf: number;
    pureErrorSs: number;
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

/** What of the split depends on the trials alone, whatever the model. */
interface Layout {
  factors: Study["factors"];
  waves: Study["waves"];
  /** 1 for centre points. */
  centre: number[];
  cells: number[];
  pureDf: number;
}
const layouts = new WeakMap<ModelData, Layout>();

function layoutOf(study: Study, data: ModelData): Layout {
  const had = layouts.get(data);
  if (had && had.factors === study.factors && had.waves === study.waves) return had;
  const cells = cellsOf(study, data.actual);
  const layout: Layout = {
    factors: study.factors,
    waves: study.waves,
    centre: data.trials.map((t) => (isCentre(study, t) ? 1 : 0)),
    cells,
    pureDf: pureErrorDf(cells, data.waves),
  };
  layouts.set(data, layout);
  return layout;
}

/**
 * Splits the residual. Curvature is the drop of RSS when an indicator of centre points enters last, tested on what
 * then remains; lack of fit is what curvature and pure error leave.
 */
export function splitResidual(
  study: Study,
  data: ModelData,
  z: readonly number[],
  model: { solution: LeastSquares; rss: number; residualDf: number; exact: boolean; hasSquares: boolean },
): ResidualSplit {
  const out: ResidualSplit = {};
  const { solution, rss, residualDf, exact } = model;
  if (residualDf < 1) return out;
  const n = z.length;
  const { centre, cells, pureDf } = layoutOf(study, data);
  const centres = centre.reduce((t: number, c) => t + c, 0);
  let curvatureSs = 0;
  let curvatureDf = 0;
  if (!model.hasSquares && centres > 0 && centres < n) {
    // The indicator cleared of the model, twice so that rounding of the first pass is taken out by the second (Björck 1994).
    const own = Float64Array.from(centre);
    for (let pass = 0; pass < 2; pass++)
      for (const q of solution.basis) {
        let dot = 0;
        for (let i = 0; i < n; i++) dot += q[i] * own[i];
        for (let i = 0; i < n; i++) own[i] -= dot * q[i];
      }
    let rest = 0;
    let along = 0;
    for (let i = 0; i < n; i++) {
      rest += own[i] ** 2;
      along += own[i] * solution.residuals[i];
    }
    if (Math.sqrt(rest) > n * Number.EPSILON * 1e3 * Math.sqrt(centres)) {
      curvatureSs = along ** 2 / rest;
      curvatureDf = 1;
      const restDf = residualDf - 1;
      const left = Math.max(0, rss - curvatureSs);
      const f = restDf > 0 && !exact && left > 1e-14 * rss ? curvatureSs / (left / restDf) : null;
      out.curvature = { df: 1, ss: curvatureSs, f, p: f === null ? null : fUpper(f, 1, restDf) };
    }
  }
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
