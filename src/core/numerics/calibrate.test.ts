import { describe, expect, it } from "vitest";
import { bothEnds, calibrate } from "./calibrate";

describe("ranking among draws (Westfall & Young 1993, counted by hand)", () => {
  // Two statistics on five vectors, the data's own first.
  const vectors = [
    [9, 3],
    [1, 7],
    [2, 6],
    [3, 1],
    [8, 2],
  ];
  it("p is the share of vectors as large, the data's own among them", () => {
    // 9 is the largest of five; 3 has 7 and 6 above it.
    expect(calibrate(vectors).map((c) => c.p)).toEqual([1 / 5, 3 / 5]);
  });
  it("adjusted p is the share of vectors whose smallest p is as small", () => {
    // Smallest p by vector: 1/5, 1/5 (7), 2/5 (6), 3/5 (3), 2/5 (8).
    expect(calibrate(vectors).map((c) => c.adjusted)).toEqual([2 / 5, 1]);
  });
  it("two statistics that ask one question have one p: the share of vectors whose smaller share is as small", () => {
    // Shares of the first: 1, 5, 4, 3, 2 of five; of the second: 3, 1, 2, 5, 4. The smaller: 1, 1, 2, 3, 2.
    const both = calibrate(vectors, ["one", "one"]);
    expect(both.map((c) => c.p)).toEqual([2 / 5, 2 / 5]);
    expect(both.map((c) => c.share)).toEqual([1 / 5, 3 / 5]);
    // A third that asks another question: 4 of five by itself, so that the least of both are 2, 1, 2, 3, 2 of five…
    const three = calibrate(
      [
        [9, 3, 1],
        [1, 7, 5],
        [2, 6, 0],
        [3, 1, 2],
        [8, 2, 3],
      ],
      ["one", "one", "two"],
    );
    // …the question's own p: 2/5, 2/5, 4/5, 5/5, 4/5; the third's 4/5, 1/5, 5/5, 3/5, 2/5.
    expect(three.map((c) => c.p)).toEqual([2 / 5, 2 / 5, 4 / 5]);
    expect(three.map((c) => c.adjusted)).toEqual([3 / 5, 3 / 5, 1]);
  });
  it("ties within 1e−9 count as larger", () => {
    expect(calibrate([[1], [1 - 5e-10], [1 - 5e-9], [0]])[0].p).toBe(2 / 4);
    // An infinite value is as large as any.
    expect(calibrate([[Number.POSITIVE_INFINITY], [1], [2], [3]])[0].p).toBe(1 / 4);
  });
  it("what is telling at both ends is turned into what is so at the top", () => {
    const turned = Array.from(bothEnds([5, 1, 2, 3, 4]));
    // 5 and 1 are the ends, 3 is the middle.
    expect(turned).toEqual([-1 / 5, -1 / 5, -2 / 5, -3 / 5, -2 / 5]);
  });
});
