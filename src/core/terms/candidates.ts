import { isNumeric } from "../study/coding";
import { activeFactors, heldSettings } from "../study/roles";
import type { Factor, Study, Term } from "../study/schema";
import { type Alphabet, alphabetOf, inModelOrder, termKey } from "./term";

/** The term sets with a name of their own. */
export type TermSetName = "main" | "main+2fi" | "quadratic";

const pairs = (factors: readonly Factor[]): Term[] =>
  factors.flatMap((a, i) => factors.slice(i + 1).map((b): Term => [a.id, b.id]));

/** Whether a factor has three or more numeric positions and so can show a bend. */
export const canBend = (factor: Factor): boolean =>
  isNumeric(factor) && (factor.kind === "continuous" || factor.values.length > 2);

/** Main effects; with two-factor interactions; with squares of numeric factors of three or more levels. */
export function termSet(study: Pick<Study, "factors">, name: TermSetName): Term[] {
  const factors = activeFactors(study);
  const mains = factors.map((f): Term => [f.id]);
  if (name === "main") return mains;
  const two = [...mains, ...pairs(factors)];
  if (name === "main+2fi") return two;
  return [...two, ...factors.filter(canBend).map((f): Term => [f.id, f.id])];
}

/** Two-factor interactions not in the given terms: what may be there unasked. */
export function possibleTerms(study: Pick<Study, "factors">, terms: readonly Term[]): Term[] {
  const taken = new Set(terms.map(termKey));
  return pairs(activeFactors(study)).filter((t) => !taken.has(termKey(t)));
}

/** All terms a person may take in or out on the Model station: quadratic set, covariates and what the model holds. */
export function candidateTerms(study: Pick<Study, "factors" | "covariates">, inModel: readonly Term[]): Term[] {
  return inModelOrder(alphabetOf(study), [
    ...termSet(study, "quadratic"),
    ...study.covariates.map((c): Term => [c.id]),
    ...inModel,
  ]);
}

export type Hierarchy = "strong" | "weak" | "off";

/** Immediate parents of a term: each factor's power lowered by one. A square's parent is its main effect. */
export function parentsOf(term: Term): Term[] {
  if (term.length < 2) return [];
  const seen = new Set<string>();
  const out: Term[] = [];
  term.forEach((_, i) => {
    const parent = term.filter((__, j) => j !== i);
    const key = termKey(parent);
    if (!seen.has(key)) {
      seen.add(key);
      out.push(parent);
    }
  });
  return out;
}

/**
 * Whether a term may stand in a model that has these keys. Weak asks for one parent, except that a square needs its
 * main effect.
 */
export function parentsPresent(term: Term, keys: ReadonlySet<string>, hierarchy: Hierarchy): boolean {
  if (hierarchy === "off" || term.length < 2) return true;
  const present = parentsOf(term).map((p) => keys.has(termKey(p)));
  return hierarchy === "strong" ? present.every(Boolean) : present.some(Boolean);
}

/** Terms that would lose a needed parent if `term` left. */
export function dependants(terms: readonly Term[], term: Term, hierarchy: Hierarchy): Term[] {
  const keys = new Set(terms.map(termKey));
  keys.delete(termKey(term));
  return terms.filter((t) => termKey(t) !== termKey(term) && !parentsPresent(t, keys, hierarchy));
}

/** Terms of a model that stand without a parent of theirs: what they say depends on where the middles of ranges lie. */
export function withoutParents(terms: readonly Term[]): Term[] {
  const keys = new Set(terms.map(termKey));
  return terms.filter((t) => !parentsPresent(t, keys, "strong"));
}

/** The terms with all parents that strong hierarchy asks for, in model order. */
export function withParents(alphabet: Alphabet, terms: readonly Term[]): Term[] {
  const all: Term[] = [];
  const add = (term: Term): void => {
    all.push(term);
    for (const parent of parentsOf(term)) add(parent);
  };
  for (const term of terms) add(term);
  return inModelOrder(alphabet, all);
}

/** The terms that name no retired factor. */
export function activeTerms(study: Study, terms: readonly Term[]): Term[] {
  const held = heldSettings(study);
  return terms.filter((t) => !t.some((id) => id in held));
}
