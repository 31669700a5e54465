import { describe, expect, it } from "vitest";
import { normalCdf } from "../numerics/distributions";
import { regress } from "../testing/elimination";
import { andersonDarling, brownForsythe, comparable, durbinWatson, koenker, runsOf } from "./errors";

/** Groups of values one after another. */
const grouped = (...groups: number[][]): [number[], number[][]] => {
  let from = 0;
  const places = groups.map((g) => g.map(() => from++));
  return [groups.flat(), places];
};

describe("statistics of errors", () => {
  it("Koenker's n·R² is that of squared residuals on fitted values", () => {
    // e² = 1, 4, 9, 16 on 1 … 4: r² = 25²/(5·129) of n = 4.
    expect(koenker([1, -2, 3, -4], [1, 2, 3, 4])).toBeCloseTo((4 * 625) / (5 * 129), 12);
    const e = [1, -2, 1, 0.5, -1.5, 3, -2.5, 0.5];
    const f = [1, 2, 3, 4, 5, 6, 7, 8];
    const squares = e.map((v) => v * v);
    const { rss } = regress(
      f.map((v) => [1, v]),
      squares,
    );
    const m = squares.reduce((t, v) => t + v, 0) / 8;
    const total = squares.reduce((t, v) => t + (v - m) ** 2, 0);
    expect(koenker(e, f)).toBeCloseTo(8 * (1 - rss / total), 10);
    // Nothing varies: no trend.
    expect(koenker([1, -1, 1, -1], [1, 2, 3, 4])).toBe(0);
    expect(koenker([1, 2, 3], [5, 5, 5])).toBe(0);
  });
  it("Durbin–Watson never pairs across waves", () => {
    // Within waves 1, 1 and −1, −1: no step within a wave, whatever the step between them.
    expect(durbinWatson([1, 1, -1, -1], runsOf(["u", "u", "v", "v"]))).toBe(0);
    expect(durbinWatson([1, 1, -1, -1], runsOf(["w", "w", "w", "w"]))).toBe(1);
    expect(durbinWatson([1, 2, 3, 4], runsOf(["w", "w", "w", "w"]))).toBeCloseTo(3 / 30, 12);
    // Waves whose trials ran turn about: each by itself.
    expect(durbinWatson([1, 5, 2, 5], runsOf(["u", "v", "u", "v"]))).toBeCloseTo(1 / 55, 12);
  });
  it("Brown–Forsythe is the analysis of variance of distances from the medians", () => {
    // Medians 2 and 20; distances 1, 0, 1 and 10, 0, 10: means 2/3 and 20/3, within (2/3)·(1 + 100).
    expect(brownForsythe(...grouped([1, 2, 3], [10, 20, 30]))).toBeCloseTo((6 * 3 ** 2) / (((2 / 3) * 101) / 4), 10);
    // |e − median| of 1, 2, 3 and 0, 4, 8.
    expect(brownForsythe(...grouped([3, 1, 2], [8, 0, 4]))).toBeCloseTo(36 / 17, 12);
    // An even count: the median lies midway (2.5 and 25): distances 1.5, 0.5, 0.5, 1.5 and ten times as much.
    const [values, places] = grouped([4, 1, 3, 2], [10, 40, 20, 30]);
    expect(brownForsythe(values, places)).toBeCloseTo((8 * 4.5 ** 2) / ((4 * 0.25 * 101) / 6), 10);
    expect(brownForsythe(...grouped([1, 1, 1], [2, 2, 2]))).toBe(Number.POSITIVE_INFINITY);
  });
  it("Anderson–Darling of 1 … 5 by its definition, and free of unit and place", () => {
    // z = (i − 3)/√2.5; A² = −5 − Σ(2i−1)[ln Φ(zᵢ) + ln(1 − Φ(z₆₋ᵢ))]/5 = 0.1435942036725246 (mpmath, 30 digits).
    expect(andersonDarling([3, 1, 5, 2, 4], normalCdf)).toBeCloseTo(0.1435942036725246, 13);
    const skew = Array.from({ length: 20 }, (_, i) => -Math.log(1 - (i + 0.5) / 20));
    // Past the 5 % point of the modified statistic, 0.752 (D'Agostino & Stephens 1986, table 4.7).
    expect(andersonDarling(skew, normalCdf) * (1 + 0.75 / 20 + 2.25 / 400)).toBeGreaterThan(0.752);
    expect(
      andersonDarling(
        skew.map((v) => 1000 + 7 * v),
        normalCdf,
      ),
    ).toBeCloseTo(andersonDarling(skew, normalCdf), 9);
  });
  it("F of any degrees of freedom is brought near a standard normal", () => {
    // 5 % points of F (Abramowitz & Stegun 1964, table 26.9): 4.00 on 1 and 60, 2.37 on 5 and 60, 3.11 on 5 and 12.
    for (const [f, d1, d2] of [
      [4.0, 1, 60],
      [2.37, 5, 60],
      [3.11, 5, 12],
    ])
      expect(comparable(f, d1, d2)).toBeCloseTo(1.645, 1);
    expect(comparable(Number.POSITIVE_INFINITY, 1, 5)).toBe(Number.POSITIVE_INFINITY);
  });
});
