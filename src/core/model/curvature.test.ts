import { describe, expect, it } from "vitest";
import { fUpper, tTwoSided } from "../numerics/distributions";
import { finish } from "../questions/ask";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { presentPredictor } from "../surface/average";
import { termSet } from "../terms/candidates";
import { regress } from "../testing/elimination";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { answerOf } from "../words/answers";
import { runChecks } from "./checklist";
import { fittingOf } from "./data";
import { fitModel } from "./fit";
import { hasSquares } from "./fitted";
import { effectLadder } from "./ladder";
import { pureErrorOf, saturatedContrasts } from "./lenth";
import { offeredModel, presentFit } from "./offer";
import { reduceModel } from "./reduce";
import { searchSubsets } from "./subsets";

// Expected figures by elimination on columns of these tests' own (testing/elimination.ts).

const middle = { a: 0, b: 0, c: 0 };
const points: Settings[] = [...corners(3), middle, middle, middle, middle];
const y = [28.3, 31.9, 27.6, 30.1, 29.2, 33.4, 27.9, 31.5, 34.1, 33.8, 34.6, 34.0];
const study = withTrials(plainStudy(3), points, y);
const mains = [["a"], ["b"], ["c"]];
const rows = points.map((p) => [1, p.a as number, p.b as number, p.c as number, p.a === 0 ? 1 : 0]);
const exact = regress(rows, y);
const ms = exact.rss / exact.df;
const unit = (j: number): number[] => rows[0].map((_, k) => (k === j ? 1 : 0));

