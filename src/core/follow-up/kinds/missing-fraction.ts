import { regularOf } from "../../appraisal/aliasing";
import { missingFractions } from "../../appraisal/defining-words";
import { makePlan } from "../../plans/make-plan";
import { StudyError } from "../../study/error";
import type { Study } from "../../study/schema";
import { cornersOf } from "../corners";
import { chainWhy, membersOf } from "../evidence";
import type { FollowUpKind, IsFollowUp } from "../kind";
import type { FollowOptions, FollowRuns } from "../options";

const MOST_MISSING = 63;

/** Where the family is too large to list: the fractions that differ in the sign of one generator, and of all. */
function oneTurned(generators: string): string[] {
  const parts = generators.split(/[,;]/).map((g) => g.trim());
  const turn = (g: string): string => (/=\s*[-−]/.test(g) ? g.replace(/=\s*[-−]/, "=") : g.replace("=", "=-"));
  return [parts.map(turn).join(","), ...parts.map((_, i) => parts.map((g, j) => (i === j ? turn(g) : g)).join(","))];
}

/**
 * The fraction of the same family, not yet run, that makes most of the whole: highest resolution, fewest short words.
 * @throws StudyError `not-a-fraction`, `all-run`
 */
function missingFractionRuns(study: Study, options: FollowOptions, isFollowUp: IsFollowUp): FollowRuns {
  const { wave, trials } = cornersOf(study, isFollowUp);
  const { generators } = wave.plan;
  if (!generators) throw new StudyError("not-a-fraction", { wave: wave.name }, ["waves"]);
  const run = new Set(study.waves.flatMap((w) => (w.plan.generators ? [w.plan.generators.replaceAll(" ", "")] : [])));
  const family = missingFractions(generators);
  const left = (family.length > 0 ? family : oneTurned(generators)).filter((g) => !run.has(g)).slice(0, MOST_MISSING);
  if (left.length === 0) throw new StudyError("all-run", {}, ["waves"]);
  const base = trials.map((t) => t.settings);
  const offers = left.map((g) => {
    const plan = makePlan(
      { ...study, trials: [], waves: [] },
      { family: "fraction", generators: g, standardOrder: true, seed: options.seed ?? 1 },
    );
    const settings = plan.trials.map((t) => t.settings);
    const regular = regularOf(study, { settings: [...base, ...settings], waves: [...base, ...settings].map(() => "") });
    return {
      g,
      settings,
      resolution: regular ? (regular.resolution ?? 99) : 0,
      words: regular?.wordLengthPattern ?? [],
    };
  });
  const best = offers.reduce((a, b) =>
    b.resolution > a.resolution || (b.resolution === a.resolution && fewer(b.words, a.words)) ? b : a,
  );
  const before = regularOf(study, { settings: base, waves: base.map(() => "") });
  const parted = before?.definingRelation ?? [];
  return {
    runs: best.settings.map((settings) => ({ settings, kind: "factorial" as const })),
    recipe: { generators: best.g },
    cautions: parted.length > 0 ? [{ code: "fraction-block", values: {} }] : [],
  };
}

/** Whether one word-length pattern has fewer short words than another. */
function fewer(a: readonly number[], b: readonly number[]): boolean {
  for (let i = 0; i < Math.max(a.length, b.length); i++)
    if ((a[i] ?? 0) !== (b[i] ?? 0)) return (a[i] ?? 0) < (b[i] ?? 0);
  return false;
}

export const missingFraction: FollowUpKind = {
  id: "missing-fraction",
  purpose: "run the missing fraction",
  offered(evidence) {
    const { study, parts } = evidence;
    const [chain] = evidence.chained;
    const offer = { options: { kind: "missing-fraction" }, name: { code: "missing-fraction", values: {} } } as const;
    return [
      // Only what would part the chain is offered for it.
      ...(chain && parts(offer.options, membersOf(chain)) ? [{ ...offer, place: 22, why: chainWhy(evidence) }] : []),
      ...(study.waves.some((w) => w.plan.generators) ? [{ ...offer, place: 120, also: true as const }] : []),
    ];
  },
  make: { runs: missingFractionRuns },
};
