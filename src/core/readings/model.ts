import { regionSample } from "../appraisal/variance";
import { type Check, runChecks } from "../model/checklist";
import { storedModel, unseenLevels } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import { type Clarity, effectLadder, type Rung } from "../model/ladder";
import type { StandingRung } from "../model/standing";
import { partingWaves } from "../plans/follow-up/parting";
import { activeFactors, centreSettings, isNumeric, rangeOf, significance } from "../study/coding";
import type { Settings, Study, Term } from "../study/schema";
import { steepestAscent } from "../surface/ascent";
import { presentPredictor } from "../surface/average";
import { predictor } from "../surface/predict";
import { parentsPresent } from "../terms/candidates";
import { type Alphabet, alphabetOf, ofFactors, termKey, termLetters, termName, WAVE_TERM } from "../terms/term";
import { answerOf, questionOf } from "../words/answers";
import { figure, fixed, listed, pText, rounded, withUnit } from "../words/numbers";
import { climbReading } from "./climb";
import { FEW_DF, type Reading, ranked } from "./reading";

/** How much the numbers of a reading matter: active terms before cautions on small print. */
const WEIGHTS = {
  leftOut: 91,
  likely: 85,
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
  const slope = (e: number | string): number =>
    read.value({ ...base, [other.id]: e, [mover.id]: high }) - read.value({ ...base, [other.id]: e, [mover.id]: low });
  // Of a category the two levels that lie farthest apart, the largest first.
  const ends: (number | string)[] = isNumeric(other)
    ? rangeOf(other)
    : [...other.levels]
        .filter((l) => !unseenLevels(study, fit.data, [[other.id]]).some((u) => u.levels.includes(l)))
        .sort((a, b) => slope(b) - slope(a))
        .filter((_, i, all) => i === 0 || i === all.length - 1);
  if (ends.length < 2) return undefined;
  const change = ends.map(slope);
  const error = fit.model.link.identity ? fit.summary.s : null;
  const levelText = (e: number | string): string => (isNumeric(other) ? withUnit(String(e), other.unit) : String(e));
  return `from low to high ${mover.name} changes it by ${rounded(change[0], error)} at ${other.name} ${levelText(ends[0])} but by ${rounded(change[1], error)} at ${levelText(ends[1])}`;
}

/** A main effect in words: its size from low to high, or from one level of a category to another. */
function sizeText(rung: Rung, error: number | null, unit: string | undefined): string {
  const { span } = rung;
  return span
    ? `${withUnit(rounded(span.size, error), unit)} from ${span.from} to ${span.to}`
    : `${withUnit(rounded(rung.size ?? 0, error), unit)}${rung.term.length === 1 ? " from low to high" : ""}`;
}

/** What stands out of a model though it should be in it, the most telling first. */
const leftOut = (rungs: readonly Rung[]): Rung[] =>
  rungs
    .filter((r) => !r.inModel && !r.lost && r.clarity !== null && r.clarity !== "quiet")
    .sort((a, b) => (a.p ?? 1) - (b.p ?? 1));

