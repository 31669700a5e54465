import { describe, expect, it } from "vitest";
import { lowerHull } from "./hull";

const at = (x: number, y: number) => ({ x, y });

describe("the lower hull of what was found", () => {
  it("joins places below which none lies, from the least y to the largest x", () => {
    const found = [at(70, 0.4), at(80, 0.5), at(90, 3.33), at(90, 0.569), at(94, 2), at(100, 4), at(60, 0.9)];
    // 80 → 0.5 lies above the line from 70 to 90 (0.4845); 94 → 2 above that from 90 to 100 (1.94).
    expect(lowerHull(found)).toEqual([at(70, 0.4), at(90, 0.569), at(100, 4)]);
  });
  it("improves as places are found, and never rises", () => {
    const before = [at(70, 1), at(100, 4)];
    const after = lowerHull([...before, at(90, 1.2)]);
    expect(after).toEqual([at(70, 1), at(90, 1.2), at(100, 4)]);
  });
  it("one place, none, and several at one x", () => {
    expect(lowerHull([])).toEqual([]);
    expect(lowerHull([at(1, 2)])).toEqual([at(1, 2)]);
    expect(lowerHull([at(1, 2), at(1, 1), at(1, 3)])).toEqual([at(1, 1)]);
  });
});
