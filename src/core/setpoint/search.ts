import { seededRandom } from "../numerics/random";
import { code, codedSettings, decode, isNumeric, middle, rangeOf, snap } from "../study/coding";
import { StudyError } from "../study/error";
import { typableSettings, withinRanges } from "../study/region";
import { activeFactors, heldAt, isStanding } from "../study/roles";
import type { Factor, NumericFactor, Settings } from "../study/schema";
import { messageText } from "../words/answers";
import { ascend, type Place } from "./ascend";
import { type Chance, chanceOf } from "./chance";
import { desirability } from "./desirability";
import type { SetpointProblem } from "./goals";
import { wavesAhead } from "./shift";
import { type Sureness, surenessOf } from "./sureness";

export interface SearchOptions {
  hold?: Settings;
  draws?: number;
  seed?: number;
}

/** What a response is predicted to be at a candidate, in its own unit. */
export interface CandidateResponse {
  mean: number;
  /** 0 … 1 by its goal; null where it is watched only. */
  desirability: number | null;
  /** Of the mean, and of one further trial, at the study's confidence; null where no error is known. */
  meanInterval: [number, number] | null;
  trialInterval: [number, number] | null;
  /** The point lies outside what was run, or has a level that no trial had. */
  extrapolates: boolean;
  /** The mean is past what the response can be. */
  breaksBounds: boolean;
  /** What its intervals assume of set-ups, as `Prediction.assumed` says it. */
  assumed?: number;
  /** What says how far one trial scatters, as `Prediction.scatter` does. */
  scatter?: string;
}

/** Settings that a search found good, with what is predicted there. */
export interface Candidate {
  /** In natural units, retired factors at what they are held at. */
  settings: Settings;
  /** The same, numbers from −1 to 1. */
  coded: Settings;
  /** Overall desirability, 0 … 1: the weighted geometric mean (Derringer & Suich 1980). */
  overall: number;
  /** Chance that one further trial meets every limit, by seeded draws; null where no error is known. */
  chance: number | null;
  /** Standard error of that chance by its draws. */
  chanceStandardError: number | null;
  /** The product of the chances of each response alone, for what their errors have in common. */
  chanceIndependent: number | null;
  /** Chance of each response alone meeting its limits. */
  chances: Record<string, number> | null;
  /**
   * Where models set waves apart: the chance as in the last of them, and the responses whose waves differ. Of these
   * `chance` is that of a new wave.
   */
  asIn?: { wave: string; chance: number | null; differ: string[] };
  responses: Record<string, CandidateResponse>;
  /** Largest coded difference to the nearest trial that was run. */
  distance: number | null;
}

/** What a search of settings found. */
export interface SearchResult {
  /** The best there is, steps and levels of machines aside. */
  best: Candidate;
  /** The best that can be set. */
  settable: Candidate;
  /** Good places far from one another, the best first. */
  candidates: Candidate[];
  /** How many settable points there are, where all were looked at; null where the best is the best found. */
  lattice: number | null;
  /** How sure it is that the best settable point is about the best there is; null where no error is known. */
  sure: Sureness | null;
  /** Of every draw; the same gives the same answer. */
  seed: number;
  readings: { kind: "finding" | "caution" | "next step"; text: string; evidence: string }[];
}

export interface SearchProgress {
  done: number;
  of: string;
  best: number;
}

const MOST_COMBINATIONS = 2000;
const MOST_CANDIDATES = 5;
const MERGE = 0.3;
/** Further places around which settable points are looked for. */
const MOST_AROUND = 16;
/** … and how often the look moves on along a ridge. */
const MOST_PASSES = 12;
/** Coded distance below which two places are one. */
const SAME = 0.02;
const MOST_LATTICE = 100_000;
/** Ways that factors no model speaks of may stand, looked at until one is allowed. */
const MOST_IDLE = 1000;
/** Overall desirabilities this close are one: the chance of meeting limits decides. */
const TIE = 1e-9;
/** Points of a tie whose chance is asked, by a few draws and, of the best of them, by more. */
const MOST_TIED = 256;
const MOST_JUDGED = 8;
const TIE_DRAWS = 2000;

/** What a search may move, and where it begins. */
interface Freedom {
  numeric: NumericFactor[];
  /** Every combination of levels and listed values. */
  listed: Settings[];
  fixed: Settings;
}

const byScore = (a: Place, b: Place): number => b.score - a.score;

