import { messageText } from "@/core/findings";
import {
  besideCentre,
  type Criterion,
  type Direction,
  type Fit,
  type Fitting,
  fittingOf,
  reducedSteps,
  stepsOn,
  storedModel,
} from "@/core/model";
import { carriedFactors } from "@/core/plans";
import type { Fitted, StudyView } from "@/core/questions";
import {
  activeTerms,
  alphabetOf,
  candidateTerms,
  dependants,
  type Edit,
  edit,
  inModelOrder,
  type Model,
  type ModelStep,
  type Study,
  type Term,
  termKey,
  termName,
  withParents,
} from "@/core/study";

/** Edits behind the Model station. */

/** Stores a response's terms, keeping all else of its model; the way there where it is given. */
export function setTerms(study: Study, response: string, terms: readonly Term[], steps?: readonly ModelStep[]): Edit[] {
  const model: Model = storedModel(study, response) ?? { response, ...fittingOf(undefined), terms: [] };
  const next = { ...model, terms: inModelOrder(alphabetOf(study), terms), ...(steps ? { steps: [...steps] } : {}) };
  return [edit(study, ["models", response], next)];
}

/** A person's own step from one set of terms to another. */
export function ownStep(before: readonly Term[], after: readonly Term[], r2Predicted: number | null): ModelStep {
  const was = new Set(before.map(termKey));
  const is = new Set(after.map(termKey));
  const came = after.filter((t) => !was.has(termKey(t)));
  const went = before.filter((t) => !is.has(termKey(t)));
  const action = came.length >= went.length ? "in" : "out";
  return { action, moved: action === "in" ? came : went, r2Predicted, terms: [...after] };
}

/** What to reduce by, and from what. */
export interface Reducing {
  direction: Direction;
  by: Criterion;
  alpha: number;
  /**
   * What the waves were made to tell with the model's own, terms of the factors carried on alone, the model's alone, or
   * all that its trials can estimate.
   */
  from: "asked" | "carried" | "model" | "all";
}

/** Reduces the model of one response; what must be said of how. */
export function reduceResponse(
  view: StudyView,
  { fit, offer }: Pick<Fitted, "fit" | "offer">,
  { direction, by, alpha, from }: Reducing,
): { edits: Edit[]; note?: string; changed: boolean } {
  const { study } = view;
  const stored = storedModel(study, fit.response);
  const pools: Record<Reducing["from"], () => Term[]> = {
    asked: () => inModelOrder(alphabetOf(study), [...offer.candidates, ...fit.terms]),
    model: () => fit.terms,
    carried: () => {
      const carried = carriedFactors(study, fit.data.trials);
      return pools.all().filter((t) => t.every((id) => carried?.has(id)));
    },
    all: () => activeTerms(study, besideCentre(candidateTerms(study, fit.terms), fit.centre)),
  };
  const pool = pools[from]();
  const fitting = fittingOf(stored);
  const options = { direction, by, alpha, hierarchy: stored?.hierarchy ?? "strong", ...fitting };
  const { fit: reduced, steps, note } = view.reduced(fit.response, pool, options);
  const said = note === undefined ? {} : { note: messageText("remarks", note) };
  const same = (terms: readonly Term[]): boolean => terms.map(termKey).join() === fit.terms.map(termKey).join();
  // Where nothing can go of more terms than stand in the model, those that came in are the result.
  // A model that was only offered, of which nothing can go, is what reducing chose.
  if (steps.length === 0 && same(reduced.terms))
    return { edits: stored ? [] : setTerms(study, fit.response, fit.terms), changed: false, ...said };
  const whole = from !== "model" && direction === "backward" && note === undefined;
  const full = whole ? view.fit(fit.response, { terms: pool, ...fitting }) : undefined;
  const way: ModelStep[] = [
    ...(full
      ? [{ action: "start" as const, terms: full.terms, r2Predicted: full.summary.r2Predicted }]
      : direction === "backward" && note === undefined
        ? []
        : [{ action: "start" as const, terms: [], r2Predicted: null }]),
    ...reducedSteps(steps, by, alpha),
  ];
  return {
    edits: setTerms(study, fit.response, reduced.terms, stepsOn(stored, fit, way)),
    changed: true,
    ...said,
  };
}

/** Stores how a response is fitted: its scale, whether waves and the centre stand in the model, what is assumed. */
export function setFitting(study: Study, fit: Fit, change: Partial<Fitting>): Edit[] {
  const model: Model = storedModel(study, fit.response) ?? {
    response: fit.response,
    ...fit.fitting,
    terms: fit.terms,
  };
  const { eta, ...rest } = { ...model, ...change };
  return [edit(study, ["models", fit.response], eta === undefined ? rest : { ...rest, eta })];
}