function drivers(
  study: Study,
  fit: Fit,
  rungs: readonly Rung[],
  unit: string | undefined,
  responseName: string,
): Reading[] {
  const alphabet = alphabetOf(study);
  const { s } = fit.summary;
  const active = rungs.filter((r) => r.inModel && r.clarity !== null && r.clarity !== "quiet");
  const out: Reading[] = [];
  const [missed] = leftOut(rungs).filter((r) => r.clarity === "drives");
  if (missed && !fit.model.exact)
    out.push({
      id: "left-out",
      kind: "caution",
      text: `Something left out of the model of ${responseName} is large: take in ${missed.name} (${sizeText(missed, s, unit)}, ${pText(missed.p ?? 1)}).`,
      evidence: "ladder",
      weight: WEIGHTS.leftOut,
      about: missed.key,
    });
  const bent = fit.curvature?.p !== undefined && fit.curvature.p !== null && fit.curvature.p < significance(study);
  if (active.length === 0) {
    if (leftOut(rungs).length > 0 || bent) return out;
    if (fit.summary.residualDf > 0 && fit.terms.length > 0 && !fit.model.exact)
      out.push({
        id: "nothing-active",
        kind: "finding",
        text: `No term of ${responseName} stands clear of the noise (s ${withUnit(rounded(s ?? 0, s), unit)}). It may be steady over these ranges, or the effects are smaller than these trials can see.`,
        evidence: "ladder",
        weight: WEIGHTS.nothing,
      });
    return out;
  }
  const byClarity = (clarity: Clarity): Rung[] => active.filter((r) => r.clarity === clarity);
  const sure = byClarity("drives");
  const mains = sure.filter((r) => r.term.length === 1);
  const lead = (mains.length > 0 ? mains : sure).slice(0, 3);
  if (lead.length > 0)
    out.push({
      id: "drivers",
      kind: "finding",
      text: `${listed(lead.map((r) => r.name))} ${lead.length === 1 ? "drives" : "drive"} ${responseName}: ${lead.map((r) => `${lead.length > 1 ? `${r.name} ` : ""}${sizeText(r, s, unit)}`).join(", ")}.`,
      evidence: "ladder",
      weight: WEIGHTS.drivers,
      about: lead[0].key,
    });
  const likely = byClarity("likely").slice(0, 3);
  if (likely.length > 0)
    out.push({
      id: "likely",
      kind: "finding",
      text: `${listed(likely.map((r) => r.name))} likely ${likely.length === 1 ? "acts" : "act"} on ${responseName}: ${likely.map((r) => `${likely.length > 1 ? `${r.name} ` : ""}${sizeText(r, s, unit)} (${pText(r.p ?? 1)})`).join(", ")}. Of ${rungs.filter((r) => !r.lost).length} terms looked at, one in twenty passes by chance.`,
      evidence: "ladder",
      weight: WEIGHTS.likely,
      about: likely[0].key,
    });
  for (const pair of active.filter((r) => r.term.length === 2 && r.term[0] !== r.term[1]).slice(0, 2)) {
    const how = together(study, fit, pair.term);
    if (how)
      out.push({
        id: `together-${pair.key}`,
        kind: "finding",
        text: `${termName(alphabet, pair.term)} ${pair.clarity === "drives" ? "act" : "likely act"} together: ${how}. Read the two as a pair.`,
        evidence: "pairs",
        weight: WEIGHTS.drivers - 1,
        about: pair.key,
      });
  }
  for (const square of active.filter((r) => r.term.length === 2 && r.term[0] === r.term[1]).slice(0, 2))
    out.push({
      id: `bend-${square.key}`,
      kind: "finding",
      text: `${nameOf(study, square.term[0])} ${square.clarity === "drives" ? "bends" : "likely bends"}: its edges lie ${withUnit(rounded(Math.abs(square.size ?? 0), s), unit)} ${(square.size ?? 0) > 0 ? "above" : "below"} the straight line through its middle${square.interval ? ` (${rounded(square.interval[0], s)} to ${rounded(square.interval[1], s)})` : ""}.`,
      evidence: "ladder",
      weight: WEIGHTS.drivers - 4,
      about: square.key,
    });
  return out;
}

