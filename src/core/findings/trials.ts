import { kindOf } from "../kinds/results";
import { asAdded, orderColumn } from "../model/checks";
import { storedModel } from "../model/data";
import { exactResponses } from "../model/exact";
import { type Fit, fitModel } from "../model/fit";
import { trialError } from "../model/fitted";
import { linearSurface } from "../model/linear-surface";
import { normalQuantile, tQuantile } from "../numerics/distributions";
import { settingChanges } from "../operator/changes";
import { waiting } from "../rigs";
import { isNumeric, measuredResponses, settingsAsRun, significance } from "../study/coding";
import { StudyError } from "../study/error";
import { measuredValues, resultValue, valueUnit } from "../study/measured";
import { Memo } from "../study/memo";
import { violations } from "../study/region";
import { activeFactors, hardFactors, isUsable } from "../study/roles";
import type { Response, Study, Trial } from "../study/schema";
import { guessedSetups } from "../study/setups";
import { withUnit } from "../words/numbers";
import { type Reading, ranked } from "./reading";

const inOrder = (study: Study): Trial[] => [...study.trials].sort((a, b) => a.order - b.order);

function nextTrial(study: Study): Reading | undefined {
  const next = waiting(study)[0];
  if (!next) return undefined;
  const before = inOrder(study)
    .filter((t) => t.order < next.order && t.state === "done")
    .pop();
  const left = waiting(study).length;
  const settings = before && settingChanges(study, before, next);
  const opens = next.setup !== undefined && (settings?.some((c) => c.reset) ?? hardFactors(study).length > 0);
  return {
    id: "next-trial",
    kind: "next step",
    code: "next-trial",
    values: {
      order: next.order,
      moves:
        settings
          ?.filter((c) => c.changes)
          .map(({ factor: f, from, to }) => ({
            factor: f.name,
            from: String(from),
            to: withUnit(String(to), isNumeric(f) ? f.unit : undefined),
          })) ?? null,
      left,
      setup:
        opens && next.setup !== undefined
          ? {
              number: next.setup,
              same: (settings ?? []).filter((c) => c.reset && !c.changes).map((c) => c.factor.name),
            }
          : null,
    },
    evidence: "ledger",
    weight: 40,
    about: next.id,
    action: { id: "bench", go: "bench", trial: next.id },
  };
}

/** A path of steepest ascent whose response has turned: two results in a row worse than the best so far. */
function reversedReadings(study: Study): Reading[] {
  const wave = [...study.waves].reverse().find((w) => w.plan.family === "ascent");
  const response = study.responses.find((r) => r.id === wave?.plan.response);
  if (!wave || !response) return [];
  const path = inOrder(study).filter((t) => t.wave === wave.id);
  const run = path.filter((t) => isUsable(t) && resultValue(t.results[response.id], response) !== null);
  const sign = response.goal.aim === "lower" ? -1 : 1;
  const values = run.map((t) => sign * (resultValue(t.results[response.id], response) as number));
  if (values.length < 3) return [];
  const best = values.indexOf(Math.max(...values));
  if (best > values.length - 3) return [];
  const waits = path.some((t) => t.state === "planned");
  return [
    {
      id: "path-turned",
      kind: "next step",
      code: "path-turned",
      values: { response: response.name, order: run[best].order, waits },
      evidence: "strip",
      weight: 90,
      about: run[best].id,
      action: { id: "next-wave", go: "plan" },
    },
  ];
}

/** The model stored of a response, or of every factor alone, on its scale. */
function plainFit(study: Study, { id }: Response, memo: Memo): Fit {
  const model = storedModel(study, id);
  const terms = model?.terms ?? activeFactors(study).map((f) => [f.id]);
  return fitModel(study, id, { terms, transform: model?.transform ?? "none" }, memo);
}

