import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { Asked } from "../messages/readings";
import type { RiskValues } from "../messages/waves";
import { allExact } from "../model/exact";
import { type FirstPick, isFullyReset } from "../planning/default-picks";
import { inPlace } from "../planning/next-wave-summary";
import type { PlanDetail } from "../planning/plan-detail";
import { fewestTrials, type PlanRequest, type PlanSummary, requestedTerms } from "../planning/plan-summary";
import { makePlan } from "../plans/make-plan";
import { code, isNumeric } from "../study/coding";
import { pricesOf } from "../study/costs";
import { expectedNoise, valueUnit } from "../study/measured";
import { activeFactors, hardFactors, isStanding } from "../study/roles";
import type { Study } from "../study/schema";
import { alphabetOf, termLetters, termName } from "../terms/term";
import { type Reading, ranked } from "./reading";

/** What is asked, by its name or how many terms were picked. */
const askedOf = ({ terms }: PlanRequest): Asked => (typeof terms === "string" ? terms : { picked: terms.length });

/** The plans that readings are about. */
export interface PlansInSight {
  summaries: readonly PlanSummary[];
  /** Those read side by side. */
  picked: readonly PlanSummary[];
  /** Id of the response whose noise and smallest change plans are judged by. */
  judgedBy?: string | undefined;
  /** The one to go by before a person picks any. */
  first?: FirstPick | undefined;
  /** More may come: nothing is said yet of what there is not. */
  searching?: boolean;
}

/** What readings of plans are told from. */
interface PlansContext extends PlansInSight {
  study: Study;
  request: PlanRequest;
}

/** Readings on the Plan station: what is asked, what the plans in sight can tell of it, what to do. */
export function planReadings(study: Study, request: PlanRequest, sight: PlansInSight): Reading[] {
  if (activeFactors(study).length < 2)
    return [
      {
        id: "too-few-factors",
        kind: "next step",
        code: "too-few-factors",
        values: {},
        evidence: "factors",
        weight: 100,
        action: { id: "question", go: "question" },
      },
    ];
  const context: PlansContext = { study, request, ...sight };
  return ranked([
    ...resetting(context),
    ...nextWave(context),
    ...takeThis(context),
    ...telling(context),
    ...sharpness(context),
    ...sight.picked.flatMap((p, i) => ofPlan(context, p, letterAt(i))),
    ...asking(context),
  ]);
}

/** What resetting would buy, of the plan picked last that keeps hard factors set. */
function resetting({ study, summaries, picked, judgedBy }: PlansContext): Reading[] {
  const kept = [...picked].reverse().find((s) => s.strata && !isFullyReset(s.strata) && !s.follow);
  return kept ? resetReadings(hardFactors(study), kept, summaries, judgedNoise(study, judgedBy)) : [];
}

/** The wave that is needed next, where one is. */
function nextWave({ study, request, summaries }: PlansContext): Reading[] {
  const next = inPlace(summaries).find((s) => s.follow?.why);
  if (!next?.follow?.why) return [];
  const { why, before, after, parted } = next.follow;
  return [
    {
      id: "next-wave",
      kind: "next step",
      code: "next-wave",
      values: {
        why,
        plan: next.label,
        more: next.n,
        parted: parted.length,
        tells:
          after.estimable > before.estimable
            ? { now: after.estimable, before: before.estimable, of: requestedTerms(study, request).length }
            : null,
        clears: Math.max(0, after.clear - before.clear),
      },
      evidence: "plans",
      weight: 96,
    },
  ];
}

/** The plan to go by first and why: what it has, and what the next cheaper one has not. */
function takeThis({ study, request, summaries, picked, judgedBy, first }: PlansContext): Reading[] {
  const plan = summaries.find((s) => s.id === first?.plan);
  const at = picked.findIndex((s) => s.id === first?.plan);
  if (!first || !plan || at < 0 || plan.ratio === null) return [];
  const { noise, unit } = judgedNoise(study, judgedBy);
  const cheaper = summaries.find((s) => s.id === first.cheaper?.plan);
  const beside = picked.findIndex((s) => s.id === cheaper?.id);
  return [
    {
      id: "take-this",
      kind: "next step",
      code: "take-this",
      values: {
        letter: letterAt(at),
        plan: plan.label,
        by: first.by,
        tellsAll: plan.tellsAll,
        df: plan.residualDf,
        sees: plan.ratio * noise,
        unit,
        costs: { unit: pricesOf(study).unit },
        cheaper:
          first.cheaper && cheaper
            ? {
                letter: beside < 0 ? null : letterAt(beside),
                plan: cheaper.label,
                saves: plan.cost - cheaper.cost,
                lacks: first.cheaper.lacks,
                lost: cheaper.lostTerms.length,
                of: requestedTerms(study, request).length,
                df: cheaper.noErrorDf ? 0 : cheaper.residualDf,
                sees: cheaper.ratio === null ? null : cheaper.ratio * noise,
              }
            : null,
      },
      evidence: "plans",
      weight: 90,
    },
  ];
}

