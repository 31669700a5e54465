import { regionSample } from "../appraisal/variance";
import { type Check, runChecks } from "../model/checklist";
import { storedModel, unseenLevels } from "../model/data";
import { isExact } from "../model/exact";
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
import type { Holds, PartingName, ReadingValues, Weighed } from "../words/english/readings";
import { pText, withUnit } from "../words/numbers";
import type { Change, Unit } from "../words/said";
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
  penalised: 87,
  scatter: 58,
  setups: 89,
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
function together(study: Study, fit: Fit, term: Term): Omit<ReadingValues["together"], "pair" | "sure"> | undefined {
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
  const at = (e: number | string) => ({
    at: isNumeric(other) ? withUnit(String(e), other.unit) : String(e),
    change: slope(e),
  });
  return {
    mover: mover.name,
    other: other.name,
    ends: [at(ends[0]), at(ends[1])],
    error: fit.model.link.identity ? fit.summary.s : null,
  };
}

/** A rung's size: from low to high, or from one level of a category to another. */
const sizeOf = ({ span, size, term }: Rung, error: number | null, unit: Unit): Change =>
  span
    ? { value: span.size, error, unit, from: span.from, to: span.to, ends: false }
    : { value: size ?? 0, error, unit, ends: term.length === 1 };

/** What stands out of a model though it should be in it, the most telling first. */
const leftOut = (rungs: readonly Rung[]): Rung[] =>
  rungs
    .filter((r) => !r.inModel && !r.lost && r.clarity !== null && r.clarity !== "quiet")
    .sort((a, b) => (a.p ?? 1) - (b.p ?? 1));

// Long: one reading after another, each on its own.
function drivers(study: Study, fit: Fit, rungs: readonly Rung[], unit: Unit, response: string): Reading[] {
  const alphabet = alphabetOf(study);
  const { s } = fit.summary;
  const sized = (r: Rung): Change => sizeOf(r, s, unit);
  const active = rungs.filter((r) => r.inModel && r.clarity !== null && r.clarity !== "quiet");
  const out: Reading[] = [];
  const [missed] = leftOut(rungs).filter((r) => r.clarity === "drives");
  if (missed && !fit.model.exact)
    out.push({
      id: "left-out",
      kind: "caution",
      code: "left-out",
      values: { response, term: missed.name, size: sized(missed), p: missed.p ?? 1 },
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
        code: "nothing-active",
        values: { response, s: { value: s ?? 0, error: s, unit } },
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
      code: "drivers",
      values: { response, leads: lead.map((r) => ({ name: r.name, size: sized(r) })) },
      evidence: "ladder",
      weight: WEIGHTS.drivers,
      about: lead[0].key,
    });
  const likely = byClarity("likely").slice(0, 3);
  if (likely.length > 0)
    out.push({
      id: "likely",
      kind: "finding",
      code: "likely",
      values: {
        response,
        terms: likely.map((r) => ({ name: r.name, size: sized(r), p: r.p ?? 1 })),
        looked: rungs.filter((r) => !r.lost).length,
      },
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
        code: "together",
        values: { pair: termName(alphabet, pair.term), sure: pair.clarity === "drives", ...how },
        evidence: "pairs",
        weight: WEIGHTS.drivers - 1,
        about: pair.key,
      });
  }
  for (const square of active.filter((r) => r.term.length === 2 && r.term[0] === r.term[1]).slice(0, 2))
    out.push({
      id: `bend-${square.key}`,
      kind: "finding",
      code: "bends",
      values: {
        factor: nameOf(study, square.term[0]),
        sure: square.clarity === "drives",
        size: { value: square.size ?? 0, error: s, unit },
        interval: square.interval ?? null,
      },
      evidence: "ladder",
      weight: WEIGHTS.drivers - 4,
      about: square.key,
    });
  return out;
}

/** Waves that part terms, as what a person may choose. */
const partingNames = (study: Study, terms: readonly Term[]): PartingName[] =>
  partingWaves(study, terms)
    .slice(0, 2)
    .map(({ name, factor }) => ({ name, factor: factor === undefined ? null : nameOf(study, factor) }));

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
      const weighed: Weighed =
        r.term.length === 1
          ? { by: "main" }
          : likely.length === 1
            ? {
                by: "heredity",
                likely: termName(alphabet, likely[0]),
                parents: best === 2 ? 2 : 1,
                swap: termKey(likely[0]) !== r.key,
              }
            : { by: "nothing", equal: likely.map((t) => termLetters(alphabet, t)) };
      return {
        id: `alias-${r.key}`,
        kind: "caution",
        code: "alias",
        values: { term: r.name, others, weighed, waves: partingNames(study, members) },
        evidence: "chains",
        weight: WEIGHTS.alias,
        about: r.key,
        action: { id: "next-wave", go: "plan" },
      };
    });
}

