import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import type { Study, Term, Transform } from "../study/schema";
import { saidBy } from "../testing/fires";
import { cat, cont, plainStudy, studyOf, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { modelReadings } from "./model";
import { questionReadings } from "./question";

/** Text of a reading of a model; undefined where it does not fire. */
const ofModel = (study: Study, terms: Term[], id: string, transform: Transform = "none"): string | undefined =>
  saidBy(modelReadings(study, fitModel(study, "y", { terms, transform })).find((r) => r.id === id));

describe("columns that cannot be estimated are told with level and factor (definition 27)", () => {
  it("a factor that is half another", () => {
    const settings = Array.from({ length: 8 }, (_, i) => ({ a: i & 1 ? 1 : -1, b: i & 1 ? 0.5 : -0.5 }));
    const study = withTrials(plainStudy(2), settings, [1, 2, 4, 3, 2, 5, 1, 3]);
    expect(ofModel(study, [["a"], ["b"]], "dropped")).toBe("b cannot be estimated beside the rest: b = 0.5 a.");
  });
  it("a column of a category, by its level", () => {
    // Slopes are seen at p and r alone, and at q a stands at 1 less what the others hold: a·k[q] = a − a·k[p] − …
    const levels = ["p", "q", "r"];
    const settings = Array.from({ length: 12 }, (_, i) => ({
      a: levels[i % 3] === "r" ? 0 : i < 6 ? 1 : -1,
      k: levels[i % 3],
    }));
    const study = studyOf([cont("a"), cat("k", ...levels)], {
      trials: settings.map((s, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: s,
        results: { y: (7 * i) % 5 },
      })),
      waves: [{ id: "w" }],
    });
    // At r, where a is 0, nothing is seen; at p and q the columns of a × k add up to a.
    expect(ofModel(study, [["a"], ["k"], ["a", "k"]], "dropped")).toBe(
      "a × k[q] cannot be estimated beside the rest: a × k[q] = a − a × k[p].",
    );
  });
});

describe("what would hold predictions within bounds", () => {
  /** y from 0.2 to 9 with a, bent, so that a fitted line passes its ends outside of ±1. */
  const bounded = (bounds: { min?: number; max?: number }, by = 1): Study =>
    withTrials(
      plainStudy(1, { responses: [{ id: "y", bounds }] }),
      [-1, -0.5, 0, 0.5, 1, -1, 1].map((a) => ({ a })),
      [0.2, 0.3, 1.5, 6.6, 9.0, 0.3, 8.9].map((y) => y * by),
    );
  const said = (bounds: { min?: number; max?: number }, by = 1, transform: Transform = "none") =>
    ofModel(bounded(bounds, by), [["a"]], "beyond-bounds", transform);
  it.each([
    ["below zero: a log scale ends there", { min: 0 }, 1, "Another scale, such as log, would hold it."],
    ["a share: scales that end at both", { min: 0, max: 1 }, 0.1, "such as logit or arcsine of root, would hold it."],
    ["above: none of them ends there", { max: 8 }, 1, "above 8). No scale offered here ends there"],
    ["below another end than zero", { min: 0.5 }, 1, "below 0.5). No scale offered here ends there"],
  ] as const)("%s", (_, bounds, by, text) => expect(said(bounds, by)).toContain(text));
  it("nothing is said within the bounds, nor is the scale in use offered again", () => {
    expect(said({ min: -20, max: 20 })).toBeUndefined();
    expect(said({ min: 0 }, 1, "log")).toBeUndefined();
    expect(said({ min: 0, max: 8 }, 1, "log")).toContain("No scale offered here");
  });
});

describe("limits that cut no corner", () => {
  const limited = (bound: number): string[] =>
    questionReadings(
      plainStudy(2, {
        factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: -1, high: 1, hardLow: -9, hardHigh: 9 })),
        region: { limits: [{ terms: { a: 1 }, at: "most", bound }], forbidden: [] },
      }),
    )
      .filter((r) => r.id.startsWith("limits"))
      .map((r) => messageText("readings", r));
  it("may cut axial points: a composite of two factors has one at a = √2", () => {
    // Eight base trials: four corners and four axial points, of which that at a = 1.41 lies past 1.2.
    expect(limited(1.2)).toEqual([
      "The region's limits exclude no corner of the ranges, but trials beside them: a central composite plan loses 1 of its 8 trials.",
    ]);
    expect(limited(1.5)).toEqual(["The region's limits exclude no corner of the ranges, so plans are not affected."]);
  });
});
