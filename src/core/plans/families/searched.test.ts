import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { appraisePoints } from "../../appraisal/appraise";
import { pointModel } from "../../appraisal/terms-info";
import { isNumeric, snap } from "../../study/coding";
import { allowed, withinRanges } from "../../study/region";
import type { Settings, Study } from "../../study/schema";
import { parseStudy } from "../../study/validate";
import { termSet } from "../../terms/candidates";
import { encoder } from "../../terms/model-matrix";
import { cat, cont, plainStudy, pointsOf, refusal, studyOf, sum } from "../../testing/studies";
import { makePlan, planSteps } from "../make-plan";
import type { PlanOptions } from "../options";
import type { Plan } from "../plan";

/** D-efficiency of a plan for terms, from its trials alone. */
const efficiency = (s: Study, p: Plan, terms: Parameters<typeof termSet>[1]): number =>
  appraisePoints(s, pointsOf(p), { terms: termSet(s, terms), possible: [] }).efficiency.d ?? 0;

describe("Built for a model", () => {
  // Best D-efficiencies found by an independent strong search over continuous coordinates; 100 is attained by
  // orthogonality.
  it.each([
    [6, "main", 12, 100],
    [2, "quadratic", 6, 42.312],
    [2, "quadratic", 9, 46.224],
    [3, "quadratic", 10, 42.347],
    [3, "quadratic", 14, 46.326],
    [5, "main+2fi", 16, 100],
  ] as const)("%i factors, %s in %i trials reach D %f", (k, terms, n, best) => {
    const s = plainStudy(k);
    const p = makePlan(s, { family: "optimal", trials: n, terms, starts: 60 });
    expect(efficiency(s, p, terms)).toBeGreaterThan(best * 0.999);
    expect(efficiency(s, p, terms)).toBeLessThan(best * 1.0001 + 1e-9);
  });

  it("finds the best of every choice of trials on a small grid, for D, A and I (exhaustive)", () => {
    const s = studyOf([
      { id: "a", kind: "discrete", values: [-1, 0, 1] },
      { id: "b", kind: "discrete", values: [-1, 0, 1] },
    ]);
    const terms = termSet(s, "quadratic");
    const grid = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b): Settings => ({ a, b })));
    const best = { D: 0, A: Number.POSITIVE_INFINITY, I: Number.POSITIVE_INFINITY };
    const n = 7;
    const moments = (inverse: Float64Array, columns: number): number => {
      // Mean of x′Vx over the nine points, which is the region of two three-valued factors.
      const encoded = encoder(s, terms);
      const row = new Float64Array(columns);
      return (
        sum(
          grid.map((g) => {
            encoded.row(g, row);
            let t = 0;
            for (let i = 0; i < columns; i++)
              for (let j = 0; j < columns; j++) t += row[i] * row[j] * inverse[i * columns + j];
            return t;
          }),
        ) / 9
      );
    };
    const judge = (settings: Settings[]): { D: number; A: number; I: number } | undefined => {
      const m = pointModel(s, { settings, waves: settings.map(() => "w") }, terms);
      if (m.rank.dropped.length > 0) return undefined;
      const p = m.inverse.cols;
      return {
        D: Math.exp(m.logDeterminant),
        A: sum(Array.from({ length: p }, (_, i) => m.inverse.data[i * p + i])),
        I: moments(m.inverse.data, p),
      };
    };
    const walk = (from: number, chosen: number[]): void => {
      if (chosen.length === n) {
        const v = judge(chosen.map((i) => grid[i]));
        if (!v) return;
        best.D = Math.max(best.D, v.D);
        best.A = Math.min(best.A, v.A);
        best.I = Math.min(best.I, v.I);
        return;
      }
      for (let i = from; i < grid.length; i++) walk(i, [...chosen, i]);
    };
    walk(0, []);
    for (const criterion of ["D", "A", "I"] as const) {
      const p = makePlan(s, { family: "optimal", trials: n, terms: "quadratic", criterion, starts: 40 });
      expect(judge(p.trials.map((t) => t.settings))?.[criterion]).toBeCloseTo(
        best[criterion],
        criterion === "D" ? 6 : 9,
      );
    }
  });

  it("is orthogonal where categories allow it", () => {
    const s = studyOf([cat("c", "x", "y", "z"), cont("a"), cont("b")]);
    expect(
      efficiency(s, makePlan(s, { family: "optimal", trials: 12, terms: "main", starts: 20 }), "main"),
    ).toBeCloseTo(100, 6);
  });

  it("estimates cubic and three-factor terms picked one by one", () => {
    const s = plainStudy(3);
    const terms = [["a"], ["b"], ["c"], ["a", "a"], ["a", "b", "c"], ["a", "a", "a"]];
    const p = makePlan(s, { family: "optimal", trials: 9, terms, starts: 10 });
    expect(pointModel(s, pointsOf(p), terms).rank.dropped).toEqual([]);
    expect(p.recipe.terms).toEqual(terms);
  });

  it("stays in any region, on settable steps where asked, and the same seed makes the same plan", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1000 }),
        fc.double({ min: -0.3, max: 1.2, noNaN: true }),
        fc.boolean(),
        (seed, bound, snapped) => {
          const s = studyOf([cont("a", { step: 0.25 }), cont("b", { low: 10, high: 30 }), cat("c", "x", "y", "z")], {
            region: {
              limits: [{ terms: { a: 1, b: 0.1 }, at: "most", bound: 2 + bound }],
              forbidden: [{ c: ["y"], a: { from: -0.2, to: 0.4 } }],
            },
          });
          const options: PlanOptions = {
            family: "optimal",
            trials: 12,
            terms: "main+2fi",
            seed,
            starts: 3,
            snap: snapped,
          };
          const p = makePlan(s, options);
          expect(p.trials).toHaveLength(12);
          expect(p.excluded).toBe(0);
          for (const t of p.trials) {
            expect(allowed(s, t.settings)).toBe(true);
            expect(withinRanges(s.factors, t.settings)).toBe(true);
            if (snapped)
              for (const f of s.factors)
                if (isNumeric(f)) expect(snap(f, t.settings[f.id] as number)).toBe(t.settings[f.id]);
          }
          expect(makePlan(s, options).trials).toEqual(p.trials);
        },
      ),
      { numRuns: 12 },
    );
  });

  it("reaches the corners a slanting limit cuts: the best three trials of a triangle are its corners", () => {
    // Main effects of two factors in three trials: |X′X| is four times the triangle's squared area, largest at the
    // corners.
    const s = studyOf([cont("a"), cont("b")], {
      region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 0 }], forbidden: [] },
    });
    const p = makePlan(s, { family: "optimal", trials: 3, terms: "main", snap: false });
    const got = p.trials.map((t) => `${Number(t.settings.a).toFixed(4)},${Number(t.settings.b).toFixed(4)}`).sort();
    expect(got).toEqual(["-1.0000,-1.0000", "-1.0000,1.0000", "1.0000,-1.0000"]);
  });

  it("keeps the runs already made and fills what they lack", () => {
    const s = plainStudy(2);
    const corner = [-1, 1].flatMap((a) => [-1, 1].map((b) => ({ a, b })));
    const run = parseStudy({
      ...s,
      waves: [{ id: "w1" }],
      trials: corner.map((settings, i) => ({ id: `t${i + 1}`, wave: "w1", settings })),
    });
    expect(refusal(() => makePlan(run, { family: "optimal", trials: 2, terms: "quadratic", keep: true }))).toContain(
      "at least 3 can",
    );
    const p = makePlan(run, { family: "optimal", trials: 4, terms: "quadratic", keep: true, starts: 20 });
    const all = {
      settings: [...corner, ...p.trials.map((t) => t.settings)],
      waves: [...corner.map(() => "w1"), ...p.trials.map((t) => t.wave)],
    };
    expect(pointModel(run, all, termSet(run, "quadratic")).rank.dropped).toEqual([]);
    expect(p.trials[0].order).toBe(5);
  });

  it("splits into even blocks whose shift can be told from the terms", () => {
    const s = plainStudy(3);
    const p = makePlan(s, { family: "optimal", trials: 12, terms: "main", blocks: 3, starts: 20 });
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(waves.map((w) => p.trials.filter((t) => t.wave === w).length)).toEqual([4, 4, 4]);
    expect(efficiency(s, p, "main")).toBeCloseTo(100, 6);
  });

  it("stopped half way keeps the best it has, and the recipe makes that plan again", () => {
    const s = plainStudy(4);
    const steps = planSteps(s, { family: "optimal", trials: 20, terms: "quadratic", starts: 5000 });
    let step = steps.next();
    for (let i = 0; i < 6 && !step.done; i++) step = steps.next();
    step = steps.next(true);
    expect(step.done).toBe(true);
    const p = step.value as Plan;
    expect(p.recipe.starts).toBeLessThan(5000);
    const again = makePlan(s, { family: "optimal", trials: 20, terms: "quadratic", starts: p.recipe.starts ?? 0 });
    expect(again.trials).toEqual(p.trials);
  });

  it("says at once what cannot be planned", () => {
    const s = studyOf([cont("a"), cont("b")], {
      region: {
        limits: [
          { terms: { a: 1, b: 1 }, at: "most", bound: -0.5 },
          { terms: { a: 1, b: 1 }, at: "least", bound: 0.5 },
        ],
        forbidden: [],
      },
    });
    expect(refusal(() => makePlan(s, { family: "optimal", trials: 6, terms: "main" }))).toContain("No point was found");
    const one = studyOf([cont("a"), cat("c", "x", "y")], { region: { limits: [], forbidden: [{ c: ["y"] }] } });
    expect(refusal(() => makePlan(one, { family: "optimal", trials: 6, terms: "main" }))).toContain("only the level x");
    expect(refusal(() => makePlan(plainStudy(5), { family: "optimal", trials: 12, terms: "quadratic" }))).toContain(
      "21 columns; 12 trials cannot",
    );
    expect(refusal(() => makePlan(plainStudy(5), { family: "optimal", trials: 10_000, terms: "main" }))).toContain(
      "from 1 to 5000",
    );
    const many = studyOf(Array.from({ length: 30 }, (_, i) => cont(`f${i}`)));
    expect(refusal(() => makePlan(many, { family: "optimal", trials: 600, terms: "quadratic" }))).toContain(
      "at most 300",
    );
  });
});

