import { activeFactors, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import type { Settings, Study } from "../../study/schema";
import { confoundedBlocks } from "../blocks";
import type { PlanFamily } from "../plan";

const choices = (study: Study): (number | string)[][] => activeFactors(study).map((f) => (isNumeric(f) ? [-1, 1] : f.levels));

const size = (study: Study): number => choices(study).reduce((n, c) => n * c.length, 1);

/** Every combination of low and high, categories at each of their levels; the first factor changes fastest (Yates order). */
export const factorial: PlanFamily = {
  id: "factorial",
  label: "Full factorial",
  unfit(study) {
    const count = activeFactors(study).length;
    if (count < 2 || count > 10) return `A full factorial takes two to ten factors; this study has ${count}.`;
    if (size(study) > 4096) return `A full factorial of these factors takes ${size(study)} trials; use a fraction.`;
    return undefined;
  },
  sizes: (study) => [size(study)],
  build(study, options) {
    const factors = activeFactors(study);
    const levels = choices(study);
    const runs = size(study);
    if (options.trials !== undefined && options.trials !== runs)
      throw new StudyError("bad-count", `A full factorial of these ${factors.length} factors has ${runs} trials, not ${options.trials}.`, ["trials"]);
    const points = Array.from({ length: runs }, (_, i) => {
      const point: Settings = {};
      let rest = i;
      factors.forEach((f, j) => {
        point[f.id] = levels[j][rest % levels[j].length];
        rest = Math.floor(rest / levels[j].length);
      });
      return point;
    });
    const blocks = confoundedBlocks(factors, points, [], options.blocks ?? 1);
    return blocks ? { points, kind: "factorial", blocks } : { points, kind: "factorial" };
  },
};