/** Trials that a model of the trials before them did not expect: outside the interval for one trial. */
function surprises(study: Study, memo: Memo): Reading[] {
  const out: Reading[] = [];
  for (const r of measuredResponses(study)) {
    const measured = inOrder(study).filter((t) => isUsable(t) && resultValue(t.results[r.id], r) !== null);
    const last = measured[measured.length - 1];
    if (!last || measured.length < 6) continue;
    try {
      const earlier: Study = { ...study, trials: study.trials.filter((t) => t.order < last.order) };
      const fit = plainFit(earlier, r, memo);
      if (fit.dropped.length > 0 || fit.summary.residualDf < 3) continue;
      const result = last.results[r.id];
      // A trial of units is their mean.
      const units = r.several === "units" && Array.isArray(result) ? result.length : 1;
      const expected = linearSurface(earlier, fit, memo).predict(settingsAsRun(last), units);
      const value = resultValue(last.results[r.id], r) as number;
      if (!expected.trialInterval || expected.extrapolates) continue;
      const [low, high] = expected.trialInterval;
      if (value >= low && value <= high) continue;
      out.push({
        id: `surprise-${r.id}`,
        kind: "finding",
        code: "surprise",
        values: {
          order: last.order,
          response: r.name,
          off: value - expected.mean,
          interval: [low, high],
          error: fit.summary.s,
          unit: valueUnit(r),
        },
        evidence: "strip",
        weight: 75,
        about: last.id,
      });
    } catch (error) {
      // No model can be fitted before this trial: nothing to expect, so nothing to say.
      if (!(error instanceof StudyError)) throw error;
    }
  }
  return out;
}

function drift(study: Study, memo: Memo): Reading[] {
  const out: Reading[] = [];
  for (const r of measuredResponses(study)) {
    try {
      const fit = plainFit(study, r, memo);
      if (fit.n < 8 || fit.summary.residualDf < 3) continue;
      const column = orderColumn(fit);
      const slope = column && asAdded(fit, column);
      if (!slope || slope.p >= significance(study)) continue;
      out.push({
        id: `drift-${r.id}`,
        kind: "caution",
        code: "drift",
        values: { response: r.name, slope: slope.coefficient, unit: valueUnit(r), p: slope.p },
        evidence: "strip",
        weight: 70,
        about: r.id,
      });
    } catch (error) {
      // Too little to fit yet; drift is not to be told.
      if (!(error instanceof StudyError)) throw error;
    }
  }
  return out;
}

/** Centres that are looked at for drift while trials run. */
const CENTRES = 3;

/** What a reading of one trial scatters by: as stated, else by the model; nothing where neither can be said. */
function scatterOf(study: Study, response: Response, memo: Memo): { sigma: number; quantile: number } | undefined {
  const half = 1 - significance(study) / 2;
  if (response.noise !== undefined) return { sigma: response.noise, quantile: normalQuantile(half) };
  try {
    const terms = storedModel(study, response.id)?.terms ?? activeFactors(study).map((f) => [f.id]);
    const { summary, model } = fitModel(study, response.id, { terms }, memo);
    const sigma = trialError(model);
    if (summary.residualDf < 3 || sigma === null) return undefined;
    return { sigma, quantile: tQuantile(half, model.setups?.trialDf || summary.residualDf) };
  } catch (error) {
    // Too little to fit yet: nothing to hold a step against.
    if (error instanceof StudyError) return undefined;
    throw error;
  }
}

/**
 * While trials wait: the last three centres of a wave climb, or fall, one after another, from first to last by more
 * than two readings differ by chance.
 */
function centreDrift(study: Study, memo: Memo): Reading[] {
  if (waiting(study).length === 0) return [];
  return measuredResponses(study).flatMap((r): Reading[] => {
    const centres = inOrder(study).filter(
      (t) => t.kind === "centre" && isUsable(t) && resultValue(t.results[r.id], r) !== null,
    );
    const last = centres.filter((t) => t.wave === centres.at(-1)?.wave).slice(-CENTRES);
    if (last.length < CENTRES) return [];
    const values = last.map((t) => resultValue(t.results[r.id], r) as number);
    const steps = values.slice(1).map((v, i) => v - values[i]);
    if (!steps.every((s) => s > 0) && !steps.every((s) => s < 0)) return [];
    const scatter = scatterOf(study, r, memo);
    const change = values[CENTRES - 1] - values[0];
    if (!scatter || Math.abs(change) <= scatter.quantile * Math.SQRT2 * scatter.sigma) return [];
    return [
      {
        id: `centre-drift-${r.id}`,
        kind: "caution",
        code: "centre-drift",
        values: { response: r.name, centres: CENTRES, each: change / (CENTRES - 1), unit: valueUnit(r) },
        evidence: "strip",
        weight: 85,
        about: r.id,
        action: { id: "stop-running" },
      },
    ];
  });
}

/** Trials that failed, with what the last of them said. */
function failedReadings(study: Study): Reading[] {
  const failed = inOrder(study).filter((t) => t.state === "failed");
  const last = failed.at(-1);
  if (!last) return [];
  return [
    {
      id: "failed",
      kind: "caution",
      code: "failed",
      values: { orders: failed.map((t) => t.order), last: last.order, why: last.why ?? null },
      evidence: "ledger",
      weight: 60,
      about: last.id,
    },
  ];
}

