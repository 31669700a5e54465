import * as z from "zod";
import type { Message } from "../../messages/message";
import type { RemarkValues } from "../../messages/remarks";
import { fitModel } from "../../model/fit";
import { effectLadder } from "../../model/ladder";
import { presentFit } from "../../model/offer";
import { families } from "../../plans/families";
import { makePlan } from "../../plans/make-plan";
import type { PlanFamily } from "../../plans/plan";
import { centreSettings, code, isNumeric, sameSetting } from "../../study/coding";
import { StudyError } from "../../study/error";
import { heldSettings, isActive } from "../../study/roles";
import type { Factor, Settings, Study } from "../../study/schema";
import type { FollowUpKind } from "../kind";
import { type FollowOptions, type FollowRuns, namedFactors } from "../options";

/** Centre points that a family carries factors on with. */
const centreOf = ({ carries }: PlanFamily): number => carries?.centre ?? 0;

/**
 * A second-order plan of the active factors (a full factorial where there is no middle to run), idle ones held; what
 * trials already run at its points have told is not run again, whatever the idle factors stood at then.
 * @throws StudyError `missing`; `nothing-new` where trials already run serve all of its points
 */
function carryRuns(study: Study, options: FollowOptions): FollowRuns {
  const carried = namedFactors(study, options.factors);
  if (carried.length === 0) throw new StudyError("missing.carried", {}, ["factors"]);
  const held: Settings = { ...centreSettings(study.factors), ...options.at, ...heldSettings(study) };
  // Those retired stood elsewhere in trials that serve again, too.
  const idle = study.factors.filter((f) => !carried.includes(f));
  const few: Study = {
    ...study,
    factors: study.factors.map((f) => (idle.includes(f) ? { ...f, retired: held[f.id] } : f)),
    trials: [],
    waves: [],
  };
  // What shows bends comes before what does not.
  const suiting = families.filter((f) => f.carries?.suits(carried)).sort((a, b) => centreOf(b) - centreOf(a));
  const asked = options.family ?? suiting[0].id;
  const family = families.find((f) => f.id === asked);
  const plan = makePlan(few, {
    family: asked,
    seed: options.seed ?? 1,
    standardOrder: true,
    ...(options.trials === undefined ? {} : { trials: options.trials }),
    centre: options.centre ?? (family ? centreOf(family) : 0),
    ...(family && "axial" in family.options && options.axial !== undefined ? { axial: options.axial } : {}),
  });
  // Each trial already run serves one point of the new plan.
  const free = study.trials.filter((t) => t.use && t.state === "done");
  const runs: FollowRuns["runs"] = [];
  const served: Settings[] = [];
  for (const t of plan.trials) {
    const match = free.findIndex((trial) =>
      carried.every((f) => sameSetting(f, trial.settings[f.id], t.settings[f.id])),
    );
    if (match >= 0 && t.kind !== "centre") {
      served.push(free.splice(match, 1)[0].settings);
    } else runs.push({ settings: t.settings, kind: t.kind });
  }
  if (runs.length === 0)
    throw new StudyError("nothing-new.carry", { factors: carried.map((f) => f.name), served: served.length }, [
      "factors",
    ]);
  return {
    runs,
    recipe: { at: Object.fromEntries(idle.map((f) => [f.id, held[f.id]])), factors: carried.map((f) => f.id) },
    cautions: reuseCautions(study, plan.trials.length, served, idle, held),
  };
}

/** What must be said of trials that serve again: that they do, and what idle factors that stood elsewhere may add. */
function reuseCautions(
  study: Study,
  points: number,
  served: readonly Settings[],
  idle: readonly Factor[],
  held: Settings,
): Message<RemarkValues>[] {
  if (served.length === 0) return [];
  const elsewhere = idle.filter((f) => served.some((s) => !sameSetting(f, s[f.id], held[f.id])));
  const biases = study.responses.flatMap((r) => {
    const bias = idleBias(study, r.id, elsewhere, served, held);
    return bias === undefined || elsewhere.length === 0 ? [] : [{ response: r.name, size: bias, unit: r.unit }];
  });
  return [
    {
      code: "reused",
      values: {
        served: served.length,
        points,
        elsewhere: elsewhere.map((f) => f.name),
        retired: elsewhere.filter((f) => !isActive(f)).map((f) => f.name),
        biases: biases.slice(0, 3),
      },
    },
  ];
}

/** How far idle factors that stood elsewhere may move a response: the far ends of the intervals of their effects. */
function idleBias(
  study: Study,
  response: string,
  idle: readonly Factor[],
  served: readonly Settings[],
  held: Settings,
): number | undefined {
  try {
    const present = presentFit(study, response);
    // What an idle factor may add is told beside it, whether or not the model holds it.
    const terms = [...present.terms, ...idle.filter(isActive).map((f) => [f.id])];
    const fit = fitModel(study, response, { terms, ...present.fitting });
    if (!fit.model.link.identity) return undefined;
    const { rungs } = effectLadder(study, fit);
    const far = idle.map((f) => {
      const interval = rungs.find((r) => r.term.length === 1 && r.term[0] === f.id)?.interval;
      if (!interval) return Number.NaN;
      const most = Math.max(...interval.map(Math.abs));
      // An effect runs over two coded units; a category may change by all of it.
      return isNumeric(f)
        ? (most / 2) *
            Math.max(...served.map((s) => Math.abs(code(f, s[f.id] as number) - code(f, held[f.id] as number))))
        : most;
    });
    const total = far.reduce((t, v) => t + v, 0);
    return Number.isFinite(total) ? total : undefined;
  } catch (error) {
    // A response that cannot be fitted yet says nothing of what hides in it.
    if (error instanceof StudyError) return undefined;
    throw error;
  }
}

/** Most factors that look active for the rest to be left behind unasked. */
const MOST_CARRIED = 6;

export const carry = {
  id: "carry",
  purpose: "characterise the active factors",
  options: {
    family: z.string().optional().describe("of what family factors are carried on; what suits them unless said"),
  },
  narrows: true,
  missing: ({ factors }) => (factors === undefined ? { code: "missing.carried", values: {} } : undefined),
  offered({ factors, said, toCarry }) {
    const active = new Set(said.flatMap((s) => s.active.flatMap((r) => r.term)));
    const carried = factors.filter((f) => (toCarry ? toCarry.includes(f.id) : active.has(f.id)));
    const idle = factors.filter((f) => !carried.includes(f));
    const suits = toCarry !== undefined || (idle.length > 0 && said.length > 0 && carried.length <= MOST_CARRIED);
    if (carried.length < 2 || !suits) return [];
    return [
      {
        place: 150,
        options: { kind: "carry", factors: carried.map((f) => f.id) },
        name: { code: "carry", values: { letters: carried.map((f) => f.letter) } },
        why: toCarry
          ? { code: "carry-asked", values: { factors: carried.map((f) => f.name) } }
          : { code: "idle", values: { factors: idle.slice(0, 4).map((f) => f.name) } },
      },
    ];
  },
  make: { runs: carryRuns },
} satisfies FollowUpKind;
