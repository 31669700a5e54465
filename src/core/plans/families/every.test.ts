import { describe, expect, it } from "vitest";
import { code, isNumeric, snap } from "../../study/coding";
import { allowed, withinRanges } from "../../study/region";
import { cat, cont, refusal, studyOf } from "../../testing/studies";
import { makePlan } from "../make-plan";
import type { PlanOptions } from "../options";
import type { Plan } from "../plan";

describe("General factorials", () => {
  it("take every listed value and level, and as many levels of continuous factors as asked", () => {
    const s = studyOf([
      cont("a", { low: 0, high: 10 }),
      { id: "b", kind: "discrete", values: [1, 2, 4] },
      cat("c", "x", "y", "z"),
    ]);
    expect(makePlan(s, { family: "factorial" }).trials).toHaveLength(18);
    const wide = makePlan(s, { family: "factorial", levels: "a=5" });
    expect(wide.trials).toHaveLength(45);
    expect([...new Set(wide.trials.map((t) => t.settings.a))].sort((x, y) => Number(x) - Number(y))).toEqual([
      0, 2.5, 5, 7.5, 10,
    ]);
    expect(new Set(wide.trials.map((t) => JSON.stringify(t.settings))).size).toBe(45);
    expect(refusal(() => makePlan(s, { family: "factorial", levels: "b=5" }))).toContain("all of them are used");
    expect(refusal(() => makePlan(s, { family: "factorial", levels: "a=1" }))).toContain("from 2 to 12");
    expect(refusal(() => makePlan(s, { family: "factorial", levels: "q=3" }))).toContain("no factor “q”");
  });

  it("run each replicate as a block when copies and blocks agree", () => {
    const p = makePlan(studyOf([cont("a"), cat("c", "x", "y", "z")]), {
      family: "factorial",
      replicates: 2,
      blocks: 2,
    });
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(
      waves.map((w) => new Set(p.trials.filter((t) => t.wave === w).map((t) => JSON.stringify(t.settings))).size),
    ).toEqual([6, 6]);
  });

  it("run several copies in one block where whole copies fill it, so that blocks confound nothing", () => {
    // Split alike, 8 × 4 in two blocks would give up the three-factor interaction for nothing.
    const p = makePlan(studyOf([cont("a"), cont("b"), cont("c")]), { family: "factorial", replicates: 4, blocks: 2 });
    for (const { id } of p.waves) {
      const own = p.trials.filter((t) => t.wave === id);
      expect(own).toHaveLength(16);
      expect(new Set(own.map((t) => JSON.stringify(t.settings))).size).toBe(8);
      expect(own.reduce((t, { coded: { a, b, c } }) => t + Number(a) * Number(b) * Number(c), 0)).toBe(0);
    }
  });
});

describe("Coded settings of every family", () => {
  it("are those of the natural settings", () => {
    const s = studyOf([
      cont("a", { low: 50, high: 70, step: 1 }),
      cont("b", { low: 1, high: 100, scale: "log" }),
      cont("c"),
      cont("d"),
    ]);
    for (const options of [
      { family: "definitive" },
      { family: "box-behnken" },
      { family: "composite" },
      { family: "plackett-burman", trials: 12 },
    ] as PlanOptions[])
      for (const t of makePlan(s, options).trials)
        for (const f of s.factors)
          if (isNumeric(f)) expect(t.coded[f.id]).toBeCloseTo(code(f, t.settings[f.id] as number), 12);
  });
});

describe("Every family", () => {
  const s = studyOf(
    [
      cont("a", { low: 50, high: 70, step: 1 }),
      cont("b", { low: 0, high: 3, step: 0.25 }),
      cont("c"),
      cont("d", { low: 10, high: 12, step: 0.1 }),
    ],
    {
      region: { limits: [{ terms: { a: 1, b: 4 }, at: "most", bound: 78 }], forbidden: [] },
    },
  );
  const asks: PlanOptions[] = [
    { family: "factorial" },
    { family: "fraction", trials: 8 },
    { family: "plackett-burman", trials: 12 },
    { family: "composite", centre: 3 },
    { family: "box-behnken", centre: 3 },
    { family: "definitive" },
    { family: "array", trials: 9 },
    { family: "optimal", trials: 10, starts: 3 },
    { family: "least-aliasing", trials: 10, starts: 2 },
  ];
  it.each(asks)(
    "$family keeps the region and the settable steps, loses only what it says, and repeats itself from its seed",
    (options) => {
      const p = makePlan(s, { ...options, seed: 9 });
      for (const t of p.trials) {
        expect(allowed(s, t.settings)).toBe(true);
        expect(withinRanges(s.factors, t.settings)).toBe(true);
        for (const f of s.factors) if (isNumeric(f)) expect(t.settings[f.id]).toBe(snap(f, t.settings[f.id] as number));
      }
      expect(p.trials.map((t) => t.order).sort((x, y) => x - y)).toEqual(p.trials.map((_, i) => i + 1));
      expect(makePlan(s, { ...options, seed: 9 }).trials).toEqual(p.trials);
      const sorted = (q: Plan): string[] => q.trials.map((t) => JSON.stringify(t.settings)).sort();
      // Another seed makes another run order; plans that are not searched for keep their points.
      if (options.family !== "optimal" && options.family !== "least-aliasing")
        expect(sorted(makePlan(s, { ...options, seed: 10 }))).toEqual(sorted(p));
      const standard = makePlan(s, { ...options, seed: 9, standardOrder: true });
      expect(standard.trials.map((t) => t.standard)).toEqual(standard.trials.map((_, i) => i + 1));
    },
  );

  it("answers thirty factors at once, with a plan or with a sentence", () => {
    const many = studyOf(Array.from({ length: 30 }, (_, i) => cont(`f${i + 1}`)));
    for (const options of [
      { family: "factorial" },
      { family: "fraction", trials: 64 },
      { family: "composite" },
      { family: "box-behnken" },
      { family: "definitive" },
    ] as PlanOptions[])
      expect(refusal(() => makePlan(many, options)).split(". ")).toHaveLength(1);
    expect(makePlan(many, { family: "plackett-burman", trials: 32 }).trials).toHaveLength(32);
    expect(makePlan(many, { family: "array", trials: 32 }).trials).toHaveLength(32);
  });
});
