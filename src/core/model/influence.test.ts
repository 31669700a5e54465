import { describe, expect, it } from "vitest";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { fitModel } from "./fit";
import { flagLines, flagsOf } from "./influence";

describe("flags of trials", () => {
  const settings = corners(3).flatMap((c) => [c, c]);
  const clean = settings.map((s, i) => 10 + 2 * (s.a as number) + (i % 2 ? 0.1 : -0.1));
  const flags = (y: number[]) => {
    const fit = fitModel(withTrials(plainStudy(3), settings, y), "y", { terms: [["a"], ["b"], ["c"]] });
    const lines = flagLines(fit.model);
    return { lines, flags: fit.trials.map((t) => flagsOf(t, lines)) };
  };
  it("stand past 3 for errors, 2p/n for leverage, 1 for pull, 2√(p/n) for fits: four columns, sixteen trials", () =>
    expect(flags(clean).lines).toEqual({ error: 3, leverage: 0.5, pull: 1, fit: 1 }));
  it("none in a clean factorial; a planted result is an error, and pulls its own fit", () => {
    expect(flags(clean).flags.flat()).toEqual([]);
    const planted = flags(clean.map((v, i) => (i === 5 ? v + 4 : v)));
    expect(planted.flags[5]).toContain("error");
    expect(planted.flags[5]).toContain("fit");
    expect(planted.flags.flatMap((f, i) => (f.includes("error") ? [i] : []))).toEqual([5]);
  });
  it("a lone trial far out has leverage whatever its result: h = 0.9 of ten trials on a line", () => {
    // Nine at −1 and one at 1: h of the last is 1, of the others 1/9.
    const settingsOf = Array.from({ length: 10 }, (_, i) => ({ a: i === 9 ? 1 : -1, b: i % 2 ? 1 : -1 }));
    const study = withTrials(plainStudy(2), settingsOf, [1, 2, 1, 2, 1, 2, 1, 2, 1.5, 6]);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    const lines = flagLines(fit.model);
    expect(lines.leverage).toBe(0.4);
    expect(fit.trials.map((t) => flagsOf(t, lines).includes("leverage"))).toEqual(
      Array.from({ length: 10 }, (_, i) => i === 9),
    );
  });
});
