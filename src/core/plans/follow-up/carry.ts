import { activeFactors, centreSettings, isNumeric, sameSetting } from "../../study/coding";
import { StudyError } from "../../study/error";
import type { Settings, Study } from "../../study/schema";
import { hasMiddle } from "../combinations";
import { makePlan } from "../make-plan";
import { type FollowOptions, type FollowRuns, namedFactors } from "./options";

/**
 * A second-order plan of the active factors (a full factorial where there is no middle to run), idle ones held; what
 * trials already run at its points have told is not run again, whatever the idle factors stood at then.
 * @throws StudyError `missing`
 */
export function carryRuns(study: Study, options: FollowOptions): FollowRuns {
  const carried = namedFactors(study, options.factors);
  if (carried.length === 0)
    throw new StudyError("missing", "Name the active factors to carry on, such as --factors A,B,D.", ["factors"]);
  const held: Settings = { ...centreSettings(study.factors), ...options.at };
  const idle = activeFactors(study).filter((f) => !carried.includes(f));
  const few: Study = {
    ...study,
    factors: study.factors.map((f) => (idle.includes(f) ? { ...f, retired: held[f.id] } : f)),
    trials: [],
    waves: [],
  };
  const numeric = carried.filter(isNumeric);
  const family = numeric.length >= 2 && numeric.length <= 8 && numeric.every(hasMiddle) ? "composite" : "factorial";
  const plan = makePlan(few, {
    family,
    seed: options.seed ?? 1,
    standardOrder: true,
    centre: options.centre ?? (family === "composite" ? 3 : 0),
    ...(family === "composite" && options.axial !== undefined ? { axial: options.axial } : {}),
  });
  // Each trial already run serves one point of the new plan.
  const free = study.trials.filter((t) => t.use && t.state === "done");
  const runs: FollowRuns["runs"] = [];
  let reused = 0;
  for (const t of plan.trials) {
    const match = free.findIndex((trial) =>
      carried.every((f) => sameSetting(f, trial.settings[f.id], t.settings[f.id])),
    );
    if (match >= 0 && t.kind !== "centre") {
      free.splice(match, 1);
      reused++;
    } else runs.push({ settings: t.settings, kind: t.kind });
  }
  return {
    runs,
    recipe: { at: Object.fromEntries(idle.map((f) => [f.id, held[f.id]])), factors: carried.map((f) => f.id) },
    cautions:
      reused > 0
        ? [
            `${reused} of the ${plan.trials.length} points are trials already run; they count because ${idle.length > 0 ? "the factors held now were idle then" : "their settings match"}.`,
          ]
        : [],
  };
}
