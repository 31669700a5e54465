import { centreRuns, naturalSettings } from "../../plans/arrange";
import { categoryCombinations, hasMiddle } from "../../plans/combinations";
import { axialDistance } from "../../plans/families/composite";
import { isCentre, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors, isStanding } from "../../study/roles";
import type { NumericFactor, Settings, Study } from "../../study/schema";
import { alphabetOf, termLetters } from "../../terms/term";
import { shiftWhy } from "../evidence";
import type { FollowUpKind } from "../kind";
import { type FollowOptions, type FollowRuns, namedFactors } from "../options";

const AXIAL_CENTRES = 2;

/**
 * Axial points (Box & Wilson 1951) for the factors named, all numeric ones unless said, others at their middle: with
 * the corners already run they make a second-order plan. Categories take turns from factor to factor, both ends of one
 * factor at one level.
 * @throws StudyError `no-middle`
 */
function axialRuns(study: Study, options: FollowOptions): FollowRuns {
  const active = activeFactors(study);
  const named = namedFactors(study, options.factors);
  const numeric = active.filter((f): f is NumericFactor => isNumeric(f) && hasMiddle(f));
  const moved = (named.length > 0 ? named : numeric).filter((f): f is NumericFactor => {
    if (isNumeric(f) && hasMiddle(f)) return true;
    throw new StudyError("no-middle.factor", { factor: f.name }, ["factors"]);
  });
  if (moved.length === 0) throw new StudyError("no-middle.study", {}, ["factors"]);
  const counted = study.trials.filter(isStanding);
  const centreCorners = counted.filter((t) => isCentre(study, t)).length;
  const corners = Math.max(
    1,
    counted.filter((t) => t.kind === "factorial" || t.kind === "screen" || t.kind === "optimal").length,
  );
  const centre = options.centre ?? AXIAL_CENTRES;
  const alpha = axialDistance({ factors: moved, corners, centreCorners, centreAxial: centre }, options.axial, false);
  const combinations = categoryCombinations(active);
  const runs: FollowRuns["runs"] = [];
  moved.forEach((f, i) =>
    [-1, 1].forEach((sign) => {
      // Both ends at one level, so that no level is taken for a sign.
      const point: Settings = { ...combinations[i % combinations.length] };
      for (const other of numeric) point[other.id] = 0;
      for (const other of active) if (isNumeric(other) && point[other.id] === undefined) point[other.id] = -1;
      point[f.id] = sign * alpha;
      runs.push({ settings: naturalSettings(study, point, true), kind: "axial" });
    }),
  );
  runs.push(...centreRuns(study, centre, 1, true));
  const star = corners ** 0.25;
  const cautions: FollowRuns["cautions"] = [
    ...(centre === 0 ? [{ code: "axial-no-centre", values: {} } as const] : []),
    // Only where nothing else was asked for and nothing but a statement is missing.
    ...(options.axial === undefined && alpha === 1 && star > 1 && moved.some((f) => f.kind === "continuous")
      ? [{ code: "axial-faces", values: { star } } as const]
      : alpha > 1
        ? [{ code: "axial-star", values: { at: alpha, factors: moved.length } } as const]
        : []),
  ];
  return { runs, recipe: { axial: options.axial ?? alpha, centre, factors: moved.map((f) => f.id) }, cautions };
}

export const axial: FollowUpKind = {
  id: "axial",
  purpose: "look for bends",
  terms: "quadratic",
  offered({ study, numeric, bends: [bend], mixed, bent }) {
    if (numeric.length === 0) return [];
    const offer = { options: { kind: "axial" }, name: { code: "axial", values: {} } } as const;
    const hasAxial = study.trials.some((t) => t.kind === "axial");
    // With a bend or a shift they are on offer already.
    if (mixed) return [{ ...offer, place: 10, why: shiftWhy(mixed) }];
    if (bend) {
      const letters = (t: Parameters<typeof termLetters>[1]): string => termLetters(alphabetOf(study), t);
      const { term, aliases } = bend.rung;
      const others = aliases.slice(0, 2).map(letters);
      const values = { response: bend.name, term: letters(term), others, more: aliases.length > 2 };
      return [{ ...offer, place: 30, why: { code: "which-square", values } }];
    }
    if (hasAxial) return [];
    return bent
      ? [
          {
            ...offer,
            place: 30,
            why: { code: "centre-off", values: { response: bent.name, p: bent.fit.curvature?.p ?? 1 } },
          },
        ]
      : [{ ...offer, place: 130 }];
  },
  make: { runs: axialRuns },
};
