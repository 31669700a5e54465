import { storedModel } from "../model/data";
import { type Confirmation, confirmation, missedLimits } from "../setpoint/confirm";
import { limitsOf } from "../setpoint/desirability";
import type { SetpointProblem } from "../setpoint/goals";
import type { SearchResult } from "../setpoint/search";
import { isNumeric, rangeOf } from "../study/coding";
import { allowed, withinRanges } from "../study/region";
import type { Settings, Study } from "../study/schema";
import { figure, listed, rounded, withUnit } from "../words/numbers";
import { FEW_DF, type Reading, ranked } from "./reading";

/**
 * What overall desirability loses when each factor is off by its tolerance (else its step, else 2 % of the range),
 * worst side.
 */
export function sensitivity(
  problem: SetpointProblem,
  settings: Settings,
): { factor: string; off: number; loss: number }[] {
  const base = problem.overall(settings);
  return problem.study.factors
    .flatMap((f) => {
      if (!isNumeric(f) || f.kind !== "continuous" || f.retired !== undefined) return [];
      const [low, high] = rangeOf(f);
      const off = f.tolerance || f.step || (high - low) / 50;
      const value = settings[f.id] as number;
      const loss = Math.max(
        ...[value - off, value + off].map((v) => base - problem.overall({ ...settings, [f.id]: v })),
      );
      return [{ factor: f.id, off, loss: Math.max(0, loss) }];
    })
    .sort((a, b) => b.loss - a.loss);
}

/** Best overall desirability among trials that were run, from the models. */
export function bestTrial(problem: SetpointProblem): { trial: string; order: number; overall: number } | undefined {
  let best: { trial: string; order: number; overall: number } | undefined;
  for (const t of problem.study.trials) {
    if (t.state !== "done" || !t.use) continue;
    const overall = problem.overall({ ...t.settings, ...t.asRun });
    if (!best || overall > best.overall) best = { trial: t.id, order: t.order, overall };
  }
  return best;
}

/** A chance in per cent; what draws cannot tell from certain is not called certain. */
export const chanceText = (p: number): string =>
  p > 0.9985
    ? "over 99.8 %"
    : p < 0.0015
      ? "under 0.2 %"
      : p > 0.985
        ? `${(100 * p).toFixed(1)} %`
        : `${(100 * p).toFixed(0)} %`;

/** Before a search: what is missing. */
export function goalReadings(study: Study): Reading[] {
  const out: Reading[] = [];
  const wished = study.responses.filter((r) => r.goal.aim !== "watch");
  if (wished.length === 0)
    out.push({
      id: "no-goals",
      kind: "next step",
      text: "No response has a goal yet. Say which to raise, lower or keep within limits.",
      evidence: "wishes",
      weight: 100,
      action: { label: "Open Question", go: "question" },
    });
  const missing = wished.filter((r) => !storedModel(study, r.id));
  if (missing.length > 0)
    out.push({
      id: "missing-models",
      kind: "next step",
      text: `${listed(missing.map((r) => r.name))} ${missing.length === 1 ? "has" : "have"} a goal but no model yet.`,
      evidence: "ladder",
      weight: 95,
      action: { label: "Open Model", go: "model", response: missing[0].id },
    });
  return out;
}

/** Both halves of a confirmation: whether it agrees with the prediction, and whether it meets the limits. */
function confirmationReading(study: Study, tested: Confirmation): Reading {
  const missed = missedLimits(study, tested);
  const common = { evidence: "candidates" as const };
  const means = `the ${tested.trials.length === 1 ? "result of one trial" : `means of ${tested.trials.length} trials`}`;
  const short = `${listed(missed)} ${missed.length === 1 ? "misses its limit" : "miss their limits"}`;
  if (tested.agrees && missed.length === 0)
    return {
      ...common,
      id: "confirmed",
      kind: "finding",
      text: `The setpoint is confirmed: ${means} ${tested.trials.length === 1 ? "agrees" : "agree"} with the prediction${tested.meetsLimits === null ? "" : " and every limit is met"}.`,
      weight: 94,
    };
  if (tested.agrees)
    return {
      ...common,
      id: "confirmed-short",
      kind: "caution",
      text: `The prediction is confirmed, the setpoint is not good enough: ${means} ${tested.trials.length === 1 ? "agrees" : "agree"} with it, but ${short}.`,
      weight: 98,
    };
  const suspect = tested.suspects[0]?.text ?? "";
  return {
    ...common,
    id: "not-confirmed",
    kind: "caution",
    text: `The confirmation does not agree with the prediction${missed.length > 0 ? `, and ${short}` : tested.meetsLimits ? ", though every limit is met" : ""}. ${suspect}`.trim(),
    weight: 99,
  };
}

