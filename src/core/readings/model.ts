import { regionSample } from "../appraisal/variance";
import { pText, runChecks } from "../model/checklist";
import type { Check } from "../model/checks";
import { unseenLevels } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import { effectLadder, type Rung } from "../model/ladder";
import { activeFactors, isNumeric, rangeOf } from "../study/coding";
import type { Settings, Study, Term } from "../study/schema";
import { presentPredictor } from "../surface/average";
import { predictor } from "../surface/predict";
import { parentsPresent } from "../terms/candidates";
import { type Alphabet, alphabetOf, termKey, termLetters, termName } from "../terms/term";
import { FEW_DF, figure, fixed, listed, type Reading, ranked, rounded, withUnit } from "./reading";

/** How much the numbers of a reading matter: active terms before cautions on small print. */
const WEIGHTS = {
  noDf: 100,
  dropped: 88,
  drivers: 90,
  curvature: 86,
  alias: 84,
  influential: 80,
  lackOfFit: 76,
  overfit: 74,
  wave: 60,
  bounds: 72,
  check: 66,
  idle: 40,
  nothing: 92,
  parents: 50,
};

/** The lower-case start of a name inside a sentence is kept as the person wrote it. */
const nameOf = (study: Study, id: string): string => study.factors.find((f) => f.id === id)?.name ?? id;

/** What an active interaction does: the effect of its first numeric factor at both ends of the second. */
function together(study: Study, fit: Fit, term: Term): string | undefined {
  const [a, b] = term.map((id) => study.factors.find((f) => f.id === id));
  if (!a || !b) return undefined;
  const mover = isNumeric(a) ? a : isNumeric(b) ? b : undefined;
  const other = mover === a ? b : a;
  if (!mover) return undefined;
  const read = predictor(study, fit);
  const base: Settings = Object.fromEntries(
    study.factors.map((f) => [f.id, isNumeric(f) ? (rangeOf(f)[0] + rangeOf(f)[1]) / 2 : f.levels[0]]),
  );
  const [low, high] = rangeOf(mover);
  const ends: (number | string)[] = isNumeric(other)
    ? rangeOf(other)
    : [other.levels[0], other.levels[other.levels.length - 1]];
  const change = ends.map(
    (e) =>
      read.value({ ...base, [other.id]: e, [mover.id]: high }) -
      read.value({ ...base, [other.id]: e, [mover.id]: low }),
  );
  const error = fit.model.link.identity ? fit.summary.s : null;
  const levelText = (e: number | string): string => (isNumeric(other) ? withUnit(String(e), other.unit) : String(e));
  return `from low to high ${mover.name} changes it by ${rounded(change[0], error)} at ${other.name} ${levelText(ends[0])} but by ${rounded(change[1], error)} at ${levelText(ends[1])}`;
}

function drivers(
  study: Study,
  fit: Fit,
  active: readonly Rung[],
  unit: string | undefined,
  responseName: string,
): Reading[] {
  const alphabet = alphabetOf(study);
  if (active.length === 0)
    return fit.summary.residualDf > 0 && fit.terms.length > 0 && !fit.model.exact
      ? [
          {
            id: "nothing-active",
            kind: "finding",
            text: `No term of ${responseName} stands clear of the noise (s ${rounded(fit.summary.s ?? 0, fit.summary.s)}${unit ? ` ${unit}` : ""}). It may be steady over these ranges, or the effects are smaller than these trials can see.`,
            evidence: "ladder",
            weight: WEIGHTS.nothing,
          },
        ]
      : [];
  const mains = active.filter((r) => r.term.length === 1);
  const pairs = active.filter((r) => r.term.length === 2 && r.term[0] !== r.term[1]);
  const out: Reading[] = [];
  const lead = (mains.length > 0 ? mains : active).slice(0, 3);
  const sizes = lead.map((r) => `${r.name} ${rounded(r.size ?? 0, fit.summary.s)}`);
  out.push({
    id: "drivers",
    kind: "finding",
    text: `${listed(lead.map((r) => r.name))} ${lead.length === 1 ? "drives" : "drive"} ${responseName}: ${sizes.join(", ")}${unit ? ` ${unit}` : ""} from low to high.`,
    evidence: "ladder",
    weight: WEIGHTS.drivers,
    about: lead[0].key,
  });
  for (const pair of pairs.slice(0, 2)) {
    const how = together(study, fit, pair.term);
    if (how)
      out.push({
        id: `together-${pair.key}`,
        kind: "finding",
        text: `${termName(alphabet, pair.term)} act together: ${how}. Read the two as a pair.`,
        evidence: "pairs",
        weight: WEIGHTS.drivers - 1,
        about: pair.key,
      });
  }
  for (const square of active.filter((r) => r.term.length === 2 && r.term[0] === r.term[1]).slice(0, 2))
    out.push({
      id: `bend-${square.key}`,
      kind: "finding",
      text: `${nameOf(study, square.term[0])} bends: its edges lie ${rounded(Math.abs(square.size ?? 0), fit.summary.s)}${unit ? ` ${unit}` : ""} ${(square.size ?? 0) > 0 ? "above" : "below"} the straight line through its middle${square.interval ? ` (${rounded(square.interval[0], fit.summary.s)} to ${rounded(square.interval[1], fit.summary.s)})` : ""}.`,
      evidence: "ladder",
      weight: WEIGHTS.drivers - 4,
      about: square.key,
    });
  return out;
}

