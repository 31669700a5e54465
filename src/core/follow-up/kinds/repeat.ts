import { isCorner } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors, isUsable } from "../../study/roles";
import type { Study, Trial } from "../../study/schema";
import { shiftWhy } from "../evidence";
import type { FollowUpKind } from "../kind";
import { countOf, type FollowOptions, type FollowRuns } from "../options";

const MOST_COPIES = 20;

/**
 * The same settings once more: all distinct ones that count, or those of the trials picked.
 * @throws StudyError `unknown-id`, `no-trials`
 */
function repeatRuns(study: Study, options: FollowOptions): FollowRuns {
  const copies = countOf(options.trials, 1, MOST_COPIES, "The number of copies");
  const picked = options.of?.map((id) => {
    const trial = study.trials.find((t) => t.id === id);
    if (!trial) throw new StudyError("unknown-id.trial", { id }, ["of"]);
    return trial;
  });
  const counts = (t: Trial): boolean => isUsable(t) && t.kind !== "confirm" && t.kind !== "path";
  const seen = new Set<string>();
  const source = (picked ?? study.trials.filter(counts)).filter((t) => {
    const key = JSON.stringify(activeFactors(study).map((f) => t.settings[f.id]));
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
  if (source.length === 0) throw new StudyError("no-trials.repeat", {}, ["trials"]);
  return {
    runs: Array.from({ length: copies }, () => source)
      .flat()
      .map((t) => ({ settings: { ...t.settings }, kind: "repeat" as const })),
    recipe: { replicates: copies, ...(options.of ? { of: options.of } : {}) },
  };
}

export const repeat: FollowUpKind = {
  id: "repeat",
  purpose: "repeat",
  offered({ study, numeric, mixed, exact }) {
    const corners = study.trials.filter((t) => t.use && isCorner(study, t)).map((t) => t.id);
    if (mixed && numeric.length > 0 && corners.length >= 2)
      return [
        {
          place: 11,
          options: { kind: "repeat", of: corners.slice(0, 4) },
          name: { code: "corners", values: {} },
          why: shiftWhy(mixed),
        },
      ];
    return exact ? [] : [{ place: 170, options: { kind: "repeat" }, name: { code: "repeat", values: {} } }];
  },
  make: { runs: repeatRuns },
};
