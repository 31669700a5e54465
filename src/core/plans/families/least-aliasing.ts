import * as z from "zod";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Study, Term } from "../../study/schema";
import { possibleTerms, termSet } from "../../terms/candidates";
import { encoder } from "../../terms/model-matrix";
import { termKey } from "../../terms/term";
import { controls, type PlanOptions, sharedOptions } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { compileColumns } from "../search/columns";
import { type AliasQuestion, searchLeastAliasing } from "../search/least-aliasing";
import { searchPlan } from "../search/optimal";
import { defaultStarts, searchQuestion, termsAsked } from "../search/question";
import { optimal } from "./optimal";

const KEEP = 0.9;
const MOST_POSSIBLE = 500;

/**
 * Terms that may be there though the model leaves them out: those asked, else all two-factor interactions besides.
 * @throws StudyError `no-possible`, `too-many-terms`
 */
function possibleOf(study: Study, terms: readonly Term[], options: PlanOptions): Term[] {
  const keys = new Set(terms.map(termKey));
  const asked =
    options.possible === undefined ? possibleTerms(study, terms) : termsAsked(study, options.possible, "main+2fi");
  const possible = asked.filter((t) => !keys.has(termKey(t)));
  if (possible.length === 0) throw new StudyError("no-possible", {}, ["possible"]);
  if (possible.length > MOST_POSSIBLE)
    throw new StudyError("too-many-terms.possible", { terms: possible.length, most: MOST_POSSIBLE }, ["possible"]);
  return possible;
}

/**
 * Plans with the least trace(A′A) of the possible terms whose D-efficiency stays within a stated share of the best
 * (Jones & Nachtsheim 2011).
 */
export const leastAliasing: PlanFamily = defineFamily({
  id: "least-aliasing",
  label: "Least aliasing",
  subject: "A least-aliasing plan",
  options: {
    keepEfficiency: z
      .number()
      .optional()
      .describe("share of the best D-efficiency to keep, 0.9 unless said")
      .register(controls, { label: "D-efficiency kept, %", control: "percent", hint: "90" }),
    starts: sharedOptions.starts,
    keep: sharedOptions.keep,
  },
  uses: ["terms", "possible"],
  needsTrials: () => true,
  purpose: ({ terms }) => terms ?? "main",
  words: (o) => [
    o.keepEfficiency === undefined ? undefined : `keeps ${Math.round(100 * o.keepEfficiency)} %`,
    o.possible === undefined
      ? undefined
      : `clear of ${typeof o.possible === "string" ? (o.possible === "quadratic" ? "interactions and bends" : "interactions") : `${o.possible.length} terms`}`,
    o.keep ? "with the runs made" : undefined,
  ],
  offers(study, { terms, budget, replicates, centre, blocks }) {
    if (terms !== "main") return [];
    const columns = encoder(study, termSet(study, terms)).columns.length + blocks - 1;
    const room = Math.floor((budget - centre) / replicates);
    // Twice as many trials as factors let the second half mirror the first, which clears main effects of interactions.
    const small = 2 * Math.ceil((columns + 4) / 2);
    const mirrored = Math.max(small, 2 * activeFactors(study).length);
    const trials = mirrored <= room ? mirrored : small;
    return trials <= room ? [{ trials, replicates, terms }] : [];
  },

  keepsRegion: true,
  searches: true,
  trades: true,
  unfit(study) {
    const count = activeFactors(study).length;
    if (count < 2 || count > 20)
      return { code: "factors", values: { family: spokenOf(this), fewest: 2, most: 20, have: count } };
    return undefined;
  },
  sizes: (study) => optimal.sizes(study).filter((n) => n % 2 === 0),
  *build(study, options, random) {
    const keep = options.keepEfficiency ?? KEEP;
    if (!(keep > 0 && keep <= 1)) throw new StudyError("bad-keep", { keep }, ["keepEfficiency"]);
    const { problem, terms, points } = searchQuestion(study, { ...options, criterion: "D" }, random);
    const possible = compileColumns(problem.space.factors, possibleOf(study, terms, options), 1);
    const seed = options.seed ?? 1;
    const sharpStarts = defaultStarts(problem);
    const search = searchPlan(problem, sharpStarts, seed);
    let sharp = search.next();
    let stopped = false;
    while (!sharp.done) {
      const stop = yield {
        done: 0.3 * sharp.value.done,
        text: `the sharpest plan first: try ${sharp.value.tries + 1} of ${sharpStarts}`,
      };
      stopped = stopped || stop === true;
      sharp = search.next(stop);
    }
    if (!sharp.value) throw new StudyError("cannot-estimate", {}, ["terms"]);
    const question: AliasQuestion = {
      problem,
      possible,
      floor: sharp.value.score + problem.columns.count * Math.log(keep),
    };
    const unit = problem.runs * problem.space.factors.length * problem.columns.count * possible.count;
    const starts = options.starts ?? Math.max(4, Math.min(40, Math.round(4e5 / unit)));
    const steps = searchLeastAliasing(question, stopped ? 0 : starts, seed, [sharp.value.rows]);
    let step = steps.next();
    while (!step.done) {
      const stop = yield {
        done: 0.3 + 0.7 * step.value.done,
        text: `try ${step.value.tries + 1} of ${starts + 1}`,
        ...(step.value.best === undefined ? {} : { best: { measure: "alias trace", value: step.value.best } }),
      };
      step = steps.next(stop);
    }
    const rows = step.value?.rows ?? sharp.value.rows;
    const first = Math.min(...problem.blocks);
    return {
      points: points(rows),
      kind: "optimal",
      ...((options.blocks ?? 1) > 1 ? { blocks: Array.from(problem.blocks, (b) => b - first) } : {}),
      recipe: {
        terms: typeof options.terms === "object" ? terms : (options.terms ?? "main"),
        ...(options.possible === undefined ? {} : { possible: options.possible }),
        keepEfficiency: keep,
        starts,
        ...(options.keep ? { keep: true } : {}),
      },
    };
  },
});
