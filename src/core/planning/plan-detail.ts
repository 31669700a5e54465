import { type AliasMatrix, aliasChains, aliasMatrix, correlations, effectsOfBlocks } from "../appraisal/aliasing";
import { appraisePoints, termVif } from "../appraisal/appraise";
import { pointModel } from "../appraisal/terms-info";
import { fractionOfSpace, regionSample, varianceReader } from "../appraisal/variance";
import type { Study, Term } from "../study/schema";
import { possibleTerms } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import { judgedPoints, type PlanRequest, type PlanSummary, requestedTerms } from "./plan-summary";

/** What a plan can tell, row by row; errors in standard deviations of one trial. */
export interface PlanDetail {
  /** The standard error of a prediction that this share of the region stays below. */
  space: { fraction: number; value: number }[];
  /** Standard error of a prediction in the mean over the region; null where something cannot be estimated. */
  meanError: number | null;
  largestVif: number | null;
  /** Terms that cannot be told from one another, chain by chain, in letters. */
  chains: string[];
  /** Effects that differences between blocks cannot be told from. */
  blocks: Term[];
  definingRelation: string[];
  efficiency: { d: number | null; a: number | null; g: number | null; i: number | null };
  /** trace(A′A) of the terms asked against the two-factor interactions besides. */
  aliasTrace: number | null;
  /** The worst of the alias matrix: a term asked, a term that may be there, and how much of it is taken up. */
  leaks: { term: Term; from: Term; share: number }[];
  /** Of each asked term that can be estimated: inflation of its variance, standard error of its change in σ. */
  terms: { term: Term; vif: number | null; error: number }[];
  /** Of terms that may be there, over the same columns: what of each stands in the estimate of each row. */
  alias: { rows: Term[]; columns: Term[]; values: number[][] };
  /** Of every asked term with every one that may be there; null where there are too many to look at. */
  correlation: number[][] | null;
}

/** Beyond this many terms correlations are left out: each pair of them is a small decomposition. */
const MOST_CORRELATED = 60;

/** The rows that open below: prediction error over the region, inflation, chains in letters, efficiencies, aliasing. */
export function planDetail(study: Study, summary: PlanSummary, request: PlanRequest): PlanDetail {
  const points = judgedPoints(study, summary.plan, request.together === true || summary.follow !== undefined);
  const lost = new Set(summary.lostTerms.map(termKey));
  const terms = requestedTerms(study, request);
  const model = pointModel(study, points, terms);
  const kept = new Set(model.kept.map((c) => c.key));
  const estimable = terms.filter((t) => kept.has(termKey(t)));
  const reduced = pointModel(study, points, estimable);
  const d = varianceReader(encoder(study, estimable), reduced.kept, reduced.inverse);
  const sample = regionSample(study, 1500);
  const space = fractionOfSpace((s) => Math.sqrt(d(s)), sample);
  const mean = sample.length === 0 ? null : Math.sqrt(sample.reduce((t, s) => t + d(s), 0) / sample.length);
  const inflation = termVif(
    reduced,
    estimable.filter((t) => !lost.has(termKey(t))),
  );
  const vif = inflation.reduce((m, v) => Math.max(m, v.value), 0);
  const letters = (t: Term): string => t.map((id) => study.factors.find((f) => f.id === id)?.letter ?? id).join("");
  const between = new Set(summary.map.flatMap((m) => (m.between ? [termKey(m.term)] : [])));
  const possible = possibleTerms(study, estimable);
  const alias = possible.length > 0 ? aliasMatrix(study, points, reduced, possible) : undefined;
  const leaks = (alias?.rows ?? [])
    .flatMap((term, r) => (alias?.columns ?? []).map((from, c) => ({ term, from, share: alias?.values[r][c] ?? 0 })))
    .filter((l) => l.term.length > 0 && Math.abs(l.share) > 0.05)
    .sort((a, b) => Math.abs(b.share) - Math.abs(a.share))
    .slice(0, 12);
  const inflated = new Map(inflation.map((v) => [termKey(v.term), v.value]));
  const errorOf = (key: string): number =>
    reduced.kept.reduce(
      (most, c, j) =>
        c.key === key ? Math.max(most, Math.sqrt(reduced.inverse.data[j * reduced.inverse.cols + j])) : most,
      0,
    );
  const both = [...estimable, ...possible];
  const together = both.length <= MOST_CORRELATED ? correlations(study, points, both).values : null;
  return {
    terms: estimable.map((term) => {
      const key = termKey(term);
      // A change from low to high is two coefficients; from centre to edge, or of a level against the mean, one.
      const single = reduced.kept.filter((c) => c.key === key).length === 1 && termShape(term) !== "square";
      const change = single ? 2 : 1;
      return { term, vif: inflated.get(key) ?? null, error: change * errorOf(key) };
    }),
    alias: singleColumns(alias),
    correlation: together && estimable.map((_, i) => possible.map((__, j) => together[i][estimable.length + j])),
    space,
    meanError: mean,
    largestVif: vif || null,
    chains: summary.regular
      ? aliasChains(summary.regular).map((c) => {
          const text = c.map((m, i) => `${i === 0 ? "" : m.sign < 0 ? " = −" : " = "}${letters(m.term)}`).join("");
          return c.some((m) => between.has(termKey(m.term))) ? `${text}, between set-ups` : text;
        })
      : [],
    blocks: effectsOfBlocks(study, points),
    definingRelation: summary.regular?.definingRelation ?? [],
    efficiency: appraisePoints(study, points, { terms: estimable, possible: [] }).efficiency,
    aliasTrace: alias?.trace ?? null,
    leaks,
  };
}

/** An alias matrix by terms: of terms with several columns the largest of them stands for all. */
function singleColumns(alias: AliasMatrix | undefined): PlanDetail["alias"] {
  if (!alias) return { rows: [], columns: [], values: [] };
  const gather = (terms: readonly Term[]): { terms: Term[]; at: number[] } => {
    const seen = new Map<string, number>();
    const list: Term[] = [];
    const at = terms.map((t) => {
      const key = termKey(t);
      const known = seen.get(key);
      if (known !== undefined) return known;
      seen.set(key, list.length);
      list.push(t);
      return list.length - 1;
    });
    return { terms: list, at };
  };
  const rows = gather(alias.rows);
  const columns = gather(alias.columns);
  const values = rows.terms.map(() => columns.terms.map(() => 0));
  alias.values.forEach((line, i) => {
    line.forEach((v, j) => {
      const [r, c] = [rows.at[i], columns.at[j]];
      if (Math.abs(v) > Math.abs(values[r][c])) values[r][c] = v;
    });
  });
  const named = rows.terms.flatMap((t, i) => (t.length > 0 ? [i] : []));
  return { rows: named.map((i) => rows.terms[i]), columns: columns.terms, values: named.map((i) => values[i]) };
}
