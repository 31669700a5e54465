import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readStudyFile } from "../formats/study-file";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { termSet } from "../terms/candidates";
import { regress } from "../testing/elimination";
import reference from "../testing/reference.json";
import { corners, digits, plainStudy, squares, withTrials } from "../testing/studies";
import { equationOf } from "./equation";
import { fitModel } from "./fit";
import { effectLadder } from "./ladder";
import { lenthMargins, saturatedContrasts } from "./lenth";
import { linearSurface } from "./linear-surface";
import { reduceModel } from "./reduce";

const effectsOf = (study: Study, terms: Term[]) =>
  Object.fromEntries(
    fitModel(study, "y", { terms })
      .parameters.filter((p) => p.term.length > 0)
      .map((p) => [p.term.join(""), p.effect]),
  );
const allTerms = (k: number): Term[] => {
  const ids = Array.from({ length: k }, (_, i) => String.fromCharCode(97 + i));
  return Array.from({ length: 2 ** k - 1 }, (_, m) => ids.filter((__, j) => (m + 1) & (1 << j)));
};

// Box, Hunter & Hunter (2005), pilot plant 2³, table 5.2: yields in standard order and their effects.
const pilot = withTrials(plainStudy(3), corners(3), [60, 72, 54, 68, 52, 83, 45, 80]);
// Montgomery (2013), filtration rate 2⁴, table 6.10 and its effects and Lenth margins.
const filtration = withTrials(
  plainStudy(4),
  corners(4),
  [45, 71, 48, 65, 68, 60, 80, 65, 43, 100, 45, 104, 75, 86, 70, 96],
);

describe("two-level effects agree with textbooks", () => {
  it("pilot plant", () =>
    expect(effectsOf(pilot, allTerms(3))).toEqual({ a: 23, b: -5, ab: 1.5, c: 1.5, ac: 10, bc: 0, abc: 0.5 }));
  it("filtration rate", () => {
    const effects = effectsOf(filtration, allTerms(4));
    expect([effects.a, effects.b, effects.c, effects.d, effects.ac, effects.ad, effects.bcd]).toEqual([
      21.625, 3.125, 9.875, 14.625, -18.125, 16.625, -2.625,
    ]);
  });
  it("Lenth's figures of the filtration effects: PSE 2.625, ME 6.748, SME 13.699", () => {
    const { contrasts, lenth } = saturatedContrasts(
      filtration,
      fitModel(filtration, "y", { terms: [] }).data,
      fitModel(filtration, "y", { terms: [] }).model.observed,
    );
    expect(contrasts).toHaveLength(15);
    expect(lenth?.pse).toBeCloseTo(2.625, 10);
    expect(lenth?.margin).toBeCloseTo(6.748, 3);
    expect(lenth?.simultaneousMargin).toBeCloseTo(13.699, 2);
  });
  it("Lenth is refused below five contrasts and when a trial is missing", () => {
    expect(lenthMargins([1, 2, 3, 4], 0.95)).toBeUndefined();
    const holed = {
      ...filtration,
      trials: filtration.trials.map((t, i) => (i === 4 ? { ...t, state: "failed" as const } : t)),
    };
    const fit = fitModel(holed, "y", { terms: [] });
    expect(saturatedContrasts(holed, fit.data, fit.model.observed)).toMatchObject({
      contrasts: [],
      refusal: { code: "contrasts-unbalanced" },
    });
  });
  it("the filtration model A, C, D, AC, AD: residual SS 195.12 on 10 df, R² 0.966, predicted 0.9128 (Montgomery, table 6.13)", () => {
    const fit = fitModel(filtration, "y", { terms: [["a"], ["c"], ["d"], ["a", "c"], ["a", "d"]] });
    expect(squares(fit.summary).rss).toBeCloseTo(195.125, 8);
    expect(fit.summary.residualDf).toBe(10);
    expect(fit.summary.r2).toBeCloseTo(0.966, 3);
    expect(squares(fit.summary).press).toBeCloseTo(499.52, 2);
    expect(fit.summary.r2Predicted).toBeCloseTo(0.9128, 4);
    expect(fit.anova.find((r) => r.term?.join("") === "a")?.ss).toBeCloseTo(1870.5625, 8);
  });
});

