import type { OwnSpread } from "../model/own-spread";
import type { Member, Spot, Surface } from "../model/surface";
import { cholesky, type Matrix, zeros } from "../numerics/least-squares";
import { type Random, seededRandom } from "../numerics/random";
import { toleranceOf, wobblingFactors } from "../study/roles";
import type { Response, Settings, Study } from "../study/schema";
import { nextLot } from "./counted";
import { limitsOf } from "./desirability";
import type { SetpointProblem } from "./goals";
import { shiftDraw } from "./shift";

/** Chance that one future trial at some settings meets every limit. */
export interface Chance {
  together: number | null;
  standardError: number | null;
  /** The same with responses independent of each other. */
  independent: number | null;
  /** Each response alone. */
  each: Record<string, number> | null;
}

export interface ChanceOptions {
  draws: number;
  seed: number;
  /** As in this wave, if a model sets it apart; in a new one unless said, where waves differ. */
  wave?: string;
}

/**
 * Residual correlations of the responses on the trials they share, shrunk until positive definite.
 *
 * @param apart which of them are spreads, whose errors are of another kind
 */
export function residualCorrelation(predictors: readonly Surface[], apart: readonly boolean[] = []): Matrix {
  const k = predictors.length;
  const byTrial = predictors.map((p) => p.residuals());
  const raw = zeros(k, k);
  for (let i = 0; i < k; i++) {
    raw.data[i * k + i] = 1;
    for (let j = 0; j < i; j++) {
      let sxy = 0;
      let sxx = 0;
      let syy = 0;
      let common = 0;
      for (const [id, e] of byTrial[i]) {
        const f = byTrial[j].get(id);
        if (f === undefined) continue;
        common++;
        sxy += e * f;
        sxx += e * e;
        syy += f * f;
      }
      const r =
        !apart[i] && !apart[j] && common >= 4 && sxx > 0 && syy > 0
          ? Math.max(-0.999, Math.min(0.999, sxy / Math.sqrt(sxx * syy)))
          : 0;
      raw.data[i * k + j] = raw.data[j * k + i] = r;
    }
  }
  for (let shrink = 1; shrink > 0; shrink -= 0.05) {
    const m = zeros(k, k);
    for (let i = 0; i < k; i++)
      for (let j = 0; j < k; j++) m.data[i * k + j] = i === j ? 1 : shrink * raw.data[i * k + j];
    if (cholesky(m)) return m;
  }
  const identity = zeros(k, k);
  for (let i = 0; i < k; i++) identity.data[i * k + i] = 1;
  return identity;
}

/** Cholesky factor of m (k × k, by rows) written into l; false when m is not positive definite. */
function factorInto(m: Float64Array, l: Float64Array, k: number): boolean {
  for (let i = 0; i < k; i++)
    for (let j = 0; j <= i; j++) {
      let value = m[i * k + j];
      for (let c = 0; c < j; c++) value -= l[i * k + c] * l[j * k + c];
      if (i === j) {
        if (!(value > 0)) return false;
        l[i * k + i] = Math.sqrt(value);
      } else l[i * k + j] = value / l[j * k + j];
    }
  return true;
}

/** Noise draws at each draw of settings and models: moving the settings is what costs. */
const CLUSTER = 4;
/** Shifts of the settings' lattice, between which the standard error is taken. */
const SHIFTS = 25;

/**
 * Steps of a lattice that fills the unit cube of so many dimensions evenly from the first point on: powers of the
 * root of gᵏ⁺¹ = g + 1 (Roberts 2018, after Kronecker).
 */
function latticeSteps(dimensions: number): Float64Array {
  let g = 2;
  for (let i = 0; i < 60; i++) g = (1 + g) ** (1 / (dimensions + 1));
  return Float64Array.from({ length: dimensions }, (_, j) => g ** -(j + 1));
}

/** One response as the draws see it. */
interface Drawn {
  members: Member[];
  /** Sums of the members' weights up to each. */
  upTo: number[];
  /** Size of the error and degrees of freedom behind it, by member; null where the error is known. */
  noise: { scale: number; df: number | null }[];
  low: number;
  high: number;
  back: ((z: number) => number) | undefined;
  /** 1 for a measured response, whose next trial has noise of its own; 0 for a spread, which is asked for itself. */
  noiseOfItsOwn: 0 | 1;
  /** How single trials scatter by a model of the spread. */
  own: OwnSpread | undefined;
  /** What a new wave adds to the variance, where waves differ and it is a new one that is asked for. */
  shift: ReturnType<typeof shiftDraw>;
  /** The wave asked for; none where it is the average of all. */
  wave: string | undefined;
}

