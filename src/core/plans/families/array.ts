import { code, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Factor, Settings, Study } from "../../study/schema";
import { ARRAY_SIZES, arraysOf, type OrthogonalArray } from "../arrays";
import { evenly, readLevels } from "../levels";
import { sharedOptions } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";

const MOST_FACTORS = 31;

/** Levels a factor must have, or undefined when it may take what a column offers. */
function wanted(factor: Factor, asked: ReadonlyMap<string, number>): number | undefined {
  if (factor.kind === "categorical") return factor.levels.length;
  if (factor.kind === "discrete") return factor.values.length;
  return asked.get(factor.id);
}

/**
 * A column for each factor: exact numbers of levels first, then continuous factors on what is left, three levels
 * before two.
 */
function assign(array: OrthogonalArray, needs: readonly (number | undefined)[]): number[] | undefined {
  const free = new Set(array.columns.map((_, i) => i));
  const out = new Array<number>(needs.length).fill(-1);
  const take = (fits: (levels: number) => boolean): number => {
    for (const i of free)
      if (fits(array.columns[i].levels)) {
        free.delete(i);
        return i;
      }
    return -1;
  };
  for (const [f, need] of needs.entries()) {
    if (need === undefined) continue;
    out[f] = take((l) => l === need);
    if (out[f] < 0) return undefined;
  }
  for (const [f, need] of needs.entries()) {
    if (need !== undefined) continue;
    for (const fits of [(l: number) => l === 3, (l: number) => l === 2, (l: number) => l === 4 || l === 5]) {
      out[f] = take(fits);
      if (out[f] >= 0) break;
    }
    if (out[f] < 0) return undefined;
  }
  return out;
}

/** The first array of a size that has a column for every factor; wide columns that nobody needs are not spent. */
function fitting(
  study: Study,
  runs: number,
  asked: ReadonlyMap<string, number>,
): { array: OrthogonalArray; columns: number[] } | undefined {
  const factors = activeFactors(study);
  const needs = factors.map((f) => wanted(f, asked));
  for (const array of arraysOf(runs)) {
    if (array.columns.length < factors.length) continue;
    const columns = assign(array, needs);
    if (columns) return { array, columns };
  }
  return undefined;
}

const able = (study: Study, asked: ReadonlyMap<string, number>): number[] =>
  ARRAY_SIZES.filter((n) => fitting(study, n, asked) !== undefined);

/**
 * Orthogonal arrays of strength two in 4 to 36 runs, levels mixed as the factors have them (Hedayat, Sloane & Stufken
 * 1999).
 */
export const array: PlanFamily = defineFamily({
  id: "array",
  label: "Orthogonal array",
  subject: "An orthogonal array",
  options: { levels: sharedOptions.levels },
  needsTrials: () => true,
  purpose: () => "main",
  words: (o) => [o.levels ? `levels ${o.levels}` : undefined],
  offers(study, { replicates }) {
    // Arrays of two levels alone are the fractions and screens that stand there already.
    const wide = activeFactors(study).some((f) =>
      isNumeric(f) ? f.kind === "discrete" && f.values.length > 2 : f.levels.length > 2,
    );
    return array
      .sizes(study)
      .filter((n) => wide || ((n % 3 === 0 || n === 25) && n !== 12))
      .map((trials) => ({ trials, replicates }));
  },

  unfit(study) {
    const factors = activeFactors(study);
    if (factors.length < 2 || factors.length > MOST_FACTORS)
      return {
        code: "factors",
        values: { family: spokenOf(this), fewest: 2, most: MOST_FACTORS, have: factors.length },
      };
    if (able(study, new Map()).length === 0) {
      const levels = factors.map((f) => wanted(f, new Map())).filter((n): n is number => n !== undefined);
      const distinct = [...new Set(levels)].sort((a, b) => a - b);
      return { code: "no-array", values: { levels: distinct, factors: factors.length, most: 36 } };
    }
    return undefined;
  },
  sizes: (study) => able(study, new Map()),
  build(study, options) {
    const factors = activeFactors(study);
    const asked = readLevels(factors, options.levels);
    const sizes = able(study, asked);
    if (options.trials === undefined || !sizes.includes(options.trials))
      throw new StudyError("bad-count.array", { sizes, trials: options.trials ?? null }, ["trials"]);
    const found = fitting(study, options.trials, asked);
    if (!found) throw new StudyError("bad-count.no-array", { trials: options.trials }, ["trials"]);
    const points = Array.from({ length: options.trials }, (_, i) => {
      const point: Settings = {};
      factors.forEach((f, j) => {
        const column = found.array.columns[found.columns[j]];
        const level = column.values[i];
        point[f.id] = !isNumeric(f)
          ? f.levels[level]
          : f.kind === "discrete"
            ? code(f, f.values[level])
            : evenly(column.levels)[level];
      });
      return point;
    });
    return { points, kind: "screen", ...(options.levels ? { recipe: { levels: options.levels } } : {}) };
  },
});
