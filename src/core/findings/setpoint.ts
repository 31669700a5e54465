import { storedModel } from "../model/data";
import { linearFit } from "../model/linear-surface";
import { askedTerms } from "../plans/asked";
import { type Confirmation, confirmationInterval, missedLimits, setpointTested } from "../setpoint/confirm";
import { limitsOf } from "../setpoint/desirability";
import type { SetpointProblem } from "../setpoint/goals";
import { ifOther } from "../setpoint/other-members";
import type { Candidate, SearchResult } from "../setpoint/search";
import { rangeOf } from "../study/coding";
import { valueUnit } from "../study/measured";
import { allowed, withinRanges } from "../study/region";
import { activeFactors, toleranceOf } from "../study/roles";
import type { Settings, Study, Term } from "../study/schema";
import { alphabetOf, termName } from "../terms/term";
import { modelContext } from "./model-context";
import { ofChoosing } from "./model-doubts";
import { askedOut } from "./model-effects";
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
  return activeFactors(problem.study)
    .flatMap((f) => {
      if (f.kind !== "continuous") return [];
      const [low, high] = rangeOf(f);
      const off = toleranceOf(f) || f.step || (high - low) / 50;
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

/** Before a search: what is missing. */
export function goalReadings(study: Study): Reading[] {
  const out: Reading[] = [];
  const wished = study.responses.filter((r) => r.goal.aim !== "watch");
  if (wished.length === 0)
    out.push({
      id: "no-goals",
      kind: "next step",
      code: "no-goals",
      values: {},
      evidence: "wishes",
      weight: 100,
      action: { id: "question", go: "question" },
    });
  const missing = wished.filter((r) => !storedModel(study, r.id));
  if (missing.length > 0)
    out.push({
      id: "missing-models",
      kind: "next step",
      code: "missing-models",
      values: { responses: missing.map((r) => r.name) },
      evidence: "ladder",
      weight: 95,
      action: { id: "model", go: "model", response: missing[0].id },
    });
  return out;
}

/** Both halves of a confirmation: whether it agrees with the prediction, and whether it meets the limits. */
function confirmationReading(study: Study, tested: Confirmation): Reading {
  const missed = missedLimits(study, tested);
  const common = { evidence: "candidates" as const };
  const n = tested.trials.length;
  if (tested.agrees && missed.length === 0)
    return {
      ...common,
      id: "confirmed",
      kind: "finding",
      code: "confirmed",
      values: { trials: n, limits: tested.meetsLimits !== null },
      weight: 94,
    };
  if (tested.agrees)
    return {
      ...common,
      id: "confirmed-short",
      kind: "caution",
      code: "confirmed-short",
      values: { trials: n, missed },
      weight: 98,
    };
  return {
    ...common,
    id: "not-confirmed",
    kind: "caution",
    code: "not-confirmed",
    values: { missed, meetsLimits: tested.meetsLimits === true, suspect: tested.suspects[0] ?? null },
    weight: 99,
  };
}

const nameOf = (study: Study, id: string): string => study.responses.find((r) => r.id === id)?.name ?? id;

/** What Model warns of, and chains that change the answer: some settings rest on it. Each response costs fits. */
export const setpointDoubts = (problem: SetpointProblem, settings: Settings): Reading[] => [
  ...chained(problem, settings),
  ...ofModels(problem),
];

/**
 * Readings on the Setpoint station after a search.
 * @param rest what they rest on, where it was worked out already
 */
export function setpointReadings(
  problem: SetpointProblem,
  result: SearchResult,
  rest: readonly Reading[] = setpointDoubts(problem, result.candidates[0].settings),
): Reading[] {
  const top = result.candidates[0];
  return ranked([
    ...worth(problem, result, top),
    ...fromScreens(problem),
    ...openBest(result, top),
    ...chances(problem, top),
    ...doubts(problem, top),
    ...rest,
    ...controlled(problem, top),
    ...againstTrials(problem, top),
    ...ofChosen(problem, top),
  ]);
}

/** How good the best is that can be set, or which goals fight and how near the best compromise comes to each. */
function worth(problem: SetpointProblem, result: SearchResult, top: Candidate): Reading[] {
  if (top.overall > 0)
    return [
      {
        id: "best-settable",
        kind: "finding",
        code: "best-settable",
        values: { of: result.lattice, overall: top.overall, exact: result.best.overall },
        evidence: "candidates",
        weight: 90,
      },
    ];
  const short = problem.responses
    .filter((r) => top.responses[r.id]?.desirability === 0)
    .map((r) => {
      const { mean } = top.responses[r.id];
      const { low, high } = limitsOf(r.goal);
      return { response: r.name, mean, limit: mean < low ? low : high, unit: valueUnit(r) };
    });
  const met = problem.responses.filter((r) => (top.responses[r.id]?.desirability ?? 0) > 0).map((r) => r.name);
  return [
    {
      id: "nothing-meets",
      kind: "caution",
      code: "nothing-meets",
      values: { short, met },
      evidence: "candidates",
      weight: 100,
    },
  ];
}

/** Chance that one future trial meets every limit, and what holds it down. */
/** Trials of a confirmation as it is first offered. */
const FEW = 3;
/** Share of draws below which it is open which settings are best. */
const SURE = 0.8;

/** That a setpoint comes from trials that were made to rank factors alone. */
function fromScreens({ study, responses, predictors }: SetpointProblem): Reading[] {
  const screened = responses.filter((r) => {
    const fit = linearFit(predictors.get(r.id));
    if (!fit || fit.data.setups || activeFactors(study).length < 3) return false;
    return askedTerms(study, fit.data.trials).every((t) => t.length === 1);
  });
  if (screened.length === 0) return [];
  return [
    {
      id: "screened",
      kind: "caution",
      code: "screened",
      values: { responses: screened.map((r) => r.name) },
      evidence: "candidates",
      weight: 91,
      action: { id: "next-wave", go: "plan" },
    },
  ];
}

/** That noise leaves open which settings are best. */
function openBest({ sure }: SearchResult, top: Candidate): Reading[] {
  if (!sure || sure.share >= SURE || top.overall === 0) return [];
  return [
    {
      id: "open-best",
      kind: "caution",
      code: "open-best",
      values: { share: sure.share, within: sure.within },
      evidence: "candidates",
      weight: 89,
      action: { id: "next-wave", go: "plan" },
    },
  ];
}

function chances({ study }: SetpointProblem, top: Candidate): Reading[] {
  if (top.chance === null || !top.chances)
    return [{ id: "no-chance", kind: "caution", code: "no-chance", values: {}, evidence: "candidates", weight: 80 }];
  const waves = top.asIn && top.asIn.differ.length > 0 && top.asIn.chance !== null ? top.asIn : null;
  const [id, least] = Object.entries(top.chances).sort((a, b) => a[1] - b[1])[0];
  const out: Reading[] = [
    {
      id: "chance",
      kind: "finding",
      code: "chance",
      values: {
        chance: top.chance,
        settingErrors: study.factors.some((f) => toleranceOf(f) > 0),
        waves: waves && {
          apart: waves.differ.map((r) => nameOf(study, r)),
          last: study.waves.find((w) => w.id === waves.wave)?.name ?? waves.wave,
          chance: waves.chance ?? 0,
        },
        weakest: least < 0.995 ? { response: nameOf(study, id), chance: least } : null,
      },
      evidence: "candidates",
      weight: 85,
    },
  ];
  if (top.chance < 0.5 && top.overall > 0)
    out.push({
      id: "low-chance",
      kind: "caution",
      code: "low-chance",
      values: { response: nameOf(study, id) },
      evidence: "candidates",
      weight: 92,
    });
  return out;
}

/** What the models that a setpoint comes from are warned of where they were chosen: it holds here as well. */
function ofModels({ study, responses, predictors, memo }: SetpointProblem): Reading[] {
  return responses.flatMap((r) => {
    const fit = linearFit(predictors.get(r.id));
    if (!fit) return [];
    const context = modelContext(study, fit, memo);
    return [...askedOut(context), ...ofChoosing(context)].map(
      (reading): Reading => ({
        ...reading,
        id: `${reading.id}-${r.id}`,
        evidence: "candidates",
        action: { id: "the-model", go: "model", response: r.id },
      }),
    );
  });
}

/** Chains looked at for whether another member of theirs would change the answer: each costs a fit. */
const MOST_CHAINS = 3;

/** Chains that change the answer: were it another of their members that acts, other settings would be better. */
function chained(problem: SetpointProblem, settings: Settings): Reading[] {
  const { study, responses, predictors, memo } = problem;
  const alphabet = alphabetOf(study);
  const looked = responses.flatMap((r) => {
    const fit = linearFit(predictors.get(r.id));
    if (!fit || problem.overall(settings) === 0) return [];
    const { active } = modelContext(study, fit, memo);
    const acting = new Set(active.flatMap(({ term }) => (term.length === 1 ? term : [])));
    // In place of a main effect only a pair whose own mains act is to be expected.
    const likely = (term: Term, other: Term): boolean =>
      other.length === 2 && (term.length > 1 || other.every((id) => acting.has(id) && id !== term[0]));
    // The weaker one is, the likelier it is another.
    const weakest = active.toSorted((a, b) => Math.abs(a.size ?? 0) - Math.abs(b.size ?? 0));
    return weakest.flatMap(({ term, aliases }) =>
      aliases.filter((other) => likely(term, other)).map((other) => ({ r, fit, term, other })),
    );
  });
  return looked
    .slice(0, MOST_CHAINS)
    .flatMap(({ r, fit, term, other }) => {
      const found = ifOther(problem, fit, settings, term, other);
      return found ? [{ r, found }] : [];
    })
    .slice(0, 1)
    .map(
      ({ r, found }): Reading => ({
        id: "chained",
        kind: "caution",
        code: "chained",
        values: {
          response: r.name,
          term: termName(alphabet, found.term),
          other: termName(alphabet, found.other),
          promised: found.promised,
          here: found.here,
          best: found.best,
        },
        evidence: "candidates",
        weight: 90,
        action: { id: "next-wave", go: "plan" },
      }),
    );
}

/** What the best rests on that trials do not show. */
function doubts(problem: SetpointProblem, top: Candidate): Reading[] {
  const { study } = problem;
  const out: Reading[] = [];
  const assumed = problem.responses.flatMap((r) => {
    const ratio = problem.predictors.get(r.id)?.assumed;
    return ratio === undefined ? [] : [{ response: r.name, ratio }];
  });
  if (assumed.length > 0)
    out.push({
      id: "assumed",
      kind: "caution",
      code: "assumed-setpoint",
      values: { assumed },
      evidence: "candidates",
      weight: 87,
    });
  const few = problem.responses.filter((r) => {
    const error = problem.predictors.get(r.id)?.error;
    return error !== undefined && !error.exact && error.residualDf < FEW_DF;
  });
  if (few.length > 0)
    out.push({
      id: "few-df",
      kind: "caution",
      code: "few-df-setpoint",
      values: { responses: few.map((r) => r.name), least: FEW_DF },
      evidence: "candidates",
      weight: 86,
    });
  const far = Object.entries(top.responses).filter(([, r]) => r.extrapolates);
  if (far.length > 0)
    out.push({
      id: "extrapolates",
      kind: "caution",
      code: "extrapolates",
      values: { responses: far.map(([id]) => nameOf(study, id)) },
      evidence: "candidates",
      weight: 88,
    });
  const broken = Object.entries(top.responses).filter(([, r]) => r.breaksBounds);
  if (broken.length > 0)
    out.push({
      id: "breaks-bounds",
      kind: "caution",
      code: "breaks-bounds",
      values: { responses: broken.map(([id]) => nameOf(study, id)) },
      evidence: "candidates",
      weight: 87,
    });
  return out;
}

/** The factors to keep an eye on: those whose setting error costs most. */
function controlled(problem: SetpointProblem, top: Candidate): Reading[] {
  const sensitive = sensitivity(problem, top.settings).filter((s) => s.loss >= 0.005);
  if (sensitive.length === 0) return [];
  return [
    {
      id: "control",
      kind: "finding",
      code: "control",
      values: {
        factors: sensitive.slice(0, 2).map((s) => {
          const f = problem.study.factors.find((x) => x.id === s.factor);
          return { name: f?.name ?? s.factor, off: s.off, unit: f?.unit ?? "", loss: s.loss };
        }),
      },
      evidence: "candidates",
      weight: 60,
    },
  ];
}

/** What is gained over the best of the trials run. */
function againstTrials(problem: SetpointProblem, top: Candidate): Reading[] {
  const best = bestTrial(problem);
  if (!best || top.overall <= 0) return [];
  return [
    {
      id: "against-best",
      kind: "finding",
      code: "against-best",
      values: { order: best.order, overall: best.overall, gain: top.overall - best.overall },
      evidence: "map",
      weight: 50,
    },
  ];
}

/** What becomes of the setpoint: to be chosen, chosen anew, confirmed. */
function ofChosen(problem: SetpointProblem, top: Candidate): Reading[] {
  const { study } = problem;
  const chosen = study.setpoint;
  const about = { values: {}, evidence: "candidates" } as const;
  if (!chosen)
    return top.overall > 0 ? [{ ...about, id: "choose", kind: "next step", code: "choose", weight: 65 }] : [];
  if (!activeFactors(study).every((f) => chosen.settings[f.id] !== undefined))
    return [{ ...about, id: "setpoint-incomplete", kind: "next step", code: "setpoint-incomplete", weight: 89 }];
  if (!withinRanges(study.factors, chosen.settings) || !allowed(study, chosen.settings))
    return [{ ...about, id: "setpoint-outside", kind: "caution", code: "setpoint-outside", weight: 91 }];
  const now = problem.overall(chosen.settings);
  if (top.overall - now > 0.02)
    return [
      {
        ...about,
        id: "setpoint-older",
        kind: "next step",
        code: "setpoint-older",
        values: { now, best: top.overall },
        weight: 82,
      },
    ];
  return confirming(problem, chosen.settings);
}

/** How far the setpoint chosen is confirmed, or what trials there should show. */
function confirming(problem: SetpointProblem, settings: Settings): Reading[] {
  const { study, memo } = problem;
  const tested = setpointTested({ ...study, setpoint: { settings, held: [] } }, memo);
  if (tested && tested.agrees !== null) return [confirmationReading(study, tested)];
  if (tested)
    return [
      {
        id: "confirming",
        kind: "next step",
        code: "confirming",
        values: { done: tested.trials.filter((t) => t.state === "done").length, of: tested.trials.length },
        evidence: "candidates",
        weight: 70,
        action: { id: "trials", go: "trials" },
      },
    ];
  const judged = study.responses.filter((r) => storedModel(study, r.id) && !r.spread).length;
  const means = problem.responses.flatMap((r) => {
    if (r.spread) return [];
    const { interval, last } = confirmationInterval(study, r.id, settings, FEW, judged, { memo });
    const near = last?.interval ?? interval;
    if (!near) return [];
    return [
      {
        response: r.name,
        interval: near,
        // About its standard error, whatever scale the response is fitted on.
        error: (near[1] - near[0]) / 4,
        decimals: r.decimals ?? null,
        unit: valueUnit(r),
      },
    ];
  });
  if (means.length === 0) return [];
  return [
    {
      id: "confirm",
      kind: "next step",
      code: "confirm",
      values: { means: means.slice(0, 3) },
      evidence: "candidates",
      weight: 70,
    },
  ];
}
