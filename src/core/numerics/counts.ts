import { chiSquaredQuantile, fQuantile, normalCdf, normalQuantile } from "./distributions";
import type { Random } from "./random";
import { betaBinomialUpTo, binomialUpTo, negativeBinomialUpTo, poissonUpTo } from "./wide-counts";

/** How a whole number falls. */
export interface CountLaw {
  /** P(K ≤ k). */
  upTo(k: number): number;
  /** About where it falls and how far it spreads: where to look first, no figure. */
  middle: number;
  spread: number;
  /** The most that it may be. */
  most: number;
  /** A number drawn by it, where that is quicker than looking for a quantile. */
  draw?(random: Random): number;
  /** Each number with its probability, where there are few enough; what is left out is below rounding. */
  listed?: Listed;
}

/** Probabilities of whole numbers from `from` on. */
export interface Listed {
  from: number;
  probabilities: Float64Array;
}

/** Probabilities this far below the largest are not worth a place. */
const NEGLIGIBLE = 1e-22;
/**
 * Numbers that a law is listed over. Beyond, its distribution function answers: how many numbers there are comes from
 * what was counted, and no array is as long as that.
 */
const MOST_LISTED = 8192;
/** Numbers over which a law that is asked only a few times is listed: its distribution function costs less beyond. */
export const ASKED_FEW_TIMES = 256;
/** Standard deviations on either side, beyond which hardly anything falls: how long a list will be. */
const REACH = 12;

/** A law from its list. */
function listedLaw({ from, probabilities }: Listed, most: number): CountLaw {
  const sums = new Float64Array(probabilities.length);
  let total = 0;
  let mean = 0;
  for (let i = 0; i < sums.length; i++) {
    total += probabilities[i];
    mean += i * probabilities[i];
    sums[i] = total;
  }
  const upTo = (k: number): number =>
    k < from ? 0 : Math.min(1, sums[Math.min(sums.length - 1, Math.floor(k) - from)]);
  return { upTo, middle: from + mean, spread: sums.length, most, listed: { from, probabilities } };
}

/**
 * Probabilities from their ratios, upwards and downwards from a start, scaled to one: no function of the largest
 * probability itself is needed, so nothing overflows.
 *
 * @param up p(k + 1)/p(k)
 * @param whole look at all numbers up to `most`: the probabilities may fall and rise again
 * @returns undefined where there are more than are listed
 */
function fromRatios(start: number, most: number, up: (k: number) => number, whole: boolean): CountLaw | undefined {
  const above: number[] = [1];
  const below: number[] = [];
  let sum = 1;
  let largest = 1;
  for (let k = start, p = 1; k < most; k++) {
    p *= up(k);
    if (p > largest) largest = p;
    if (!whole && p < NEGLIGIBLE * largest) break;
    if (above.length > MOST_LISTED) return undefined;
    above.push(p);
    sum += p;
  }
  for (let k = start - 1, p = 1; k >= 0; k--) {
    p /= up(k);
    if (p > largest) largest = p;
    if (!whole && p < NEGLIGIBLE * largest) break;
    if (below.length > MOST_LISTED) return undefined;
    below.push(p);
    sum += p;
  }
  const probabilities = new Float64Array(below.length + above.length);
  below.forEach((p, i) => {
    probabilities[below.length - 1 - i] = p / sum;
  });
  above.forEach((p, i) => {
    probabilities[below.length + i] = p / sum;
  });
  return listedLaw({ from: start - below.length, probabilities }, most);
}

const certain = (at: number): CountLaw => listedLaw({ from: at, probabilities: Float64Array.of(1) }, at);

/**
 * Events among n pieces: binomial, or beta-binomial where shares vary from lot to lot with intraclass correlation ρ
 * (Williams 1975), variance nπ(1−π)(1+(n−1)ρ).
 *
 * @param listed numbers that it is listed over at most
 */
