import { kindLaw } from "../kinds/laws";
import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { Missed } from "../messages/readings";
import type { SuspectValues } from "../messages/suspects";
import { storedModel } from "../model/data";
import { presentFit } from "../model/offer";
import { backInterval, type Prediction, type Surface, type SurfaceLots } from "../model/surface";
import { normalQuantile } from "../numerics/distributions";
import { sameSetting, settingsAsRun, significance } from "../study/coding";
import { StudyError } from "../study/error";
import { measuredValues, resultValue } from "../study/measured";
import { Memo } from "../study/memo";
import { activeFactors, isStanding } from "../study/roles";
import type { Response, Settings, Study, Trial } from "../study/schema";
import { presentPredictor } from "../surface/average";
import { type CountedFigures, countedFigures } from "./counted";
import { limitsOf } from "./desirability";
import { type PieceFigures, pieceFigures } from "./piece-figures";
import { lotAhead, shiftHalfWidth, shiftsAhead, wavesDiffer } from "./shift";

/** One response of a confirmation: what was said, what came, whether they agree. */
export interface Verdict {
  response: string;
  predicted: number;
  /** Interval for the mean of as many new trials, no shift between waves assumed. */
  interval: [number, number] | null;
  /** The same with the variance between waves added, where two or more were run before. */
  withWaves: [number, number] | null;
  /** Of the results; fitted on another scale, the mean there brought back. */
  mean: number;
  n: number;
  /** Of the results, on their own scale. */
  s: number | null;
  /**
   * Inside the interval, with waves where they differ, each response judged at the joint level (Bonferroni); or at the
   * level of a wave that was run before.
   */
  agrees: boolean | null;
  /** Waves differ: it is judged by the interval with waves. */
  byWaves: boolean;
  /** Waves that were run before, at whose level the results lie. */
  agreesWith: string[];
  /** The mean keeps the limits of the goal. */
  meetsLimits: boolean | null;
  /**
   * Distance of the mean from the nearer limit over three standard deviations of single trials, from noise alone;
   * null on another scale.
   */
  ppk: number | null;
  /** What the interval assumes of set-ups, as `Prediction.assumed` says it. */
  assumed?: number;
  /** Of a share or a count: what was counted in all. */
  counted?: CountedFigures;
  /** Where the response is made of units and several were measured: what they say of the process. */
  units?: PieceFigures;
}

/** What may be behind a confirmation that does not agree. */
export type Suspect = {
  what: "wave-shift" | "extrapolation" | "bend" | "lack-of-fit" | "drift" | "unknown";
  /** What it was judged by: a p, a distance in standard deviations, a number of responses; null where it has none. */
  figure: number | null;
} & Message<SuspectValues>;

/** The last confirmation wave held against what the models say without it. */
export interface Confirmation {
  /** As it was planned. */
  settings: Settings;
  /** The id of its wave. */
  wave: string;
  /** Its trials, skipped and failed ones left out. */
  trials: Trial[];
  /** Trials with a result of every judged response. */
  complete: boolean;
  verdicts: Verdict[];
  /** Whether the means agree with the prediction; null while results are missing. */
  agrees: boolean | null;
  /** Whether the means keep the limits of the goals; null while results are missing, or without limits. */
  meetsLimits: boolean | null;
  /** What to look at first where it does not agree, the likeliest first. */
  suspects: Suspect[];
}

/** What the mean of some new trials should fall in, on the fitted scale, and brought back. */
interface Expected {
  centre: number;
  half: number;
  interval: [number, number];
  /** The same with the variance between waves added, half its width on the fitted scale; drawn when asked for. */
  withWaves(): { half: number; interval: [number, number] } | null;
}

/**
 * ŷ ± t·s·√(d + 1/m) for the mean of m trials (of n units each where trials are made of units, so many in each set-up
 * where factors are hard to change), on the scale of the fit; null where nothing is known of the noise.
 */
function expected(
  read: Surface,
  settings: Settings,
  m: number,
  alpha: number,
  { n = 1, setups, wave }: { n?: number; setups?: readonly number[]; wave?: string } = {},
): Expected | null {
  const said = read.predictive(settings, wave);
  const interval =
    setups && said.overSetups
      ? said.overSetups(1 - alpha, setups)
      : said.interval(1 - alpha, m, read.lots ? undefined : n);
  if (interval === null || said.variance === null || said.noise === null) return null;
  const centre = said.value;
  if (read.lots) {
    const ends = backInterval(read.link.back, interval) as [number, number];
    return { centre, half: (interval[1] - interval[0]) / 2, interval: ends, withWaves: () => null };
  }
  const around = (half: number): [number, number] =>
    backInterval(read.link.back, [centre - half, centre + half]) as [number, number];
  return {
    centre,
    half: interval[1] - centre,
    interval: around(interval[1] - centre),
    withWaves: () => {
      const wide = shiftHalfWidth(read, said, { m, n, ...(setups ? { setups } : {}) }, 1 - alpha);
      return wide === null ? null : { half: wide, interval: around(wide) };
    },
  };
}

