import { describe, expect, it } from "vitest";
import { normalCdf, tUpper } from "../numerics/distributions";
import type { Model, Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { corners, plainStudy } from "../testing/studies";
import { type Chance, chanceOf, residualCorrelation } from "./chance";
import { setpointProblem } from "./goals";

// Two or more normal errors, each over a spread of its own that is drawn apart, fall above their medians together with
// the chance of the normals (Sheppard 1899): ¼ + asin ρ/2π for two, ⅛ + Σ asin ρ/4π for three. A limit at the predicted
// value makes that an exact case whatever the degrees of freedom.

const points = corners(3);
/** Signs of a contrast on the corners of the cube. */
const contrast = (...ids: string[]): number[] => points.map((p) => ids.reduce((t, id) => t * (p[id] as number), 1));
const combined = (...parts: [number, number[]][]): number[] =>
  points.map((_, i) => parts.reduce((t, [c, v]) => t + c * v[i], 0));

interface Measured {
  y: number[];
  terms: Term[];
  goal?: object;
  more?: Partial<Model>;
}
const studyWith = (responses: Measured[], factors: object = {}): Study =>
  parseStudy({
    ...plainStudy(3),
    factors: plainStudy(3).factors.map((f) => ({ ...f, ...factors })),
    responses: responses.map((r, k) => ({ id: `y${k}`, goal: r.goal ?? { aim: "watch" } })),
    waves: [{ id: "w" }],
    trials: points.map((settings, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings,
      results: Object.fromEntries(responses.map((r, k) => [`y${k}`, r.y[i]])),
    })),
    models: responses.map((r, k) => ({ response: `y${k}`, terms: r.terms, ...r.more })),
  });

const DRAWS = 200_000;
function chance(study: Study, at: Settings, seed = 1): Chance {
  const steps = chanceOf(setpointProblem(study), at, { draws: DRAWS, seed });
  let step = steps.next();
  while (!step.done) step = steps.next();
  return step.value;
}
/** Within four standard errors of the exact chance, of which there are no more than a draw's. */
function expectChance(found: Chance, exact: number): void {
  const error = Math.sqrt((exact * (1 - exact)) / DRAWS);
  expect(found.standardError as number).toBeLessThan(3 * error);
  expect(Math.abs((found.together as number) - exact)).toBeLessThan(4 * error);
}

/** Raise past the value predicted there: met half of the time. */
const above = (value: number) => ({ aim: "raise", low: value, high: value + 5 });
const below = (value: number) => ({ aim: "lower", high: value, low: value - 5 });
const [ab, ac, bc] = [contrast("a", "b"), contrast("a", "c"), contrast("b", "c")];
const one = points.map(() => 1);
const at = { a: 0.5, b: -0.25, c: 0.4 };

describe("two responses of one model", () => {
  it.each([-0.9, -0.5, 0, 0.3, 0.6, 0.95])("with errors that go together by %d", (rho) => {
    const errors = combined([0.3 * rho, ab], [0.3 * Math.sqrt(1 - rho ** 2), ac]);
    const study = studyWith([
      { y: combined([10, one], [2, contrast("a")], [0.4, ab]), terms: [["a"]], goal: above(10 + 2 * at.a) },
      { y: combined([5, one], [1, contrast("a")], [1, errors]), terms: [["a"]], goal: above(5 + at.a) },
    ]);
    const problem = setpointProblem(study);
    const r = residualCorrelation([...problem.predictors.values()]);
    expect(r.data[1]).toBeCloseTo(rho, 9);
    const found = chance(study, at);
    expectChance(found, 0.25 + Math.asin(rho) / (2 * Math.PI));
    // Each alone is a coin, and independent of each other they are two.
    expect(Math.abs((found.each?.y0 ?? 0) - 0.5)).toBeLessThan(0.005);
    expect(Math.abs((found.each?.y1 ?? 0) - 0.5)).toBeLessThan(0.005);
    expect(Math.abs((found.independent ?? 0) - 0.25)).toBeLessThan(0.005);
  });
  it("turned round, one above and one below: the quarters change places", () => {
    const rho = 0.8;
    const study = studyWith([
      { y: combined([10, one], [0.4, ab]), terms: [["a"]], goal: above(10) },
      { y: combined([5, one], [0.3 * rho, ab], [0.3 * 0.6, ac]), terms: [["a"]], goal: below(5) },
    ]);
    expectChance(chance(study, at), 0.25 - Math.asin(rho) / (2 * Math.PI));
  });
  it("fitted on the logarithm: limits are passed where their logarithms are", () => {
    const rho = 0.7;
    const study = studyWith([
      {
        y: combined([1, one], [0.2, contrast("a")], [0.1, ab]).map(Math.exp),
        terms: [["a"]],
        goal: above(Math.exp(1 + 0.2 * at.a)),
        more: { transform: "log" },
      },
      { y: combined([5, one], [0.3 * rho, ab], [0.3 * Math.sqrt(1 - rho ** 2), ac]), terms: [["a"]], goal: above(5) },
    ]);
    expectChance(chance(study, at), 0.25 + Math.asin(rho) / (2 * Math.PI));
  });
  it("fitted on the reciprocal, which turns above into below", () => {
    const rho = 0.7;
    const study = studyWith([
      {
        y: combined([2, one], [0.2, contrast("a")], [0.1, ab]).map((z) => 1 / z),
        terms: [["a"]],
        goal: above(1 / (2 + 0.2 * at.a)),
        more: { transform: "inverse" },
      },
      { y: combined([5, one], [0.3 * rho, ab], [0.3 * Math.sqrt(1 - rho ** 2), ac]), terms: [["a"]], goal: above(5) },
    ]);
    expectChance(chance(study, at), 0.25 - Math.asin(rho) / (2 * Math.PI));
  });
});

