import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import type { Settings } from "../study/schema";
import { parseStudy } from "../study/validate";
import { steepestAscent } from "../surface/ascent";
import { saidBy } from "../testing/fires";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { climbReading } from "./climb";

// y = 10 + slope·a on a square run twice, errors ±noise that add up to nothing at each corner; s² = 8 noise²/5 and the
// first step of half a half-range gains slope/2.
const middle = { a: 0, b: 0 };
const read = (slope: number, noise: number, centres: number[] = [], more: object = {}) => {
  const points: Settings[] = [...corners(2), ...corners(2), ...centres.map(() => middle)];
  const y = points.map((s, i) => (i < 8 ? 10 + slope * (s.a as number) + (i < 4 ? noise : -noise) : centres[i - 8]));
  const study = parseStudy({
    ...withTrials(
      plainStudy(2, { responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 50 } }], ...more }),
      points,
      y,
    ),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  });
  const read = linearSurface(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
  return saidBy(climbReading(study, read, steepestAscent(study, read, middle)));
};
const wide = {
  factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: -1, high: 1, hardLow: -4, hardHigh: 4 })),
};

describe("why to climb, or not", () => {
  it("worth it: the gain of a step stands clear of the noise, and the path leaves what was run", () =>
    // s = √(8·0.04/5) = 0.253; 2/0.253 = 7.9.
    expect(read(4, 0.2, [], wide)).toBe(
      "Worth climbing: A step takes y 2.00 higher, 7.9 times the noise of one trial (s 0.25), and it leaves what was run at step 3. Run along the path until it stops rising.",
    ));
  it("asks for hard limits where the path would leave ranges that nobody said how to leave", () =>
    expect(read(4, 0.2)).toBe(
      "Worth climbing: A step takes y 2.00 higher, 7.9 times the noise of one trial (s 0.25), and it leaves what was run at step 3. Say on Question how far a can be set, as hard limits; then run along the path until it stops rising.",
    ));
  it("hardly: the gain of a step drowns in noise", () =>
    expect(read(0.4, 1, [], wide)).toMatch(
      /^Hardly worth climbing: A step takes y 0\.2 higher, 0\.16 times the noise/,
    ));
  it("not yet: the centre lies off the plane", () =>
    expect(read(4, 0.2, [13, 13.2, 12.8], wide)).toMatch(/^Do not climb yet: the centre of y lies off the plane/));
  it("no need: hard limits end the path within what was run", () =>
    expect(read(4, 0.2, [], { factors: wide.factors.map((f) => ({ ...f, hardLow: -1, hardHigh: 1 })) })).toMatch(
      /^No need to climb: .* all of it lies within what was run/,
    ));
});