/** A response for the draws; null where nothing is known of its noise, nor stated. */
function drawnOf(study: Study, response: Response, read: Surface, settings: Settings, wave?: string): Drawn | null {
  const { link, own } = read;
  const members = read.members.map((m) => {
    const stated = m.scale === null && link.identity ? response.noise : undefined;
    return stated === undefined ? m : m.withNoise(stated);
  });
  const noise = members.map((m) => {
    const said = m.predictive(settings);
    return { scale: m.scale, df: own ? said.df : said.dfTrial };
  });
  if (noise.some((n) => n.scale === null || n.df === 0)) return null;
  let sum = 0;
  return {
    members,
    upTo: members.map((m) => {
      sum += m.weight;
      return sum;
    }),
    noise: noise as Drawn["noise"],
    ...limitsOf(response.goal),
    back: link.identity ? undefined : link.back,
    noiseOfItsOwn: response.spread ? 0 : 1,
    own,
    shift: response.spread || wave !== undefined ? undefined : shiftDraw(study, read),
    wave,
  };
}

/** What a draw of noise needs at the present settings and models. */
interface Joint {
  /** Which model of each response the present draw uses. */
  pick: Int32Array;
  /** Expected value of each response on the model's scale. */
  means: Float64Array;
  /** Cholesky factor of the covariance of one future trial of each response, per unit of σᵢσⱼ (k × k, by rows). */
  lower: Float64Array;
  /** Its standard deviations, per unit of σ. */
  alone: Float64Array;
  /** σ over that of the model, drawn beforehand where the scatter of trials has further parts; else 0. */
  factors: Float64Array;
  /** Moves the factors that wobble. */
  move(values: Float64Array): void;
  /** Draws how far trials scatter here that follow a model of the spread, or stand in a new wave. */
  scatter(random: Random): void;
  /** Works the figures out anew after a move or another pick. */
  prepare(): void;
}

/** One future trial of all responses together, about the settings, where the factors of `ids` may be moved. */
function jointAt(drawn: readonly Drawn[], correlation: Matrix, settings: Settings, ids: readonly string[]): Joint {
  const k = drawn.length;
  // Responses fitted to the same columns on the same trials have one place and one variance between them.
  const design = drawn.map((d) => (d.members.length > 1 ? undefined : d.members[0].design));
  const twin = design.map((d, i) => (d === undefined ? i : design.indexOf(d)));
  const spots: Spot[][] = [];
  drawn.forEach((d, i) => {
    spots.push(d.members.map((m, a) => m.spot(settings, ids, d.wave, twin[i] < i ? spots[twin[i]][a] : undefined)));
  });
  const pick = new Int32Array(k);
  const means = new Float64Array(k);
  const spread = new Float64Array(k * k);
  const lower = new Float64Array(k * k);
  /** What the coefficients of two responses have in common at the settings, per unit of σᵢσⱼρ. */
  const inner = new Float64Array(k * k);
  const alone = new Float64Array(k);
  const factors = new Float64Array(k);
  /** Variance of one new trial over that of the model's error, where it is drawn. */
  const scattered = new Float64Array(k);
  const along = drawn.map((d) => d.own?.along(settings, ids));
  const at = drawn.map((d) => d.own?.at(settings));
  /** Variance of one new trial about its value, per unit of σ². */
  const noise = new Float64Array(k);
  const prepare = (): void => {
    for (let i = 0; i < k; i++) {
      const spot = spots[i][pick[i]];
      const t = twin[i];
      means[i] = spot.value();
      inner[i * k + i] = t < i ? inner[t * k + t] : spot.relative();
      noise[i] = factors[i] > 0 ? scattered[i] : spot.relativeNoise();
      const variance = drawn[i].noiseOfItsOwn * noise[i] + inner[i * k + i];
      spread[i * k + i] = variance;
      alone[i] = Math.sqrt(variance);
      for (let j = 0; j < i; j++) {
        const rho = correlation.data[i * k + j];
        const u = twin[j];
        if (t === u) inner[i * k + j] = inner[t * k + t];
        else if (t < i || u < j) inner[i * k + j] = inner[Math.max(t, u) * k + Math.min(t, u)];
        else inner[i * k + j] = spot.common(spots[j][pick[j]]);
        spread[i * k + j] = rho * (Math.sqrt(noise[i] * noise[j]) + inner[i * k + j]);
      }
    }
    // A product of two positive definite matrices, entry by entry, is one too (Schur 1911), so this never fails but by
    // rounding.
    factorInto(spread, lower, k);
  };
  prepare();
  const move = (values: Float64Array): void => {
    for (let i = 0; i < k; i++) {
      if (twin[i] === i) spots[i][pick[i]].move(values);
      at[i] = along[i]?.(values);
    }
  };
  const scatter = (random: Random): void => {
    for (let i = 0; i < k; i++) {
      const here = at[i];
      const { own, shift } = drawn[i];
      if (!here && !shift) continue;
      // What is not known of the value goes with the model's σ², what one trial adds does not: divided by it once more.
      const { scale, df } = drawn[i].noise[pick[i]];
      factors[i] = df === null ? 1 : Math.sqrt(df / random.chiSquared(df));
      const error = (scale * factors[i]) ** 2;
      const noise = here
        ? ((own?.between ?? 0) + Math.exp(2 * (here.log + here.error * random.normal()))) / error
        : spots[i][pick[i]].relativeNoise();
      scattered[i] = noise + (shift ? shift(error, random) / error : 0);
    }
  };
  return { pick, means, lower, alone, factors, move, scatter, prepare };
}