/**
 * Where the mean of m trials at some settings should lie, in the response's own unit: in a wave of its own where waves
 * differ.
 *
 * @returns `last`: as in the last wave that was run, where waves differ; results there agree as well
 * @param together responses that are judged together (Bonferroni)
 * @param setups new set-ups of the hard factors that the trials are run in; one each unless said
 */
export function confirmationInterval(
  study: Study,
  response: string,
  settings: Settings,
  m: number,
  together = 1,
  { setups, memo = new Memo() }: { setups?: number | undefined; memo?: Memo } = {},
): { interval: [number, number] | null; last: { wave: string; interval: [number, number] | null } | null } {
  const sizes = setups === undefined ? {} : { setups: dealtSizes(m, setups) };
  const read = presentPredictor(study, response, memo);
  const alpha = significance(study) / together;
  const should = expected(read, settings, m, alpha, sizes);
  const apart = wavesDiffer(study, read) ? should?.withWaves()?.interval : undefined;
  const wave = apart && study.waves.findLast((w) => read.waves.includes(w.id))?.id;
  return {
    interval: apart ?? should?.interval ?? null,
    last: wave ? { wave, interval: expected(read, settings, m, alpha, { ...sizes, wave })?.interval ?? null } : null,
  };
}

/** Trials in so many set-ups, as even as can be. */
const dealtSizes = (trials: number, setups: number): number[] =>
  Array.from({ length: Math.min(trials, setups) }, (_, i) => Math.ceil((trials - i) / setups));

/** Trials of each set-up of some trials; undefined where they are not marked. */
function setupSizes(trials: readonly Trial[]): number[] | undefined {
  if (trials.some((t) => t.setup === undefined)) return undefined;
  const sizes = new Map<number | undefined, number>();
  for (const t of trials) sizes.set(t.setup, (sizes.get(t.setup) ?? 0) + 1);
  return [...sizes.values()];
}

/**
 * What the mean of some results is held to, and whether it lies there: in a wave of its own where waves differ, else as
 * if there were no shift; results at the level of a wave that was run agree with that.
 *
 * @param expectedAs where it should lie as in a wave; as in the average of all without one
 */
function held(
  study: Study,
  read: Surface,
  level: number,
  expectedAs: (wave?: string) => Expected | null,
): Pick<Verdict, "withWaves" | "byWaves" | "agreesWith"> & { should: Expected | null; inside: boolean | null } {
  const should = expectedAs();
  const shifted = should?.withWaves() ?? null;
  const byWaves = shifted !== null && wavesDiffer(study, read);
  const agreesWith = read.waves.filter((wave) => {
    const there = expectedAs(wave);
    return there !== null && Math.abs(level - there.centre) <= there.half;
  });
  const half = byWaves ? shifted.half : should?.half;
  return {
    should,
    withWaves: shifted?.interval ?? null,
    byWaves,
    agreesWith,
    inside: should && half !== undefined ? Math.abs(level - should.centre) <= half || agreesWith.length > 0 : null,
  };
}

/**
 * Compares the latest confirmation wave with what the models, which do not use it, say of its settings:
 * ŷ ± t·s·√(d + 1/m) for the mean of m new trials, Bonferroni over responses for the joint verdict.
 *
 * @returns undefined when no confirmation is planned
 */
export function confirmation(study: Study, memo = new Memo()): Confirmation | undefined {
  const { trials, factors, covariates, waves, region, confidence, responses, models } = study;
  const inputs = [trials, factors, covariates, waves, region, confidence, responses, models];
  return memo.get("confirmation", inputs, () => confirmationAnew(study, memo));
}

