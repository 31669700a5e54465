import * as z from "zod";
import { isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Settings } from "../../study/schema";
import { hadamardColumns, SCREEN_SIZES } from "../hadamard";
import { controls } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";

/** Sizes shown in the chart: larger ones tell little more of main effects. */
const MOST_OFFERED = 3;

/**
 * Two-level screening in every multiple of four runs from 12 to 48 (Plackett & Burman 1946), folded over on request.
 */
export const plackettBurman: PlanFamily = defineFamily({
  id: "plackett-burman",
  label: "Plackett–Burman",
  subject: "A Plackett–Burman plan",
  options: {
    foldOver: z
      .boolean()
      .optional()
      .describe("every run also with all signs turned")
      .register(controls, { label: "fold over", control: "switch" }),
  },
  needsTrials: () => true,
  purpose: () => "main",
  words: (o) => [o.foldOver ? "folded over" : undefined],
  offers: (study, { replicates }) =>
    plackettBurman
      .sizes(study)
      .slice(0, MOST_OFFERED)
      .map((trials) => ({ trials, replicates })),

  unfit(study) {
    const factors = activeFactors(study);
    if (factors.length < 3 || factors.length > 47)
      return { code: "factors", values: { family: spokenOf(this), fewest: 3, most: 47, have: factors.length } };
    const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
    if (wide && !isNumeric(wide))
      return { code: "two-levels", values: { family: spokenOf(this), factor: wide.name, levels: wide.levels.length } };
    return undefined;
  },
  // 16 and 32 are regular fractions and stand there.
  sizes: (study) => SCREEN_SIZES.filter((n) => n > activeFactors(study).length && n !== 16 && n !== 32),
  build(study, options) {
    const factors = activeFactors(study);
    const able = SCREEN_SIZES.filter((n) => n > factors.length);
    const asked = options.trials === undefined ? undefined : options.foldOver ? options.trials / 2 : options.trials;
    if (asked === undefined || !(able as readonly number[]).includes(asked))
      throw new StudyError(
        "bad-count.plackett-burman",
        {
          factors: factors.length,
          sizes: able.map((n) => (options.foldOver ? 2 * n : n)),
          folded: options.foldOver === true,
          trials: options.trials ?? null,
        },
        ["trials"],
      );
    const columns = hadamardColumns(asked);
    const signs = options.foldOver ? [...columns, ...columns.map((r) => r.map((v) => -v))] : columns;
    const points = signs.map((row) => {
      const point: Settings = {};
      factors.forEach((f, j) => {
        point[f.id] = isNumeric(f) ? row[j] : f.levels[row[j] > 0 ? 1 : 0];
      });
      return point;
    });
    // The fold-over half is a block of its own when two are asked for.
    const blocks = options.foldOver && options.blocks === 2 ? points.map((_, i) => (i < asked ? 0 : 1)) : undefined;
    return {
      points,
      kind: "screen",
      ...(blocks ? { blocks } : {}),
      ...(options.foldOver ? { recipe: { foldOver: true } } : {}),
    };
  },
});
