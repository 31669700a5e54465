import { StudyError } from "../study/error";
import type { Study, Term, Transform } from "../study/schema";
import { dependants, type Hierarchy, parentsPresent } from "../terms/candidates";
import { alphabetOf, inModelOrder, termKey } from "../terms/term";
import { type Fit, type FitSummary, fitModel } from "./fit";

export type Direction = "backward" | "forward" | "both";
export type Criterion = "p" | "aicc" | "bic";

export interface ReduceOptions {
  direction: Direction;
  by: Criterion;
  /** p to stay (and to enter); ignored by AICc and BIC. */
  alpha: number;
  hierarchy: Hierarchy;
  transform?: Transform;
  block?: boolean;
}

type Figures = Pick<FitSummary, "s" | "r2" | "r2Adjusted" | "r2Predicted" | "aicc" | "bic" | "residualDf">;

/** One step: what left or came in, by what figure, and what it was compared with. */
export interface ReduceStep {
  action: "drop" | "add";
  term: Term;
  /** p or criterion after the step. */
  value: number | null;
  compared: { term: Term; value: number | null }[];
  before: Figures;
  after: Figures;
  terms: Term[];
  why: string;
}

const figures = ({ s, r2, r2Adjusted, r2Predicted, aicc, bic, residualDf }: FitSummary): Figures => ({
  s,
  r2,
  r2Adjusted,
  r2Predicted,
  aicc,
  bic,
  residualDf,
});

/** Fewer residual degrees of freedom than this judge nothing: no search by a criterion ends there while it can go on. */
const LEAST_DF = 3;

/**
 * Criterion of a model with given RSS and columns. Where it is not defined, or too few degrees of freedom are left for
 * it to mean anything, it counts as infinite, so that a search goes on.
 */
function criterionOf(by: "aicc" | "bic", rss: number, n: number, p: number): number {
  if (n - p < LEAST_DF) return Number.POSITIVE_INFINITY;
  if (!(rss > 0)) return Number.NEGATIVE_INFINITY;
  const k = p + 1;
  const base = n * Math.log(rss / n);
  if (by === "bic") return base + k * Math.log(n);
  return n <= k + 1 ? Number.POSITIVE_INFINITY : base + 2 * k + (2 * k * (k + 1)) / (n - k - 1);
}

/**
 * Reduces a model term by term under a hierarchy rule; multi-column terms move as one.
 *
 * Backward starts from `candidates`, forward and both from the constant and waves. Where no error degrees of
 * freedom are left, or too few for a criterion, the term with the smallest sum of squares leaves first, and the step says so.
 */
