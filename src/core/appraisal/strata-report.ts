import { block, determinant, type Matrix } from "../numerics/least-squares";
import type { Study, Term } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import { type PointModel, type Points, pointModel } from "./terms-info";
import { meanVariance, regionSample, varianceReader } from "./variance";

/** What a plan in set-ups can tell between them and within, and how it stands beside resetting for every trial. */
export interface StrataReport {
  setups: number;
  /** Variance between set-ups over that within. */
  eta: number;
  df: { between: number; within: number };
  /** Terms that only set-ups tell. */
  between: Term[];
  /** Least squares gives what generalised least squares gives, whatever η (Vining, Kowalski & Montgomery 2005). */
  leastSquares: boolean;
  /**
   * Efficiencies by D, A and I in percent of the same trials with every one set up anew (V = (1 + η)I): above 100 the
   * set-ups tell more than complete randomisation would.
   */
  relative: { d: number | null; a: number | null; i: number | null };
}

export function strataReport(study: Study, points: Points, model: PointModel, terms: readonly Term[]): StrataReport {
  const strata = model.strata as NonNullable<PointModel["strata"]>;
  const told = new Set(model.kept.flatMap((c, j) => (strata.constant[j] ? [c.key] : [])));
  const complete = model.rank.dropped.length === 0;
  const relative: StrataReport["relative"] = { d: null, a: null, i: null };
  if (complete) {
    const even = pointModel(study, points, terms, "orthonormal");
    const own = even.kept.flatMap((c, j) => (c.key === "@wave" ? [] : [j]));
    const reset = 1 + strata.eta;
    const det = (m: Matrix): number => determinant(block(m, own)) ** (1 / own.length);
    const sum = (m: Matrix): number => own.reduce((t, j) => t + m.data[j * m.cols + j], 0);
    relative.d = (100 * reset * det(even.plain.inverse)) / det(even.inverse);
    relative.a = (100 * reset * sum(even.plain.inverse)) / sum(even.inverse);
    const encoded = encoder(study, terms);
    const sample = regionSample(study);
    const mean = (m: Matrix): number =>
      meanVariance(study, model.kept, m, varianceReader(encoded, model.kept, m), sample);
    relative.i = (100 * reset * mean(model.plain.inverse)) / mean(model.inverse);
  }
  return {
    setups: strata.setups,
    eta: strata.eta,
    df: { between: strata.between, within: strata.within },
    between: terms.filter((t) => told.has(termKey(t))),
    leastSquares: strata.plain,
    relative,
  };
}
