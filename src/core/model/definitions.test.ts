// Figures of a fit against their definitions, worked out a second time here: columns are written down by hand and
// systems are solved by elimination on the normal equations, which share nothing with the fit but the data.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { tQuantile } from "../numerics/distributions";
import type { Settings, Study, Term } from "../study/schema";
import { dot, independence, regress } from "../testing/elimination";
import { cat, cont, squares, studyOf } from "../testing/studies";
import { fitModel } from "./fit";
import { linearSurface } from "./linear-surface";

const LEVELS = ["p", "q", "r"];
const TERMS: Term[] = [["a"], ["b"], ["lot"], ["a", "b"], ["a", "lot"], ["a", "a"]];
/** Sum-to-zero columns of two waves, two numbers and a category of three levels, in the order of the model. */
const columnsOf = (s: Settings, wave: string): { key: string; value: number }[] => {
  const a = s.a as number;
  const b = s.b as number;
  const lot = LEVELS.indexOf(s.lot as string);
  const c = lot === 2 ? [-1, -1] : [Number(lot === 0), Number(lot === 1)];
  return [
    { key: "", value: 1 },
    { key: "@wave", value: wave === "w1" ? -1 : 1 },
    { key: "a", value: a },
    { key: "b", value: b },
    { key: "lot", value: c[0] },
    { key: "lot", value: c[1] },
    { key: "a*b", value: a * b },
    { key: "a*lot", value: a * c[0] },
    { key: "a*lot", value: a * c[1] },
    { key: "a*a", value: a * a },
  ];
};

interface Case {
  study: Study;
  x: number[][];
  y: number[];
  keys: string[];
}

/** Twenty trials of two waves with made-up results; every level and wave is met with different settings. */
const cases = fc
  .array(
    fc.tuple(
      fc.integer({ min: -100, max: 100 }),
      fc.integer({ min: -100, max: 100 }),
      fc.integer({ min: -500, max: 500 }),
    ),
    {
      minLength: 20,
      maxLength: 20,
    },
  )
  .map((rows): Case => {
    const study = studyOf([cont("a"), cont("b"), cat("lot", ...LEVELS)], {
      waves: [{ id: "w1" }, { id: "w2" }],
      trials: rows.map(([a, b, y], i) => ({
        id: `t${i}`,
        wave: i % 2 ? "w2" : "w1",
        state: "done",
        settings: { a: a / 100, b: b / 100, lot: LEVELS[i % 3] },
        results: { y: y / 10 },
      })),
    });
    const columns = study.trials.map((t) => columnsOf(t.settings, t.wave));
    return {
      study,
      x: columns.map((c) => c.map((v) => v.value)),
      y: study.trials.map((t) => t.results.y as number),
      keys: columns[0].map((c) => c.key),
    };
  })
  // Well-posed cases alone: the elimination here keeps no digits of others.
  .filter(({ x, y }) => new Set(y).size > 10 && independence(x) > 1e-4);
const check = (property: (c: Case) => void, numRuns = 25): void => fc.assert(fc.property(cases, property), { numRuns });
const close = (value: number | null | undefined, wanted: number, digits = 7): void => {
  expect(value).not.toBeNull();
  expect(Math.abs((value as number) - wanted)).toBeLessThan(10 ** -digits * Math.max(1, Math.abs(wanted)));
};