describe("responses of different models", () => {
  it("share what their columns share: ρ·(1 + x₁′C x₂)/√((1 + h₁)(1 + h₂))", () => {
    // y0 ~ a + b, y1 ~ b + c on eight orthogonal trials: they have the constant and b in common.
    const rho = 0.75;
    const study = studyWith([
      { y: combined([10, one], [1, contrast("b")], [0.4, ab]), terms: [["a"], ["b"]], goal: above(10 + at.b) },
      {
        y: combined([5, one], [2, contrast("c")], [0.3 * rho, ab], [0.3 * Math.sqrt(1 - rho ** 2), ac]),
        terms: [["b"], ["c"]],
        goal: above(5 + 2 * at.c),
      },
    ]);
    const h0 = (1 + at.a ** 2 + at.b ** 2) / 8;
    const h1 = (1 + at.b ** 2 + at.c ** 2) / 8;
    const common = (1 + at.b ** 2) / 8;
    const r = (rho * (1 + common)) / Math.sqrt((1 + h0) * (1 + h1));
    expectChance(chance(study, at), 0.25 + Math.asin(r) / (2 * Math.PI));
  });
  it("three at once", () => {
    const [r01, r02] = [0.6, 0.5];
    const c = 0.3;
    // e2 has 0.5 in common with e0 and, by its second part, r12 with e1.
    const second = Math.sqrt(1 - r01 ** 2);
    const [u, v] = [0.4, Math.sqrt(1 - r02 ** 2 - 0.4 ** 2)];
    const r12 = r01 * r02 + second * u;
    const study = studyWith([
      { y: combined([10, one], [c, ab]), terms: [["a"]], goal: above(10) },
      { y: combined([5, one], [c * r01, ab], [c * second, ac]), terms: [["a"]], goal: above(5) },
      { y: combined([7, one], [c * r02, ab], [c * u, ac], [c * v, bc]), terms: [["a"]], goal: above(7) },
    ]);
    const found = chance(study, at);
    expectChance(found, 1 / 8 + (Math.asin(r01) + Math.asin(r02) + Math.asin(r12)) / (4 * Math.PI));
    expect(Math.abs((found.independent ?? 0) - 1 / 8)).toBeLessThan(0.004);
  });
});

