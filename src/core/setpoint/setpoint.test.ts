import { describe, expect, it } from "vitest";
import { normalCdf, tUpper } from "../numerics/distributions";
import { finish } from "../questions/ask";
import type { Goal, Settings, Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { exactStudy, plainStudy, refusal, withTrials } from "../testing/studies";
import { chanceOf } from "./chance";
import { desirability, overallDesirability, shortfall } from "./desirability";
import { setpointProblem } from "./goals";
import { searchSetpoint } from "./search";

describe("desirability (Derringer & Suich 1980)", () => {
  const raise: Goal = { aim: "raise", low: 58, high: 66, weight: 2 };
  const lower: Goal = { aim: "lower", low: 14, high: 24 };
  const hit: Goal = { aim: "hit", low: 0, target: 2, high: 6, lowWeight: 1, highWeight: 0.5 };
  it.each([
    [raise, 58, 0],
    [raise, 62, 0.25],
    [raise, 70, 1],
    [lower, 14, 1],
    [lower, 19, 0.5],
    [lower, 24, 0],
    [hit, 1, 0.5],
    [hit, 2, 1],
    [hit, 5, 0.5],
    [hit, 6, 0],
    [{ aim: "within", low: 1, high: 2 } as Goal, 1, 1],
    [{ aim: "within", low: 1, high: 2 } as Goal, 2, 1],
    [{ aim: "within", low: 1, high: 2 } as Goal, 2.0001, 0],
    [{ aim: "within", low: 1, target: 1, high: 2 } as Goal, 1, 1],
    [{ aim: "watch" } as Goal, 5, null],
  ])("%o at %f is %s", (goal, y, d) => expect(desirability(goal, y)).toBe(d));
  it("overall is the weighted geometric mean, 0 if any is", () => {
    const study = plainStudy(0, {
      responses: [
        { id: "y", importance: 3, goal: { aim: "raise", low: 0, high: 1 } },
        { id: "z", importance: 1, goal: { aim: "raise", low: 0, high: 1 } },
        { id: "w" },
      ],
    });
    expect(
      overallDesirability(
        study.responses,
        new Map([
          ["y", 0.5],
          ["z", 0.25],
        ]),
      ),
    ).toBeCloseTo((0.125 * 0.25) ** 0.25, 14);
    expect(
      overallDesirability(
        study.responses,
        new Map([
          ["y", 0],
          ["z", 1],
        ]),
      ),
    ).toBe(0);
  });
  it("shortfall is distance past the limit in goal widths", () =>
    expect([shortfall(raise, 54), shortfall(lower, 29), shortfall(hit, 9)]).toEqual([0.5, 0.5, 0.5]));
});

/** A quadratic bowl measured without noise but for ±0.01 at repeated centre points, so that models are nearly exact. */
function bowl(goal: Goal, more: object = {}): Study {
  const levels = [-1, 0, 1];
  const points: Settings[] = [
    ...levels.flatMap((b) => levels.map((a) => ({ a: 5 + 5 * a, b: 20 + 10 * b }))),
    { a: 5, b: 20 },
    { a: 5, b: 20 },
  ];
  const at = (s: Settings): number => 10 - ((s.a as number) - 6) ** 2 / 5 - ((s.b as number) - 23) ** 2 / 40;
  const base = plainStudy(0, {
    factors: [
      { id: "a", kind: "continuous", low: 0, high: 10, step: 0.5 },
      { id: "b", kind: "continuous", low: 10, high: 30, step: 2 },
    ],
    responses: [{ id: "y", goal, noise: 0.5 }],
    ...more,
  });
  const run = withTrials(
    base,
    points,
    points.map((s, i) => at(s) + (i === 9 ? 0.01 : i === 10 ? -0.01 : 0)),
  );
  return parseStudy({ ...run, models: [{ response: "y", terms: [["a"], ["b"], ["a", "a"], ["b", "b"]] }] });
}

describe("search", () => {
  it("finds the top of a known bowl, and the best settable point beside it", () => {
    const r = finish(searchSetpoint(setpointProblem(bowl({ aim: "raise", low: 0, high: 12 })), { draws: 200 }));
    expect(r.best.settings.a).toBeCloseTo(6, 3);
    expect(r.best.settings.b).toBeCloseTo(23, 2);
    expect(r.settable.settings.a).toBe(6);
    expect([22, 24]).toContain(r.settable.settings.b);
  });
  it("the same seed gives the same answer; twenty seeds agree to three decimals", () => {
    const problem = setpointProblem(bowl({ aim: "hit", low: 5, target: 8, high: 9 }));
    const overall = Array.from({ length: 20 }, (_, i) => finish(searchSetpoint(problem, { seed: i + 1, draws: 100 })));
    for (const r of overall) expect(r.best.overall).toBeCloseTo(1, 3);
    expect(finish(searchSetpoint(problem, { seed: 4, draws: 100 }))).toEqual(overall[3]);
  });
  it("keeps limits, forbidden combinations and held factors exactly", () => {
    const study = bowl(
      { aim: "raise", low: 0, high: 12 },
      { region: { limits: [{ terms: { a: 2, b: 1 }, at: "most", bound: 30 }] } },
    );
    const r = finish(searchSetpoint(setpointProblem(study), { draws: 100 }));
    for (const c of [r.best, ...r.candidates])
      expect(2 * (c.settings.a as number) + (c.settings.b as number)).toBeLessThanOrEqual(30 + 1e-6);
    // On the line b = 30 − 2a the bowl is highest where (a − 6)/2.5·… : d/da of (a−6)²/5 + (7 − 2a)²/40 is zero at a
    // = 4.75… worked: 2(a−6)/5 = 4(7−2a)/40·(1) ⇒ a = 31/6.
    expect(r.best.settings.a).toBeCloseTo(31 / 6, 2);
    const held = finish(searchSetpoint(setpointProblem(study), { draws: 100, hold: { a: 2 } }));
    expect(held.best.settings.a).toBe(2);
    expect(held.best.settings.b).toBeCloseTo(23, 2);
  });
  it("where no settings meet the goal the shortfall is least and it is said", () => {
    const r = finish(searchSetpoint(setpointProblem(bowl({ aim: "raise", low: 20, high: 30 })), { draws: 100 }));
    expect(r.best.overall).toBe(0);
    expect(r.best.settings.a).toBeCloseTo(6, 2);
    expect(r.readings[0].text).toContain("No settings meet every goal");
  });
  it("refuses without goals or models", () => {
    expect(() => setpointProblem(bowl({ aim: "watch" }))).toThrow("No response has a goal");
    expect(() => setpointProblem({ ...bowl({ aim: "raise", low: 0, high: 1 }), models: [] })).toThrow("no model");
  });
});

describe("chance of meeting limits", () => {
  // One response, limits on one side: the predictive distribution is t, so the chance is known exactly.
  it("agrees with the t distribution of one future trial", () => {
    const study = withTrials(
      plainStudy(1, { responses: [{ id: "y", goal: { aim: "raise", low: 4, high: 9 } }] }),
      [{ a: -1 }, { a: 1 }, { a: -1 }, { a: 1 }, { a: 0 }],
      [2, 5, 3, 7, 4],
    );
    const problem = setpointProblem({
      ...study,
      models: [{ response: "y", terms: [["a"]], transform: "none", block: true, curvature: true }],
    });
    const p = problem.predictors.get("y") as NonNullable<ReturnType<typeof problem.predictors.get>>;
    const at = { a: 0.5 };
    const { trial: s, residualDf } = p.error;
    const t = (p.value(at) - 4) / (s as number) / Math.sqrt(1 + p.predict(at).leverage);
    const chance = finish(chanceOf(problem, at, { draws: 200_000, seed: 3 }));
    expect(Math.abs((chance.together as number) - (1 - tUpper(t, residualDf)))).toBeLessThan(
      4 * (chance.standardError as number),
    );
  });
  it("with no error df the stated noise is normal", () => {
    const study = withTrials(
      plainStudy(1, { responses: [{ id: "y", noise: 1, goal: { aim: "lower", low: 0, high: 6 } }] }),
      [{ a: -1 }, { a: 1 }],
      [2, 5],
    );
    const problem = setpointProblem({
      ...study,
      models: [{ response: "y", terms: [["a"]], transform: "none", block: true, curvature: true }],
    });
    const chance = finish(chanceOf(problem, { a: 1 }, { draws: 200_000, seed: 1 }));
    expect(Math.abs((chance.together as number) - normalCdf(1 / Math.sqrt(2)))).toBeLessThan(
      4 * (chance.standardError as number),
    );
  });
});

describe("equals, and factors that no model speaks of (definition 18)", () => {
  const stepped = parseStudy({
    ...plainStudy(1),
    factors: [
      { id: "a", kind: "continuous", low: -1, high: 1, step: 0.1 },
      { id: "k", kind: "categorical", levels: ["p", "q"] },
    ],
    responses: [{ id: "y", goal: { aim: "within", low: 6, high: 14 } }],
    region: { limits: [], forbidden: [{ k: ["p"], a: { from: -0.25, to: 0.25 } }] },
    models: [{ response: "y", terms: [["a"]] }],
  });
  const points = [-1, -1, -0.5, -0.5, 0.5, 0.5, 1, 1].map((a, i) => ({ a, k: i % 2 ? "p" : "q" }));
  const study = withTrials(
    stepped,
    points,
    points.map((s, i) => 10 + 8 * s.a + [0.9, -0.8, 0.7, -1, -0.6, 1.1, -0.9, 0.6][i]),
  );
  const found = finish(searchSetpoint(setpointProblem(study), { draws: 4000 }));
  it("among points of one desirability the likeliest to keep its limits is the best", () => {
    // 6 … 14 is kept by everything from a = −0.5 to 0.5 alike; its middle is the safest, by symmetry of the limits.
    expect(found.settable.overall).toBe(1);
    expect(Math.abs(found.settable.settings.a as number)).toBeLessThanOrEqual(0.1);
  });
  it("an idle factor counts no point twice and leaves none out: it stands where the region allows", () => {
    // 21 steps of a; k is in no model. Within the forbidden range k can only be q.
    expect(found.lattice).toBe(21);
    expect(found.settable.settings.k).toBe("q");
    const apart = found.candidates.map((c) => c.settings.a as number);
    expect(new Set(apart).size).toBe(apart.length);
  });
});

describe("what is held", () => {
  it("must be a factor, one of its levels, and within what may be run", () => {
    const study = withTrials(
      plainStudy(2, { responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 9 } }] }),
      [
        { a: -1, b: -1 },
        { a: 1, b: -1 },
        { a: -1, b: 1 },
        { a: 1, b: 1 },
      ],
      [1, 3, 2, 5],
    );
    const problem = setpointProblem(parseStudy({ ...study, models: [{ response: "y", terms: [["a"], ["b"]] }] }));
    const held = (hold: Settings): string => refusal(() => finish(searchSetpoint(problem, { hold, draws: 100 })));
    expect(held({ a: 1.01 })).toContain("hold it between −1 and 1");
    expect(held({ z: 1 })).toContain("no factor “z”");
    expect(held({ a: "up" })).toContain("cannot be held");
    expect(held({ a: 1 })).toBe("");
  });
});

