// A role of factors is an object: here one whose factors are set in trials and left to themselves afterwards, such as
// the weather. What comes of settings is then the mean over all that they may be.

import { describe, expect, it, vi } from "vitest";
import type { FactorRole } from "../study/factor-roles";

const weather: FactorRole = {
  id: "weather",
  of: ({ notes }) => notes === "weather",
  inTrials: true,
  afterwards: "averaged",
};
vi.mock(import("../study/factor-roles"), async (original) => {
  const { FACTOR_ROLES: known, roleAmong } = await original();
  const FACTOR_ROLES = [weather, ...known];
  return { FACTOR_ROLES, roleAmong, roleOf: roleAmong(FACTOR_ROLES) };
});

const { ask, finish } = await import("../questions/ask");
const { makePlan } = await import("../plans/make-plan");
const { parseStudy } = await import("../study/validate");
const { presentLinear, presentPredictor } = await import("./average");

const LEVELS = [-1, 0, 1];
const settings = LEVELS.flatMap((a) => LEVELS.flatMap((w) => ["x", "y"].map((lot) => ({ a, w, lot }))));
const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: [
    { id: "a", kind: "continuous", low: -1, high: 1 },
    { id: "w", kind: "continuous", low: -1, high: 1, notes: "weather" },
    { id: "lot", kind: "categorical", levels: ["x", "y"], notes: "weather" },
  ],
  responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 20 } }],
  waves: [{ id: "w1" }],
  trials: settings.map((s, i) => ({
    id: `t${i}`,
    wave: "w1",
    state: "done",
    settings: s,
    // 5 + 2a + 3w + 6w² − a² + 4aw ± 1.5 by lot, and what no term takes up.
    results: {
      y: 5 + 2 * s.a + 3 * s.w + 6 * s.w ** 2 - s.a ** 2 + 4 * s.a * s.w + (s.lot === "x" ? 1.5 : -1.5) + (i % 5) / 50,
    },
  })),
  models: [{ response: "y", terms: [["a"], ["w"], ["lot"], ["a", "a"], ["w", "w"], ["a", "w"]] }],
});

describe("factors that are set in trials and averaged over afterwards", () => {
  const read = presentPredictor(study, "y");
  const linear = presentLinear(study, "y");
  it("are set by plans and stand in models", () => {
    expect(Object.keys(makePlan(study, { family: "factorial" }).trials[0].settings).sort()).toEqual(["a", "lot", "w"]);
    expect(linear.speaksOf).toContain("w");
  });
  it("leave the mean over their ranges and levels: ∫w² is 1/3, w, aw and lots come to nothing", () => {
    const at = (a: number, w: number, lot: string): number => linear.value({ a, w, lot });
    // Simpson's rule is exact for what is of second order: (f(−1) + 4f(0) + f(1))/6.
    const mean = (a: number): number =>
      (["x", "y"] as const).reduce((t, l) => t + (at(a, -1, l) + 4 * at(a, 0, l) + at(a, 1, l)) / 12, 0);
    for (const a of [-1, 0.3, 1])
      for (const w of [-1, 0.7]) expect(read.value({ a, w, lot: "x" })).toBeCloseTo(mean(a), 12);
    const said = read.predict({ a: 0.3, w: 0, lot: "y" });
    expect(said.standardError ?? 1).toBeGreaterThan(0);
    expect(said.standardError ?? 1).toBeLessThan(linear.predict({ a: 0.3, w: 1, lot: "y" }).standardError ?? 0);
  });
  it("are not chosen: the best settings are those of the mean, 2a − a² at a = 1, whatever the weather", () => {
    const found = finish(ask("setpoint", study, { draws: 400, seed: 1 }));
    expect(found.best.settings.a).toBeCloseTo(1, 9);
    expect(found.best.responses.y.mean).toBeCloseTo(read.value({ a: 1, w: 0.9, lot: "x" }), 9);
    expect(read.speaksOf).toEqual(["a"]);
    // Chosen like others they would be set to where w + 6w² + 4aw is highest.
    expect(found.best.responses.y.mean).toBeLessThan(linear.value({ a: 1, w: 1, lot: "x" }) - 5);
  });
});
