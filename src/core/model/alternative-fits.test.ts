import { describe, expect, it } from "vitest";
import { parseStudy } from "../study/validate";
import { plainStudy, refusal, withTrials } from "../testing/studies";
import { alternativeFits, asCategories, fitAlternative } from "./alternative-fits";
import { fitModel } from "./fit";

/** Three settings of a, twice each, in two waves; b between them. */
const PLACES = [
  { a: -1, b: -1 },
  { a: 0, b: 1 },
  { a: 1, b: -1 },
  { a: -1, b: 1 },
  { a: 0, b: -1 },
  { a: 1, b: 1 },
];
const Y = [10, 21, 14, 12, 19, 16];
const study = () => {
  const one = withTrials(plainStudy(2), PLACES, Y);
  return parseStudy({
    ...one,
    waves: [{ id: "w1" }, { id: "w2" }],
    trials: one.trials.map((t, i) => ({ ...t, wave: i < 3 ? "w1" : "w2" })),
  });
};

describe("another way to fit the same results", () => {
  it("reads a factor as categories: means of its settings, sums of squares between them", () => {
    const about = study();
    const fit = fitModel(about, "y", { terms: [["a"], ["a", "a"]], block: false });
    const { fit: other, study: read } = fitAlternative(about, fit, { by: "categories", factor: "a" });
    // One-way by hand: means 11, 20, 15, grand mean 46/3; between 2 Σ (mean − grand)² = 244/3, within 2 + 2 + 2 = 6.
    const grand = 46 / 3;
    const between = 2 * [11, 20, 15].reduce((t, m) => t + (m - grand) ** 2, 0);
    const row = other.anova.find((r) => r.source === "term");
    expect([row?.df, other.summary.residualDf]).toEqual([2, 3]);
    expect(row?.ss).toBeCloseTo(between, 10);
    expect(other.anova.find((r) => r.source === "residual")?.ss).toBeCloseTo(6, 10);
    expect(other.terms).toEqual([["a"]]);
    expect(read.factors[0]).toMatchObject({ kind: "categorical", levels: ["-1", "0", "1"] });
    // A curve through three settings passes through their means: the same error.
    expect(fit.summary.s).toBeCloseTo(Math.sqrt(6 / 3), 10);
    expect(other.summary.s).toBeCloseTo(Math.sqrt(6 / 3), 10);
  });
  it("takes one wave alone, or leaves the waves out of the model", () => {
    const about = study();
    const fit = fitModel(about, "y", { terms: [["a"]] });
    const alone = fitAlternative(about, fit, { by: "wave", wave: "w1", how: "alone" }).fit;
    // Through (−1, 10), (0, 21), (1, 14): slope 2, mean 15.
    expect(alone.parameters.map((p) => p.coefficient)).toEqual([15, 2].map((v) => expect.closeTo(v, 10)));
    const whole = fitAlternative(about, fit, { by: "blocks", block: false }).fit;
    expect(whole.anova.some((r) => r.source === "wave")).toBe(false);
    expect(fit.anova.some((r) => r.source === "wave")).toBe(true);
  });
  it("on another scale, with other terms, or a rival's", () => {
    const about = parseStudy({
      ...study(),
      models: [{ response: "y", terms: [["a"]], rivals: [[["a"], ["b"]]] }],
    });
    const fit = fitModel(about, "y", { terms: [["a"]] });
    const log = fitAlternative(about, fit, { by: "scale", transform: "log" }).fit;
    expect(log.model.observed[0]).toBeCloseTo(Math.log(10), 12);
    expect(fitAlternative(about, fit, { by: "rival", place: 0 }).fit.terms).toEqual([["a"], ["b"]]);
    expect(fitAlternative(about, fit, { by: "terms", set: "quadratic" }).fit.terms).toContainEqual(["a", "a"]);
  });
  it("offers what can be told apart from the model, and nothing that is it again", () => {
    const about = study();
    const ways = alternativeFits(about, fitModel(about, "y", { terms: [["a"], ["b"]] }));
    expect(ways).not.toContainEqual({ by: "terms", set: "main" });
    expect(ways).toContainEqual({ by: "terms", set: "quadratic" });
    expect(ways).toContainEqual({ by: "categories", factor: "a" });
    // b ran at two settings: a line and two categories are the same. Results above one have no logit.
    expect(ways).not.toContainEqual({ by: "categories", factor: "b" });
    expect(ways).not.toContainEqual({ by: "scale", transform: "logit" });
    expect(ways.filter((w) => w.by === "wave")).toHaveLength(2);
  });
  it("a factor of one setting, or of too many, cannot be read as categories", () => {
    const still = withTrials(plainStudy(1), [{ a: 0 }, { a: 0 }], [1, 2]);
    expect(refusal(() => asCategories(still, "a"))).toContain("a ran at 1 setting; two to 12");
  });
});
