import { responseOf, storedModel } from "../../model/data";
import { leavesRanges } from "../../study/beyond";
import { settingsAsRun } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Study } from "../../study/schema";
import { pathStart, steepestAscent } from "../../surface/ascent";
import { storedPredictor } from "../../surface/average";
import type { Climbing, FollowUpKind, PlacedOffer } from "../kind";
import { countOf, type FollowOptions, type FollowRuns } from "../options";

/**
 * The points of a path, one after another.
 * @throws StudyError `no-path`
 */
function pathRuns(study: Study, options: FollowOptions): FollowRuns {
  const path = options.path ?? [];
  const covered = new Set(
    study.trials.map((t) => JSON.stringify(activeFactors(study).map((f) => settingsAsRun(t)[f.id]))),
  );
  const fresh = path.filter((s) => !covered.has(JSON.stringify(activeFactors(study).map((f) => s[f.id]))));
  const n = countOf(options.trials, Math.max(1, Math.min(5, fresh.length)), 50, "The number of steps");
  if (fresh.length === 0) throw new StudyError("no-path", {}, ["kind"]);
  return {
    runs: fresh.slice(0, n).map((settings) => ({ settings: { ...settings }, kind: "path" as const })),
    recipe: {
      ...(options.response ? { response: options.response } : {}),
      ...(options.step === undefined ? {} : { step: options.step }),
    },
    cautions: [{ code: "in-turn", values: {} }],
    inOrder: true,
  };
}

/**
 * The path of steepest ascent of the response named, else of the first with a goal.
 * @throws StudyError `no-model` where a path has no model to climb; `beyond-ranges` where it leads out of the ranges at
 * once
 */
function climbed(study: Study, options: FollowOptions): FollowOptions {
  if (options.path) return options;
  const response =
    options.response ??
    study.responses.find((r) => r.goal.aim !== "watch" && storedModel(study, r.id))?.id ??
    study.models[0]?.response;
  if (response === undefined) throw new StudyError("no-model.path", {}, ["models"]);
  const read = storedPredictor(study, responseOf(study, response));
  const { step } = options;
  const start = pathStart(study, options.at);
  const { points, beyond } = steepestAscent(study, read, start, step === undefined ? {} : { step });
  if (beyond.length > 0 && points.every((p) => p.inside)) throw leavesRanges(study, beyond);
  return { ...options, response, path: points.slice(1).map((p) => p.settings) };
}

const offerOf = ({ response, open }: Climbing): Omit<PlacedOffer, "place"> => ({
  options: { kind: "ascent", response: response.id, trials: 4 },
  name: { code: "climb", values: { response: response.name } },
  ...(open.length > 0 ? { open } : {}),
});

export const ascent: FollowUpKind = {
  id: "ascent",
  purpose: "climb",
  ownSetups: true,
  complete: climbed,
  offered({ climbs }) {
    const uphill = climbs.find((c) => c.short);
    if (uphill)
      return [{ ...offerOf(uphill), place: 40, why: { code: "uphill", values: { response: uphill.response.name } } }];
    return climbs.slice(0, 1).map((c) => ({ ...offerOf(c), place: 140 }));
  },
  make: { runs: pathRuns },
};
