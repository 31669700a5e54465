import { describe, expect, it } from "vitest";
import { plainStudy, refusal } from "../../testing/studies";
import { makePlan } from "../make-plan";

/** Three factors that may be run well beyond their ranges. */
const study = plainStudy(3, {
  factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous", low: -1, high: 1, hardLow: -9, hardHigh: 9 })),
});
const plan = (blocks: number, replicates: number, centre: number) =>
  makePlan(study, { family: "composite", axial: "orthogonal-blocks", blocks, replicates, centre, snap: false });
const farthest = (p: ReturnType<typeof plan>): number =>
  Math.max(...p.trials.flatMap((t) => Object.values(t.coded).map((v) => Math.abs(v as number))));

describe("orthogonal blocks of a composite (definition 14)", () => {
  it.each([
    // α² = F r_c (2k r_a + n_a0) / (2 r_a (F r_c + n_c0)), by hand.
    ["two blocks, three centre points in each", 2, 1, 6, (8 * (6 + 3)) / (2 * (8 + 3))],
    ["two copies in blocks of their own, three in each", 4, 2, 12, (8 * (6 + 3)) / (2 * (8 + 3))],
    ["three copies in the same two blocks, six in each", 2, 3, 12, (24 * (18 + 6)) / (6 * (24 + 6))],
    ["corners in two blocks with two each, axial points with two", 3, 1, 6, (8 * (6 + 2)) / (2 * (8 + 4))],
    ["corners in two blocks with two each, axial points with one", 3, 1, 5, (8 * (6 + 1)) / (2 * (8 + 4))],
  ] as const)("%s", (_, blocks, replicates, centre, square) => {
    const made = plan(blocks, replicates, centre);
    expect(farthest(made)).toBeCloseTo(Math.sqrt(square), 10);
    const perTrial = made.waves.map((w) => {
      const trials = made.trials.filter((t) => t.wave === w.id);
      for (const [i, j] of [
        ["a", "b"],
        ["a", "c"],
        ["b", "c"],
      ]) {
        expect(trials.reduce((t, x) => t + (x.coded[i] as number), 0)).toBeCloseTo(0, 10);
        expect(trials.reduce((t, x) => t + (x.coded[i] as number) * (x.coded[j] as number), 0)).toBeCloseTo(0, 10);
      }
      return trials.reduce((t, x) => t + (x.coded.a as number) ** 2, 0) / trials.length;
    });
    for (const value of perTrial) expect(value).toBeCloseTo(perTrial[0], 10);
  });
  it("numbers of centre points that cannot do it are refused with those that can", () => {
    // Of seven, two blocks of corners would hold three and two.
    expect(refusal(() => plan(3, 1, 7))).toMatch(/no axial distance makes the blocks orthogonal; ask for 6 or 8\.$/);
    expect(refusal(() => plan(4, 2, 13))).toMatch(/ask for as many as divide by the number of blocks\.$/);
    // Another distance asks for no such thing.
    expect(makePlan(study, { family: "composite", axial: "face", blocks: 3, centre: 7 }).trials).toHaveLength(21);
  });
});
