/**
 * Finds the generators kept in src/core/plans/catalogue.ts: for every number of factors and runs the regular
 * fraction whose word-length pattern is least (minimum aberration, Fries & Hunter 1980) among all looked at.
 * Sixteen runs and fewer are searched whole; larger sizes by exchange from many starts. The textbook set of
 * generators is kept wherever nothing better is found. Run: npx tsx scripts/search-fractions.ts
 */
import { seededRandom } from "../src/core/numerics/random";

const LETTERS = "ABCDEFGHJKLMNOPQ";
const TEXTBOOK: Record<string, string> = {
  "3,2": "AB",
  "4,3": "ABC",
  "5,3": "AB AC",
  "6,3": "AB AC BC",
  "7,3": "AB AC BC ABC",
  "5,4": "ABCD",
  "6,4": "ABC BCD",
  "7,4": "ABC BCD ACD",
  "8,4": "BCD ACD ABC ABD",
  "9,4": "ABC BCD ACD ABD ABCD",
  "10,4": "ABC BCD ACD ABD ABCD AB",
  "11,4": "ABC BCD ACD ABD ABCD AB AC",
  "12,4": "ABC BCD ACD ABD ABCD AB AC AD",
  "13,4": "ABC BCD ACD ABD ABCD AB AC AD BC",
  "14,4": "ABC BCD ACD ABD ABCD AB AC AD BC BD",
  "15,4": "ABC BCD ACD ABD ABCD AB AC AD BC BD CD",
  "6,5": "ABCDE",
  "7,5": "ABCD ABDE",
  "8,5": "ABC ABD BCDE",
  "9,5": "BCDE ACDE ABDE ABCE",
  "10,5": "ABCD ABCE ABDE ACDE BCDE",
  "11,5": "ABC BCD CDE ACD ADE BDE",
  "7,6": "ABCDEF",
  "8,6": "ABCD ABEF",
  "9,6": "ABCD ACEF CDEF",
  "10,6": "BCDF ACDF ABDE ABCE",
  "11,6": "CDE ABCD ABF BDEF ADEF",
  "8,7": "ABCDEFG",
  "9,7": "ACDFG BCEFG",
  "9,8": "ABCDEFGH",
};
const maskOf = (word: string): number => [...word].reduce((m, l) => m | (1 << LETTERS.indexOf(l)), 0);
const textOf = (mask: number): string => [...LETTERS].filter((_, j) => mask & (1 << j)).join("");
const ones = (m: number): number => {
  let c = 0;
  for (; m; m &= m - 1) c++;
  return c;
};

const binomial = (n: number, r: number): number => {
  let v = 1;
  for (let i = 0; i < r; i++) v = (v * (n - i)) / (i + 1);
  return Math.round(v);
};
const krawtchouk = (k: number): number[][] =>
  Array.from({ length: k + 1 }, (_, i) =>
    Array.from({ length: k + 1 }, (__, w) => {
      let v = 0;
      for (let j = 0; j <= i; j++) v += (j % 2 ? -1 : 1) * binomial(w, j) * binomial(k - w, i - j);
      return v;
    }),
  );

function search(k: number, q: number): { columns: number[]; pattern: number[] } {
  const runs = 1 << q;
  const table = krawtchouk(k);
  const parities = Array.from({ length: runs }, (_, c) =>
    Uint8Array.from({ length: runs }, (__, r) => ones(c & r) & 1),
  );
  const base = new Uint8Array(runs);
  for (let j = 0; j < q; j++) for (let r = 0; r < runs; r++) base[r] += parities[1 << j][r];
  // Word lengths from the weights of the runs by the identity of MacWilliams.
  const pattern = (columns: readonly number[]): number[] => {
    const counts = new Array<number>(k + 1).fill(0);
    const w = base.slice();
    for (const c of columns) {
      const p = parities[c];
      for (let r = 0; r < runs; r++) w[r] += p[r];
    }
    for (let r = 0; r < runs; r++) counts[w[r]]++;
    const out: number[] = [];
    for (let i = 3; i <= k; i++) {
      let v = 0;
      for (let x = 0; x <= k; x++) v += counts[x] * table[i][x];
      out.push(v / runs);
    }
    return out;
  };
  const less = (a: number[], b: number[]): boolean => {
    for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return a[i] < b[i];
    return false;
  };
  const pool = Array.from({ length: runs - 1 }, (_, i) => i + 1).filter((c) => ones(c) > 1);
  const extra = k - q;
  const given = TEXTBOOK[`${k},${q}`]?.split(" ").map(maskOf);
  let best = given ? { columns: given, pattern: pattern(given) } : undefined;
  const offer = (columns: number[], p: number[]): void => {
    if (!best || less(p, best.pattern)) best = { columns: columns.slice(), pattern: p };
  };
  if (q <= 4) {
    const walk = (from: number, chosen: number[]): void => {
      if (chosen.length === extra) {
        offer(chosen, pattern(chosen));
        return;
      }
      for (let i = from; i < pool.length; i++) walk(i + 1, [...chosen, pool[i]]);
    };
    walk(0, []);
  } else {
    const random = seededRandom(k * 100 + q);
    const starts = extra === 1 ? 1 : q >= 8 ? 40 : q === 7 ? 80 : 300;
    for (let s = 0; s < starts; s++) {
      const odd = s % 2 === 0 ? pool.filter((c) => ones(c) % 2 === 1) : pool;
      let columns = (odd.length >= extra ? random.shuffled(odd) : random.shuffled(pool)).slice(0, extra);
      let current = pattern(columns);
      for (let moved = true; moved; ) {
        moved = false;
        for (let i = 0; i < extra; i++)
          for (const c of random.shuffled(pool)) {
            if (columns.includes(c)) continue;
            const trial = columns.slice();
            trial[i] = c;
            const p = pattern(trial);
            if (less(p, current)) {
              columns = trial;
              current = p;
              moved = true;
            }
          }
      }
      offer(
        columns.sort((a, b) => ones(b) - ones(a) || a - b),
        current,
      );
    }
  }
  return best as { columns: number[]; pattern: number[] };
}

for (let q = 2; q <= 8; q++)
  for (let k = Math.max(3, q + 1); k <= Math.min(15, 2 ** q - 1); k++) {
    const { columns, pattern } = search(k, q);
    process.stdout.write(`  "${k},${2 ** q}": "${columns.map(textOf).join(" ")}", // ${pattern.join(" ")}\n`);
  }
