import { describe, expect, it } from "vitest";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { fires, textOf } from "../testing/fires";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { trialsReadings } from "./trials";

// Figures in the sentences were worked out a second time by least squares in numpy and the formulas of each statistic,
// or stand beside the case; they share nothing with what is tested here.

describe("Trials", () => {
  const run = (y: (number | null)[], more: Parameters<typeof withTrials>[3] = {}): Study =>
    withTrials(
      plainStudy(2),
      Array.from({ length: y.length }, (_, i) => corners(2)[i % 4]),
      y,
      more,
    );
  fires(
    "no-trials",
    "There are no trials yet. Choose a plan and adopt it as wave 1.",
    () => trialsReadings(plainStudy(2)),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  const waiting = {
    ...run([1, 2, 3, 4]),
    trials: run([1, 2, 3, 4]).trials.map((t, i) => (i === 3 ? { ...t, state: "planned" as const } : t)),
  };
  fires(
    "next-trial",
    "Trial 4: change a from -1 to 1. 1 trial left.",
    () => trialsReadings(waiting),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  it("names only what changes from the trial before", () =>
    expect(textOf(trialsReadings(waiting), "next-trial")).toBe("Trial 4: change a from -1 to 1. 1 trial left."));
  fires(
    "as-run-differs",
    "Trial 1 ran at -0.9, not -1. Models use what was run.",
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -0.9 }] })),
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -1 }] })),
  );
  fires(
    "outside-region",
    "Trial 1 stands outside the region as it is now. It still counts.",
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -1.01 }] })),
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -0.99 }] })),
  );
  fires(
    "missing-y",
    "y is missing in 1 of 4 trials that were run (2).",
    () => trialsReadings(run([1, null, 3, 4])),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  const calm = [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, 0.9, 1.9, 3.1];
  fires(
    "surprise",
    "Trial 12: y is 5.033 above what the trials before it lead to expect, outside the interval for one trial (3.724 to 4.210).",
    () => trialsReadings(run([...calm, 9])),
    () => trialsReadings(run([...calm, 4.1])),
  );
  fires(
    "drift",
    "y drifts by 0.19 a trial while the trials run (p below 0.001). Look for what changed with time.",
    () => trialsReadings(run(calm.map((v, i) => v + 0.2 * i))),
    () => trialsReadings(run(calm)),
  );
  fires(
    "all-run",
    "All 11 trials are run. See what they tell.",
    () => trialsReadings(run(calm)),
    () => trialsReadings(waiting),
  );
});

describe("a path of steepest ascent", () => {
  const path = (values: number[]): Study =>
    parseStudy({
      ...plainStudy(1, { responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 99 } }] }),
      waves: [{ id: "w", plan: { family: "ascent", response: "y" } }],
      trials: [0, 1, 2, 3, 4].map((a, i) => ({
        id: `t${i + 1}`,
        wave: "w",
        kind: "path",
        state: values[i] === undefined ? "planned" : "done",
        settings: { a },
        results: { y: values[i] ?? null },
      })),
    });
  fires(
    "path-turned",
    "y has turned on its way: trial 2 was best, the two after it are worse. Stop here: skip the steps left, and plan the next wave around trial 2.",
    () => trialsReadings(path([5, 7, 6, 6.5])),
    () => trialsReadings(path([5, 6, 7, 6.5])),
  );
});
