import { StudyError } from "../../study/error";
import { activeFactors, isHard } from "../../study/roles";
import type { Factor, Settings } from "../../study/schema";
import { categoryCombinations, hasMiddle, kindsOf, numericOf } from "../combinations";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { splitPoints } from "../second-order-setups";

/**
 * Which factors stand at their ends together (Box & Behnken 1960), by orthogonal block; 6 and 7 split by the sign of
 * the product.
 */
const GROUPS: Readonly<Record<number, number[][][]>> = {
  3: [
    [
      [0, 1],
      [0, 2],
      [1, 2],
    ],
  ],
  4: [
    [
      [0, 1],
      [2, 3],
    ],
    [
      [0, 3],
      [1, 2],
    ],
    [
      [0, 2],
      [1, 3],
    ],
  ],
  5: [
    [
      [0, 1],
      [2, 3],
      [1, 4],
      [0, 2],
      [3, 4],
    ],
    [
      [1, 2],
      [0, 3],
      [2, 4],
      [0, 4],
      [1, 3],
    ],
  ],
  6: [
    [
      [0, 1, 3],
      [1, 2, 4],
      [2, 3, 5],
      [0, 3, 4],
      [1, 4, 5],
      [0, 2, 5],
    ],
  ],
  7: [
    [
      [3, 4, 5],
      [0, 5, 6],
      [1, 4, 6],
      [0, 1, 3],
      [2, 3, 6],
      [0, 2, 4],
      [1, 2, 5],
    ],
  ],
};
const BLOCKS: Readonly<Record<number, number>> = { 4: 3, 5: 2, 6: 2, 7: 2 };

const baseSize = (k: number): number => GROUPS[k].flat().reduce((n, g) => n + 2 ** g.length, 0);

/** Coded points of all categories, with the orthogonal block of each. */
function standing(factors: readonly Factor[]): { points: Settings[]; blocks: number[] } {
  const numeric = numericOf(factors);
  const k = numeric.length;
  const points: Settings[] = [];
  const blocks: number[] = [];
  for (const category of categoryCombinations(factors))
    GROUPS[k].forEach((groups, block) => {
      for (const group of groups)
        for (let i = 0; i < 2 ** group.length; i++) {
          const point: Settings = { ...category };
          for (const f of numeric) point[f.id] = 0;
          let product = 1;
          group.forEach((j, bit) => {
            const sign = (i >> bit) & 1 ? 1 : -1;
            point[numeric[j].id] = sign;
            product *= sign;
          });
          points.push(point);
          blocks.push(GROUPS[k].length > 1 ? block : product < 0 ? 0 : 1);
        }
    });
  return { points, blocks };
}

/** Second-order plans without corners (Box & Behnken 1960); centre points are asked for apart. */
export const boxBehnken: PlanFamily = defineFamily({
  id: "box-behnken",
  label: "Box–Behnken",
  options: {},
  purpose: () => "quadratic",

  unfit(study) {
    const factors = activeFactors(study);
    const numeric = numericOf(factors);
    if (numeric.length < 3 || numeric.length > 7)
      return { code: "numeric-factors", values: { family: spokenOf(this), fewest: 3, most: 7, ...kindsOf(factors) } };
    const stuck = numeric.find((f) => !hasMiddle(f));
    if (stuck) return { code: "middle", values: { family: spokenOf(this), factor: stuck.name } };
    return undefined;
  },
  sizes(study) {
    const factors = activeFactors(study);
    const plain = baseSize(numericOf(factors).length) * categoryCombinations(factors).length;
    if (!factors.some(isHard)) return [plain];
    return [...new Set([plain, splitPoints(factors, standing(factors).points).points.length])];
  },
  build(study, options) {
    const factors = activeFactors(study);
    const k = numericOf(factors).length;
    const sizes = boxBehnken.sizes(study);
    if (options.trials !== undefined && !sizes.includes(options.trials))
      throw new StudyError("bad-count.box-behnken", { size: sizes[0], trials: options.trials }, ["trials"]);
    const blocks = options.blocks ?? 1;
    if (blocks > 1 && BLOCKS[k] !== blocks)
      throw new StudyError("bad-blocks.box-behnken", { factors: k, orthogonal: BLOCKS[k] ?? null, blocks }, ["blocks"]);
    const { points, blocks: blockOf } = standing(factors);
    // In set-ups the plan has more trials: that many, or no number, ask for it so.
    const splits =
      blocks === 1 && options.setups !== undefined && (options.trials === undefined || options.trials === sizes.at(-1));
    if (splits) {
      const split = splitPoints(factors, points);
      return { points: split.points, kind: "factorial", setups: split.setups };
    }
    return { points, kind: "factorial", ...(blocks > 1 ? { blocks: blockOf } : {}) };
  },
});
