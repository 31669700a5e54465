import { describe, expect, it } from "vitest";
import { balancedVariances } from "../model/pieces";
import { seededRandom } from "../numerics/random";
import { measuredValues } from "../study/measured";
import { drawn } from "../testing/simulation";
import { pieceFigures } from "./piece-figures";

const limits = { low: 7, high: 9 };

describe("units of one trial", () => {
  // 7.8, 8.0, 8.2, 8.4: mean 8.1, s² = 0.2/3.
  const units = [7.8, 8, 8.2, 8.4];
  const s = Math.sqrt(0.2 / 3);
  const f = pieceFigures([units], limits, 0.95, undefined);
  it("mean, spread, Pp and Ppk by hand", () => {
    expect(f).toMatchObject({ n: 4, trials: 1, df: 3, withinOnly: true, spreadAgrees: null });
    expect(f.mean).toBeCloseTo(8.1, 12);
    expect(f.s).toBeCloseTo(s, 12);
    expect(f.pp).toBeCloseTo(2 / (6 * s), 12);
    expect(f.ppk).toBeCloseTo(0.9 / (3 * s), 12);
  });
  it("intervals: χ² of 3 df (0.215795 and 9.348404 in the tables)", () => {
    const pp = 2 / (6 * s);
    expect(f.ppInterval?.[0]).toBeCloseTo(pp * Math.sqrt(0.2157953 / 3), 6);
    expect(f.ppInterval?.[1]).toBeCloseTo(pp * Math.sqrt(9.3484036 / 3), 6);
  });
  it("share outside by normal and as counted; one limit alone has no Pp; without limits there is neither", () => {
    const out = pieceFigures([[6.5, 8, 8, 8]], limits, 0.95, undefined);
    expect(out.outside.counted).toBe(0.25);
    // Mean 7.625, s 0.75: Φ(−0.8333) + Φ(−1.8333) = 0.202328 + 0.033377.
    expect(out.outside.normal).toBeCloseTo(0.202328 + 0.033377, 5);
    const one = pieceFigures([units], { low: 7, high: Number.POSITIVE_INFINITY }, 0.95, undefined);
    expect([one.pp, one.ppInterval]).toEqual([null, null]);
    expect(one.ppk).toBeCloseTo(1.1 / (3 * s), 12);
    const none = pieceFigures(
      [units],
      { low: Number.NEGATIVE_INFINITY, high: Number.POSITIVE_INFINITY },
      0.95,
      undefined,
    );
    expect(none).toMatchObject({ pp: null, ppk: null, ppkInterval: null, outside: { normal: null, counted: null } });
  });
  it("spread against the model's by a two-sided F", () => {
    const model = (within: number) => ({
      variances: { ...balancedVariances(1, 5, { ss: 40 * within, df: 40 }, 4), within },
      reciprocal: 0.25,
      dfWithin: 40,
    });
    // F of 3 and 40 df: 2.5 % above at 3.463, below at 0.0715 (published tables).
    const at = (ratio: number) => pieceFigures([units], limits, 0.95, model(s ** 2 / ratio)).spreadAgrees;
    expect([at(3.4), at(3.6), at(0.073), at(0.069)]).toEqual([true, false, true, false]);
  });
});

describe("units of several trials", () => {
  it("vary by what trials do, too", () => {
    // Means 8 and 9, within each ±1: s² of means 0.5, s_w² = 2, n₀ 2: σ_b² = 0.5 − 1 < 0, so pooled (2·0.5·… by hand).
    const pooled = pieceFigures(
      [
        [7, 9],
        [8, 10],
      ],
      { low: 0, high: 20 },
      0.95,
      undefined,
    );
    expect(pooled.s ** 2).toBeCloseTo((1 * 0.5 * 2 + 4) / 3, 12);
    // Means 5 and 11: s² 18, σ_b² = 17, one unit 19.
    const apart = pieceFigures(
      [
        [4, 6],
        [10, 12],
      ],
      { low: 0, high: 20 },
      0.95,
      undefined,
    );
    expect(apart.s ** 2).toBeCloseTo(19, 12);
    expect([apart.withinOnly, apart.n, apart.trials]).toEqual([false, 4, 2]);
    // b(18) + (1 − 1/2)·2: 2·18²/1 + 2·1²/2.
    expect(apart.df).toBeCloseTo((2 * 19 ** 2) / (2 * 18 ** 2 + 1), 10);
  });
  it("measured values alone count", () => {
    expect(measuredValues([1, null, 2], {})).toEqual([1, 2]);
    expect([measuredValues(3, {}), measuredValues(null, {}), measuredValues(undefined, {})]).toEqual([[3], [], []]);
  });
});

describe("the interval of Ppk", () => {
  it("of one trial and one limit is exact: the tolerance factor of ten, 95 % of the process with 95 % (Odeh & Owen 1980)", () => {
    // (U − mean)/s = 2.911 of ten units says that with 95 % at least 95 % of the process lies below U: true 1.6449.
    const units = Array.from({ length: 10 }, (_, i) => i - 4.5);
    const s = Math.sqrt(units.reduce((t, v) => t + v * v, 0) / 9);
    const one = { low: Number.NEGATIVE_INFINITY, high: 2.911 * s };
    const [low] = pieceFigures([units], one, 0.9, undefined).ppkInterval as [number, number];
    expect(3 * low).toBeCloseTo(1.6449, 3);
  });
  /** How often an interval of 95 % holds the true Ppk, over drawn confirmations. */
  function coverage(
    studies: number,
    trials: number,
    units: number,
    between: number,
    both: boolean,
    seed: number,
  ): number {
    const random = seededRandom(seed);
    const sigma = Math.sqrt(1 + between ** 2);
    const held = { low: both ? -4.5 * sigma : Number.NEGATIVE_INFINITY, high: 3.6 * sigma };
    let inside = 0;
    for (let i = 0; i < studies; i++) {
      const made = Array.from({ length: trials }, () => {
        const own = between * random.normal();
        return Array.from({ length: units }, () => own + random.normal());
      });
      const [low, high] = pieceFigures(made, held, 0.95, undefined).ppkInterval as [number, number];
      if (low <= 1.2 && 1.2 <= high) inside++;
    }
    return inside / studies;
  }
  it.each([
    [1, 20, 0],
    [2, 5, 2],
    [3, 5, 2],
    [8, 5, 2],
    [8, 1, 0],
  ])(
    "covers with %i trials of %i units, %f between: 94 % at least, 98 % at most with few, 96.5 % with eight",
    (trials, units, between) => {
      const studies = drawn(3000, 100);
      for (const both of [false, true]) {
        const covered = coverage(studies, trials, units, between, both, 7 * trials + units + 10 * between);
        // Four standard deviations of so many draws beside what is claimed.
        const off = 4 * Math.sqrt((0.95 * 0.05) / studies);
        expect(covered).toBeGreaterThan(0.94 - off);
        expect(covered).toBeLessThan((trials < 4 ? 0.98 : 0.965) + off);
      }
    },
  );
});
