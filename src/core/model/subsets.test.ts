import { describe, expect, it } from "vitest";
import { seededRandom } from "../numerics/random";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { parentsPresent } from "../terms/candidates";
import { termKey } from "../terms/term";
import { plainStudy, refusal, squares, withTrials } from "../testing/studies";
import { fitModel } from "./fit";
import { type SubsetsOptions, type SubsetsResult, searchSubsets } from "./subsets";

const all = (study: Study, terms: Term[], options: SubsetsOptions = { hierarchy: "off" }): SubsetsResult => {
  const steps = searchSubsets(study, "y", terms, options);
  let step = steps.next();
  while (!step.done) step = steps.next();
  return step.value;
};
const sumOf = (v: readonly number[]): number => v.reduce((t, x) => t + x, 0);

// Heat evolved by cement of four compounds, thirteen mixes (Hald 1952; Draper & Smith 1998, table 15.1).
const X = [
  [7, 26, 6, 60],
  [1, 29, 15, 52],
  [11, 56, 8, 20],
  [11, 31, 8, 47],
  [7, 52, 6, 33],
  [11, 55, 9, 22],
  [3, 71, 17, 6],
  [1, 31, 22, 44],
  [2, 54, 18, 22],
  [21, 47, 4, 26],
  [1, 40, 23, 34],
  [11, 66, 9, 12],
  [10, 68, 8, 12],
];
const heat = [78.5, 74.3, 104.3, 87.6, 95.9, 109.2, 102.7, 72.5, 93.1, 115.9, 83.8, 113.3, 109.4];
const cement = withTrials(
  plainStudy(4),
  X.map(([a, b, c, d]): Settings => ({ a, b, c, d })),
  heat,
);

describe("all subsets", () => {
  it("of the cement data have the printed residual sums of squares (Draper & Smith 1998, chapter 15)", () => {
    const { examined, singular, models } = all(cement, [["a"], ["b"], ["c"], ["d"]]);
    expect([examined, singular, models.length]).toEqual([16, 0, 16]);
    const rss = (terms: string): number => models.find((m) => m.terms.flat().join("") === terms)?.rss ?? Number.NaN;
    const printed: [string, number][] = [
      ["", 2715.763],
      ["d", 883.867],
      ["b", 906.336],
      ["ab", 57.904],
      ["ad", 74.762],
      ["abd", 47.973],
      ["abc", 48.111],
      ["acd", 50.836],
      ["bcd", 73.815],
      ["abcd", 47.864],
    ];
    for (const [terms, value] of printed) expect(rss(terms)).toBeCloseTo(value, 3);
  });

  const random = seededRandom(5);
  const points: Settings[] = Array.from({ length: 26 }, () => ({
    a: 2 * random.uniform() - 1,
    b: 2 * random.uniform() - 1,
    k: ["x", "y", "z"][random.below(3)],
  }));
  const mixed = parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: [
      { id: "a", kind: "continuous", low: -1, high: 1 },
      { id: "b", kind: "continuous", low: -1, high: 1 },
      { id: "k", kind: "categorical", levels: ["x", "y", "z"] },
    ],
    responses: [{ id: "y" }],
    waves: [{ id: "w1" }, { id: "w2" }],
    trials: points.map((settings, i) => ({
      id: `t${i}`,
      wave: i % 2 ? "w1" : "w2",
      state: "done" as const,
      settings,
      results: {
        y: 3 + 2 * (settings.a as number) + (settings.k === "x" ? 1 : 0) + 0.5 * (i % 2) + 0.4 * random.normal(),
      },
    })),
  });
  const terms: Term[] = [["a"], ["b"], ["k"], ["a", "b"], ["a", "k"], ["b", "k"], ["a", "a"]];

  it.each(["strong", "weak", "off"] as const)(
    "with categories, waves and %s hierarchy are those of fitting every one by itself",
    (hierarchy) => {
      const expected = new Map<string, number>();
      for (let mask = 0; mask < 2 ** terms.length; mask++) {
        const chosen = terms.filter((_, i) => (mask >> i) & 1);
        const keys = new Set(chosen.map(termKey));
        if (chosen.every((t) => parentsPresent(t, keys, hierarchy)))
          expected.set(
            chosen.map(termKey).sort().join(" "),
            squares(fitModel(mixed, "y", { terms: chosen }).summary).rss,
          );
      }
      const { examined, models } = all(mixed, terms, { hierarchy, keep: 200 });
      expect(examined).toBe(expected.size);
      expect(models).toHaveLength(expected.size);
      for (const m of models)
        expect((m.rss as number) / (expected.get(m.terms.map(termKey).sort().join(" ")) ?? 0)).toBeCloseTo(1, 10);
    },
  );

  it("hold the highest predicted R² of each size, found by fitting every model apart", () => {
    const random = seededRandom(11);
    const places = Array.from(
      { length: 14 },
      (): Settings => Object.fromEntries("abcd".split("").map((f) => [f, 2 * random.uniform() - 1])),
    );
    const study = withTrials(
      plainStudy(4),
      places,
      places.map((s) => 3 * (s.a as number) + 2 * (s.b as number) * (s.c as number) + 1.5 * random.normal()),
      { wave: (i) => (i < 7 ? "w" : "v") },
    );
    const terms: Term[] = [["a"], ["b"], ["c"], ["d"], ["a", "b"], ["b", "c"], ["a", "a"], ["d", "d"]];
    const found = all(study, terms, { hierarchy: "off", keep: 1 });
    const best = new Map<number, number>();
    for (let mask = 0; mask < 2 ** terms.length; mask++) {
      const own = terms.filter((_, t) => (mask >> t) & 1);
      if (own.length > 10) continue;
      const r2 = fitModel(study, "y", { terms: own }).summary.r2Predicted;
      if (r2 !== null) best.set(own.length, Math.max(best.get(own.length) ?? Number.NEGATIVE_INFINITY, r2));
    }
    for (const [size, r2] of best)
      expect(
        Math.max(...found.models.filter((m) => m.k === size).map((m) => m.r2Predicted ?? Number.NEGATIVE_INFINITY)),
      ).toBeCloseTo(r2, 10);
  });
  it("keep the best of each size, and no worse one in place of a better", () => {
    const few = all(mixed, terms, { hierarchy: "off", keep: 2 });
    const many = all(mixed, terms, { hierarchy: "off", keep: 200 });
    for (const k of new Set(many.models.map((m) => m.k))) {
      const best = many.models
        .filter((m) => m.k === k)
        .map((m) => m.rss as number)
        .sort((x, y) => x - y)
        .slice(0, 2);
      expect(
        few.models
          .filter((m) => m.k === k)
          .map((m) => m.rss as number)
          .sort((x, y) => x - y)
          .slice(0, best.length),
      ).toEqual(best);
    }
  });

  it("pass over subsets whose columns are not independent, and count them", () => {
    const half = [-1, 1].flatMap((a) => [-1, 1].map((b): Settings => ({ a, b, c: a * b })));
    const study = withTrials(plainStudy(3), [...half, ...half], [1, 2, 3, 5, 1.1, 2.2, 2.9, 5.2]);
    const { singular, models } = all(study, [["a"], ["b"], ["c"], ["a", "b"]]);
    expect(singular).toBeGreaterThan(0);
    expect(
      models.some((m) => m.terms.some((t) => termKey(t) === "c") && m.terms.some((t) => termKey(t) === "a*b")),
    ).toBe(false);
  });

  it("go to n − 2 columns when there are more candidates than trials", () => {
    const study = withTrials(
      plainStudy(6),
      Array.from({ length: 12 }, () =>
        Object.fromEntries("abcdef".split("").map((f) => [f, 2 * random.uniform() - 1])),
      ),
      Array.from({ length: 12 }, () => random.normal()),
    );
    const pairs = "abcdef".split("").flatMap((a, i) =>
      "abcdef"
        .split("")
        .slice(i + 1)
        .map((b): Term => [a, b]),
    );
    const { models } = all(study, [..."abcdef".split("").map((f): Term => [f]), ...pairs], { hierarchy: "strong" });
    expect(Math.max(...models.map((m) => m.k))).toBe(12 - 2 - 1);
    expect(
      refusal(() =>
        all(
          plainStudy(1),
          Array.from({ length: 31 }, () => ["a"] as Term),
        ),
      ),
    ).not.toBe("");
  });
});