/**
 * Free continuous factors and every combination of what is listed: levels and discrete values. A factor that neither
 * a model nor the region speaks of makes no difference and stands at its middle (its first level).
 * @throws StudyError `too-many-combinations`
 */
function freedom(problem: SetpointProblem, hold: Settings): Freedom {
  const numeric: NumericFactor[] = [];
  const fixed: Settings = {};
  let listed: Settings[] = [{}];
  const spokenOf = new Set([
    ...[...problem.predictors.values()].flatMap((p) => p.shownOf),
    ...problem.region.constraints.flatMap((c) => c.factors),
  ]);
  for (const f of problem.study.factors) {
    const idle = spokenOf.has(f.id) ? undefined : isNumeric(f) ? snap(f, middle(f)) : f.levels[0];
    const held = heldAt(f) ?? hold[f.id] ?? idle;
    if (held !== undefined) fixed[f.id] = held;
    const options: (number | string)[] | undefined =
      held !== undefined ? [held] : f.kind === "categorical" ? f.levels : f.kind === "discrete" ? f.values : undefined;
    if (!options) numeric.push(f as NumericFactor);
    else {
      listed = options.flatMap((o) => listed.map((s) => ({ ...s, [f.id]: o })));
      if (listed.length > MOST_COMBINATIONS)
        throw new StudyError("too-many-combinations", { most: MOST_COMBINATIONS }, ["hold"]);
    }
  }
  return { numeric, listed, fixed };
}

/** Largest coded difference over numeric factors; infinite when a category differs. */
export function codedDistance(factors: readonly Factor[], a: Settings, b: Settings): number {
  let far = 0;
  for (const f of factors) {
    if (isNumeric(f)) far = Math.max(far, Math.abs(code(f, a[f.id] as number) - code(f, b[f.id] as number)));
    else if (a[f.id] !== b[f.id]) return Number.POSITIVE_INFINITY;
  }
  return far;
}

/** The values of each stepped factor within two steps of a place. */
function stepsAround(stepped: readonly NumericFactor[], settings: Settings): number[][] {
  return stepped.map((f) => {
    const [low, high] = rangeOf(f);
    const step = f.kind === "continuous" ? (f.step as number) : 0;
    const mid = snap(f, settings[f.id] as number);
    const values = [-2, -1, 0, 1, 2]
      .map((i) => snap(f, mid + i * step))
      .filter((v) => v >= low - 1e-9 * step && v <= high + 1e-9 * step);
    return [...new Set(values)];
  });
}

/**
 * The best settable point near a place: of the whole lattice within two steps where `thorough` and small enough, else
 * by exchange of one and two factors at a time; looked for again around each one found until none is better.
 *
 * @param passes how often at most
 */
function settableNear(
  problem: SetpointProblem,
  numeric: readonly NumericFactor[],
  point: Place,
  { thorough, passes }: { thorough: boolean; passes: number },
): Place | undefined {
  const stepped = numeric.filter((f) => f.kind === "continuous" && f.step !== undefined);
  const free = numeric.filter((f) => !stepped.includes(f));
  let best: Place | undefined;
  const offer = (settings: Settings): void => {
    if (!problem.region.allowed(settings)) return;
    const score = problem.score(settings);
    if (!best || score > best.score + 1e-12) best = { settings: { ...settings }, score };
  };
  const lattice = (from: Settings, axes: number[][], total: number): void => {
    const here = { ...from };
    const index = axes.map(() => 0);
    for (let i = 0; i < total; i++) {
      stepped.forEach((f, j) => {
        here[f.id] = axes[j][index[j]];
      });
      offer(here);
      for (let j = 0; j < index.length; j++) {
        if (++index[j] < axes[j].length) break;
        index[j] = 0;
      }
    }
  };
  const exchange = (from: Settings, axes: number[][]): void =>
    stepped.forEach((f, j) => {
      for (const v of axes[j]) offer({ ...from, [f.id]: v });
      stepped.slice(j + 1).forEach((g, k) => {
        for (const v of axes[j]) for (const w of axes[j + 1 + k]) offer({ ...from, [f.id]: v, [g.id]: w });
      });
    });
  let from: Settings | undefined = { ...point.settings };
  for (const f of stepped) from[f.id] = snap(f, from[f.id] as number);
  offer(from);
  for (let pass = 0; from && pass < passes; pass++) {
    const before: Place | undefined = best;
    const axes = stepsAround(stepped, from);
    const total = axes.reduce((n, a) => n * a.length, 1);
    if (thorough && total <= MOST_LATTICE) lattice(from, axes, total);
    else exchange(from, axes);
    from = best === before ? undefined : best?.settings;
  }
  if (!best || free.length === 0) return best;
  const settings = typableSettings(problem.study, ascend(problem, free, best).settings);
  return { settings, score: problem.score(settings) };
}

