import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { aliasChains, aliasMatrix, regularOf } from "../appraisal/aliasing";
import { pointModel } from "../appraisal/terms-info";
import { StudyError } from "../study/error";
import { allowed } from "../study/region";
import { termSet } from "../terms/candidates";
import { plainStudy } from "../testing/studies";
import { adoptPlan } from "./adopt";
import { makePlan } from "./make-plan";
import type { Plan } from "./plan";

const pointsOf = (plan: Plan) => ({
  settings: plan.trials.map((t) => t.settings),
  waves: plan.trials.map((t) => t.wave),
});
const codeOf = (run: () => unknown): string => {
  try {
    run();
  } catch (error) {
    if (error instanceof StudyError) return error.code;
    throw error;
  }
  return "none";
};

describe("fractions have minimum aberration", () => {
  // Word-length patterns from length 3 (first entries), Chen, Sun & Wu (1993), tables for 16, 32 and 64 runs; 8 runs
  // by hand.
  it.each([
    [3, 4, 3, [1]],
    [4, 8, 4, [0, 1]],
    [5, 8, 3, [2, 1, 0]],
    [6, 8, 3, [4, 3, 0, 0]],
    [7, 8, 3, [7, 7, 0, 0, 1]],
    [5, 16, 5, [0, 0, 1]],
    [6, 16, 4, [0, 3]],
    [7, 16, 4, [0, 7]],
    [8, 16, 4, [0, 14]],
    [9, 16, 3, [4, 14]],
    [10, 16, 3, [8, 18]],
    [12, 16, 3, [16, 39]],
    [15, 16, 3, [35, 105]],
    [7, 32, 4, [0, 1, 2]],
    [8, 32, 4, [0, 3, 4]],
    [9, 32, 4, [0, 6, 8]],
    [10, 32, 4, [0, 10, 16]],
    [11, 32, 4, [0, 25, 0, 27]],
    [8, 64, 5, [0, 0, 2, 1]],
    [9, 64, 4, [0, 1, 4, 2]],
    [11, 64, 4, [0, 4, 14, 8]],
    [13, 64, 4, [0, 14, 28]],
    [15, 64, 4, [0, 30, 60]],
    [9, 128, 6, [0, 0, 0, 3]],
    [11, 128, 5, [0, 0, 6, 6]],
    [15, 256, 5, [0, 0, 15, 30]],
  ])("%i factors in %i runs: resolution %i", (k, runs, resolution, pattern) => {
    const study = plainStudy(k);
    const regular = regularOf(study, pointsOf(makePlan(study, { family: "fraction", trials: runs })));
    expect(regular?.resolution).toBe(resolution);
    expect(regular?.wordLengthPattern.slice(0, pattern.length)).toEqual(pattern);
    expect(regular?.definingRelation).toHaveLength(runs === 2 ** k ? 0 : 2 ** k / runs - 1);
  });
  it("every size on offer is built: distinct runs, balanced columns", () => {
    for (let k = 3; k <= 15; k++) {
      const study = plainStudy(k);
      for (const n of [4, 8, 16, 32, 64, 128, 256].filter((m) => m > k && m < 2 ** k)) {
        const { trials } = makePlan(study, { family: "fraction", trials: n });
        expect(new Set(trials.map((t) => Object.values(t.settings).join())).size).toBe(n);
        for (const f of study.factors) expect(trials.reduce((s, t) => s + (t.settings[f.id] as number), 0)).toBe(0);
      }
    }
  });
});

describe("own generators", () => {
  const study = plainStudy(5);
  it("signs and chains are those of the defining relation I = ABD = −ACE = −BCDE (Box, Hunter & Hunter's algebra)", () => {
    const regular = regularOf(study, pointsOf(makePlan(study, { family: "fraction", generators: "D=AB, E=-AC" })));
    expect(regular?.definingRelation).toEqual(["ABD", "-ACE", "-BCDE"]);
    const chains = aliasChains(regular as NonNullable<typeof regular>).map((c) =>
      c.map((m) => `${m.sign < 0 ? "-" : ""}${m.term.join("")}`).join(" "),
    );
    expect(chains).toEqual(["a bd -ce", "b ad", "c -ae", "d ab", "e -ac", "bc -de", "be -cd"]);
  });
  it.each([
    ["D=AB", "4", "bad-count"],
    ["D=AX", undefined, "bad-generator"],
    ["D=AB,E=DC", undefined, "bad-generator"],
    ["D=A,E=BC", undefined, "short-word"],
    ["D=AB,D=AC", undefined, "bad-generator"],
    ["D~AB", undefined, "bad-generator"],
    ["A=BC,B=DE,C=DE", undefined, "bad-generator"],
  ])("%s is refused", (generators, trials, code) =>
    expect(
      codeOf(() => makePlan(study, { family: "fraction", generators, ...(trials ? { trials: Number(trials) } : {}) })),
    ).toBe(code),
  );
});