export function shareLaw(n: number, share: number, rho: number, listed = MOST_LISTED): CountLaw {
  if (!(share > 0)) return certain(0);
  if (!(share < 1)) return certain(n);
  const middle = n * share;
  const spread = Math.sqrt(middle * (1 - share) * (1 + (n - 1) * Math.max(0, rho)));
  const few = Math.min(n, 2 * REACH * spread) <= listed;
  if (!(rho > 0)) {
    const list = few
      ? fromRatios(
          Math.min(n, Math.floor((n + 1) * share)),
          n,
          (k) => ((n - k) / (k + 1)) * (share / (1 - share)),
          false,
        )
      : undefined;
    return list ?? wideBinomial(n, share);
  }
  const a = (share * (1 - rho)) / rho;
  const b = ((1 - share) * (1 - rho)) / rho;
  const mode = a > 1 && b > 1 ? Math.floor(((a - 1) * (n + 1)) / (a + b - 2)) : Math.floor(n * share);
  const whole = a < 1 || b < 1;
  const list = (whole ? n <= MOST_LISTED : few)
    ? fromRatios(Math.min(n, Math.max(0, mode)), n, (k) => ((n - k) / (k + 1)) * ((a + k) / (b + n - k - 1)), whole)
    : undefined;
  if (list) return list;
  // A share of its own for each lot, then the lot's events.
  const draw = (random: Random): number => {
    const [up, down] = [random.chiSquared(2 * a), random.chiSquared(2 * b)];
    return quantileOf(wideBinomial(n, up / (up + down)), random.uniform());
  };
  const upTo = betaBinomialUpTo(n, a, b);
  return { upTo: (k) => upTo(Math.floor(k)), middle, spread, most: n, draw };
}

/** Events among many pieces that are independent, by the distribution function alone. */
const wideBinomial = (n: number, share: number): CountLaw => ({
  upTo: (k) => binomialUpTo(Math.floor(k), n, share),
  middle: n * share,
  spread: Math.max(1, Math.sqrt(n * share * (1 - share))),
  most: n,
});

/** Many events that are independent, by the distribution function alone. */
function widePoisson(mean: number): CountLaw {
  const upTo = poissonUpTo(mean);
  return {
    upTo: (k) => upTo(Math.floor(k)),
    middle: mean,
    spread: Math.max(1, Math.sqrt(mean)),
    most: Number.POSITIVE_INFINITY,
  };
}

/** A number drawn by a law. */
export const drawOf = (law: CountLaw, random: Random): number =>
  law.draw?.(random) ?? quantileOf(law, random.uniform());

/**
 * Events where `mean` are expected: Poisson, or negative binomial with variance μ + κμ² (Breslow 1984).
 *
 * @param listed numbers that it is listed over at most
 */
export function rateLaw(mean: number, kappa: number, listed = MOST_LISTED): CountLaw {
  if (!(mean > 0)) return certain(0);
  const most = Number.POSITIVE_INFINITY;
  const spread = Math.sqrt(mean * (1 + kappa * mean));
  const fall = 1 + kappa * mean;
  const list =
    2 * REACH * spread <= listed
      ? fromRatios(
          Math.max(0, Math.floor(mean * (1 - kappa))),
          most,
          (k) => (mean * (1 + kappa * k)) / ((k + 1) * fall),
          false,
        )
      : undefined;
  if (list) return list;
  if (!(kappa > 0)) return widePoisson(mean);
  // A mean of its own for each lot, then the lot's events.
  const draw = (random: Random): number =>
    quantileOf(rateLaw((mean * kappa * random.chiSquared(2 / kappa)) / 2, 0, listed), random.uniform());
  return { upTo: (k) => negativeBinomialUpTo(Math.floor(k), mean, kappa), middle: mean, spread, most, draw };
}

/** P(low ≤ K ≤ high). */
export function within(law: CountLaw, low: number, high: number): number {
  const first = Math.ceil(low) - 1;
  const upper = high < law.most ? law.upTo(Math.floor(high)) : 1;
  return Math.max(0, upper - (first < 0 ? 0 : law.upTo(first)));
}

