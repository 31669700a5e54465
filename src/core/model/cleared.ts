import { dot, pickColumns, rankReport } from "../numerics/least-squares";
import type { Settings, Study, Term } from "../study/schema";
import { encoder, modelMatrix, waveColumns } from "../terms/model-matrix";
import { ofFactors, termKey } from "../terms/term";
import { curvatureColumn } from "./curvature";
import type { Fit } from "./fit";

/** The candidates' columns cleared of constant, waves and centre, of length one, and what choosing among them needs. */
export interface ClearedColumns {
  /** Trials. */
  n: number;
  /** Columns of terms, term by term; the response follows them in `vectors` and `products`. */
  total: number;
  vectors: Float64Array[];
  /** (total + 1)² scalar products of the vectors. */
  products: Float64Array;
  /** Leverage of each trial in the model of constant, waves and centre alone. */
  baseLeverage: Float64Array;
  /** Columns of constant, waves and centre that are independent. */
  baseRank: number;
  /** By term: its number of columns, its first column, and whether nothing of it is left. */
  width: number[];
  firstColumn: number[];
  dead: boolean[];
}

/**
 * Columns of terms beside the constant, waves and the centre, as a fit weighs its trials.
 *
 * @param settings of the trials: as they were run, unless what was planned is asked about
 */
export function clearedColumns(
  study: Study,
  { data, model, fitting, centre }: Fit,
  terms: readonly Term[],
  settings: readonly Settings[] = data.actual,
): ClearedColumns {
  const n = model.observed.length;
  const waves = fitting.block ? waveColumns(data.waves, new Map()) : undefined;
  const bend = fitting.curvature ? curvatureColumn(terms, centre) : undefined;
  const whole = modelMatrix(encoder(study, terms, "sum", model.covariateRanges), settings, waves, bend);
  const matrix = model.whiten(whole.matrix);
  const held = whole.columns.map((c) => c.key === "" || !ofFactors(c.term));
  const base = whole.columns.flatMap((_, j) => (held[j] ? [j] : []));
  const columnAt = (j: number): Float64Array =>
    Float64Array.from({ length: n }, (_, i) => matrix.data[i * matrix.cols + j]);
  const basis: Float64Array[] = [];
  const cleared = (v: Float64Array): { v: Float64Array; length: number; was: number } => {
    const was = Math.sqrt(dot(v, v));
    for (let pass = 0; pass < 2; pass++)
      for (const q of basis) {
        const along = dot(q, v);
        for (let i = 0; i < n; i++) v[i] -= along * q[i];
      }
    return { v, length: Math.sqrt(dot(v, v)), was };
  };
  for (const j of base) {
    const c = cleared(columnAt(j));
    if (c.length > 1e-10 * (c.was || 1)) basis.push(c.v.map((x) => x / c.length));
  }
  const termOf: number[] = [];
  const dead = terms.map(() => false);
  const vectors: Float64Array[] = [];
  for (let j = 0; j < whole.columns.length; j++) {
    if (held[j]) continue;
    const term = terms.findIndex((t) => termKey(t) === whole.columns[j].key);
    const c = cleared(columnAt(j));
    if (c.length <= 1e-10 * (c.was || 1)) dead[term] = true;
    termOf.push(term);
    vectors.push(c.length > 0 ? c.v.map((x) => x / c.length) : c.v);
  }
  vectors.push(cleared(model.whiten({ rows: n, cols: 1, data: Float64Array.from(model.observed) }).data).v);
  return {
    n,
    total: termOf.length,
    vectors,
    products: Float64Array.from(vectors.flatMap((v) => vectors.map((w) => dot(v, w)))),
    baseLeverage: Float64Array.from({ length: n }, (_, i) => basis.reduce((t, q) => t + q[i] ** 2, 0)),
    baseRank: rankReport(pickColumns(matrix, base)).rank,
    width: terms.map((_, t) => termOf.filter((o) => o === t).length),
    firstColumn: terms.map((_, t) => termOf.indexOf(t)),
    dead,
  };
}
