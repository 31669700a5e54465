import { describe, expect, it } from "vitest";
import { nextWaves } from "../follow-up/next-waves";
import type { Study } from "../study/schema";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { allExact, isExact } from "./exact";
import { fitModel } from "./fit";
import { pureErrorOf, saturatedContrasts } from "./lenth";

/** A 2³ with three centres: a = 3, b = −2, ab = 1 in half effects; the centres as given. */
const value = (a: number, b: number, c: number): number =>
  10 + 3 * a - 2 * b + a * b + 0.2 * c + 0.1 * a * c - 0.15 * b * c + 0.25 * a * b * c;
const run = (centres: number[]): Study =>
  withTrials(
    plainStudy(3),
    [...corners(3), ...centres.map(() => ({ a: 0, b: 0, c: 0 }))],
    [...corners(3).map((x) => value(Number(x.a), Number(x.b), Number(x.c))), ...centres],
  );
const computed = run([10, 10, 10, 10]);
const measured = run([10, 10.2, 9.8, 10.1]);

describe("a computation without noise", () => {
  it("is known by results that come out the same whenever a trial is run again", () => {
    expect([isExact(computed, "y"), allExact(computed)]).toEqual([true, true]);
    expect(isExact(measured, "y")).toBe(false);
    // One that is left out tells nothing, and repeats of one trial tell as much as trials run again.
    const odd = { ...measured, trials: measured.trials.map((t, i) => (i > 8 ? { ...t, use: false } : t)) };
    expect(isExact(odd, "y")).toBe(false);
    const repeats = (second: number): Study => ({
      ...odd,
      trials: odd.trials.map((t, i) => (i === 0 ? { ...t, results: { y: [t.results.y as number, second] } } : t)),
    });
    expect(isExact(repeats(odd.trials[0].results.y as number), "y")).toBe(true);
    expect(isExact(repeats(0), "y")).toBe(false);
  });
  it("is not taken for one where rounded readings agree by chance", () => {
    const rounded = (centres: number[]): Study => ({
      ...run(centres),
      trials: run(centres).trials.map((t) => ({ ...t, results: { y: Math.round(10 * (t.results.y as number)) / 10 } })),
    });
    // Range 11 to a tenth: 2.04 digits each, so three that agree are six, four are eight.
    expect(isExact(rounded([10, 10, 10, 10]), "y")).toBe(false);
    expect(isExact(rounded([10, 10, 10, 10, 10]), "y")).toBe(true);
    expect(isExact(rounded([10, 10]), "y")).toBe(false);
  });
  it("judges contrasts by the small ones among them, not by a pure error of nothing", () => {
    const margins = (study: Study) => {
      const fit = fitModel(study, "y", { terms: [["a"], ["b"], ["a", "b"]] });
      return saturatedContrasts(study, fit.data, fit.model.observed, pureErrorOf(fit)).margins;
    };
    expect(margins(measured)?.from).toBe("pure-error");
    expect(margins(computed)).toMatchObject({ from: "lenth" });
    expect(margins(computed)?.margin).toBeGreaterThan(0);
  });
  it("has no lack of fit to hold against a scatter, and is not asked to be run again", () => {
    const fit = fitModel(computed, "y", { terms: [["a"], ["b"], ["a", "b"]] });
    expect(fit.lackOfFit).toMatchObject({ f: null, p: null });
    const kinds = (study: Study): string[] => nextWaves(study).map((o) => String(o.options.kind));
    expect(kinds(measured)).toEqual(expect.arrayContaining(["repeat", "centre"]));
    expect(kinds(computed)).not.toEqual(expect.arrayContaining(["repeat"]));
    expect(kinds(computed)).not.toEqual(expect.arrayContaining(["centre"]));
  });
});