/** What the fit says without its most influential trial. */
function influential(study: Study, fit: Fit, checks: readonly Check[], response: string, unit: Unit): Reading[] {
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
  let moved: { term: string; before: number; after: number } | null = null;
  const alphabet = alphabetOf(study);
  for (const p of fit.parameters) {
    if (p.term.length === 0 || !ofFactors(p.term)) continue;
    const q = without.parameters.find((x) => termKey(x.term) === termKey(p.term) && x.level === p.level);
    if (q && (!moved || Math.abs(q.coefficient - p.coefficient) > Math.abs(moved.after - moved.before)))
      moved = { term: termName(alphabet, p.term), before: p.coefficient, after: q.coefficient };
  }
  return [
    {
      id: "influential",
      kind: "caution",
      code: "influential",
      values: {
        order: trial.order,
        cooks: pick.cooks,
        off: Math.abs(pick.deleted ?? pick.studentized ?? 0),
        s: { before: fit.summary.s ?? 0, after: without.summary.s ?? 0 },
        unit,
        moved,
      },
      evidence: "checks",
      weight: WEIGHTS.influential,
      about: trial.id,
    },
  ];
}

/** How large an effect of quiet factors may still be: the farthest end of their intervals. */
const hiding = (rungs: readonly Rung[], idle: readonly { id: string }[]): number =>
  Math.max(
    ...idle.flatMap((f) => rungs.find((r) => r.term.length === 1 && r.term[0] === f.id)?.interval ?? [0]).map(Math.abs),
  );

/** A column by its term and level. */
const columnName = (alphabet: Alphabet, { term, level }: { term: Term; level?: string | undefined }): string =>
  `${termName(alphabet, term)}${level === undefined ? "" : `[${level}]`}`;

/** The centre off the plane of the corners, or what cannot be told from it. */
function bends(study: Study, fit: Fit, standing: readonly StandingRung[], unit: Unit): Reading[] {
  const name = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { s } = fit.summary;
  const action = { id: "next-wave" as const, go: "plan" as const };
  const common = { kind: "caution" as const, evidence: "ladder" as const, weight: WEIGHTS.curvature, action };
  const centre = standing.find((r) => r.id === "curvature");
  const wave = standing.find((r) => r.id === "wave");
  if (centre?.lost && wave?.inModel && wave.p !== null && wave.p < significance(study))
    return [
      {
        ...common,
        id: "bend-or-shift",
        code: "bend-or-shift",
        values: {
          above: wave.differences[0].above,
          below: wave.differences[0].below,
          size: { value: wave.size ?? 0, error: s, unit },
          p: wave.p,
        },
      },
    ];
  if (!centre || centre.size === null || centre.p === null || centre.p >= significance(study)) return [];
  return [
    {
      ...common,
      id: "curvature",
      code: "curvature",
      values: { response: name, size: { value: centre.size, error: s, unit }, p: centre.p },
    },
  ];
}

/** What a likelihood of counts must say of itself: that it is penalised, and how far trials scatter beyond counting. */
function countedReadings(study: Study, fit: Fit): Reading[] {
  const { counted } = fit.model;
  if (!counted) return [];
  const name = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { firth, dispersion, kind } = counted;
  const out: Reading[] = [];
  if (firth)
    out.push({
      id: "penalised",
      kind: "caution",
      ...(firth.why === "separates"
        ? { code: "penalised-separates", values: { response: name } }
        : {
            code: "penalised-few",
            values: {
              response: name,
              of: firth.of,
              level: firth.level,
              events: firth.which === "events",
              counted: firth.counted,
            },
          }),
      evidence: "table",
      weight: WEIGHTS.penalised,
    });
  if (!counted.counting && dispersion !== null && dispersion > CARRIED)
    out.push({
      id: "scatter",
      kind: "finding",
      code: "scatter-carried",
      values: { response: name, times: dispersion, share: kind === "share" },
      evidence: "checks",
      weight: WEIGHTS.scatter,
      about: "counting",
    });
  return out;
}