describe("an average of models", () => {
  // Weighed alike: half of the draws come from each, so that the chance is the mean of two tails of t.
  it("of one response is the mean of its models' chances", () => {
    const limit = 10.8;
    const y = combined([10, one], [1, contrast("a")], [0.5, contrast("b")], [0.3, ab]);
    const study = studyWith([
      {
        y,
        terms: [["a"], ["b"]],
        goal: above(limit),
        more: { rivals: [[["a"]], [["a"], ["b"]]], average: "equal" },
      },
    ]);
    // Residuals of y ~ a: 0.5b + 0.3ab, RSS 8·(0.25 + 0.09) on 6 df; of y ~ a + b: 8·0.09 on 5.
    const tail = (value: number, rss: number, df: number, h: number): number =>
      tUpper((limit - value) / Math.sqrt((rss / df) * (1 + h)), df);
    const small = tail(10 + at.a, 8 * 0.34, 6, (1 + at.a ** 2) / 8);
    const large = tail(10 + at.a + 0.5 * at.b, 8 * 0.09, 5, (1 + at.a ** 2 + at.b ** 2) / 8);
    expect(Math.abs(small - large)).toBeGreaterThan(0.05);
    expectChance(chance(study, at), (small + large) / 2);
  });
  it("by Akaike weights leans to the model that fits", () => {
    const y = combined([10, one], [1, contrast("a")], [0.1, contrast("b")], [0.3, ab]);
    const limit = 10.6;
    const study = studyWith([
      { y, terms: [["a"]], goal: above(limit), more: { rivals: [[["a"]], [["a"], ["b"]]], average: "akaike" } },
    ]);
    // AICc = n ln(RSS/n) + 2k + 2k(k + 1)/(n − k − 1), k counting the variance (Burnham & Anderson 2002).
    const aicc = (rss: number, k: number): number => 8 * Math.log(rss / 8) + 2 * k + (2 * k * (k + 1)) / (8 - k - 1);
    const [first, second] = [aicc(8 * 0.1, 3), aicc(8 * 0.09, 4)];
    const weight = 1 / (1 + Math.exp((first - second) / 2));
    const tail = (value: number, rss: number, df: number, h: number): number =>
      tUpper((limit - value) / Math.sqrt((rss / df) * (1 + h)), df);
    const small = tail(10 + at.a, 8 * 0.1, 6, (1 + at.a ** 2) / 8);
    const large = tail(10 + at.a + 0.1 * at.b, 8 * 0.09, 5, (1 + at.a ** 2 + at.b ** 2) / 8);
    expect(weight).toBeGreaterThan(0.6);
    expectChance(chance(study, at), weight * small + (1 - weight) * large);
  });
});

describe("what a chance rests on", () => {
  it("noise that is stated counts where no trial is left to tell it, as a normal", () => {
    // Two saturated responses have no residuals to go together by: their chances multiply.
    const all: Term[] = [["a"], ["b"], ["c"], ["a", "b"], ["a", "c"], ["b", "c"], ["a", "b", "c"]];
    const y = combined([10, one], [1, contrast("a")]);
    const base = studyWith([
      { y, terms: all, goal: above(10.2) },
      { y, terms: all, goal: above(9.9) },
    ]);
    const study: Study = {
      ...base,
      responses: base.responses.map((r, k) => ({ ...r, noise: k === 0 ? 0.4 : 0.8 })),
    };
    const x = [1, at.a, at.b, at.c, at.a * at.b, at.a * at.c, at.b * at.c, at.a * at.b * at.c];
    const h = x.reduce((t, v) => t + v * v, 0) / 8;
    const part = (limit: number, sigma: number): number => normalCdf((10 + at.a - limit) / (sigma * Math.sqrt(1 + h)));
    expectChance(chance(study, at), part(10.2, 0.4) * part(9.9, 0.8));
    const unknown = chance({ ...study, responses: base.responses }, at);
    expect(unknown).toEqual({ together: null, standardError: null, independent: null, each: null });
  });
  it("settings that wobble evenly: with hardly any noise, the share of the interval within limits", () => {
    // 10 + 2a with a within ± 0.2 of 0.5, noise a thousandth: above 11.1 from a = 0.55 on, 3/8 of the way.
    const study = studyWith(
      [{ y: combined([10, one], [2, contrast("a")], [1e-5, ab]), terms: [["a"]], goal: above(11.1) }],
      { tolerance: 0.2 },
    );
    expect(Math.abs((chance(study, at).together as number) - 3 / 8)).toBeLessThan(0.003);
  });
  it("is the same for the same seed, and told apart by another", () => {
    const study = studyWith([{ y: combined([10, one], [0.4, ab]), terms: [["a"]], goal: above(10.1) }]);
    expect(chance(study, at, 7)).toEqual(chance(study, at, 7));
    expect(chance(study, at, 7).together).not.toBe(chance(study, at, 8).together);
  });
});