describe("a fit with waves, a category of three levels and a square, by elimination", () => {
  it("coefficients, standard errors, t and intervals", () =>
    check(({ study, x, y }) => {
      const fit = fitModel(study, "y", { terms: TERMS });
      const own = regress(x, y);
      const s2 = own.rss / own.df;
      expect(fit.parameters.length).toBe(own.b.length);
      fit.parameters.forEach((p, j) => {
        const unit = own.b.map((_, i) => Number(i === j));
        const error = Math.sqrt(s2 * own.inverse(unit));
        close(p.coefficient, own.b[j]);
        close(p.standardError, error);
        close(p.t, own.b[j] / error, 6);
        close(p.interval?.[1], own.b[j] + tQuantile(0.975, own.df) * error);
      });
    }));

  it("rows of the analysis of variance: partial by leaving the term out, sequential by adding terms in order, and they add up", () =>
    check(({ study, x, y, keys }) => {
      const fit = fitModel(study, "y", { terms: TERMS });
      const without = (left: (key: string) => boolean): number =>
        regress(
          x.map((row) => row.filter((_, j) => !left(keys[j]))),
          y,
        ).rss;
      const order = [...new Set(keys)];
      const full = without(() => false);
      for (const row of fit.anova.filter((r) => r.source === "term" || r.source === "wave")) {
        const key = row.source === "wave" ? "@wave" : (row.term ?? []).join("*");
        const at = order.indexOf(key);
        expect(row.df).toBe(keys.filter((k) => k === key).length);
        close(row.ss, without((k) => k === key) - full, 6);
        close(row.sequentialSs, without((k) => order.indexOf(k) >= at) - without((k) => order.indexOf(k) > at), 6);
        close(row.f, (row.ss as number) / row.df / (full / fit.summary.residualDf), 6);
      }
      const total = without((k) => k !== "");
      close(squares(fit.summary).sst, total);
      const parts = fit.anova
        .filter((r) => r.source === "term" || r.source === "wave")
        .reduce((t, r) => t + (r.sequentialSs ?? 0), 0);
      close(parts + squares(fit.summary).rss, total);
      close(fit.summary.r2, 1 - full / total);
      close(fit.summary.r2Adjusted, 1 - full / fit.summary.residualDf / (total / (y.length - 1)));
    }));

  it("leverages, studentized and deleted residuals, Cook's distance and DFFITS, by fitting again without each trial", () =>
    check(({ study, x, y }) => {
      const fit = fitModel(study, "y", { terms: TERMS });
      const own = regress(x, y);
      const p = own.b.length;
      const s2 = own.rss / own.df;
      let press = 0;
      fit.trials.forEach((t, i) => {
        const h = own.inverse(x[i]);
        if (h > 0.999) return;
        const rest = regress(
          x.filter((_, r) => r !== i),
          y.filter((_, r) => r !== i),
        );
        const at = dot(x[i], own.b);
        const apart = dot(x[i], rest.b);
        const s2Apart = rest.rss / rest.df;
        close(t.predicted, at, 6);
        close(t.leverage, h, 6);
        close(t.studentized, (y[i] - at) / Math.sqrt(s2 * (1 - h)), 5);
        // The deleted residual in units of its own error, from the fit without the trial (Cook & Weisberg 1982).
        close(t.deleted, (y[i] - apart) / Math.sqrt(s2Apart * (1 + h / (1 - h))), 4);
        close(t.cooks, x.reduce((sum, row) => sum + (dot(row, own.b) - dot(row, rest.b)) ** 2, 0) / (p * s2), 4);
        close(t.dffits, (at - apart) / Math.sqrt(s2Apart * h), 4);
        press += (y[i] - apart) ** 2;
      });
      if (fit.trials.every((t) => t.leverage < 0.99)) close(squares(fit.summary).press, press, 4);
    }, 12));

  it("variance inflation: 1/(1 − R²) of a column on all the others", () =>
    check(({ study, x, keys }) => {
      const fit = fitModel(study, "y", { terms: TERMS });
      const center = (j: number): number[] => {
        const mean = x.reduce((t, row) => t + row[j], 0) / x.length;
        return x.map((row) => row[j] - mean);
      };
      keys.forEach((_, j) => {
        if (j === 0) return;
        const target = x.map((row) => row[j]);
        const { rss } = regress(
          x.map((row) => row.filter((__, c) => c !== j)),
          target,
        );
        const sst = center(j).reduce((t, v) => t + v * v, 0);
        close(fit.parameters[j].vif, sst / rss, 5);
      });
    }));

  it("predictions between the waves with both intervals, away from any trial", () =>
    check(({ study, x, y }) => {
      const own = regress(x, y);
      const s = Math.sqrt(own.rss / own.df);
      const p = linearSurface(study, fitModel(study, "y", { terms: TERMS }));
      for (const settings of [
        { a: 0.31, b: -0.72, lot: "q" },
        { a: -0.9, b: 0.05, lot: "r" },
      ]) {
        // Halfway between two waves the column of waves is 0.
        const row = columnsOf(settings, "w1").map((c) => (c.key === "@wave" ? 0 : c.value));
        const d = own.inverse(row);
        const half = tQuantile(0.975, own.df) * s;
        const said = p.predict(settings);
        close(said.mean, dot(row, own.b), 6);
        close(said.leverage, d, 6);
        close(said.meanInterval?.[0], dot(row, own.b) - half * Math.sqrt(d), 6);
        close(said.trialInterval?.[1], dot(row, own.b) + half * Math.sqrt(1 + d), 6);
      }
    }));
});

describe("pure error is the residual of cells, and waves and covariates as the model holds them (definition 4)", () => {
  const corners = [0, 1, 2, 3];
  const study = studyOf([cont("a"), cont("b")], {
    covariates: [{ id: "warmth", name: "Warmth" }],
    waves: [{ id: "w1" }, { id: "w2" }],
    // Three times each corner, warmth and results of no pattern.
    trials: [0, 1, 2].flatMap((copy) =>
      corners.map((c) => ({
        id: `t${copy}${c}`,
        wave: copy === 2 ? "w2" : "w1",
        state: "done",
        settings: { a: c & 1 ? 1 : -1, b: c & 2 ? 1 : -1 },
        covariates: { warmth: ((7 * copy + 5 * c) % 11) + 0.3 * copy },
        results: { y: 3 + 2 * (c & 1) + ((13 * copy + 4 * c) % 7) / 3 + 0.8 * ((7 * copy + 5 * c) % 11) },
      })),
    ),
  });
  const indicator = (t: Study["trials"][number]): number[] =>
    corners.map((c) => Number(t.settings.a === (c & 1 ? 1 : -1) && t.settings.b === (c & 2 ? 1 : -1)));
  const y = study.trials.map((t) => t.results.y as number);
  const residual = (more: (t: Study["trials"][number]) => number[]): number =>
    regress(
      study.trials.map((t) => [...indicator(t), ...more(t)]),
      y,
    ).rss;
  const wave = (t: Study["trials"][number]): number[] => [Number(t.wave === "w2")];
  const warmth = (t: Study["trials"][number]): number[] => [t.covariates?.warmth as number];
  const mains: Term[] = [["a"], ["b"]];
  it.each([
    ["neither", mains, false, () => [], 8],
    ["waves", mains, true, wave, 7],
    ["a covariate", [...mains, ["warmth"]], false, warmth, 7],
    ["both", [...mains, ["warmth"]], true, (t: Study["trials"][number]) => [...wave(t), ...warmth(t)], 6],
  ] as [string, Term[], boolean, (t: Study["trials"][number]) => number[], number][])(
    "a model that holds %s",
    (_, terms, block, more, df) => {
      const { lackOfFit } = fitModel(study, "y", { terms, block });
      expect(lackOfFit?.pureErrorDf).toBe(df);
      expect(lackOfFit?.pureErrorSs).toBeCloseTo(residual(more), 9);
      // What is left of the residual is lack of fit, on one df: the interaction of a and b.
      expect(lackOfFit?.df).toBe(1);
    },
  );
});