describe("the printed optimum of four responses of a rubber compound (Derringer & Suich 1980)", () => {
  // Fitted equations in coded silica, silane and sulfur as printed: constant, linear, squares, then 12, 13, 23.
  const equations = {
    abrasion: [139.12, 16.49, 17.88, 10.91, -4.01, -3.45, -1.57, 5.13, 7.13, 7.88],
    modulus: [1261.11, 268.15, 246.5, 139.48, -83.55, -124.79, 199.17, 69.38, 94.13, 104.38],
    elongation: [400.38, -99.67, -31.4, -73.92, 7.93, 17.31, 0.43, 8.75, 6.25, 1.25],
    hardness: [68.91, -1.41, 4.32, 1.63, 1.56, 0.06, -0.32, -1.63, 0.13, -0.25],
  };
  const value = ([k, a, b, c, aa, bb, cc, ab, ac, bc]: number[], x: number, y: number, z: number): number =>
    k + a * x + b * y + c * z + aa * x * x + bb * y * y + cc * z * z + ab * x * y + ac * x * z + bc * y * z;
  const goals: Record<string, Goal> = {
    abrasion: { aim: "raise", low: 120, high: 170 },
    modulus: { aim: "raise", low: 1000, high: 1300 },
    elongation: { aim: "hit", low: 400, target: 500, high: 600 },
    hardness: { aim: "hit", low: 60, target: 67.5, high: 75 },
  };
  const terms = [["a"], ["b"], ["c"], ["a", "b"], ["a", "c"], ["b", "c"], ["a", "a"], ["b", "b"], ["c", "c"]];
  const study = parseStudy({
    ...plainStudy(3),
    responses: Object.entries(goals).map(([id, goal]) => ({ id, goal })),
    waves: [{ id: "w" }],
    trials: Array.from({ length: 27 }, (_, i) => {
      const [a, b, c] = [(i % 3) - 1, (Math.floor(i / 3) % 3) - 1, Math.floor(i / 9) - 1];
      return {
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: { a, b, c },
        results: Object.fromEntries(Object.entries(equations).map(([id, e]) => [id, value(e, a, b, c)])),
      };
    }),
    models: Object.keys(goals).map((response) => ({ response, terms })),
  });
  it("overall desirability 0.583 near (−0.050, 0.145, −0.868), with the printed predictions", () => {
    const { best } = finish(searchSetpoint(setpointProblem(study), { draws: 100, seed: 1 }));
    expect(best.overall).toBeCloseTo(0.583, 3);
    expect(best.settings.a).toBeCloseTo(-0.05, 1);
    expect(best.settings.b).toBeCloseTo(0.145, 1);
    expect(best.settings.c).toBeCloseTo(-0.868, 1);
    expect(best.responses.abrasion.mean).toBeCloseTo(129.5, 0);
    expect(best.responses.modulus.mean).toBeCloseTo(1300, 0);
    expect(best.responses.elongation.mean).toBeCloseTo(465.7, 0);
    expect(best.responses.hardness.mean).toBeCloseTo(68, 1);
  });
});