/** How set-ups vary beside the trials of one, and what ignoring them would have said of what is hard to change. */
function setupReadings(study: Study, fit: Fit, unit: Unit): Reading[] {
  const { setups } = fit.model;
  if (!setups) return [];
  const response = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { counted } = fit.data;
  const empirical: Reading[] = counted
    ? [
        {
          id: "empirical",
          kind: "finding",
          code: "empirical",
          values: { response, share: counted.kind === "share" },
          evidence: "table",
          weight: WEIGHTS.scatter,
          about: "counting",
        },
      ]
    : [];
  if (setups.assumed !== undefined)
    return [
      ...empirical,
      {
        id: "setups",
        kind: "caution",
        code: "setups-assumed",
        values: { response, setups: setups.setups, ratio: setups.assumed },
        evidence: "table",
        weight: WEIGHTS.noDf,
      },
    ];
  const apart = { ...study, trials: study.trials.map(({ setup: _setup, ...t }) => t) };
  const plain = fitModel(apart, fit.response, { terms: fit.terms, transform: fit.transform }).anova;
  const alpha = significance(fit);
  const turns = (t: { p: number; right: number }): boolean => t.p < alpha && t.right >= alpha;
  const ignored = fit.anova
    .flatMap((row) => {
      const p = plain.find(
        (r) => r.source === "term" && r.term && row.term && termKey(r.term) === termKey(row.term),
      )?.p;
      return row.source === "term" && row.stratum === "between" && row.term && row.p !== null && typeof p === "number"
        ? [{ term: termName(alphabetOf(study), row.term), p, right: row.p }]
        : [];
    })
    .filter((t) => t.p < t.right && pText(t.p) !== pText(t.right))
    // Where the answer turns is what matters most.
    .sort((a, b) => Number(turns(b)) - Number(turns(a)) || Math.log(a.p / a.right) - Math.log(b.p / b.right))[0];
  const size = (variance: number) => ({ value: Math.sqrt(variance), error: Math.sqrt(variance), unit });
  return [
    ...empirical,
    {
      id: "setups",
      kind: "finding",
      code: "setups",
      values: {
        response,
        setups: setups.setups,
        trials: fit.n,
        between: setups.bounded ? null : size(setups.between),
        within: size(setups.within),
        df: setups.betweenDf,
        ignored: ignored ?? null,
      },
      evidence: "table",
      weight: WEIGHTS.setups,
    },
  ];
}

/** Scatter over that of counting from which it is said unasked. */
const CARRIED = 1.3;

