import { correlations } from "../appraisal/aliasing";
import { tTwoSided } from "../numerics/distributions";
import { block, type Matrix, pickColumns, quadraticForm } from "../numerics/least-squares";
import { maximumModulusQuantile } from "../numerics/multiple-comparisons";
import { significance } from "../study/coding";
import { Memo } from "../study/memo";
import type { Settings, Study, Term } from "../study/schema";
import { activeTerms, candidateTerms, parentsOf } from "../terms/candidates";
import { type LevelRow, levelRows } from "../terms/levels";
import { encoder, modelMatrix } from "../terms/model-matrix";
import { alphabetOf, ofFactors, termKey, termName, termShape } from "../terms/term";
import { type BlockEffect, blockEffects } from "./block-effects";
import type { Fit, Parameter } from "./fit";
import { type AnovaRow, hasSquares } from "./fitted";
import { saturatedContrasts } from "./lenth";

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
  /** Of a category: what it comes to from one level to another; of more than two, from the lowest to the highest. */
  span?: { from: string; to: string; size: number };
  p: number | null;
  /** Null where nothing is left to judge by. */
  clarity: Clarity | null;
  /** Share of variation, 0 … 1. */
  share: number | null;
  /** Candidates that these trials cannot tell from this one. */
  aliases: Term[];
  /** These trials cannot estimate it beside what is in the model. */
  lost: boolean;
}

/**
 * How clear a term is: past the margin that all rungs keep together, past its own alone, or neither.
 */
export type Clarity = "drives" | "likely" | "quiet";

/** How many times the coefficient a bar shows. */
const displayFactor = (term: Term, width: number): number =>
  width > 1 || termShape(term) === "square" || termShape(term) === "higher" ? 1 : 2;

/** Groups of candidates that the trials of a fit cannot tell apart, by term key. */
export function aliasGroups(study: Study, fit: Fit, candidates: readonly Term[]): Map<string, Term[]> {
  const factorTerms = candidates.filter((t) => t.every((id) => study.factors.some((f) => f.id === id)));
  const table = correlations(
    study,
    { settings: fit.data.planned, waves: fit.fitting.block ? fit.data.waves : fit.data.waves.map(() => "") },
    factorTerms,
  );
  return new Map(
    factorTerms.map((t, i) => [termKey(t), factorTerms.filter((_, j) => j !== i && table.values[i][j] >= 1)]),
  );
}

/** The columns of all candidates out of the model, worked out in one pass over the trials. */
function candidateColumns(study: Study, fit: Fit, terms: readonly Term[]): Map<string, Matrix> {
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
  return new Map([...columns].map(([key, js]) => [key, pickColumns(matrix, js)]));
}

/** One size of a term: of its only column, or of the level that stands farthest from the mean. */
interface Widest {
  size: number;
  /** Row of the term's columns that makes it, and its standard error. */
  row: number[];
  error: number | null;
  level?: string;
  span?: Rung["span"];
}

/**
 * What a term of several columns comes to: every level against the mean, the last one too, the farthest shown; of a
 * category by itself also from its lowest level to its highest.
 *
 * @param covariance of the coefficients; null without degrees of freedom for error
 */
function widest(study: Study, term: Term, coefficients: readonly number[], covariance: Matrix | null): Widest {
  const rows = levelRows(study, term);
  const error = (row: readonly number[]): number | null =>
    covariance && Math.sqrt(Math.max(0, quadraticForm(covariance, row)));
  // A term that lost some of its columns has no level of its own for each row.
  if (rows.length < 2 || rows[0].row.length !== coefficients.length) {
    const row = coefficients.map((_, j) => (j === 0 ? 1 : 0));
    return { size: coefficients[0], row, error: error(row) };
  }
  const valued = rows.map((r) => ({ ...r, size: r.row.reduce((t, v, j) => t + v * coefficients[j], 0) }));
  const single = coefficients.length === 1;
  // One column has the sign of its product, as everywhere: that of second levels together.
  const far = single
    ? valued[valued.length - 1]
    : valued.reduce((a, b) => (Math.abs(b.size) > Math.abs(a.size) ? b : a));
  const low = valued.reduce((a, b) => (b.size < a.size ? b : a));
  const high = valued.reduce((a, b) => (b.size > a.size ? b : a));
  const text = (r: LevelRow): string => r.levels.join(" × ");
  // Two levels have an order of their own, first to second; of more, the lowest comes first.
  const [from, to] = single ? [valued[0], valued[1]] : [low, high];
  return {
    size: far.size,
    row: far.row,
    error: error(far.row),
    ...(single ? {} : { level: text(far) }),
    ...(term.length === 1 ? { span: { from: text(from), to: text(to), size: to.size - from.size } } : {}),
  };
}

