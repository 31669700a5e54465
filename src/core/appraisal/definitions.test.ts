// What an appraisal says of irregular plans, worked out a second time by elimination from columns written down here.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { makePlan } from "../plans/make-plan";
import type { Settings, Study, Term } from "../study/schema";
import { determinant, gram, independence, regress } from "../testing/elimination";
import { cat, cont, plainStudy, pointsOf as pointsOfPlan, studyOf } from "../testing/studies";
import { appraise, appraisePoints } from "./appraise";

const LEVELS = ["p", "q", "r"];
const TERMS: Term[] = [["a"], ["b"], ["lot"], ["a", "b"], ["a", "a"]];
const POSSIBLE: Term[] = [
  ["b", "b"],
  ["a", "lot"],
];
/** Sum-to-zero, as coefficients are told, and with mean square 1 over the levels, as efficiencies are. */
const contrasts = {
  sum: [
    [1, 0],
    [0, 1],
    [-1, -1],
  ],
  even: [
    [Math.sqrt(3 / 2), Math.sqrt(1 / 2)],
    [-Math.sqrt(3 / 2), Math.sqrt(1 / 2)],
    [0, -2 * Math.sqrt(1 / 2)],
  ],
};
const own = (s: Settings, coding: "sum" | "even"): number[] => {
  const [a, b, lot] = [s.a as number, s.b as number, contrasts[coding][LEVELS.indexOf(s.lot as string)]];
  return [1, a, b, ...lot, a * b, a * a];
};
const KEYS = ["", "a", "b", "lot", "lot", "a*b", "a*a"];
const other = (s: Settings): number[] => {
  const [a, b, lot] = [s.a as number, s.b as number, contrasts.sum[LEVELS.indexOf(s.lot as string)]];
  return [b * b, a * lot[0], a * lot[1]];
};

interface Case {
  study: Study;
  settings: Settings[];
  wave: number[];
}
const cases = fc
  .array(fc.tuple(fc.integer({ min: -20, max: 20 }), fc.integer({ min: -20, max: 20 })), {
    minLength: 18,
    maxLength: 18,
  })
  .map((rows): Case => {
    const settings = rows.map(([a, b], i): Settings => ({ a: a / 20, b: b / 20, lot: LEVELS[i % 3] }));
    return {
      study: studyOf([cont("a"), cont("b"), cat("lot", ...LEVELS)], {
        waves: [{ id: "w1" }, { id: "w2" }],
        trials: settings.map((s, i) => ({ id: `t${i}`, wave: i < 9 ? "w1" : "w2", settings: s })),
      }),
      settings,
      wave: settings.map((_, i) => (i < 9 ? -1 : 1)),
    };
  })
  .filter(
    ({ settings, wave }) => independence(settings.map((s, i) => [...own(s, "sum"), wave[i], ...other(s)])) > 1e-5,
  );
const check = (property: (c: Case) => void, numRuns = 20): void => fc.assert(fc.property(cases, property), { numRuns });
const close = (value: number | null | undefined, wanted: number, digits = 7): void => {
  if (value === null || value === undefined) throw new Error("There is no figure.");
  expect(Math.abs(value - wanted)).toBeLessThan(10 ** -digits * Math.max(1, Math.abs(wanted)));
};

