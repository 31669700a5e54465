import { correlations } from "../appraisal/aliasing";
import { StudyError } from "../study/error";
import { isStanding } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { followUp } from "./follow";
import type { FollowOptions } from "./options";

/** A following wave by its options, and what it is called in a sentence. */
export interface PartingWave {
  options: FollowOptions;
  name: "fold-over" | "one-factor" | "half" | "missing-fraction" | "augment";
  /** The factor that is turned. */
  factor?: string;
}

/**
 * Whether trials with a following wave can tell these terms from one another: the wave itself decides, with what it
 * would run.
 */
export function parts(study: Study, options: FollowOptions, terms: readonly Term[]): boolean {
  try {
    const { plan } = followUp(study, options);
    const earlier = study.trials.filter(isStanding);
    const points = {
      settings: [...earlier, ...plan.trials].map((t) => t.settings),
      waves: [...earlier, ...plan.trials].map((t) => t.wave),
    };
    const { values } = correlations(study, points, terms);
    return terms.every((_, i) => terms.every((__, j) => i === j || values[i][j] < 1 - 1e-9));
  } catch (error) {
    // A wave that these trials do not allow parts nothing.
    if (error instanceof StudyError) return false;
    throw error;
  }
}

/** The waves that would part some terms, the usual ones asked in turn; trials built for them where none would. */
export function partingWaves(study: Study, terms: readonly Term[]): PartingWave[] {
  const factors = [...new Set(terms.flat())];
  const asked: PartingWave[] = [
    { name: "fold-over", options: { kind: "foldover" } },
    ...factors.map(
      (factor): PartingWave => ({ name: "one-factor", factor, options: { kind: "foldover", factors: [factor] } }),
    ),
    { name: "half", options: { kind: "foldover", half: true } },
    { name: "missing-fraction", options: { kind: "missing-fraction" } },
  ];
  let turned = false;
  const found = asked.filter((w) => {
    // One factor is enough to name where several would do.
    if (w.name === "one-factor" && turned) return false;
    const does = parts(study, w.options, terms);
    if (w.name === "one-factor") turned = does;
    return does;
  });
  return found.length > 0
    ? found
    : [{ name: "augment", options: { kind: "augment", trials: Math.max(4, terms.length), terms: [...terms] } }];
}
