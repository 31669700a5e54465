import {
  fewestTrials,
  type PlanDetail,
  type PlanRequest,
  type PlanSummary,
  requestedTerms,
} from "../appraisal/plan-summary";
import { activeFactors, isNumeric } from "../study/coding";
import type { Study } from "../study/schema";
import { alphabetOf, termLetters, termName } from "../terms/term";
import { figure, listed, withUnit } from "../words/numbers";
import { type Reading, ranked } from "./reading";

const ASKED = {
  main: "main effects",
  "main+2fi": "main effects and two-factor interactions",
  quadratic: "main effects, interactions and bends",
} as const;
const askedWords = (terms: PlanRequest["terms"]): string =>
  typeof terms === "string" ? ASKED[terms] : `the ${terms.length} terms picked`;

/**
 * Readings on the Plan station: what is asked, what the plans in sight can tell of it, what to do.
 *
 * @param judgedBy id of the response whose noise and smallest change plans are judged by
 */
// Long: one reading after another, each on its own.
export function planReadings(
  study: Study,
  request: PlanRequest,
  summaries: readonly PlanSummary[],
  picked: readonly PlanSummary[],
  judgedBy?: string,
): Reading[] {
  const out: Reading[] = [];
  const factors = activeFactors(study);
  if (factors.length < 2)
    return [
      {
        id: "too-few-factors",
        kind: "next step",
        text: "A plan needs at least two factors; add them first.",
        evidence: "factors",
        weight: 100,
        action: { label: "Open Question", go: "question" },
      },
    ];
  const alphabet = alphabetOf(study);
  const pairs = (factors.length * (factors.length - 1)) / 2;
  const least = fewestTrials(study, request.terms);
  const next = summaries.find((s) => s.follow?.why);
  if (next?.follow) {
    const { before, after, parted } = next.follow;
    const changes = [
      parted.length > 0 ? `parts ${parted.length} ${parted.length === 1 ? "pair" : "pairs"} of effects` : "",
      after.estimable > before.estimable
        ? `tells ${after.estimable} of ${requestedTerms(study, request).length} effects instead of ${before.estimable}`
        : "",
      after.clear > before.clear ? `clears ${after.clear - before.clear}` : "",
    ].filter(Boolean);
    out.push({
      id: "next-wave",
      kind: "next step",
      text: `${next.follow.why} ${next.label}, ${next.n} more trials${changes.length > 0 ? `: ${listed(changes)}` : ""}.`,
      evidence: "plans",
      weight: 96,
    });
  }
  out.push({
    id: "fewest-trials",
    kind: "finding",
    text: `${factors.length} factors have ${pairs} two-factor ${pairs === 1 ? "interaction" : "interactions"}: ${least} trials are the least that can tell ${askedWords(request.terms)} apart.`,
    evidence: "plans",
    weight: 60,
  });
  if (summaries.length === 0)
    out.push({
      id: "no-plans",
      kind: "next step",
      text: `No plan on offer fits ${request.budget} trials. Raise the budget or take centre points and replicates away.`,
      evidence: "plans",
      weight: 95,
    });
  const able = summaries.filter((s) => s.tellsAll);
  if (summaries.length > 0 && able.length === 0)
    out.push({
      id: "none-tells-all",
      kind: "caution",
      text:
        request.terms === "quadratic"
          ? "Two-level plans cannot show which factor bends, only whether anything does, from centre points. A second wave with axial points can."
          : `No plan within ${request.budget} trials tells ${askedWords(request.terms)} all apart.`,
      evidence: "plans",
      weight: 80,
    });
  const first =
    study.responses.find((r) => r.id === judgedBy && r.noise !== undefined && r.smallest !== undefined) ??
    study.responses.find((r) => r.noise !== undefined && r.smallest !== undefined);
  if (first?.noise !== undefined && first.smallest !== undefined) {
    const noise = first.noise;
    const wanted = first.smallest / noise;
    // Enough means enough for all that is asked, where any plan tells it all.
    const sharp = (able.length > 0 ? able : summaries)
      .filter((s) => s.ratio !== null && s.ratio <= wanted && !s.noErrorDf)
      .sort((a, b) => a.n - b.n)[0];
    if (sharp)
      out.push({
        id: "sharp-enough",
        kind: "finding",
        text: `With noise ${withUnit(figure(noise), first.unit)} and ${withUnit(figure(first.smallest), first.unit)} worth finding in ${first.name}, ${sharp.n} trials (${sharp.label}) are enough at power ${request.power.toFixed(2)}.`,
        evidence: "power",
        weight: 70,
      });
    else if (summaries.length > 0) {
      const best = summaries
        .filter((s) => s.ratio !== null)
        .sort((a, b) => (a.ratio as number) - (b.ratio as number))[0];
      if (best)
        out.push({
          id: "not-sharp",
          kind: "caution",
          text: `No plan within ${request.budget} trials would see ${withUnit(figure(first.smallest), first.unit)} in ${first.name} at power ${request.power.toFixed(2)}; the sharpest sees ${withUnit(figure((best.ratio as number) * noise), first.unit)}.`,
          evidence: "power",
          weight: 78,
        });
    }
  } else if (study.responses.length > 0)
    out.push({
      id: "noise-unknown",
      kind: "next step",
      text: "State noise and the smallest change worth finding of a response, and plans are judged in its units instead of σ.",
      evidence: "responses",
      weight: 50,
      action: { label: "Open Question", go: "question" },
    });
  for (const p of picked) {
    const letter = String.fromCharCode(97 + picked.indexOf(p));
    if (p.lostTerms.length > 0 && request.terms !== "main" && p.regular) {
      const shared = p.map.filter((m) => m.state === "lost" && m.with.length > 0);
      const example = shared[0];
      if (example)
        out.push({
          id: `chains-${p.id}`,
          kind: "caution",
          text: `Plan ${letter} leaves ${p.lostTerms.length} of ${requestedTerms(study, request).length} effects in chains: ${termLetters(alphabet, example.term)} cannot be told from ${listed(example.with.slice(0, 3).map((t) => termLetters(alphabet, t)))}. If one turns out active, a second wave must part them.`,
          evidence: "chains",
          weight: 75,
        });
    }
    if (p.resolution === 3)
      out.push({
        id: `resolution-${p.id}`,
        kind: "caution",
        text: `Plan ${letter} is of resolution III: main effects travel with two-factor interactions, so a large interaction looks like a main effect.`,
        evidence: "chains",
        weight: 76,
      });
    if (p.noErrorDf)
      out.push({
        id: `no-df-${p.id}`,
        kind: "caution",
        text: `Plan ${letter} leaves no degrees of freedom for error; its sharpness rests on the stated noise. Centre points or replicates would give it some.`,
        evidence: "df",
        weight: 65,
      });
    if (p.plan.excluded > 0)
      out.push({
        id: `lost-${p.id}`,
        kind: "caution",
        text: `The region excludes ${p.plan.excluded} ${p.plan.excluded === 1 ? "trial" : "trials"} of plan ${letter}; what is left is no longer balanced.`,
        evidence: "region",
        weight: 74,
      });
  }
  if (request.centre === 0 && factors.some((f) => f.kind === "continuous") && summaries.length > 0)
    out.push({
      id: "no-centre",
      kind: "next step",
      text: factors.some((f) => !isNumeric(f))
        ? "Centre points would show whether anything bends. Spread over the levels of a category they estimate noise only where two or more share a level."
        : "Three centre points would show whether anything bends, and give a pure estimate of noise.",
      evidence: "df",
      weight: 55,
    });
  if (request.standardOrder)
    out.push({
      id: "standard-order",
      kind: "caution",
      text: "Trials in standard order let anything that drifts with time pass for an effect of the last factors. Randomise unless the process forbids it.",
      evidence: "plans",
      weight: 77,
    });
  if (study.trials.length === 0 && picked.length > 0)
    out.push({
      id: "adopt",
      kind: "next step",
      text: `Adopt the plan that suits, as wave 1. What it leaves open a later wave can part; nothing that was run is lost.`,
      evidence: "plans",
      weight: 30,
    });
  return ranked(out);
}