/** The letter that a picked plan stands under. */
const letterAt = (i: number): string => String.fromCharCode(97 + i);

/** How many trials what is asked needs, and whether any plan in sight tells it. */
function telling({ study, request, summaries, searching }: PlansContext): Reading[] {
  const factors = activeFactors(study).length;
  const out: Reading[] = [
    {
      id: "fewest-trials",
      kind: "finding",
      code: "fewest-trials",
      values: {
        factors,
        pairs: (factors * (factors - 1)) / 2,
        least: fewestTrials(study, request.terms),
        asked: askedOf(request),
      },
      evidence: "plans",
      weight: 60,
    },
  ];
  if (searching) return out;
  if (summaries.length === 0)
    out.push({
      id: "no-plans",
      kind: "next step",
      code: "no-plans",
      values: { budget: request.budget },
      evidence: "plans",
      weight: 95,
    });
  else if (!summaries.some((s) => s.tellsAll))
    out.push({
      id: "none-tells-all",
      kind: "caution",
      ...(request.terms === "quadratic"
        ? { code: "none-bends", values: {} }
        : { code: "none-tells-all", values: { budget: request.budget, asked: askedOf(request) } }),
      evidence: "plans",
      weight: 80,
    });
  return out;
}

/** The cheapest plan that sees the smallest change worth finding, or how near the sharpest comes to it. */
function sharpness({ study, request, summaries, judgedBy, first: pick, searching }: PlansContext): Reading[] {
  const known = study.responses.filter((r) => expectedNoise(r) !== undefined && r.smallest !== undefined);
  const first = known.find((r) => r.id === judgedBy) ?? known[0];
  const noise = first && expectedNoise(first);
  if (noise === undefined || first?.smallest === undefined)
    return study.responses.length === 0
      ? []
      : [
          {
            id: "noise-unknown",
            kind: "next step",
            code: "noise-unknown",
            values: { counted: study.responses.every((r) => kindOf(r).fields.includes("base")) },
            evidence: "responses",
            weight: 50,
            action: { id: "question", go: "question" },
          },
        ];
  const wanted = first.smallest / noise;
  const about = {
    smallest: first.smallest,
    unit: valueUnit(first),
    response: first.name,
    power: request.power,
  };
  // What the plan to go by sees is said with it; and few trials more are not what is enough where many were run.
  if (pick?.by === "sees" || request.together) return [];
  // Enough means enough for all that is asked, where any plan tells it all.
  // Who said how many set-ups there may be has none for every trial.
  const allowed = summaries.filter((s) => request.setups === undefined || !s.strata || !isFullyReset(s.strata));
  const able = allowed.filter((s) => s.tellsAll);
  const sharp = (able.length > 0 ? able : allowed)
    .filter((s) => s.ratio !== null && s.ratio <= wanted && !s.noErrorDf)
    .sort((a, b) => a.cost - b.cost)[0];
  if (sharp)
    return [
      {
        id: "sharp-enough",
        kind: "finding",
        code: "sharp-enough",
        values: { ...about, noise, trials: sharp.n, plan: sharp.label },
        evidence: "power",
        weight: 70,
      },
    ];
  const sharpest = Math.min(...allowed.flatMap((s) => s.ratio ?? []));
  if (!Number.isFinite(sharpest) || searching) return [];
  return [
    {
      id: "not-sharp",
      kind: "caution",
      code: "not-sharp",
      values: { ...about, budget: request.budget, sharpest: sharpest * noise },
      evidence: "power",
      weight: 78,
    },
  ];
}

