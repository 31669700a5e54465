import * as z from "zod";
import { planSteps } from "../../plans/make-plan";
import { StudyError } from "../../study/error";
import type { Term } from "../../study/schema";
import { alphabetOf, inModelOrder, termShape } from "../../terms/term";
import { chainWhy } from "../evidence";
import type { FollowUpKind } from "../kind";
import { setupsWanted } from "../options";

export const augment = {
  id: "augment",
  purpose: "part named terms",
  options: {
    criterion: z.enum(["D", "A", "I"]).optional().describe("what an augmentation is searched by; D unless said"),
  },
  missing: ({ trials }) => (trials === undefined ? { code: "missing.augmentation", values: {} } : undefined),
  offered(evidence) {
    const { study, factors, said, chained } = evidence;
    if (chained.length === 0) return [];
    // The pairs in question, by name: fewest trials that part them.
    const terms = [
      ...factors.map((f): Term => [f.id]),
      ...said.flatMap((s) => s.fit.terms).filter((t) => termShape(t) !== "square"),
      ...chained.flatMap((c) => [c.rung.term, ...c.rung.aliases]).filter((t) => t.length <= 2),
    ];
    return [
      {
        place: 20,
        options: {
          kind: "augment",
          trials: Math.max(4, Math.ceil(chained.length * 2)),
          terms: inModelOrder(alphabetOf(study), terms),
        },
        name: { code: "chains", values: {} },
        why: chainWhy(evidence),
      },
    ];
  },
  make: {
    search(study, options) {
      if (options.trials === undefined) throw new StudyError("missing.augmentation", {}, ["trials"]);
      return planSteps(study, {
        family: "optimal",
        keep: true,
        trials: options.trials,
        terms: options.terms ?? "quadratic",
        seed: options.seed ?? 1,
        ...(options.criterion ? { criterion: options.criterion } : {}),
        ...(options.centre ? { centre: options.centre } : {}),
        ...setupsWanted(options),
        ...(options.standardOrder ? { standardOrder: true } : {}),
      });
    },
  },
} satisfies FollowUpKind;
