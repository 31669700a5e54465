import { isCentre, isCorner } from "../study/coding";
import { Memo } from "../study/memo";
import type { Study, Term } from "../study/schema";
import type { StandingColumns } from "../terms/model-matrix";
import { CURVATURE_TERM, termKey, termShape } from "../terms/term";
import type { ModelData } from "./model-data";

/** The test of the centre's column: how far the centre lies off the plane of the corners. */
export interface Curvature {
  df: number;
  ss: number;
  f: number | null;
  p: number | null;
}

/**
 * 1 at centre trials, 0 at corners, where the trials behind a model hold both and nothing else: squares of all factors
 * then rise together, and one column stands for them (Box & Draper 2007, section 6.3). Confirmations and paths are not
 * looked at.
 *
 * @returns undefined where other places were run, no centre, or nothing but the centre
 */
export function centreOf(study: Study, data: ModelData, memo: Memo = new Memo()): number[] | undefined {
  return memo.get("centre", [data, study.factors, study.waves], () => {
    const centre = data.trials.map((t) => (isCentre(study, t) ? 1 : 0));
    const judged = data.trials.flatMap((t, i) => (t.kind === "confirm" || t.kind === "path" ? [] : [i]));
    const corners = judged.filter((i) => isCorner(study, data.trials[i])).length;
    const centres = judged.filter((i) => centre[i] === 1).length;
    return corners > 0 && centres > 0 && corners + centres === judged.length ? centre : undefined;
  });
}

/** Terms without squares where the centre's column stands for them all. */
export const besideCentre = (terms: readonly Term[], centre: readonly number[] | undefined): Term[] =>
  centre ? terms.filter((t) => termShape(t) !== "square") : [...terms];

/** The column of the centre for a model of these terms; none where a square is among them. */
export function curvatureColumn(
  terms: readonly Term[],
  centre: readonly number[] | undefined,
): StandingColumns | undefined {
  if (!centre || terms.some((t) => termShape(t) === "square")) return undefined;
  return {
    columns: [{ term: CURVATURE_TERM, key: termKey(CURVATURE_TERM), index: 0 }],
    rows: centre.map((c) => [c]),
  };
}