interface Candidate {
  term: Term;
  key: string;
  name: string;
}

/** Candidates in order with their names, those of retired factors left out. */
function named(study: Study, terms: readonly Term[]): Candidate[] {
  const alphabet = alphabetOf(study);
  return activeTerms(study, candidateTerms(study, terms)).map((term) => ({
    term,
    key: termKey(term),
    name: termName(alphabet, term),
  }));
}

/**
 * The candidates of a ladder: those of a model of second order, which stand while terms go in and out, and what else
 * is named.
 */
function candidatesOf(study: Study, fit: Fit, extra: readonly Term[], memo: Memo): Candidate[] {
  const pool = memo.get("candidates", [study.factors, study.covariates], () => {
    const list = named(study, []);
    return { list, keys: new Set(list.map((c) => c.key)) };
  });
  // Contrasts of three factors that are their chain's simplest member have rungs where they are few enough to see.
  const threes = memo.get("three-factor contrasts", [fit.data, study.factors, study.waves], () => {
    // The saturated set costs contrasts² × trials: over many trials it would hold up the page that draws the ladder.
    if (fit.n > MOST_SATURATED) return [];
    const { contrasts } = saturatedContrasts(study, fit.data, fit.model.observed);
    const found = contrasts.flatMap((c) => (c.term.length === 3 ? [c.term] : []));
    return found.length <= MOST_THREES ? found : [];
  });
  const beyond = [...threes, ...extra].filter((t) => !pool.keys.has(termKey(t)));
  if (beyond.length === 0) return pool.list;
  return memo.get("candidates with", [pool, beyond.map(termKey).sort().join("|")], () => named(study, beyond));
}

/** Trials up to which the saturated set is looked at for them. */
const MOST_SATURATED = 128;
/** Contrasts of three factors that have rungs, at most. */
const MOST_THREES = 20;

/** Where the variation goes: shares of the total where terms are orthogonal, else of their partial squares. */
export interface VariationShares {
  shareOf: "total" | "partial";
  /** Share of the waves, where shares are of the total and waves stand in the model. */
  waves: number | null;
  /** Share of the centre off the plane, where its column stands in the model. */
  curvature: number | null;
  /** Share that nothing in the model explains; null where the law has no sums of squares. */
  rest: number | null;
}

function variationShares(fit: Fit): VariationShares & { whole: number | null } {
  const { summary } = fit;
  // Of counts the deviance takes the place of squares.
  const rest = hasSquares(summary) ? summary.rss : fit.model.likelihood ? summary.deviance : undefined;
  if (rest === undefined) return { whole: null, shareOf: "partial", waves: null, curvature: null, rest: null };
  const partial = fit.anova.reduce((t, r) => (r.source === "term" ? t + (r.ss ?? 0) : t), 0);
  const modelSs = fit.anova.find((r) => r.source === "model")?.ss ?? 0;
  const total = hasSquares(summary) ? summary.sst : Number.NaN;
  const orthogonal = Math.abs(partial - modelSs) <= 1e-8 * total;
  const curvature = fit.curvature?.ss ?? null;
  const whole = orthogonal ? total : partial + (curvature ?? 0) + rest;
  const waves = fit.anova.find((r) => r.source === "wave");
  return {
    whole,
    shareOf: orthogonal ? "total" : "partial",
    waves: waves && orthogonal ? (waves.sequentialSs ?? 0) / whole : null,
    curvature: curvature === null ? null : curvature / whole,
    rest: rest / whole,
  };
}

/**
 * Judges a term by its p: a term drives past the studentized maximum modulus of as many rungs as can be told (Stoline &
 * Ury 1979), those of several columns by the p that belongs to it.
 */
function clarity({ summary, confidence }: Fit, rungs: number, memo: Memo): (p: number | null) => Clarity | null {
  const df = summary.residualDf;
  const joint = memo.get("joint p", [confidence, rungs, df], () =>
    df > 0 ? tTwoSided(maximumModulusQuantile(confidence, Math.max(1, rungs), df), df) : 0,
  );
  return (p) => (p === null ? null : p < joint ? "drives" : p < significance({ confidence }) ? "likely" : "quiet");
}

type Named = Pick<Rung, "term" | "key" | "name" | "aliases">;