describe("the best settable point against every settable point there is", () => {
  const stepped = (k: number): { factors: StudyInput["factors"] } => ({
    factors: plainStudy(k).factors.map((f) => ({ ...f, step: 0.2 })),
  });
  const levels = Array.from({ length: 11 }, (_, i) => Math.round(-10 + 2 * i) / 10);
  const lattice = (ids: string[]): Settings[] =>
    ids.reduce<Settings[]>((points, id) => points.flatMap((s) => levels.map((v) => ({ ...s, [id]: v }))), [{}]);
  it.each<[string, number, Parameters<typeof exactStudy>[1]]>([
    [
      "a flat top: a target on a slanted line, a raise that is met over half the region",
      2,
      [
        { goal: { aim: "hit", low: -2, target: 0.37, high: 2 }, of: ([a, b]) => a + 0.83 * b },
        { goal: { aim: "raise", low: -3, high: -1 }, of: ([a, b]) => a - b },
      ],
    ],
    [
      "two hills",
      2,
      [
        { goal: { aim: "raise", low: -2, high: 1.2 }, of: ([a, b]) => a * a - b * b + 0.07 * a },
        { goal: { aim: "lower", low: -1, high: 2 }, of: ([a, b]) => 0.3 * a * b - 0.1 * b },
      ],
    ],
    [
      "three factors that pull against each other",
      3,
      [
        { goal: { aim: "raise", low: -4, high: 3 }, importance: 2, of: ([a, b, c]) => 1.3 * a - b * b + 0.9 * b * c },
        { goal: { aim: "lower", low: -3, high: 4 }, of: ([a, b, c]) => a * a + 0.7 * a * c + 0.4 * b - c },
        { goal: { aim: "within", low: -1, target: 0.21, high: 1.5 }, of: ([a, b, c]) => 0.5 * a + 0.6 * b + 0.31 * c },
      ],
    ],
  ])("%s", (_, k, responses) => {
    const study = exactStudy(k, responses, stepped(k));
    const ids = study.factors.map((f) => f.id);
    const best = Math.max(
      ...lattice(ids).map((s) => {
        const x = ids.map((id) => s[id] as number);
        return overallDesirability(study.responses, (id) => responses[Number(id.slice(1))].of(x));
      }),
    );
    const { settable, best: exact, lattice: points } = finish(searchSetpoint(setpointProblem(study), { draws: 100 }));
    expect(points).toBe(11 ** k);
    expect(settable.overall).toBeCloseTo(best, 9);
    expect(exact.overall).toBeGreaterThanOrEqual(settable.overall - 1e-12);
  });
  it("holds what is held, also where it starts from trials", () => {
    const study = exactStudy(2, [{ goal: { aim: "raise", low: -3, high: 3 }, of: ([a, b]) => a + b }], stepped(2));
    const held = finish(searchSetpoint(setpointProblem(study), { draws: 100, hold: { a: -0.4 } }));
    expect(held.settable.settings).toEqual({ a: -0.4, b: 1 });
    expect(held.lattice).toBe(11);
  });
  it("is the best found, and says so, where a factor has no step or the lattice is too large", () => {
    const rise = [{ goal: { aim: "raise" as const, low: -3, high: 3 }, of: ([a, b]: readonly number[]) => a + b }];
    const [a, b] = stepped(2).factors as object[];
    const free = exactStudy(2, rise, { factors: [a, { ...b, step: undefined }] as never });
    expect(finish(searchSetpoint(setpointProblem(free), { draws: 100 })).lattice).toBeNull();
    // 1,001 × 101 points are more than 100,000.
    const fine = exactStudy(2, rise, {
      factors: [
        { ...a, step: 0.002 },
        { ...b, step: 0.02 },
      ] as never,
    });
    const { lattice: points, settable } = finish(searchSetpoint(setpointProblem(fine), { draws: 100 }));
    expect([points, settable.settings]).toEqual([null, { a: 1, b: 1 }]);
  });
});

