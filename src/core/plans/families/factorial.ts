import { code, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Settings, Study } from "../../study/schema";
import { confoundedBlocks } from "../blocks";
import { evenly, readLevels } from "../levels";
import { sharedOptions } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { setupsBy } from "../split-fraction";
import { contrastsOf, highFactors } from "./fraction";

const MOST = 4096;
/** Up to so many trials a plan is on offer in more copies than two. */
const SMALL = 8;

/**
 * Coded values or level names of each factor: continuous ones at two levels unless asked, listed values and levels
 * all.
 */
function choices(study: Study, levels?: string): (number | string)[][] {
  const factors = activeFactors(study);
  const asked = readLevels(factors, levels);
  return factors.map((f) => {
    if (!isNumeric(f)) return f.levels;
    if (f.kind === "discrete") return f.values.map((v) => code(f, v));
    return evenly(asked.get(f.id) ?? 2);
  });
}

const product = (all: readonly (readonly unknown[])[]): number => all.reduce((n, c) => n * c.length, 1);

/** Every combination of the levels; the first factor changes fastest (Yates order). */
export const factorial: PlanFamily = defineFamily({
  id: "factorial",
  label: "Full factorial",
  subject: "A full factorial",
  carries: { suits: () => true, centre: 0 },
  options: { levels: sharedOptions.levels },
  purpose: () => "main+2fi",
  words: (o) => [o.levels ? `levels ${o.levels}` : undefined],
  // Run several times, a smaller plan competes with larger ones.
  offers: (study, { replicates }) =>
    factorial
      .sizes(study)
      .flatMap((trials) =>
        (trials <= SMALL ? [1, 2, 3, 4] : [1, 2]).map((copies) => ({ trials, replicates: copies * replicates })),
      ),

  unfit(study) {
    const count = activeFactors(study).length;
    if (count < 2 || count > 10)
      return { code: "factors", values: { family: spokenOf(this), fewest: 2, most: 10, have: count } };
    const size = product(choices(study));
    if (size > MOST) return { code: "too-large", values: { family: spokenOf(this), trials: size } };
    return undefined;
  },
  sizes: (study) => [product(choices(study))],
  build(study, options) {
    const factors = activeFactors(study);
    const levels = choices(study, options.levels);
    const runs = product(levels);
    if (runs > MOST) throw new StudyError("too-many-trials.factorial", { runs }, ["levels"]);
    if (options.trials !== undefined && options.trials !== runs)
      throw new StudyError("bad-count.factorial", { factors: factors.length, runs, trials: options.trials }, [
        "trials",
      ]);
    const points = Array.from({ length: runs }, (_, i) => {
      const point: Settings = {};
      let rest = i;
      factors.forEach((f, j) => {
        point[f.id] = levels[j][rest % levels[j].length];
        rest = Math.floor(rest / levels[j].length);
      });
      return point;
    });
    const recipe = options.levels ? { recipe: { levels: options.levels } } : {};
    const blocks = options.blocks ?? 1;
    if (blocks > 1 && levels.some((l) => l.length > 2)) throw new StudyError("bad-blocks.replicates", {}, ["blocks"]);
    const blockOf = confoundedBlocks(factors, points, [], blocks);
    const most = options.setups;
    const apart =
      most !== undefined && most < runs && blocks === 1 && levels.every((l) => l.length === 2)
        ? contrastsOf(factors, [], options)
        : undefined;
    return {
      points,
      kind: "factorial",
      ...(blockOf ? { blocks: blockOf } : {}),
      ...(apart ? { setups: setupsBy(apart, highFactors(factors, points)) } : {}),
      ...recipe,
    };
  },
});
