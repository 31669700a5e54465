import { describe, expect, it } from "vitest";
import { goldenSection } from "./golden-section";

describe("golden section", () => {
  it("finds a peak inside, and one at either end", () => {
    const how = { within: 1e-9, most: 100 };
    expect(goldenSection((t) => -((t - 0.3) ** 2), -1, 1, how)).toBeCloseTo(0.3, 7);
    expect(goldenSection((t) => t, -1, 1, how)).toBeCloseTo(1, 8);
    expect(goldenSection((t) => -t, -1, 1, how)).toBeCloseTo(-1, 8);
  });

  it("costs a value a step and two to begin with, and stops when short enough", () => {
    let values = 0;
    goldenSection((t) => ++values && -t * t, -1, 1, { within: 0, most: 10 });
    expect(values).toBe(12);
    values = 0;
    // 2 · 0.618ⁿ ≤ 0.1 from n = 7 on.
    goldenSection((t) => ++values && -t * t, -1, 1, { within: 0.1, most: 100 });
    expect(values).toBe(9);
  });
});
