import { describe, expect, it } from "vitest";
import { plainStudy, withTrials } from "../testing/studies";
import { fitModel } from "./fit";
import { pureErrorOf, saturatedContrasts } from "./lenth";
import { handWorking } from "./working";

// A square run twice, worked out on paper: totals 42, 58, 50 and 84, variances 2, 2, 2 and 8.
const cells = [
  { a: -1, b: -1, y: [20, 22] },
  { a: 1, b: -1, y: [30, 28] },
  { a: -1, b: 1, y: [24, 26] },
  { a: 1, b: 1, y: [40, 44] },
];
const study = withTrials(
  plainStudy(2),
  cells.flatMap(({ a, b, y }) => y.map(() => ({ a, b }))),
  cells.flatMap((c) => c.y),
);
const fit = fitModel(study, "y", { terms: [["a"], ["b"], ["a", "b"]] });
const { contrasts } = saturatedContrasts(study, fit.data, fit.model.observed, pureErrorOf(fit));
const working = handWorking(fit, contrasts);

describe("effects worked out by hand", () => {
  it("pool the variance of every combination by its degrees of freedom", () => {
    expect(working.cells.map((c) => [c.total, c.variance])).toEqual([
      [42, 2],
      [58, 2],
      [50, 2],
      [84, 8],
    ]);
    expect(working.pooled).toEqual({ sumOfSquares: 14, df: 4, variance: 3.5 });
  });
  // p by scipy.stats.t.sf on 4 degrees of freedom.
  it.each([
    ["a", 142, 92, 12.5, 9.44911182523068, 0.0006995783117282602],
    ["b", 134, 100, 8.5, 6.425396041156863, 0.0030163829306506934],
    ["a*b", 126, 108, 4.5, 3.401680257083045, 0.02723513968824349],
  ])("%s: sums, divisor, effect, t and p", (name, plus, minus, effect, t, p) => {
    const e = working.effects.find((x) => x.term.join("*") === name);
    expect([e?.plus, e?.minus, e?.divisor, e?.effect]).toEqual([plus, minus, 4, effect]);
    expect(e?.standardError).toBeCloseTo(Math.sqrt(1.75), 12);
    expect(e?.t).toBeCloseTo(t, 10);
    expect(e?.p).toBeCloseTo(p, 10);
  });
  it("have no standard error where nothing was run twice", () => {
    const once = withTrials(
      plainStudy(2),
      cells.map(({ a, b }) => ({ a, b })),
      [1, 2, 3, 5],
    );
    const single = fitModel(once, "y", { terms: [["a"], ["b"]] });
    const set = saturatedContrasts(once, single.data, single.model.observed);
    const { pooled, effects } = handWorking(single, set.contrasts);
    expect([pooled, effects[0].standardError, effects[0].p]).toEqual([null, null, null]);
  });
  it("copies in two waves count, less what the waves stand off, as in the table of variation", () => {
    // The same square run once in each of two waves, the second 3 above: by hand differences 4, 2, 6 and 8 less 5 each.
    const waved = withTrials(
      plainStudy(2),
      [...cells, ...cells].map(({ a, b }) => ({ a, b })),
      [20, 30, 24, 40, 24, 32, 30, 48],
      { wave: (i) => (i < 4 ? "u" : "v") },
    );
    const both = fitModel(waved, "y", { terms: [["a"], ["b"]] });
    const set = saturatedContrasts(waved, both.data, both.model.observed);
    const { pooled, shifts, cells: found } = handWorking(both, set.contrasts);
    expect(found.map((c) => c.results)).toEqual([
      [20, 24],
      [30, 32],
      [24, 30],
      [40, 48],
    ]);
    expect(shifts).toEqual([{ wave: "v", shift: expect.closeTo(5, 10) }]);
    // (1 + 9 + 1 + 9)/2 over 3 degrees of freedom.
    expect(pooled?.df).toBe(3);
    expect(pooled?.sumOfSquares).toBeCloseTo(10, 10);
    const row = both.anova.find((r) => r.source === "pure-error");
    expect([row?.df, row?.ss]).toEqual([3, expect.closeTo(10, 10)]);
  });
});
