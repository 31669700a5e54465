import { describe, expect, it } from "vitest";
import type { Study } from "../study/schema";
import { fires, textOf } from "../testing/fires";
import { plainStudy } from "../testing/studies";
import { questionReadings } from "./question";

// Figures in the sentences were worked out a second time by least squares in numpy and the formulas of each statistic,
// or stand beside the case; they share nothing with what is tested here.

describe("Question", () => {
  const two = (more: object = {}, response: object = {}): Study =>
    plainStudy(2, {
      responses: [{ id: "y", noise: 1, smallest: 2, goal: { aim: "raise", low: 0, high: 1 }, ...response }],
      ...more,
    });
  fires(
    "no-responses",
    "Name what is measured first: a response with its unit and what would be good.",
    () => questionReadings(plainStudy(2, { responses: [] })),
    () => questionReadings(two()),
  );
  fires(
    "few-factors",
    "One factor so far; a plan needs at least two.",
    () => questionReadings(plainStudy(1)),
    () => questionReadings(two()),
  );
  fires(
    "no-goals",
    "No response has a goal yet. Say which to raise, lower or keep within limits, so that a setpoint can be found.",
    () => questionReadings(two({}, { goal: { aim: "watch" } })),
    () => questionReadings(two()),
  );
  fires(
    "noise-unsaid",
    "State the noise to expect and the smallest change worth finding for y; without them plans are judged in units of σ.",
    () => questionReadings(two({}, { noise: undefined })),
    () => questionReadings(two()),
  );
  fires(
    "small-change",
    "y: the smallest change worth finding (0.99) is only 0.99 of the noise; about 32 trials would be needed to see it.",
    () => questionReadings(two({}, { smallest: 0.99 })),
    () => questionReadings(two({}, { smallest: 1 })),
  );
  const limit = (bound: number): Study => two({ region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound }] } });
  fires(
    "corners-excluded",
    "The region excludes 1 of the 4 corners. Two-level plans lose the trials that stand there.",
    () => questionReadings(limit(1.99)),
    () => questionReadings(limit(2)),
  );
  fires(
    "limits-idle",
    "The region's limits exclude no corner of the ranges, so plans are not affected.",
    () => questionReadings(limit(2)),
    () => questionReadings(limit(1.99)),
  );
  const stepped = (step?: number, change = "easy"): Study =>
    two({
      factors: ["a", "b"].map((id) => ({
        id,
        kind: "continuous" as const,
        low: 0,
        high: 1,
        change: change as "easy",
        ...(step ? { step } : {}),
      })),
    });
  fires(
    "no-step",
    "Say in what steps a and b can be set, so that no trial or setpoint asks for a value the machine does not have.",
    () => questionReadings(stepped()),
    () => questionReadings(stepped(0.1)),
  );
  fires(
    "hard-to-change",
    "a and b are hard to change: plans keep them set over several trials, and what they do is judged by how set-ups differ. Say what a set-up costs, and Plan weighs set-ups against trials.",
    () => questionReadings(stepped(0.1, "hard")),
    () => questionReadings(stepped(0.1)),
  );
  it("says how many trials a small change needs: effect ½σ at power 0.8 needs 4·(2.8/0.5)² = 126", () =>
    expect(textOf(questionReadings(two({}, { smallest: 0.5 })), "small-change")).toContain("about 126 trials"));
});