/** The values that a stepped factor can be set to within its range. */
function settableValues(f: NumericFactor): number[] {
  const [low, high] = rangeOf(f);
  const step = (f as { step: number }).step;
  const count = Math.floor((high - low) / step + 1e-9) + 1;
  return count > MOST_LATTICE ? [] : Array.from({ length: count }, (_, i) => snap(f, low + i * step));
}

/** Whether some model speaks of a factor: others make a difference to the region alone. */
const isActive = (problem: SetpointProblem, f: Factor): boolean =>
  [...problem.predictors.values()].some((p) => p.speaksOf.includes(f.id));

/** All ways that factors can stand, those near the middle first; at most so many. */
function waysOf(factors: readonly Factor[]): Settings[] {
  let ways: Settings[] = [{}];
  for (const f of factors) {
    const middleOut = (values: readonly number[]): number[] =>
      isNumeric(f) ? [...values].sort((a, b) => Math.abs(code(f, a)) - Math.abs(code(f, b))) : [];
    const values: readonly (number | string)[] = !isNumeric(f)
      ? f.levels
      : f.kind === "discrete"
        ? middleOut(f.values)
        : f.step !== undefined
          ? middleOut(settableValues(f))
          : middleOut(Array.from({ length: 21 }, (_, i) => decode(f, -1 + i / 10)));
    ways = ways.flatMap((w) => values.map((v) => ({ ...w, [f.id]: v }))).slice(0, MOST_IDLE);
  }
  return ways;
}

/**
 * Every settable point, best first, where all that a model speaks of has steps and there are few enough; undefined
 * where there are more, or an active factor can be set to anything. A factor that no model speaks of stands wherever
 * the region allows the point, so that no point is left out for its sake.
 */
function* wholeLattice(
  problem: SetpointProblem,
  { numeric, listed, fixed }: Freedom,
  pace: Pace,
): Generator<SearchProgress, { ranked: Place[]; points: number } | undefined, void> {
  const { factors } = problem.study;
  const active = numeric.filter((f) => isActive(problem, f));
  if (active.some((f) => f.kind !== "continuous" || f.step === undefined)) return undefined;
  const idle = factors.filter((f) => fixed[f.id] === undefined && !isActive(problem, f));
  const ways = waysOf(idle);
  // Levels and listed values that differ in idle factors alone are one.
  const apart = new Map(
    listed.map((l) => [JSON.stringify(Object.entries(l).filter(([id]) => !idle.some((f) => f.id === id))), l]),
  );
  const combinations = [...apart.values()];
  const axes = active.map(settableValues);
  const points = axes.reduce((n, a) => n * a.length, combinations.length);
  if (points === 0 || points > MOST_LATTICE) return undefined;
  const found: Place[] = [];
  for (let i = 0; i < points; i++) {
    const settings: Settings = { ...combinations[i % combinations.length] };
    let rest = Math.floor(i / combinations.length);
    active.forEach((f, j) => {
      settings[f.id] = axes[j][rest % axes[j].length];
      rest = Math.floor(rest / axes[j].length);
    });
    const open = ways.find((w) => problem.region.allowed(Object.assign(settings, w)));
    if (open) found.push({ settings, score: problem.score(settings) });
    if (i % 1000 === 0) yield* pace.say(0.75, "looking at every settable point");
  }
  return found.length > 0 ? { ranked: found.sort(byScore), points } : undefined;
}

/**
 * Puts the points that tie for the best in the order of their chance of meeting all limits, on common draws; what makes
 * no chance (no noise known) stays as it is.
 */