/** Trials drawn, and how many of them met the limits. */
interface Tally {
  together: number;
  alone: number;
  each: Float64Array;
}

/** Draws the noise of some future trials at the present settings and models, and counts. */
function drawNoise(drawn: readonly Drawn[], joint: Joint, random: Random, z: Float64Array, tally: Tally): void {
  const k = drawn.length;
  const { pick, means, lower, alone, factors } = joint;
  for (let draw = 0; draw < CLUSTER; draw++) {
    for (let i = 0; i < k; i++) z[i] = random.normal();
    let good = true;
    let goodAlone = true;
    for (let i = 0; i < k; i++) {
      const { noise, back, low, high } = drawn[i];
      const { scale, df } = noise[pick[i]];
      const times = factors[i] > 0 ? factors[i] : df === null ? 1 : Math.sqrt(df / random.chiSquared(df));
      const sigma = scale * times;
      let e = 0;
      for (let j = 0; j <= i; j++) e += lower[i * k + j] * z[j];
      const y = back ? back(means[i] + sigma * e) : means[i] + sigma * e;
      if (y < low || y > high) good = false;
      else tally.each[i]++;
      const zAlone = means[i] + sigma * alone[i] * z[i];
      const yAlone = back ? back(zAlone) : zAlone;
      if (yAlone < low || yAlone > high) goodAlone = false;
    }
    if (good) tally.together++;
    if (goodAlone) tally.alone++;
  }
}

/**
 * Draws one future trial many times: settings uniform within ± tolerance, a model by its weight where models are
 * averaged, per response σ² = νs²/χ²_ν, coefficients and noise from that σ² (noise by a model of the spread where one
 * is stored), both correlated between responses as the residuals are. Each draw of settings serves four draws of noise.
 * Yields now and then.
 */
export function* chanceOf(
  problem: SetpointProblem,
  settings: Settings,
  options: ChanceOptions,
): Generator<number, Chance, void> {
  const { study, responses, predictors } = problem;
  const isLot = (r: Response): boolean => predictors.get(r.id)?.lots != null;
  const counted = responses.filter(isLot);
  if (counted.length === 0) return yield* drawnChance(problem, settings, options);
  const rest = responses.filter((r) => !isLot(r));
  // Chances of responses under different laws are multiplied.
  const others: Chance =
    rest.length > 0
      ? yield* drawnChance({ ...problem, responses: rest }, settings, options)
      : { together: 1, standardError: 0, independent: 1, each: {} };
  const waveOf = (r: Response): string | undefined =>
    options.wave !== undefined && predictors.get(r.id)?.waves.includes(options.wave) ? options.wave : undefined;
  const lots = counted.map((r) => ({
    id: r.id,
    chance: nextLot(study, r, predictors.get(r.id) as Surface, settings, waveOf(r))?.chance ?? null,
  }));
  if (others.together === null || lots.some((l) => l.chance === null))
    return { together: null, standardError: null, independent: null, each: null };
  const product = lots.reduce((t, l) => t * (l.chance ?? 0), 1);
  return {
    together: others.together * product,
    standardError: (others.standardError ?? 0) * product,
    independent: (others.independent ?? others.together) * product,
    each: { ...others.each, ...Object.fromEntries(lots.map((l) => [l.id, l.chance ?? 0])) },
  };
}

