import { describe, expect, it } from "vitest";
import { fUpper } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import { planSummaries } from "../planning/plans-in-sight";
import type { Settings } from "../study/schema";
import { termSet } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { regress } from "../testing/elimination";
import { cat, cont, corners, digits, plainStudy, studyOf, withTrials } from "../testing/studies";
import { appraise, pureErrorDf } from "./appraise";
import { detectable, reaches, solvePower, termPower } from "./power";
import { pointModel, pointsOf } from "./terms-info";

const half: Settings[] = corners(3).map((c) => ({ ...c, d: (c.a as number) * (c.b as number) * (c.c as number) }));

describe("appraisal of a resolution IV half fraction, by algebra", () => {
  const a = appraise(withTrials(plainStudy(4), half));
  it("degrees of freedom, resolution, relation, pattern, chains", () => {
    expect(a).toMatchObject({
      n: 8,
      p: 5,
      df: { model: 4, lackOfFit: 3, pureError: 0 },
      resolution: 4,
      definingRelation: ["ABCD"],
      wordLengthPattern: [0, 1],
    });
    expect(a.chains).toEqual([
      [
        ["a", "b"],
        ["c", "d"],
      ],
      [
        ["a", "c"],
        ["b", "d"],
      ],
      [
        ["a", "d"],
        ["b", "c"],
      ],
    ]);
  });
  it("an orthogonal two-level plan is fully efficient: D = A = G = 100, standard errors 1/√8, no inflation, no aliasing of mains", () => {
    expect(a.efficiency.d).toBeCloseTo(100, 10);
    expect(a.efficiency.a).toBeCloseTo(100, 10);
    expect(a.efficiency.g).toBeCloseTo(100, 8);
    for (const s of a.standardError) expect(s.value).toBeCloseTo(1 / Math.sqrt(8), 14);
    for (const v of a.vif) expect(v.value).toBeCloseTo(1, 12);
    expect(a.alias.trace).toBe(0);
  });
  it("mean prediction variance over the box is (1 + k/3)/n", () =>
    expect(a.efficiency.i).toBeCloseTo((1 + 4 / 3) / 8, 12));
  it("the fraction-of-space curve rises from near 1/n to near (1 + k)/n", () => {
    expect(a.space).toHaveLength(101);
    expect(a.space[0].value).toBeGreaterThanOrEqual(1 / 8);
    expect(a.space[100].value).toBeLessThanOrEqual(5 / 8 + 1e-12);
  });
  it("term map: mains clear, interactions lost to each other", () => {
    expect(a.map.find((m) => m.term.join("") === "a")).toMatchObject({ state: "clear", largest: 0, with: [] });
    expect(a.map.find((m) => m.term.join("") === "ab")).toMatchObject({
      state: "lost",
      largest: 1,
      with: [["c", "d"]],
    });
  });
});

describe("aliasing and efficiency of plans that are not regular", () => {
  it("alias matrix of a one-factor-at-a-time plan, by hand", () => {
    // Points (−,−), (+,−), (−,+): with y = a·b the fitted coefficients are constant −1, a −1, b −1.
    const a = appraise(withTrials(plainStudy(2), corners(2).slice(0, 3)));
    expect(a.alias.values.map((r) => Math.round(r[0] * 1e12) / 1e12)).toEqual([-1, -1, -1]);
    expect(a.alias.trace).toBeCloseTo(3, 12);
    expect(a.resolution).toBeNull();
    // |X′X| = 16 for three runs and three columns.
    expect(a.efficiency.d).toBeCloseTo((100 * 16 ** (1 / 3)) / 3, 10);
  });
  it("D does not depend on how a category is coded: three levels once each is fully efficient", () => {
    const study = plainStudy(0, { factors: [{ id: "k", kind: "categorical", levels: ["p", "q", "r"] }] });
    const a = appraise(
      withTrials(
        study,
        ["p", "q", "r"].map((k) => ({ k })),
      ),
    );
    expect(a.efficiency.d).toBeCloseTo(100, 10);
    expect(a.efficiency.a).toBeCloseTo(100, 10);
  });
  it("quadratic moments: I of a 3² factorial is its exact integral", () => {
    const levels = [-1, 0, 1];
    const study = withTrials(
      plainStudy(2),
      levels.flatMap((b) => levels.map((a) => ({ a, b }))),
    );
    const terms = termSet(study, "quadratic");
    const i = appraise(study, { terms }).efficiency.i as number;
    // (X′X)⁻¹ of the 3²: constant 5/9, linear 1/6, interaction 1/4, squares 1/2, constant–square −1/3.
    const exact =
      5 / 9 + 2 * (1 / 6) * (1 / 3) + (1 / 4) * (1 / 9) + 2 * (1 / 2) * (1 / 5) + 2 * 2 * (-1 / 3) * (1 / 3);
    expect(digits(i, exact)).toBeGreaterThan(12);
  });
});