/** What a plan that is picked cannot tell, or what it has nothing to judge by. */
function ofPlan({ study, request }: PlansContext, p: PlanSummary, letter: string): Reading[] {
  const alphabet = alphabetOf(study);
  const out: Reading[] = [];
  const example = p.map.find((m) => m.state === "lost" && m.with.length > 0);
  if (p.lostTerms.length > 0 && request.terms !== "main" && p.regular && example)
    out.push({
      id: `chains-${p.id}`,
      kind: "caution",
      code: "chains",
      values: {
        plan: letter,
        lost: p.lostTerms.length,
        of: requestedTerms(study, request).length,
        term: termLetters(alphabet, example.term),
        with: example.with.slice(0, 3).map((t) => termLetters(alphabet, t)),
      },
      evidence: "chains",
      weight: 75,
    });
  if (p.resolution === 3)
    out.push({
      id: `resolution-${p.id}`,
      kind: "caution",
      code: "resolution-three",
      values: { plan: letter },
      evidence: "chains",
      weight: 76,
    });
  if (p.strata && !p.strata.reset && p.strata.between < LEAST_BETWEEN)
    out.push({
      id: `between-${p.id}`,
      kind: "caution",
      code: "few-between",
      values: {
        plan: letter,
        df: p.strata.between,
        terms: p.strata.terms.slice(0, 4).map((t) => termLetters(alphabet, t)),
      },
      evidence: "setups",
      weight: 72,
    });
  else if (p.noErrorDf)
    out.push({
      id: `no-df-${p.id}`,
      kind: "caution",
      code: "no-error-df",
      values: { plan: letter },
      evidence: "df",
      weight: 65,
    });
  if (p.plan.excluded > 0)
    out.push({
      id: `lost-${p.id}`,
      kind: "caution",
      code: "loses-trials",
      values: { plan: letter, n: p.plan.excluded },
      evidence: "region",
      weight: 74,
    });
  return out;
}

/** What is asked for besides: no centre points, no random order; and that a plan may be adopted. */
function asking({ study, request, summaries, picked }: PlansContext): Reading[] {
  const factors = activeFactors(study);
  const out: Reading[] = [];
  // Centre points that were run before tell it already.
  const centred = study.trials.some((t) => t.kind === "centre" && isStanding(t));
  if (request.centre === 0 && !centred && factors.some((f) => f.kind === "continuous") && summaries.length > 0)
    out.push({
      id: "no-centre",
      kind: "next step",
      code: "no-centre",
      values: { categories: factors.some((f) => !isNumeric(f)) },
      evidence: "df",
      weight: 55,
    });
  if (request.standardOrder)
    out.push({
      id: "standard-order",
      kind: "caution",
      code: "standard-order",
      values: {},
      evidence: "plans",
      weight: 77,
    });
  if (study.trials.length === 0 && picked.length > 0)
    out.push({
      id: "adopt",
      kind: "next step",
      code: "adopt",
      values: {},
      evidence: "plans",
      weight: 30,
    });
  return out;
}

/** Fewest degrees of freedom between set-ups that a fit can judge hard factors by. */
const LEAST_BETWEEN = 2;

/** Noise and unit of the response that plans are judged by; σ where none is stated. */
function judgedNoise(study: Study, judgedBy: string | undefined): { noise: number; unit: string } {
  const response = study.responses.find((r) => r.id === judgedBy) ?? study.responses[0];
  const noise = response && expectedNoise(response);
  return noise === undefined ? { noise: 1, unit: "σ" } : { noise, unit: valueUnit(response) };
}

/** What a plan in set-ups would see if its hard factors were set anew for every trial. */
function resetReadings(
  hard: readonly { name: string }[],
  kept: PlanSummary,
  summaries: readonly PlanSummary[],
  { noise, unit }: { noise: number; unit: string },
): Reading[] {
  const { family, trials, replicates } = kept.options;
  const reset = summaries.find(
    (s) =>
      s.strata?.reset &&
      s.options.family === family &&
      s.options.trials === trials &&
      s.options.replicates === replicates,
  );
  if (!kept.strata || !reset || reset.ratio === null || kept.ratio === null) return [];
  return [
    {
      id: "reset-anyway",
      kind: "finding",
      code: "reset-anyway",
      values: {
        factors: hard.map((f) => f.name),
        kept: kept.strata.setups,
        reset: reset.n,
        cost: { kept: kept.cost, reset: reset.cost },
        sees: { kept: kept.ratio * noise, reset: reset.ratio * noise },
        unit,
      },
      evidence: "power",
      weight: 62,
    },
  ];
}