/** Mixture of laws, equally weighted unless said. */
export function mixture(laws: readonly CountLaw[], weights?: readonly number[]): CountLaw {
  const weightOf = (i: number): number => weights?.[i] ?? 1 / laws.length;
  const most = laws.reduce((m, l) => Math.max(m, l.most), 0);
  const lists = laws.map((l) => l.listed);
  if (lists.every((l): l is Listed => l !== undefined)) {
    const from = lists.reduce((m, l) => Math.min(m, l.from), Number.POSITIVE_INFINITY);
    const to = lists.reduce((m, l) => Math.max(m, l.from + l.probabilities.length), 0);
    if (to - from <= 4 * MOST_LISTED) {
      const probabilities = new Float64Array(to - from);
      lists.forEach((l, k) => {
        const weight = weightOf(k);
        for (let i = 0; i < l.probabilities.length; i++)
          probabilities[l.from - from + i] += weight * l.probabilities[i];
      });
      return listedLaw({ from, probabilities }, most);
    }
  }
  const middle = laws.reduce((t, l, i) => t + weightOf(i) * l.middle, 0);
  const spread = Math.sqrt(laws.reduce((t, l, i) => t + weightOf(i) * (l.spread ** 2 + (l.middle - middle) ** 2), 0));
  return {
    upTo: (k) =>
      Math.min(
        1,
        laws.reduce((t, l, i) => t + weightOf(i) * l.upTo(k), 0),
      ),
    middle,
    spread,
    most,
  };
}

/** Chebyshev's places that a mixture along a line is first told from, and how often they are doubled. */
const FIRST_PLACES = 16;
const DOUBLINGS = 3;
/** Places at which what is interpolated is held against the law itself, and how near it must be. */
const HELD_AT = [0.02, 0.31, 0.64, 0.97];
const NEAR = 1e-10;

const onNormal = (p: number): number => normalQuantile(Math.min(1 - 1e-16, Math.max(1e-300, p)));

/** Weights that interpolate values at Chebyshev's places of the second kind at others (Berrut & Trefethen 2004). */
function barycentric(n: number, at: readonly number[]): Float64Array[] {
  const nodes = Array.from({ length: n + 1 }, (_, j) => Math.cos((Math.PI * j) / n));
  return at.map((x) => {
    const row = new Float64Array(n + 1);
    const hit = nodes.findIndex((v) => Math.abs(v - x) < 1e-15);
    if (hit >= 0) row[hit] = 1;
    else {
      let sum = 0;
      for (let j = 0; j <= n; j++) {
        row[j] = ((j % 2 ? -1 : 1) * (j === 0 || j === n ? 0.5 : 1)) / (x - nodes[j]);
        sum += row[j];
      }
      for (let j = 0; j <= n; j++) row[j] /= sum;
    }
    return row;
  });
}

/**
 * Equally weighted mixture of laws that move along a line, as those of a lot do with what is not known of its mean.
 * Where they are wide the chance of at most k moves smoothly with the place, on the normal scale, and is interpolated
 * from a few places; where that does not come near the laws themselves each is asked.
 * @param places where laws are wanted, in rising order
 */
export function mixtureAlong(lawAt: (place: number) => CountLaw, places: readonly number[]): CountLaw {
  const first = places[0];
  const last = places[places.length - 1];
  const middleLaw = lawAt(places[places.length >> 1]);
  if (middleLaw.listed || !(last > first)) return mixture(places.map(lawAt));
  const unit = (place: number): number => (2 * (place - first)) / (last - first) - 1;
  const placeAt = (u: number): number => first + ((u + 1) / 2) * (last - first);
  const held = HELD_AT.map((share) => placeAt(2 * share - 1));
  const heldLaws = held.map(lawAt);
  let all: CountLaw[] | undefined;
  const levels: { laws: CountLaw[]; rows: Float64Array[]; checks: Float64Array[] }[] = [];
  const levelAt = (i: number) => {
    const n = FIRST_PLACES * 2 ** i;
    levels[i] ??= {
      laws: Array.from({ length: n + 1 }, (_, j) => lawAt(placeAt(Math.cos((Math.PI * j) / n)))),
      rows: barycentric(n, places.map(unit)),
      checks: barycentric(n, held.map(unit)),
    };
    return levels[i];
  };
  const read = (row: Float64Array, values: Float64Array): number => {
    let z = 0;
    for (let j = 0; j < values.length; j++) z += row[j] * values[j];
    return normalCdf(z);
  };
  const upTo = (k: number): number => {
    const exact = heldLaws.map((l) => l.upTo(k));
    for (let i = 0; i < DOUBLINGS; i++) {
      const { laws, rows, checks } = levelAt(i);
      const values = Float64Array.from(laws, (l) => onNormal(l.upTo(k)));
      if (!checks.every((row, j) => Math.abs(read(row, values) - exact[j]) < NEAR)) continue;
      let total = 0;
      for (const row of rows) total += read(row, values);
      return Math.min(1, total / rows.length);
    }
    all ??= places.map(lawAt);
    return Math.min(1, all.reduce((t, l) => t + l.upTo(k), 0) / all.length);
  };
  const spread = Math.hypot(middleLaw.spread, (lawAt(placeAt(0.4)).middle - lawAt(placeAt(-0.4)).middle) / 2);
  return { upTo, middle: middleLaw.middle, spread, most: middleLaw.most };
}

