import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cat, cont, studyOf } from "../testing/studies";
import {
  centreSettings,
  code,
  codedSettings,
  decode,
  isCentre,
  isNumeric,
  middle,
  rangeOf,
  sameSetting,
  snap,
} from "./coding";
import type { NumericFactor } from "./schema";
import { parseStudy } from "./validate";

const first = (factor: object): NumericFactor => {
  const [f] = studyOf([factor as never]).factors;
  if (!isNumeric(f)) throw new Error("a category");
  return f;
};
const numeric = (more: object): NumericFactor => first({ ...cont("f"), ...more });
const listed = (values: number[]): NumericFactor => first({ id: "f", kind: "discrete", values });
const double = (min: number, max: number) => fc.double({ min, max, noNaN: true });
/** Factors with a step, some with hard limits past the range. */
const stepped = fc
  .tuple(double(-100, 100), fc.integer({ min: 2, max: 40 }), fc.constantFrom(0.01, 0.1, 0.25, 0.5, 1, 5), fc.boolean())
  .map(([from, steps, step, wide]) => {
    const low = Math.round(from / step) * step;
    const high = low + steps * step;
    return numeric({ low, high, step, ...(wide ? { hardLow: low - 3 * step, hardHigh: high + 2.5 * step } : {}) });
  });

describe("coding", () => {
  it.each(["linear", "log"] as const)("there and back again, low to −1 and high to 1, on a %s scale", (scale) => {
    fc.assert(
      fc.property(double(0.01, 50), double(1.5, 20), double(-1.5, 1.5), (low, times, x) => {
        const f = numeric({ low, high: low * times, scale });
        expect(code(f, decode(f, x))).toBeCloseTo(x, 9);
        expect(code(f, low)).toBeCloseTo(-1, 12);
        expect(code(f, low * times)).toBeCloseTo(1, 12);
        expect(decode(f, -1)).toBe(low);
        // The middle of a logarithmic range is the geometric mean.
        expect(middle(f)).toBeCloseTo(scale === "log" ? low * Math.sqrt(times) : (low * (1 + times)) / 2, 9);
      }),
    );
  });
  it("of listed values by the least and the greatest, whatever lies between", () => {
    const f = listed([1, 2, 10]);
    expect(rangeOf(f)).toEqual([1, 10]);
    expect(code(f, 2)).toBeCloseTo(-1 + 2 / 9, 12);
  });
  it("leaves categories as they are and settings that are not there out", () => {
    const { factors } = studyOf([cont("a", { low: 0, high: 10 }), cat("k", "x", "y"), cont("b")]);
    expect(codedSettings(factors, { a: 2.5, k: "y" })).toEqual({ a: -0.5, k: "y" });
    expect(centreSettings(factors)).toEqual({ a: 5, k: "x", b: 0 });
  });
});

describe("settable values", () => {
  it("are whole steps from low, within the limits, and nearest to what was asked", () => {
    fc.assert(
      fc.property(stepped, double(-1.8, 1.8), (f, x) => {
        if (f.kind !== "continuous" || f.step === undefined) return;
        const wanted = decode(f, x);
        const set = snap(f, wanted);
        const steps = (set - f.low) / f.step;
        expect(Math.abs(steps - Math.round(steps))).toBeLessThan(1e-6);
        const floor = f.hardLow ?? f.low;
        const ceiling = f.hardHigh ?? f.high;
        expect(set).toBeGreaterThanOrEqual(floor - 1e-6 * f.step);
        expect(set).toBeLessThanOrEqual(ceiling + 1e-6 * f.step);
        // No other step within the limits is nearer.
        for (const other of [set - f.step, set + f.step])
          if (other >= floor && other <= ceiling)
            expect(Math.abs(set - wanted)).toBeLessThanOrEqual(Math.abs(other - wanted) + 1e-6 * f.step);
        expect(snap(f, set)).toBe(set);
        expect(sameSetting(f, set, set + 0.2 * f.step)).toBe(true);
        expect(sameSetting(f, set, set + f.step)).toBe(false);
      }),
    );
  });
  it("have no dust of binary fractions", () => {
    const f = numeric({ low: 0, high: 1, step: 0.1 });
    expect([0.3, 0.7, 0.6].map((v) => snap(f, v + 0.01))).toEqual([0.3, 0.7, 0.6]);
  });
  it("beyond the range only where it is asked for and no hard limit is stated", () => {
    const open = numeric({ low: 0, high: 10, step: 1 });
    const hard = numeric({ low: 0, high: 10, step: 1, hardHigh: 12 });
    expect(snap(open, 14)).toBe(10);
    expect(snap(open, 14, true)).toBe(14);
    expect(snap(hard, 14, true)).toBe(12);
    expect(snap(numeric({ low: 0, high: 10 }), 3.3333)).toBe(3.3333);
  });
  it("of a list are the nearest of it", () => {
    const f = listed([1, 2, 10]);
    expect([0, 1.4, 1.6, 7, 99].map((v) => snap(f, v))).toEqual([1, 1, 2, 10, 10]);
  });
});

describe("a centre point", () => {
  const study = parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: [
      cont("a", { low: 0, high: 10, step: 1 }),
      cont("b", { low: 1, high: 100, scale: "log" }),
      cat("k", "x", "y"),
    ],
    responses: [{ id: "y" }],
    waves: [{ id: "w" }, { id: "narrow", plan: { family: "factorial", ranges: { a: [0, 4] } } }],
    trials: [
      { id: "t1", wave: "w", settings: { a: 5, b: 10, k: "y" } },
      { id: "t2", wave: "w", settings: { a: 5, b: 50.5, k: "x" } },
      { id: "t3", wave: "w", settings: { a: 6, b: 10, k: "x" } },
      { id: "t4", wave: "narrow", settings: { a: 2, b: 10, k: "x" } },
      { id: "t5", wave: "narrow", settings: { a: 5, b: 10, k: "x" } },
    ],
  });
  it.each([
    ["t1", true, "every number in the middle of its scale, whatever the category"],
    ["t2", false, "the arithmetic middle of a logarithmic range is none"],
    ["t3", false, "a step off"],
    ["t4", true, "by the range its wave was planned with"],
    ["t5", false, "and not by today's"],
  ])("%s: %s, %s", (id, centre) => {
    const trial = study.trials.find((t) => t.id === id);
    expect(trial && isCentre(study, trial)).toBe(centre);
  });
});
