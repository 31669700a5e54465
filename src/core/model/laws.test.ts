import { describe, expect, it } from "vitest";
import { normalCdf, tQuantile, tTwoSided } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import { chanceOf } from "../setpoint/chance";
import { setpointProblem } from "../setpoint/goals";
import type { Settings, Study, Term } from "../study/schema";
import { regress, solve } from "../testing/elimination";
import { knownVariances } from "../testing/laws/known-variances";
import { twoStrata } from "../testing/laws/two-strata";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { averageOf } from "./average";
import { type FitOptions, fitModel } from "./fit";
import { effectLadder } from "./ladder";
import { linearSurface } from "./linear-surface";
import { reduceModel } from "./reduce";

/** Ends a generator. */
function last<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

const row = (s: Settings, terms: readonly Term[]): number[] => [
  1,
  ...terms.map((t) => t.reduce((p, id) => p * (s[id] as number), 1)),
];

describe("a law with known unequal variances", () => {
  const settings = [...corners(3), ...corners(3)];
  const noise = [3, 1, -2, 0.5, -1, 2, -0.5, 1, -1, 0.5, 1, -2, 2, -1, 0.3, -0.7];
  const y = settings.map((s, i) => 20 + 4 * (s.a as number) - 3 * (s.b as number) + noise[i]);
  const study: Study = {
    ...withTrials(plainStudy(3), settings, y),
    responses: [{ ...plainStudy(3).responses[0], unit: "kg", goal: { aim: "within", low: 18, high: 26 } }],
  };
  const variance = (i: number): number => (i % 3 === 0 ? 4 : 1);
  const law = knownVariances(variance, 2);
  const terms: Term[] = [["a"], ["b"]];
  const options: FitOptions = { terms, law };
  // Rows and results over the known standard deviations, solved by elimination.
  const scaled = (over: readonly Term[]) =>
    regress(
      settings.map((s, i) => row(s, over).map((v) => v / Math.sqrt(variance(i)))),
      y.map((v, i) => v / Math.sqrt(variance(i))),
    );
  const fit = fitModel(study, "y", options);
  const z95 = 1.959963984540054;

  it("hands its estimates on: coefficients, standard errors, z in place of t", () => {
    const { b, inverse } = scaled(terms);
    expect(fit.law).toBe("known-variances");
    fit.parameters.forEach((p, j) => {
      const unit = b.map((_, i) => (i === j ? 1 : 0));
      const se = Math.sqrt(inverse(unit));
      expect(p.coefficient).toBeCloseTo(b[j], 10);
      expect(p.standardError).toBeCloseTo(se, 10);
      expect(p.df).toBeNull();
      expect(p.p).toBeCloseTo(2 * normalCdf(-Math.abs(b[j] / se)), 10);
      expect(p.interval?.[1]).toBeCloseTo(b[j] + z95 * se, 9);
    });
    expect(fit.summary).toMatchObject({ law: "known-variances", s: null });
    expect("rss" in fit.summary).toBe(false);
    expect(fit.anova.map((r) => r.source)).toEqual(["term", "term", "residual"]);
    expect(fit.lackOfFit).toBeUndefined();
  });
  it("predicts with intervals of the mean and of one trial", () => {
    const { b, inverse } = scaled(terms);
    const at = { a: 0.3, b: -0.8, c: 0 };
    const x = row(at, terms);
    const said = linearSurface(study, fit).predict(at);
    const value = x.reduce((t, v, j) => t + v * b[j], 0);
    expect(said.mean).toBeCloseTo(value, 10);
    expect(said.meanInterval?.[0]).toBeCloseTo(value - z95 * Math.sqrt(inverse(x)), 9);
    expect(said.trialInterval?.[1]).toBeCloseTo(value + z95 * Math.sqrt(inverse(x) + 2), 9);
    expect(said.extrapolates).toBe(false);
    expect(linearSurface(study, fit).predict({ a: 1, b: 1, c: 1 }).extrapolates).toBe(false);
  });
  it("has a chance that is the normal's", () => {
    const { b, inverse } = scaled(terms);
    const at = { a: 0.2, b: 0.1, c: 0 };
    const x = row(at, terms);
    const value = x.reduce((t, v, j) => t + v * b[j], 0);
    const sd = Math.sqrt(inverse(x) + 2);
    const exact = normalCdf((26 - value) / sd) - normalCdf((18 - value) / sd);
    const modelled: Study = {
      ...study,
      models: [{ response: "y", terms, transform: "none", block: true, curvature: true }],
    };
    const problem = setpointProblem(modelled, undefined, () => linearSurface(study, fit));
    const { together } = last(chanceOf(problem, at, { draws: 200_000, seed: 3 }));
    expect(Math.abs((together ?? 0) - exact)).toBeLessThan(4 * Math.sqrt((exact * (1 - exact)) / 200_000));
    expect(exact).toBeGreaterThan(0.5);
  });
  it("draws single trials from its predictive distribution", () => {
    const x = Float64Array.from(row({ a: 1, b: -1 }, terms));
    const said = fit.model.predictive(x);
    const random = seededRandom(5);
    const draws = Array.from({ length: 20_000 }, () => said.draw(random));
    const mean = draws.reduce((t, v) => t + v, 0) / draws.length;
    const sd = Math.sqrt((said.variance as number) + 2);
    expect(Math.abs(mean - said.value)).toBeLessThan((4 * sd) / Math.sqrt(20_000));
    const spread = draws.reduce((t, v) => t + (v - mean) ** 2, 0) / draws.length;
    expect(spread / sd ** 2).toBeGreaterThan(0.96);
    expect(spread / sd ** 2).toBeLessThan(1.04);
  });
  it("shows every term on the ladder, in the model and as it would stand in it", () => {
    const { rungs, rest } = effectLadder(study, fit);
    expect(rest).toBeNull();
    for (const term of [["a"], ["b"], ["c"], ["a", "b"], ["b", "c"]] as Term[]) {
      const inside = terms.some((t) => t.join() === term.join());
      const over = inside ? terms : [...terms, term];
      const at = 1 + over.findIndex((t) => t.join() === term.join());
      const { b, inverse } = scaled(over);
      const se = Math.sqrt(inverse(b.map((_, i) => (i === at ? 1 : 0))));
      const rung = rungs.find((r) => r.term.join() === term.join());
      expect(rung?.size).toBeCloseTo(2 * b[at], 9);
      expect(rung?.p).toBeCloseTo(2 * normalCdf(-Math.abs(b[at] / se)), 9);
      expect(rung?.interval?.[0]).toBeCloseTo(2 * (b[at] - z95 * se), 8);
      expect(rung?.share).toBeNull();
    }
  });
  it("is reduced by p and by AICc to the terms that were put in", () => {
    const pool: Term[] = [["a"], ["b"], ["c"], ["a", "b"], ["a", "c"], ["b", "c"]];
    const reduced = (by: "p" | "aicc") =>
      reduceModel(study, "y", pool, { direction: "backward", by, alpha: 0.01, hierarchy: "strong", law });
    expect(reduced("p").fit.terms).toEqual(terms);
    const { fit: kept, steps } = reduced("aicc");
    // Deviance plus its penalty, worked out here.
    const criterion = (over: readonly Term[]): number => {
      const { rss, b } = scaled(over);
      const k = b.length;
      return rss + 2 * k + (2 * k * (k + 1)) / (16 - k - 1);
    };
    expect(kept.summary.aicc).toBeCloseTo(criterion(kept.terms), 9);
    expect(steps[0].value).toBeCloseTo(criterion(steps[0].terms), 9);
    for (const t of kept.terms)
      if (!kept.terms.some((u) => u.length > 1 && u.includes(t[0])))
        expect(criterion(kept.terms.filter((u) => u !== t))).toBeGreaterThan(criterion(kept.terms));
  });
  it("stands in an average: mean by weights, variance with the spread between models", () => {
    const other = fitModel(study, "y", { terms: [["a"]], law });
    const mean = averageOf([fit.model, other.model], [0.75, 0.25], fit.model);
    const at = { a: 0.5, b: 0.5, c: 0 };
    const x = new Float64Array(mean.columns.length);
    mean.linear(at, x);
    const [one, two] = [scaled(terms), scaled([["a"]])];
    const v1 = row(at, terms).reduce((t, v, j) => t + v * one.b[j], 0);
    const v2 = row(at, [["a"]]).reduce((t, v, j) => t + v * two.b[j], 0);
    const value = 0.75 * v1 + 0.25 * v2;
    const variance =
      0.75 * (one.inverse(row(at, terms)) + (v1 - value) ** 2) +
      0.25 * (two.inverse(row(at, [["a"]])) + (v2 - value) ** 2);
    const said = mean.predictive(x);
    expect(said.value).toBeCloseTo(value, 10);
    expect(said.variance).toBeCloseTo(variance, 10);
    expect(said.interval(0.95, 1)?.[1]).toBeCloseTo(value + z95 * Math.sqrt(variance + 2), 9);
  });
});