/** The same of responses whose errors are drawn. */
function* drawnChance(
  problem: SetpointProblem,
  settings: Settings,
  options: ChanceOptions,
): Generator<number, Chance, void> {
  const absent: Chance = { together: null, standardError: null, independent: null, each: null };
  const { responses, study } = problem;
  const predictors = responses.map((r) => problem.predictors.get(r.id)).filter((p): p is Surface => p !== undefined);
  const k = predictors.length;
  const drawn = predictors
    .map((p, i) => drawnOf(study, responses[i], p, settings, options.wave))
    .filter((d): d is Drawn => d !== null);
  if (k === 0 || drawn.length < k) return absent;
  const random = seededRandom(options.seed);
  const correlation = residualCorrelation(
    predictors,
    responses.map((r) => r.spread !== undefined),
  );
  const wobbling = wobblingFactors(study);
  const joint = jointAt(
    drawn,
    correlation,
    settings,
    wobbling.map((f) => f.id),
  );
  const moved = Float64Array.from(wobbling, (f) => settings[f.id] as number);
  const middles = moved.slice();
  const reach = Float64Array.from(wobbling, (f) => toleranceOf(f));
  const choosing = drawn.some((d) => d.members.length > 1);
  const scattering = drawn.some((d) => d.own !== undefined || d.shift !== undefined);
  const z = new Float64Array(k);
  const tally: Tally = { together: 0, alone: 0, each: new Float64Array(k) };
  // Settings, and which model is used, stand on a lattice that is shifted at random several times over (Cranley &
  // Patterson 1976): each draw is uniform, and together they cover the tolerances more evenly than draws of their own.
  const perShift = Math.max(1, Math.round(options.draws / CLUSTER / SHIFTS));
  const clusters = perShift * SHIFTS;
  const steps = latticeSteps(wobbling.length + (choosing ? k : 0));
  const shift = new Float64Array(steps.length);
  const byShift = new Float64Array(SHIFTS);
  let lastYield = Date.now();
  for (let c = 0; c < clusters; c++) {
    const n = c % perShift;
    if (n === 0) for (let w = 0; w < shift.length; w++) shift[w] = random.uniform();
    const even = (w: number): number => (shift[w] + n * steps[w]) % 1;
    if (choosing)
      for (let i = 0; i < k; i++) {
        const u = even(wobbling.length + i) * drawn[i].upTo[drawn[i].upTo.length - 1];
        let a = 0;
        while (a < drawn[i].upTo.length - 1 && drawn[i].upTo[a] <= u) a++;
        joint.pick[i] = a;
      }
    if (wobbling.length > 0) {
      for (let w = 0; w < wobbling.length; w++) moved[w] = middles[w] + (2 * even(w) - 1) * reach[w];
      joint.move(moved);
    }
    if (scattering) joint.scatter(random);
    if (choosing || scattering || wobbling.length > 0) joint.prepare();
    const before = tally.together;
    drawNoise(drawn, joint, random, z, tally);
    byShift[Math.floor(c / perShift)] += (tally.together - before) / (perShift * CLUSTER);
    if ((c & 255) === 0 && Date.now() - lastYield > 40) {
      lastYield = Date.now();
      yield c / clusters;
    }
  }
  const draws = clusters * CLUSTER;
  const together = tally.together / draws;
  // Draws of noise alone are independent; those that share a shift of the lattice are told by how shifts differ.
  const variance =
    steps.length > 0
      ? byShift.reduce((t, v) => t + (v - together) ** 2, 0) / (SHIFTS - 1) / SHIFTS
      : (together * (1 - together)) / draws;
  return {
    together,
    // At 0 or 1 the one-sided bound of Wilson (1927).
    standardError: together > 0 && together < 1 && variance > 0 ? Math.sqrt(variance) : 1 / (draws + 1),
    independent: tally.alone / draws,
    each: Object.fromEntries(responses.map((r, i) => [r.id, tally.each[i] / draws])),
  };
}