function* tiesByChance(
  problem: SetpointProblem,
  ranked: readonly Place[],
  seed: number,
  pace: Pace,
): Generator<SearchProgress, Place[], void> {
  const level = ranked.filter((p) => p.score >= ranked[0].score - TIE);
  // The same point may have been come upon from several sides.
  const tied = [
    ...new Map(level.map((p) => [JSON.stringify(codedSettings(problem.study.factors, p.settings)), p])).values(),
  ];
  if (tied.length < 2 || !(ranked[0].score > 0)) return [...ranked];
  const judge = function* (places: readonly Place[], draws: number): Generator<SearchProgress, Place[], void> {
    const judged: { place: Place; chance: number }[] = [];
    for (const place of places) {
      const drawn = chanceOf(problem, place.settings, { draws, seed });
      let step = drawn.next();
      while (!step.done) step = drawn.next();
      judged.push({ place, chance: step.value.together ?? 0 });
      yield* pace.say(0.78, "chance among equals");
    }
    return judged.sort((a, b) => b.chance - a.chance).map((j) => j.place);
  };
  const every = Math.ceil(tied.length / MOST_TIED);
  const looked = yield* judge(
    tied.filter((_, i) => i % every === 0),
    TIE_DRAWS,
  );
  const best = yield* judge(looked.slice(0, MOST_JUDGED), 10 * TIE_DRAWS);
  const first = new Set([...best, ...looked]);
  return [...first, ...ranked.filter((p) => !first.has(p))];
}

/**
 * Where the best trials were run, as far as they can be set: the search starts there too, so that it never ends below
 * them.
 */
function bestRun(problem: SetpointProblem, fixed: Settings): Place[] {
  const { study } = problem;
  return study.trials
    .filter((t) => t.state === "done" && t.use)
    .map((t): Settings => ({ ...t.settings, ...t.asRun, ...fixed }))
    .filter(
      (s) =>
        withinRanges(study.factors, s) &&
        problem.region.allowed(s) &&
        study.factors.every(
          (f) => s[f.id] !== undefined && (f.kind !== "discrete" || f.values.includes(s[f.id] as number)),
        ),
    )
    .map((settings) => ({ settings, score: problem.score(settings) }))
    .sort((a, b) => b.score - a.score)
    .slice(0, 3);
}

/** Nearest trial that was run, in coded units. */
function nearestTrial(problem: SetpointProblem, settings: Settings): number | null {
  const factors = activeFactors(problem.study);
  let near: number | null = null;
  for (const t of problem.study.trials) {
    if (!isStanding(t) || Object.keys(t.results).length === 0) continue;
    const d = codedDistance(factors, settings, { ...t.settings, ...t.asRun });
    if (near === null || d < near) near = d;
  }
  return near !== null && Number.isFinite(near) ? near : null;
}

/** Everything said of one point: predictions, desirabilities, chance. */
export function describe(problem: SetpointProblem, settings: Settings, chance: Chance): Candidate {
  const responses: Record<string, CandidateResponse> = {};
  for (const [id, p] of problem.predictors) {
    const goal = problem.study.responses.find((r) => r.id === id)?.goal ?? { aim: "watch" as const };
    const { mean, meanInterval, trialInterval, extrapolates, breaksBounds, assumed, scatter } = p.predict(settings);
    responses[id] = {
      mean,
      desirability: desirability(goal, mean),
      meanInterval,
      trialInterval,
      extrapolates,
      breaksBounds,
      ...(assumed === undefined ? {} : { assumed }),
      ...(scatter === undefined ? {} : { scatter }),
    };
  }
  return {
    settings,
    coded: codedSettings(activeFactors(problem.study), settings),
    overall: problem.overall(settings),
    chance: chance.together,
    chanceStandardError: chance.standardError,
    chanceIndependent: chance.independent,
    chances: chance.each,
    responses,
    distance: nearestTrial(problem, settings),
  };
}

/**
 * Refuses to hold what cannot be set: an unknown factor, a level that is not one, a value outside what may be run.
 * @throws StudyError `bad-hold`
 */
function checkHold(factors: readonly Factor[], hold: Settings): void {
  for (const [id, value] of Object.entries(hold)) {
    const f = factors.find((q) => q.id === id);
    const at = ["hold", id];
    if (!f) throw new StudyError("bad-hold.unknown", { id, factors: factors.map((q) => q.id) }, at);
    if (!isNumeric(f)) {
      const level = String(value);
      if (!f.levels.includes(level))
        throw new StudyError("bad-hold.level", { factor: f.name, level, levels: f.levels }, at);
    } else {
      const [low, high] = rangeOf(f);
      const least = f.kind === "continuous" ? (f.hardLow ?? low) : low;
      const most = f.kind === "continuous" ? (f.hardHigh ?? high) : high;
      if (typeof value !== "number" || !(value >= least && value <= most))
        throw new StudyError(
          "bad-hold.range",
          { factor: f.name, value: String(value), least, most, unit: f.unit ?? "" },
          at,
        );
    }
  }
}

