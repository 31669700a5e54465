import { chiSquaredQuantile, fQuantile, normalCdf, normalQuantile } from "./distributions";
import { type WideLaw, wideBetaBinomial, wideBinomial, wideNegativeBinomial, widePoisson } from "./wide-counts";

/** How a whole number falls. */
export interface CountLaw {
  /** P(K ≤ k). */
  upTo(k: number): number;
  /** P(K = k), k whole. */
  at(k: number): number;
  /** P(K ≤ k) on the normal scale. */
  normal(k: number): number;
  /** About where it falls and how far it spreads: where to look first, no figure. */
  middle: number;
  spread: number;
  /** The most that it may be. */
  most: number;
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
const MOST_LISTED = 1024;
/** Standard deviations on either side, beyond which hardly anything falls: how long a list will be. */
const REACH = 12;

const onNormal = (p: number): number => normalQuantile(Math.min(1 - 1e-16, Math.max(1e-300, p)));

/** What a law answers with. */
type Answers = Pick<CountLaw, "upTo" | "at" | "normal" | "listed">;

/** Answers from a list. */
function fromList({ from, probabilities }: Listed): Answers {
  const n = probabilities.length;
  const sums = new Float64Array(n);
  /** What lies above each, added from the far end. */
  const above = new Float64Array(n);
  for (let i = 0, total = 0; i < n; i++) {
    total += probabilities[i];
    sums[i] = total;
  }
  for (let i = n - 2, total = 0; i >= 0; i--) {
    total += probabilities[i + 1];
    above[i] = total;
  }
  const place = (k: number): number => Math.min(n - 1, Math.floor(k) - from);
  return {
    upTo: (k) => (k < from ? 0 : Math.min(1, sums[place(k)])),
    at: (k) => probabilities[k - from] ?? 0,
    normal(k) {
      if (k < from) return onNormal(0);
      const up = sums[place(k)];
      return up < 0.5 ? onNormal(up) : -onNormal(above[place(k)]);
    },
    listed: { from, probabilities },
  };
}

/** A law about which little is asked is made up no further: its answers are worked out when the first is wanted. */
function lazily(middle: number, spread: number, most: number, make: () => Answers): CountLaw {
  let made: Answers | undefined;
  const answers = (): Answers => {
    made ??= make();
    return made;
  };
  return {
    middle,
    spread,
    most,
    upTo: (k) => answers().upTo(k),
    at: (k) => answers().at(k),
    normal: (k) => answers().normal(k),
    get listed() {
      return answers().listed;
    },
  };
}

/** Answers of a law too wide for a list. */
const unlisted = (law: WideLaw): Answers => ({
  upTo: (k) => law.upTo(Math.floor(k)),
  at: law.at,
  normal: (k) => law.normal(Math.floor(k)),
});

/**
 * Probabilities from their ratios, upwards and downwards from a start, scaled to one: no function of the largest
 * probability itself is needed, so nothing overflows.
 *
 * @param up p(k + 1)/p(k)
 * @param whole look at all numbers up to `most`: the probabilities may fall and rise again
 * @returns undefined where there are more than are listed
 */
function fromRatios(start: number, most: number, up: (k: number) => number, whole: boolean): Answers | undefined {
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
  return fromList({ from: start - below.length, probabilities });
}

const certain = (at: number): CountLaw =>
  lazily(at, 0, at, () => fromList({ from: at, probabilities: Float64Array.of(1) }));

/**
 * Events among n pieces: binomial, or beta-binomial where shares vary from lot to lot with intraclass correlation ρ
 * (Williams 1975), variance nπ(1−π)(1+(n−1)ρ).
 */
export function shareLaw(n: number, share: number, rho: number): CountLaw {
  if (!(share > 0)) return certain(0);
  if (!(share < 1)) return certain(n);
  const middle = n * share;
  const spread = Math.sqrt(middle * (1 - share) * (1 + (n - 1) * Math.max(0, rho)));
  const few = Math.min(n, 2 * REACH * spread) <= MOST_LISTED;
  if (!(rho > 0)) {
    const odds = share / (1 - share);
    const start = Math.min(n, Math.floor((n + 1) * share));
    return lazily(
      middle,
      spread,
      n,
      () =>
        (few ? fromRatios(start, n, (k) => ((n - k) / (k + 1)) * odds, false) : undefined) ??
        unlisted(wideBinomial(n, share)),
    );
  }
  const a = (share * (1 - rho)) / rho;
  const b = ((1 - share) * (1 - rho)) / rho;
  const mode = a > 1 && b > 1 ? Math.floor(((a - 1) * (n + 1)) / (a + b - 2)) : Math.floor(n * share);
  const start = Math.min(n, Math.max(0, mode));
  const whole = a < 1 || b < 1;
  const up = (k: number): number => ((n - k) / (k + 1)) * ((a + k) / (b + (n - k - 1)));
  return lazily(
    middle,
    spread,
    n,
    () =>
      ((whole ? n <= MOST_LISTED : few) ? fromRatios(start, n, up, whole) : undefined) ??
      unlisted(wideBetaBinomial(n, a, b)),
  );
}

/** Events where `mean` are expected: Poisson, or negative binomial with variance μ + κμ² (Breslow 1984). */
export function rateLaw(mean: number, kappa: number): CountLaw {
  if (!(mean > 0)) return certain(0);
  const most = Number.POSITIVE_INFINITY;
  const spread = Math.sqrt(mean * (1 + kappa * mean));
  const fall = 1 + kappa * mean;
  const start = Math.max(0, Math.floor(mean * (1 - kappa)));
  const up = (k: number): number => (mean * (1 + kappa * k)) / ((k + 1) * fall);
  return lazily(
    mean,
    spread,
    most,
    () =>
      (2 * REACH * spread <= MOST_LISTED ? fromRatios(start, most, up, false) : undefined) ??
      unlisted(kappa > 0 ? wideNegativeBinomial(mean, kappa) : widePoisson(mean)),
  );
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
  const middle = laws.reduce((t, l, i) => t + weightOf(i) * l.middle, 0);
  const spread = Math.sqrt(laws.reduce((t, l, i) => t + weightOf(i) * (l.spread ** 2 + (l.middle - middle) ** 2), 0));
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
      return { middle, spread, most, ...fromList({ from, probabilities }) };
    }
  }
  const upTo = (k: number): number =>
    Math.min(
      1,
      laws.reduce((t, l, i) => t + weightOf(i) * l.upTo(k), 0),
    );
  const at = (k: number): number => laws.reduce((t, l, i) => t + weightOf(i) * l.at(k), 0);
  return { upTo, at, normal: (k) => onNormal(upTo(k)), middle, spread, most };
}