describe("pure error", () => {
  it("counts n less the rank of cells and waves", () => {
    expect(pureErrorDf([0, 0, 1, 1], ["w", "w", "w", "w"])).toBe(2);
    // Two cells seen once in each of two waves: 4 − (2 + 2 − 1).
    expect(pureErrorDf([0, 1, 0, 1], ["w", "w", "v", "v"])).toBe(1);
    // Waves that share no cell leave nothing.
    expect(pureErrorDf([0, 1, 2, 3], ["w", "w", "v", "v"])).toBe(0);
  });
});

describe("power", () => {
  const study = withTrials(plainStudy(3), corners(3));
  const terms = termSet(study, "main");
  const model = pointModel(study, pointsOf(study), terms);
  const [a] = reaches(study, model, terms);
  it("noncentrality of a two-level effect Δ = σ in n runs is n/4", () => expect(a.unit).toBeCloseTo(2, 12));
  it("a two-sample t test in disguise: 2 × 10, Δ = 1.2 σ, 18 df, by 50-digit integration of the definition", () => {
    expect(
      Math.abs((termPower({ term: ["a"], df: 1, unit: 5 }, 1.2, 0.05, 18) as number) - 0.7184053765416689),
    ).toBeLessThan(1e-10);
  });
  it("with no effect the power is α", () => expect(termPower(a, 0, 0.05, 4)).toBeCloseTo(0.05, 10));
  it("without error df there is none", () => expect(termPower(a, 1, 0.05, 0)).toBeNull());
  it("detectable effect and power undo each other, wide terms too", () => {
    for (const reach of [a, { term: ["k"], df: 3, unit: 1.7 }])
      expect(termPower(reach, detectable(reach, 0.8, 0.05, 6) as number, 0.05, 6)).toBeCloseTo(0.8, 9);
  });
  it("each quantity is solved back from the others", () => {
    const p = solvePower([a], 8, 4, { alpha: 0.05, effect: 2, noise: 1, replicates: 2 });
    expect(
      solvePower([a], 8, 4, { alpha: 0.05, noise: 1, replicates: 2, power: p.power as number }).effect,
    ).toBeCloseTo(2, 8);
    expect(
      solvePower([a], 8, 4, { alpha: 0.05, effect: 2, replicates: 2, power: p.power as number }).noise,
    ).toBeCloseTo(1, 8);
    expect(
      solvePower([a], 8, 4, { alpha: 0.05, effect: 2, noise: 1, power: (p.power as number) - 1e-9 }).replicates,
    ).toBe(2);
  });
  it("three must be given", () =>
    expect(() => solvePower([a], 8, 4, { alpha: 0.05, effect: 2 })).toThrow("Give three"));
});

