import { correlations } from "../appraisal/aliasing";
import { fUpper, tQuantile } from "../numerics/distributions";
import { type Matrix, pickColumns } from "../numerics/least-squares";
import type { Factor, Settings, Study, Term, Trial } from "../study/schema";
import { candidateTerms, parentsOf } from "../terms/candidates";
import { encoder, modelMatrix } from "../terms/model-matrix";
import { alphabetOf, termKey, termName, termShape } from "../terms/term";
import { type Fit, type Parameter, weighted } from "./fit";

/** One rung: a candidate term with its size and how sure it is, in the model or as it would stand if added alone. */
export interface Rung {
  term: Term;
  key: string;
  name: string;
  inModel: boolean;
  /** In the model, not active itself, and a parent of a kept term. */
  parentOnly: boolean;
  /** Change from low to high; centre to edge for squares; for wide categories the level that stands farthest from the mean. */
  size: number | null;
  interval: [number, number] | null;
  /** For wide categories: which level `size` is of. */
  level?: string;
  p: number | null;
  /** Share of variation, 0 … 1. */
  share: number | null;
  /** Candidates that these trials cannot tell from this one. */
  aliases: Term[];
  /** These trials cannot estimate it beside what is in the model. */
  lost: boolean;
}

/** How many times the coefficient a bar shows. */
const displayFactor = (term: Term, width: number): number =>
  width > 1 || termShape(term) === "square" || termShape(term) === "higher" ? 1 : 2;

const known = new WeakMap<readonly Trial[], { factors: readonly Factor[]; tables: Map<string, Map<string, Term[]>> }>();

/**
 * Groups of candidates that the trials of a fit cannot tell apart, by term key. They depend on the trials alone, so
 * they are kept while terms go in and out.
 */
export function travellers(study: Study, fit: Fit, candidates: readonly Term[]): Map<string, Term[]> {
  const factorTerms = candidates.filter((t) => t.every((id) => study.factors.some((f) => f.id === id)));
  let kept = known.get(study.trials);
  if (kept?.factors !== study.factors) {
    kept = { factors: study.factors, tables: new Map() };
    known.set(study.trials, kept);
  }
  const key = JSON.stringify([fit.block, fit.parts.data.trials.map((t) => t.id), factorTerms]);
  const had = kept.tables.get(key);
  if (had) return had;
  const table = correlations(
    study,
    { settings: fit.parts.data.planned, waves: fit.block ? fit.parts.data.waves : fit.parts.data.waves.map(() => "") },
    factorTerms,
  );
  const groups = new Map(
    factorTerms.map((t, i) => [termKey(t), factorTerms.filter((_, j) => j !== i && table.values[i][j] >= 1)]),
  );
  kept.tables.set(key, groups);
  return groups;
}

/** The columns of one candidate on the trials of a fit. */
interface CandidateColumns {
  matrix: Matrix;
  labels: (string | undefined)[];
}

/** The columns of all candidates out of the model, worked out in one pass over the trials. */
function candidateColumns(study: Study, fit: Fit, terms: readonly Term[]): Map<string, CandidateColumns> {
  const encoded = encoder(study, terms, "sum", fit.parts.covariateRanges);
  // A covariate out of the model is still measured: its values come from the trials themselves.
  const points = fit.parts.data.actual.map((s, i) => {
    const { covariates } = fit.parts.data.trials[i];
    return covariates ? { ...(covariates as Settings), ...s } : s;
  });
  const matrix = weighted(modelMatrix(encoded, points).matrix, fit.parts.data.weights?.map(Math.sqrt));
  const at = new Map<string, number[]>();
  encoded.columns.forEach((c, j) => {
    if (j > 0) at.set(c.key, [...(at.get(c.key) ?? []), j]);
  });
  return new Map(
    [...at].map(([key, js]) => [
      key,
      { matrix: pickColumns(matrix, js), labels: js.map((j) => encoded.columns[j].level) },
    ]),
  );
}

