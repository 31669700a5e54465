import { kindOf } from "../kinds/results";
import { families } from "../plans/families";
import { makePlan } from "../plans/make-plan";
import { isNumeric, measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import { hardestResponse, judgedResponses } from "../study/judged";
import { expectedNoise, valueUnit } from "../study/measured";
import { excludedCorners } from "../study/region";
import { activeFactors, isHard } from "../study/roles";
import type { Response, Study } from "../study/schema";
import { type Reading, ranked } from "./reading";

/** Plans with trials beside the corners that lose some of them to the region. */
function plansThatLose(study: Study): { plan: string; lost: number; trials: number }[] {
  return families.flatMap((family) => {
    if (family.searches || family.unfit(study) !== undefined) return [];
    try {
      const { excluded, trials } = makePlan(study, { family: family.id });
      return excluded > 0 ? [{ plan: family.label, lost: excluded, trials: excluded + trials.length }] : [];
    } catch (error) {
      // A family that needs to be told more, or has no trial left, is not on offer as it stands.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/**
 * Readings on the Question station: what is still unsaid, what the region excludes, how small a change is asked for.
 */
export function questionReadings(study: Study): Reading[] {
  return ranked([
    ...missing(study),
    ...changes(study),
    ...regionReadings(study),
    ...aboutFactors(study),
    ...readyToPlan(study),
  ]);
}

/** What has to be said before anything can be planned or wished for. */
function missing(study: Study): Reading[] {
  const out: Reading[] = [];
  const factors = activeFactors(study);
  if (study.responses.length === 0)
    out.push({
      id: "no-responses",
      kind: "next step",
      code: "no-responses",
      values: {},
      evidence: "responses",
      weight: 100,
    });
  if (factors.length < 2)
    out.push({
      id: "few-factors",
      kind: "next step",
      code: factors.length === 0 ? "no-factors" : "one-factor",
      values: {},
      evidence: "factors",
      weight: 95,
    });
  const watched = study.responses.filter((r) => r.goal.aim === "watch");
  if (study.responses.length > 0 && watched.length === study.responses.length)
    out.push({
      id: "no-goals",
      kind: "next step",
      code: "no-goals-yet",
      values: {},
      evidence: "responses",
      weight: 70,
    });
  return out;
}

/** Whether its noise follows from what is expected of it, in place of being stated. */
const asksBase = (r: Response): boolean => kindOf(r).fields.includes("base");

/** Changes worth finding beside the noise: what is not said of them, which are small, which is the hardest to see. */
function changes(study: Study): Reading[] {
  const out: Reading[] = [];
  const unsaid = measuredResponses(study).filter(
    (r) => r.goal.aim !== "watch" && (expectedNoise(r) === undefined || r.smallest === undefined),
  );
  if (unsaid.length > 0)
    out.push({
      id: "noise-unsaid",
      kind: "next step",
      code: "noise-unsaid",
      values: {
        responses: unsaid.filter((r) => !asksBase(r)).map((r) => r.name),
        counted: unsaid.filter(asksBase).map((r) => r.name),
      },
      evidence: "responses",
      weight: 60,
    });
  for (const r of study.responses) {
    const noise = expectedNoise(r);
    if (noise === undefined || r.smallest === undefined) continue;
    const ratio = r.smallest / noise;
    if (ratio < 1)
      out.push({
        id: `small-change-${r.id}`,
        kind: "caution",
        // Var(effect) = 4σ²/n; power 0.80 at α 0.05 needs effect ≈ 2.8 standard errors.
        code: "small-change",
        values: {
          response: r.name,
          smallest: r.smallest,
          unit: valueUnit(r),
          ratio,
          trials: Math.ceil(4 * (2.8 / ratio) ** 2),
        },
        evidence: "responses",
        weight: 55,
        about: r.id,
      });
  }
  const sharp = hardestResponse(study);
  const least = sharp && expectedNoise(sharp);
  // One response alone, or one of two alike, is the hardest of nothing.
  const alike = study.responses.filter((r) => {
    const noise = expectedNoise(r);
    if (sharp?.smallest === undefined || least === undefined || r.smallest === undefined || noise === undefined)
      return false;
    return r.smallest / noise <= (sharp.smallest / least) * (1 + 1e-9);
  });
  const others = judgedResponses(study).length;
  if (alike.length === 1 && others > 1 && sharp?.smallest !== undefined && least !== undefined && unsaid.length === 0)
    out.push({
      id: "hardest",
      kind: "finding",
      code: "hardest",
      values: { response: sharp.name, ratio: sharp.smallest / least },
      evidence: "responses",
      weight: 20,
      about: sharp.id,
    });
  return out;
}

/** What limits and forbidden combinations take away. */
function regionReadings(study: Study): Reading[] {
  if (study.region.limits.length + study.region.forbidden.length === 0 || activeFactors(study).length === 0) return [];
  const { excluded, corners } = excludedCorners(study);
  const about = { id: "corners-excluded", evidence: "region", weight: 50 } as const;
  if (excluded > 0 && excluded === corners)
    return [{ ...about, kind: "caution", code: "corners-all-excluded", values: {} }];
  if (excluded > 0) return [{ ...about, kind: "finding", code: "corners-excluded", values: { excluded, corners } }];
  const losing = plansThatLose(study);
  const beside = { kind: "finding", evidence: "region" } as const;
  return losing.length > 0
    ? [
        {
          ...beside,
          id: "limits-beside-corners",
          code: "limits-beside-corners",
          values: { plans: losing },
          weight: 45,
        },
      ]
    : [{ ...beside, id: "limits-idle", code: "limits-idle", values: {}, weight: 10 }];
}

/** Factors without settable steps, and those that are hard to change. */
function aboutFactors(study: Study): Reading[] {
  const out: Reading[] = [];
  const factors = activeFactors(study);
  const unstepped = factors.filter((f) => f.kind === "continuous" && f.step === undefined);
  if (unstepped.length > 0)
    out.push({
      id: "no-step",
      kind: "next step",
      code: "no-step",
      values: { factors: unstepped.map((f) => f.name) },
      evidence: "factors",
      weight: 30,
    });
  const hard = factors.filter(isHard);
  if (hard.length > 0)
    out.push({
      id: "hard-to-change",
      kind: "finding",
      code: "hard-to-change",
      values: { factors: hard.map((f) => f.name), cost: study.setupCost !== undefined },
      evidence: "factors",
      weight: 45,
    });
  return out;
}

/** Enough is said for plans to be weighed. */
function readyToPlan(study: Study): Reading[] {
  const factors = activeFactors(study);
  if (factors.length < 2 || study.responses.length === 0 || study.trials.length > 0) return [];
  return [
    {
      id: "ready-to-plan",
      kind: "next step",
      code: "ready-to-plan",
      values: {
        factors: factors.length,
        categories: factors.some((f) => !isNumeric(f)),
        responses: study.responses.length,
      },
      evidence: "plans",
      weight: 40,
      action: { id: "plans", go: "plan" },
    },
  ];
}
