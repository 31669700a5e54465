import { cellsOf, pureErrorDf } from "../appraisal/appraise";
import { fUpper } from "../numerics/distributions";
import { leastSquares, pickColumns, rankReport, zeros } from "../numerics/least-squares";
import { isCentre } from "../study/coding";
import type { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { termShape } from "../terms/term";
import type { ModelData } from "./data";
import { type FittedModel, hasSquares } from "./fitted";

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

/** What of the split depends on the trials alone, whatever the model. */
interface Layout {
  /** 1 for centre points. */
  centre: number[];
  cells: number[];
  pureDf: number;
}

function layoutOf(study: Study, data: ModelData): Layout {
  const cells = cellsOf(study, data.actual);
  return {
    centre: data.trials.map((t) => (isCentre(study, t) ? 1 : 0)),
    cells,
    pureDf: pureErrorDf(cells, data.waves),
  };
}

/** Curvature: the drop of RSS when an indicator of centre points enters last, tested on what then remains. */
function curvatureOf(model: FittedModel, centre: readonly number[]): ResidualSplit["curvature"] {
  const centres = centre.reduce((t, c) => t + c, 0);
  const bent = model.columns.some((c) => termShape(c.term) === "square");
  if (bent || centres === 0 || centres === centre.length) return undefined;
  const added = model.addTerm({ rows: centre.length, cols: 1, data: Float64Array.from(centre) });
  if (added?.ss === null || added?.ss === undefined) return undefined;
  return { df: 1, ss: added.ss, f: model.exact ? null : added.f, p: model.exact ? null : added.p };
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

/** Splits the residual of least squares; lack of fit is what curvature and pure error leave. */
export function splitResidual(study: Study, data: ModelData, model: FittedModel, memo?: Memo): ResidualSplit {
  const { summary } = model;
  if (!hasSquares(summary) || summary.residualDf < 1) return {};
  const { rss, residualDf } = summary;
  const { centre, cells, pureDf } = memo
    ? memo.get("cells and centres", [data, study.factors, study.waves], () => layoutOf(study, data))
    : layoutOf(study, data);
  const curvature = curvatureOf(model, centre);
  const out: ResidualSplit = curvature ? { curvature } : {};
  if (pureDf <= 0 || pureDf > residualDf) return out;
  const pureSs = pureErrorSs(cells, data.waves, model.observed);
  const df = residualDf - pureDf - (curvature ? 1 : 0);
  const ss = Math.max(0, rss - pureSs - (curvature?.ss ?? 0));
  const f = df > 0 && pureSs > 1e-14 * (rss || 1) && !model.exact ? ss / df / (pureSs / pureDf) : null;
  out.lackOfFit = {
    df: Math.max(0, df),
    ss: df > 0 ? ss : 0,
    f,
    p: f === null ? null : fUpper(f, df, pureDf),
    pureErrorDf: pureDf,
    pureErrorSs: pureSs,
    approximate: settingsDiffer(study, data, cells),
  };
  return out;
}