/** Chebyshev's places that a mixture along a line is first told from, and how often they are doubled. */
const FIRST_PLACES = 8;
const DOUBLINGS = 4;
/**
 * Places at which what is interpolated is held against the law itself, and how near it must be on the normal scale:
 * there an error shows even where the chance itself is nothing or all.
 */
const HELD_AT = [-0.96, -0.42, 0.27, 0.91];
const NEAR = 1e-9;
/** Beyond this on the normal scale a chance is nothing or all. */
const ALL = 8;

/** The last of some places in order at which something still holds; the one before the first where it never does. */
function lastWhere(first: number, last: number, holds: (n: number) => boolean): number {
  let low = first - 1;
  let high = last + 1;
  while (high - low > 1) {
    const n = low + ((high - low) >> 1);
    if (holds(n)) low = n;
    else high = n;
  }
  return low;
}

/** Chebyshev's places of the second kind, each set twice as many as the one before. */
const CHEBYSHEV: readonly Float64Array[] = Array.from({ length: DOUBLINGS + 1 }, (_, i) => {
  const n = FIRST_PLACES * 2 ** i;
  return Float64Array.from({ length: n + 1 }, (__, j) => Math.cos((Math.PI * j) / n));
});

/** Value between Chebyshev's places, by the barycentric formula (Berrut & Trefethen 2004). */
function between(values: ArrayLike<number>, places: Float64Array, x: number): number {
  const n = values.length - 1;
  let over = 0;
  let under = 0;
  for (let j = 0; j <= n; j++) {
    const off = x - places[j];
    if (Math.abs(off) < 1e-15) return values[j];
    const weight = (j % 2 ? -1 : 1) * (j === 0 || j === n ? 0.5 : 1);
    over += (weight / off) * values[j];
    under += weight / off;
  }
  return over / under;
}

