import { type Random, seededRandom } from "../numerics/random";

/**
 * Columns of a regular two-level plan of 2^m runs as bit masks over its m basic columns: run r has factor j high where
 * an odd number of the bits of `columns[j] & r` is set.
 */
export type Columns2 = readonly number[];

const odd = (bits: number): number => {
  let v = bits;
  v ^= v >> 16;
  v ^= v >> 8;
  v ^= v >> 4;
  v ^= v >> 2;
  v ^= v >> 1;
  return v & 1;
};

/** Everything some masks give by adding (xor); 0 among them. */
export function spanOf(masks: readonly number[]): Set<number> {
  const span = new Set([0]);
  for (const m of masks) if (!span.has(m)) for (const v of [...span]) span.add(v ^ m);
  return span;
}

/** Krawtchouk polynomials K_i(w; k), by the recurrence in i. */
function krawtchouk(k: number): number[][] {
  return Array.from({ length: k + 1 }, (_, w) => {
    const row = [1, k - 2 * w];
    for (let i = 1; i < k; i++) row.push(((k - 2 * w) * row[i] - (k - i + 1) * row[i - 1]) / (i + 1));
    return row;
  });
}

/** Words of the defining relation by length, from how many factors are high in each run (MacWilliams 1963). */
function wordsByLength(high: Uint8Array, table: readonly (readonly number[])[]): number[] {
  const k = table.length - 1;
  const runs = new Float64Array(k + 1);
  for (const w of high) runs[w]++;
  return Array.from({ length: k + 1 }, (_, i) => {
    let t = 0;
    for (let w = 0; w <= k; w++) t += runs[w] * table[w][i];
    return Math.round(t / high.length);
  });
}

/** Less aberration: the first length at which the plans differ has fewer words. */
function compare(a: readonly number[], b: readonly number[]): number {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return a[i] - b[i];
  return 0;
}

/** How many effects with something easy in them stand between set-ups: of two factors, of three. */
function betweenCounts(columns: Columns2, hard: readonly boolean[], span: ReadonlySet<number>): number[] {
  const counts = [0, 0];
  const k = columns.length;
  for (let a = 0; a < k; a++)
    for (let b = a + 1; b < k; b++) {
      if (!(hard[a] && hard[b]) && span.has(columns[a] ^ columns[b])) counts[0]++;
      for (let c = b + 1; c < k; c++)
        if (!(hard[a] && hard[b] && hard[c]) && span.has(columns[a] ^ columns[b] ^ columns[c])) counts[1]++;
    }
  return counts;
}

/** Sweeps of one start, and starts by the size of the plan, so that a plan is there in well under a second. */
const SWEEPS = 30;
const startsFor = (m: number): number => (m <= 5 ? 60 : m === 6 ? 24 : m === 7 ? 6 : 2);

/**
 * Columns of a two-level plan of 2^m runs in 2^b set-ups of the hard factors (Bingham & Sitter 1999): hard factors are
 * taken from the first b basic columns alone, easy ones never, so that no easy main effect stands between set-ups; of
 * such plans one of least aberration, then the one with the fewest interactions of easy factors between set-ups, by
 * exchange of columns from many starts.
 *
 * @param hard which of the factors are hard to change
 * @returns undefined where set-ups or runs are too few for the factors
 */
export function splitFraction(hard: readonly boolean[], m: number, b: number): Columns2 | undefined {
  const k = hard.length;
  const between = Array.from({ length: 2 ** b - 1 }, (_, i) => i + 1);
  const within = Array.from({ length: 2 ** m - 2 ** b }, (_, i) => i + 2 ** b);
  if (hard.filter(Boolean).length > between.length || hard.filter((h) => !h).length > within.length) return undefined;
  const table = krawtchouk(k);
  const span = new Set([0, ...between]);
  const runs = 2 ** m;
  const settle = (columns: number[]): number[][] => {
    const high = new Uint8Array(runs);
    for (const c of columns) for (let r = 0; r < runs; r++) high[r] += odd(c & r);
    let best = [wordsByLength(high, table), betweenCounts(columns, hard, span)];
    for (let sweep = 0; sweep < SWEEPS; sweep++) {
      let moved = false;
      for (let j = 0; j < k; j++) {
        const taken = new Set(columns);
        for (const c of hard[j] ? between : within) {
          if (taken.has(c)) continue;
          const old = columns[j];
          for (let r = 0; r < runs; r++) high[r] += odd(c & r) - odd(old & r);
          columns[j] = c;
          const words = wordsByLength(high, table);
          const less = compare(words, best[0]);
          const counts = less > 0 ? best[1] : betweenCounts(columns, hard, span);
          if (less < 0 || (less === 0 && compare(counts, best[1]) < 0)) {
            best = [words, counts];
            taken.delete(old);
            taken.add(c);
            moved = true;
          } else {
            for (let r = 0; r < runs; r++) high[r] += odd(old & r) - odd(c & r);
            columns[j] = old;
          }
        }
      }
      if (!moved) break;
    }
    return best;
  };
  let found: { columns: number[]; score: number[][] } | undefined;
  for (let s = 0; s < startsFor(m); s++) {
    const columns = drawn(hard, between, within, s === 0 ? undefined : seededRandom(7919 + s));
    const score = settle(columns);
    // Columns that do not reach every basic one would run the same trials twice.
    if (spanOf(columns).size < runs) continue;
    const better = found ? compare(score[0], found.score[0]) || compare(score[1], found.score[1]) : -1;
    if (better < 0) found = { columns, score };
  }
  return found?.columns;
}

