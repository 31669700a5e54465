import { describe, expect, it } from "vitest";
import { parseStudy } from "../study/validate";
import { plainStudy } from "../testing/studies";
import { climb, vertices } from "./vertices";

const around = (limit: object, more: object = {}) =>
  ({ ...plainStudy(3), region: { limits: [limit], forbidden: [] }, ...more }) as never;
const keys = (points: readonly Record<string, unknown>[] | undefined): string[] =>
  (points ?? []).map((p) => ["a", "b", "c"].map((id) => Math.round(1000 * (p[id] as number)) / 1000).join(" ")).sort();

describe("vertices of a region", () => {
  it("a box has its corners, with every level and listed value", () => {
    const study = parseStudy({
      ...plainStudy(2),
      factors: [
        { id: "a", kind: "continuous", low: -1, high: 1 },
        { id: "n", kind: "discrete", values: [1, 2, 5] },
        { id: "k", kind: "categorical", levels: ["p", "q", "r"] },
      ],
    });
    expect(vertices(study)?.length).toBe(2 * 3 * 3);
  });
  it("a cube cut by a + b + c ≤ 0.5 has ten: seven corners, and three where the cut meets an edge", () => {
    const cut = vertices(around({ terms: { a: 1, b: 1, c: 1 }, at: "most", bound: 0.5 }));
    // Sums of corners: 3 (cut off), 1 three times (cut off), −1 three times, −3; edges from 1 to −1 cross at 0.5.
    const expected = ["-1 -1 -1", "-1 -1 1", "-1 1 -1", "1 -1 -1"];
    for (const [x, y, z] of [
      [1, 1, -1.5],
      [0.5, 1, -1],
      [1, 0.5, -1],
      [0.5, -1, 1],
      [1, -1, 0.5],
      [-1, 0.5, 1],
      [-1, 1, 0.5],
    ])
      if (Math.abs(z) <= 1) expected.push([x, y, z].join(" "));
    expect(keys(cut)).toEqual(expected.sort());
  });
  it("two limits meet inside the box, and forbidden ranges have places beside them", () => {
    const study = parseStudy({
      ...plainStudy(2),
      region: {
        limits: [
          { terms: { a: 1, b: 1 }, at: "most", bound: 0.5 },
          { terms: { a: 1, b: -1 }, at: "most", bound: 0.25 },
        ],
        forbidden: [],
      },
    });
    const inner = vertices(study)?.find((p) => Math.abs((p.a as number) - 0.375) < 1e-9);
    expect(inner?.b).toBeCloseTo(0.125, 9);
    const split = parseStudy({ ...plainStudy(2), region: { limits: [], forbidden: [{ a: { from: -0.2, to: 0.3 } }] } });
    expect(
      [...new Set(vertices(split)?.map((p) => Math.round(100 * (p.a as number)) / 100))].sort((x, y) => x - y),
    ).toEqual([-1, -0.2, 0.3, 1]);
  });
  it("too many are not listed", () => expect(vertices(plainStudy(17))).toBeUndefined());
  it("climbing finds a peak on the face of a limit", () => {
    // a·b on a + b ≤ 1 is largest at (0.5, 0.5), 0.25; along a or b alone nothing rises from (0.9, 0.1).
    const study = parseStudy({
      ...plainStudy(2),
      factors: plainStudy(2).factors.map((f) => ({ ...f, low: 0, high: 1 })),
      region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 1 }], forbidden: [] },
    });
    expect(climb(study, (s) => (s.a as number) * (s.b as number), { a: 0.9, b: 0.1 })).toBeCloseTo(0.25, 6);
  });
});
