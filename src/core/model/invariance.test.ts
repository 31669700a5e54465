import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { finish } from "../questions/ask";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { digits, plainStudy, squares } from "../testing/studies";
import { fitModel } from "./fit";
import { searchSubsets } from "./subsets";

/** Properties that hold for any data: a fit says the same whatever the order, the names and the units. */

const terms: Term[] = [["a"], ["b"], ["c"], ["a", "b"], ["a", "a"]];
const results = fc
  .array(fc.integer({ min: -900, max: 900 }), { minLength: 14, maxLength: 14 })
  .filter((y) => new Set(y).size > 3);

/** Fourteen trials of three factors on fixed, uneven places. */
const places: Settings[] = Array.from({ length: 14 }, (_, i) => ({
  a: [-1, 1, 0, -0.5, 0.75][i % 5],
  b: [-1, 1, 0.25, -0.75][i % 4],
  c: [1, -1, 0.5][i % 3],
}));
const studyOf = (y: readonly number[], settings: readonly Settings[] = places, more: Partial<Study> = {}): Study =>
  parseStudy({
    ...plainStudy(3),
    ...more,
    waves: [{ id: "w" }],
    trials: settings.map((s, i) => ({ id: `t${i}`, wave: "w", state: "done", settings: s, results: { y: y[i] / 8 } })),
  });
const close = (a: number | null, b: number | null, least = 9): void => {
  if (a === null || b === null) expect(a).toBe(b);
  else if (Math.abs(b) > 1e-9) expect(digits(a, b)).toBeGreaterThan(least);
  else expect(Math.abs(a - b)).toBeLessThan(1e-9);
};

describe("inference does not depend on", () => {
  it("the order of trials", () => {
    fc.assert(
      fc.property(results, fc.shuffledSubarray([...Array(14).keys()], { minLength: 14 }), (y, order) => {
        const first = fitModel(studyOf(y), "y", { terms });
        const other = fitModel(
          studyOf(
            order.map((i) => y[i]),
            order.map((i) => places[i]),
          ),
          "y",
          { terms },
        );
        first.parameters.forEach((p, j) => {
          close(other.parameters[j].coefficient, p.coefficient);
          close(other.parameters[j].p, p.p, 7);
        });
        close(squares(other.summary).press, squares(first.summary).press);
      }),
      { numRuns: 40 },
    );
  });
  it("the units of factors: coefficients are of coded units, whatever low and high are called", () => {
    fc.assert(
      fc.property(results, fc.integer({ min: -500, max: 500 }), fc.integer({ min: 1, max: 400 }), (y, shift, scale) => {
        const natural = (x: number): number => shift + scale * x;
        const moved = studyOf(
          y,
          places.map((s) => ({ ...s, a: natural(s.a as number) })),
          {
            factors: parseStudy({
              ...plainStudy(3),
              factors: [
                { id: "a", kind: "continuous", low: natural(-1), high: natural(1) },
                { id: "b", kind: "continuous", low: -1, high: 1 },
                { id: "c", kind: "continuous", low: -1, high: 1 },
              ],
            }).factors,
          },
        );
        const first = fitModel(studyOf(y), "y", { terms });
        const other = fitModel(moved, "y", { terms });
        first.parameters.forEach((p, j) => {
          close(other.parameters[j].coefficient, p.coefficient, 8);
          close(other.parameters[j].p, p.p, 6);
        });
      }),
      { numRuns: 40 },
    );
  });
  it("the unit of the response: effects scale with it, t and p stay", () => {
    fc.assert(
      fc.property(results, fc.integer({ min: 2, max: 5000 }), (y, scale) => {
        const first = fitModel(studyOf(y), "y", { terms });
        const other = fitModel(studyOf(y.map((v) => v * scale)), "y", { terms });
        first.parameters.forEach((p, j) => {
          close(other.parameters[j].coefficient, p.coefficient * scale);
          close(other.parameters[j].t, p.t, 7);
        });
        close(other.summary.r2Predicted, first.summary.r2Predicted, 7);
      }),
      { numRuns: 40 },
    );
  });
});

describe("sums of squares and predictions", () => {
  it("a term's partial sum of squares is the rise of RSS when it leaves", () => {
    fc.assert(
      fc.property(results, (y) => {
        const study = studyOf(y);
        const whole = fitModel(study, "y", { terms });
        for (const term of terms) {
          const without = fitModel(study, "y", { terms: terms.filter((t) => t !== term) });
          const row = whole.anova.find((r) => r.term?.join() === term.join());
          close(row?.ss ?? null, squares(without.summary).rss - squares(whole.summary).rss, 6);
        }
      }),
      { numRuns: 25 },
    );
  });
  it("PRESS is what leaving each trial out and predicting it gives", () => {
    fc.assert(
      fc.property(results, (y) => {
        const study = studyOf(y);
        const whole = fitModel(study, "y", { terms: terms.slice(0, 4) });
        let press = 0;
        study.trials.forEach((left, i) => {
          const rest = { ...study, trials: study.trials.map((t) => (t === left ? { ...t, use: false } : t)) };
          const fit = fitModel(rest, "y", { terms: terms.slice(0, 4) });
          const s = places[i] as Record<string, number>;
          const said = fit.parameters.reduce((t, p) => t + p.coefficient * p.term.reduce((x, id) => x * s[id], 1), 0);
          press += (y[i] / 8 - said) ** 2;
        });
        close(squares(whole.summary).press, press, 7);
      }),
      { numRuns: 15 },
    );
  });
  it("averaged coefficients are the weighted sum over the models that all subsets list", () => {
    fc.assert(
      fc.property(results, (y) => {
        const study = studyOf(y);
        const found = finish(searchSubsets(study, "y", terms, { hierarchy: "off" }));
        for (const c of found.average.coefficients) {
          const sum = found.models.reduce((t, m) => {
            if (m.weight === 0) return t;
            const p = fitModel(study, "y", { terms: m.terms }).parameters.find((q) => q.term.join() === c.term.join());
            return t + m.weight * (p?.coefficient ?? 0);
          }, 0);
          close(c.coefficient, sum, 8);
        }
        close(
          found.models.reduce((t, m) => t + m.weight, 0),
          1,
        );
      }),
      { numRuns: 8 },
    );
  });
});