/** Columns for every factor from the two lists: basic ones first, or at random. */
function drawn(
  hard: readonly boolean[],
  between: readonly number[],
  within: readonly number[],
  random: Random | undefined,
): number[] {
  const basic = (list: readonly number[]): number[] => {
    const one = (v: number): number => ((v & (v - 1)) === 0 ? 0 : 1);
    return [...list].sort((a, b) => one(a) - one(b) || b - a);
  };
  const lists = random ? [random.shuffled(between), random.shuffled(within)] : [basic(between), basic(within)];
  const next = [0, 0];
  return hard.map((h) => lists[h ? 0 : 1][next[h ? 0 : 1]++]);
}

/** Sets of contrasts looked at for one plan. */
const MOST_LOOKED = 4000;

/**
 * Contrasts that set a plan's 2^b set-ups apart where its columns are given: those of the hard factors and, where there
 * are more set-ups than hard settings, products that leave every easy main effect, and as many two-factor interactions
 * as can be, within set-ups.
 *
 * @returns undefined where the hard factors need more set-ups, or a main effect would be lost to them
 */
export function setupContrasts(
  columns: Columns2,
  hard: readonly boolean[],
  m: number,
  b: number,
): readonly number[] | undefined {
  const basis: number[] = [];
  columns.forEach((c, j) => {
    if (hard[j] && !spanOf(basis).has(c)) basis.push(c);
  });
  const easy = columns.filter((_, j) => !hard[j]);
  const clear = (span: ReadonlySet<number>): boolean => easy.every((c) => !span.has(c));
  if (basis.length > b || !clear(spanOf(basis))) return undefined;
  let best: { basis: number[]; counts: number[] } | undefined;
  let looked = 0;
  const walk = (from: number, chosen: number[]): void => {
    if (looked > MOST_LOOKED) return;
    const span = spanOf(chosen);
    if (chosen.length === b) {
      looked++;
      const counts = betweenCounts(columns, hard, span);
      if (!best || compare(counts, best.counts) < 0) best = { basis: chosen, counts };
      return;
    }
    for (let v = from; v > 0; v--) if (!span.has(v) && clear(spanOf([...chosen, v]))) walk(v - 1, [...chosen, v]);
  };
  // From products of many columns down: they are the ones that are missed least.
  walk(2 ** m - 1, basis);
  return best?.basis;
}

/**
 * Columns told by factors: the first independent ones are free, and any column is the product of some of them.
 */
export function byFactors(columns: Columns2): { free: number[]; maskOf(column: number): number } {
  const free: number[] = [];
  // Reduced rows with the factors whose product they are, each with a leading bit of its own.
  const rows: { bits: number; mask: number }[] = [];
  const reduce = (column: number): { bits: number; mask: number } => {
    let bits = column;
    let mask = 0;
    for (const r of rows) {
      if ((bits ^ r.bits) >= bits) continue;
      bits ^= r.bits;
      mask ^= r.mask;
    }
    return { bits, mask };
  };
  columns.forEach((c, j) => {
    const { bits, mask } = reduce(c);
    if (bits === 0) return;
    free.push(j);
    rows.push({ bits, mask: mask | (1 << j) });
    rows.sort((a, b) => b.bits - a.bits);
  });
  return { free, maskOf: (column) => reduce(column).mask };
}

/** Set-up of each point, from which factors are high in it and the products that set set-ups apart. */
export const setupsBy = (masks: readonly number[], high: readonly number[]): number[] => {
  const known = new Map<number, number>();
  return high.map((row) => {
    const value = masks.reduce((s, mask, i) => s | (odd(mask & row) << i), 0);
    const at = known.get(value) ?? known.size;
    known.set(value, at);
    return at;
  });
};

/** Powers of two that set-ups of at most so many trials may number, from the most asked down. */
export function* setupPowers(
  m: number,
  { setups = 1, setupSize = Number.POSITIVE_INFINITY }: { setups?: number; setupSize?: number },
): Generator<number, void, void> {
  for (let b = Math.min(m - 1, Math.floor(Math.log2(Math.max(1, setups)))); b >= 1; b--)
    if (2 ** (m - b) <= setupSize) yield b;
}
