import { describe, expect, it } from "vitest";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { answerOf } from "../words/answers";
import { runChecks } from "./checklist";
import { copiesOf } from "./copies";
import { fitModel } from "./fit";

/** A factorial run once in each of two waves, results in the same order. */
function twice(k: number, first: number[], second: number[]) {
  const study = withTrials(plainStudy(k), [...corners(k), ...corners(k)], [...first, ...second], {
    wave: (i) => (i < first.length ? "u" : "v"),
  });
  return { study, fit: fitModel(study, "y", { terms: [["a"]] }) };
}

describe("whether copies scatter alike", () => {
  it("compares copies over waves, less what the waves stand off", () => {
    // By hand: the second wave lies 4, 2, 6 and 8 above, 5 on average; what is left of each pair is half of its
    // difference from 5, and one degree of freedom of four went to the 5.
    const { study, fit } = twice(2, [20, 30, 24, 40], [24, 32, 30, 48]);
    const copies = copiesOf(study, fit);
    expect(copies?.squares.map((s) => s.toFixed(9))).toEqual([
      "0.500000000",
      "4.500000000",
      "0.500000000",
      "4.500000000",
    ]);
    expect(copies?.cells.map((c) => c.orders)).toEqual([
      [1, 5],
      [2, 6],
      [3, 7],
      [4, 8],
    ]);
    for (const c of copies?.cells ?? []) expect(c.df).toBeCloseTo(0.75, 12);
    expect(copies?.cells[1].s).toBeCloseTo(Math.sqrt(6), 12);
    expect(copies?.pooled).toBeCloseTo(Math.sqrt(10 / 3), 12);
  });
  it("judges pairs over two waves as the farthest of their differences (Grubbs 1969)", () => {
    // Eight differences of which one lies 2.126 standard deviations off their mean: two-sided 5 %.
    const seven = [-0.9, -0.6, -0.2, 0.1, 0.3, 0.6, 0.7];
    const off = (x: number): number => {
      const all = [...seven, x];
      const m = all.reduce((t, v) => t + v, 0) / 8;
      return (x - m) / Math.sqrt(all.reduce((t, v) => t + (v - m) ** 2, 0) / 7);
    };
    let [low, high] = [1, 20];
    for (let i = 0; i < 60; i++)
      [low, high] = off((low + high) / 2) < 2.126 ? [(low + high) / 2, high] : [low, (low + high) / 2];
    const first = [50, 61, 47, 58, 52, 66, 41, 55];
    const { study, fit } = twice(
      3,
      first,
      first.map((v, i) => v + 3 + [...seven, low][i]),
    );
    const check = runChecks(study, fit).find((c) => c.id === "copies");
    expect(check?.p).toBeGreaterThan(0.035);
    expect(check?.p).toBeLessThan(0.065);
    expect(check && answerOf(check)).toMatch(/trials 8 and 16/);
  });
  it("goes by the scale that was fitted", () => {
    // The same three multiples at 10 and at 1,000: alike on the log scale, a hundred times as wide as measured.
    const multiples = [0.9, 1, 1.1];
    const study = withTrials(
      plainStudy(1),
      [-1, -1, -1, 1, 1, 1].map((a) => ({ a })),
      [10, 1000].flatMap((at) => multiples.map((m) => at * m)),
    );
    const sizes = (transform: "log" | "none"): number[] => {
      const fit = fitModel(study, "y", { terms: [["a"]], transform });
      return (copiesOf(study, fit)?.cells ?? []).map((c) => c.s);
    };
    const [narrow, wide] = sizes("none");
    expect(wide / narrow).toBeCloseTo(100, 9);
    const [low, high] = sizes("log");
    expect(high / low).toBeCloseTo(1, 9);
  });
  it("says nothing where pairs always scatter alike, or not at all", () => {
    // Two pairs over two waves leave one degree of freedom between them; a wave of one trial leaves its pair none.
    const pairs = twice(1, [3, 5], [4, 9]);
    expect(copiesOf(pairs.study, pairs.fit)).toBeUndefined();
    const flat = twice(2, [20, 30, 24, 40], [25, 35, 29, 45]);
    expect(copiesOf(flat.study, flat.fit)).toBeUndefined();
  });
});