/** The figures of one term as if added last to the fit; undefined when it adds nothing new. */
function ghost(
  fit: Fit,
  { matrix, labels }: CandidateColumns,
):
  | {
      coefficients: number[];
      errors: number[];
      levels: (string | undefined)[];
      ss: number;
      df: number;
      residualDf: number;
      p: number | null;
    }
  | undefined {
  const { z, solution } = fit.parts;
  const n = z.length;
  const basis: Float64Array[] = [];
  const lengths: number[][] = [];
  for (let c = 0; c < matrix.cols; c++) {
    const v = new Float64Array(n);
    let before = 0;
    for (let i = 0; i < n; i++) {
      v[i] = matrix.data[i * matrix.cols + c];
      before += v[i] ** 2;
    }
    const parts = new Array<number>(matrix.cols).fill(0);
    for (let pass = 0; pass < 2; pass++) {
      for (const q of solution.basis) {
        let dot = 0;
        for (let i = 0; i < n; i++) dot += q[i] * v[i];
        for (let i = 0; i < n; i++) v[i] -= dot * q[i];
      }
      basis.forEach((q, k) => {
        let dot = 0;
        for (let i = 0; i < n; i++) dot += q[i] * v[i];
        parts[k] += dot;
        for (let i = 0; i < n; i++) v[i] -= dot * q[i];
      });
    }
    let after = 0;
    for (let i = 0; i < n; i++) after += v[i] ** 2;
    // Not every trial has the covariate: it cannot be told without leaving trials out.
    if (!Number.isFinite(before) || after <= before * 1e-18 || before === 0) return undefined;
    const norm = Math.sqrt(after);
    parts[basis.length] = norm;
    for (let i = 0; i < n; i++) v[i] /= norm;
    basis.push(v);
    lengths.push(parts);
  }
  // lengths[c] is column c of the upper triangular R of the term after the model.
  const w = basis.length;
  const rotated = basis.map((q) => q.reduce((t, x, i) => t + x * solution.residuals[i], 0));
  const coefficients = rotated.slice();
  const inverse = Array.from({ length: w }, () => new Array<number>(w).fill(0));
  for (let i = w - 1; i >= 0; i--) {
    for (let j = i + 1; j < w; j++) coefficients[i] -= lengths[j][i] * coefficients[j];
    coefficients[i] /= lengths[i][i];
    inverse[i][i] = 1 / lengths[i][i];
    for (let j = i + 1; j < w; j++) {
      let value = 0;
      for (let k = i + 1; k <= j; k++) value -= lengths[k][i] * inverse[k][j];
      inverse[i][j] = value / lengths[i][i];
    }
  }
  const ss = rotated.reduce((t, x) => t + x * x, 0);
  const residualDf = fit.summary.residualDf - w;
  const rest = Math.max(0, fit.summary.rss - ss);
  const s = residualDf > 0 ? Math.sqrt(rest / residualDf) : Number.NaN;
  const errors = inverse.map((row) => s * Math.hypot(...row));
  const p =
    residualDf > 0 && rest > 1e-14 * fit.summary.rss ? fUpper(ss / w / (rest / residualDf), w, residualDf) : null;
  return { coefficients, errors, levels: labels, ss, df: w, residualDf, p };
}

/** All level effects of a wide category: the coefficients and what they leave for the last level. */
function widest(values: readonly number[], levels: readonly (string | undefined)[]): { at: number; level?: string } {
  let at = 0;
  values.forEach((v, i) => {
    if (Math.abs(v) > Math.abs(values[at])) at = i;
  });
  const level = levels[at];
  return level === undefined ? { at } : { at, level };
}

interface Candidate {
  term: Term;
  key: string;
  name: string;
}

const pools = new WeakMap<
  readonly Factor[],
  { covariates: Study["covariates"]; candidates: Candidate[]; keys: Set<string> }
>();

/** Candidates in order with their names; those of a model of second order are kept while terms go in and out. */
function candidatesOf(study: Study, extra: readonly Term[]): Candidate[] {
  const named = (terms: readonly Term[]): Candidate[] => {
    const alphabet = alphabetOf(study);
    const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
    return candidateTerms(study, terms)
      .filter((t) => !t.some((id) => retired.has(id)))
      .map((term) => ({ term, key: termKey(term), name: termName(alphabet, term) }));
  };
  let pool = pools.get(study.factors);
  if (pool?.covariates !== study.covariates) {
    const candidates = named([]);
    pool = { covariates: study.covariates, candidates, keys: new Set(candidates.map((c) => c.key)) };
    pools.set(study.factors, pool);
  }
  const { keys } = pool;
  return extra.every((t) => keys.has(termKey(t))) ? pool.candidates : named(extra);
}

