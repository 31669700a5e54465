import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { StudyError } from "../study/error";
import type { Memo } from "../study/memo";
import type { Model, ModelStep, Study, Term } from "../study/schema";
import { dependants, type Hierarchy, parentsPresent } from "../terms/candidates";
import { alphabetOf, inModelOrder, termKey } from "../terms/term";
import { besideCentre, centreOf } from "./curvature";
import { type Fitting, fittingOf, modelData } from "./data";
import { type Fit, fitModel } from "./fit";
import type { Criteria, ModelSummary } from "./fitted";
import type { Law } from "./laws/law";

/** Whether terms go out, come in, or both in turn. */
export type Direction = "backward" | "forward" | "both";
/** What a step is judged by. */
export type Criterion = "p" | "aicc" | "bic";

export interface ReduceOptions extends Partial<Fitting> {
  direction: Direction;
  by: Criterion;
  /** p to stay (and to enter); ignored by AICc and BIC. */
  alpha: number;
  /** p to stay of main effects, where it is another. */
  mains?: number;
  hierarchy: Hierarchy;
  /** How errors fall; the response's own law unless said. */
  law?: Law;
}

type Figures = Pick<ModelSummary, "s" | "r2" | "r2Adjusted" | "r2Predicted" | "aicc" | "bic" | "residualDf">;

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
  why: Message<RemarkValues>;
}

const figures = ({ s, r2, r2Adjusted, r2Predicted, aicc, bic, residualDf }: ModelSummary): Figures => ({
  s,
  r2,
  r2Adjusted,
  r2Predicted,
  aicc,
  bic,
  residualDf,
});

/** Fewer residual degrees of freedom than this judge nothing: no search starts or ends there. */
const LEAST_DF = 3;

/** What one way of reducing looks for, and where. */
interface Reducing extends ReduceOptions {
  /** Candidate terms in model order. */
  pool: Term[];
  fit(terms: Term[]): Fit;
}

/** Criterion of a model; infinite where it is not defined, so that a search goes on. An exact model has none better. */
const criterionOf = (by: "aicc" | "bic", criteria: Criteria, exact: boolean): number =>
  criteria[by] ?? (exact ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY);

const presentCriterion = (by: "aicc" | "bic", { summary, model }: Fit): number => criterionOf(by, summary, model.exact);

const nameOf = (by: Criterion): string => (by === "aicc" ? "AICc" : "BIC");

/** p to stay of a term. */
const levelOf = (term: Term, { alpha, mains = alpha }: Pick<Reducing, "alpha" | "mains">): number =>
  term.length === 1 ? mains : alpha;

/** The step that takes the least needed term out; none when all stay. */
function dropStep(reducing: Reducing, fit: Fit): ReduceStep | undefined {
  const { by, hierarchy } = reducing;
  const removable = fit.terms.filter((t) => dependants(fit.terms, t, hierarchy).length === 0);
  if (removable.length === 0) return undefined;
  const infinite = by !== "p" && presentCriterion(by, fit) === Number.POSITIVE_INFINITY;
  const bySize = fit.model.exact || infinite;
  const rows = removable.map((term) => {
    const key = termKey(term);
    const columns = fit.model.columns.flatMap((c, j) => (c.key === key ? [j] : []));
    const test = fit.model.test(columns);
    if (bySize) return { term, value: test.ss ?? test.f };
    if (by === "p") return { term, value: test.p };
    return { term, value: criterionOf(by, test.criteria, false) };
  });
  const beside = (row: { term: Term; value: number | null }): number =>
    (row.value ?? 1) / (by === "p" && !bySize ? levelOf(row.term, reducing) : 1);
  const worst = rows.reduce((a, b) => {
    const x = beside(a);
    const y = beside(b);
    return (by === "p" && !bySize ? y > x : y < x) ? b : a;
  });
  if (!bySize) {
    if (by === "p" && beside(worst) <= 1) return undefined;
    if (by !== "p" && (worst.value as number) >= presentCriterion(by, fit)) return undefined;
  }
  const why: ReduceStep["why"] = fit.model.exact
    ? { code: "reduce-exact", values: {} }
    : infinite
      ? { code: "reduce-few-df", values: { by: nameOf(by) } }
      : by === "p"
        ? { code: "reduce-p-above", values: { alpha: levelOf(worst.term, reducing) } }
        : { code: "reduce-lower-without", values: { by: nameOf(by) } };
  return {
    action: "drop",
    term: worst.term,
    value: worst.value,
    compared: rows,
    before: figures(fit.summary),
    after: figures(fit.summary),
    terms: fit.terms.filter((t) => termKey(t) !== termKey(worst.term)),
    why,
  };
}

