import { StudyError } from "../study/error";
import { isActive } from "../study/roles";
import type { Factor, Study, Term } from "../study/schema";

/** What terms are made of: factors in study order, then covariates. */
export interface Alphabet {
  order: Map<string, number>;
  names: Map<string, string>;
  letters: Map<string, string>;
  factors: Map<string, Factor>;
}

/** The ids a study's terms may name. */
export function alphabetOf(study: Pick<Study, "factors" | "covariates">): Alphabet {
  const order = new Map<string, number>();
  const names = new Map<string, string>();
  const letters = new Map<string, string>();
  for (const f of study.factors) {
    order.set(f.id, order.size);
    names.set(f.id, f.name);
    letters.set(f.id, f.letter);
  }
  for (const c of study.covariates) {
    order.set(c.id, order.size);
    names.set(c.id, c.name);
    letters.set(c.id, c.name);
  }
  return { order, names, letters, factors: new Map(study.factors.map((f) => [f.id, f])) };
}

/** The term as a text that is equal for equal terms, whatever the order inside. */
export function termKey(term: Term): string {
  const [a, b] = term;
  if (term.length === 1) return a;
  if (term.length === 2) return a < b ? `${a}*${b}` : `${b}*${a}`;
  return term.length === 0 ? "" : [...term].sort().join("*");
}

/** Distinct ids of a term with their powers, in study order. */
export function powers(alphabet: Alphabet, term: Term): { id: string; power: number }[] {
  const found = new Map<string, number>();
  for (const id of term) found.set(id, (found.get(id) ?? 0) + 1);
  return [...found]
    .map(([id, power]) => ({ id, power }))
    .sort((a, b) => (alphabet.order.get(a.id) ?? 0) - (alphabet.order.get(b.id) ?? 0));
}

/** Highest power of one factor in the term. */
const peak = (term: Term): number => {
  let best = 0;
  for (const id of term) best = Math.max(best, term.filter((other) => other === id).length);
  return best;
};

/** Model order: constant, mains, interactions, squares, then by degree; by factor order within. */
export function compareTerms(alphabet: Alphabet, a: Term, b: Term): number {
  if (a.length !== b.length) return a.length - b.length;
  const byPeak = peak(a) - peak(b);
  if (byPeak !== 0) return byPeak;
  const rank = (t: Term): number[] => t.map((id) => alphabet.order.get(id) ?? 0).sort((x, y) => x - y);
  const ra = rank(a);
  const rb = rank(b);
  for (let i = 0; i < ra.length; i++) if (ra[i] !== rb[i]) return ra[i] - rb[i];
  return 0;
}

/** Terms in model order with the ids inside each in study order; duplicates and the constant left out. */
export function inModelOrder(alphabet: Alphabet, terms: readonly Term[]): Term[] {
  const seen = new Set<string>([""]);
  const out: Term[] = [];
  for (const term of terms) {
    const key = termKey(term);
    if (seen.has(key)) continue;
    seen.add(key);
    out.push([...term].sort((a, b) => (alphabet.order.get(a) ?? 0) - (alphabet.order.get(b) ?? 0)));
  }
  return out.sort((a, b) => compareTerms(alphabet, a, b));
}

const SUPERSCRIPTS = ["", "", "²", "³", "⁴", "⁵", "⁶"];

/** What wave columns are called among terms, and the column of the centre. */
export const WAVE_TERM: Term = ["@wave"];
export const CURVATURE_TERM: Term = ["@curvature"];

/** Whether a term is one of factors and covariates, or the constant, rather than of waves or the centre. */
export const ofFactors = (term: Term): boolean => term[0]?.[0] !== "@";

/** "Bowl temperature × Detergent", "Detergent²". */
export const termName = (alphabet: Alphabet, term: Term): string =>
  term.length === 0
    ? "constant"
    : !ofFactors(term)
      ? term[0].slice(1)
      : powers(alphabet, term)
          .map(({ id, power }) => (alphabet.names.get(id) ?? id) + SUPERSCRIPTS[power])
          .join(" × ");

/** "AB", "B²"; covariates by name. */
export const termLetters = (alphabet: Alphabet, term: Term): string =>
  term.length === 0
    ? "constant"
    : !ofFactors(term)
      ? term[0].slice(1)
      : powers(alphabet, term)
          .map(({ id, power }) => (alphabet.letters.get(id) ?? id) + SUPERSCRIPTS[power])
          .join("");

/** Whether a term is a main effect, an interaction, a pure square, or something higher. */
export function termShape(term: Term): "constant" | "main" | "interaction" | "square" | "higher" {
  if (term.length === 0) return "constant";
  if (term.length === 1) return "main";
  if (term.length === 2) return term[0] === term[1] ? "square" : "interaction";
  return peak(term) === 1 ? "interaction" : "higher";
}

/**
 * Checks a list of terms from outside against the study.
 * @throws StudyError for unknown ids, squared categories, covariates in interactions, duplicates
 */
export function checkTerms(study: Pick<Study, "factors" | "covariates">, terms: readonly Term[]): Term[] {
  const alphabet = alphabetOf(study);
  const seen = new Set<string>();
  terms.forEach((term, i) => {
    const path = ["terms", i];
    for (const id of term) {
      if (!alphabet.order.has(id)) throw new StudyError("unknown-id.term", { place: `terms[${i}]`, id }, path);
      const factor = alphabet.factors.get(id);
      if (!factor && term.length > 1)
        throw new StudyError(
          "covariate-term.alone",
          { place: `terms[${i}]`, covariate: alphabet.names.get(id) ?? id },
          path,
        );
      if (factor?.kind === "categorical" && term.filter((other) => other === id).length > 1)
        throw new StudyError("category-squared", { place: `terms[${i}]`, factor: factor.name }, path);
      if (factor && !isActive(factor))
        throw new StudyError("retired", { place: `terms[${i}]`, factor: factor.name }, path);
    }
    const key = termKey(term);
    if (seen.has(key))
      throw new StudyError("duplicate.term", { place: `terms[${i}]`, term: termName(alphabet, term) }, path);
    seen.add(key);
  });
  return inModelOrder(alphabet, terms);
}