/**
 * The rungs of the effect ladder: every candidate, in the model or out of it, largest first. A ghost stands where the
 * term would, added alone to the present model.
 */
export function effectLadder(
  study: Study,
  fit: Fit,
  more: readonly Term[] = [],
): { rungs: Rung[]; shareOf: "total" | "partial" } {
  const candidates = candidatesOf(study, [
    ...fit.terms,
    ...fit.dropped.map((d) => d.term).filter((t) => t[0] !== "@wave"),
    ...more,
  ]);
  const along = travellers(
    study,
    fit,
    candidates.map((c) => c.term),
  );
  const alpha = 1 - study.confidence;
  const rows = fit.anova.filter((r) => r.source === "term");
  const partial = rows.reduce((t, r) => t + r.ss, 0);
  const modelSs = fit.anova.find((r) => r.source === "model")?.ss ?? 0;
  const orthogonal = Math.abs(partial - modelSs) <= 1e-8 * fit.summary.sst;
  const whole = orthogonal ? fit.summary.sst : partial + fit.summary.rss;
  const byKey = new Map<string, Parameter[]>();
  for (const p of fit.parameters)
    if (p.term.length > 0) byKey.set(termKey(p.term), [...(byKey.get(termKey(p.term)) ?? []), p]);
  const rowOf = new Map(rows.map((r) => [termKey(r.term ?? []), r]));
  const outside = candidateColumns(
    study,
    fit,
    candidates.flatMap((c) => (byKey.has(c.key) ? [] : [c.term])),
  );
  const neededBy = new Set(fit.terms.flatMap((t) => parentsOf(t).map(termKey)));
  const critical = new Map<number, number>();
  const criticalAt = (df: number): number => {
    const had = critical.get(df) ?? tQuantile((1 + study.confidence) / 2, df);
    critical.set(df, had);
    return had;
  };
  const rungs = candidates.map(({ term, key, name }): Rung => {
    const own = byKey.get(key) ?? [];
    const base = { term, key, name, aliases: along.get(key) ?? [] };
    if (own.length > 0) {
      const row = rowOf.get(key);
      const factor = displayFactor(term, own.length);
      const { at, level } = widest(
        own.map((p) => p.coefficient),
        own.map((p) => p.level),
      );
      const interval = own[at].interval;
      const quiet = row?.p !== null && row?.p !== undefined && row.p >= alpha;
      return {
        ...base,
        inModel: true,
        parentOnly: quiet && neededBy.has(key),
        size: factor * own[at].coefficient,
        interval: interval ? [factor * interval[0], factor * interval[1]] : null,
        ...(own.length > 1 && level !== undefined ? { level } : {}),
        p: row?.p ?? null,
        share: row ? row.ss / whole : null,
        lost: false,
      };
    }
    const columns = outside.get(key);
    const g = columns && ghost(fit, columns);
    if (!g)
      return {
        ...base,
        inModel: false,
        parentOnly: false,
        size: null,
        interval: null,
        p: null,
        share: null,
        lost: true,
      };
    const factor = displayFactor(term, g.df);
    const { at, level } = widest(g.coefficients, g.levels);
    const half = g.residualDf > 0 ? criticalAt(g.residualDf) * g.errors[at] * factor : null;
    const size = factor * g.coefficients[at];
    return {
      ...base,
      inModel: false,
      parentOnly: false,
      size,
      interval: half === null ? null : [size - half, size + half],
      ...(g.df > 1 && level !== undefined ? { level } : {}),
      p: g.p,
      share: g.ss / whole,
      lost: false,
    };
  });
  rungs.sort(
    (a, b) =>
      Number(a.lost) - Number(b.lost) || Math.abs(b.size ?? 0) - Math.abs(a.size ?? 0) || (a.key < b.key ? -1 : 1),
  );
  return { rungs, shareOf: orthogonal ? "total" : "partial" };
}