/** Factors whose axial points steps have moved, with the coded distance wanted and the one they have. */
function movedAxial(
  study: Study,
  { options, plan, follow }: PlanSummary,
): { name: string; wanted: number; stands: number }[] {
  if (follow || plan.excluded > 0 || !plan.trials.some((t) => t.kind === "axial")) return [];
  const free = makePlan(study, { ...options, snap: false });
  if (free.trials.length !== plan.trials.length) return [];
  return activeFactors(study)
    .filter(isNumeric)
    .flatMap((f) => {
      const ends = plan.trials.flatMap((t, i) => {
        const wanted = Math.abs(code(f, free.trials[i].settings[f.id] as number));
        // The axial points of a factor are those where it is what stands off.
        return t.kind === "axial" && wanted > 0.5
          ? [{ wanted, stands: Math.abs(code(f, t.settings[f.id] as number)) }]
          : [];
      });
      const far = ends.find((e) => Math.abs(e.stands - e.wanted) > 0.005);
      return far ? [{ name: f.name, ...far }] : [];
    });
}

/** What could go wrong with a plan, worst first: what it cannot tell apart, cannot see, or rests on. */
export function planRisks(
  study: Study,
  request: PlanRequest,
  summary: PlanSummary,
  detail: PlanDetail,
): Message<RiskValues>[] {
  const alphabet = alphabetOf(study);
  const name = (t: readonly string[]): string => termName(alphabet, [...t]);
  const out: Message<RiskValues>[] = [];
  const asked = new Set(requestedTerms(study, request).map((t) => t.join("*")));
  const mains = summary.map.filter((m) => m.term.length === 1 && m.state === "lost" && m.with.length > 0);
  for (const m of mains.slice(0, 3))
    out.push({ code: "not-told-from", values: { term: name(m.term), from: m.with.slice(0, 3).map(name) } });
  const pairs = summary.map.filter(
    (m) =>
      m.term.length > 1 &&
      m.state === "lost" &&
      m.with.length > 0 &&
      !m.with.some((t) => t.length === 1) &&
      asked.has(m.term.join("*")),
  );
  const shownPairs = pairs.slice(0, mains.length > 0 ? 1 : 3);
  for (const m of shownPairs)
    out.push({ code: "not-told-from", values: { term: name(m.term), from: m.with.slice(0, 2).map(name) } });
  const more = Math.max(0, mains.length - 3) + pairs.length - shownPairs.length;
  if (more > 0) out.push({ code: "not-told-more", values: { n: more } });
  const together = summary.lostTerms.filter((t) =>
    summary.map.some((m) => m.term.join("*") === t.join("*") && m.state !== "lost"),
  );
  if (together.length > 0)
    out.push({ code: "no-estimate", values: { n: together.length, such: together.slice(0, 2).map(name) } });
  const dead = summary.lostTerms.filter((t) =>
    summary.map.some((m) => m.term.join("*") === t.join("*") && m.with.length === 0),
  );
  const blocked = new Set(detail.blocks.map((t) => t.join("*")));
  const unseen = dead.filter((t) => !blocked.has(t.join("*")));
  if (unseen.length > 0) out.push({ code: "not-at-all", values: { terms: unseen.slice(0, 3).map(name) } });
  if (detail.blocks.length > 0)
    out.push({
      code: "with-blocks",
      values: {
        terms: detail.blocks.slice(0, 3).map(name),
        more: Math.max(0, detail.blocks.length - 3),
        asked: detail.blocks.some((t) => asked.has(t.join("*"))),
      },
    });
  const leak = detail.leaks.find((l) => l.term.length === 1);
  if (leak && mains.length === 0)
    out.push({
      code: "leaks",
      values: { term: name(leak.term), percent: Math.round(Math.abs(leak.share) * 100), from: name(leak.from) },
    });
  if (summary.strata && !summary.strata.reset && summary.strata.between < LEAST_BETWEEN)
    out.push({ code: "few-between", values: { df: summary.strata.between } });
  else if (summary.noErrorDf) out.push({ code: "no-error-df", values: {} });
  else if (summary.residualDf < 3) out.push({ code: "few-error-df", values: { df: summary.residualDf } });
  if (summary.df.pureError === 0 && !summary.noErrorDf && !allExact(study)) out.push({ code: "no-copies", values: {} });
  if ((detail.largestVif ?? 1) > 5) out.push({ code: "inflated", values: { vif: detail.largestVif ?? 1 } });
  const moved = movedAxial(study, summary);
  if (moved.length > 0) out.push({ code: "axial-moved", values: { factors: moved.slice(0, 3) } });
  if (summary.plan.excluded > 0) out.push({ code: "loses-trials", values: { n: summary.plan.excluded } });
  return out;
}
