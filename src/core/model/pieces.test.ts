import { describe, expect, it } from "vitest";
import { components } from "../numerics/components";
import type { Matrix } from "../numerics/least-squares";
import { adjustedCovariance, generalised, groupingOf, informationOf, scaledF } from "../numerics/mixed";
import { seededRandom } from "../numerics/random";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { drawn, shareBounds } from "../testing/simulation";
import { fitModel } from "./fit";
import { contrastsOf } from "./lenth";
import { balancedVariances, type Pieces } from "./pieces";

/** A 2² with units in each trial; results as given by trial. */
const study = (units: number[][], several: "units" | "repeats" = "units"): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Pieces",
    factors: [
      { id: "a", kind: "continuous", low: -1, high: 1 },
      { id: "b", kind: "continuous", low: -1, high: 1 },
    ],
    responses: [{ id: "y", several }],
    waves: [{ id: "w1" }],
    trials: units.map((y, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      state: "done",
      settings: { a: i % 2 === 0 ? -1 : 1, b: i % 4 < 2 ? -1 : 1 },
      results: { y },
    })),
  });
const rowAt = (fit: ReturnType<typeof fitModel>, a: number, b: number): Float64Array => {
  const row = new Float64Array(fit.model.columns.length);
  fit.model.linear({ a, b }, row);
  return row;
};

describe("units of as many in each trial", () => {
  // Eight trials of three units. Means 10 ± 1 about a plane of 1·a; within each trial −1, 0, 1 about its mean.
  const means = [9, 11, 9, 11, 8, 12, 10, 10];
  const units = means.map((m) => [m - 1, m, m + 1]);
  const fit = fitModel(study(units), "y", { terms: [["a"]] });
  it("variances by hand: s² = 4/3 on 6 df about the line, s_w² = 1 on 16", () => {
    // About 10 + a (coefficient 1): residuals 0,0,0,0,−1,1,1,−1: SS 4 on 8 − 2 = 6.
    expect(fit.summary.s).toBeCloseTo(Math.sqrt(4 / 6), 12);
    const { between, within, varianceOf } = (fit.model.piecesOf() as Pieces).variances;
    // Each trial: SS 2 on 2. σ_b² = 2/3 − 1/3.
    expect(within).toBeCloseTo(1, 12);
    expect(between).toBeCloseTo(1 / 3, 12);
    // One unit: s² + s_w²(1 − 1/3) = 2/3 + 2/3; its variance 2(2/3)²/6 + 2(2/3)²/16.
    expect(varianceOf(1, 1)).toBeCloseTo((2 * 4) / 9 / 6 + (2 * 4) / 9 / 16, 12);
  });
  it("one unit and the mean of m trials of n units, with Satterthwaite's degrees of freedom", () => {
    const said = fit.model.predictive(rowAt(fit, 1, 1));
    // x′(X′X)⁻¹x = 1/8 + 1/8.
    const value = (2 / 3) * 0.25;
    expect(said.variance).toBeCloseTo(value, 12);
    expect(said.noise).toBeCloseTo(4 / 3, 12);
    // 2/3·(5/4) of s² on 6 and 2/3 of s_w² on 16.
    expect(said.dfTrial).toBeCloseTo((5 / 6 + 2 / 3) ** 2 / ((5 / 6) ** 2 / 6 + (2 / 3) ** 2 / 16), 10);
    // Four trials of 10: [2/3 + 1/10 − 1/3]/4.
    expect(said.meanNoise(4, 10)).toBeCloseTo((2 / 3 + 1 / 10 - 1 / 3) / 4, 12);
    const [low, high] = said.interval(0.95, 4, 10) as [number, number];
    expect((low + high) / 2).toBeCloseTo(said.value, 12);
    // The value's own interval stays that of the trial means.
    const plain = fitModel(study(units, "repeats"), "y", { terms: [["a"]] }).model.predictive(rowAt(fit, 1, 1));
    expect(said.interval(0.95)).toEqual(plain.interval(0.95));
    expect(plain.noise).toBeCloseTo(2 / 3, 12);
  });
  it("repeats of a measurement stay repeats, and single values tell nothing of units", () => {
    expect(fitModel(study(units, "repeats"), "y", { terms: [["a"]] }).model.piecesOf()).toBeUndefined();
    expect(fitModel(study(means.map((m) => [m])), "y", { terms: [["a"]] }).model.piecesOf()).toBeUndefined();
  });
  it("where units vary more than trials can, nothing is between and both are pooled", () => {
    const v = balancedVariances(0.1, 6, { ss: 16, df: 16 }, 4);
    // (6·0.1·4 + 16)/(6 + 16)
    expect(v).toMatchObject({ between: 0, within: expect.closeTo(18.4 / 22, 12) });
    expect(v.varianceOf(1, 1)).toBeCloseTo((2 * (18.4 / 22) ** 2) / 22, 12);
  });
});