describe("an irregular plan in two waves with a category, by elimination", () => {
  it("relative standard errors and leverages", () =>
    check(({ study, settings, wave }) => {
      const x = settings.map((s, i) => [...own(s, "sum"), wave[i]]);
      const fit = regress(
        x,
        x.map(() => 0),
      );
      const a = appraise(study, { terms: TERMS, possible: POSSIBLE });
      expect(a.standardError).toHaveLength(KEYS.length);
      a.standardError.forEach((s, j) => {
        const unit = x[0].map((_, i) => Number(i === j));
        expect(s.term.join("*")).toBe(KEYS[j]);
        close(s.value, Math.sqrt(fit.inverse(unit)));
      });
      a.leverage.forEach((h, i) => close(h, fit.inverse(x[i])));
      close(
        a.leverage.reduce((t, h) => t + h, 0),
        x[0].length,
      );
    }));

  it("the alias matrix: what each left-out column adds to each coefficient", () =>
    check(({ study, settings, wave }) => {
      const x = settings.map((s, i) => [...own(s, "sum"), wave[i]]);
      const a = appraise(study, { terms: TERMS, possible: POSSIBLE });
      let trace = 0;
      for (let c = 0; c < 3; c++) {
        // Regressing the left-out column on the model gives its column of A.
        const { b } = regress(
          x,
          settings.map((s) => other(s)[c]),
        );
        KEYS.forEach((_, r) => {
          close(a.alias.values[r][c], b[r]);
          trace += b[r] ** 2;
        });
      }
      close(a.alias.trace, trace);
    }));

  it("variance inflation per term by determinants of correlations, GVIF^(1/df) (Fox & Monette 1992)", () =>
    check(({ study, settings, wave }) => {
      const columns = [...KEYS.slice(1), "@wave"];
      const x = settings.map((s, i) => [...own(s, "sum").slice(1), wave[i]]);
      const means = x[0].map((_, j) => x.reduce((t, row) => t + row[j], 0) / x.length);
      const g = gram(x.map((row) => row.map((v, j) => v - means[j])));
      const r = g.map((row, i) => row.map((v, j) => v / Math.sqrt(g[i][i] * g[j][j])));
      const part = (take: (key: string) => boolean): number => {
        const at = columns.flatMap((key, j) => (take(key) ? [j] : []));
        return determinant(at.map((i) => at.map((j) => r[i][j])));
      };
      for (const { term, value } of appraise(study, { terms: TERMS, possible: [] }).vif) {
        const key = term.join("*");
        const df = columns.filter((c) => c === key).length;
        close(value, ((part((c) => c === key) * part((c) => c !== key)) / part(() => true)) ** (1 / df), 6);
      }
    }));

  it("efficiencies by their definitions, after waves, with contrasts that do not depend on coding", () =>
    check(({ study, settings, wave }) => {
      const n = settings.length;
      const x = settings.map((s, i) => [...own(s, "even"), wave[i]]);
      const p = KEYS.length;
      const fit = regress(
        x,
        x.map(() => 0),
      );
      const { efficiency } = appraise(study, { terms: TERMS, possible: [] });
      // |X′X| after waves is that of all columns over that of the waves.
      close(efficiency.d, (100 * (determinant(gram(x)) / n) ** (1 / p)) / n, 6);
      const trace = KEYS.reduce((t, _, j) => t + fit.inverse(x[0].map((__, i) => Number(i === j))), 0);
      close(efficiency.a, (100 * p) / (n * trace), 6);
      // Prediction variance on a fine grid, between the waves.
      const steps = 24;
      let sum = 0;
      let most = 0;
      for (const lot of LEVELS)
        for (let i = 0; i <= steps; i++)
          for (let j = 0; j <= steps; j++) {
            const at = (k: number): number => -1 + (2 * k) / steps;
            const d = fit.inverse([...own({ a: at(i), b: at(j), lot }, "even"), 0]);
            most = Math.max(most, d);
            // Simpson's rule, exact for cubics: fourth powers leave an error of the order of the step's fourth power.
            const weight = (k: number): number => (k === 0 || k === steps ? 1 : k % 2 ? 4 : 2) / (3 * steps);
            sum += (weight(i) * weight(j) * d) / LEVELS.length;
          }
      close((efficiency.i ?? 0) / sum, 1, 3);
      const largest = (100 * p) / (n * (efficiency.g ?? 0));
      expect(largest).toBeGreaterThan(most * (1 - 1e-9));
      expect(largest).toBeLessThan(most * 1.03);
    }, 6));
});

describe("alias chains of fractions, by multiplying out the columns that are run", () => {
  it.each([
    [4, 8],
    [6, 16],
    [7, 16],
    [8, 16],
    [9, 32],
    [10, 16],
  ])("%i factors in %i trials", (k, trials) => {
    const study = plainStudy(k);
    const { settings, waves } = pointsOfPlan(makePlan(study, { family: "fraction", trials }));
    const ids = study.factors.map((f) => f.id);
    const column = (term: Term): number[] => settings.map((s) => term.reduce((t, id) => t * (s[id] as number), 1));
    const effects: Term[] = [...ids.map((a) => [a]), ...ids.flatMap((a, i) => ids.slice(i + 1).map((b) => [a, b]))];
    const a = appraisePoints(study, { settings, waves });
    const chainOf = new Map(
      a.chains.flatMap((chain, c) =>
        chain.map((term, m) => [term.join("*"), { c, sign: a.chainSigns[c][m] }] as const),
      ),
    );
    for (const [i, e] of effects.entries())
      for (const f of effects.slice(i + 1)) {
        const [u, v] = [column(e), column(f)];
        const together = u.every((x, r) => x === v[r]) ? 1 : u.every((x, r) => x === -v[r]) ? -1 : 0;
        const [p, q] = [chainOf.get(e.join("*")), chainOf.get(f.join("*"))];
        expect(p !== undefined && q !== undefined && p.c === q.c).toBe(together !== 0);
        if (together !== 0 && p && q) expect(p.sign * q.sign).toBe(together);
      }
    // Resolution: the shortest product of columns that never changes.
    const words: Term[] = [[]];
    for (const id of ids) words.push(...words.filter((t) => t.length < 5).map((t) => [...t, id]));
    const still = words.filter((t) => t.length > 0 && new Set(column(t)).size === 1);
    expect(a.resolution).toBe(Math.min(...still.map((t) => t.length)));
  });
});