describe("Least aliasing", () => {
  const s = plainStudy(6);
  it("12 trials, 6 factors, D at 90 %: the alias trace the literature's criterion asks for, the constant's row included", () => {
    const p = makePlan(s, { family: "least-aliasing", trials: 12, snap: false, starts: 8 });
    const a = appraisePoints(s, pointsOf(p));
    expect(a.alias.trace).toBeLessThan(0.515);
    expect(a.efficiency.d).toBeGreaterThan(90 - 1e-6);
    expect(p.recipe.keepEfficiency).toBe(0.9);
  });

  it("keeping all of the efficiency is the sharpest plan itself", () => {
    const p = makePlan(s, { family: "least-aliasing", trials: 12, keepEfficiency: 1, starts: 2 });
    expect(appraisePoints(s, pointsOf(p)).efficiency.d).toBeCloseTo(100, 4);
  });

  it("refuses a share out of reach and an empty list of possible terms", () => {
    expect(refusal(() => makePlan(s, { family: "least-aliasing", trials: 12, keepEfficiency: 1.5 }))).toContain(
      "up to 1",
    );
    expect(refusal(() => makePlan(s, { family: "least-aliasing", trials: 24, terms: "main+2fi" }))).toContain(
      "nothing to keep clear of",
    );
  });
});