/** What could go wrong with a plan, in words, worst first: what it cannot tell apart, cannot see, or rests on. */
export function planRisks(study: Study, request: PlanRequest, summary: PlanSummary, detail: PlanDetail): string[] {
  const alphabet = alphabetOf(study);
  const name = (t: readonly string[]): string => termName(alphabet, [...t]);
  const out: string[] = [];
  const asked = new Set(requestedTerms(study, request).map((t) => t.join("*")));
  const mains = summary.map.filter((m) => m.term.length === 1 && m.state === "lost" && m.with.length > 0);
  for (const m of mains.slice(0, 3))
    out.push(`${name(m.term)} cannot be told from ${listed(m.with.slice(0, 3).map(name))}.`);
  const pairs = summary.map.filter(
    (m) =>
      m.term.length > 1 &&
      m.state === "lost" &&
      m.with.length > 0 &&
      !m.with.some((t) => t.length === 1) &&
      asked.has(m.term.join("*")),
  );
  for (const m of pairs.slice(0, mains.length > 0 ? 1 : 3))
    out.push(`${name(m.term)} cannot be told from ${listed(m.with.slice(0, 2).map(name))}.`);
  const together = summary.lostTerms.filter((t) =>
    summary.map.some((m) => m.term.join("*") === t.join("*") && m.state !== "lost"),
  );
  if (together.length > 0)
    out.push(
      `${together.length} of the effects asked ${together.length === 1 ? "has" : "have"} no estimate beside the others, such as ${listed(together.slice(0, 2).map(name))}.`,
    );
  const dead = summary.lostTerms.filter((t) =>
    summary.map.some((m) => m.term.join("*") === t.join("*") && m.with.length === 0),
  );
  if (dead.length > 0) out.push(`${listed(dead.slice(0, 3).map(name))} cannot be estimated at all.`);
  const leak = detail.leaks.find((l) => l.term.length === 1);
  if (leak && mains.length === 0)
    out.push(
      `${name(leak.term)} takes up ${Math.round(Math.abs(leak.share) * 100)} % of ${name(leak.from)}, should that be active.`,
    );
  if (summary.noErrorDf) out.push("Nothing is left to judge noise by: it rests on the stated noise.");
  else if (summary.residualDf < 3)
    out.push(
      `Only ${summary.residualDf} ${summary.residualDf === 1 ? "degree" : "degrees"} of freedom ${summary.residualDf === 1 ? "judges" : "judge"} the noise, so intervals will be wide.`,
    );
  if (summary.df.pureError === 0 && !summary.noErrorDf)
    out.push("No trial is run twice, so lack of fit cannot be tested.");
  if ((detail.largestVif ?? 1) > 5)
    out.push(`Some terms lean on each other: variance is inflated up to ${figure(detail.largestVif ?? 1)} times.`);
  if (summary.plan.excluded > 0)
    out.push(`The region takes ${summary.plan.excluded === 1 ? "one" : summary.plan.excluded} of its trials away.`);
  return out;
}
