import { families } from "../plans/families";
import { makePlan } from "../plans/make-plan";
import { activeFactors, isNumeric, measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import { hardestResponse } from "../study/judged";
import { excludedCorners } from "../study/region";
import type { Study } from "../study/schema";
import { figure, listed, withUnit } from "../words/numbers";
import { type Reading, ranked } from "./reading";

/** Plans with trials beside the corners that lose some of them to the region. */
function plansThatLose(study: Study): { label: string; lost: number; size: number }[] {
  return families.flatMap((family) => {
    if (family.searches || family.unfit(study) !== undefined) return [];
    try {
      const { excluded, trials } = makePlan(study, { family: family.id });
      return excluded > 0 ? [{ label: family.label, lost: excluded, size: excluded + trials.length }] : [];
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
// Long: one reading after another, each on its own.
export function questionReadings(study: Study): Reading[] {
  const out: Reading[] = [];
  const factors = activeFactors(study);
  if (study.responses.length === 0)
    out.push({
      id: "no-responses",
      kind: "next step",
      text: "Name what is measured first: a response with its unit and what would be good.",
      evidence: "responses",
      weight: 100,
    });
  if (factors.length < 2)
    out.push({
      id: "few-factors",
      kind: "next step",
      text:
        factors.length === 0
          ? "List the settings that may matter, each with the range it may be run over."
          : "One factor so far; a plan needs at least two.",
      evidence: "factors",
      weight: 95,
    });
  const watched = study.responses.filter((r) => r.goal.aim === "watch");
  if (study.responses.length > 0 && watched.length === study.responses.length)
    out.push({
      id: "no-goals",
      kind: "next step",
      text: "No response has a goal yet. Say which to raise, lower or keep within limits, so that a setpoint can be found.",
      evidence: "responses",
      weight: 70,
    });
  const unsaid = measuredResponses(study).filter(
    (r) => r.goal.aim !== "watch" && (r.noise === undefined || r.smallest === undefined),
  );
  if (unsaid.length > 0)
    out.push({
      id: "noise-unsaid",
      kind: "next step",
      text: `State the noise to expect and the smallest change worth finding for ${listed(unsaid.map((r) => r.name))}; without them plans are judged in units of σ.`,
      evidence: "responses",
      weight: 60,
    });
  for (const r of study.responses) {
    if (r.noise === undefined || r.smallest === undefined) continue;
    const ratio = r.smallest / r.noise;
    if (ratio < 1)
      out.push({
        id: `small-change-${r.id}`,
        kind: "caution",
        // Var(effect) = 4σ²/n; power 0.80 at α 0.05 needs effect ≈ 2.8 standard errors.
        text: `${r.name}: the smallest change worth finding (${withUnit(figure(r.smallest), r.unit)}) is only ${figure(ratio)} of the noise; about ${Math.ceil(4 * (2.8 / ratio) ** 2)} trials would be needed to see it.`,
        evidence: "responses",
        weight: 55,
        about: r.id,
      });
  }
  if (study.region.limits.length + study.region.forbidden.length > 0 && factors.length > 0) {
    const { excluded, corners } = excludedCorners(study);
    if (excluded > 0)
      out.push({
        id: "corners-excluded",
        kind: excluded === corners ? "caution" : "finding",
        text:
          excluded === corners
            ? "The region excludes every corner; check its limits."
            : `The region excludes ${excluded} of the ${corners} corners. Two-level plans lose the trials that stand there.`,
        evidence: "region",
        weight: 50,
      });
    else {
      const losing = plansThatLose(study);
      out.push({
        id: losing.length > 0 ? "limits-beside-corners" : "limits-idle",
        kind: "finding",
        text:
          losing.length > 0
            ? `The region's limits exclude no corner of the ranges, but trials beside them: ${listed(losing.map((l) => `a ${l.label.toLowerCase()} plan loses ${l.lost} of its ${l.size} trials`))}.`
            : "The region's limits exclude no corner of the ranges, so plans are not affected.",
        evidence: "region",
        weight: losing.length > 0 ? 45 : 10,
      });
    }
  }
  const unstepped = factors.filter((f) => f.kind === "continuous" && f.step === undefined);
  if (unstepped.length > 0)
    out.push({
      id: "no-step",
      kind: "next step",
      text: `Say in what steps ${listed(unstepped.map((f) => f.name))} can be set, so that no trial or setpoint asks for a value the machine does not have.`,
      evidence: "factors",
      weight: 30,
    });
  const hard = factors.filter((f) => f.change === "hard");
  if (hard.length > 0)
    out.push({
      id: "hard-to-change",
      kind: "caution",
      text: `${listed(hard.map((f) => f.name))} ${hard.length === 1 ? "is" : "are"} hard to change: runs are grouped by ${hard.length === 1 ? "it" : "them"}, and intervals and p-values for ${hard.length === 1 ? "it" : "them"} will look surer than they are.`,
      evidence: "factors",
      weight: 45,
    });
  const sharp = hardestResponse(study);
  if (sharp?.noise !== undefined && sharp.smallest !== undefined && unsaid.length === 0)
    out.push({
      id: "hardest",
      kind: "finding",
      text: `${sharp.name} is the hardest to see: its smallest change worth finding is ${figure(sharp.smallest / sharp.noise)} times its noise. Plans are judged by it first.`,
      evidence: "responses",
      weight: 20,
      about: sharp.id,
    });
  if (factors.length >= 2 && study.responses.length > 0 && study.trials.length === 0)
    out.push({
      id: "ready-to-plan",
      kind: "next step",
      text: `${factors.length} factors${factors.filter(isNumeric).length < factors.length ? ", categories among them," : ""} and ${study.responses.length} ${study.responses.length === 1 ? "response" : "responses"}: enough to weigh plans.`,
      evidence: "plans",
      weight: 40,
      action: { label: "Weigh plans", go: "plan" },
    });
  return ranked(out);
}