describe("curvature is a column of the model (definition 3)", () => {
  const fit = fitModel(study, "y", { terms: mains });
  it("mains are tested on what is left beside the bend", () => {
    for (const [j, id] of ["a", "b", "c", "@curvature"].entries()) {
      const p = fit.parameters.find((q) => q.term[0] === id);
      const error = Math.sqrt(ms * exact.inverse(unit(j + 1)));
      expect(p?.coefficient).toBeCloseTo(exact.b[j + 1], 10);
      expect(p?.standardError).toBeCloseTo(error, 10);
      expect(p?.p).toBeCloseTo(tTwoSided(exact.b[j + 1] / error, exact.df), 10);
    }
    expect(fit.summary.s).toBeCloseTo(Math.sqrt(ms), 10);
  });
  it("rows add up: terms, curvature, residual = lack of fit + pure error, total", () => {
    const rowsOf = (source: string) => fit.anova.filter((r) => r.source === source);
    const df = (source: string): number => rowsOf(source).reduce((t, r) => t + r.df, 0);
    const ss = (source: string): number => rowsOf(source).reduce((t, r) => t + (r.ss ?? 0), 0);
    expect([df("term"), df("curvature"), df("residual"), df("lack-of-fit"), df("pure-error"), df("total")]).toEqual([
      3, 1, 7, 4, 3, 11,
    ]);
    expect(ss("model") + ss("curvature") + ss("residual")).toBeCloseTo(ss("total"), 8);
    expect(ss("lack-of-fit") + ss("pure-error")).toBeCloseTo(ss("residual"), 10);
    const plane = regress(
      rows.map((r) => r.slice(0, 4)),
      y,
    );
    const [bend] = rowsOf("curvature");
    expect(bend.ss).toBeCloseTo(plane.rss - exact.rss, 9);
    expect(bend.p).toBeCloseTo(fUpper((plane.rss - exact.rss) / ms, 1, exact.df), 12);
    expect(bend.term).toEqual(["@curvature"]);
    expect(fit.curvature).toEqual({ df: 1, ss: bend.ss, f: bend.f, p: bend.p });
    const mean = y.reduce((t, v) => t + v, 0) / 12;
    expect(fit.summary.r2).toBeCloseTo(1 - exact.rss / y.reduce((t, v) => t + (v - mean) ** 2, 0), 12);
  });
  it("taken out it is part of lack of fit", () => {
    const out = fitModel(study, "y", { terms: mains, curvature: false });
    expect(out.curvature).toBeUndefined();
    expect(out.anova.map((r) => r.source)).not.toContain("curvature");
    const plane = regress(
      rows.map((r) => r.slice(0, 4)),
      y,
    );
    expect(hasSquares(out.summary) && out.summary.rss).toBeCloseTo(plane.rss, 9);
    expect(out.lackOfFit).toMatchObject({ df: 5, pureErrorDf: 3 });
    // Its rung stands where it would, put in.
    const [rung] = effectLadder(study, out).standing;
    expect(rung).toMatchObject({ id: "curvature", inModel: false, lost: false });
    expect(rung.size).toBeCloseTo(exact.b[4], 10);
  });
  it("predictions carry the plane, and say how much they may be off: c·max(1 − xᵢ²)", () => {
    const read = presentPredictor(study, "y", undefined, fit);
    const here = read.predict(middle);
    expect(here.mean).toBeCloseTo(exact.b[0], 10);
    expect(here.bend).toBeCloseTo(exact.b[4], 10);
    expect(here.standardError).toBeCloseTo(Math.sqrt(ms * exact.inverse([1, 0, 0, 0, 0])), 10);
    expect(read.predict({ a: 1, b: 0.5, c: -1 }).bend).toBeCloseTo(0.75 * exact.b[4], 10);
    expect(read.predict({ a: 1, b: -1, c: 1 }).bend).toBeCloseTo(0, 12);
    const flat = withTrials(plainStudy(3), points, [...y.slice(0, 8), 29.9, 30.2, 29.8, 30.1]);
    expect(
      presentPredictor(flat, "y", undefined, fitModel(flat, "y", { terms: mains })).predict(middle).bend,
    ).toBeNull();
  });
  it("squares are no candidates while the centre stands for them, in the ladder and in every search", () => {
    expect(effectLadder(study, fit).rungs.filter((r) => r.term[0] === r.term[1])).toEqual([]);
    const options = { direction: "forward", by: "p", alpha: 0.05, hierarchy: "strong" } as const;
    const { fit: reduced } = reduceModel(study, "y", termSet(study, "quadratic"), options);
    expect(reduced.terms.some((t) => t[0] === t[1])).toBe(false);
    expect(reduced.curvature?.df).toBe(1);
    const { models } = finish(searchSubsets(study, "y", termSet(study, "quadratic"), { hierarchy: "strong" }));
    for (const m of models) {
      expect(m.terms.some((t) => t[0] === t[1])).toBe(false);
      const own = regress(
        points.map((p) => [1, ...m.terms.map((t) => t.reduce((v, id) => v * (p[id] as number), 1)), p.a === 0 ? 1 : 0]),
        y,
      );
      expect(m.rss).toBeCloseTo(own.rss, 8);
    }
    // A square that is asked for by name takes the column's place.
    expect(fitModel(study, "y", { terms: [...mains, ["a", "a"]] }).centre).toBeUndefined();
  });
  it("axial or other places leave no such column; confirmations and paths are not looked at", () => {
    const axial = withTrials(plainStudy(3), [...points, { a: 1, b: 0, c: 0 }], [...y, 32]);
    expect(fitModel(axial, "y", { terms: mains }).centre).toBeUndefined();
    const last = axial.trials.length - 1;
    const confirmed: Study = {
      ...axial,
      trials: axial.trials.map((t, i) => (i === last ? { ...t, kind: "confirm" } : t)),
    };
    expect(fitModel(confirmed, "y", { terms: mains }).curvature?.df).toBe(1);
  });
  it("where axial places were run squares are weighed for the model first offered; the centre's column stands for them else", () => {
    const axial = ["a", "b", "c"].flatMap((id) => [-1, 1].map((v): Settings => ({ ...middle, [id]: v })));
    const whole = withTrials(plainStudy(3), [...points, ...axial], [...y, 30, 33, 32, 31, 34, 35]);
    const pairs = [
      ["a", "b"],
      ["a", "c"],
      ["b", "c"],
    ];
    const squares = [
      ["a", "a"],
      ["b", "b"],
      ["c", "c"],
    ];
    expect(offeredModel(whole, "y", fittingOf(undefined)).candidates).toEqual([...mains, ...pairs, ...squares]);
    expect(offeredModel(study, "y", fittingOf(undefined)).candidates).toEqual([...mains, ...pairs]);
    // A chosen model is the chosen model.
    const chosen = parseStudy({ ...whole, models: [{ response: "y", terms: mains }] });
    expect(presentFit(chosen, "y").terms).toEqual(mains);
  });
  it("a centre in a wave of its own is bend or shift, and is not told apart", () => {
    const apart = withTrials(plainStudy(3), points, y, { wave: (i) => (i < 8 ? "w1" : "w2") });
    const own = fitModel(apart, "y", { terms: mains });
    expect(own.dropped.map((d) => d.term)).toEqual([["@curvature"]]);
    const bend = runChecks(apart, own).find((c) => c.id === "bend");
    expect(bend && answerOf(bend)).toMatch(/^Bend or shift \(together p under 0\.001\)/);
    expect(effectLadder(apart, own).standing.find((r) => r.id === "curvature")).toMatchObject({ lost: true });
    // Without waves in the model it is told.
    expect(fitModel(apart, "y", { terms: mains, block: false }).curvature?.ss).toBeCloseTo(fit.curvature?.ss ?? 0, 9);
  });
  it("a study file without the key has the column in", () => {
    const stored = parseStudy({ ...study, models: [{ response: "y", terms: mains }] });
    expect(stored.models[0].curvature).toBe(true);
  });
});