/**
 * Weighs the members of an active term's chain by which main effects are active (effect heredity; Hamada & Wu 1992).
 */
function chains(study: Study, active: readonly Rung[]): Reading[] {
  const alphabet = alphabetOf(study);
  const activeMains = new Set(active.filter((r) => r.term.length === 1).map((r) => r.term[0]));
  const heredity = (t: Term): number => new Set(t.filter((id) => activeMains.has(id))).size;
  return active
    .filter((r) => r.aliases.length > 0)
    .slice(0, 3)
    .map((r): Reading => {
      const others = r.aliases.map((t) => termName(alphabet, t));
      const members = [r.term, ...r.aliases];
      const best = Math.max(...members.map(heredity));
      const likely = members.filter((t) => heredity(t) === best);
      const judged =
        r.term.length === 1
          ? "A main effect is the likelier, but it is not proved."
          : likely.length === 1
            ? `${termName(alphabet, likely[0])} is the likelier: ${best === 2 ? "both its factors are" : "one of its factors is"} active on ${best === 2 ? "their" : "its"} own${termKey(likely[0]) === r.key ? "" : ", so swap it in"}.`
            : `${listed(likely.map((t) => termLetters(alphabet, t)))} are equally likely.`;
      return {
        id: `alias-${r.key}`,
        kind: "caution",
        text: `${r.name} cannot be told from ${listed(others.slice(0, 3))}${others.length > 3 ? ` and ${others.length - 3} more` : ""} in these trials. ${judged} A fold-over wave, or the missing fraction, would part them.`,
        evidence: "chains",
        weight: WEIGHTS.alias,
        about: r.key,
        action: { label: "Weigh the next wave", go: "plan" },
      };
    });
}

/** What the fit says without its most influential trial. */
function influential(
  study: Study,
  fit: Fit,
  checks: readonly Check[],
  response: string,
  unit: string | undefined,
): Reading[] {
  if (!checks.find((c) => c.id === "single")?.concern) return [];
  const pick = fit.trials.reduce((a, b) =>
    Math.max(b.cooks ?? 0, Math.abs(b.deleted ?? 0) / 10) > Math.max(a.cooks ?? 0, Math.abs(a.deleted ?? 0) / 10)
      ? b
      : a,
  );
  const trial = study.trials.find((t) => t.id === pick.id);
  if (!trial) return [];
  const without = fitModel(
    { ...study, trials: study.trials.map((t) => (t.id === pick.id ? { ...t, use: false } : t)) },
    response,
    {
      terms: fit.terms,
      transform: fit.transform,
      block: fit.block,
    },
  );
  let worst: { name: string; before: number; after: number } | undefined;
  const alphabet = alphabetOf(study);
  for (const p of fit.parameters) {
    if (p.term.length === 0 || p.term[0] === "@wave") continue;
    const q = without.parameters.find((x) => termKey(x.term) === termKey(p.term) && x.level === p.level);
    if (q && (!worst || Math.abs(q.coefficient - p.coefficient) > Math.abs(worst.after - worst.before)))
      worst = { name: termName(alphabet, p.term), before: p.coefficient, after: q.coefficient };
  }
  const s = fit.summary.s;
  const off = `${figure(Math.abs(pick.deleted ?? pick.studentized ?? 0))} standard errors off`;
  const distance = pick.cooks === null ? "" : `Cook's distance ${figure(pick.cooks)}, `;
  const spread = `s goes from ${rounded(s ?? 0, s)} to ${rounded(without.summary.s ?? 0, s)}${unit ? ` ${unit}` : ""}`;
  const moved = worst
    ? ` and the coefficient of ${worst.name} from ${rounded(worst.before, s)} to ${rounded(worst.after, s)}`
    : "";
  return [
    {
      id: "influential",
      kind: "caution",
      text: `Trial ${trial.order} rules part of the fit (${distance}${off}). Without it ${spread}${moved}.`,
      evidence: "checks",
      weight: WEIGHTS.influential,
      about: trial.id,
    },
  ];
}

