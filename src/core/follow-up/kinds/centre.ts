import { centreRuns } from "../../plans/arrange";
import { isCentre } from "../../study/coding";
import { StudyError } from "../../study/error";
import type { Study } from "../../study/schema";
import type { FollowUpKind } from "../kind";
import type { FollowOptions, FollowRuns } from "../options";

const CENTRES = 3;
/** Degrees of freedom for error below which a response asks for centres. */
const FEW_DF = 3;

/**
 * Centre points alone, spread over categories.
 * @throws StudyError `bad-count`
 */
function centreOnly(study: Study, options: FollowOptions): FollowRuns {
  const n = options.trials ?? CENTRES;
  if (!Number.isInteger(n) || n < 1 || n > 200) throw new StudyError("bad-count.centre", { n }, ["trials"]);
  return {
    runs: centreRuns(study, n, 1, true),
    cautions: [
      study.trials.some((t) => isCentre(study, t))
        ? { code: "centre-beside", values: {} }
        : { code: "centre-alone", values: {} },
    ],
  };
}

export const centre: FollowUpKind = {
  id: "centre",
  purpose: "centre points",
  offered({ exact, said }) {
    // A computation has no scatter to measure.
    if (exact) return [];
    const name = { code: "centre", values: {} } as const;
    const noisy = said.find((s) => s.fit.summary.residualDf < FEW_DF);
    return noisy
      ? [
          {
            place: 50,
            options: { kind: "centre", trials: 4 },
            name,
            why: { code: "few-df", values: { response: noisy.name, df: noisy.fit.summary.residualDf } },
          },
        ]
      : [{ place: 160, options: { kind: "centre", trials: CENTRES }, name }];
  },
  make: { runs: centreOnly },
};
