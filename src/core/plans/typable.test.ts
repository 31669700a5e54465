import { describe, expect, it } from "vitest";
import { type appraise, appraisePoints } from "../appraisal/appraise";
import { pointsOfPlan } from "../appraisal/terms-info";
import { ask, finish } from "../questions/ask";
import { offeredStep, snap, typable } from "../study/coding";
import { allowed } from "../study/region";
import type { NumericFactor } from "../study/schema";
import { parseStudy } from "../study/validate";
import { makePlan } from "./make-plan";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "typable",
  factors: [
    { id: "a", kind: "continuous", low: 0.1, high: 0.7 },
    { id: "b", kind: "continuous", low: 5, high: 125, scale: "log" },
    { id: "c", kind: "continuous", low: 20, high: 60 },
  ],
  responses: [{ id: "y" }],
  region: { limits: [{ terms: { a: 10, c: 1 }, at: "most", bound: 63.3333 }], forbidden: [] },
});
const [a, b, c] = study.factors as NumericFactor[];
const decimals = (v: number): number => (String(v).split(".")[1] ?? "").length;

describe("settings can be typed", () => {
  it("no finer than the ends are written or a five-hundredth of the range, on a log scale to significant digits", () => {
    expect(typable(a, 0.3333333333)).toBe(0.333);
    expect(typable(c, 41.23456789)).toBe(41.23);
    const wide = { ...c, low: 2000, high: 4000 } as NumericFactor;
    expect([typable(wide, 2995.9), typable({ ...wide, low: 2000.5 } as NumericFactor, 2995.94)]).toEqual([
      2996, 2995.9,
    ]);
    // Of a very wide range a ten-thousandth is fine enough.
    expect(typable({ ...c, low: 0, high: 1e6 } as NumericFactor, 523417)).toBe(523400);
    expect(typable(b, 25.000011505395193)).toBe(25);
    expect(typable(b, 117.23456)).toBe(117.23);
    expect(typable(c, 60.00000001)).toBe(60);
    expect(typable({ ...c, step: 0.5 } as NumericFactor, 41.23456789)).toBe(41.23456789);
  });
  it("offers the largest round step that goes ten times or more into the range, and evenly", () => {
    const step = (low: number, high: number) => offeredStep({ ...c, low, high } as NumericFactor);
    expect([step(52, 68), step(2000, 4000), step(4, 10), step(0, 1), step(0.35, 0.6)]).toEqual([
      1, 200, 0.5, 0.1, 0.01,
    ]);
    expect([offeredStep(b), offeredStep({ ...c, step: 2 } as NumericFactor)]).toEqual([undefined, undefined]);
  });
  it("dust goes, digits that mean something stay", () => {
    expect(snap(a, 0.1 + 0.2)).toBe(0.3);
    expect(snap(b, 5.000000000000001)).toBe(5);
    expect(snap(c, 40 + 14.142135623730951)).toBe(40 + 14.142135623730951);
  });
  it("a searched plan holds nothing else, keeps its limits, and is appraised as it is", () => {
    const plan = makePlan(study, { family: "optimal", trials: 12, terms: "quadratic", criterion: "I", seed: 2 });
    for (const t of plan.trials) {
      expect(allowed(study, t.settings)).toBe(true);
      expect(decimals(t.settings.a as number)).toBeLessThanOrEqual(5);
      expect(decimals(t.settings.c as number)).toBeLessThanOrEqual(3);
      expect(String(t.settings.b).replace(".", "").length).toBeLessThanOrEqual(5);
    }
    const said = finish(
      ask("plan", study, { family: "optimal", trials: 12, terms: "quadratic", criterion: "I", seed: 2 }),
    );
    const own = appraisePoints(study, pointsOfPlan(plan), { terms: [["a"], ["b"], ["c"]] });
    expect(own.n).toBe(12);
    const { appraisal } = said as { appraisal: ReturnType<typeof appraise> };
    expect(appraisal.standardError.length).toBeGreaterThan(0);
  });
});
