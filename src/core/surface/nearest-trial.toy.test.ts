// A surface without columns, the result of the nearest trial with a constant error, stands for every response: map,
// search, chance, confirmation, influence and what is handed on ask the contract of a surface and nothing else.

import { describe, expect, it, vi } from "vitest";
import { normalCdf, normalQuantile } from "../numerics/distributions";

vi.mock(import("./average"), async (original) => {
  const { nearestSurface } = await import("../testing/toy-surface");
  const nearest = (study: Parameters<typeof nearestSurface>[0], response: string) => nearestSurface(study, response);
  return { ...(await original()), presentPredictor: nearest, storedPredictor: (s, { id }) => nearest(s, id) };
});

const { decisionOf } = await import("../findings/decision");
const { ask, finish } = await import("../questions/ask");
const { setpointProblem } = await import("../setpoint/goals");
const { parseStudy } = await import("../study/validate");
const { SIGMA } = await import("../testing/toy-surface");
const { corners, plainStudy } = await import("../testing/studies");
const { presentPredictor } = await import("./average");

const GOAL = { aim: "raise", low: 6, high: 10 } as const;
// Results go with a, more with b, nothing else: 4 ± 1 ± 3.
const results = corners(3).map((s) => 4 + (s.a as number) + 3 * (s.b as number));
const study = parseStudy({
  ...plainStudy(3, { responses: [{ id: "y", goal: GOAL }] }),
  waves: [{ id: "w1" }, { id: "w2", purpose: "confirm" }],
  trials: [
    ...corners(3).map((settings, i) => ({
      id: `t${i}`,
      wave: "w1",
      state: "done" as const,
      settings,
      results: { y: results[i] },
    })),
    ...[7.6, 8.1, 8.5, 8.2].map((y, i) => ({
      id: `c${i}`,
      wave: "w2",
      state: "done" as const,
      kind: "confirm" as const,
      use: false,
      settings: { a: 1, b: 1, c: 1 },
      results: { y },
    })),
  ],
  models: [{ response: "y", terms: [["a"]] }],
});
const read = presentPredictor(study, "y");
const TOP = 8;

describe("a surface without columns", () => {
  it("is drawn as a map and followed along a factor", () => {
    const plane = read.plane({ a: 0, b: 0, c: -1 }, "a", "b");
    expect([plane(-0.9, -0.8), plane(0.7, -1), plane(-0.6, 0.5), plane(1, 1)]).toEqual([0, 2, 6, TOP]);
    expect(read.line({ a: 1, b: 0, c: 1 }, "b", [-0.4, 0.4]).map((p) => p.mean)).toEqual([2, TOP]);
    const surface = finish(ask("surface", study, { response: "y" }));
    expect(surface.stationary).toBeNull();
  });
  it("is searched: the best corner's own settings, or any beside them", () => {
    const found = finish(ask("setpoint", study, { draws: 40_000, seed: 3 }));
    expect(found.best.responses.y.mean).toBe(TOP);
    expect(found.best.overall).toBeCloseTo((TOP - GOAL.low) / (GOAL.high - GOAL.low), 12);
    // The trial and what is read off it err alike: σ√2.
    const chance = 1 - normalCdf((GOAL.low - TOP) / (SIGMA * Math.SQRT2));
    expect(Math.abs((found.best.chance ?? 0) - chance)).toBeLessThan(4 * (found.best.chanceStandardError ?? 0) + 1e-4);
  });
  it("is confirmed: the mean of four within z·σ√(1 + 1/4)", () => {
    const { y } = finish(ask("verdict", study, {})).responses;
    const half = normalQuantile(0.975) * SIGMA * Math.sqrt(1.25);
    expect(y.predicted).toBe(TOP);
    expect(y.mean).toBeCloseTo(8.1, 12);
    expect(y.interval?.[0]).toBeCloseTo(TOP - half, 10);
    expect(y.interval?.[1]).toBeCloseTo(TOP + half, 10);
    expect(y.agrees).toBe(true);
  });
  it("tells what moves it: variances 1 and 9 of two factors by themselves", () => {
    const { factors } = finish(ask("influence", study, {}));
    const share = new Map(factors.map((f) => [f.factor, f.share]));
    expect(share.get("b")).toBeCloseTo(0.9, 2);
    expect(share.get("a")).toBeCloseTo(0.1, 2);
    expect(share.get("c")).toBeCloseTo(0, 12);
  });
  it("is handed on: what to expect, and what must be held", () => {
    const decision = decisionOf(setpointProblem(study), { a: 0.02, b: 0.02, c: 1 });
    expect(decision.expected[0]).toMatchObject({ said: { mean: TOP }, meets: true });
    expect(finish(ask("predict", study, { at: { a: 1, b: -1, c: 0.2 } })).responses.y.mean).toBe(2);
  });
});
