import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cat, cont, studyOf } from "../testing/studies";
import { code, decode, isNumeric } from "./coding";
import { constraintsOf, type Interval, TOLERANCE } from "./constraint";
import { broken, regionOf } from "./region";
import type { NumericFactor, Settings, StudyInput } from "./schema";

const study = (region: StudyInput["region"]) =>
  studyOf([cont("a", { low: 10, high: 30 }), cont("b", { low: 1, high: 100, scale: "log" }), cat("lot", "p", "q")], {
    region,
  });
const a = (s: ReturnType<typeof study>): NumericFactor => s.factors[0] as NumericFactor;
const both = (s: ReturnType<typeof study>): NumericFactor[] => s.factors.filter(isNumeric);

describe("a linear limit", () => {
  const s = study({ limits: [{ terms: { a: 2, b: 1 }, at: "most", bound: 60 }] });
  const [limit] = constraintsOf(s);
  it("says by how much it is broken, and keeps to one relative tolerance", () => {
    expect(limit.value({ a: 30, b: 10, lot: "p" })).toBe(10);
    expect(limit.value({ a: 20, b: 10, lot: "p" })).toBe(-10);
    expect(limit.keeps({ a: 25, b: 10 + 0.9 * 60 * TOLERANCE, lot: "p" })).toBe(true);
    expect(limit.keeps({ a: 25, b: 10 + 2 * 60 * TOLERANCE, lot: "p" })).toBe(false);
    expect(broken(s, { a: 30, b: 10, lot: "p" })).toEqual(["2 × a + 1 × b ≤ 60"]);
  });
  it("leaves one interval of an axis: to 25 where b is 10, nothing where b alone is too much", () => {
    expect(limit.intervals(a(s), { a: 0, b: 10, lot: "p" }, [[-1, 1]])).toEqual([[-1, code(a(s), 25)]]);
    expect(limit.intervals(a(s), { a: 0, b: 60, lot: "p" }, [[-1, 1]])).toEqual([]);
  });
  it("is straight in coded units: 20 a coded unit of a and, on the log scale, b·ln 100 / 2 of b", () => {
    const straight = limit.linearised(both(s), { a: 20, b: 10, lot: "p" });
    expect(straight?.of[0]).toBeCloseTo(-20, 9);
    expect(straight?.of[1]).toBeCloseTo((-10 * Math.log(100)) / 2, 4);
    expect(straight?.bound).toBe(-10);
  });
});

describe("a forbidden combination", () => {
  const s = study({ forbidden: [{ lot: ["q"], a: { from: 15, to: 20 } }] });
  const [never] = constraintsOf(s);
  it("holds its ends, with a tolerance of a share of the range, and only where all its parts meet", () => {
    const at = (v: number, lot = "q"): boolean => never.keeps({ a: v, b: 1, lot });
    expect([at(14.9), at(15), at(17), at(20), at(20.1)]).toEqual([true, false, false, false, true]);
    expect([at(15 - 0.5 * 20 * TOLERANCE), at(15 - 1.5 * 20 * TOLERANCE)]).toEqual([false, true]);
    expect(at(17, "p")).toBe(true);
  });
  it("cuts an axis in two, or not at all with another level", () => {
    const open = never.intervals(a(s), { a: 0, b: 1, lot: "q" }, [[-1, 1]]);
    expect(open).toHaveLength(2);
    expect(decode(a(s), open[0][1])).toBeCloseTo(15, 6);
    expect(decode(a(s), open[1][0])).toBeCloseTo(20, 6);
    expect(never.intervals(a(s), { a: 0, b: 1, lot: "p" }, [[-1, 1]])).toEqual([[-1, 1]]);
  });
  it("keeps a step on the side the point stands on, and asks nothing with another level", () => {
    expect(never.linearised(both(s), { a: 14, b: 1, lot: "q" })?.of).toEqual([-1, 0]);
    expect(never.linearised(both(s), { a: 24, b: 1, lot: "q" })?.of).toEqual([1, 0]);
    expect(never.linearised(both(s), { a: 14, b: 1, lot: "p" })).toBeNull();
  });
});

describe("all questions of a constraint mean the same", () => {
  const s = study({
    limits: [{ terms: { a: 1, b: 0.3 }, at: "least", bound: 18 }],
    forbidden: [
      { a: { from: 12, to: 16 }, b: { to: 40 } },
      { lot: ["p"], b: { from: 20, to: 30 } },
    ],
  });
  const region = regionOf(s);
  const setting = fc.record({
    a: fc.double({ min: 10, max: 30, noNaN: true }),
    b: fc.double({ min: 1, max: 100, noNaN: true }),
    lot: fc.constantFrom("p", "q"),
  });
  it("a point is allowed exactly where its coordinate lies in what every constraint leaves of its axis", () =>
    fc.assert(
      fc.property(setting, fc.constantFrom(0, 1), (at: Settings, j) => {
        const f = both(s)[j];
        const x = code(f, at[f.id] as number);
        const open = region.constraints.reduce<Interval[]>((left, c) => c.intervals(f, at, left), [[-1, 1]]);
        // At an edge either answer is right within the tolerance.
        const near = open.flat().some((end) => Math.abs(end - x) < 1e-7);
        if (!near) expect(open.some(([low, high]) => x >= low && x <= high)).toBe(region.allowed(at));
      }),
    ));
  it("a point that keeps a constraint stands within what it asks of a step", () =>
    fc.assert(
      fc.property(setting, (at: Settings) => {
        for (const c of region.constraints)
          if (c.keeps(at)) expect(c.linearised(both(s), at)?.bound ?? 0).toBeLessThanOrEqual(0);
      }),
    ));
  it("settings are allowed exactly where nothing is broken in words", () =>
    fc.assert(
      fc.property(setting, (at: Settings) => {
        expect(broken(s, at).length === 0).toBe(region.allowed(at));
      }),
    ));
});
