import { correlations } from "../appraisal/aliasing";
import { type Matrix, pickColumns } from "../numerics/least-squares";
import { Memo } from "../study/memo";
import type { Settings, Study, Term } from "../study/schema";
import { candidateTerms, parentsOf } from "../terms/candidates";
import { encoder, modelMatrix } from "../terms/model-matrix";
import { alphabetOf, termKey, termName, termShape } from "../terms/term";
import type { Fit, Parameter } from "./fit";
import { type AnovaRow, hasSquares } from "./fitted";

/** One rung: a candidate term with its size and how sure it is, in the model or as it would stand if added alone. */
export interface Rung {
  term: Term;
  key: string;
  name: string;
  inModel: boolean;
  /** In the model, not active itself, and a parent of a kept term. */
  parentOnly: boolean;
  /**
   * Change from low to high; centre to edge for squares; for wide categories the level that stands farthest from the
   * mean.
   */
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

/** Groups of candidates that the trials of a fit cannot tell apart, by term key. */
export function aliasGroups(study: Study, fit: Fit, candidates: readonly Term[]): Map<string, Term[]> {
  const factorTerms = candidates.filter((t) => t.every((id) => study.factors.some((f) => f.id === id)));
  const table = correlations(
    study,
    { settings: fit.data.planned, waves: fit.block ? fit.data.waves : fit.data.waves.map(() => "") },
    factorTerms,
  );
  return new Map(
    factorTerms.map((t, i) => [termKey(t), factorTerms.filter((_, j) => j !== i && table.values[i][j] >= 1)]),
  );
}

/** The columns of one candidate on the trials of a fit. */
interface CandidateColumns {
  matrix: Matrix;
  labels: (string | undefined)[];
}

/** The columns of all candidates out of the model, worked out in one pass over the trials. */
function candidateColumns(study: Study, fit: Fit, terms: readonly Term[]): Map<string, CandidateColumns> {
  const encoded = encoder(study, terms, "sum", fit.model.covariateRanges);
  // A covariate out of the model is still measured: its values come from the trials themselves.
  const points = fit.data.actual.map((s, i) => {
    const { covariates } = fit.data.trials[i];
    return covariates ? { ...(covariates as Settings), ...s } : s;
  });
  const { matrix } = modelMatrix(encoded, points);
  const columns = new Map<string, number[]>();
  encoded.columns.forEach((c, j) => {
    if (j > 0) columns.set(c.key, [...(columns.get(c.key) ?? []), j]);
  });
  return new Map(
    [...columns].map(([key, js]) => [
      key,
      { matrix: pickColumns(matrix, js), labels: js.map((j) => encoded.columns[j].level) },
    ]),
  );
}

/** All level effects of a wide category: the coefficients and what they leave for the last level. */
function widest(
  values: readonly number[],
  levels: readonly (string | undefined)[],
): { column: number; level?: string } {
  let widestColumn = 0;
  values.forEach((v, i) => {
    if (Math.abs(v) > Math.abs(values[widestColumn])) widestColumn = i;
  });
  const level = levels[widestColumn];
  return level === undefined ? { column: widestColumn } : { column: widestColumn, level };
}

interface Candidate {
  term: Term;
  key: string;
  name: string;
}

/** Candidates in order with their names, those of retired factors left out. */
function named(study: Study, terms: readonly Term[]): Candidate[] {
  const alphabet = alphabetOf(study);
  const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
  return candidateTerms(study, terms)
    .filter((t) => !t.some((id) => retired.has(id)))
    .map((term) => ({ term, key: termKey(term), name: termName(alphabet, term) }));
}

/**
 * The candidates of a ladder: those of a model of second order, which stand while terms go in and out, and what else
 * is named.
 */
function candidatesOf(study: Study, extra: readonly Term[], memo: Memo): Candidate[] {
  const pool = memo.get("candidates", [study.factors, study.covariates], () => {
    const list = named(study, []);
    return { list, keys: new Set(list.map((c) => c.key)) };
  });
  return extra.every((t) => pool.keys.has(termKey(t))) ? pool.list : named(study, extra);
}

/** Where the variation goes: shares of the total where terms are orthogonal, else of their partial squares. */
export interface Shares {
  shareOf: "total" | "partial";
  /** Share of the waves, where shares are of the total and waves stand in the model. */
  waves: number | null;
  /** Share that nothing in the model explains; null where the law has no sums of squares. */
  rest: number | null;
}

function sharesOf(fit: Fit): Shares & { whole: number | null } {
  const { summary } = fit;
  if (!hasSquares(summary)) return { whole: null, shareOf: "partial", waves: null, rest: null };
  const partial = fit.anova.reduce((t, r) => (r.source === "term" ? t + (r.ss ?? 0) : t), 0);
  const modelSs = fit.anova.find((r) => r.source === "model")?.ss ?? 0;
  const orthogonal = Math.abs(partial - modelSs) <= 1e-8 * summary.sst;
  const whole = orthogonal ? summary.sst : partial + summary.rss;
  const waves = fit.anova.find((r) => r.source === "wave");
  return {
    whole,
    shareOf: orthogonal ? "total" : "partial",
    waves: waves && orthogonal ? (waves.sequentialSs ?? 0) / whole : null,
    rest: summary.rss / whole,
  };
}

type Named = Pick<Rung, "term" | "key" | "name" | "aliases">;

/** The rung of a term in the model, by its parameters and its row of the analysis of variance. */
function rungInside(
  named: Named,
  parameters: readonly Parameter[],
  row: AnovaRow | undefined,
  whole: number | null,
  parent: (p: number | null) => boolean,
): Rung {
  const factor = displayFactor(named.term, parameters.length);
  const { column, level } = widest(
    parameters.map((p) => p.coefficient),
    parameters.map((p) => p.level),
  );
  const interval = parameters[column].interval;
  const p = row?.p ?? null;
  return {
    ...named,
    inModel: true,
    parentOnly: parent(p),
    size: factor * parameters[column].coefficient,
    interval: interval ? [factor * interval[0], factor * interval[1]] : null,
    ...(parameters.length > 1 && level !== undefined ? { level } : {}),
    p,
    share: row && row.ss !== null && whole !== null ? row.ss / whole : null,
    lost: false,
  };
}

/** The rung of a term out of the model: where it would stand if added alone; lost when it adds nothing. */
function rungOutside(named: Named, fit: Fit, columns: CandidateColumns | undefined, whole: number | null): Rung {
  const added = columns && fit.model.addTerm(columns.matrix);
  const out: Rung = {
    ...named,
    inModel: false,
    parentOnly: false,
    size: null,
    interval: null,
    p: null,
    share: null,
    lost: true,
  };
  if (!added) return out;
  const factor = displayFactor(named.term, added.df);
  const { column, level } = widest(added.coefficients, columns.labels);
  const error = added.errors[column];
  const df = added.dfs[column];
  const half = error === null || df === 0 ? null : fit.model.critical(fit.confidence, df) * error * factor;
  const size = factor * added.coefficients[column];
  return {
    ...out,
    size,
    interval: half === null ? null : [size - half, size + half],
    ...(added.df > 1 && level !== undefined ? { level } : {}),
    p: added.p,
    share: added.ss === null || whole === null ? null : added.ss / whole,
    lost: false,
  };
}

/**
 * The rungs of the effect ladder: every candidate, in the model or out of it, largest first. A term out of the model
 * stands where it would, added alone to the present one.
 *
 * @param more further terms that get a rung
 * @param memo where candidates and alias groups stand between ladders of the same trials
 */
export function effectLadder(
  study: Study,
  fit: Fit,
  more: readonly Term[] = [],
  memo = new Memo(),
): { rungs: Rung[] } & Shares {
  const lost = fit.dropped.map((d) => d.term).filter((t) => t[0] !== "@wave");
  const candidates = candidatesOf(study, [...fit.terms, ...lost, ...more], memo);
  // What travels together depends on the trials alone, so it stands while terms go in and out.
  const aliases = memo.get("alias groups", [fit.data, fit.block, study.factors, candidates], () =>
    aliasGroups(
      study,
      fit,
      candidates.map((c) => c.term),
    ),
  );
  const { whole, ...shares } = sharesOf(fit);
  const byKey = new Map<string, Parameter[]>();
  for (const p of fit.parameters)
    if (p.term.length > 0) byKey.set(termKey(p.term), [...(byKey.get(termKey(p.term)) ?? []), p]);
  const rowOf = new Map(fit.anova.flatMap((r) => (r.source === "term" && r.term ? [[termKey(r.term), r]] : [])));
  const outside = candidateColumns(
    study,
    fit,
    candidates.flatMap((c) => (byKey.has(c.key) ? [] : [c.term])),
  );
  const neededBy = new Set(fit.terms.flatMap((t) => parentsOf(t).map(termKey)));
  const rungs = candidates.map(({ term, key, name }): Rung => {
    const named: Named = { term, key, name, aliases: aliases.get(key) ?? [] };
    const parameters = byKey.get(key);
    if (!parameters) return rungOutside(named, fit, outside.get(key), whole);
    const quiet = (p: number | null): boolean => p !== null && p >= 1 - fit.confidence;
    return rungInside(named, parameters, rowOf.get(key), whole, (p) => quiet(p) && neededBy.has(key));
  });
  rungs.sort(
    (a, b) =>
      Number(a.lost) - Number(b.lost) || Math.abs(b.size ?? 0) - Math.abs(a.size ?? 0) || (a.key < b.key ? -1 : 1),
  );
  return { rungs, ...shares };
}
