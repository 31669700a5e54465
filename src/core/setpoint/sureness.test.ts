import { describe, expect, it } from "vitest";
import { tUpper } from "../numerics/distributions";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { setpointProblem } from "./goals";
import { surenessOf } from "./sureness";

/** A 2² run twice about 50 + b·a, desirability a straight line in the mean. */
function studyOf(b: number, noise: number): Study {
  const settings = [...corners(2), ...corners(2)];
  const errors = [1, -1, -1, 1, -1, 1, 1, -1];
  return parseStudy({
    ...withTrials(
      plainStudy(2, { responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 100 } }] }),
      settings,
      settings.map((s, i) => 50 + b * (s.a as number) + noise * errors[i]),
    ),
    models: [{ response: "y", terms: [["a"]] }],
  });
}

describe("how sure the best is", () => {
  const sure = (study: Study): number => {
    const problem = setpointProblem(study);
    const numeric = study.factors.filter((f) => f.kind === "continuous");
    return (
      surenessOf(problem, { a: 1, b: 0 }, { numeric: [numeric[0]], listed: [{}], fixed: { b: 0 }, rivals: [] }, 1)
        ?.share ?? Number.NaN
    );
  };
  it.each([
    [2, 6],
    [2, 20],
    [-1, 6],
    [10, 6],
  ])("of one straight effect of %d at noise %d: by t of its slope", (b, noise) => {
    // The chosen end misses 2·(−slope)/100 of the best, 0.05 at a slope of −2.5; the slope has error s/√8 on 6 df.
    const s = Math.sqrt((8 * noise ** 2) / 6);
    const exact = 1 - tUpper((b + 2.5) / (s / Math.sqrt(8)), 6);
    expect(Math.abs(sure(studyOf(b, noise)) - exact)).toBeLessThan(4 * Math.sqrt((exact * (1 - exact) + 1e-4) / 300));
  });
});