/**
 * The smallest number that is not left below with at most probability p: P(K ≤ k) > p. By Newton's steps on the normal
 * scale, halved where they do not narrow it down.
 */
export function quantileOf(law: CountLaw, p: number): number {
  const { listed } = law;
  if (listed) {
    // The first that is past it, or the last there is.
    let low = listed.from;
    let high = low + listed.probabilities.length - 1;
    while (low < high) {
      const k = low + ((high - low) >> 1);
      if (law.upTo(k) > p) high = k;
      else low = k + 1;
    }
    return low;
  }
  const wanted = onNormal(p);
  let low = -1;
  let high = Math.min(law.most, Number.MAX_SAFE_INTEGER);
  let k = Math.floor(law.middle + law.spread * wanted);
  for (let i = 0; high - low > 1; i++) {
    // Every third step halves what is left, so that it ends whatever the law looks like.
    if (!(k > low && k < high) || i % 3 === 2) k = low + Math.floor((high - low) / 2);
    const reached = law.upTo(k);
    if (reached > p) high = k;
    else low = k;
    const off = onNormal(reached) - wanted;
    const step = Math.round(law.spread * off);
    k = Number.isFinite(step) && step !== 0 ? k - step : off > 0 ? k - 1 : k + 1;
  }
  return high;
}

/** The numbers that leave at most `tail` on either side: smallest k with P(K ≤ k) > tail, and its mirror image. */
export function central(law: CountLaw, tail: number): [number, number] {
  const { listed } = law;
  if (!listed) {
    // The mirror image: the largest k with P(K ≥ k) > tail, from which on no more than 1 − tail lies below.
    const from = quantileOf(law, tail);
    let to = quantileOf(law, 1 - tail);
    if (to > from && 1 - law.upTo(to - 1) <= tail) to--;
    return [from, Math.max(from, to)];
  }
  const { from, probabilities } = listed;
  let low = 0;
  let sum = probabilities[0];
  while (low < probabilities.length - 1 && sum <= tail) sum += probabilities[++low];
  let high = probabilities.length - 1;
  sum = probabilities[high];
  while (high > low && sum <= tail) sum += probabilities[--high];
  return [from + low, from + high];
}

/** Value below which a beta variable stays with probability p, by the quantile of F that it is made of. */
function betaQuantile(p: number, a: number, b: number): number {
  const f = fQuantile(p, 2 * a, 2 * b);
  return (a * f) / (b + a * f);
}

/** Exact interval of a share of which k of n were counted (Clopper & Pearson 1934). */
export function exactShareInterval(k: number, n: number, confidence: number): [number, number] {
  const tail = (1 - confidence) / 2;
  return [k === 0 ? 0 : betaQuantile(tail, k, n - k + 1), k === n ? 1 : betaQuantile(1 - tail, k + 1, n - k)];
}

/** Exact interval of a rate where k events were counted over an exposure (Garwood 1936). */
export function exactRateInterval(k: number, exposure: number, confidence: number): [number, number] {
  const tail = (1 - confidence) / 2;
  return [
    k === 0 ? 0 : chiSquaredQuantile(tail, 2 * k) / 2 / exposure,
    chiSquaredQuantile(1 - tail, 2 * k + 2) / 2 / exposure,
  ];
}