/** How a search shares its progress: at most every 40 ms. */
class Pace {
  private last = Date.now();
  best = Number.NEGATIVE_INFINITY;
  *say(done: number, of: string): Generator<SearchProgress, void, void> {
    if (Date.now() - this.last <= 40) return;
    this.last = Date.now();
    yield { done, of, best: this.best };
  }
}

/** Starts at every category and listed value, best first. */
function* startsOver(
  problem: SetpointProblem,
  { numeric, listed }: Freedom,
  seed: number,
  pace: Pace,
): Generator<SearchProgress, Place[], void> {
  const random = seededRandom(seed);
  const perCombination = Math.max(24, Math.min(8000, Math.floor(24000 / listed.length)));
  const starts: Place[] = [];
  for (let c = 0; c < listed.length; c++) {
    const here: Place[] = [];
    for (let i = 0; i < perCombination; i++) {
      const settings: Settings = { ...listed[c] };
      // A quarter of the starts stand on corners and edges, where goals that pull one way end up.
      for (const f of numeric) {
        const u = 2 * random.uniform() - 1;
        settings[f.id] = decode(f, i % 4 === 0 ? Math.sign(u) * (Math.abs(u) > 0.3 ? 1 : 0) : u);
      }
      if (!problem.region.allowed(settings)) continue;
      here.push({ settings, score: problem.score(settings) });
      if (numeric.length === 0) break;
    }
    here.sort(byScore);
    // Starts near a better one would climb the same hill.
    const kept: Place[] = [];
    for (const point of here) {
      if (kept.length >= Math.max(4, Math.ceil(40 / listed.length))) break;
      if (kept.every((k) => codedDistance(numeric, k.settings, point.settings) > 0.4)) kept.push(point);
    }
    starts.push(...kept);
    if (kept[0]) pace.best = Math.max(pace.best, kept[0].score);
    yield* pace.say((0.3 * (c + 1)) / listed.length, "looking over the region");
  }
  return starts.sort(byScore);
}

/** The best of a ranked list that stand apart from one another in what a model speaks of. */
function distinctOf(problem: SetpointProblem, ranked: readonly Place[]): Place[] {
  const active = problem.study.factors.filter((f) => isActive(problem, f));
  const distinct: Place[] = [];
  for (const p of ranked) {
    if (distinct.length >= MOST_CANDIDATES) break;
    if (distinct.every((q) => codedDistance(active, q.settings, p.settings) > MERGE)) distinct.push(p);
  }
  return distinct;
}

/** The best settable points around the peaks, best first. */
function* settableAround(
  problem: SetpointProblem,
  numeric: readonly NumericFactor[],
  { ran, peaks, distinct }: { ran: readonly Place[]; peaks: readonly Place[]; distinct: readonly Place[] },
  pace: Pace,
): Generator<SearchProgress, Place[], void> {
  const look = function* (
    places: readonly Place[],
    how: { thorough: boolean; passes: number },
  ): Generator<SearchProgress, Place[], void> {
    const near: Place[] = [];
    for (const p of places) {
      const settable = settableNear(problem, numeric, p, how);
      if (settable) near.push(settable);
      yield* pace.say(0.75, "rounding to settable steps");
    }
    return near.sort(byScore);
  };
  const found = yield* look(distinct, { thorough: true, passes: MOST_PASSES });
  // Where the top is flat or a ridge, the best settable point may lie far from the exact best: other peaks and the
  // best trials are looked around too.
  const others: Place[] = [];
  for (const p of [...ran, ...peaks])
    if (
      others.length < MOST_AROUND &&
      [...distinct, ...others].every((q) => codedDistance(problem.study.factors, q.settings, p.settings) > SAME)
    )
      others.push(p);
  const hopeful = yield* look(others, { thorough: false, passes: 1 });
  const climbed = yield* look(hopeful.slice(0, 2), { thorough: false, passes: MOST_PASSES });
  return [...found, ...hopeful, ...climbed].sort(byScore);
}