describe("category of three levels, two waves, as-run settings: exact fractions (scripts/reference/make.py)", () => {
  const m = reference.mixed;
  const levels = ["p", "q", "r"];
  const study = withTrials(
    plainStudy(0, {
      factors: [
        { id: "temp", kind: "continuous", low: 50, high: 70 },
        { id: "dose", kind: "continuous", low: 4, high: 8 },
        { id: "kind", kind: "categorical", levels },
      ],
    }),
    m.temp.map((t, i) => ({
      temp: t === 70.5 ? 70 : t,
      dose: m.dose[i] === 5.5 ? 6 : m.dose[i],
      kind: levels[m.kind[i]],
    })),
    m.y,
    {
      wave: (i) => `w${m.wave[i]}`,
      asRun: m.temp.map((t, i): Settings | undefined =>
        t === 70.5 ? { temp: 70.5 } : m.dose[i] === 5.5 ? { dose: 5.5 } : undefined,
      ),
    },
  );
  // The reference holds no column of the centre, which these settings would bring.
  const terms = [["temp"], ["dose"], ["kind"], ["temp", "dose"]];
  const fit = fitModel(study, "y", { terms, curvature: false });
  it("coefficients to 12 digits, standard errors to 11", () => {
    const s2 = Number(m.rss) / (12 - 7);
    fit.parameters.forEach((p, j) => {
      expect(digits(p.coefficient, m.coefficients[j])).toBeGreaterThan(12);
      expect(digits(p.standardError, Math.sqrt(s2 * Number(m.inverse[j])))).toBeGreaterThan(11);
    });
  });
  it("partial and sequential sums of squares, PRESS, total, leverages to 11 digits", () => {
    const row = (source: string, term?: string) =>
      fit.anova.find((r) => r.source === source && (term === undefined || r.term?.join("") === term));
    expect(digits(row("wave")?.ss, m.partial[1])).toBeGreaterThan(11);
    expect(digits(row("term", "temp")?.ss, m.partial[2])).toBeGreaterThan(11);
    expect(digits(row("term", "dose")?.sequentialSs, m.sequential[3])).toBeGreaterThan(11);
    expect(
      digits(row("term", "kind")?.sequentialSs, Number(m.sequential[4]) + Number(m.sequential[5])),
    ).toBeGreaterThan(11);
    expect(digits(row("term", "tempdose")?.ss, m.partial[6])).toBeGreaterThan(11);
    expect(digits(squares(fit.summary).press, m.press)).toBeGreaterThan(11);
    expect(digits(squares(fit.summary).sst, m.sst)).toBeGreaterThan(13);
    m.leverage.forEach((h, i) => expect(digits(fit.trials[i].leverage, h)).toBeGreaterThan(11));
  });
  it("criteria and deleted residuals follow their definitions from the exact sums", () => {
    const rss = Number(m.rss);
    const k = 8;
    expect(
      digits(fit.summary.aicc, 12 * Math.log(rss / 12) + 2 * k + (2 * k * (k + 1)) / (12 - k - 1)),
    ).toBeGreaterThan(10);
    expect(digits(fit.summary.bic, 12 * Math.log(rss / 12) + k * Math.log(12))).toBeGreaterThan(10);
    const t = fit.trials[3];
    const without = (rss - t.residual ** 2 / (1 - t.leverage)) / 4;
    expect(digits(t.deleted, t.residual / Math.sqrt(without * (1 - t.leverage)))).toBeGreaterThan(9);
    expect(digits(t.cooks, (t.residual ** 2 * t.leverage) / ((rss / 5) * 7 * (1 - t.leverage) ** 2))).toBeGreaterThan(
      9,
    );
    expect(digits(t.dffits, (t.deleted as number) * Math.sqrt(t.leverage / (1 - t.leverage)))).toBeGreaterThan(12);
  });
  it("equations in natural units agree with predictions for every level to 1e−12 of the terms' size", () => {
    const read = linearSurface(study, fit);
    for (const equation of equationOf(study, fit).natural)
      for (const [temp, dose] of [
        [50, 4],
        [63.7, 7.1],
        [70, 8],
      ]) {
        const at: Record<string, number> = { temp, dose };
        const parts = equation.coefficients.map((c) => c.coefficient * c.term.reduce((v, id) => v * at[id], 1));
        const size = parts.reduce((t, v) => t + Math.abs(v), 0);
        expect(Math.abs(parts.reduce((t, v) => t + v, 0) - read.fitted({ ...at, ...equation.when }))).toBeLessThan(
          1e-12 * size,
        );
      }
    expect(equationOf(study, fit).natural.map((e) => e.when?.kind)).toEqual(levels);
  });
  it("a ghost on the ladder is what the fit with it gives", () => {
    const smaller = fitModel(study, "y", { terms: terms.slice(0, 3), curvature: false });
    const rung = effectLadder(study, smaller).rungs.find((r) => r.key === "dose*temp");
    const p = fit.parameters.find((x) => x.term.length === 2);
    expect(rung?.inModel).toBe(false);
    expect(digits(rung?.size, 2 * (p?.coefficient ?? 0))).toBeGreaterThan(10);
    expect(digits(rung?.interval?.[0], 2 * (p?.interval?.[0] ?? 0))).toBeGreaterThan(9);
    expect(digits(rung?.p, p?.p ?? 0)).toBeGreaterThan(9);
  });
});

