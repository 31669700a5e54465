import type { RemarkValues } from "../messages/remarks";
import type { Said } from "../messages/said";
import { type Random, seededRandom } from "../numerics/random";
import { type Layout, layOut } from "../plans/arrange";
import { planSteps } from "../plans/make-plan";
import { MOST_PLANNED } from "../plans/options";
import type { FollowKind, Plan, PlanProgress, Run } from "../plans/plan";
import { intoSetups } from "../plans/setups";
import { activeFactors, isNumeric, rangeOf } from "../study/coding";
import { StudyError } from "../study/error";
import { regionOf, violations } from "../study/region";
import { ASSUMED_RATIO, type Recipe, type Study } from "../study/schema";
import { hardFactors } from "../study/setups";
import { termSet } from "../terms/candidates";
import { carryRuns } from "./carry";
import { axialRuns, centreOnly } from "./curvature";
import { foldOver, missingFraction } from "./fold-over";
import { type FollowOptions, type FollowRuns, namedFactors } from "./options";
import { confirmRuns, pathRuns, repeatRuns } from "./repeats";

export interface FollowUp {
  plan: Plan;
  purpose: string;
  cautions: Said<RemarkValues>[];
}

const PURPOSES: Record<FollowKind, string> = {
  foldover: "fold over",
  "missing-fraction": "run the missing fraction",
  axial: "look for bends",
  augment: "part named terms",
  centre: "centre points",
  repeat: "repeat",
  carry: "characterise the active factors",
  ascent: "climb",
  confirm: "confirm",
};

/**
 * The runs of a kind of following wave.
 * @throws StudyError as the kind says
 */
function runsOf(study: Study, options: FollowOptions): FollowRuns {
  switch (options.kind) {
    case "foldover":
      return foldOver(study, options);
    case "missing-fraction":
      return missingFraction(study, options);
    case "axial":
      return axialRuns(study, options);
    case "centre":
      return centreOnly(study, options);
    case "repeat":
      return repeatRuns(study, options);
    case "carry":
      return carryRuns(study, options);
    case "ascent":
      return pathRuns(study, options);
    case "confirm":
      return confirmRuns(study, options);
    case "augment":
      throw new StudyError("unreachable", {}, ["kind"]);
  }
}

/** Plans a next wave in one go. */
export function followUp(study: Study, options: FollowOptions): FollowUp {
  const steps = followUpSteps(study, options);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/**
 * Plans the wave that follows the trials of a study: a wave of its own, a block in the model, the ledger kept. An
 * augmentation is searched for and tells how far it is; sent `true` it ends with the best so far.
 * @throws StudyError when the study's trials do not allow it, with the way out
 */
export function* followUpSteps(
  study: Study,
  options: FollowOptions,
): Generator<PlanProgress, FollowUp, boolean | undefined> {
  const earlier = study.trials.filter((t) => t.state !== "skipped" && t.state !== "failed");
  if (earlier.length === 0 && options.kind !== "confirm") throw new StudyError("no-trials.follow", {}, ["trials"]);
  const seed = options.seed ?? 1;
  for (const name of ["trials", "centre"] as const) {
    const value = options[name] ?? 0;
    if (value > MOST_PLANNED) throw new StudyError("bad-count.most", { name, value, most: MOST_PLANNED }, [name]);
  }
  if (options.kind === "augment") {
    if (options.trials === undefined) throw new StudyError("missing.augmentation", {}, ["trials"]);
    const plan = yield* planSteps(study, {
      family: "optimal",
      keep: true,
      trials: options.trials,
      terms: options.terms ?? "quadratic",
      seed,
      ...(options.criterion ? { criterion: options.criterion } : {}),
      ...(options.centre ? { centre: options.centre } : {}),
      ...wantedOf(options),
      ...(options.standardOrder ? { standardOrder: true } : {}),
    });
    return { plan, purpose: PURPOSES.augment, cautions: [] };
  }
  const { runs, recipe: more, cautions: raised = [], inOrder } = runsOf(study, options);
  const confirmed = runs.find((r) => r.kind === "confirm");
  const outside = confirmed ? violations(study, confirmed.settings) : [];
  const cautions: FollowUp["cautions"] = [
    ...raised,
    ...outside.map((why) => ({ code: "place-outside", values: { why } }) as const),
  ];
  const region = regionOf(study);
  const open = runs.filter((r) => r.kind === "confirm" || region.allowed(r.settings));
  if (open.length === 0) throw new StudyError("empty-region.wave", {}, ["region"]);
  const recipe: Recipe = {
    family: options.kind,
    trials: runs.length,
    seed,
    ...(options.factors?.length ? { factors: namedFactors(study, options.factors).map((f) => f.id) } : {}),
    ...(options.half ? { half: true } : {}),
    ...(options.at ? { at: options.at } : {}),
    ...more,
    ranges: Object.fromEntries(
      activeFactors(study)
        .filter(isNumeric)
        .map((f) => [f.id, rangeOf(f)]),
    ),
  };
  const random = seededRandom(seed);
  const laid: Layout = {
    runs: inSetups(
      study,
      open.map((r) => ({ ...r, block: 0 })),
      options,
      random,
    ),
    recipe: { ...recipe, ...wantedOf(options) },
    seed,
    excluded: runs.length - open.length,
    ...(options.standardOrder || inOrder ? { standardOrder: true } : {}),
  };
  return { plan: layOut(study, laid, random), purpose: PURPOSES[options.kind], cautions };
}

/** What is asked of set-ups, as it stands in options and recipes. */
const wantedOf = ({ setups, setupSize, eta }: FollowOptions): Pick<Recipe, "setups" | "setupSize" | "eta"> => ({
  ...(setups === undefined ? {} : { setups }),
  ...(setupSize === undefined ? {} : { setupSize }),
  ...(eta === undefined ? {} : { eta }),
});

/**
 * Runs in as many set-ups of the hard factors as are asked for; where none are, each setting of them is set once, and
 * every confirmation anew.
 * @throws StudyError `no-hard-factor`, `too-few-setups`
 */
function inSetups(study: Study, runs: readonly Run[], options: FollowOptions, random: Random): readonly Run[] {
  const { setups, setupSize = Number.POSITIVE_INFINITY, eta = ASSUMED_RATIO } = options;
  if (setups === undefined && options.setupSize === undefined) return runs;
  if (hardFactors(study).length === 0) throw new StudyError("no-hard-factor", {}, ["setups"]);
  const wanted = { most: setups ?? 1, open: setups === undefined, size: setupSize, eta, terms: termSet(study, "main") };
  return wanted.most >= runs.length
    ? runs.map((r, i) => ({ ...r, setup: i }))
    : intoSetups(study, runs, wanted, random);
}
