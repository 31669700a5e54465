import { describe, expect, it } from "vitest";
import { modelReadings } from "../findings/model";
import { trigamma } from "../numerics/distributions";
import { parseStudy } from "../study/validate";
import { presentPredictor } from "../surface/average";
import { cat, cont, corners, digits, plainStudy, refusal, squares, studyOf, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { boxCox, scaleLikelihoods } from "./box-cox";
import { cellSummary } from "./cells";
import { runChecks } from "./checklist";
import { equationOf } from "./equation";
import { fitModel } from "./fit";
import { saturatedContrasts } from "./lenth";
import { linearSurface } from "./linear-surface";
import { spreadCells } from "./spread";
import { handWorking } from "./working";

describe("trigamma", () => {
  it("is π²/6 at 1 and π²/2 at ½", () => {
    expect(digits(trigamma(1), Math.PI ** 2 / 6)).toBeGreaterThan(13);
    expect(digits(trigamma(0.5), Math.PI ** 2 / 2)).toBeGreaterThan(13);
  });
});

/** Two factors, trials at the corners with the repeats given. */
const repeated = (results: (number | null)[][], decimals?: number) =>
  parseStudy({
    ...plainStudy(2, {
      responses: [
        { id: "y", ...(decimals === undefined ? {} : { decimals }) },
        { id: "sy", name: "spread of y", spread: { of: "y", from: "repeats" } },
      ],
    }),
    waves: [{ id: "w" }],
    trials: results.map((r, i) => ({
      id: `t${i + 1}`,
      wave: "w",
      state: "done",
      settings: corners(2)[i % 4],
      results: { y: r },
    })),
  });

describe("spread", () => {
  it("of repeats with ν = 2: ln s less the mean of ln χ²₂/2, which is minus Euler's constant", () => {
    const study = repeated([
      [1, 2, 3],
      [2, 4, 6],
      [1, 2, 3],
      [2, 4, 6],
    ]);
    const fit = fitModel(study, "sy", { terms: [["a"], ["b"]] });
    // s is 1 at low a and 2 at high a: ln s goes from 0 to ln 2, and ½(ln 1 + γ) is added throughout.
    const euler = 0.5772156649015329;
    expect(digits(fit.parameters[0].coefficient, Math.log(2) / 2 + euler / 2)).toBeGreaterThan(13);
    expect(digits(fit.parameters[1].coefficient, Math.log(2) / 2)).toBeGreaterThan(13);
    expect(fit.transform).toBe("log");
    expect(presentPredictor(study, "sy").value({ a: 1, b: 0 })).toBeCloseTo(2 * Math.exp(euler / 2), 12);
  });
  it("weighs values by their degrees of freedom: the same as solving the weighted normal equations", () => {
    const study = repeated([
      [1, 2],
      [2, 4, 6, 5],
      [1, 2.5, 3],
      [2, 4, 7, 5, 4],
    ]);
    const fit = fitModel(study, "sy", { terms: [["a"]] });
    const w = fit.data.weights as number[];
    // ν = 1, 3, 2, 4: weights 4/ψ′(ν/2) with ψ′(½) = π²/2, ψ′(3/2) = π²/2 − 4, ψ′(1) = π²/6, ψ′(2) = π²/6 − 1.
    const raw = [Math.PI ** 2 / 2, Math.PI ** 2 / 2 - 4, Math.PI ** 2 / 6, Math.PI ** 2 / 6 - 1].map((p) => 4 / p);
    const mean = raw.reduce((t, v) => t + v, 0) / 4;
    w.forEach((v, i) => {
      expect(digits(v, raw[i] / mean)).toBeGreaterThan(12);
    });
    const x = [-1, 1, -1, 1];
    const z = fit.model.observed;
    const side = (s: number): number => {
      const at = [0, 1, 2, 3].filter((i) => x[i] === s);
      return at.reduce((t, i) => t + w[i] * z[i], 0) / at.reduce((t, i) => t + w[i], 0);
    };
    expect(digits(fit.parameters[1].coefficient, (side(1) - side(-1)) / 2)).toBeGreaterThan(12);
    const rss = [0, 1, 2, 3].reduce((t, i) => t + w[i] * (z[i] - side(x[i])) ** 2, 0);
    expect(digits(squares(fit.summary).rss, rss)).toBeGreaterThan(11);
  });
  it("of trials run again, within one wave, never pooled with repeats", () => {
    const study = parseStudy({
      ...plainStudy(1, { responses: [{ id: "y" }, { id: "sy", spread: { of: "y", from: "replicates" } }] }),
      waves: [{ id: "w" }, { id: "v" }],
      trials: [
        { id: "t1", wave: "w", state: "done", settings: { a: -1 }, results: { y: [1, 3] } },
        { id: "t2", wave: "w", state: "done", settings: { a: -1 }, results: { y: [5, 7] } },
        { id: "t3", wave: "v", state: "done", settings: { a: -1 }, results: { y: 9 } },
      ],
    });
    const cells = spreadCells(study, "y", "replicates", study.trials);
    expect(cells).toHaveLength(1);
    expect(cells[0].s).toBeCloseTo(Math.sqrt(8), 12);
    expect(cells[0].orders).toEqual([1, 2]);
  });
  it("of equal values stands at the response's resolution, and says so", () => {
    const study = repeated(
      [
        [1, 1],
        [1, 2],
        [1, 2],
        [1, 2],
      ],
      2,
    );
    expect(spreadCells(study, "y", "repeats", study.trials)[0]).toMatchObject({ s: 0.01, floored: true });
    expect(fitModel(study, "sy", { terms: [["a"]] }).data.floored).toEqual(["t1"]);
  });
  it("is refused where nothing was measured twice, and takes no results of its own", () => {
    expect(refusal(() => fitModel(repeated([[1], [2]]), "sy", { terms: [] }))).toContain("not measured twice");
    const study = repeated([[1, 2]]);
    expect(refusal(() => parseStudy({ ...study, trials: [{ ...study.trials[0], results: { sy: 1 } }] }))).toContain(
      "takes no results",
    );
    expect(
      refusal(() =>
        parseStudy({ ...study, responses: [{ id: "s", spread: { of: "s", from: "repeats" } }], trials: [] }),
      ),
    ).toContain("not a measured response");
  });
});

/**
 * Cycles to failure of worsted yarn, 3³ in length, amplitude and load (Box & Cox 1964, table 4), load changing
 * fastest.
 */
const yarn = [
  674, 370, 292, 338, 266, 210, 170, 118, 90, 1414, 1198, 634, 1022, 620, 438, 442, 332, 220, 3636, 3184, 2000, 1568,
  1070, 566, 1140, 884, 360,
];
const yarnStudy = parseStudy({
  ...plainStudy(3),
  waves: [{ id: "w" }],
  trials: yarn.map((y, i) => ({
    id: `t${i}`,
    wave: "w",
    state: "done",
    settings: { a: Math.floor(i / 9) - 1, b: (Math.floor(i / 3) % 3) - 1, c: (i % 3) - 1 },
    results: { y },
  })),
});

describe("Box–Cox", () => {
  it("of the worsted yarn: −0.06, from −0.18 to 0.06 (Box & Cox 1964)", () => {
    const profile = boxCox(fitModel(yarnStudy, "y", { terms: [["a"], ["b"], ["c"]] }));
    expect(profile?.best).toBeCloseTo(-0.06, 2);
    expect(profile?.interval[0]).toBeCloseTo(-0.18, 2);
    expect(profile?.interval[1]).toBeCloseTo(0.06, 2);
    expect(profile?.advice).toBe("log");
  });
  it("likelihoods with the Jacobian agree with the profile at the named powers", () => {
    const fit = fitModel(yarnStudy, "y", { terms: [["a"], ["b"], ["c"]] });
    const profile = boxCox(fit)?.profile ?? [];
    const at = (power: number): number => profile.find((p) => Math.abs(p.power - power) < 1e-9)?.likelihood as number;
    const scales = scaleLikelihoods(fit);
    const of = (name: string): number => scales.find((s) => s.transform === name)?.likelihood as number;
    expect(of("none") - of("log")).toBeCloseTo(at(1) - at(0), 9);
    expect(of("sqrt") - of("inverse")).toBeCloseTo(at(0.5) - at(-1), 9);
    expect(scales.find((s) => s.transform === "logit")?.likelihood).toBeNull();
  });
  it("the check says so for the raw scale and is content with the logarithm", () => {
    const answer = (transform: "none" | "log") =>
      runChecks(yarnStudy, fitModel(yarnStudy, "y", { terms: [["a"], ["b"], ["c"]], transform })).find(
        (c) => c.id === "scale",
      );
    expect(answer("none")?.alarm).toBe(true);
    expect(answer("none")).toMatchObject({ code: "scale-other", values: { scale: "log" } });
    expect(answer("log")?.alarm).toBe(false);
  });
  it("is left out for results that are not above 0", () => {
    const study = parseStudy({
      ...yarnStudy,
      trials: yarnStudy.trials.map((t, i) => ({ ...t, results: { y: i === 3 ? 0 : yarn[i] } })),
    });
    expect(boxCox(fitModel(study, "y", { terms: [["a"]] }))).toBeNull();
  });
});

describe("by hand", () => {
  it("the sign table of AB gives (Σ+ − Σ−)/2, and cells their mean and spread", () => {
    const study = parseStudy({
      ...plainStudy(2),
      waves: [{ id: "w" }],
      trials: [...corners(2), ...corners(2)].map((settings, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings,
        results: { y: [28, 36, 18, 31, 25, 32, 19, 30][i] },
      })),
    });
    const fit = fitModel(study, "y", { terms: [["a"], ["b"]] });
    const { contrasts } = saturatedContrasts(study, fit.data, fit.model.observed);
    const both = handWorking(fit, contrasts).effects.find((e) => e.term.length === 2);
    // (1) 53 and ab 61 stand at +, a 68 and b 37 at −.
    expect(both).toMatchObject({ plus: 114, minus: 105, divisor: 4, effect: 2.25 });
    const cells = cellSummary(study, fit);
    expect(cells.map((c) => c.mean)).toEqual([26.5, 34, 18.5, 30.5]);
    expect(cells[0].s).toBeCloseTo(Math.sqrt(4.5), 12);
  });
});