/** A column by its term and level. */
const columnName = (alphabet: Alphabet, { term, level }: { term: Term; level?: string | undefined }): string =>
  `${termName(alphabet, term)}${level === undefined ? "" : `[${level}]`}`;

/** Columns times their factors, as a sum. */
const sumText = (
  alphabet: Alphabet,
  parts: readonly { term: Term; level?: string | undefined; factor: number }[],
): string =>
  [...parts]
    .sort((a, b) => Number(b.factor > 0) - Number(a.factor > 0))
    .map((e, i) => {
      const sign = e.factor < 0 ? (i === 0 ? "−" : " − ") : i === 0 ? "" : " + ";
      const size = Math.abs(e.factor);
      // Factors come out of a decomposition: 1 within rounding is 1.
      return `${sign}${Math.abs(size - 1) < 1e-9 ? "" : `${figure(size)} `}${columnName(alphabet, e)}`;
    })
    .join("");

/** What would keep predictions within bounds: a scale that ends where they do, never the one in use. */
function scaleThatHolds(
  { min, max }: { min?: number | undefined; max?: number | undefined },
  values: readonly number[],
  { transform }: Fit,
): string {
  const below = min !== undefined && values.some((v) => v < min);
  const above = max !== undefined && values.some((v) => v > max);
  if (min === 0 && max === 1 && transform === "none")
    return "Another scale, such as logit or arcsine of root, would hold it.";
  if (below && !above && min === 0 && transform !== "log") return "Another scale, such as log, would hold it.";
  return "No scale offered here ends there: read predictions near it as what cannot be reached.";
}

/**
 * Readings on the Model station for one response.
 *
 * @param checks the checks of the fit, where they were answered already
 */
