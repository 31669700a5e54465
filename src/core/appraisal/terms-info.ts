import { information, type Matrix, pickColumns, type RankReport, rankReport } from "../numerics/least-squares";
import type { Settings, Study, Term } from "../study/schema";
import { type Column, type Contrasts, encoder, modelMatrix, waveColumns } from "../terms/model-matrix";

/** Points of a plan or a ledger, each with the wave it belongs to. */
export interface Points {
  settings: Settings[];
  waves: string[];
}

/** A model on some points: matrix, which columns can be estimated, and the information of those. */
export interface PointModel {
  matrix: Matrix;
  columns: Column[];
  rank: RankReport;
  /** Columns kept, in order, and (X′X)⁻¹ of them. */
  kept: Column[];
  inverse: Matrix;
  logDeterminant: number;
}

/** The trials that count as points of a plan: all but those skipped, failed or set aside. */
export function pointsOf(study: Study): Points {
  const used = study.trials.filter((t) => t.use && t.state !== "skipped" && t.state !== "failed");
  return { settings: used.map((t) => t.settings), waves: used.map((t) => t.wave) };
}

/** The trials of a plan as points, each block of it a wave. */
export const pointsOfPlan = ({ trials }: { trials: readonly { settings: Settings; wave: string }[] }): Points => ({
  settings: trials.map((t) => t.settings),
  waves: trials.map((t) => t.wave),
});

/** Model matrix of points with waves as blocks, its rank and the information of the columns that can be estimated. */
export function pointModel(
  study: Study,
  points: Points,
  terms: readonly Term[],
  contrasts: Contrasts = "sum",
): PointModel {
  const labels = new Map(study.waves.map((w) => [w.id, w.name]));
  const { matrix, columns } = modelMatrix(
    encoder(study, terms, contrasts),
    points.settings,
    waveColumns(points.waves, labels),
  );
  const rank = rankReport(matrix);
  const kept = rank.kept.map((j) => columns[j]);
  const { inverse, logDeterminant } = information(pickColumns(matrix, rank.kept));
  return { matrix, columns, rank, kept, inverse, logDeterminant };
}