describe("bad input", () => {
  it("one result of 10³⁰ is named as what carries all of the error, and no figure is lost in digits", () => {
    const study = parseStudy({
      ...plainStudy(3),
      waves: [{ id: "w" }],
      trials: corners(3).map((settings, i) => ({
        id: `t${i + 1}`,
        wave: "w",
        state: "done",
        settings,
        results: { y: i === 3 ? 1e30 : i + ((i * 3) % 5) / 7 },
      })),
    });
    const fit = fitModel(study, "y", { terms: [["a"], ["b"], ["c"]] });
    const single = runChecks(study, fit).find((c) => c.id === "single");
    expect(single?.alarm).toBe(true);
    expect(single).toMatchObject({ code: "single-all", values: { order: 4 } });
    for (const r of modelReadings(study, fit)) expect(messageText("readings", r)).not.toMatch(/\d{12}|NaN|Infinity/);
  });
  it("a level that no trial ran at has no equation, extrapolates, and is said", () => {
    const base = studyOf([cont("a"), cat("lot", "p", "q", "r")]);
    const points = [-1, 1].flatMap((a) => ["p", "q"].map((lot) => ({ a, lot })));
    const study = withTrials(base, [...points, ...points], [1, 3, 2, 5, 1.2, 3.1, 2.3, 4.8]);
    const fit = fitModel(study, "y", { terms: [["a"], ["lot"]] });
    const equation = equationOf(study, fit);
    expect(equation.natural.map((n) => n.when?.lot)).toEqual(["p", "q"]);
    expect(equation.note).toEqual({
      code: "equation-unseen",
      values: { unseen: [{ factor: "lot", levels: ["r"] }] },
    });
    expect(linearSurface(study, fit).predict({ a: 0, lot: "r" }).extrapolates).toBe(true);
    expect(linearSurface(study, fit).predict({ a: 0, lot: "q" }).extrapolates).toBe(false);
    expect(modelReadings(study, fit).some((r) => messageText("readings", r).includes("ran at lot r"))).toBe(true);
  });
});