/** The step that takes the most telling candidate in; none when no other would. */
function addStep(reducing: Reducing, fit: Fit): ReduceStep | undefined {
  const { by, hierarchy, pool, fit: start } = reducing;
  const keys = new Set(fit.terms.map(termKey));
  const open = pool.filter((t) => !keys.has(termKey(t)) && parentsPresent(t, keys, hierarchy));
  const rows = open.flatMap((term) => {
    const next = start([...fit.terms, term]);
    if (next.dropped.length > 0 || next.summary.residualDf < LEAST_DF) return [];
    const row = next.anova.find((r) => r.source === "term" && r.term && termKey(r.term) === termKey(term));
    return [{ term, value: by === "p" ? (row?.p ?? 0) : presentCriterion(by, next), terms: next.terms }];
  });
  if (rows.length === 0) return undefined;
  const beside = (row: { term: Term; value: number }): number =>
    by === "p" ? row.value / levelOf(row.term, reducing) : row.value;
  const best = rows.reduce((a, b) => (beside(b) < beside(a) ? b : a));
  if (by === "p" && beside(best) > 1) return undefined;
  if (by !== "p" && best.value >= presentCriterion(by, fit)) return undefined;
  return {
    action: "add",
    term: best.term,
    value: best.value,
    compared: rows.map(({ term, value }) => ({ term, value })),
    before: figures(fit.summary),
    after: figures(fit.summary),
    terms: best.terms,
    why:
      by === "p"
        ? { code: "reduce-p-below", values: { alpha: levelOf(best.term, reducing) } }
        : { code: "reduce-lower-with", values: { by: nameOf(by) } },
  };
}

/** What reducing leaves, and how it came there. */
export interface Reduced {
  fit: Fit;
  steps: ReduceStep[];
  note?: Message<RemarkValues>;
}

/**
 * Reduces a model term by term under a hierarchy rule; multi-column terms move as one.
 *
 * Backward starts from `candidates`, forward and both from the constant and waves. A backward search that would start
 * with fewer than three residual degrees of freedom goes forward instead, which `note` says; none ends with fewer.
 * @throws StudyError `bad-alpha`, or as `fitModel`
 */
export function reduceModel(
  study: Study,
  response: string,
  candidates: readonly Term[],
  options: ReduceOptions,
  memo?: Memo,
): Reduced {
  const { alpha } = options;
  let { direction } = options;
  if (!(alpha > 0 && alpha < 1)) throw new StudyError("bad-alpha", { alpha }, ["alpha"]);
  const { law } = options;
  const fitting = fittingOf(undefined, options);
  const wanted = inModelOrder(alphabetOf(study), candidates);
  // Where the centre's column stands in every model it carries what any square would.
  const pool = besideCentre(
    wanted,
    fitting.curvature ? centreOf(study, modelData(study, response, wanted)) : undefined,
  );
  const reducing: Reducing = {
    ...options,
    pool,
    fit: (terms) => fitModel(study, response, { terms, ...fitting, ...(law === undefined ? {} : { law }) }, memo),
  };
  let fit = reducing.fit(direction === "backward" ? reducing.pool : []);
  // Columns that cannot be estimated are out from the start.
  if (fit.dropped.length > 0) fit = reducing.fit(fit.terms);
  let note: Message<RemarkValues> | undefined;
  const { residualDf } = fit.summary;
  if (direction === "backward" && residualDf < LEAST_DF) {
    direction = "forward";
    note = { code: "went-forward", values: { df: residualDf } };
    fit = reducing.fit([]);
  }
  const steps: ReduceStep[] = [];
  const take = (step: ReduceStep): void => {
    fit = reducing.fit(step.terms);
    step.after = figures(fit.summary);
    steps.push(step);
  };
  const seen = new Set<string>();
  for (;;) {
    const key = fit.terms.map(termKey).join("|");
    if (seen.has(key)) break;
    seen.add(key);
    const step =
      direction === "forward"
        ? addStep(reducing, fit)
        : direction === "backward"
          ? dropStep(reducing, fit)
          : (addStep(reducing, fit) ?? dropStep(reducing, fit));
    if (!step) break;
    take(step);
    // In both directions a term that came in may push an earlier one out at once.
    if (direction === "both" && step.action === "add")
      for (
        let out = dropStep(reducing, fit);
        out && termKey(out.term) !== termKey(step.term);
        out = dropStep(reducing, fit)
      )
        take(out);
  }
  return { fit, steps, ...(note === undefined ? {} : { note }) };
}

/** The steps of reducing as they are kept in a study, with what they were judged by. */
export const reducedSteps = (steps: readonly ReduceStep[], by: Criterion, alpha: number): ModelStep[] =>
  steps.map((s) => ({
    action: s.action === "drop" ? "out" : "in",
    moved: [s.term],
    by,
    ...(by === "p" ? { alpha } : {}),
    value: s.value !== null && Number.isFinite(s.value) ? s.value : null,
    compared: s.compared.length,
    r2Predicted: s.after.r2Predicted,
    terms: s.terms,
  }));

/** Most steps that a study keeps of a model: the latest. */
const MOST_STEPS = 200;

/**
 * The way to a model with further steps on it: they follow the step whose model is the present one, and what came after
 * that is forgotten; the present model begins the way where no step has it.
 */
export function stepsOn(model: Model | undefined, present: Fit, more: readonly ModelStep[]): ModelStep[] {
  const key = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");
  const before = model?.steps ?? [];
  const current = before.findLastIndex((s) => key(s.terms) === key(present.terms));
  const start: ModelStep[] =
    current < 0
      ? [{ action: "start", terms: present.terms, r2Predicted: present.summary.r2Predicted }]
      : before.slice(0, current + 1);
  return [...start, ...more].slice(-MOST_STEPS);
}
