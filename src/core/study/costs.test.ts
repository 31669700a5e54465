import { describe, expect, it } from "vitest";
import { plainStudy, withTrials } from "../testing/studies";
import { costBy, pricesOf, spentOn } from "./costs";
import { parseStudy } from "./validate";

describe("what trials cost", () => {
  it("is counted in trials, a set-up beside, while nothing else is stated", () => {
    expect(pricesOf({ setupCost: 3 })).toEqual({ unit: undefined, trial: 1, setup: 3, piece: 0, wave: 0 });
    // A unit alone prices nothing.
    expect(pricesOf({ costs: { unit: "h" } }).unit).toBeUndefined();
    expect(costBy(pricesOf({ setupCost: 3 }), { trials: 8, setups: 2, pieces: 100, waves: 1 })).toBe(8 + 3 * 2);
  });
  it("is counted in the unit stated, a set-up at its own price or at so many trials", () => {
    const costs = { unit: "h", trial: 1.5, setup: 4, piece: 0.02, wave: 8 };
    expect(costBy(pricesOf({ costs }), { trials: 8, setups: 2, pieces: 100, waves: 1 })).toBeCloseTo(
      12 + 8 + 2 + 8,
      12,
    );
    expect(pricesOf({ costs: { trial: 2 }, setupCost: 3 })).toEqual({
      unit: "",
      trial: 2,
      setup: 6,
      piece: 0,
      wave: 0,
    });
  });
  it("spent on a wave: trials run and failed, their set-ups, a piece measured in two ways once", () => {
    const costs = { unit: "€", trial: 10, setup: 100, piece: 1, wave: 1000 };
    const base = plainStudy(2, {
      costs,
      responses: [
        { id: "y", several: "units" },
        { id: "z", several: "units" },
        { id: "w", several: "repeats" },
      ],
    });
    const study = withTrials(
      base,
      [
        { a: -1, b: -1 },
        { a: 1, b: -1 },
        { a: 1, b: 1 },
      ],
      [0, 0, 0],
    );
    const [first, second, third] = study.trials;
    const trials = [
      { ...first, setup: 1, results: { y: [1, 2, 3], z: [1, 2], w: [1, 2, 3, 4, 5] } },
      { ...second, setup: 1, state: "failed" as const, results: {} },
      { ...third, setup: 2, state: "planned" as const, results: {} },
    ];
    const { id } = study.waves[0];
    expect(spentOn(parseStudy({ ...study, trials }), id)).toBe(2 * 10 + 100 + 3 + 1000);
    expect(spentOn(parseStudy({ ...study, trials: [trials[2]] }), id)).toBe(0);
  });
});