describe("signs", () => {
  it("an interaction of two categories has one sign: in the coefficient, on the ladder, among the contrasts", () => {
    const levels = ["no", "yes"];
    const places = [0, 1, 2, 3, 0, 1, 2, 3].map((i) => ({ a: levels[i & 1], b: levels[i >> 1], c: 0 }));
    const crossed = parseStudy({
      ...withTrials(plainStudy(3), [], []),
      factors: [
        { id: "a", kind: "categorical", levels },
        { id: "b", kind: "categorical", levels },
        { id: "c", kind: "continuous", low: -1, high: 1 },
      ],
      waves: [{ id: "w" }],
      trials: places.map((settings, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: { ...settings, c: i < 4 ? -1 : 1 },
        // Both "yes" or both "no" is 2 above the rest.
        results: { y: (settings.a === settings.b ? 12 : 10) + [0.1, -0.1, 0.2, 0, -0.2, 0.1, 0, -0.1][i] },
      })),
    });
    const fit = fitModel(crossed, "y", { terms: [["a"], ["b"], ["c"], ["a", "b"]] });
    const rung = effectLadder(crossed, fit).rungs.find((r) => r.key === "a*b");
    const contrast = saturatedContrasts(crossed, fit.data, fit.model.observed).contrasts.find(
      (c) => c.term.join() === "a,b",
    );
    const coefficient = fit.parameters.find((p) => p.term.length === 2)?.coefficient ?? 0;
    expect(2 * coefficient).toBeCloseTo(2, 0);
    expect(rung?.size).toBeCloseTo(2 * coefficient, 10);
    expect(contrast?.effect).toBeCloseTo(2 * coefficient, 10);
  });
});

describe("natural units", () => {
  it("coefficients have the intervals of a fit in natural units", () => {
    // The same model fitted anew on u = 60 + 8a and v = 5 + 2b: linear changes of factors change no fit.
    const factors = [
      { id: "a", kind: "continuous" as const, low: 52, high: 68 },
      { id: "b", kind: "continuous" as const, low: 3, high: 7 },
    ];
    const settings = [...corners(2), ...corners(2)].map((s) => ({
      a: 60 + 8 * (s.a as number),
      b: 5 + 2 * (s.b as number),
    }));
    const y = [10.2, 14.1, 12.3, 18.2, 10.5, 13.8, 12.1, 17.9];
    const study = withTrials(plainStudy(0, { factors }), settings, y);
    const [{ coefficients }] = equationOf(study, fitModel(study, "y", { terms: [["a"], ["b"], ["a", "b"]] })).natural;
    const own = regress(
      settings.map((s) => [1, s.a, s.b, s.a * s.b]),
      y,
    );
    // t on 4 df at 97.5 %: 2.776445.
    coefficients.forEach((c, j) => {
      const unit = [0, 0, 0, 0].map((_, k) => (k === j ? 1 : 0));
      const error = Math.sqrt((own.rss / own.df) * own.inverse(unit));
      expect(c.coefficient / own.b[j]).toBeCloseTo(1, 7);
      expect((c.standardError ?? 0) / error).toBeCloseTo(1, 6);
      expect(((c.interval?.[1] ?? 0) - c.coefficient) / (2.776445 * error)).toBeCloseTo(1, 6);
    });
  });
});