function confirmationAnew(study: Study, memo: Memo): Confirmation | undefined {
  const last = [...study.trials].reverse().find((t) => t.kind === "confirm" && t.state !== "skipped");
  if (!last) return undefined;
  const trials = study.trials.filter((t) => t.kind === "confirm" && t.wave === last.wave && isStanding(t));
  const judged = study.responses.filter((r) => storedModel(study, r.id) && !r.spread);
  const factors = activeFactors(study);
  const settings = last.settings;
  const out: Confirmation = {
    settings,
    wave: last.wave,
    trials,
    complete: trials.every((t) => judged.every((r) => resultValue(t.results[r.id], r) !== null)),
    verdicts: [],
    agrees: null,
    meetsLimits: null,
    suspects: [],
  };
  // The models are those without the confirmation, even where a person has let it join since.
  const joined = trials.some((t) => t.use);
  const before: Study = joined
    ? { ...study, trials: study.trials.map((t) => (trials.includes(t) ? { ...t, use: false } : t)) }
    : study;
  const alpha = significance(study) / Math.max(1, judged.length);
  const far: Far[] = [];
  for (const r of judged) {
    const read = presentPredictor(before, r.id, memo);
    const { link } = read;
    const values = trials.map((t) => resultValue(t.results[r.id], r)).filter((v): v is number => v !== null);
    if (values.length === 0) continue;
    // Trials set a little differently are compared with what the model says of what was set.
    const sameAsAsked = trials.every((t) =>
      factors.every((f) => sameSetting(f, settingsAsRun(t)[f.id], settings[f.id])),
    )
      ? settings
      : settingsAsRun(last);
    const { lots } = read;
    if (lots) {
      const { verdict, off } = countedVerdict(before, r, read, lots, sameAsAsked, trials, alpha, study.confidence);
      out.verdicts.push(verdict);
      if (verdict.agrees === false) far.push({ name: r.name, off, prediction: read.predict(sameAsAsked) });
      continue;
    }
    const said = read.predict(sameAsAsked);
    const m = values.length;
    // Judged on the scale the response is fitted on; told on its own, means as medians of what they stand for.
    const { onFitted: fittedOf } = kindLaw(r);
    const onFitted = trials.flatMap((t) => fittedOf(t.results[r.id], r, link) ?? []);
    if (!onFitted.every(Number.isFinite)) continue;
    const level = onFitted.reduce((t, z) => t + z, 0) / m;
    const straight = link.identity;
    const mean = straight ? level : link.back(level);
    const raw = values.reduce((t, v) => t + v, 0) / m;
    const s = m > 1 ? Math.sqrt(values.reduce((t, v) => t + (v - raw) ** 2, 0) / (m - 1)) : null;
    const noise = Math.sqrt(read.predictive(sameAsAsked).noise ?? 0);
    const units = r.several === "units" ? trials.map((t) => measuredValues(t.results[r.id], r)) : [];
    // Trials of different sizes are taken for ones of their harmonic mean.
    const each = units.length > 0 ? m / units.filter((u) => u.length > 0).reduce((t, u) => t + 1 / u.length, 0) : 1;
    const measured = setupSizes(trials.filter((t) => resultValue(t.results[r.id], r) !== null));
    const sizes = { n: each, ...(measured ? { setups: measured } : {}) };
    const { should, withWaves, byWaves, agreesWith, inside } = held(before, read, level, (wave) =>
      expected(read, sameAsAsked, m, alpha, { ...sizes, ...(wave === undefined ? {} : { wave }) }),
    );
    const limits = limitsOf(r.goal);
    const bounded = Number.isFinite(limits.low) || Number.isFinite(limits.high);
    out.verdicts.push({
      response: r.id,
      predicted: said.mean,
      interval: should?.interval ?? null,
      withWaves,
      byWaves,
      agreesWith,
      mean,
      n: m,
      s,
      agrees: inside,
      meetsLimits: bounded ? mean >= limits.low && mean <= limits.high : null,
      ...(read.assumed === undefined ? {} : { assumed: read.assumed }),
      ...(units.some((u) => u.length > 1)
        ? { units: pieceFigures(units, limits, study.confidence, straight ? read.error.units() : undefined) }
        : {}),
      ppk: straight && bounded && noise > 0 ? Math.min(limits.high - mean, mean - limits.low) / (3 * noise) : null,
    });
    if (should && inside === false) far.push({ name: r.name, off: (level - should.centre) / noise, prediction: said });
  }
  const limited = out.verdicts.filter((v) => v.meetsLimits !== null);
  if (limited.length > 0 && (out.complete || limited.some((v) => v.meetsLimits === false)))
    out.meetsLimits = limited.every((v) => v.meetsLimits === true);
  const compared = out.verdicts.filter((v) => v.agrees !== null);
  if (!out.complete || compared.length === 0) return out;
  out.agrees = compared.every((v) => v.agrees);
  if (!out.agrees) out.suspects = suspectsOf(before, out, far, memo);
  return out;
}

/**
 * A share or a count: what was counted in all trials together against where the beta-binomial (negative binomial),
 * mixed over what is not known of the model, says that such a total falls.
 */
