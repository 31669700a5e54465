import { information, type Matrix, pickColumns, type RankReport, rankReport } from "../numerics/least-squares";
import { groupingOf, whitenedBy } from "../numerics/mixed";
import { hardFactors, isUsable } from "../study/roles";
import { ASSUMED_RATIO, type Settings, type Study, type Term } from "../study/schema";
import { type Column, type Contrasts, encoder, modelMatrix, waveColumns } from "../terms/model-matrix";
import { type Strata, strataOf } from "./strata";

/** Points of a plan or a ledger, each with the wave it belongs to. */
export interface Points {
  settings: Settings[];
  waves: string[];
  /** Set-up of the hard factors of each, where there are any; the variance between them over that within. */
  setups?: string[];
  eta?: number;
}

/** A model on some points: matrix, which columns can be estimated, and the information of those. */
export interface PointModel {
  matrix: Matrix;
  columns: Column[];
  rank: RankReport;
  /** Columns kept, in order, and (X′V⁻¹X)⁻¹ of them; V = I + ηZZ′ over set-ups, I without. */
  kept: Column[];
  inverse: Matrix;
  logDeterminant: number;
  /** (X′X)⁻¹, whatever set-ups vary. */
  readonly plain: { inverse: Matrix; logDeterminant: number };
  /** Rows over the root of V. */
  whiten(rows: Matrix): Matrix;
  /** Which errors coefficients are held against, where there are set-ups. */
  strata: Strata | undefined;
  /** The same where the variance between set-ups is so many times that within; itself where there are none. */
  under(eta: number): PointModel;
}

/**
 * The trials that count as points of a plan: all but those skipped, failed or set aside. Where factors are hard to
 * change, a trial of a wave that is not marked is its own set-up.
 *
 * @param eta variance between set-ups over that within; what the last wave was planned for unless said
 */
export function pointsOf(study: Study, eta?: number): Points {
  const used = study.trials.filter(isUsable);
  const points = { settings: used.map((t) => t.settings), waves: used.map((t) => t.wave) };
  if (hardFactors(study).length === 0 || used.every((t) => t.setup === undefined)) return points;
  const planned = study.waves.flatMap((w) => w.plan.eta ?? []).at(-1);
  return { ...points, setups: used.map((t) => setupName(t)), eta: eta ?? planned ?? ASSUMED_RATIO };
}

const setupName = (t: { id: string; wave: string; setup?: number | undefined }): string =>
  t.setup === undefined ? `trial ${t.id}` : `${t.wave} ${t.setup}`;

/** Trials that are planned, each with its wave and its set-up, and the ratio of variances they are planned for. */
interface PlannedPoints {
  trials: readonly { id: string; wave: string; settings: Settings; setup?: number | undefined }[];
  recipe: { eta?: number | undefined };
}

/** The trials of a plan as points, each block of it a wave. */
export function pointsOfPlan({ trials, recipe }: PlannedPoints): Points {
  const points = { settings: trials.map((t) => t.settings), waves: trials.map((t) => t.wave) };
  if (trials.every((t) => t.setup === undefined)) return points;
  return { ...points, setups: trials.map((t) => setupName(t)), eta: recipe.eta ?? ASSUMED_RATIO };
}

/** Points of two waves after each other. */
export function joinedPoints(a: Points, b: Points): Points {
  const points = { settings: [...a.settings, ...b.settings], waves: [...a.waves, ...b.waves] };
  if (!a.setups && !b.setups) return points;
  const own = (p: Points, of: string): string[] => p.setups ?? p.settings.map((_, i) => `${of} ${i}`);
  return {
    ...points,
    setups: [...own(a, "before"), ...own(b, "after")],
    eta: b.eta ?? a.eta ?? ASSUMED_RATIO,
  };
}

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
  const own = pickColumns(matrix, rank.kept);
  const found = { matrix, columns, rank, kept };
  if (!points.setups) {
    const plain = information(own);
    const alone: PointModel = {
      ...found,
      ...plain,
      plain,
      whiten: (rows) => rows,
      strata: undefined,
      under: () => alone,
    };
    return alone;
  }
  const groups = groupingOf(points.setups);
  const eta = points.eta ?? ASSUMED_RATIO;
  const whiten = (rows: Matrix): Matrix => whitenedBy(groups, eta, rows);
  let plain: PointModel["plain"] | undefined;
  return {
    ...found,
    ...information(whiten(own)),
    get plain() {
      plain ??= information(own);
      return plain;
    },
    whiten,
    strata: strataOf(groups, own, eta),
    under: (other) => pointModel(study, { ...points, eta: other }, terms, contrasts),
  };
}