/** Ends of an interval times a factor, in order. */
function scaled(interval: [number, number] | null, factor: number): [number, number] | null {
  if (!interval) return null;
  const [a, b] = [factor * interval[0], factor * interval[1]];
  return a <= b ? [a, b] : [b, a];
}

/** The rung of a term in the model, by its parameters and its row of the analysis of variance. */
function rungInside(
  study: Study,
  fit: Fit,
  named: Named,
  parameters: readonly Parameter[],
  row: AnovaRow | undefined,
  whole: number | null,
  parent: (p: number | null) => boolean,
): Rung {
  const factor = displayFactor(named.term, parameters.length);
  const { model, confidence } = fit;
  const places = model.columns.flatMap((c, j) => (c.key === named.key ? [j] : []));
  const far = widest(
    study,
    named.term,
    parameters.map((p) => p.coefficient),
    model.covariance && block(model.covariance, places),
  );
  const contrast = new Float64Array(model.columns.length);
  places.forEach((j, c) => {
    contrast[j] = far.row[c];
  });
  const df = model.dfOf(contrast);
  const half = far.error === null || df === 0 ? null : factor * model.critical(confidence, df) * far.error;
  const p = row?.p ?? null;
  const size = factor * far.size;
  const profile = scaled(places.length === 1 ? parameters[0].interval : null, factor * far.row[0]);
  return {
    ...named,
    inModel: true,
    parentOnly: parent(p),
    size,
    interval: model.likelihood && profile ? profile : half === null ? null : [size - half, size + half],
    ...(far.level === undefined ? {} : { level: far.level }),
    ...(far.span ? { span: far.span } : {}),
    p,
    clarity: null,
    share: row && row.ss !== null && whole !== null ? row.ss / whole : null,
    lost: false,
  };
}

/** The rung of a term out of the model: where it would stand if added alone; lost when it adds nothing. */
function rungOutside(study: Study, named: Named, fit: Fit, columns: Matrix | undefined, whole: number | null): Rung {
  const added = columns && fit.model.addTerm(columns);
  const out: Rung = {
    ...named,
    inModel: false,
    parentOnly: false,
    size: null,
    interval: null,
    p: null,
    clarity: null,
    share: null,
    lost: true,
  };
  if (!added) return out;
  const factor = displayFactor(named.term, added.df);
  const far = widest(study, named.term, added.coefficients, added.covariance);
  const df = added.dfs[0];
  const half = far.error === null || df === 0 ? null : fit.model.critical(fit.confidence, df) * far.error * factor;
  const size = factor * far.size;
  const profile = scaled(added.profile?.(fit.confidence) ?? null, factor * far.row[0]);
  return {
    ...out,
    size,
    interval: profile ?? (half === null ? null : [size - half, size + half]),
    ...(far.level === undefined ? {} : { level: far.level }),
    ...(far.span ? { span: far.span } : {}),
    p: added.p,
    clarity: null,
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
): { rungs: Rung[]; standing: BlockEffect[] } & VariationShares {
  const lost = fit.dropped.map((d) => d.term).filter(ofFactors);
  const all = candidatesOf(study, fit, [...fit.terms, ...lost, ...more], memo);
  // One column stands for all squares where corners and centre alone were run.
  const candidates = memo.get("candidates beside", [all, fit.centre !== undefined], () =>
    fit.centre ? all.filter((c) => termShape(c.term) !== "square") : all,
  );
  // What travels together depends on the trials alone, so it stands while terms go in and out.
  const aliases = memo.get("alias groups", [fit.data, fit.fitting.block, study.factors, candidates], () =>
    aliasGroups(
      study,
      fit,
      candidates.map((c) => c.term),
    ),
  );
  const { whole, ...shares } = variationShares(fit);
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
    if (!parameters) return rungOutside(study, named, fit, outside.get(key), whole);
    const parent = (p: number | null): boolean => p !== null && p >= significance(fit) && neededBy.has(key);
    return rungInside(study, fit, named, parameters, rowOf.get(key), whole, parent);
  });
  // Judged together with all that these trials can tell.
  const clarityOf = clarity(fit, rungs.filter((r) => !r.lost).length, memo);
  for (const r of rungs) r.clarity = clarityOf(r.p);
  rungs.sort(
    (a, b) =>
      Number(a.lost) - Number(b.lost) || Math.abs(b.size ?? 0) - Math.abs(a.size ?? 0) || (a.key < b.key ? -1 : 1),
  );
  return { rungs, standing: blockEffects(study, fit, whole, memo), ...shares };
}
