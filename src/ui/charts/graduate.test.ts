import { describe, expect, it } from "vitest";
import { graduate, labelled, type Sample } from "./graduate";

/** Samples of a function over 0 … 100, with an interval of ±1. */
const along = (f: (x: number) => number, n = 101): Sample[] =>
  Array.from({ length: n }, (_, i) => {
    const x = (100 * i) / (n - 1);
    return { x, mean: f(x), interval: [f(x) - 1, f(x) + 1], extrapolates: x > 80 };
  });
const free = { low: Number.NEGATIVE_INFINITY, high: Number.POSITIVE_INFINITY };

describe("rules graduated in a response", () => {
  it("mark a straight line where it passes each round value, once, at both ends too", () => {
    const { marks, step } = graduate(
      along((x) => x / 10),
      [0, 10],
      free,
    );
    expect(step).toBe(1);
    expect(marks).toHaveLength(51);
    expect(marks.filter((m) => m.major).map((m) => [Math.round(m.x), Math.round(m.value)])).toEqual(
      Array.from({ length: 11 }, (_, i) => [10 * i, i]),
    );
    // An interval of 2 where a unit takes 10 places reaches over 20.
    expect(marks[5].blur).toBeCloseTo(20, 9);
  });
  it("stand closer the steeper it is, and twice where it turns: y = (x − 50)² / 250", () => {
    const { marks } = graduate(
      along((x) => (x - 50) ** 2 / 250, 1001),
      [0, 10],
      free,
    );
    const at = marks.filter((m) => Math.abs(m.value - 4) < 1e-9).map((m) => m.x);
    expect(at).toHaveLength(2);
    // (x − 50)² = 1000.
    expect(at[0]).toBeCloseTo(50 - Math.sqrt(1000), 3);
    expect(at[1]).toBeCloseTo(50 + Math.sqrt(1000), 3);
  });
  it("tell the stretches within limits and beyond what was run", () => {
    const { within, beyond } = graduate(
      along((x) => (x - 50) ** 2 / 250, 1001),
      [0, 10],
      { low: 1, high: 4 },
    );
    expect(within.map((w) => w.map((x) => Math.round(10 * x) / 10))).toEqual([
      [18.4, 34.2],
      [65.8, 81.6],
    ]);
    expect(beyond).toHaveLength(1);
    expect(beyond[0][1]).toBe(100);
    expect(
      graduate(
        along((x) => x),
        [0, 100],
        free,
      ).within,
    ).toEqual([[0, 100]]);
  });
  it("have no marks where nothing changes, and say so", () => {
    const none = graduate(
      along(() => 3),
      [0, 10],
      { low: 4, high: 5 },
    );
    expect([none.flat, none.marks.length, none.within]).toEqual([true, 0, []]);
  });
  it("labels keep their distance, those at the probe first", () => {
    const { marks } = graduate(
      along((x) => x / 10),
      [0, 10],
      free,
    );
    const at = labelled(marks, 25, 50).map((m) => Math.round(m.x));
    expect(at[0]).toBe(50);
    expect(at.sort((a, b) => a - b)).toEqual([20, 50, 80]);
  });
});
