import { isCentre, isCorner } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Recipe, Study, Term, Trial, Wave } from "../study/schema";
import { canBend, type TermSetName, termSet } from "../terms/candidates";
import { alphabetOf, inModelOrder } from "../terms/term";
import { families } from "./families";

/** What waves that follow are made to tell; those that only confirm, repeat or climb tell nothing more. */
const FOLLOWING: Readonly<Record<string, TermSetName | undefined>> = {
  foldover: "main+2fi",
  "missing-fraction": "main+2fi",
  axial: "quadratic",
  // Built as an optimal plan of its own terms, which its recipe names.
  augment: undefined,
  centre: undefined,
  repeat: undefined,
  // Told apart by what it carries.
  carry: undefined,
  ascent: undefined,
  confirm: undefined,
};

/** The terms that a recipe says its plan was made to tell; nothing where it names no plan of ours. */
function toldBy(study: Study, recipe: Recipe): Term[] | undefined {
  const following = FOLLOWING[recipe.family];
  if (following) return termSet(study, following);
  const family = families.find((f) => f.id === recipe.family);
  if (!family) return undefined;
  const told = family.tells ?? family.purpose(recipe as Parameters<typeof family.purpose>[0]);
  return typeof told === "string" ? termSet(study, told) : told;
}

/**
 * What a wave is adopted to tell: what plans of its kind are for, and what is wanted of it beside. Nothing where
 * neither is known, and of factors carried on, whose terms depend on what came before.
 */
export function askedAtAdoption(study: Study, recipe: Recipe, wanted: readonly Term[]): Term[] | undefined {
  const asked = [...(toldBy(study, recipe) ?? []), ...wanted];
  return asked.length > 0 ? inModelOrder(alphabetOf(study), asked) : undefined;
}

/** Terms among some factors alone. */
const among = (terms: readonly Term[], ids: ReadonlySet<string>): Term[] =>
  terms.filter((t) => t.every((id) => ids.has(id)));

/** Factors that the last wave of some trials to do so carried on; undefined where none did. */
export function carriedFactors(study: Study, trials: readonly Trial[]): ReadonlySet<string> | undefined {
  const used = new Set(trials.map((t) => t.wave));
  const factors = study.waves.findLast((w) => used.has(w.id) && w.plan.family === "carry")?.plan.factors;
  return factors && new Set(factors);
}

/**
 * What the waves of some trials were made to tell: what their recipes were adopted to tell, else what plans of their
 * kind are for; all factors' main effects always. After a wave that carries some factors on, interactions are asked of
 * those alone. Where places off corner and centre were run, squares too.
 */
export function askedTerms(study: Study, trials: readonly Trial[]): Term[] {
  const factors = activeFactors(study);
  const used = new Set(trials.map((t) => t.wave));
  const off = trials.some((t) => !isCentre(study, t) && !isCorner(study, t));
  let terms: Term[] = [];
  /** Factors that a wave has not left behind. */
  let carried = new Set(factors.map((f) => f.id));
  let known = false;
  const add = (more: readonly Term[]): void => {
    known = true;
    terms = [...terms, ...more];
  };
  const tell = ({ plan }: Wave): void => {
    if (!plan.asked && plan.family === "carry") {
      carried = new Set(plan.factors ?? carried);
      terms = among(terms, carried);
      add(among(termSet(study, "quadratic"), carried));
    } else {
      const own = plan.asked ?? toldBy(study, plan);
      if (own) add(own);
    }
  };
  for (const w of study.waves) if (used.has(w.id)) tell(w);
  if (!known) add(termSet(study, "main+2fi"));
  const squares = off ? factors.filter((f) => carried.has(f.id) && canBend(f)).map((f): Term => [f.id, f.id]) : [];
  const active = new Set(factors.map((f) => f.id));
  return inModelOrder(alphabetOf(study), among([...termSet(study, "main"), ...terms, ...squares], active));
}