/** Readings on the Setpoint station after a search. */
// Long: one reading after another, each on its own.
export function setpointReadings(problem: SetpointProblem, result: SearchResult): Reading[] {
  const { study } = problem;
  const out: Reading[] = [];
  const top = result.candidates[0];
  const nameOf = (id: string): string => study.responses.find((r) => r.id === id)?.name ?? id;
  if (top.overall === 0) {
    // Which goals fight, and how near the best compromise comes to each that it misses.
    const failing = problem.responses
      .filter((r) => top.responses[r.id]?.desirability === 0)
      .map((r) => {
        const said = top.responses[r.id];
        const { low, high } = limitsOf(r.goal);
        const short = said.mean < low ? low : high;
        return `${r.name} comes to ${figure(said.mean, 3)} against ${withUnit(figure(short, 3), r.unit)}`;
      });
    const kept = problem.responses.filter((r) => (top.responses[r.id]?.desirability ?? 0) > 0).map((r) => r.name);
    out.push({
      id: "nothing-meets",
      kind: "caution",
      text: `No settings in the region meet every goal at once: at the nearest, ${listed(failing)}${kept.length > 0 ? `, while ${listed(kept)} ${kept.length === 1 ? "is" : "are"} met` : ""}. Loosen a limit, lower an importance or widen a range.`,
      evidence: "candidates",
      weight: 100,
    });
  } else {
    const cost = result.best.overall - top.overall;
    out.push({
      id: "best-settable",
      kind: "finding",
      text: `The best settable point ${result.lattice === null ? "found" : `of all ${result.lattice.toLocaleString("en")}`} has overall desirability ${top.overall.toFixed(3)}; the exact optimum has ${result.best.overall.toFixed(3)}: rounding costs ${cost < 0.0005 ? "next to nothing" : cost.toFixed(3)}.`,
      evidence: "candidates",
      weight: 90,
    });
  }
  if (top.chance !== null && top.chances) {
    const weakest = Object.entries(top.chances).sort((a, b) => a[1] - b[1])[0];
    out.push({
      id: "chance",
      kind: "finding",
      text: `All limits are met in one future trial with chance ${chanceText(top.chance)}${study.factors.some((f) => (f.tolerance ?? 0) > 0) ? ", setting errors included" : ""}.${weakest[1] < 0.995 ? ` ${nameOf(weakest[0])} is what fails first (met with ${chanceText(weakest[1])}).` : ""}`,
      evidence: "candidates",
      weight: 85,
    });
    if (top.chance < 0.5 && top.overall > 0)
      out.push({
        id: "low-chance",
        kind: "caution",
        text: `The mean meets every limit here, yet a single trial is more likely to miss one than not. Look at ${nameOf(weakest[0])} before you promise anything.`,
        evidence: "candidates",
        weight: 92,
      });
  } else
    out.push({
      id: "no-chance",
      kind: "caution",
      text: "The chance of meeting limits cannot be told: a model has no error degrees of freedom and its response no stated noise.",
      evidence: "candidates",
      weight: 80,
    });
  const few = problem.responses.filter((r) => {
    const fit = problem.predictors.get(r.id)?.fit;
    return fit !== undefined && !fit.model.exact && fit.summary.residualDf < FEW_DF;
  });
  if (few.length > 0)
    out.push({
      id: "few-df",
      kind: "caution",
      text: `The noise of ${listed(few.map((r) => r.name))} is judged by fewer than ${FEW_DF} degrees of freedom: intervals and the chance of meeting limits hang on them.`,
      evidence: "candidates",
      weight: 86,
    });
  const far = Object.entries(top.responses).filter(([, r]) => r.extrapolates);
  if (far.length > 0)
    out.push({
      id: "extrapolates",
      kind: "caution",
      text: `For ${listed(far.map(([id]) => nameOf(id)))} the best point lies farther out than any trial that was run; its intervals lean on the model's shape. Confirm before relying on it.`,
      evidence: "candidates",
      weight: 88,
    });
  const broken = Object.entries(top.responses).filter(([, r]) => r.breaksBounds);
  if (broken.length > 0)
    out.push({
      id: "breaks-bounds",
      kind: "caution",
      text: `${listed(broken.map(([id]) => nameOf(id)))}: the prediction or its interval passes a physical bound at the best point.`,
      evidence: "candidates",
      weight: 87,
    });
  const sensitive = sensitivity(problem, top.settings).filter((s) => s.loss >= 0.005);
  if (sensitive.length > 0) {
    const said = sensitive.slice(0, 2).map((s) => {
      const f = study.factors.find((x) => x.id === s.factor);
      return `${withUnit(figure(s.off), f?.unit)} off in ${f?.name} costs ${s.loss.toFixed(2)}`;
    });
    out.push({
      id: "control",
      kind: "finding",
      text: `Control ${listed(sensitive.slice(0, 2).map((s) => study.factors.find((x) => x.id === s.factor)?.name ?? s.factor))} tightest: ${listed(said)} of desirability.`,
      evidence: "candidates",
      weight: 60,
    });
  }
  const best = bestTrial(problem);
  if (best && top.overall > 0)
    out.push({
      id: "against-best",
      kind: "finding",
      text: `Of the trials run, number ${best.order} comes nearest with ${best.overall.toFixed(2)}; the best settable point ${top.overall - best.overall > 0.005 ? `gains ${(top.overall - best.overall).toFixed(2)} on it` : "is no better"}.`,
      evidence: "map",
      weight: 50,
    });
  const chosen = study.setpoint;
  if (chosen) {
    const complete = study.factors.every((f) => f.retired !== undefined || chosen.settings[f.id] !== undefined);
    if (!complete)
      out.push({
        id: "setpoint-incomplete",
        kind: "next step",
        text: "The chosen setpoint lacks a factor that was added since; choose again.",
        evidence: "candidates",
        weight: 89,
      });
    else {
      const now = problem.overall(chosen.settings);
      if (!withinRanges(study.factors, chosen.settings) || !allowed(study, chosen.settings))
        out.push({
          id: "setpoint-outside",
          kind: "caution",
          text: "The chosen setpoint lies outside the region as it is now; choose again.",
          evidence: "candidates",
          weight: 91,
        });
      else if (top.overall - now > 0.02)
        out.push({
          id: "setpoint-older",
          kind: "next step",
          text: `The chosen setpoint has desirability ${now.toFixed(2)} under the present models; the best settable point has ${top.overall.toFixed(2)}. Choose again, or keep it knowingly.`,
          evidence: "candidates",
          weight: 82,
        });
      else {
        const widths = problem.responses.flatMap((r) => {
          const p = problem.predictors.get(r.id)?.predict(chosen.settings);
          if (!p?.meanInterval) return [];
          // A quarter of the interval is about its standard error, whatever scale the response is fitted on.
          const error = (p.meanInterval[1] - p.meanInterval[0]) / 4;
          const show = (v: number): string => (r.decimals === undefined ? rounded(v, error) : v.toFixed(r.decimals));
          return [`${r.name} ${show(p.meanInterval[0])} to ${withUnit(show(p.meanInterval[1]), r.unit)}`];
        });
        const tested = confirmation(study);
        const here =
          tested &&
          study.factors.every((f) => f.retired !== undefined || tested.settings[f.id] === chosen.settings[f.id]);
        if (here && tested.agrees !== null) out.push(confirmationReading(study, tested));
        else if (here && tested)
          out.push({
            id: "confirming",
            kind: "next step",
            text: `${tested.trials.filter((t) => t.state === "done").length} of ${tested.trials.length} confirmation trials are run; enter the rest.`,
            evidence: "candidates",
            weight: 70,
            action: { label: "Open Trials", go: "trials" },
          });
        else if (widths.length > 0)
          out.push({
            id: "confirm",
            kind: "next step",
            text: `Confirm the setpoint with a few trials: their means should fall near ${listed(widths.slice(0, 3))}.`,
            evidence: "candidates",
            weight: 70,
          });
      }
    }
  } else if (top.overall > 0)
    out.push({
      id: "choose",
      kind: "next step",
      text: "Choose a candidate as the setpoint; it then stands in the report.",
      evidence: "candidates",
      weight: 65,
    });
  return ranked(out);
}