describe("a law whose degrees of freedom differ from contrast to contrast, on another scale", () => {
  // Two copies of the eight corners, sorted into groups of four that share a.
  const settings = [...corners(3), ...corners(3)].sort((s, t) => (s.a as number) - (t.a as number));
  const groupNoise = [0.3, -0.2, 0.15, -0.25];
  const y = settings.map((s, i) =>
    Math.exp(
      1 + 0.5 * (s.a as number) - 0.4 * (s.b as number) + groupNoise[Math.floor(i / 4)] + 0.1 * Math.sin(7 * i + 1),
    ),
  );
  const study: Study = {
    ...withTrials(plainStudy(3), settings, y),
    responses: [{ ...plainStudy(3).responses[0], unit: "kg", goal: { aim: "raise", low: 2, high: 9 } }],
  };
  const terms: Term[] = [["a"], ["b"]];
  const law = twoStrata(4, 0.9);
  const fit = fitModel(study, "y", { terms, law });
  const z = y.map(Math.log);
  const { b, rss } = regress(
    settings.map((s) => row(s, terms)),
    z,
  );
  const e = settings.map((s, i) => z[i] - row(s, terms).reduce((t, v, j) => t + v * b[j], 0));
  const means = [0, 1, 2, 3].map((g) => e.slice(4 * g, 4 * g + 4).reduce((t, v) => t + v, 0) / 4);
  // Between: four groups less constant and a; within: sixteen less four groups less b.
  const msBetween = (4 * means.reduce((t, m) => t + m * m, 0)) / 2;
  const msWithin = (rss - 4 * means.reduce((t, m) => t + m * m, 0)) / 11;

  it("judges a by what varies between groups and b by what varies within, each on its own degrees of freedom", () => {
    const [, a, bb] = fit.parameters;
    expect([a.df, bb.df]).toEqual([expect.closeTo(2, 10), expect.closeTo(11, 10)]);
    expect(a.standardError).toBeCloseTo(Math.sqrt(msBetween / 16), 10);
    expect(bb.standardError).toBeCloseTo(Math.sqrt(msWithin / 16), 10);
    expect(a.p).toBeCloseTo(tTwoSided(b[1] / Math.sqrt(msBetween / 16), 2), 10);
    expect(bb.p).toBeCloseTo(tTwoSided(b[2] / Math.sqrt(msWithin / 16), 11), 10);
    expect(fit.anova.map((r) => r.dfDenominator && Math.round(r.dfDenominator))).toEqual([2, 11, undefined]);
  });
  it("predicts through its link, with Satterthwaite's degrees of freedom", () => {
    const at = { a: 0.5, b: 1, c: 0 };
    const value = b[0] + 0.5 * b[1] + b[2];
    const [u, v] = [(msBetween / 16) * (1 + 0.25), msWithin / 16];
    const df = (u + v) ** 2 / (u ** 2 / 2 + v ** 2 / 11);
    const half = tQuantile(0.975, df) * Math.sqrt(u + v);
    const said = linearSurface(study, fit).predict(at);
    expect(said.mean).toBeCloseTo(Math.exp(value), 10);
    expect(said.meanInterval?.[0]).toBeCloseTo(Math.exp(value - half), 9);
    expect(said.meanInterval?.[1]).toBeCloseTo(Math.exp(value + half), 9);
    const noise = msBetween / 4 + (msWithin * 3) / 4;
    expect(said.trialInterval?.[1]).toBeCloseTo(Math.exp(value + tQuantile(0.975, 2) * Math.sqrt(u + v + noise)), 8);
    expect(fit.model.unit).toBeUndefined();
  });
  it("has its chance on the response's own scale, by t on the degrees of freedom of a new trial", () => {
    const at = { a: 1, b: -1, c: 0 };
    const value = b[0] + b[1] - b[2];
    const sd = Math.sqrt((msBetween / 16) * 2 + msWithin / 16 + msBetween / 4 + (msWithin * 3) / 4);
    const limit = Math.exp(value - sd);
    const own: Study = {
      ...study,
      models: [{ response: "y", terms, transform: "none", block: true, curvature: true }],
      responses: [{ ...study.responses[0], goal: { aim: "raise", low: limit, high: 3 * limit } }],
    };
    const problem = setpointProblem(own, undefined, () => linearSurface(own, fit));
    const { together } = last(chanceOf(problem, at, { draws: 200_000, seed: 9 }));
    // P(t₂ > −1) = 1 − ½·P(|t₂| > 1), in closed form ½ + 1/(2√3).
    const exact = 0.5 + 1 / (2 * Math.sqrt(3));
    expect(Math.abs((together ?? 0) - exact)).toBeLessThan(4 * Math.sqrt((exact * (1 - exact)) / 200_000));
  });
  it("scales F of several columns", () => {
    const small = fitModel(study, "y", { terms: [["a"]], law });
    const large = fitModel(study, "y", { terms: [["a"], ["b"], ["c"]], law });
    const c = large.model.covariance;
    const at = [2, 3];
    const block = at.map((i) => at.map((j) => c?.data[i * 4 + j] ?? 0));
    const own = at.map((i) => large.model.coefficients[i]);
    const quadratic = solve(block, own).reduce((t, v, i) => t + v * own[i], 0);
    const test = large.model.compare(small.model);
    expect(test).toMatchObject({ df: 2, scale: 0.9 });
    expect(test.f).toBeCloseTo((0.9 * quadratic) / 2, 9);
  });
  it("stands on the ladder and is reduced by its own tests", () => {
    const rung = effectLadder(study, fit).rungs.find((r) => r.key === "a");
    expect(rung?.size).toBeCloseTo(2 * b[1], 10);
    expect(rung?.interval?.[1]).toBeCloseTo(2 * (b[1] + tQuantile(0.975, 2) * Math.sqrt(msBetween / 16)), 9);
    // On two degrees of freedom a is not clear of noise, though ordinary least squares would say so; b is.
    const { fit: kept, steps } = reduceModel(study, "y", terms, {
      direction: "backward",
      by: "p",
      alpha: 0.05,
      hierarchy: "strong",
      law,
    });
    expect(kept.terms).toEqual([["b"]]);
    expect(steps[0].value).toBeCloseTo(tTwoSided(b[1] / Math.sqrt(msBetween / 16), 2), 9);
    const ordinary = fitModel(study, "y", { terms, transform: "log" });
    expect(ordinary.parameters[1].p).toBeLessThan(0.05);
  });
});
