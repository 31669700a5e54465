import { describe, expect, it } from "vitest";
import { type Matrix, zeros } from "../numerics/least-squares";
import { seededRandom } from "../numerics/random";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { fitModel } from "./fit";
import { balancedVariances, restrictedVariances, type Units, withinTrials } from "./units";

/** A 2² with units in each trial; results as given by trial. */
const study = (units: number[][], several: "units" | "repeats" = "units"): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Units",
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
    const { between, within, varianceOf } = (fit.model.unitsOf() as Units).variances;
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
    expect(fitModel(study(units, "repeats"), "y", { terms: [["a"]] }).model.unitsOf()).toBeUndefined();
    expect(fitModel(study(means.map((m) => [m])), "y", { terms: [["a"]] }).model.unitsOf()).toBeUndefined();
  });
  it("where units vary more than trials can, nothing is between and both are pooled", () => {
    const v = balancedVariances(0.1, 6, { ss: 16, df: 16 }, 4);
    // (6·0.1·4 + 16)/(6 + 16)
    expect(v).toMatchObject({ between: 0, within: expect.closeTo(18.4 / 22, 12) });
    expect(v.varianceOf(1, 1)).toBeCloseTo((2 * (18.4 / 22) ** 2) / 22, 12);
  });
});

describe("units of different numbers", () => {
  /** −2 log of the restricted likelihood of all units, by dense algebra that shares nothing with what is tested. */
  function dense(x: number[][], units: number[][], between: number, within: number): number {
    const rows = units.flatMap((u, i) => u.map((y) => ({ i, y })));
    const n = rows.length;
    const v = rows.map((a, r) => rows.map((b, c) => (a.i === b.i ? between : 0) + (r === c ? within : 0)));
    const [inverse, logV] = invert(v);
    const p = x[0].length;
    const w = Array.from({ length: p }, (_, j) => rows.map((_r, c) => sum(n, (r) => x[rows[r].i][j] * inverse[r][c])));
    const xtvx = w.map((wj) => Array.from({ length: p }, (_, k) => sum(n, (c) => wj[c] * x[rows[c].i][k])));
    const [xi, logX] = invert(xtvx);
    const xty = w.map((wj) => sum(n, (c) => wj[c] * rows[c].y));
    const beta = xi.map((row) => sum(p, (k) => row[k] * xty[k]));
    const e = rows.map(({ i, y }) => y - sum(p, (k) => x[i][k] * beta[k]));
    const q = sum(n, (r) => e[r] * sum(n, (c) => inverse[r][c] * e[c]));
    return logV + logX + q;
  }
  const sum = (n: number, of: (i: number) => number): number => {
    let t = 0;
    for (let i = 0; i < n; i++) t += of(i);
    return t;
  };
  /** Gauss–Jordan. */
  function invert(a: number[][]): [number[][], number] {
    const n = a.length;
    const m = a.map((r, i) => [...r, ...r.map((_, j) => (i === j ? 1 : 0))]);
    let log = 0;
    for (let k = 0; k < n; k++) {
      log += Math.log(m[k][k]);
      const pivot = m[k][k];
      for (let j = 0; j < 2 * n; j++) m[k][j] /= pivot;
      for (let i = 0; i < n; i++) {
        const f = m[i][k];
        if (i !== k && f !== 0) for (let j = 0; j < 2 * n; j++) m[i][j] -= f * m[k][j];
      }
    }
    return [m.map((r) => r.slice(n)), log];
  }
  const random = seededRandom(11);
  const counts = [2, 5, 3, 8, 2, 4, 6, 3, 7, 2];
  const x = counts.map((_, i) => [1, i % 2 === 0 ? -1 : 1, (i % 5) - 2]);
  const units = counts.map((c, i) => {
    const trial = 10 + 2 * x[i][1] + 1.2 * random.normal();
    return Array.from({ length: c }, () => trial + 0.8 * random.normal());
  });
  const matrix: Matrix = { ...zeros(10, 3), data: Float64Array.from(x.flat()) };
  const means = units.map((u) => u.reduce((t, v) => t + v, 0) / u.length);
  const found = restrictedVariances(matrix, means, counts, withinTrials(units));
  it("stand where the restricted likelihood of all units is highest (dense maximisation)", () => {
    // Coordinates in turn by thirds, from the moments.
    let [b, w] = [1.5, 0.6];
    const at = (p: number, q: number): number => dense(x, units, p, q);
    const third = (of: (v: number) => number, low: number, high: number): number => {
      let [l, h] = [low, high];
      for (let i = 0; i < 48; i++) {
        const [m1, m2] = [l + (h - l) / 3, h - (h - l) / 3];
        if (of(m1) < of(m2)) h = m2;
        else l = m1;
      }
      return (l + h) / 2;
    };
    for (let i = 0; i < 14; i++) {
      b = third((v) => at(v, w), b / 3, 3 * b);
      w = third((v) => at(b, v), w / 3, 3 * w);
    }
    expect(found.between / b - 1).toBeCloseTo(0, 6);
    expect(found.within / w - 1).toBeCloseTo(0, 6);
  });
  it("are known as well as the expected information says (second differences of the mean criterion)", () => {
    // E[y′Py] has second derivatives 2 tr(PVⱼPV_k) − …: the expectation of the criterion at other variances, by dense
    // algebra at the ones found: log|V| + log|X′V⁻¹X| + tr(P V₀).
    const expectation = (b: number, w: number): number => {
      const rows = units.flatMap((u, i) => u.map(() => i));
      const n = rows.length;
      const cov = (bb: number, ww: number): number[][] =>
        rows.map((i, r) => rows.map((j, c) => (i === j ? bb : 0) + (r === c ? ww : 0)));
      const [inverse, logV] = invert(cov(b, w));
      const xv = [0, 1, 2].map((k) => rows.map((_, c) => sum(n, (r) => x[rows[r]][k] * inverse[r][c])));
      const [xi, logX] = invert(xv.map((row) => [0, 1, 2].map((k) => sum(n, (c) => row[c] * x[rows[c]][k]))));
      const v0 = cov(found.between, found.within);
      let trace = 0;
      for (let r = 0; r < n; r++)
        for (let c = 0; c < n; c++) {
          let p = inverse[r][c];
          for (let u = 0; u < 3; u++) for (let v = 0; v < 3; v++) p -= xv[u][r] * xi[u][v] * xv[v][c];
          trace += p * v0[c][r];
        }
      return logV + logX + trace;
    };
    const [b, w] = [found.between, found.within];
    const [db, dw] = [b * 1e-3, w * 1e-3];
    const e = expectation;
    const bb = (e(b + db, w) - 2 * e(b, w) + e(b - db, w)) / db ** 2;
    const ww = (e(b, w + dw) - 2 * e(b, w) + e(b, w - dw)) / dw ** 2;
    const bw = (e(b + db, w + dw) - e(b + db, w - dw) - e(b - db, w + dw) + e(b - db, w - dw)) / (4 * db * dw);
    // The criterion is −2 log likelihood: information is half of its second derivatives.
    const determinant = (bb * ww - bw ** 2) / 4;
    expect(found.varianceOf(1, 1) / ((ww / 2 - bw + bb / 2) / determinant)).toBeCloseTo(1, 3);
  });
  it("agree with the balanced formula where trials have as many", () => {
    const even = units.map((u) => u.slice(0, 2));
    const middle = even.map((u) => (u[0] + u[1]) / 2);
    const within = withinTrials(even);
    const reml = restrictedVariances(
      matrix,
      middle,
      even.map(() => 2),
      within,
    );
    const fit = fitModel(study(even), "y", { terms: [["a"]] });
    const { between } = balancedVariances(fit.summary.s === null ? 0 : fit.summary.s ** 2, 8, within, 2);
    const line: Matrix = { ...zeros(10, 2), data: Float64Array.from(x.flatMap((r) => r.slice(0, 2))) };
    const same = restrictedVariances(
      line,
      middle,
      even.map(() => 2),
      within,
    );
    expect(same.between / between).toBeCloseTo(1, 5);
    expect(reml.within).toBeGreaterThan(0);
  });
});