function countedVerdict(
  study: Study,
  about: Response,
  read: Surface,
  lots: SurfaceLots,
  settings: Settings,
  trials: readonly Trial[],
  alpha: number,
  confidence: number,
): { verdict: Verdict; off: number } {
  const results = trials.flatMap((t) => kindOf(about).events(t.results[about.id], about) ?? []);
  const sizes = results.map((c) => c.of);
  const intervalOf = (wave?: string): [number, number] | null =>
    lots
      .at(
        settings,
        wave,
      )(sizes)
      ?.interval(1 - alpha) ?? null;
  const figures = countedFigures(results, about, lots, confidence);
  const mean = figures.events / figures.of;
  // What equals an end to the last digit stands on it.
  const holds = (ends: [number, number] | null): boolean =>
    ends !== null && mean >= ends[0] - 1e-12 && mean <= ends[1] + 1e-12;
  const interval = intervalOf();
  const shifts = shiftsAhead(study, read);
  const withWaves = lotAhead(shifts, lots.at(settings), sizes)?.interval(1 - alpha) ?? null;
  const byWaves = withWaves !== null;
  const agreesWith = read.waves.filter((wave) => holds(intervalOf(wave)));
  const { low, high } = limitsOf(about.goal);
  const shares = results.map((c) => c.events / c.of);
  const middle = shares.reduce((t, v) => t + v, 0) / shares.length;
  const predicted = read.predict(settings).mean;
  const sd = interval && (interval[1] - interval[0]) / (2 * normalQuantile(1 - alpha / 2));
  return {
    verdict: {
      response: about.id,
      predicted,
      interval,
      withWaves,
      mean,
      n: results.length,
      s: shares.length > 1 ? Math.sqrt(shares.reduce((t, v) => t + (v - middle) ** 2, 0) / (shares.length - 1)) : null,
      byWaves,
      agreesWith,
      agrees: interval && (holds(withWaves ?? interval) || agreesWith.length > 0),
      meetsLimits: Number.isFinite(low) || Number.isFinite(high) ? mean >= low - 1e-12 && mean <= high + 1e-12 : null,
      ppk: null,
      counted: figures,
    },
    off: sd ? (mean - predicted) / sd : 0,
  };
}

/** What of a confirmation misses its limits. */
export function missedLimits(study: Study, { verdicts }: Pick<Confirmation, "verdicts">): Missed[] {
  return verdicts.flatMap((v) => {
    const about = study.responses.find((r) => r.id === v.response);
    if (v.meetsLimits !== false || !about) return [];
    const { low, high } = limitsOf(about.goal);
    const below = v.mean < low;
    return [{ response: about.name, mean: v.mean, limit: below ? low : high, below, unit: about.unit ?? "" }];
  });
}

/** Results of a confirmation that lie off what was said. */
interface Far {
  name: string;
  /** In standard deviations of one trial; below 0 where the result lies below. */
  off: number;
  prediction: Prediction;
}

/** Whether results that missed would agree with the variance between waves counted, or all lie to one side. */
function waveSuspect(missed: readonly Verdict[], far: readonly Far[]): Suspect[] {
  const explained = missed.filter((v) => v.withWaves && v.mean >= v.withWaves[0] && v.mean <= v.withWaves[1]);
  if (explained.length === missed.length)
    return [
      {
        what: "wave-shift",
        figure: explained.length,
        code: "wave-explains",
        values: { n: missed.length },
      },
    ];
  if (missed.length > 1 && far.every((f) => f.off < 0 === far[0].off < 0))
    return [
      {
        what: "wave-shift",
        figure: far.reduce((t, f) => t + f.off, 0) / far.length,
        code: "one-side",
        values: { results: far.map(({ name, off }) => ({ name, off })) },
      },
    ];
  return [];
}

/** What the model of a response that missed leaves out. */
function modelSuspects(study: Study, response: string, name: string, memo: Memo): Suspect[] {
  const { curvature, lackOfFit } = presentFit(study, response, memo);
  const alpha = significance(study);
  if (curvature && curvature.p !== null && curvature.p < alpha)
    return [
      {
        what: "bend",
        figure: curvature.p,
        code: "bend",
        values: { response: name, p: curvature.p },
      },
    ];
  if (lackOfFit && lackOfFit.p !== null && lackOfFit.p < alpha)
    return [
      {
        what: "lack-of-fit",
        figure: lackOfFit.p,
        code: "lack-of-fit",
        values: { response: name, p: lackOfFit.p },
      },
    ];
  return [];
}

