import { type BlockEffect, type Rung, stepsOn, storedModel } from "@/core/model";
import type { Fitted } from "@/core/questions";
import {
  alphabetOf,
  type ModelStep,
  type Response,
  type Study,
  StudyError,
  type Term,
  termKey,
  termName,
} from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { say } from "@/ui/parts/say";
import {
  ownStep,
  type Reducing,
  reduceResponse,
  type Standing,
  setFitting,
  setHierarchy,
  setTerms,
  toggleTerm,
} from "./actions";

const termsKey = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");

/** What may be done with a response's model; every act is one change that can be undone. */
export interface Modelling {
  /** The way the stored model came to be, and where on it the present one stands (−1 beside it). */
  steps: readonly ModelStep[];
  current: number;
  set(terms: readonly Term[], what: string): void;
  toggle(rung: Rung, force?: boolean): void;
  /** Takes in a term that has no rung. */
  take(term: Term): void;
  stand(rung: BlockEffect, inModel: boolean): void;
  reduce(how: Reducing, everywhere: boolean): void;
  walk(to: number): void;
  /** Whether parents stay with the terms that need them, and the switch of it. */
  parentsKept: boolean;
  keepParents(kept: boolean): void;
  /** Chooses the model that is on screen. */
  accept(): void;
}

/**
 * The acts of the Model station on one response.
 *
 * @param note says what an act brought with it, or why it was not done
 */
export function useModelling(
  study: Study,
  response: Response | undefined,
  fitted: Fitted | undefined,
  note: (text: string | undefined) => void,
): Modelling | undefined {
  const commitEdits = useDesk((d) => d.commit);
  const figures = useStudyView();
  if (!response) return undefined;
  const commit: typeof commitEdits = (edits, what) => {
    const refused = commitEdits(edits, what);
    if (refused) say(refused);
    return refused;
  };
  const alphabet = alphabetOf(study);
  const stored = storedModel(study, response.id);
  const steps = stored?.steps ?? [];
  const present = fitted ? termsKey(fitted.fit.terms) : "";
  // Where the present model stands on its way; undo may have gone back along it.
  const current = steps.findLastIndex((s) => termsKey(s.terms) === present);
  // Stores terms with the step that led to them.
  const set = (terms: readonly Term[], what: string): void => {
    const before = fitted?.fit;
    const r2 = before ? figures.fit(response.id, { terms: [...terms], ...before.fitting }).summary.r2Predicted : null;
    const way = before && stepsOn(stored, before, [ownStep(before.terms, terms, r2)]);
    commit(setTerms(study, response.id, terms, way), what);
  };
  const hierarchy = stored?.hierarchy;
  const standing = (terms: readonly Term[]): Standing => ({ terms, steps, ...(hierarchy ? { hierarchy } : {}) });
  const keepParents = (kept: boolean): void => {
    if (!fitted) return;
    const { edits, came } = setHierarchy(study, fitted.fit, kept);
    note(
      came.length > 0
        ? `${came.map((t) => termName(alphabet, t)).join(", ")} came in: what stands in the model needs ${came.length === 1 ? "it" : "them"}.`
        : undefined,
    );
    commit(edits, `${kept ? "kept parents in" : "let parents leave"} the model of ${response.name}`);
  };
  const toggle = (rung: Rung, force = false): void => {
    if (!fitted) return;
    if (rung.lost && !rung.inModel) {
      note(
        `${rung.name} cannot be estimated beside what is in the model${
          rung.aliases.length > 0
            ? `: these trials cannot tell it from ${rung.aliases
                .slice(0, 3)
                .map((t) => termName(alphabet, t))
                .join(", ")}`
            : ""
        }.`,
      );
      return;
    }
    const next = toggleTerm(study, standing(fitted.fit.terms), rung.term, force);
    if (!next.ok) {
      note(next.sentence);
      return;
    }
    note(next.note);
    set(next.terms, `${rung.inModel ? "took out" : "took in"} ${rung.name}`);
  };
  const take = (term: Term): void => {
    if (!fitted) return;
    const next = toggleTerm(study, standing(fitted.fit.terms), term, false);
    if (!next.ok) return;
    // What these trials cannot tell beside the rest is said, and stays out.
    const { dropped } = figures.fit(response.id, { terms: next.terms, ...fitted.fit.fitting });
    const lost = dropped.find((d) => termKey(d.term) === termKey(term));
    if (lost) note(`${termName(alphabet, term)} cannot be estimated beside what is in the model.`);
    else {
      note(next.note);
      set(next.terms, `took in ${termName(alphabet, term)}`);
    }
  };
  const stand = ({ id: which }: BlockEffect, inModel: boolean): void => {
    if (!fitted) return;
    const name = which === "wave" ? "waves" : "curvature";
    commit(
      setFitting(study, fitted.fit, which === "wave" ? { block: inModel } : { curvature: inModel }),
      `${inModel ? `took ${name} into` : `left ${name} out of`} the model of ${response.name}`,
    );
  };
  const reduce = (how: Reducing, everywhere: boolean): void => {
    if (!fitted) return;
    try {
      const about = everywhere ? study.responses : [response];
      const done = about.flatMap((r) => {
        const found = figures.fitted(r.id);
        return found.ok ? [{ name: r.name, ...reduceResponse(figures, found.fitted, how) }] : [];
      });
      const changed = done.filter((d) => d.changed);
      const notes = done.flatMap((d) => (d.note ? [everywhere ? `${d.name}: ${d.note}` : d.note] : []));
      if (changed.length === 0) notes.push("Nothing to reduce: every term earns its place.");
      else if (everywhere) notes.push(`${changed.length} of ${done.length} models reduced.`);
      note(notes.length > 0 ? notes.join(" ") : undefined);
      const by = how.by === "p" ? `p ${how.alpha}` : how.by === "aicc" ? "AICc" : "BIC";
      commit(
        done.flatMap((d) => d.edits),
        `reduced ${everywhere ? "all responses" : response.name} by ${by}`,
      );
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      say(error.message);
    }
  };
  const walk = (to: number): void => {
    commit(setTerms(study, response.id, steps[to].terms), `back to step ${to} of ${response.name}`);
  };
  return {
    steps,
    current,
    set,
    toggle,
    take,
    stand,
    reduce,
    walk,
    parentsKept: hierarchy !== "off",
    keepParents,
    accept: () => {
      // Nothing moved: what is chosen is no step.
      if (fitted) commit(setTerms(study, response.id, fitted.fit.terms), `accepted the model of ${response.name}`);
    },
  };
}