// Long: one reading after another, each on its own.
export function modelReadings(study: Study, fit: Fit, checks: readonly Check[] = runChecks(study, fit)): Reading[] {
  const alpha = 1 - study.confidence;
  const response = study.responses.find((r) => r.id === fit.response);
  const name = response?.name ?? fit.response;
  // What stands behind every size: the response's unit, or the scale it is fitted on.
  const { link, units } = fit.model;
  const unit = link.identity ? units : `on the ${link.name} scale`;
  const { rungs } = effectLadder(study, fit);
  const active = rungs.filter((r) => r.inModel && r.p !== null && r.p < alpha);
  const out: Reading[] = [];
  const { summary } = fit;
  if (summary.residualDf === 0)
    out.push({
      id: "no-residual-df",
      kind: "caution",
      text: `${fit.parameters.length} coefficients on ${fit.n} results: nothing is left to judge noise by. Take quiet terms out, or read the half-normal plot.`,
      evidence: "half-normal",
      weight: WEIGHTS.noDf,
    });
  else if (summary.residualDf < FEW_DF && !fit.model.exact)
    out.push({
      id: "few-df",
      kind: "caution",
      text: `Only ${summary.residualDf} ${summary.residualDf === 1 ? "degree of freedom judges" : "degrees of freedom judge"} the noise of ${name}: intervals and p hang on ${summary.residualDf === 1 ? "it" : "them"}. Take quiet terms out, or run more trials.`,
      evidence: "ladder",
      weight: WEIGHTS.noDf,
    });
  out.push(...drivers(study, fit, active, unit, name), ...chains(study, active));
  if (fit.dropped.length > 0) {
    const d = fit.dropped[0];
    const alphabet = alphabetOf(study);
    const names = [...new Set(fit.dropped.map((x) => columnName(alphabet, x)))].slice(0, 3);
    out.push({
      id: "dropped",
      kind: "caution",
      text: `${listed(names)} cannot be estimated beside the rest${d.equals.length > 0 ? `: ${columnName(alphabet, d)} = ${sumText(alphabet, d.equals)}` : ""}.`,
      evidence: "table",
      weight: WEIGHTS.dropped,
    });
  }
  for (const u of unseenLevels(study, fit.data, fit.terms))
    out.push({
      id: `unseen-${u.factor}`,
      kind: "caution",
      text: `No trial of ${name} ran at ${nameOf(study, u.factor)} ${listed(u.levels)}: nothing is known there, and predictions for it are only what the other levels leave over.`,
      evidence: "equation",
      weight: WEIGHTS.dropped + 1,
    });
  if (fit.curvature && fit.curvature.p !== null && fit.curvature.p < alpha)
    out.push({
      id: "curvature",
      kind: "caution",
      text: `The centre does not lie where straight lines put it (${pText(fit.curvature.p)}): at least one factor bends, and these trials cannot say which. Axial points would.`,
      evidence: "table",
      weight: WEIGHTS.curvature,
      action: { label: "Weigh the next wave", go: "plan" },
    });
  if (fit.lackOfFit && fit.lackOfFit.p !== null && fit.lackOfFit.p < alpha)
    out.push({
      id: "lack-of-fit",
      kind: "caution",
      text: `The model misses more than repeats explain: lack of fit F ${figure(fit.lackOfFit.f ?? 0, 3)} on ${fit.lackOfFit.df} and ${fit.lackOfFit.pureErrorDf} df (${pText(fit.lackOfFit.p)}). A term is missing or a scale would help.`,
      evidence: "table",
      weight: WEIGHTS.lackOfFit,
    });
  if (summary.r2 !== null && summary.r2Predicted !== null && summary.r2 - summary.r2Predicted > 0.2)
    out.push({
      id: "overfit",
      kind: "caution",
      text: `R² is ${summary.r2.toFixed(2)} but predicted R² only ${fixed(summary.r2Predicted, 2)}: the model follows these trials better than it will follow the next. Reduce it.`,
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  const waves = fit.parameters.filter((p) => p.term[0] === "@wave");
  if (waves.length === 1 && waves[0].interval && waves[0].p !== null && waves[0].p < alpha) {
    const w = waves[0];
    const [low, high] = waves[0].interval;
    out.push({
      id: "wave-shift",
      kind: "finding",
      text: `${w.level} lies ${rounded(Math.abs(2 * w.coefficient), summary.s)}${unit ? ` ${unit}` : ""} ${w.coefficient > 0 ? "above" : "below"} the wave before it (${rounded(2 * low, summary.s)} to ${rounded(2 * high, summary.s)}). It is in the model as a block.`,
      evidence: "checks",
      weight: WEIGHTS.wave,
    });
  }
  out.push(...influential(study, fit, checks, fit.response, unit));
  for (const c of checks)
    if (
      c.concern &&
      (c.id === "bell" || c.id === "spread" || c.id === "spread-factor" || c.id === "order" || c.id === "scale")
    )
      out.push({
        id: `check-${c.id}`,
        kind: "caution",
        text: `${c.question} ${c.answer}`,
        evidence: "checks",
        weight: WEIGHTS.check,
        about: c.id,
      });
  const keys = new Set(fit.terms.map(termKey));
  const orphans = fit.terms.filter((t) => !parentsPresent(t, keys, "strong"));
  if (orphans.length > 0)
    out.push({
      id: "orphans",
      kind: "caution",
      text: `${listed(orphans.slice(0, 3).map((t) => termName(alphabetOf(study), t)))} ${orphans.length === 1 ? "stands" : "stand"} in the model without ${orphans.length === 1 ? "its" : "their"} main effects; such a model changes with the coding.`,
      evidence: "ladder",
      weight: WEIGHTS.parents,
    });
  const bounds = response?.bounds;
  if (bounds && (bounds.min !== undefined || bounds.max !== undefined)) {
    const read = presentPredictor(study, fit.response, fit);
    const values = regionSample(study, 400).map((s) => read.value(s));
    const beyond = values.filter(
      (v) => v < (bounds.min ?? Number.NEGATIVE_INFINITY) || v > (bounds.max ?? Number.POSITIVE_INFINITY),
    ).length;
    if (beyond > 0)
      out.push({
        id: "beyond-bounds",
        kind: "caution",
        text: `In about ${Math.max(1, Math.round((100 * beyond) / values.length))} % of the region the model gives ${name} values that cannot be (${bounds.min !== undefined && values.some((v) => v < (bounds.min as number)) ? `below ${bounds.min}` : `above ${bounds.max}`}). ${scaleThatHolds(bounds, values, fit)}`,
        evidence: "map",
        weight: WEIGHTS.bounds,
      });
  }
  if (summary.residualDf >= 3 && !fit.model.exact) {
    const idle = activeFactors(study).filter((f) => {
      const withFactor = rungs.filter((r) => r.term.includes(f.id) && !r.lost);
      return (
        withFactor.length > 0 &&
        withFactor.some((r) => r.term.length === 1) &&
        withFactor.every((r) => r.p !== null && r.p >= alpha)
      );
    });
    if (idle.length > 0 && active.length > 0)
      out.push({
        id: "idle",
        kind: "finding",
        text: `${listed(idle.map((f) => f.name))} ${idle.length === 1 ? "looks" : "look"} idle for ${name}: no term with ${idle.length === 1 ? "it" : "them"} stands clear of noise.`,
        evidence: "ladder",
        weight: WEIGHTS.idle,
      });
  }
  return ranked(out);
}
