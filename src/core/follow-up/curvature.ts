import { centreRuns, naturalSettings } from "../plans/arrange";
import { categoryCombinations, hasMiddle } from "../plans/combinations";
import { axialDistance } from "../plans/families/composite";
import { activeFactors, isCentre, isNumeric } from "../study/coding";
import { StudyError } from "../study/error";
import type { NumericFactor, Settings, Study } from "../study/schema";
import { type FollowOptions, type FollowRuns, namedFactors } from "./options";

const CENTRES = 3;
const AXIAL_CENTRES = 2;

/**
 * Centre points alone, spread over categories.
 * @throws StudyError `bad-count`
 */
export function centreOnly(study: Study, options: FollowOptions): FollowRuns {
  const n = options.trials ?? CENTRES;
  if (!Number.isInteger(n) || n < 1 || n > 200) throw new StudyError("bad-count.centre", { n }, ["trials"]);
  return {
    runs: centreRuns(study, n, 1, true),
    cautions: [
      study.trials.some((t) => isCentre(study, t))
        ? { code: "centre-beside", values: {} }
        : { code: "centre-alone", values: {} },
    ],
  };
}

/**
 * Axial points (Box & Wilson 1951) for the factors named, all numeric ones unless said, others at their middle: with
 * the corners already run they make a second-order plan. Categories take turns from factor to factor, both ends of one
 * factor at one level.
 * @throws StudyError `no-middle`
 */
export function axialRuns(study: Study, options: FollowOptions): FollowRuns {
  const active = activeFactors(study);
  const named = namedFactors(study, options.factors);
  const numeric = active.filter((f): f is NumericFactor => isNumeric(f) && hasMiddle(f));
  const moved = (named.length > 0 ? named : numeric).filter((f): f is NumericFactor => {
    if (isNumeric(f) && hasMiddle(f)) return true;
    throw new StudyError("no-middle.factor", { factor: f.name }, ["factors"]);
  });
  if (moved.length === 0) throw new StudyError("no-middle.study", {}, ["factors"]);
  const counted = study.trials.filter((t) => t.state !== "skipped" && t.state !== "failed");
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