describe("units of different numbers", () => {
  const random = seededRandom(11);
  const counts = [2, 5, 3, 8, 2, 4, 6, 3, 7, 2];
  const settings = counts.map((_, i) => ({ a: i % 2 === 0 ? -1 : 1, b: (i % 5) / 2 - 1 }));
  const unequal = (between: number): number[][] =>
    counts.map((c, i) => {
      const trial = 10 + 2 * settings[i].a + between * random.normal();
      return Array.from({ length: c }, () => trial + 0.8 * random.normal());
    });
  const of = (units: number[][]): Study => {
    const s = study(units);
    return { ...s, trials: s.trials.map((t, i) => ({ ...t, settings: settings[i] })) };
  };

  /**
   * The same by rows of units, every trial a set-up: what set-ups are held to by dense formulas (`mixed.test.ts`)
   * knows nothing of means, of numbers of units or of squares apart.
   */
  function byUnits(units: number[][], terms: string[][]) {
    const fit = fitModel(of(units), "y", { terms });
    const p = fit.model.columns.length;
    const row = new Float64Array(p);
    const rows = units.flatMap((u, i) => {
      fit.model.linear(settings[i], row);
      return u.map(() => Array.from(row));
    });
    const groups = groupingOf(units.flatMap((u, i) => u.map(() => `t${i}`)));
    const matrix = { rows: rows.length, cols: p, data: Float64Array.from(rows.flat()) };
    const parts = components(groups, matrix, units.flat());
    const solved = generalised(groups, parts.between / parts.within, matrix, units.flat());
    return { fit, parts, solved, info: informationOf(groups, solved, matrix, parts) };
  }
  it.each([
    ["trials that vary", 1.2],
    ["trials that vary no more than their units explain", 0],
  ])("are what every unit for itself says, %s: components, coefficients, tests, new units", (_, between) => {
    const { fit, parts, solved, info } = byUnits(unequal(between), [["a"], ["b"], ["a", "b"]]);
    const { model } = fit;
    const units = model.piecesOf() as Pieces;
    expect(units.variances.within / parts.within).toBeCloseTo(1, 8);
    expect(units.variances.between).toBeCloseTo(Math.max(0, parts.between), 8);
    for (let j = 0; j < 4; j++) {
      expect(model.coefficients[j]).toBeCloseTo(solved.solution.coefficients[j], 8);
      const { f, df, p } = scaledF(info, [solved.solution.coefficients[j]], [j]);
      expect(model.test([j])).toMatchObject({ f: expect.closeTo(f, 6), p: expect.closeTo(p, 8) });
      expect(model.test([j]).dfDenominator).toBeCloseTo(df, 5);
    }
    const both = scaledF(info, Array.from(solved.solution.coefficients).slice(2), [2, 3]);
    expect(model.test([2, 3])).toMatchObject({ f: expect.closeTo(both.f, 6), scale: expect.closeTo(both.scale, 6) });
    // A new unit by hand from Φ_A, W and Φ(−P_i)Φ.
    const x = rowAt(fit, 1, 1);
    const form = (m: Matrix): number =>
      x.reduce((t, v, i) => t + v * x.reduce((u, w, j) => u + w * m.data[i * 4 + j], 0), 0);
    const v = form(adjustedCovariance(info)) + Math.max(0, parts.between) + parts.within;
    const g = [form(info.turned[0]) + (parts.between > 0 ? 1 : 0), form(info.turned[1]) + 1];
    const spread = g[0] ** 2 * info.w[0][0] + 2 * g[0] * g[1] * info.w[0][1] + g[1] ** 2 * info.w[1][1];
    const said = model.predictive(x);
    expect((said.variance as number) + (said.noise as number)).toBeCloseTo(v, 8);
    expect(said.dfTrial).toBeCloseTo((2 * v * v) / spread, 5);
  });
  it("a term added is that of the larger model at the ratio held", () => {
    const units = unequal(1.2);
    const small = fitModel(of(units), "y", { terms: [["a"]] });
    const large = byUnits(units, [["a"], ["b"]]);
    // Dense, at the smaller model's ratio: the same columns by generalised least squares on every unit.
    const { between, within } = byUnits(units, [["a"]]).parts;
    const groups = groupingOf(units.flatMap((u, i) => u.map(() => `t${i}`)));
    const rows = units.flatMap((u, i) => u.map(() => [1, settings[i].a, settings[i].b]));
    const matrix = { rows: rows.length, cols: 3, data: Float64Array.from(rows.flat()) };
    const held = generalised(groups, between / within, matrix, units.flat());
    const added = small.model.addTerm({ rows: 10, cols: 1, data: Float64Array.from(settings, (s) => s.b) });
    expect(added?.coefficients[0]).toBeCloseTo(held.solution.coefficients[2], 8);
    const { rss } = held.solution;
    const own = informationOf(groups, held, matrix, {
      between: ((between / within) * rss) / (rows.length - 3),
      within: rss / (rows.length - 3),
    });
    expect(added?.covariance?.data[0]).toBeCloseTo(adjustedCovariance(own).data[8], 8);
    expect(large.fit.terms).toHaveLength(2);
  });
  it("with as many in each trial but one the answer is near that of as many in each, and it is said which is meant", () => {
    const units = unequal(1.2).map((u) => [...u, ...u].slice(0, 4));
    const even = fitModel(of(units), "y", { terms: [["a"], ["b"]] });
    expect(even.law).toBe("gaussian");
    const odd = fitModel(of(units.map((u, i) => (i === 3 ? [...u, u.reduce((t, v) => t + v, 0) / 4] : u))), "y", {
      terms: [["a"], ["b"]],
    });
    expect(odd.law).toBe("units");
    for (const [i, p] of even.parameters.entries()) {
      expect(odd.parameters[i].coefficient).toBeCloseTo(p.coefficient, 1);
      expect((odd.parameters[i].standardError as number) / (p.standardError as number)).toBeCloseTo(1, 1);
      expect(odd.parameters[i].df).toBeCloseTo(7, 0);
    }
    expect(odd.model.piecesOf()?.unequal).toMatchObject({ least: 4, most: 5 });
    expect(contrastsOf(of(unequal(1)), fitModel(of(unequal(1)), "y", { terms: [["a"]] })).refusal?.code).toBe(
      "contrasts-units",
    );
  });
  it.each([
    ["no variance between", 0],
    ["as much between as within", 1],
  ])("2 units in two trials, 20 in six, %s: intervals hold the truth 95 times in 100 at every corner", (_, between) => {
    // Weighed alike they held it in 75 % at one corner and 98 % at another where nothing is between.
    const sizes = [2, 20, 20, 20, 2, 20, 20, 20];
    const studies = drawn(3000, 300);
    const held = [0, 0, 0, 0];
    const corners = [
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ];
    for (let k = 0; k < studies; k++) {
      const units = sizes.map((n) => {
        const trial = between * random.normal();
        return Array.from({ length: n }, () => trial + random.normal());
      });
      const fit = fitModel(study(units), "y", { terms: [["a"], ["b"], ["a", "b"]] });
      corners.forEach(([a, b], c) => {
        const [low, high] = fit.model.predictive(rowAt(fit, a, b)).interval(0.95) as [number, number];
        if (low <= 0 && high >= 0) held[c]++;
      });
    }
    // Exact where nothing is estimated below nothing, else by expansions: a point of 100 beside what chance gives.
    const [least, most] = shareBounds(0.95, studies);
    for (const h of held) {
      expect(h / studies).toBeGreaterThanOrEqual(least - 0.01);
      expect(h / studies).toBeLessThanOrEqual(most + 0.01);
    }
  });
});