/** Waves that part terms, as what a person may choose. */
function partingText(study: Study, terms: readonly Term[]): string {
  const names = partingWaves(study, terms)
    .slice(0, 2)
    .map(({ name, factor }) => {
      switch (name) {
        case "fold-over":
          return "a fold-over wave";
        case "one-factor":
          return `a fold-over of ${nameOf(study, factor ?? "")} alone`;
        case "half":
          return "half a fold-over";
        case "missing-fraction":
          return "the missing fraction";
        case "augment":
          return "a few trials built for them";
      }
    });
  const text = names.join(", or ");
  return `${text[0].toUpperCase()}${text.slice(1)} would part them.`;
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
        text: `${r.name} cannot be told from ${listed(others.slice(0, 3))}${others.length > 3 ? ` and ${others.length - 3} more` : ""} in these trials. ${judged} ${partingText(study, members)}`,
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
  if (!checks.some((c) => (c.id === "single" || c.id === "pull") && c.alarm)) return [];
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
      ...fit.fitting,
    },
  );
  let worst: { name: string; before: number; after: number } | undefined;
  const alphabet = alphabetOf(study);
  for (const p of fit.parameters) {
    if (p.term.length === 0 || !ofFactors(p.term)) continue;
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

/** How large an effect of quiet factors may still be: the far ends of their intervals. */
function hiddenText(
  rungs: readonly Rung[],
  idle: readonly { id: string; name: string }[],
  error: number | null,
  unit: string | undefined,
): string {
  const most = idle.map((f) => {
    const interval = rungs.find((r) => r.term.length === 1 && r.term[0] === f.id)?.interval ?? [0, 0];
    return Math.max(...interval.map(Math.abs));
  });
  if (idle.length === 1) return `an effect of up to ${withUnit(rounded(most[0], error), unit)} could still hide`;
  return `effects of up to ${withUnit(rounded(Math.max(...most), error), unit)} could still hide`;
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

/** The centre off the plane of the corners, or what cannot be told from it. */
function bends(study: Study, fit: Fit, standing: readonly StandingRung[], unit: string | undefined): Reading[] {
  const name = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { s } = fit.summary;
  const action = { label: "Weigh the next wave", go: "plan" as const };
  const common = { kind: "caution" as const, evidence: "ladder" as const, weight: WEIGHTS.curvature, action };
  const centre = standing.find((r) => r.id === "curvature");
  const wave = standing.find((r) => r.id === "wave");
  if (centre?.lost && wave?.inModel && wave.p !== null && wave.p < significance(study))
    return [
      {
        ...common,
        id: "bend-or-shift",
        text: `Bend or shift: ${wave.differences[0].above} lies ${withUnit(rounded(wave.size ?? 0, s), unit)} above ${wave.differences[0].below} (${pText(wave.p)}), and with the centre in a wave of its own these trials cannot say which. Axial points with some corners run again would.`,
      },
    ];
  if (!centre || centre.size === null || centre.p === null || centre.p >= significance(study)) return [];
  return [
    {
      ...common,
      id: "curvature",
      text: `The centre of ${name} lies ${withUnit(rounded(Math.abs(centre.size), s), unit)} ${centre.size < 0 ? "below" : "above"} the plane of the corners (${pText(centre.p)}): at least one factor bends, and these trials cannot say which. Axial points would; until then predictions between the corners may be off by up to that.`,
    },
  ];
}

/** How waves differ, which is higher, and how sure that is; that they may be taken out where they do not. */
function waveReadings(
  standing: readonly StandingRung[],
  alpha: number,
  error: number | null,
  unit: string | undefined,
): Reading[] {
  const rung = standing.find((r) => r.id === "wave");
  if (!rung || rung.p === null || rung.differences.length === 0) return [];
  const [d] = rung.differences;
  const between = d.interval ? ` (${rounded(d.interval[0], error)} to ${rounded(d.interval[1], error)})` : "";
  const clear = rung.p < alpha;
  if (!clear && !rung.inModel) return [];
  return [
    {
      id: clear ? "wave-shift" : "waves-alike",
      kind: clear && !rung.inModel ? "caution" : "finding",
      text: clear
        ? `${d.above} lies ${withUnit(rounded(d.size, error), unit)} above ${d.below}${between}. ${rung.inModel ? "It is in the model as a block." : "It is not in the model: take the waves in."}`
        : `Waves do not clearly differ (${pText(rung.p)}): ${d.above} less ${d.below} is ${withUnit(rounded(d.size, error), unit)}${between}. They may be taken out.`,
      evidence: "ladder",
      weight: clear ? WEIGHTS.wave : WEIGHTS.idle - 1,
    },
  ];
}

/** Whether to climb from the centre, where a goal pulls one way and no square says where that ends. */
function climbing(study: Study, fit: Fit): Reading[] {
  const goal = study.responses.find((r) => r.id === fit.response)?.goal.aim;
  const bends = fit.terms.some((t) => t.length === 2 && t[0] === t[1]);
  if ((goal !== "raise" && goal !== "lower") || bends || !storedModel(study, fit.response)) return [];
  const retired = Object.fromEntries(
    study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
  );
  const read = presentPredictor(study, fit.response, fit);
  const path = steepestAscent(study, read, { ...centreSettings(study.factors), ...retired });
  const reading = climbReading(study, read, path);
  return reading ? [reading] : [];
}

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
  const alpha = significance(study);
  const response = study.responses.find((r) => r.id === fit.response);
  const name = response?.name ?? fit.response;
  // What stands behind every size: the response's unit, or the scale it is fitted on.
  const { link, units } = fit.model;
  const unit = link.identity ? units : `on the ${link.name} scale`;
  const { rungs, standing } = effectLadder(study, fit);
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
  out.push(...drivers(study, fit, rungs, unit, name), ...chains(study, active));
  const dropped = fit.dropped.filter((d) => ofFactors(d.term) || d.term[0] === WAVE_TERM[0]);
  if (dropped.length > 0) {
    const d = dropped[0];
    const alphabet = alphabetOf(study);
    const names = [...new Set(dropped.map((x) => columnName(alphabet, x)))].slice(0, 3);
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
  out.push(...bends(study, fit, standing, unit));
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
  out.push(...waveReadings(standing, alpha, summary.s, unit));
  const floored = fit.data.floored?.length ?? 0;
  if (floored > 0)
    out.push({
      id: "floored",
      kind: "caution",
      text: `${floored === 1 ? "One spread was" : `${floored} spreads were`} 0 and ${floored === 1 ? "stands" : "stand"} at the smallest step the results are written in: the true spread there may be less.`,
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  const members = presentPredictor(study, fit.response, fit).model.members.length;
  if (members > 1)
    out.push({
      id: "averaged",
      kind: "finding",
      text: `Predictions of ${name} come from the average of ${members} models; ladder, table and checks are those of the single model chosen.`,
      evidence: "equation",
      weight: WEIGHTS.parents,
    });
  out.push(...climbing(study, fit));
  out.push(...influential(study, fit, checks, fit.response, unit));
  for (const c of checks)
    if (c.alarm && c.id !== "single" && c.id !== "pull" && c.id !== "bend")
      out.push({
        id: `check-${c.id}`,
        kind: "caution",
        text: `${questionOf(c.id)} ${answerOf(c)}`,
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
        withFactor.every((r) => r.clarity === "quiet") &&
        // The parent of an interaction that drives is not quiet, whatever its own p.
        !rungs.some((r) => r.clarity === "drives" && r.term.length > 1 && r.term.includes(f.id))
      );
    });
    if (idle.length > 0 && active.length > 0)
      out.push({
        id: "idle",
        kind: "finding",
        text: `${listed(idle.map((f) => f.name))} ${idle.length === 1 ? "is" : "are"} quiet for ${name}: ${hiddenText(rungs, idle, summary.s, unit)}.`,
        evidence: "ladder",
        weight: WEIGHTS.idle,
      });
  }
  return ranked(out);
}