/** Responses that come out the same to the last digit: a computation, without noise. */
function exactReadings(study: Study): Reading[] {
  const exact = exactResponses(study);
  if (exact.length === 0) return [];
  return [
    {
      id: "exact",
      kind: "finding",
      code: "exact",
      values: { responses: exact.map((r) => r.name) },
      evidence: "strip",
      weight: 38,
      about: exact[0].id,
    },
  ];
}

/** Trials that hold several values of a response of which nobody said what they are. */
const severalReadings = (study: Study): Reading[] =>
  measuredResponses(study)
    .filter((r) => r.several === undefined && kindOf(r).several)
    .flatMap((r): Reading[] => {
      const trials = inOrder(study).filter((t) => measuredValues(t.results[r.id], r).length > 1);
      if (trials.length === 0) return [];
      return [
        {
          id: `several-${r.id}`,
          kind: "next step",
          code: "several-unsaid",
          values: { response: r.name, trials: trials.length },
          evidence: "ledger",
          weight: 60,
          about: trials[0].id,
          action: { id: "several-repeats", response: r.id },
          other: { id: "several-units", response: r.id },
        },
      ];
    });

/** Hard factors that stayed set over trials in a row, of which no set-ups are marked. */
function setupReadings(study: Study): Reading[] {
  const guessed = study.trials.some((t) => t.state === "done") ? guessedSetups(study) : undefined;
  if (!guessed) return [];
  return [
    {
      id: "mark-setups",
      kind: "caution",
      code: "mark-setups",
      values: { factors: hardFactors(study).map((f) => f.name), ...guessed },
      evidence: "ledger",
      weight: 65,
      action: { id: "mark-setups" },
    },
  ];
}

/** Readings on the Trials station. */
export function trialsReadings(study: Study, memo = new Memo()): Reading[] {
  const out: Reading[] = [];
  if (study.trials.length === 0)
    return [
      {
        id: "no-trials",
        kind: "next step",
        code: "no-trials",
        values: {},
        evidence: "plans",
        weight: 100,
        action: { id: "plans", go: "plan" },
      },
    ];
  const next = nextTrial(study);
  if (next) out.push(next);
  const differing = inOrder(study).filter(
    (t) => t.asRun && Object.entries(t.asRun).some(([id, v]) => t.settings[id] !== v),
  );
  if (differing.length > 0) {
    const t = differing[differing.length - 1];
    const [id, v] = Object.entries(t.asRun ?? {}).find(([k, x]) => t.settings[k] !== x) as [string, number | string];
    const f = study.factors.find((x) => x.id === id);
    out.push({
      id: "as-run-differs",
      kind: "caution",
      code: "as-run-differs",
      values: {
        order: t.order,
        ran: withUnit(String(v), f?.unit),
        planned: String(t.settings[id]),
        more: differing.length - 1,
      },
      evidence: "ledger",
      weight: 45,
      about: t.id,
    });
  }
  const outside = inOrder(study).filter(
    // Within hard limits, where some are stated: axial points stand there as planned.
    (t) => violations(study, settingsAsRun(t), false).length > 0,
  );
  if (outside.length > 0)
    out.push({
      id: "outside-region",
      kind: "caution",
      code: "outside-region",
      values: { orders: outside.map((t) => t.order) },
      evidence: "ledger",
      weight: 35,
      about: outside[0].id,
    });
  const done = study.trials.filter((t) => t.state === "done" && t.use);
  for (const r of measuredResponses(study)) {
    const without = done.filter((t) => resultValue(t.results[r.id], r) === null);
    if (without.length > 0 && without.length < done.length)
      out.push({
        id: `missing-${r.id}`,
        kind: "next step",
        code: "missing",
        values: { response: r.name, orders: without.map((t) => t.order), of: done.length },
        evidence: "ledger",
        weight: 50,
        about: without[0].id,
      });
  }
  out.push(...surprises(study, memo), ...drift(study, memo), ...centreDrift(study, memo), ...reversedReadings(study));
  out.push(...failedReadings(study), ...exactReadings(study), ...setupReadings(study), ...severalReadings(study));
  const ran = study.trials.filter((t) => t.state !== "planned").length;
  if (!next && ran > 0)
    out.push({
      id: "all-run",
      kind: "next step",
      code: "all-run",
      values: { n: study.trials.length },
      evidence: "ladder",
      weight: 42,
      action: { id: "the-model", go: "model" },
    });
  return ranked(out);
}
