import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { code } from "../study/coding";
import type { Goal, NumericFactor, Study } from "../study/schema";
import { exactStudy } from "../testing/studies";
import { ascend } from "./ascend";
import { desirability, desirabilityPieces, shortfall, shortfallPieces } from "./desirability";
import { setpointProblem } from "./goals";

describe("pieces of a curve", () => {
  const goals: Goal[] = [
    { aim: "raise", low: 58, high: 66, weight: 2 },
    { aim: "lower", low: 14, high: 24, weight: 0.3 },
    { aim: "hit", low: 0, target: 2, high: 6, lowWeight: 1.5, highWeight: 0.5 },
    { aim: "within", low: 1, target: 1, high: 2 },
    { aim: "within", low: 1, high: 2 },
  ];
  it.each(goals)("the lowest of them and 0 is ln d: %o", (goal) =>
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 0.999, noNaN: true }), fc.constantFrom(0, 0.7), (share, past) => {
        if (goal.aim === "watch") return;
        const y =
          goal.low + share * (goal.high - goal.low) + (goal.aim === "raise" ? past : goal.aim === "lower" ? -past : 0);
        const d = desirability(goal, y) as number;
        if (!(d > 0)) return;
        expect(Math.min(0, ...desirabilityPieces(goal, y).map((p) => p.value))).toBeCloseTo(Math.log(d), 12);
      }),
    ),
  );
  it("slopes and bends are those of w ln(u): a raise with weight 2, a third of the way up", () => {
    // ln d = 2 ln((y − 58)/8): slope 2/(y − 58), bend −2/(y − 58)².
    expect(desirabilityPieces(goals[0], 61)).toEqual([{ value: 2 * Math.log(3 / 8), slope: 2 / 3, bend: -2 / 9 }]);
    // ln d = 0.3 ln((24 − y)/10).
    expect(desirabilityPieces(goals[1], 20)).toEqual([{ value: 0.3 * Math.log(0.4), slope: -0.075, bend: -0.3 / 16 }]);
  });
  it.each(goals)("the lowest of the others and 0 is minus the shortfall: %o", (goal) => {
    if (goal.aim === "watch") return;
    for (const y of [goal.low - 3, goal.low, (goal.low + goal.high) / 2, goal.high, goal.high + 5])
      expect(Math.min(0, ...shortfallPieces(goal, y).map((p) => p.value))).toBeCloseTo(-shortfall(goal, y), 12);
  });
});

function climbed(study: Study, from: number[]): { x: number[]; score: number } {
  const problem = setpointProblem(study);
  const numeric = study.factors as NumericFactor[];
  const settings = Object.fromEntries(numeric.map((f, i) => [f.id, from[i]]));
  const { settings: end, score } = ascend(problem, numeric, { settings, score: problem.score(settings) });
  return { x: numeric.map((f) => code(f, end[f.id] as number)), score };
}

const total = (x: number[]): number => x.reduce((t, v) => t + v, 0);

describe("climbing (answers in closed form)", () => {
  it("follows the ridge of a target: the least Σaᵢxᵢ² on Σxᵢ = 2 by Lagrange's multiplier", () => {
    const a = [1, 2, 3, 4, 6];
    const study = exactStudy(5, [
      { goal: { aim: "hit", low: 0, target: 2, high: 4 }, importance: 5, of: total },
      { goal: { aim: "lower", low: 0, high: 20 }, of: (x) => x.reduce((t, v, i) => t + a[i] * v * v, 0) },
    ]);
    // xᵢ = (2/aᵢ)/Σ(1/aⱼ), Σ(1/aⱼ) = 9/4, and the least value is 4/(9/4).
    const { x, score } = climbed(study, [-0.2, 0.9, 0.4, 0.1, -0.6]);
    x.forEach((v, i) => expect(v).toBeCloseTo(2 / a[i] / 2.25, 5));
    expect(score).toBeCloseTo((1 - 16 / 9 / 20) ** (1 / 6), 9);
  });
  it("slides along a limit: (a + 1)(b + 1)/4 under a + b ≤ 0.5 is best at a = b", () => {
    const study = exactStudy(
      2,
      [
        { goal: { aim: "raise", low: -1, high: 1 }, of: ([a]) => a },
        { goal: { aim: "raise", low: -1, high: 1 }, of: ([, b]) => b },
      ],
      { region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 0.5 }], forbidden: [] } },
    );
    const { x, score } = climbed(study, [-0.9, 0.8]);
    x.forEach((v) => expect(v).toBeCloseTo(0.25, 4));
    expect(score).toBeCloseTo(0.625, 9);
  });
  it("goes up to the edge of a forbidden block, never into it", () => {
    const study = exactStudy(2, [{ goal: { aim: "raise", low: -2, high: 2 }, of: total }], {
      region: { limits: [], forbidden: [{ a: { from: 0.5, to: 1 }, b: { from: 0.5, to: 1 } }] },
    });
    const { x, score } = climbed(study, [0.6, -0.5]);
    expect(x[0]).toBeCloseTo(1, 6);
    expect(x[1]).toBeLessThan(0.5);
    expect(score).toBeCloseTo(0.875, 6);
  });
  it("keeps a window that has no target: the least a² + b² with a + b at least 1", () => {
    const study = exactStudy(2, [
      { goal: { aim: "within", low: 1, high: 2 }, of: total },
      { goal: { aim: "lower", low: 0, high: 4 }, of: ([a, b]) => a * a + b * b },
    ]);
    const { x, score } = climbed(study, [1, 0.3]);
    x.forEach((v) => expect(v).toBeCloseTo(0.5, 4));
    expect(score).toBeCloseTo(Math.sqrt(0.875), 8);
  });
  it("where nothing meets every goal the weighted shortfall falls: 3(2 − a) + a on a ≤ 1", () => {
    const study = exactStudy(2, [
      { goal: { aim: "raise", low: 2, high: 3 }, importance: 3, of: ([a]) => a },
      { goal: { aim: "raise", low: 0, high: 1 }, of: ([a]) => -a },
    ]);
    const { x, score } = climbed(study, [-0.7, 0]);
    expect(x[0]).toBeCloseTo(1, 9);
    expect(score).toBeCloseTo(-1, 7);
  });
  it("finds the top of a hill inside: 8 factors, D = 1 − Σ(xᵢ − cᵢ)²/40", () => {
    const c = [0.1, -0.3, 0.5, 0.7, -0.9, 0, 0.2, -0.4];
    const study = exactStudy(8, [
      { goal: { aim: "raise", low: -40, high: 0.5 }, of: (x) => -total(x.map((v, i) => (v - c[i]) ** 2)) },
    ]);
    const { x } = climbed(study, new Array(8).fill(1));
    x.forEach((v, i) => expect(v).toBeCloseTo(c[i], 4));
  });
});