describe("arrangement", () => {
  const study = plainStudy(4);
  it("the same seed gives the same order, another seed another", () => {
    const order = (seed: number) =>
      makePlan(study, { family: "factorial", centre: 3, seed })
        .trials.map((t) => t.standard)
        .join();
    expect(order(5)).toBe(order(5));
    expect(order(5)).not.toBe(order(6));
  });
  it("centre points stand first, last and evenly between", () => {
    const plan = makePlan(study, { family: "factorial", centre: 3, seed: 2 });
    expect(plan.trials.flatMap((t, i) => (t.kind === "centre" ? [i] : []))).toEqual([0, 9, 18]);
  });
  it("replicates and centre points count as the contract says", () => {
    const plan = makePlan(study, { family: "fraction", trials: 8, replicates: 2, centre: 4 });
    expect(plan.trials).toHaveLength(20);
    expect(plan.trials.map((t) => t.standard).sort((a, b) => a - b)).toEqual(
      Array.from({ length: 20 }, (_, i) => i + 1),
    );
  });
  it("standard order is Yates order on request", () => {
    const plan = makePlan(plainStudy(2), { family: "factorial", standardOrder: true });
    expect(plan.trials.map((t) => [t.settings.a, t.settings.b])).toEqual([
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ]);
  });
  it("blocks of a 2³ in two confound ABC, in four confound two-factor interactions, mains stay clear (Box, Hunter & Hunter 2005, 5.13)", () => {
    const two = makePlan(plainStudy(3), { family: "factorial", blocks: 2 });
    for (const t of two.trials)
      expect((t.settings.a as number) * (t.settings.b as number) * (t.settings.c as number)).toBe(
        t.wave === two.trials[0].wave
          ? (two.trials[0].settings.a as number) *
              (two.trials[0].settings.b as number) *
              (two.trials[0].settings.c as number)
          : -(two.trials[0].settings.a as number) *
              (two.trials[0].settings.b as number) *
              (two.trials[0].settings.c as number),
      );
    const four = makePlan(plainStudy(3), { family: "factorial", blocks: 4 });
    for (const w of four.waves)
      for (const id of ["a", "b", "c"])
        expect(four.trials.filter((t) => t.wave === w.id).reduce((s, t) => s + (t.settings[id] as number), 0)).toBe(0);
  });
  it("what the region excludes is left out and counted; every trial is settable and allowed", () => {
    const limited = plainStudy(3, {
      factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous" as const, low: 0, high: 10, step: 1 })),
      region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 15 }] },
    });
    const plan = makePlan(limited, { family: "factorial" });
    expect([plan.trials.length, plan.excluded]).toEqual([6, 2]);
    expect(plan.trials.every((t) => allowed(limited, t.settings))).toBe(true);
  });
  it("categories: centre points are spread over levels, factorials cross every level", () => {
    const mixed = plainStudy(2, {
      factors: [
        { id: "a", kind: "continuous", low: 0, high: 2 },
        { id: "k", kind: "categorical", levels: ["p", "q", "r"] },
      ],
    });
    const plan = makePlan(mixed, { family: "factorial", centre: 3 });
    expect(
      plan.trials
        .filter((t) => t.kind === "centre")
        .map((t) => t.settings.k)
        .sort(),
    ).toEqual(["p", "q", "r"]);
    expect(plan.trials.filter((t) => t.kind === "factorial")).toHaveLength(6);
  });
  it("refuses what it cannot serve in a sentence", () => {
    expect(codeOf(() => makePlan(plainStudy(2), { family: "fraction", trials: 4 }))).toBe("family-unfit");
    expect(codeOf(() => makePlan(plainStudy(5), { family: "fraction", trials: 20 }))).toBe("bad-count");
    expect(codeOf(() => makePlan(plainStudy(5), { family: "spiral" }))).toBe("unknown-family");
    expect(codeOf(() => makePlan(plainStudy(0), { family: "factorial" }))).toBe("no-factors");
    expect(codeOf(() => makePlan(plainStudy(4), { family: "factorial", blocks: 3 }))).toBe("bad-blocks");
  });
  it("a second wave goes on from the first: orders, ids and waves are new", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1000 }), fc.integer({ min: 0, max: 4 }), (seed, centre) => {
        const first = adoptPlan(study, makePlan(study, { family: "fraction", trials: 8, centre, seed }));
        const both = adoptPlan(first, makePlan(first, { family: "factorial", seed }));
        expect(new Set(both.trials.map((t) => t.id)).size).toBe(both.trials.length);
        expect(both.trials.map((t) => t.order)).toEqual(both.trials.map((_, i) => i + 1));
        expect(both.waves.map((w) => w.id)).toEqual(["w1", "w2"]);
      }),
      { numRuns: 20, seed: 1 },
    );
  });
});

describe("chains", () => {
  it("read from the defining relation are those the alias matrix shows, sign by sign", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 4, max: 8 }),
        fc.constantFrom(8, 16, 32),
        fc.integer({ min: 0, max: 255 }),
        (k, runs, signs) => {
          fc.pre(runs > k && runs < 2 ** k);
          const study = plainStudy(k);
          const base = makePlan(study, { family: "fraction", trials: runs }).recipe.generators ?? "";
          const generators = base
            .split(",")
            .map((g, i) => ((signs >> i) & 1 ? g.replace("=", "=-") : g))
            .join(",");
          const points = pointsOf(makePlan(study, { family: "fraction", generators }));
          const regular = regularOf(study, points);
          if (!regular) throw new Error("a fraction is regular");
          const terms = termSet(study, "main+2fi");
          const key = (t: readonly string[]): string => [...t].sort().join("");
          const chains = aliasChains(regular);
          const signOf = new Map(
            chains.flatMap((c, i) => c.map((m) => [key(m.term), { chain: i, sign: m.sign }] as const)),
          );
          for (const a of terms) {
            // The alias matrix of a model of this one term: ±1 for those it cannot be told from, 0 for the rest.
            const model = pointModel(study, points, [a]);
            const others = terms.filter((t) => t !== a);
            const { values } = aliasMatrix(study, points, model, others);
            others.forEach((b, c) => {
              const x = signOf.get(key(a));
              const y = signOf.get(key(b));
              const expected = x && y && x.chain === y.chain ? x.sign * y.sign : 0;
              expect(values[1][c]).toBeCloseTo(expected, 12);
            });
          }
        },
      ),
      { numRuns: 25 },
    );
  });
});
