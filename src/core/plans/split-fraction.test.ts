import { describe, expect, it } from "vitest";
import { byFactors, setupContrasts, setupsBy, spanOf, splitFraction } from "./split-fraction";

/** Words of each length, every subset of the columns looked at. */
function words(columns: readonly number[]): number[] {
  const counts = new Array<number>(columns.length + 1).fill(0);
  for (let set = 1; set < 2 ** columns.length; set++) {
    let [sum, size] = [0, 0];
    columns.forEach((c, j) => {
      if ((set >> j) & 1) {
        sum ^= c;
        size++;
      }
    });
    if (sum === 0) counts[size]++;
  }
  return counts;
}

const less = (a: readonly number[], b: readonly number[]): boolean => {
  const at = a.findIndex((v, i) => v !== b[i]);
  return at >= 0 && a[at] < b[at];
};

function* chosen(from: readonly number[], count: number, start = 0): Generator<number[]> {
  if (count === 0) yield [];
  else
    for (let i = start; i <= from.length - count; i++)
      for (const rest of chosen(from, count - 1, i + 1)) yield [from[i], ...rest];
}

/** The least aberration of all plans there are: every choice of columns (Bingham & Sitter 1999's rules). */
function best(hard: number, easy: number, m: number, b: number): number[] {
  const between = Array.from({ length: 2 ** b - 1 }, (_, i) => i + 1);
  const within = Array.from({ length: 2 ** m - 2 ** b }, (_, i) => i + 2 ** b);
  let found: number[] | undefined;
  for (const h of chosen(between, hard))
    for (const e of chosen(within, easy)) {
      const columns = [...h, ...e];
      if (spanOf(columns).size < 2 ** m) continue;
      const own = words(columns);
      if (!found || less(own, found)) found = own;
    }
  return found as number[];
}

describe("two-level plans in set-ups", () => {
  it.each([
    [1, 4, 4, 1],
    [1, 4, 4, 2],
    [2, 3, 4, 2],
    [2, 3, 4, 3],
    [2, 4, 4, 2],
    [3, 3, 4, 3],
    [3, 2, 4, 2],
    [2, 4, 5, 3],
    [2, 5, 5, 2],
  ])(
    "%i hard and %i easy factors in 2^%i runs, 2^%i set-ups: no plan of these has less aberration (all looked at)",
    (hard, easy, m, b) => {
      const flags = [...new Array<boolean>(hard).fill(true), ...new Array<boolean>(easy).fill(false)];
      const columns = splitFraction(flags, m, b) as number[];
      expect(words(columns)).toEqual(best(hard, easy, m, b));
      // Hard factors are told by set-ups, easy ones never.
      columns.forEach((c, j) => {
        expect(c < 2 ** b).toBe(flags[j]);
      });
    },
  );
  it("there is none where set-ups or runs are too few", () => {
    expect(splitFraction([true, true, true, true, false], 4, 2)).toBeUndefined();
    expect(splitFraction([true, ...new Array<boolean>(9).fill(false)], 3, 1)).toBeUndefined();
  });
  it("a full plan of two hard and three easy factors in eight set-ups gives up the product of the easy ones alone", () => {
    const flags = [true, true, false, false, false];
    const contrasts = setupContrasts([1, 2, 4, 8, 16], flags, 5, 3) as number[];
    const span = spanOf(contrasts);
    const [a, b, c, d, e] = [1, 2, 4, 8, 16];
    expect(span.size).toBe(8);
    // Of 32 effects eight stand between set-ups: 1, A, B, AB and these times one more, which holds all of C, D, E.
    expect([...span].sort((x, y) => x - y)).toEqual(
      [0, a, b, a ^ b, c ^ d ^ e, a ^ c ^ d ^ e, b ^ c ^ d ^ e, a ^ b ^ c ^ d ^ e].sort((x, y) => x - y),
    );
    expect(setupContrasts([1, 2, 4, 8, 16], flags, 5, 1)).toBeUndefined();
  });
  it("tells any column as a product of factors", () => {
    const columns = [1, 2, 3, 4, 9];
    const { free, maskOf } = byFactors(columns);
    expect(free).toEqual([0, 1, 3, 4]);
    for (let c = 0; c < 16; c++) {
      const told = columns.reduce((t, v, j) => ((maskOf(c) >> j) & 1 ? t ^ v : t), 0);
      expect(told).toBe(c);
    }
    expect(setupsBy([1, 2], [0, 1, 2, 3, 0, 3])).toEqual([0, 1, 2, 3, 0, 3]);
  });
});
