import { partingWaves } from "../follow-up/parting";
import type { Change, Unit } from "../messages/message";
import type { PartingName, ReadingValues, Weighed } from "../messages/readings";
import { isSmallBeside } from "../model/block-effects";
import { storedModel } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import type { Clarity, Rung } from "../model/ladder";
import { linearSurface } from "../model/linear-surface";
import { unseenLevels } from "../model/model-data";
import { LEAST_OFFERED, offeredModel } from "../model/offer";
import { centreSettings, isNumeric, rangeOf, significance } from "../study/coding";
import type { Memo } from "../study/memo";
import { activeFactors } from "../study/roles";
import type { Factor, Settings, Study, Term } from "../study/schema";
import { steepestAscent } from "../surface/ascent";
import { presentPredictor } from "../surface/average";
import { alphabetOf, termKey, termLetters, termName } from "../terms/term";
import { figure, withUnit } from "../words/numbers";
import { climbReading } from "./climb";
import { type ModelContext, nameOf, WEIGHTS } from "./model-context";
import type { Reading } from "./reading";

/** What an active interaction does: the effect of its first numeric factor at both ends of the second. */
function together(study: Study, fit: Fit, term: Term): Omit<ReadingValues["together"], "pair" | "sure"> | undefined {
  const [a, b] = term.map((id) => study.factors.find((f) => f.id === id));
  if (!a || !b) return undefined;
  const mover = isNumeric(a) ? a : isNumeric(b) ? b : undefined;
  const other = mover === a ? b : a;
  if (!mover) return undefined;
  const read = linearSurface(study, fit);
  const base: Settings = centreSettings(study.factors, false);
  const [low, high] = rangeOf(mover);
  const slope = (e: number | string, elsewhere: Settings = base): number =>
    read.value({ ...elsewhere, [other.id]: e, [mover.id]: high }) -
    read.value({ ...elsewhere, [other.id]: e, [mover.id]: low });
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
  // Where another factor stands matters where the two changes move with it.
  const size = Math.max(...ends.map((e) => Math.abs(slope(e))));
  const moves = (f: Factor): boolean =>
    (isNumeric(f) ? rangeOf(f) : f.levels).some((v) =>
      ends.some((e) => Math.abs(slope(e, { ...base, [f.id]: v }) - slope(e)) > 1e-9 * size),
    );
  const others = activeFactors(study).filter((f) => f.id !== mover.id && f.id !== other.id);
  const fixed = others.filter(moves);
  const placeOf = (f: Factor): string => {
    const value = base[f.id];
    return typeof value === "number" ? withUnit(figure(value), "unit" in f ? f.unit : undefined) : String(value);
  };
  return {
    mover: mover.name,
    other: other.name,
    fixed: fixed.map((f) => ({ factor: f.name, at: placeOf(f) })),
    over: others.filter((f) => !isNumeric(f) && !fixed.includes(f)).map((f) => f.name),
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

/**
 * What was asked, is clear of noise beside all that was asked, and neither stands in the chosen model nor ever did on
 * the way to it: nothing is concluded of a model that never weighed it. Beside all of it, since what was chosen by its
 * size would judge itself too kindly; where so much leaves nothing to judge by, beside what is offered.
 */
export function unweighed(study: Study, fit: Fit, memo: Memo): Term[] {
  const stored = storedModel(study, fit.response);
  if (!stored || fit.model.exact) return [];
  // Whoever had terms come in by a rule weighed all that there was.
  if (stored.steps?.some((s) => s.action === "in" && s.by !== undefined)) return [];
  const seen = new Set([...fit.terms, ...(stored.steps ?? []).flatMap((s) => s.terms)].map(termKey));
  const { candidates, kept } = offeredModel(study, fit.response, fit.fitting, memo);
  const unseen = (t: Term): boolean => !seen.has(termKey(t));
  const open = candidates.filter(unseen).length;
  if (open === 0) return [];
  const beside = (terms: readonly Term[]): Fit =>
    fitModel(study, fit.response, { terms: [...terms], ...fit.fitting }, memo);
  const all = beside([...candidates, ...fit.terms]);
  const judged = all.summary.residualDf >= LEAST_OFFERED ? all : beside(kept);
  // One of so many would pass its own level by chance alone.
  const alpha = significance(study) / open;
  return judged.anova.flatMap((r) =>
    r.source === "term" && r.term && unseen(r.term) && r.p !== null && r.p < alpha ? [r.term] : [],
  );
}

/** That asked terms were never weighed, with the button that takes them in. */
export function askedOut({ study, fit, name, memo }: ModelContext): Reading[] {
  const out = unweighed(study, fit, memo);
  if (out.length === 0) return [];
  const alphabet = alphabetOf(study);
  return [
    {
      id: "asked-out",
      kind: "caution",
      code: "asked-out",
      values: { response: name, terms: out.map((t) => termName(alphabet, t)) },
      evidence: "ladder",
      weight: WEIGHTS.askedOut,
      about: termKey(out[0]),
      action: { id: "take-offer" },
    },
  ];
}

export function drivers({ study, fit, rungs, unit, name: response, memo }: ModelContext): Reading[] {
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
    if (leftOut(rungs).length > 0 || bent || unweighed(study, fit, memo).length > 0) return out;
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
  const pairs = active
    .filter((r) => r.term.length === 2 && r.term[0] !== r.term[1])
    .slice(0, 2)
    .flatMap((pair) => {
      const how = together(study, fit, pair.term);
      return how ? [{ pair, how }] : [];
    });
  // What two of them do together is told once, and in full.
  const likely = byClarity("likely")
    .filter((r) => !pairs.some(({ pair }) => pair.key === r.key))
    .slice(0, 3);
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
  for (const { pair, how } of pairs)
    out.push({
      id: `together-${pair.key}`,
      kind: "finding",
      code: "together",
      values: { pair: termName(alphabet, pair.term), sure: pair.clarity === "drives", ...how },
      evidence: "pairs",
      weight: WEIGHTS.drivers - 1,
      about: pair.key,
    });
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
export function chains(study: Study, active: readonly Rung[]): Reading[] {
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

/** How waves differ, which is higher, and how sure that is; that they may be taken out where they do not. */
export function waveReadings({ study, fit, standing, unit }: ModelContext): Reading[] {
  const alpha = significance(study);
  const error = fit.summary.s;
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
          values: { ...said, p: rung.p, out: isSmallBeside(study, fit, said.interval) },
          evidence: "ladder",
          weight: WEIGHTS.idle - 1,
        },
  ];
}

/** Whether to climb from the centre, where a goal pulls one way and no square says where that ends. */
export function climbing({ study, fit, memo }: ModelContext): Reading[] {
  const goal = study.responses.find((r) => r.id === fit.response)?.goal.aim;
  const bends = fit.terms.some((t) => t.length === 2 && t[0] === t[1]);
  if ((goal !== "raise" && goal !== "lower") || bends || !storedModel(study, fit.response)) return [];
  const read = presentPredictor(study, fit.response, memo, fit);
  const path = steepestAscent(study, read, centreSettings(study.factors));
  const reading = climbReading(study, read, path);
  return reading ? [reading] : [];
}

/** How large an effect of quiet factors may still be: the farthest end of their intervals. */
const hiding = (rungs: readonly Rung[], idle: readonly { id: string }[]): number =>
  Math.max(
    ...idle.flatMap((f) => rungs.find((r) => r.term.length === 1 && r.term[0] === f.id)?.interval ?? [0]).map(Math.abs),
  );

/** Factors of which nothing is seen, with what may hide there. */
export function idle({ study, fit, name, unit, rungs, active }: ModelContext): Reading[] {
  const { summary } = fit;
  if (summary.residualDf < 3 || fit.model.exact || active.length === 0) return [];
  const quiet = activeFactors(study).filter((f) => {
    const withFactor = rungs.filter((r) => r.term.includes(f.id) && !r.lost);
    return (
      withFactor.length > 0 &&
      withFactor.some((r) => r.term.length === 1) &&
      withFactor.every((r) => r.clarity === "quiet") &&
      // The parent of an interaction that drives is not quiet, whatever its own p.
      !rungs.some((r) => r.clarity === "drives" && r.term.length > 1 && r.term.includes(f.id))
    );
  });
  if (quiet.length === 0) return [];
  return [
    {
      id: "idle",
      kind: "finding",
      code: "idle",
      values: {
        response: name,
        factors: quiet.map((f) => f.name),
        most: { value: hiding(rungs, quiet), error: summary.s, unit },
      },
      evidence: "ladder",
      weight: WEIGHTS.idle,
    },
  ];
}