/** A response that is the spread of another, with an id and a name of its own. */
export function addSpread(study: Study, meanOf: string, from: "repeats" | "replicates"): { id: string; edits: Edit[] } {
  const source = study.responses.find((r) => r.id === meanOf);
  const taken = new Set([...study.factors, ...study.covariates, ...study.responses].map((x) => x.id));
  const names = new Set([...study.factors, ...study.covariates, ...study.responses].map((x) => x.name.toLowerCase()));
  const numbered = (base: string, used: ReadonlySet<string>, join: string): string => {
    for (let n = 1; ; n++) {
      const text = n === 1 ? base : `${base}${join}${n}`;
      if (!used.has(text.toLowerCase()) && !used.has(text)) return text;
    }
  };
  const id = numbered(`${meanOf}-spread`, taken, "-");
  const name = numbered(`Spread of ${(source?.name ?? meanOf).toLowerCase()}`, names, " ");
  const response = { id, name, ...(source?.unit ? { unit: source.unit } : {}), spread: { of: meanOf, from } };
  return { id, edits: [edit(study, ["responses", id], response)] };
}

export type Toggle = { ok: true; terms: Term[]; note?: string } | { ok: false; sentence: string };

/** What a person has in a model as a term is taken in or out. */
export interface Standing {
  terms: readonly Term[];
  /** The rule that says which parents stay: strong unless said. */
  hierarchy?: Model["hierarchy"];
  /** How the terms came about. */
  steps?: readonly ModelStep[];
}

/** Parents that came in for a term in its own step and that nothing else needs, should it leave. */
function broughtBy(term: Term, { terms, steps = [] }: Standing): Term[] {
  const key = termKey(term);
  const came = steps.findLast((s) => s.action === "in" && s.moved?.some((t) => termKey(t) === key))?.moved ?? [];
  let left = terms.filter((t) => termKey(t) !== key);
  const out: Term[] = [];
  // Those with most factors first: their own parents are free once they are gone.
  for (const t of [...came].sort((a, b) => b.length - a.length)) {
    const isParent = t.length < term.length && t.every((f) => term.includes(f));
    if (!isParent || !left.some((u) => termKey(u) === termKey(t)) || dependants(left, t, "strong").length > 0) continue;
    left = left.filter((u) => termKey(u) !== termKey(t));
    out.push(t);
  }
  return out;
}

/** Switches whether parents stay with what needs them; switched on, those that are missing come in. */
export function setHierarchy(
  study: Study,
  fit: Pick<Fit, "response" | "fitting" | "terms">,
  kept: boolean,
): { edits: Edit[]; came: Term[] } {
  const { hierarchy: _, ...model } = storedModel(study, fit.response) ?? {
    response: fit.response,
    ...fit.fitting,
    terms: fit.terms,
  };
  const terms = kept ? withParents(alphabetOf(study), model.terms) : model.terms;
  const was = new Set(model.terms.map(termKey));
  return {
    edits: [edit(study, ["models", fit.response], { ...model, terms, ...(kept ? {} : { hierarchy: "off" }) })],
    came: terms.filter((t) => !was.has(termKey(t))),
  };
}

/**
 * Takes a term in with the parents it needs, or out with those that it brought. A parent that a kept term needs stays
 * unless `force` is set, in which case the terms that need it go with it. Where hierarchy is off a term moves alone.
 */
export function toggleTerm(study: Study, model: Standing, term: Term, force: boolean): Toggle {
  const { terms, hierarchy = "strong" } = model;
  const alphabet = alphabetOf(study);
  const key = termKey(term);
  const inModel = terms.some((t) => termKey(t) === key);
  if (hierarchy === "off")
    return {
      ok: true,
      terms: inModel ? terms.filter((t) => termKey(t) !== key) : inModelOrder(alphabet, [...terms, term]),
    };
  if (!inModel) {
    const next = withParents(alphabet, [...terms, term]);
    const parents = next.filter((t) => termKey(t) !== key && !terms.some((u) => termKey(u) === termKey(t)));
    return {
      ok: true,
      terms: next,
      ...(parents.length > 0
        ? {
            note: `${parents.map((p) => termName(alphabet, p)).join(", ")} came in too: ${termName(alphabet, term)} needs ${parents.length === 1 ? "it" : "them"}.`,
          }
        : {}),
    };
  }
  const needing = dependants(terms, term, hierarchy);
  if (needing.length > 0 && !force)
    return {
      ok: false,
      sentence: `${termName(alphabet, term)} stays: ${needing.map((t) => termName(alphabet, t)).join(", ")} ${needing.length === 1 ? "needs" : "need"} it. Shift+space takes them all out.`,
    };
  const brought = needing.length > 0 ? [] : broughtBy(term, model);
  const gone = new Set([key, ...[...needing, ...brought].map(termKey)]);
  const names = (these: readonly Term[]): string => these.map((t) => termName(alphabet, t)).join(", ");
  return {
    ok: true,
    terms: terms.filter((t) => !gone.has(termKey(t))),
    ...(needing.length > 0 ? { note: `${names(needing)} went with it.` } : {}),
    ...(brought.length > 0
      ? {
          note: `${names(inModelOrder(alphabet, brought))} went with it: ${brought.length === 1 ? "it" : "they"} came in for it.`,
        }
      : {}),
  };
}