describe("differences between waves", () => {
  it("three waves: all pairs by Tukey and Kramer, the largest first", () => {
    const place = corners(2);
    const sizes = [1, 2, 1];
    const settings = sizes.flatMap((k) => Array.from({ length: k }, () => place).flat());
    const waveOf = (i: number): number => (i < 4 ? 0 : i < 12 ? 1 : 2);
    const z = settings.map(
      (s, i) => 5 + (s.a as number) + [0, 0.9, 0.35][waveOf(i)] + [0.1, -0.2, 0.05, 0.15, -0.1][i % 5],
    );
    const waves = withTrials(plainStudy(2), settings, z, { wave: (i) => `w${waveOf(i)}` });
    const [rung] = effectLadder(waves, fitModel(waves, "y", { terms: [["a"], ["b"]] })).standing;
    const own = regress(
      settings.map((s, i) => [1, s.a as number, s.b as number, waveOf(i) === 1 ? 1 : 0, waveOf(i) === 2 ? 1 : 0]),
      z,
    );
    const ownMs = own.rss / own.df;
    expect(rung.differences.map((d) => [d.above, d.below])).toEqual([
      ["Wave 2", "Wave 1"],
      ["Wave 2", "Wave 3"],
      ["Wave 3", "Wave 1"],
    ]);
    expect(rung.size).toBeCloseTo(own.b[3], 10);
    // Studentized range of 3 on 11 df at 95 %: 3.820 (Harter 1960), over √2.
    const half = (3.82 / Math.SQRT2) * Math.sqrt(ownMs * own.inverse([0, 0, 0, 1, 0]));
    expect(((rung.interval?.[1] ?? 0) - (rung.interval?.[0] ?? 0)) / 2 / half).toBeCloseTo(1, 3);
    const third = rung.differences[1];
    expect(third.size).toBeCloseTo(own.b[3] - own.b[4], 10);
    expect(((third.interval?.[1] ?? 0) - third.size) / Math.sqrt(ownMs * own.inverse([0, 0, 0, 1, -1]))).toBeCloseTo(
      3.82 / Math.SQRT2,
      2,
    );
  });
});

describe("half-normal margins (definition 6)", () => {
  it("come from pure error where it has three df: t and the studentized maximum modulus over the contrasts", () => {
    const { contrasts, margins } = saturatedContrasts(
      study,
      fitModel(study, "y", { terms: mains }).data,
      y,
      pureErrorOf(fitModel(study, "y", { terms: mains })),
    );
    // Centres: s 0.340343, error 2s/√8; t on 3 df 3.182446, studentized maximum modulus of 7 5.409808 (scipy 1.17).
    expect(contrasts).toHaveLength(7);
    expect(margins).toMatchObject({ from: "pure-error", df: 3 });
    expect(margins?.error).toBeCloseTo(0.2406588, 6);
    expect(margins?.margin).toBeCloseTo(0.7658838, 6);
    expect(margins?.simultaneousMargin).toBeCloseTo(1.301918, 5);
  });
  it("come from the small contrasts where pure error has fewer", () => {
    const few = withTrials(plainStudy(3), points.slice(0, 10), y.slice(0, 10));
    const fit = fitModel(few, "y", { terms: mains });
    expect(saturatedContrasts(few, fit.data, fit.model.observed, pureErrorOf(fit)).margins?.from).toBe("lenth");
  });
  it("a large factorial is not held up by its contrasts: 1,024 corners, whose set takes seconds, have none", () => {
    const large = withTrials(
      plainStudy(10),
      corners(10),
      corners(10).map((_, i) => 50 + ((i * 7919) % 101) / 50),
    );
    const fit = fitModel(large, "y", { terms: large.factors.map((f) => [f.id]) });
    expect(effectLadder(large, fit).rungs.some((r) => r.term.length === 3)).toBe(false);
  });
  it("three-factor contrasts have rungs of their own", () => {
    const fit = fitModel(study, "y", { terms: mains });
    const rung = effectLadder(study, fit).rungs.find((r) => r.key === "a*b*c");
    const sign = (p: Settings): number => (p.a as number) * (p.b as number) * (p.c as number);
    const own = regress(
      rows.map((r, i) => [...r, sign(points[i])]),
      y,
    );
    expect(rung?.size).toBeCloseTo(2 * own.b[5], 10);
  });
});
