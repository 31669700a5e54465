import { describe, expect, it } from "vitest";
import { importancePercents, importanceShares, moveSeam, withImportanceShare } from "./importance-shares";

const responses = [
  { id: "a", importance: 3 },
  { id: "b", importance: 2 },
  { id: "c", importance: 5 },
];
const shares = (after: Map<string, number>): number[] =>
  importanceShares(responses.map((r) => ({ ...r, importance: after.get(r.id) ?? r.importance })));

describe("shares of what counts", () => {
  it("are importances over their sum", () => expect(importanceShares(responses)).toEqual([0.3, 0.2, 0.5]));
  it("in whole per cent they add up to a hundred: 3, 2 and 2 of 7 are 42.9, 28.6 and 28.6", () => {
    const of = (...importance: number[]) => importance.map((v, i) => ({ id: `r${i}`, importance: v }));
    expect(importancePercents(of(3, 2, 2))).toEqual([43, 29, 28]);
    expect(importancePercents(of(3, 2, 2, 1))).toEqual([38, 25, 25, 12]);
    expect(importancePercents(of(1, 1, 1))).toEqual([34, 33, 33]);
    expect(importancePercents(of(5))).toEqual([100]);
  });
  it("typed for one, the others keep theirs among themselves", () => {
    const [a, b, c] = shares(withImportanceShare(responses, "b", 0.6));
    expect(b).toBeCloseTo(0.6, 4);
    expect(a / c).toBeCloseTo(3 / 5, 4);
  });
  it("typed near all, no importance leaves what may be kept", () => {
    const after = withImportanceShare(responses, "a", 0.999);
    expect(Math.max(...after.values())).toBeLessThanOrEqual(100);
    expect(shares(after)[0]).toBeCloseTo(0.999, 3);
  });
  it("a seam moved gives to one what it takes from the next, and none of the others", () => {
    const [a, b, c] = shares(moveSeam(responses, 0, 0.1));
    expect([a, b, c].map((v) => Number(v.toFixed(4)))).toEqual([0.4, 0.1, 0.5]);
    // Pushed past its end it leaves a hundredth of what the two have.
    expect(shares(moveSeam(responses, 0, 9))[1]).toBeCloseTo(0.005, 4);
  });
});
