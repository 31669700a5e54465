import { parts } from "../follow-up/parting";
import type { Said } from "../messages/said";
import type { WhyValues } from "../messages/waves";
import { storedModel } from "../model/data";
import { allExact } from "../model/exact";
import type { Fit } from "../model/fit";
import { effectLadder, type Rung } from "../model/ladder";
import { presentFit } from "../model/offer";
import type { FollowOffer } from "../planning/next-wave-summary";
import { hasMiddle } from "../plans/combinations";
import type { Beyond } from "../study/beyond";
import { activeFactors, centreSettings, isCorner, isNumeric, significance } from "../study/coding";
import { StudyError } from "../study/error";
import type { Study, Term } from "../study/schema";
import { steepestAscent } from "../surface/ascent";
import { presentPredictor } from "../surface/average";
import { alphabetOf, inModelOrder, ofFactors, termLetters, termShape, WAVE_TERM } from "../terms/term";

type Why = Said<WhyValues>;

/** What each modelled response says of its terms. */
interface Modelled {
  name: string;
  fit: Fit;
  active: Rung[];
}

function saidOf(study: Study): Modelled[] {
  const alpha = significance(study);
  return study.responses.flatMap((r) => {
    try {
      const fit = presentFit(study, r.id);
      if (!storedModel(study, r.id) && fit.summary.residualDf < 1) return [];
      return [
        {
          name: r.name,
          fit,
          active: effectLadder(study, fit).rungs.filter((x) => x.inModel && x.p !== null && x.p < alpha),
        },
      ];
    } catch (error) {
      // A response without results, or constant, asks for nothing.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/** Whether waves differ where the centre ran in a wave of its own, so that a bend may be behind it as well. */
const bendOrShift = (fit: Fit): boolean => {
  const wave = fit.anova.find((r) => r.source === "wave");
  return (
    wave?.p !== undefined &&
    wave.p !== null &&
    wave.p < significance(fit) &&
    fit.dropped.some((d) => !ofFactors(d.term) && d.equals.some((e) => e.term[0] === WAVE_TERM[0]))
  );
};

/** A response to climb for. */
interface Climbing {
  response: Study["responses"][number];
  short: boolean;
  /** Limits to be stated first, where the path cannot leave the ranges before. */
  open: readonly Beyond[];
}

/**
 * Responses with a goal whose model leads out of the ranges; `short` where the best within them does not reach the
 * limit.
 */
function climbing(study: Study): Climbing[] {
  const retired = Object.fromEntries(
    study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
  );
  const centre = { ...centreSettings(study.factors), ...retired };
  return study.responses.flatMap((r) => {
    if (r.goal.aim === "watch" || !storedModel(study, r.id)) return [];
    try {
      const { points, beyond } = steepestAscent(study, presentPredictor(study, r.id), centre);
      const last = points.filter((p) => p.inside).at(-1);
      const within = points.every((p) => p.inside);
      if (last === undefined || (within && beyond.length === 0)) return [];
      const limit = r.goal.aim === "raise" ? r.goal.low : r.goal.aim === "lower" ? r.goal.high : undefined;
      const short = limit !== undefined && (r.goal.aim === "raise" ? last.predicted < limit : last.predicted > limit);
      return [{ response: r, short, open: within ? beyond : [] }];
    } catch (error) {
      // No path without a model that can be fitted here.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
}

/**
 * The waves that may follow a study's trials, those it needs now first, each with the reason: an active chain to part,
 * a bend that nothing carries, a best that lies outside, no pure error, a setpoint not confirmed. The person decides.
 *
 * @param toCarry factors that a person wants carried on, in place of those that look active
 */
// Long: one offer after another, each on its own.
export function nextWaves(study: Study, toCarry?: readonly string[]): FollowOffer[] {
  if (!study.trials.some((t) => t.state !== "skipped" && t.state !== "failed")) return [];
  const alphabet = alphabetOf(study);
  const said = saidOf(study);
  const factors = activeFactors(study);
  const numeric = factors.filter((f) => isNumeric(f) && hasMiddle(f));
  const out: FollowOffer[] = [];
  const aliased = said.flatMap((s) => s.active.filter((r) => r.aliases.length > 0).map((r) => ({ ...s, rung: r })));
  // Squares that travel together ask for axial points; a chain of interactions for corners.
  const chained = aliased.filter((c) => termShape(c.rung.term) !== "square");
  const bends = aliased.filter((c) => termShape(c.rung.term) === "square");
  const chain = chained[0];
  const chainWhy: Why | undefined = chain && {
    code: "chain",
    values: {
      response: chain.name,
      terms: [chain.rung.term, ...chain.rung.aliases.slice(0, 2)].map((t) => termLetters(alphabet, t)),
      more: chained.length - 1,
    },
  };
  const bent = said.find(
    (s) => s.fit.curvature && s.fit.curvature.p !== null && s.fit.curvature.p < significance(study),
  );
  const hasAxial = study.trials.some((t) => t.kind === "axial");
  const waiting = study.trials.some((t) => t.kind === "confirm");
  const fraction = study.waves.find((w) => w.plan.generators);
  const wide = factors.some((f) => !isNumeric(f) && f.levels.length > 2);
  const mixed = said.find((s) => bendOrShift(s.fit));
  if (mixed && numeric.length > 0) {
    const shift = mixed.fit.anova.find((r) => r.source === "wave")?.p ?? 1;
    const why: Why = { code: "bend-or-shift", values: { response: mixed.name, p: shift } };
    const corners = study.trials.filter((t) => t.use && isCorner(study, t)).map((t) => t.id);
    out.push({ options: { kind: "axial" }, name: { code: "axial", values: {} }, why });
    if (corners.length >= 2)
      out.push({
        options: { kind: "repeat", of: corners.slice(0, 4) },
        name: { code: "corners", values: {} },
        why,
      });
  }
  if (chain && chainWhy) {
    // The pairs in question, by name: fewest trials that part them.
    const terms = inModelOrder(alphabet, [
      ...said.flatMap((s) => s.fit.terms).filter((t) => termShape(t) !== "square"),
      ...chained.flatMap((c) => [c.rung.term, ...c.rung.aliases]).filter((t): t is Term => t.length <= 2),
    ]);
    const whole = inModelOrder(alphabet, [...factors.map((f): Term => [f.id]), ...terms]);
    out.push({
      options: { kind: "augment", trials: Math.max(4, Math.ceil(chained.length * 2)), terms: whole },
      name: { code: "chains", values: {} },
      why: chainWhy,
    });
    const members = [chain.rung.term, ...chain.rung.aliases];
    const offers: FollowOffer[] = [
      { options: { kind: "foldover", half: true }, name: { code: "half-foldover", values: {} }, why: chainWhy },
      { options: { kind: "missing-fraction" }, name: { code: "missing-fraction", values: {} }, why: chainWhy },
    ];
    // Only what would part the chain is offered for it.
    out.push(...offers.filter((o) => parts(study, o.options, members)));
  }
  // With a bend or a shift axial points are offered already.
  if (!mixed && bends.length > 0 && numeric.length > 0)
    out.push({
      options: { kind: "axial" },
      name: { code: "axial", values: {} },
      why: {
        code: "which-square",
        values: {
          response: bends[0].name,
          term: termLetters(alphabet, bends[0].rung.term),
          others: bends[0].rung.aliases.slice(0, 2).map((t) => termLetters(alphabet, t)),
          more: bends[0].rung.aliases.length > 2,
        },
      },
    });
  else if (!mixed && bent && !hasAxial && numeric.length > 0)
    out.push({
      options: { kind: "axial" },
      name: { code: "axial", values: {} },
      why: { code: "centre-off", values: { response: bent.name, p: bent.fit.curvature?.p ?? 1 } },
    });
  const climbs = climbing(study);
  const climb = ({ response, open }: Climbing): FollowOffer => ({
    options: { kind: "ascent", response: response.id, trials: 4 },
    name: { code: "climb", values: { response: response.name } },
    ...(open.length > 0 ? { open } : {}),
  });
  const uphill = climbs.find((c) => c.short);
  if (uphill)
    out.push({
      ...climb(uphill),
      why: { code: "uphill", values: { response: uphill.response.name } },
    });
  // A computation has no scatter to measure.
  const exact = allExact(study);
  const noisy = exact ? undefined : said.find((s) => s.fit.summary.residualDf < 3);
  if (noisy)
    out.push({
      options: { kind: "centre", trials: 4 },
      name: { code: "centre", values: {} },
      why: { code: "few-df", values: { response: noisy.name, df: noisy.fit.summary.residualDf } },
    });
  if (study.setpoint && !waiting)
    out.push({
      options: { kind: "confirm", trials: exact ? 1 : 3 },
      name: { code: "confirm", values: {} },
      why: { code: "not-run", values: {} },
    });
  // Then what may be chosen though nothing asks for it.
  const offered = new Set(out.map((o) => o.options.kind));
  const alsoSo = (offer: FollowOffer): void => {
    if (!offered.has(offer.options.kind)) out.push(offer);
  };
  const also = (options: FollowOffer["options"], name: FollowOffer["name"]): void => alsoSo({ options, name });
  if (!wide) also({ kind: "foldover" }, { code: "foldover", values: {} });
  if (fraction) also({ kind: "missing-fraction" }, { code: "missing-fraction", values: {} });
  if (numeric.length > 0 && !hasAxial) also({ kind: "axial" }, { code: "axial", values: {} });
  if (climbs.length > 0) alsoSo(climb(climbs[0]));
  const active = new Set(said.flatMap((s) => s.active.flatMap((r) => r.term)));
  const carried = factors.filter((f) => (toCarry ? toCarry.includes(f.id) : active.has(f.id)));
  const idle = factors.filter((f) => !carried.includes(f));
  if (carried.length >= 2 && (toCarry ? true : idle.length > 0 && said.length > 0 && carried.length <= 6))
    out.push({
      options: { kind: "carry", factors: carried.map((f) => f.id) },
      name: { code: "carry", values: { letters: carried.map((f) => f.letter) } },
      why: toCarry
        ? { code: "carry-asked", values: { factors: carried.map((f) => f.name) } }
        : { code: "idle", values: { factors: idle.slice(0, 4).map((f) => f.name) } },
    });
  if (!exact) {
    also({ kind: "centre", trials: 3 }, { code: "centre", values: {} });
    also({ kind: "repeat" }, { code: "repeat", values: {} });
  }
  return out;
}
