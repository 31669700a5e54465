import type { Message } from "../messages/message";
import type { WhyValues } from "../messages/waves";
import { storedModel } from "../model/data";
import { allExact } from "../model/exact";
import type { Fit } from "../model/fit";
import { effectLadder } from "../model/ladder";
import { presentFit } from "../model/offer";
import { hasMiddle } from "../plans/combinations";
import { centreSettings, isNumeric, significance } from "../study/coding";
import { StudyError } from "../study/error";
import type { Memo } from "../study/memo";
import { activeFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { steepestAscent } from "../surface/ascent";
import { presentPredictor } from "../surface/average";
import { alphabetOf, ofFactors, termLetters, termShape, WAVE_TERM } from "../terms/term";
import type { Climbing, Evidence, Modelled } from "./kind";

function saidOf(study: Study, memo: Memo): Modelled[] {
  const alpha = significance(study);
  return study.responses.flatMap((r) => {
    try {
      const fit = presentFit(study, r.id, memo);
      if (!storedModel(study, r.id) && fit.summary.residualDf < 1) return [];
      return [
        {
          name: r.name,
          fit,
          active: effectLadder(study, fit, [], memo).rungs.filter((x) => x.inModel && x.p !== null && x.p < alpha),
        },
      ];
    } catch (error) {
      // A response without results, or constant, asks for nothing.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/** Whether waves differ where the centre ran in a wave of its own, so that a bend may be behind it as well. */
const bendOrShift = (fit: Fit): boolean => {
  const wave = fit.anova.find((r) => r.source === "wave");
  return (
    wave?.p !== undefined &&
    wave.p !== null &&
    wave.p < significance(fit) &&
    fit.dropped.some((d) => !ofFactors(d.term) && d.equals.some((e) => e.term[0] === WAVE_TERM[0]))
  );
};

/**
 * Responses with a goal whose model leads out of the ranges; `short` where the best within them does not reach the
 * limit.
 */
function climbing(study: Study, memo: Memo): Climbing[] {
  const centre = centreSettings(study.factors);
  return study.responses.flatMap((r) => {
    if (r.goal.aim === "watch" || !storedModel(study, r.id)) return [];
    try {
      const { points, beyond } = steepestAscent(study, presentPredictor(study, r.id, memo), centre);
      const last = points.filter((p) => p.inside).at(-1);
      const within = points.every((p) => p.inside);
      if (last === undefined || (within && beyond.length === 0)) return [];
      const limit = r.goal.aim === "raise" ? r.goal.low : r.goal.aim === "lower" ? r.goal.high : undefined;
      const short = limit !== undefined && (r.goal.aim === "raise" ? last.predicted < limit : last.predicted > limit);
      return [{ response: r, short, open: within ? beyond : [] }];
    } catch (error) {
      // No path without a model that can be fitted here.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/** That centre and shift cannot be told apart. */
export const shiftWhy = (mixed: Modelled): Message<WhyValues> => ({
  code: "bend-or-shift",
  values: { response: mixed.name, p: mixed.fit.anova.find((r) => r.source === "wave")?.p ?? 1 },
});

type Chained = Evidence["chained"][number];

/** The term that acts and those that it cannot be told from. */
export const membersOf = ({ rung }: Chained): Term[] => [rung.term, ...rung.aliases];

/** That a chain acts, and how many more do. */
export function chainWhy({ study, chained: [chain, ...more] }: Evidence): Message<WhyValues> {
  const terms = membersOf(chain).slice(0, 3);
  const letters = terms.map((t) => termLetters(alphabetOf(study), t));
  return { code: "chain", values: { response: chain.name, terms: letters, more: more.length } };
}

/**
 * What a study gives to think of its next wave.
 *
 * @param toCarry factors that a person wants carried on, in place of those that look active
 */
export function evidenceOf(
  study: Study,
  toCarry: readonly string[] | undefined,
  parts: Evidence["parts"],
  memo: Memo,
): Evidence {
  const said = saidOf(study, memo);
  const factors = activeFactors(study);
  const aliased = said.flatMap((s) => s.active.filter((r) => r.aliases.length > 0).map((rung) => ({ ...s, rung })));
  // Squares that travel together ask for axial points; a chain of interactions for corners.
  const isSquare = ({ rung }: Chained): boolean => termShape(rung.term) === "square";
  const off = ({ fit: { curvature } }: Modelled): boolean =>
    curvature !== undefined && curvature.p !== null && curvature.p < significance(study);
  return {
    study,
    factors,
    numeric: factors.filter((f) => isNumeric(f) && hasMiddle(f)),
    said,
    chained: aliased.filter((c) => !isSquare(c)),
    bends: aliased.filter(isSquare),
    mixed: said.find((s) => bendOrShift(s.fit)),
    bent: said.find(off),
    climbs: climbing(study, memo),
    exact: allExact(study),
    toCarry,
    parts,
  };
}
