import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { finish } from "../questions/ask";
import { setpointProblem } from "../setpoint/goals";
import { searchSetpoint } from "../setpoint/search";
import type { Study } from "../study/schema";
import { saidBy } from "../testing/fires";
import { plainStudy, withTrials } from "../testing/studies";
import { modelReadings } from "./model";
import type { Reading } from "./reading";
import { setpointReadings } from "./setpoint";

/** Some of the corners of two factors in turn, with a constant and two mains fitted: n − 3 residual df. */
const study = (n: number): Study => {
  const settings = Array.from({ length: n }, (_, i) => ({ a: i & 1 ? 1 : -1, b: i & 2 ? 1 : -1 }));
  return {
    ...withTrials(
      plainStudy(2, { responses: [{ id: "y", name: "Shine", goal: { aim: "raise", low: 0, high: 9 } }] }),
      settings,
      settings.map((s, i) => 5 + 2 * s.a - s.b + ((7 * i) % 5) / 10),
    ),
    models: [{ response: "y", terms: [["a"], ["b"]], transform: "none", block: true, curvature: true }],
  };
};
const said = (readings: readonly Reading[]): string | undefined => saidBy(readings.find((r) => r.id === "few-df"));
const ofModel = (n: number): string | undefined => {
  const s = study(n);
  return said(modelReadings(s, fitModel(s, "y", { terms: [["a"], ["b"]] })));
};
const ofSetpoint = (n: number): string | undefined => {
  const problem = setpointProblem(study(n));
  return said(setpointReadings(problem, finish(searchSetpoint(problem, { draws: 200 }))));
};

describe("few residual degrees of freedom are said", () => {
  it("in Model, with their number", () => {
    expect(ofModel(4)).toBe(
      "Only 1 degree of freedom judges the noise of Shine: intervals and p hang on it. Take quiet terms out, or run more trials.",
    );
    expect(ofModel(5)).toContain("Only 2 degrees of freedom judge the noise of Shine: intervals and p hang on them.");
    expect(ofModel(6)).toBeUndefined();
  });
  it("in Setpoint, with the response", () => {
    expect(ofSetpoint(5)).toContain("The noise of Shine is judged by fewer than 3 degrees of freedom");
    expect(ofSetpoint(6)).toBeUndefined();
  });
});