/** A point with all its figures, the chance of meeting limits by so many draws. */
function* withChance(
  problem: SetpointProblem,
  { settings }: Place,
  drawing: { draws: number; seed: number },
  done: number,
  pace: Pace,
): Generator<SearchProgress, Candidate, void> {
  function* drawn(of: { draws?: number; wave?: string }): Generator<SearchProgress, Chance, void> {
    const steps = chanceOf(problem, settings, { ...drawing, ...of });
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
      yield { done, of: "chance of meeting limits", best: pace.best };
    }
  }
  const candidate = describe(problem, settings, yield* drawn({}));
  const { last, differ } = wavesAhead(problem.study, problem.responses, problem.predictors);
  if (last === undefined) return candidate;
  return {
    ...candidate,
    asIn: { wave: last, chance: (yield* drawn({ draws: drawing.draws / 5, wave: last })).together, differ },
  };
}

/**
 * Searches the whole region for the best overall desirability: every category and listed value, many starts, a
 * derivative-based climb from the best, the distinct optima ranked, then the best settable point around each.
 * The same seed gives the same answer everywhere.
 *
 * @throws StudyError when the region is empty or what is held is not allowed
 */
export function* searchSetpoint(
  problem: SetpointProblem,
  options: SearchOptions = {},
): Generator<SearchProgress, SearchResult, void> {
  const seed = options.seed ?? 1;
  const hold = options.hold ?? {};
  checkHold(problem.study.factors, hold);
  const free = freedom(problem, hold);
  const { numeric } = free;
  const pace = new Pace();
  const starts = yield* startsOver(problem, free, seed, pace);
  if (starts.length === 0) throw new StudyError("empty-region.setpoint", {}, ["region"]);
  const ran = bestRun(problem, free.fixed);
  const peaks: Place[] = [];
  const chosen = [...ran, ...starts.slice(0, 60)];
  for (let i = 0; i < chosen.length; i++) {
    const point = ascend(problem, numeric, chosen[i]);
    peaks.push(point);
    pace.best = Math.max(pace.best, point.score);
    yield* pace.say(0.3 + (0.4 * (i + 1)) / chosen.length, "climbing");
  }
  peaks.sort(byScore);
  const distinct = distinctOf(problem, peaks);
  const whole = yield* wholeLattice(problem, free, pace);
  const found = whole?.ranked ?? (yield* settableAround(problem, numeric, { ran, peaks, distinct }, pace));
  const settable = found.length === 0 ? [] : distinctOf(problem, yield* tiesByChance(problem, found, seed, pace));
  if (settable.length === 0) throw new StudyError("nothing-settable", {}, ["factors"]);
  // A flat top may have been reached from a settable point alone.
  const reached = settable[0].score > distinct[0].score ? ascend(problem, numeric, settable[0]) : distinct[0];
  const exactly: Place = { ...reached, settings: toTwelve(problem, reached.settings) };
  const draws = options.draws ?? 112_000;
  // The best settable point gets all the draws; a fifth is enough to rank its rivals, and each says its error.
  const fewer = Math.max(100, Math.round(draws / 5));
  const exact = yield* withChance(problem, exactly, { draws: fewer, seed }, 0.8, pace);
  const candidates: Candidate[] = [];
  for (const [i, point] of settable.entries())
    candidates.push(
      yield* withChance(
        problem,
        point,
        { draws: i === 0 ? draws : fewer, seed },
        0.8 + (0.2 * i) / settable.length,
        pace,
      ),
    );
  return {
    best: exact,
    settable: candidates[0],
    candidates,
    lattice: whole?.points ?? null,
    sure: surenessOf(
      problem,
      candidates[0].settings,
      { ...free, rivals: [exactly.settings, ...candidates.slice(1).map((c) => c.settings)] },
      seed,
    ),
    seed,
    readings: searchReadings(candidates[0]),
  };
}

/** Settings to twelve digits, where the region allows them so. */
function toTwelve(problem: SetpointProblem, settings: Settings): Settings {
  const out = { ...settings };
  for (const f of activeFactors(problem.study))
    if (f.kind === "continuous") out[f.id] = Number((settings[f.id] as number).toPrecision(12));
  return withinRanges(problem.study.factors, out) && problem.region.allowed(out) ? out : settings;
}

/** What must be said of a search's best point. */
function searchReadings({ overall, chance }: Candidate): SearchResult["readings"] {
  const readings: SearchResult["readings"] = [];
  if (overall === 0)
    readings.push({
      kind: "caution",
      text: messageText("readings", { code: "none-meets", values: {} }),
      evidence: "candidates",
    });
  if (chance === null)
    readings.push({
      kind: "caution",
      text: messageText("readings", { code: "no-chance-given", values: {} }),
      evidence: "candidates",
    });
  return readings;
}