/** Whether results climbed or fell all the way while the confirmation ran. */
function driftSuspects(trials: readonly Trial[], about: Response): Suspect[] {
  const { name } = about;
  const values = trials.map((t) => resultValue(t.results[about.id], about)).filter((x): x is number => x !== null);
  const rising = values.slice(1).every((x, i) => x > values[i]);
  const falling = values.slice(1).every((x, i) => x < values[i]);
  if (values.length < 3 || !(rising || falling)) return [];
  return [
    {
      what: "drift",
      figure: (values[values.length - 1] - values[0]) / (values.length - 1),
      code: "drift",
      values: { response: name, rising, first: trials[0].order, last: trials[trials.length - 1].order },
    },
  ];
}

/** What may be behind a confirmation that does not agree, the likeliest first. */
function suspectsOf(study: Study, c: Confirmation, far: readonly Far[], memo: Memo): Suspect[] {
  const missed = c.verdicts.filter((v) => v.agrees === false);
  const nameOf = (v: Verdict): string => study.responses.find((r) => r.id === v.response)?.name ?? v.response;
  const beyond = far.filter((f) => f.prediction.extrapolates);
  const out: Suspect[] = [
    ...waveSuspect(missed, far),
    ...(beyond.length > 0
      ? [
          {
            what: "extrapolation" as const,
            figure: beyond.length,
            code: "extrapolation" as const,
            values: { responses: beyond.map((f) => f.name) },
          },
        ]
      : []),
    ...missed.flatMap((v) => modelSuspects(study, v.response, nameOf(v), memo)),
    ...missed.flatMap((v) => {
      const about = study.responses.find((r) => r.id === v.response);
      return about ? driftSuspects(c.trials, about) : [];
    }),
  ];
  if (out.length > 0) return out;
  return missed.slice(0, 1).map((v) => ({
    what: "unknown",
    figure: null,
    code: "unknown",
    values: { response: nameOf(v) },
  }));
}

/**
 * Fewest confirmation trials for an interval of the mean no wider than asked.
 *
 * @param half half the width wanted, in the response's unit
 * @returns null when even a hundred would not do, or nothing is known of the noise
 */
export function confirmationsFor(
  study: Study,
  response: string,
  settings: Settings,
  half: number,
  memo = new Memo(),
): number | null {
  const read = presentPredictor(study, response, memo);
  for (let m = 1; m <= 100; m++) {
    const should = expected(read, settings, m, significance(study));
    if (!should) return null;
    if (should.interval[1] - should.interval[0] <= 2 * half) return m;
  }
  return null;
}

/** Trials at the setpoint that is chosen, which are to confirm it; none where the last such trials stood elsewhere. */
function trialsAtSetpoint(study: Study): Trial[] {
  const settings = study.setpoint?.settings;
  const last = study.trials.findLast((t) => t.kind === "confirm" && t.state !== "skipped");
  const here =
    settings !== undefined &&
    last !== undefined &&
    activeFactors(study).every((f) => last.settings[f.id] === settings[f.id]);
  return here ? study.trials.filter((t) => t.kind === "confirm" && t.wave === last.wave) : [];
}

/** The confirmation of the setpoint that is chosen; undefined where none is, or the last trials stood elsewhere. */
export const setpointTested = (study: Study, memo?: Memo): Confirmation | undefined =>
  trialsAtSetpoint(study).length > 0 ? confirmation(study, memo) : undefined;

/** Trials up to which a verdict is given wherever a study is listed; it takes a fit of each response. */
const MOST_JUDGED = 1000;

/** How far the setpoint is confirmed, in a word, where that takes no fit; undefined where it does. */
export function confirmedUnfitted(study: Study): string | undefined {
  const trials = trialsAtSetpoint(study);
  if (trials.length === 0) return "not confirmed";
  if (study.trials.length > MOST_JUDGED) return "confirmation planned";
  const measured = trials.some((t) => Object.values(t.results).some((r) => r !== null));
  return measured && study.models.length > 0 ? undefined : "being confirmed";
}

/** How far the setpoint is confirmed, in a word; the response's models are fitted for it. */
export function confirmedFact(study: Study, memo?: Memo): string {
  const known = confirmedUnfitted(study);
  if (known !== undefined) return known;
  try {
    const tested = setpointTested(study, memo);
    if (!tested || tested.agrees === null) return "being confirmed";
    if (!tested.agrees) return "not as predicted";
    return tested.meetsLimits === false ? "confirmed, limits missed" : "confirmed";
  } catch (error) {
    // Models that cannot be fitted any more judge nothing.
    if (error instanceof StudyError) return "being confirmed";
    throw error;
  }
}