describe("averaging (Burnham & Anderson 2002)", () => {
  it("weighs by exp(−Δ/2), sums to one, and averages with zeros and the spread between models", () => {
    const { models, average } = all(cement, [["a"], ["b"], ["c"], ["d"]]);
    const best = models[0].aicc as number;
    const near = models.filter((m) => (m.aicc ?? Number.POSITIVE_INFINITY) - best <= 10);
    const raw = near.map((m) => Math.exp(-((m.aicc as number) - best) / 2));
    expect(sumOf(models.map((m) => m.weight))).toBeCloseTo(1, 12);
    near.forEach((m, i) => {
      expect(m.weight).toBeCloseTo(raw[i] / sumOf(raw), 12);
    });
    const a = average.coefficients.find((c) => c.term.join() === "a");
    const rows = near.map((m) => {
      const p = fitModel(cement, "y", { terms: m.terms }).parameters.find((q) => q.term.join() === "a");
      return { w: m.weight, b: p?.coefficient ?? 0, se: p?.standardError ?? 0, has: p !== undefined };
    });
    const mean = sumOf(rows.map((r) => r.w * r.b));
    expect(a?.coefficient).toBeCloseTo(mean, 12);
    expect(a?.standardError).toBeCloseTo(Math.sqrt(sumOf(rows.map((r) => r.w * (r.se ** 2 + (r.b - mean) ** 2)))), 12);
    expect(a?.evidence).toBeCloseTo(sumOf(rows.filter((r) => r.has).map((r) => r.w)), 12);
  });
});

describe("a long search", () => {
  it("tells how far it is and ends with the best so far", () => {
    const k = 20;
    const ids = Array.from({ length: k }, (_, i) => String.fromCharCode(97 + i));
    const random = seededRandom(2);
    const study = withTrials(plainStudy(k, { responses: [{ id: "z" }] as never }), [], []);
    const filled = parseStudy({
      ...study,
      responses: [{ id: "out" }],
      waves: [{ id: "w" }],
      trials: Array.from({ length: 40 }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done" as const,
        settings: Object.fromEntries(ids.map((f) => [f, 2 * random.uniform() - 1])),
        results: { out: random.normal() },
      })),
    });
    const steps = searchSubsets(
      filled,
      "out",
      ids.map((f): Term => [f]),
      { hierarchy: "off" },
    );
    let step = steps.next();
    expect(step.done).toBe(false);
    step = steps.next(true);
    while (!step.done) step = steps.next(true);
    expect(step.value.models.length).toBeGreaterThan(0);
    expect(step.value.examined).toBeLessThan(2 ** k);
  });
});
