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
  // Runs of equal settings: a at −1, +1, −1, +1 is reset each time, a at −1, −1, +1, +1 is not.
  const heats = (a: number[]): Study => {
    const base = withTrials(
      plainStudy(2),
      a.map((v, i) => ({ a: v, b: i % 2 ? 1 : -1 })),
      [1, 2, 3, 4],
    );
    return { ...base, factors: base.factors.map((f) => (f.id === "a" ? { ...f, change: "hard" as const } : f)) };
  };
  fires(
    "mark-setups",
    "a stayed as set for up to 2 trials in a row: 4 trials in 2 set-ups, if nothing was reset between. Unless that is marked, what it does looks surer than it is. A trial's menu says where else a new set-up began.",
    () => trialsReadings(heats([-1, -1, 1, 1])),
    () => trialsReadings(heats([-1, 1, -1, 1])),
  );
  it("says where the next trial begins a set-up, and what to reset though it shows the same", () => {
    const base = heats([-1, -1, -1, -1]);
    const at = (setups: number[]): Study => ({
      ...base,
      trials: base.trials.map((t, i) => ({
        ...t,
        setup: setups[i],
        ...(i === 3 ? { state: "planned" as const } : {}),
      })),
    });
    expect(textOf(trialsReadings(at([1, 1, 1, 2])), "next-trial")).toBe(
      "Trial 4 begins set-up 2: change b from -1 to 1, and reset a even if it shows the same. 1 trial left.",
    );
    expect(textOf(trialsReadings(at([1, 1, 2, 2])), "next-trial")).toBe(
      "Trial 4: change b from -1 to 1. 1 trial left.",
    );
  });
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
  it("a trial within hard limits that are stated is not outside, as axial points are planned; past them it is", () => {
    const limits = {
      ...plainStudy(2),
      factors: plainStudy(2).factors.map((f) => ({ ...f, hardLow: -2, hardHigh: 2 })),
    };
    const ran = (a: number): Study => withTrials(limits as Study, [...corners(2), { a, b: 0 }], [1, 2, 3, 4, 5]);
    expect(textOf(trialsReadings(ran(-1.41)), "outside-region")).toBe("");
    expect(textOf(trialsReadings(ran(-2.1)), "outside-region")).toMatch(/^Trial 5 stands outside/);
  });
  fires(
    "missing-y",
    "y is missing in 1 of 4 trials that were run (2).",
    () => trialsReadings(run([1, null, 3, 4])),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  const said = (y: number[], more: object = {}): Study => {
    const study = run(y);
    return {
      ...study,
      ...more,
      trials: study.trials.map((t, i) => ({
        ...t,
        kind: i % 2 === 1 ? ("centre" as const) : t.kind,
        ...(i === y.length - 1 ? { state: "planned" as const, results: {} } : {}),
      })),
      responses: study.responses.map((r) => ({ ...r, noise: 0.02 })),
    };
  };
  // Two readings of σ 0.02 differ by 1.96 · √2 · 0.02 = 0.0554 once in twenty: 0.08 is more, 0.05 is not.
  fires(
    "centre-drift-y",
    "The last three centres of y climb by 0.04 each, more than chance explains: stop and look for what changes with time?",
    () => trialsReadings(said([1, 2, 3, 2.04, 1, 2.08, 1])),
    () => trialsReadings(said([1, 2, 3, 2.03, 1, 2.05, 1])),
  );
  it("centres that go up and down, or were all run, are no drift", () => {
    expect(textOf(trialsReadings(said([1, 2, 3, 2.09, 1, 2.08, 1])), "centre-drift-y")).toBe("");
    const all = said([1, 2, 3, 2.04, 1, 2.08, 1]);
    const done = { ...all, trials: all.trials.map((t) => ({ ...t, state: "done" as const })) };
    expect(textOf(trialsReadings(done), "centre-drift-y")).toBe("");
    expect(textOf(trialsReadings(said([1, 2, 3, 1.96, 1, 1.92, 1])), "centre-drift-y")).toMatch(/fall by 0.04 each/);
  });
  fires(
    "failed",
    "1 trial failed: trial 2 (“flame out”). Its menu lets it wait again.",
    () =>
      trialsReadings({
        ...run([1, 2, 3, 4]),
        trials: run([1, 2, 3, 4]).trials.map((t, i) => (i === 1 ? { ...t, state: "failed", why: "flame out" } : t)),
      }),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  fires(
    "exact",
    "y comes out the same to the last digit whenever a trial is run again: a computation, without noise. Repeats tell nothing more.",
    () => trialsReadings(run([1.03125, 2, 3, 4, 1.03125, 2])),
    () => trialsReadings(run([1.03125, 2, 3, 4, 1.03125, 2.00001])),
  );
  it("what is the same everywhere, or was never run again, is not called exact", () => {
    expect(textOf(trialsReadings(run([1, 1, 1, 1, 1, 1])), "exact")).toBe("");
    expect(textOf(trialsReadings(run([1, 2, 3, 4])), "exact")).toBe("");
  });
  const calm = [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, 0.9, 1.9, 3.1];
  fires(
    "surprise",
    "Trial 12: y is 5.033 above what the trials before it lead to expect, outside the interval for one trial (3.724 to 4.210).",
    () => trialsReadings(run([...calm, 9])),
    () => trialsReadings(run([...calm, 4.1])),
  );
  fires(
    "drift",
    "y drifts by 0.19 a trial while the trials run (p under 0.001). Look for what changed with time.",
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