/** A law that moves along a line, on the normal scale between two places; undefined where no polynomial comes near. */
function interpolated(value: (place: number) => number, from: number, to: number) {
  const placeAt = (u: number): number => from + ((u + 1) / 2) * (to - from);
  let values = CHEBYSHEV[0].map((u) => value(placeAt(u)));
  const held = HELD_AT.map((u) => value(placeAt(u)));
  for (const [i, places] of CHEBYSHEV.entries()) {
    if (i > 0) {
      const fewer = values;
      values = places.map((u, j) => (j % 2 ? value(placeAt(u)) : fewer[j / 2]));
    }
    if (HELD_AT.every((u, j) => Math.abs(between(values, places, u) - held[j]) < NEAR))
      return (place: number): number => between(values, places, (2 * (place - from)) / (to - from) - 1);
  }
  return undefined;
}

/**
 * Equally weighted mixture of laws that move along a line, as those of a lot do with what is not known of its mean: the
 * farther along, the larger the numbers. The chance of at most k moves smoothly with the place, on the normal scale; it
 * is interpolated where it is neither nothing nor all. Where that does not come near the laws
 * themselves each is asked.
 * @param places where laws are wanted, in rising order
 */
export function mixtureAlong(lawAt: (place: number) => CountLaw, places: readonly number[]): CountLaw {
  const first = places[0];
  const last = places[places.length - 1];
  if (!(last > first)) return mixture(places.map(lawAt));
  const made: CountLaw[] = [];
  const lawOf = (n: number): CountLaw => {
    made[n] ??= lawAt(places[n]);
    return made[n];
  };
  const end = places.length - 1;
  const middleLaw = lawOf(places.length >> 1);
  const upTo = (k: number): number => {
    const beyond = (z: number) => (n: number) => lawOf(n).normal(k) > z;
    // What lies before the first of these is all below, what lies after the last not at all.
    const i = beyond(ALL)(0) ? lastWhere(0, end, beyond(ALL)) + 1 : 0;
    const j = beyond(-ALL)(end) ? end : lastWhere(i, end, beyond(-ALL));
    if (i > j) return i / places.length;
    const value = (place: number): number => lawAt(place).normal(k);
    const read = j - i > FIRST_PLACES ? interpolated(value, places[i], places[j]) : undefined;
    let total = i;
    for (let n = i; n <= j; n++) total += read ? normalCdf(read(places[n])) : lawOf(n).upTo(k);
    return Math.min(1, total / places.length);
  };
  const spread = Math.hypot(
    middleLaw.spread,
    (lawAt(first + 0.7 * (last - first)).middle - lawAt(first + 0.3 * (last - first)).middle) / 2,
  );
  const at = (k: number): number => places.reduce((t, _, n) => t + lawOf(n).at(k), 0) / places.length;
  let whole: CountLaw | undefined;
  return {
    upTo,
    at,
    normal: (k) => onNormal(upTo(k)),
    middle: middleLaw.middle,
    spread,
    most: middleLaw.most,
    // One chance is read off a few laws; for quantiles all lists together are quicker, where there are any.
    get listed() {
      if (!middleLaw.listed) return undefined;
      whole ??= mixture(places.map((_, n) => lawOf(n)));
      return whole.listed;
    },
  };
}

/**
 * The smallest number that is not left below with at most probability p: P(K ≤ k) > p. By secants on the normal scale,
 * halved where they do not narrow it down.
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
  const spread = Math.max(1, law.spread);
  let k = Math.floor(law.middle + spread * wanted);
  let slope = 1 / spread;
  let last: { k: number; z: number } | undefined;
  for (let i = 0; high - low > 1; i++) {
    // From the tenth step on every second halves what is left, so that it ends whatever the law looks like.
    if (!(k > low && k < high) || (i >= 10 && i % 2 === 0)) k = low + Math.floor((high - low) / 2);
    const z = law.normal(k);
    if (z > wanted) high = k;
    else low = k;
    // The slope between the last two places, where they tell one.
    const seen = last ? (z - last.z) / (k - last.k) : 0;
    if (seen > 0 && Number.isFinite(seen)) slope = seen;
    last = { k, z };
    const step = Math.round((z - wanted) / slope);
    k = Number.isFinite(step) && step !== 0 ? k - step : z > wanted ? k - 1 : k + 1;
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