describe("the standard error of a chance", () => {
  it("is what seeds differ by, and half what draws of their own would give where setting errors rule", () => {
    // One response, noise far below what a setting error of ±0.4 does: the chance is the share of settings above 0.5.
    const study = exactStudy(2, [{ goal: { aim: "raise", low: 0.5, high: 2 }, of: ([a, b]) => a + b }], {
      factors: ["a", "b"].map((id) => ({ id, kind: "continuous" as const, low: -1, high: 1, tolerance: 0.4 })),
    });
    const trials = study.trials.map((t, i) => ({
      ...t,
      results: { y0: (t.results.y0 as number) + (i % 2 ? 1e-3 : -1e-3) },
    }));
    const problem = setpointProblem({ ...study, trials });
    const runs = Array.from({ length: 40 }, (_, i) =>
      finish(chanceOf(problem, { a: 0.25, b: 0.25 }, { draws: 4000, seed: i + 1 })),
    );
    const chances = runs.map((r) => r.together as number);
    const mean = chances.reduce((t, c) => t + c, 0) / chances.length;
    const spread = Math.sqrt(chances.reduce((t, c) => t + (c - mean) ** 2, 0) / (chances.length - 1));
    const told = Math.sqrt(runs.reduce((t, r) => t + (r.standardError as number) ** 2, 0) / runs.length);
    // By symmetry one half.
    expect(Math.abs(mean - 0.5)).toBeLessThan((4 * told) / Math.sqrt(chances.length) + 0.002);
    // A standard deviation of forty values is within a third of its own with all but certainty.
    expect(spread / told).toBeGreaterThan(0.67);
    expect(spread / told).toBeLessThan(1.5);
    // A thousand settings of their own, four draws at each: √(0.25/1000).
    expect(told).toBeLessThan(0.6 * Math.sqrt(0.25 / 1000));
  });
});
