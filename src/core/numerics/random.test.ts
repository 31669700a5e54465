// Seeded draws against the distributions they are to have: Kolmogorov's distance, whose 0.1 % point is 1.95/√n.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { chiSquaredUpper, normalCdf } from "./distributions";
import { seededRandom } from "./random";

const N = 20_000;
const far = 1.95 / Math.sqrt(N);
function distance(draws: number[], cdf: (x: number) => number): number {
  return [...draws]
    .sort((a, b) => a - b)
    .reduce((most, x, i) => {
      const p = cdf(x);
      return Math.max(most, Math.abs(p - i / N), Math.abs(p - (i + 1) / N));
    }, 0);
}
const many = (draw: () => number): number[] => Array.from({ length: N }, draw);

describe("draws", () => {
  it("uniform on [0, 1)", () => {
    const random = seededRandom(11);
    const draws = many(random.uniform);
    expect(Math.min(...draws)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...draws)).toBeLessThan(1);
    expect(distance(draws, (x) => x)).toBeLessThan(far);
  });
  it("standard normal, pairs of the polar method independent", () => {
    const draws = many(seededRandom(12).normal);
    expect(distance(draws, normalCdf)).toBeLessThan(far);
    const product = draws.slice(1).reduce((t, z, i) => t + z * draws[i], 0) / (N - 1);
    expect(Math.abs(product)).toBeLessThan(4 / Math.sqrt(N));
  });
  it.each([0.5, 1, 2, 3.7, 12, 60])("chi-squared with %f degrees of freedom", (df) => {
    const random = seededRandom(13);
    const draws = many(() => random.chiSquared(df));
    expect(distance(draws, (x) => 1 - chiSquaredUpper(x, df))).toBeLessThan(far);
    // Mean ν and variance 2ν; the variance of squares is E(x − ν)⁴ − (2ν)² = 8ν² + 48ν.
    const mean = draws.reduce((t, x) => t + x, 0) / N;
    const variance = draws.reduce((t, x) => t + (x - df) ** 2, 0) / N;
    expect(Math.abs(mean - df)).toBeLessThan(4 * Math.sqrt((2 * df) / N));
    expect(Math.abs(variance - 2 * df)).toBeLessThan(4 * Math.sqrt((8 * df * df + 48 * df) / N));
  });
  it("whole numbers below six, and all orders of three, each as often as the others", () => {
    const random = seededRandom(14);
    // Pearson's statistic stays below its 0.1 % point.
    const fair = (counts: Map<unknown, number>, cells: number): void => {
      const want = N / cells;
      expect(counts.size).toBe(cells);
      const statistic = [...counts.values()].reduce((t, c) => t + (c - want) ** 2 / want, 0);
      expect(chiSquaredUpper(statistic, cells - 1)).toBeGreaterThan(0.001);
    };
    const dice = new Map<unknown, number>();
    const orders = new Map<unknown, number>();
    for (let i = 0; i < N; i++) {
      const d = random.below(6);
      dice.set(d, (dice.get(d) ?? 0) + 1);
      const o = random.shuffled(["a", "b", "c"]).join("");
      orders.set(o, (orders.get(o) ?? 0) + 1);
    }
    fair(dice, 6);
    fair(orders, 6);
  });
});

describe("seeds", () => {
  it("the same gives the same, neighbours have nothing in common", () =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** 31 - 2 }), (seed) => {
        const draws = (s: number): number[] => {
          const random = seededRandom(s);
          return Array.from({ length: 5 }, random.uniform);
        };
        expect(draws(seed)).toEqual(draws(seed));
        expect(draws(seed + 1)).not.toEqual(draws(seed));
      }),
    ));
  it("first draws of 20,000 seeds in a row are spread as draws of one seed are", () =>
    expect(
      distance(
        Array.from({ length: N }, (_, s) => seededRandom(s).uniform()),
        (x) => x,
      ),
    ).toBeLessThan(far));
  it("shuffling keeps every member and leaves what it was given alone", () =>
    fc.assert(
      fc.property(fc.array(fc.integer()), fc.integer(), (items, seed) => {
        const before = [...items];
        const after = seededRandom(seed).shuffled(items);
        expect(items).toEqual(before);
        expect([...after].sort((a, b) => a - b)).toEqual([...before].sort((a, b) => a - b));
      }),
    ));
});