export function reduceModel(
  study: Study,
  response: string,
  candidates: readonly Term[],
  options: ReduceOptions,
): { fit: Fit; steps: ReduceStep[] } {
  const { direction, by, alpha, hierarchy } = options;
  if (!(alpha > 0 && alpha < 1))
    throw new StudyError("bad-alpha", `α is ${alpha}; give a number between 0 and 1.`, ["alpha"]);
  const alphabet = alphabetOf(study);
  const at = (terms: Term[]): Fit =>
    fitModel(study, response, {
      terms,
      ...(options.transform === undefined ? {} : { transform: options.transform }),
      ...(options.block === undefined ? {} : { block: options.block }),
    });
  const pool = inModelOrder(alphabet, candidates);
  let fit = at(direction === "backward" ? pool : []);
  // Columns that cannot be estimated are out from the start.
  if (fit.dropped.length > 0) fit = at(fit.terms);
  const steps: ReduceStep[] = [];
  const seen = new Set<string>();

  const dropStep = (): ReduceStep | undefined => {
    const removable = fit.terms.filter((t) => dependants(fit.terms, t, hierarchy).length === 0);
    if (removable.length === 0) return undefined;
    const columns = fit.parameters.length;
    const saturated = fit.summary.residualDf === 0 || fit.parts.exact;
    const infinite = by !== "p" && criterionOf(by, fit.summary.rss, fit.n, columns) === Number.POSITIVE_INFINITY;
    const bySize = saturated || infinite;
    const rows = removable.map((term) => {
      const row = fit.anova.find((r) => r.source === "term" && r.term && termKey(r.term) === termKey(term));
      const ss = row?.ss ?? 0;
      const df = row?.df ?? 1;
      const value = bySize
        ? ss
        : by === "p"
          ? (row?.p ?? null)
          : criterionOf(by, fit.summary.rss + ss, fit.n, columns - df);
      return { term, value };
    });
    const worst = rows.reduce((a, b) => {
      const x = a.value ?? 1;
      const y = b.value ?? 1;
      return (by === "p" && !bySize ? y > x : y < x) ? b : a;
    });
    if (!bySize) {
      if (by === "p" && (worst.value ?? 1) <= alpha) return undefined;
      if (by !== "p" && (worst.value as number) >= criterionOf(by, fit.summary.rss, fit.n, columns)) return undefined;
    }
    const terms = fit.terms.filter((t) => termKey(t) !== termKey(worst.term));
    return {
      action: "drop",
      term: worst.term,
      value: worst.value,
      compared: rows,
      before: figures(fit.summary),
      after: figures(fit.summary),
      terms,
      why: saturated
        ? "No error degrees of freedom: the smallest sum of squares leaves."
        : infinite
          ? `Too few degrees of freedom for ${by === "aicc" ? "AICc" : "BIC"}: the smallest sum of squares leaves.`
          : by === "p"
            ? `p above ${alpha}`
            : `lower ${by === "aicc" ? "AICc" : "BIC"} without it`,
    };
  };

  const addStep = (): ReduceStep | undefined => {
    const keys = new Set(fit.terms.map(termKey));
    const open = pool.filter((t) => !keys.has(termKey(t)) && parentsPresent(t, keys, hierarchy));
    const rows = open.flatMap((term) => {
      const next = at([...fit.terms, term]);
      if (next.dropped.length > 0 || next.summary.residualDf === 0) return [];
      const row = next.anova.find((r) => r.source === "term" && r.term && termKey(r.term) === termKey(term));
      return [
        {
          term,
          value: by === "p" ? (row?.p ?? 0) : criterionOf(by, next.summary.rss, next.n, next.parameters.length),
          terms: next.terms,
        },
      ];
    });
    if (rows.length === 0) return undefined;
    const best = rows.reduce((a, b) => (b.value < a.value ? b : a));
    if (by === "p" && best.value > alpha) return undefined;
    if (by !== "p" && best.value >= criterionOf(by, fit.summary.rss, fit.n, fit.parameters.length)) return undefined;
    return {
      action: "add",
      term: best.term,
      value: best.value,
      compared: rows.map(({ term, value }) => ({ term, value })),
      before: figures(fit.summary),
      after: figures(fit.summary),
      terms: best.terms,
      why: by === "p" ? `p at most ${alpha}` : `lower ${by === "aicc" ? "AICc" : "BIC"} with it`,
    };
  };

  for (;;) {
    const key = fit.terms.map(termKey).join("|");
    if (seen.has(key)) break;
    seen.add(key);
    let step: ReduceStep | undefined;
    if (direction === "forward") step = addStep();
    else if (direction === "backward") step = dropStep();
    else step = addStep() ?? dropStep();
    // In both directions a term that came in may push an earlier one out at once.
    if (!step) break;
    fit = at(step.terms);
    step.after = figures(fit.summary);
    steps.push(step);
    if (direction === "both" && step.action === "add") {
      for (let out = dropStep(); out && termKey(out.term) !== termKey(step.term); out = dropStep()) {
        fit = at(out.terms);
        out.after = figures(fit.summary);
        steps.push(out);
      }
    }
  }
  return { fit, steps };
}