describe("cost–sight", () => {
  const ask = {
    terms: "main+2fi",
    budget: 40,
    replicates: 1,
    centre: 3,
    blocks: 1,
    power: 0.8,
    alpha: 0.05,
    seed: 1,
    standardOrder: false,
  } as const;
  it("six factors: 32 + 3 tells all interactions apart, 16 + 3 does not, and the frontier starts at what does", () => {
    const { summaries } = planSummaries(plainStudy(6), ask);
    const fractions = summaries.filter((s) => s.options.family === "fraction");
    const once = fractions.filter((s) => s.options.replicates === 1);
    expect(once.map((s) => [s.n, s.tellsAll])).toEqual([
      [11, false],
      [19, false],
      [35, true],
    ]);
    // The frontier holds those that tell all and that nothing as cheap beats.
    const able = summaries.filter((s) => s.tellsAll);
    for (const s of summaries)
      expect(s.onFrontier).toBe(
        s.tellsAll &&
          !able.some(
            (o) =>
              o !== s &&
              o.n <= s.n &&
              (o.ratio ?? 0) <= (s.ratio ?? 0) + 1e-9 &&
              (o.n < s.n || (o.ratio ?? 0) < (s.ratio ?? 0)),
          ),
      );
    expect(once[2].lostTerms).toEqual([]);
    expect(once[1].lostTerms).toHaveLength(15);
    expect(fractions.filter((s) => s.options.replicates === 2).map((s) => s.n)).toEqual([19, 35]);
  });
  it("a saturated plan is judged by the stated noise and marked", () => {
    const { summaries } = planSummaries(plainStudy(3), { ...ask, centre: 0, budget: 8 });
    const full = summaries.find((s) => s.n === 8);
    expect(full?.noErrorDf).toBe(false);
    const seven = planSummaries(plainStudy(7), { ...ask, terms: "main", centre: 0, budget: 8 }).summaries[0];
    expect(seven.noErrorDf).toBe(true);
    // (1.95996 + 0.84162)/√(8/4)
    expect(seven.ratio).toBeCloseTo(1.98101, 4);
  });
});

describe("power, by playing the trials", () => {
  // What power means: the share of times that the term's F test finds the effect, over trials drawn with normal noise
  // and judged by least squares of the test's own.
  it.each([
    ["one term of a 2³, four degrees of freedom", ["a"], 2, 0.05],
    ["the same at 1 %", ["a"], 3, 0.01],
    ["a category of three levels twice over nine runs, two columns at once", ["k"], 1.5, 0.05],
  ])("%s", (_, term, effect, alpha) => {
    const wide = term[0] === "k";
    const study = wide
      ? withTrials(
          studyOf([cont("a"), cat("k", "x", "y", "z")]),
          [...Array(9)].map((__, i) => ({ a: [-1, 0, 1][i % 3], k: ["x", "y", "z"][Math.floor(i / 3)] })),
        )
      : withTrials(plainStudy(3), corners(3));
    const terms = termSet(study, "main");
    const points = pointsOf(study);
    const model = pointModel(study, points, terms);
    const reach = reaches(study, model, terms).find((r) => r.term[0] === term[0]);
    if (!reach) throw new Error("no reach");
    const coded = encoder(study, terms);
    const rows = points.settings.map((s) => {
      const row = new Float64Array(coded.columns.length);
      coded.row(s, row);
      return [...row];
    });
    const mine = coded.columns.flatMap((c, j) => (c.key === term[0] ? [j] : []));
    const rest = rows.map((r) => r.filter((_v, j) => !mine.includes(j)));
    const df = rows.length - rows[0].length;
    // An effect is the change from low to high; of a category the level that differs most from another.
    const level: Record<string, number> = { x: -effect / 2, y: effect / 2, z: 0 };
    const mean = points.settings.map((s) => (wide ? level[String(s.k)] : ((s.a as number) * effect) / 2));
    const random = seededRandom(5);
    const rounds = 4000;
    let found = 0;
    for (let i = 0; i < rounds; i++) {
      const y = mean.map((m) => m + random.normal());
      const full = regress(rows, y).rss;
      const f = ((regress(rest, y).rss - full) / mine.length / full) * df;
      if (fUpper(f, mine.length, df) < alpha) found++;
    }
    const power = termPower(reach, effect, alpha, df) as number;
    expect(Math.abs(found / rounds - power)).toBeLessThan(4 * Math.sqrt((power * (1 - power)) / rounds));
    expect(power).toBeGreaterThan(0.2);
    expect(power).toBeLessThan(0.98);
  });
});
