import type { Study, Term, Wave } from "../study/schema";
import { askedAtAdoption } from "./asked";
import type { Plan } from "./plan";

/**
 * The study with the plan's waves and trials added to its ledger.
 * @param wanted terms that it is adopted to tell, beside what plans of its kind are for
 */
export function adoptPlan(
  study: Study,
  plan: Pick<Plan, "waves" | "trials">,
  purpose = "screen",
  wanted: readonly Term[] = [],
): Study {
  const waves = plan.waves.map((w): Wave => {
    const asked = askedAtAdoption(study, w.recipe, wanted);
    return { id: w.id, name: w.name, purpose, plan: asked ? { ...w.recipe, asked } : w.recipe };
  });
  return {
    ...study,
    waves: [...study.waves, ...waves],
    trials: [
      ...study.trials,
      ...plan.trials.map((t) => ({
        id: t.id,
        wave: t.wave,
        standard: t.standard,
        order: t.order,
        kind: t.kind,
        state: "planned" as const,
        note: "",
        // A confirmation is compared with the model first; whether it joins it is the person's to say.
        use: t.kind !== "confirm",
        ...(t.kind === "confirm" ? { why: "confirmation" } : {}),
        ...(t.setup === undefined ? {} : { setup: t.setup }),
        settings: t.settings,
        results: {},
      })),
    ],
  };
}
