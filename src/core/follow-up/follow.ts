import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { type Random, seededRandom } from "../numerics/random";
import { type Layout, layOut } from "../plans/arrange";
import { MOST_PLANNED } from "../plans/options";
import type { Plan, PlanProgress, Run } from "../plans/plan";
import { intoSetups } from "../plans/setups";
import { isNumeric, rangeOf } from "../study/coding";
import { StudyError } from "../study/error";
import { regionOf, violations } from "../study/region";
import { activeFactors, hardFactors, isStanding } from "../study/roles";
import { ASSUMED_RATIO, type Recipe, type Study } from "../study/schema";
import { termSet } from "../terms/candidates";
import type { FollowUpKind } from "./kind";
import { followUps } from "./kinds";
import { type FollowOptions, namedFactors, setupsWanted } from "./options";

export interface FollowUp {
  plan: Plan;
  purpose: string;
  cautions: Message<RemarkValues>[];
}

/** The kind of an id. Doors let in those that there are. */
export function followUpNamed(id: string): FollowUpKind {
  const found = followUps.find((k) => k.id === id);
  if (!found) throw new StudyError("unreachable", {}, ["kind"]);
  return found;
}

const isFollowUp = (family: string): boolean => followUps.some((k) => k.id === family);

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
  const kind = followUpNamed(options.kind);
  if (!kind.alone && !study.trials.some(isStanding)) throw new StudyError("no-trials.follow", {}, ["trials"]);
  const seed = options.seed ?? 1;
  for (const name of ["trials", "centre"] as const) {
    const value = options[name] ?? 0;
    if (value > MOST_PLANNED) throw new StudyError("bad-count.most", { name, value, most: MOST_PLANNED }, [name]);
  }
  const { purpose, make } = kind;
  if ("search" in make) return { plan: yield* make.search(study, { ...options, seed }), purpose, cautions: [] };
  const { runs, recipe: more, cautions: raised = [], inOrder } = make.runs(study, options, isFollowUp);
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
    recipe: { ...recipe, ...setupsWanted(options) },
    seed,
    excluded: runs.length - open.length,
    ...(options.standardOrder || inOrder ? { standardOrder: true } : {}),
  };
  return { plan: layOut(study, laid, random), purpose, cautions };
}

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