/** How waves differ, which is higher, and how sure that is; that they may be taken out where they do not. */
function waveReadings(standing: readonly StandingRung[], alpha: number, error: number | null, unit: Unit): Reading[] {
  const rung = standing.find((r) => r.id === "wave");
  if (!rung || rung.p === null || rung.differences.length === 0) return [];
  const [d] = rung.differences;
  const clear = rung.p < alpha;
  if (!clear && !rung.inModel) return [];
  const said = { above: d.above, below: d.below, size: { value: d.size, error, unit }, interval: d.interval ?? null };
  return [
    clear
      ? {
          id: "wave-shift",
          kind: rung.inModel ? "finding" : "caution",
          code: "wave-shift",
          values: { ...said, inModel: rung.inModel },
          evidence: "ladder",
          weight: WEIGHTS.wave,
        }
      : {
          id: "waves-alike",
          kind: "finding",
          code: "waves-alike",
          values: { ...said, p: rung.p },
          evidence: "ladder",
          weight: WEIGHTS.idle - 1,
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
): Holds {
  const below = min !== undefined && values.some((v) => v < min);
  const above = max !== undefined && values.some((v) => v > max);
  if (min === 0 && max === 1 && transform === "none") return "share";
  return below && !above && min === 0 && transform !== "log" ? "log" : "none";
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
  const { counted } = fit.model;
  const unit: Unit = link.identity
    ? (units ?? "")
    : { scale: link.name, ...(counted ? { times: counted.kind === "share" ? "odds" : "rate" } : {}) };
  const { rungs, standing } = effectLadder(study, fit);
  const active = rungs.filter((r) => r.inModel && r.p !== null && r.p < alpha);
  const out: Reading[] = [];
  const { summary } = fit;
  if (summary.residualDf === 0)
    out.push({
      id: "no-residual-df",
      kind: "caution",
      code: "no-residual-df",
      values: { coefficients: fit.parameters.length, results: fit.n },
      evidence: "half-normal",
      weight: WEIGHTS.noDf,
    });
  else if (summary.residualDf < FEW_DF && !fit.model.exact)
    out.push({
      id: "few-df",
      kind: "caution",
      code: "few-df",
      values: { df: summary.residualDf, response: name },
      evidence: "ladder",
      weight: WEIGHTS.noDf,
    });
  out.push(...drivers(study, fit, rungs, unit, name), ...chains(study, active));
  const dropped = fit.dropped.filter((d) => ofFactors(d.term) || d.term[0] === WAVE_TERM[0]);
  if (dropped.length > 0) {
    const d = dropped[0];
    const alphabet = alphabetOf(study);
    const columns = [...new Set(dropped.map((x) => columnName(alphabet, x)))].slice(0, 3);
    out.push({
      id: "dropped",
      kind: "caution",
      code: "dropped",
      values: {
        columns,
        sum:
          d.equals.length === 0
            ? null
            : {
                of: columnName(alphabet, d),
                parts: d.equals.map((e) => ({ name: columnName(alphabet, e), factor: e.factor })),
              },
      },
      evidence: "table",
      weight: WEIGHTS.dropped,
    });
  }
  for (const u of unseenLevels(study, fit.data, fit.terms))
    out.push({
      id: `unseen-${u.factor}`,
      kind: "caution",
      code: "unseen",
      values: { response: name, factor: nameOf(study, u.factor), levels: u.levels },
      evidence: "equation",
      weight: WEIGHTS.dropped + 1,
    });
  out.push(...bends(study, fit, standing, unit));
  if (isExact(study, fit.response))
    out.push({
      id: "exact",
      kind: "finding",
      code: "exact-model",
      values: { response: name },
      evidence: "table",
      weight: WEIGHTS.lackOfFit,
    });
  if (fit.lackOfFit && fit.lackOfFit.p !== null && fit.lackOfFit.p < alpha)
    out.push({
      id: "lack-of-fit",
      kind: "caution",
      code: "lack-of-fit",
      values: {
        f: fit.lackOfFit.f ?? 0,
        df: fit.lackOfFit.df,
        pureErrorDf: Math.round(10 * fit.lackOfFit.pureErrorDf) / 10,
        p: fit.lackOfFit.p,
      },
      evidence: "table",
      weight: WEIGHTS.lackOfFit,
    });
  if (summary.r2 !== null && summary.r2Predicted !== null && summary.r2 - summary.r2Predicted > 0.2)
    out.push({
      id: "overfit",
      kind: "caution",
      code: "overfit",
      values: { r2: summary.r2, r2Predicted: summary.r2Predicted },
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  out.push(...countedReadings(study, fit), ...setupReadings(study, fit, unit));
  out.push(...waveReadings(standing, alpha, summary.s, unit));
  const floored = fit.data.floored?.length ?? 0;
  if (floored > 0)
    out.push({
      id: "floored",
      kind: "caution",
      code: "floored",
      values: { n: floored },
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  const members = presentPredictor(study, fit.response, fit).model.members.length;
  if (members > 1)
    out.push({
      id: "averaged",
      kind: "finding",
      code: "averaged",
      values: { response: name, models: members },
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
        code: "check",
        values: { check: c },
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
      code: "orphans",
      values: { terms: orphans.slice(0, 3).map((t) => termName(alphabetOf(study), t)), n: orphans.length },
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
        code: "beyond-bounds",
        values: {
          percent: Math.max(1, Math.round((100 * beyond) / values.length)),
          response: name,
          ...(bounds.min !== undefined && values.some((v) => v < (bounds.min as number))
            ? { side: "below" as const, bound: bounds.min }
            : { side: "above" as const, bound: bounds.max as number }),
          holds: scaleThatHolds(bounds, values, fit),
        },
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
        code: "idle",
        values: {
          response: name,
          factors: idle.map((f) => f.name),
          most: { value: hiding(rungs, idle), error: summary.s, unit },
        },
        evidence: "ladder",
        weight: WEIGHTS.idle,
      });
  }
  return ranked(out);
}