describe("residual splits", () => {
  // 2² with five centre points (Montgomery 2013, example 6.7 figures): 39.3, 40.9, 40.0, 41.5; 40.3, 40.5, 40.7,
  // 40.2, 40.6.
  const centred = withTrials(
    plainStudy(2),
    [...corners(2), ...Array.from({ length: 5 }, () => ({ a: 0, b: 0 }))],
    [39.3, 40.9, 40.0, 41.5, 40.3, 40.5, 40.7, 40.2, 40.6],
  );
  it("curvature and pure error: SS curvature 0.0027, pure error 0.1720 on 4 df", () => {
    const fit = fitModel(centred, "y", { terms: [["a"], ["b"], ["a", "b"]] });
    expect(fit.curvature?.ss).toBeCloseTo(0.00272222, 8);
    expect(fit.lackOfFit).toMatchObject({ df: 0, pureErrorDf: 4 });
    expect(fit.lackOfFit?.pureErrorSs).toBeCloseTo(0.172, 10);
    expect(fit.curvature?.f).toBeCloseTo(0.00272222 / 0.043, 4);
  });
  it("interaction left out becomes lack of fit with one df", () => {
    const fit = fitModel(centred, "y", { terms: [["a"], ["b"]] });
    expect(fit.lackOfFit?.df).toBe(1);
    expect(fit.lackOfFit?.ss).toBeCloseTo(0.0025, 10);
    expect(fit.lackOfFit?.f).toBeCloseTo(0.0025 / 0.043, 6);
  });
});

describe("what cannot be told is reported, never NaN", () => {
  it("aliased terms are dropped with what they equal; as-run values do not break the chain", () => {
    const half = corners(2).map((c) => ({ ...c, c: (c.a as number) * (c.b as number) }));
    const study = withTrials(plainStudy(3), half, [1, 2, 4, 8], { asRun: [{ c: 0.98 }] });
    const fit = fitModel(study, "y", { terms: [["a"], ["b"], ["c"], ["a", "b"]] });
    expect(fit.dropped).toEqual([{ term: ["a", "b"], equals: [{ term: ["c"], factor: 1 }] }]);
    expect(fit.summary).toMatchObject({ s: null, residualDf: 0 });
    expect(fit.parameters.every((p) => p.p === null && p.interval === null)).toBe(true);
    expect(JSON.stringify(fit.trials)).not.toMatch(/NaN|Infinity/);
  });
  it("leverage one leaves deletion figures and predicted R² absent with the reason", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }, { a: -1 }, { a: -1 }, { a: 1 }], [1, 2, 3, 9]);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    expect(fit.trials[3].deleted).toBeNull();
    expect(fit.summary.r2Predicted).toBeNull();
    expect(fit.absent).toContainEqual({ code: "no-predicted-r2", values: { trial: "t4" } });
  });
  it("an exact fit has no criteria and no p-values", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }, { a: 0 }, { a: 1 }, { a: 0.5 }], [1, 2, 3, 2.5]);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    expect([fit.summary.aicc, fit.summary.bic, fit.parameters[1].p]).toEqual([null, null, null]);
  });
  it.each([
    ["no-results", []],
    ["too-few-results", [1]],
    ["constant-response", [3, 3, 3, 3]],
  ])("%s is a sentence", (code, y) =>
    expect(() => fitModel(withTrials(plainStudy(2), corners(2), y), "y", { terms: [["a"]] })).toThrow(
      expect.objectContaining({ code }),
    ),
  );
});

