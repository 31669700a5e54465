import { type Fit, fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import { seededRandom } from "../numerics/random";
import { isNumeric } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Settings, Term } from "../study/schema";
import { withParents } from "../terms/candidates";
import { alphabetOf, termKey } from "../terms/term";
import { type SetpointProblem, setpointProblem } from "./goals";
import { placesOver, WITHIN } from "./sureness";

/** What becomes of some settings if it is another member of a chain that acts. */
export interface OtherMember {
  term: Term;
  other: Term;
  /** Overall desirability of the settings as the model stands, then, and then of the best of many places. */
  promised: number;
  here: number;
  best: number;
}

/**
 * Whether settings stay as good, and about the best, if a term of a model is really another one of its chain: the model
 * with that one in its place, over the ends of all ranges and places between.
 *
 * @returns undefined where they do
 */
export function ifOther(
  problem: SetpointProblem,
  fit: Fit,
  settings: Settings,
  term: Term,
  other: Term,
): OtherMember | undefined {
  const { study, memo } = problem;
  // Interactions of a main effect that is none go with it.
  const rest = fit.terms.filter((t) => termKey(t) !== termKey(term) && !(term.length === 1 && t.includes(term[0])));
  const terms = withParents(alphabetOf(study), [...rest, other]);
  const swapped = linearSurface(study, fitModel(study, fit.response, { terms, ...fit.fitting }, memo), memo);
  const then = setpointProblem(study, memo, (id) => {
    const read = id === fit.response ? swapped : problem.predictors.get(id);
    // Every response with a goal has a model here.
    return read ?? swapped;
  });
  // Factors that no model speaks of stay where they are: their levels would only multiply the places.
  const spoken = new Set([...then.predictors.values()].flatMap((read) => read.shownOf));
  const factors = activeFactors(study).filter((f) => spoken.has(f.id));
  const listed = factors.reduce<Settings[]>(
    (all, f) => (isNumeric(f) ? all : all.flatMap((s) => f.levels.map((v) => ({ ...s, [f.id]: v })))),
    [settings],
  );
  const best = placesOver(factors.filter(isNumeric), listed, seededRandom(1))
    .filter((s) => problem.region.allowed(s))
    .reduce((m, s) => Math.max(m, then.overall(s)), 0);
  const [promised, here] = [problem.overall(settings), then.overall(settings)];
  return Math.max(best, promised) - here > WITHIN ? { term, other, promised, here, best } : undefined;
}
