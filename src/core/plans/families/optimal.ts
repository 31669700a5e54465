import * as z from "zod";
import { StudyError } from "../../study/error";
import { activeFactors, hardFactors } from "../../study/roles";
import type { Study, Term } from "../../study/schema";
import { termSet } from "../../terms/candidates";
import { encoder } from "../../terms/model-matrix";
import { controls, sharedOptions } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { searchPlan } from "../search/optimal";
import { defaultStarts, measured, searchQuestion } from "../search/question";
import { searchSplitPlan } from "../search/split";
import { betweenColumns } from "../setups";

/**
 * Plans built for a model: any terms, any number of runs, any region, by coordinate exchange (Meyer & Nachtsheim 1995)
 * for D, A or I.
 */
export const optimal: PlanFamily = defineFamily({
  id: "optimal",
  label: "Built for the model",
  subject: "A plan built for a model",
  options: {
    criterion: z
      .enum(["D", "A", "I"])
      .optional()
      .describe("what is made small: D the terms' joint error, A their mean, I the prediction's over the region")
      .register(controls, {
        label: "sharpest by",
        control: "choice",
        choices: [
          ["D", "D: terms jointly"],
          ["A", "A: terms on average"],
          ["I", "I: prediction over the region"],
        ],
      }),
    starts: sharedOptions.starts,
    keep: sharedOptions.keep,
  },
  uses: ["terms"],
  needsTrials: () => true,
  purpose: ({ terms }) => terms ?? "main",
  words: (o) => [
    o.criterion && o.criterion !== "D" ? o.criterion : undefined,
    o.keep ? "with the runs made" : undefined,
  ],
  offers(study, { terms, budget, replicates, centre, blocks, setups }) {
    const asked = typeof terms === "string" ? termSet(study, terms) : terms;
    const columns = encoder(study, asked).columns.length + blocks - 1;
    const room = Math.floor((budget - centre) / replicates);
    const sizes = [...new Set([columns + 2, Math.round(1.35 * columns) + 2, 2 * columns])].filter(
      (n) => n <= room && n >= 4,
    );
    if (sizes.length === 0 && room >= columns) sizes.push(room);
    const offered = sizes.map((trials) => ({ trials, replicates, terms }));
    const fewest = fewestInSetups(study, asked, columns);
    const most = setups ?? Number.POSITIVE_INFINITY;
    return fewest && blocks === 1 && replicates === 1 && fewest.trials <= room && fewest.setups <= most
      ? [...offered, { ...fewest, replicates, terms }]
      : offered;
  },

  keepsRegion: true,
  searches: true,
  unfit(study) {
    const count = activeFactors(study).length;
    if (count < 1 || count > 30)
      return { code: "factors", values: { family: spokenOf(this), fewest: 1, most: 30, have: count } };
    return undefined;
  },
  sizes(study) {
    const p = 1 + termSet(study, "main").reduce((t, [id]) => t + Math.max(1, levelsOf(study, id) - 1), 0);
    return [p, p + 2, p + 4, 2 * p];
  },
  *build(study, options, random) {
    const { problem, split, terms, points } = searchQuestion(study, options, random);
    const starts = options.starts ?? defaultStarts(problem, split);
    const search = split
      ? searchSplitPlan(problem, split, starts, options.seed ?? 1)
      : searchPlan(problem, starts, options.seed ?? 1);
    let step = search.next();
    while (!step.done) {
      const { done, tries, hits, best } = step.value;
      const stop = yield {
        done,
        text: `try ${tries + 1} of ${starts}${best ? `, the best met ${hits} ${hits === 1 ? "time" : "times"}` : ""}`,
        ...(best ? { best: measured(problem, best.score) } : {}),
      };
      step = search.next(stop);
    }
    if (!step.value) throw new StudyError("cannot-estimate", {}, ["terms"]);
    const blockOf = problem.blocks;
    const first = blockOf.length > 0 ? Math.min(...blockOf) : 0;
    return {
      points: points(step.value.rows),
      kind: "optimal",
      ...(split ? { setups: setupsOf(split.members, problem.runs) } : {}),
      ...((options.blocks ?? 1) > 1 ? { blocks: Array.from(blockOf, (b) => b - first) } : {}),
      recipe: {
        terms: typeof options.terms === "object" ? terms : (options.terms ?? "main"),
        criterion: problem.criterion,
        starts: step.value.tries,
        ...(options.keep ? { keep: true } : {}),
      },
    };
  },
});

/** Degrees of freedom that the fewest trials leave between set-ups, and within them. */
const LEFT = 2;

/** The fewest set-ups and trials that tell a model and how both vary; none without hard factors. */
function fewestInSetups(study: Study, terms: readonly Term[], columns: number) {
  if (hardFactors(study).length === 0) return undefined;
  return { setups: betweenColumns(study, terms) + LEFT, trials: columns + 2 * LEFT };
}

/** Set-up of each run. */
const setupsOf = (members: readonly (readonly number[])[], runs: number): number[] => {
  const out = new Array<number>(runs).fill(0);
  members.forEach((own, s) => {
    for (const i of own) out[i] = s;
  });
  return out;
};

const levelsOf = (study: Parameters<PlanFamily["sizes"]>[0], id: string): number => {
  const f = study.factors.find((x) => x.id === id);
  return f?.kind === "categorical" ? f.levels.length : 2;
};