describe("reduction", () => {
  it("backward by p keeps parents and records each step with what it was compared with", () => {
    const { fit, steps } = reduceModel(filtration, "y", termSet(filtration, "main+2fi"), {
      direction: "backward",
      by: "p",
      alpha: 0.05,
      hierarchy: "strong",
    });
    expect(fit.terms).toEqual([["a"], ["c"], ["d"], ["a", "c"], ["a", "d"]]);
    expect(steps[0].compared.length).toBe(6);
    expect(steps.every((s) => s.action === "drop" && (s.value ?? 1) > 0.05)).toBe(true);
    expect(squares(fit.summary).rss).toBeCloseTo(195.125, 8);
    expect(steps.at(-1)?.after.s).toBe(fit.summary.s);
  });
  it("by AICc and BIC every step lowers the criterion, and at the end none would", () => {
    for (const by of ["aicc", "bic"] as const)
      for (const direction of ["forward", "both", "backward"] as const) {
        const { fit, steps } = reduceModel(filtration, "y", termSet(filtration, "main+2fi"), {
          direction,
          by,
          alpha: 0.05,
          hierarchy: "strong",
        });
        expect(steps.length).toBeGreaterThan(0);
        for (const s of steps) expect(s.after[by] as number).toBeLessThan(s.before[by] as number);
        const more = ["a", "b", "c", "d"].filter((id) => !fit.terms.some((t) => t.length === 1 && t[0] === id));
        if (direction !== "backward")
          for (const id of more)
            expect(fitModel(filtration, "y", { terms: [...fit.terms, [id]] }).summary[by] as number).toBeGreaterThan(
              fit.summary[by] as number,
            );
      }
  });
  it("from two terms short of saturation backward goes forward, says so, and ends where no single step is lower", () => {
    // 20 trials of made-up settings, y = 3 a − 2 b + noise; 18 terms leave one residual degree of freedom.
    const draw = (i: number, j: number): number => {
      const x = Math.sin(12.9898 * (i + 1) + 78.233 * (j + 1)) * 43758.5453;
      return 2 * (x - Math.floor(x)) - 1;
    };
    const settings = Array.from({ length: 20 }, (_, i) =>
      Object.fromEntries(["a", "b", "c", "d", "e"].map((id, j) => [id, draw(i, j)])),
    );
    const y = settings.map((s, i) => 3 * s.a - 2 * s.b + 0.3 * draw(i, 9));
    const study = withTrials(plainStudy(5), settings, y);
    const pool = termSet(study, "quadratic").slice(0, 18);
    expect(fitModel(study, "y", { terms: pool }).summary).toMatchObject({ residualDf: 1, aicc: null });
    const columnsOf = (terms: readonly (readonly string[])[]): number[][] =>
      settings.map((s) => [1, ...terms.map((t) => t.reduce((p, id) => p * s[id as "a"], 1))]);
    for (const by of ["aicc", "bic"] as const) {
      const { fit, steps, note } = reduceModel(study, "y", pool, {
        direction: "backward",
        by,
        alpha: 0.05,
        hierarchy: "off",
      });
      expect(note).toEqual({ code: "went-forward", values: { df: 1 } });
      expect(steps.every((s) => s.action === "add")).toBe(true);
      expect(fit.summary.residualDf).toBeGreaterThanOrEqual(3);
      // Both criteria worked out here, by elimination on columns of this test's own.
      const criterion = (terms: typeof fit.terms): number => {
        const { rss, df } = regress(columnsOf(terms), y);
        const k = 20 - df + 1;
        return 20 * Math.log(rss / 20) + (by === "bic" ? k * Math.log(20) : 2 * k + (2 * k * (k + 1)) / (20 - k - 1));
      };
      const here = criterion(fit.terms);
      expect(here).toBeCloseTo(fit.summary[by] as number, 8);
      for (const term of pool.filter((t) => !fit.terms.some((kept) => kept.join() === t.join())))
        expect(criterion([...fit.terms, term])).toBeGreaterThan(here);
    }
  });
  it("a saturated start goes forward from the constant, and never below three residual df", () => {
    const { fit, steps, note } = reduceModel(pilot, "y", allTerms(3), {
      direction: "backward",
      by: "p",
      alpha: 0.05,
      hierarchy: "strong",
    });
    expect(note).toEqual({ code: "went-forward", values: { df: 0 } });
    expect(steps.map((s) => s.action)).not.toContain("drop");
    expect(fit.summary.residualDf).toBeGreaterThanOrEqual(3);
    // y = 5 + 2a − b + ab exactly: the fourth term that would be perfect stays out with three residual df left.
    const corner = Array.from({ length: 8 }, (_, i) => ({ a: i & 1 ? 1 : -1, b: i & 2 ? 1 : -1, c: i & 4 ? 1 : -1 }));
    const bare = withTrials(
      plainStudy(3),
      corner,
      corner.map((s, i) => 5 + 2 * s.a - s.b + s.a * s.b + 0.5 * s.c + (i % 3) / 100),
    );
    const kept = reduceModel(bare, "y", allTerms(3), {
      direction: "backward",
      by: "bic",
      alpha: 0.05,
      hierarchy: "off",
    });
    expect(kept.fit.summary.residualDf).toBe(3);
    expect(kept.fit.terms).toHaveLength(4);
  });
  it("backward from three residual df on goes backward", () => {
    const { steps, note } = reduceModel(filtration, "y", [["a"], ["b"], ["c"], ["d"]], {
      direction: "backward",
      by: "aicc",
      alpha: 0.05,
      hierarchy: "strong",
    });
    expect(note).toBeUndefined();
    expect(steps.every((s) => s.action === "drop")).toBe(true);
  });
});

describe("shipped examples", () => {
  it.each(["wool-scouring", "raspberry-drying", "nickel-screening"])(
    "%s is a study, every model of it fits with hierarchy",
    (name) => {
      const study = parseStudy(
        readStudyFile(readFileSync(new URL(`../../../examples/${name}.trialmoor.json`, import.meta.url), "utf8")),
      );
      for (const m of study.models) expect(fitModel(study, m.response, { terms: m.terms }).dropped).toEqual([]);
    },
  );
});
