import { describe, expect, it } from "vitest";
import { chiSquaredUpper, fQuantile, fUpper } from "../../numerics/distributions";
import type { Study, StudyInput, Term } from "../../study/schema";
import { parseStudy } from "../../study/validate";
import { dot, solve } from "../../testing/elimination";
import { type Counts, maximise } from "../../testing/newton";
import { corners, plainStudy } from "../../testing/studies";
import { type Fit, fitModel } from "../fit";

/** A study of one counted response over the given settings. */
function counted(
  k: number,
  { kind, events, of }: Counts,
  more: Partial<StudyInput["responses"] extends (infer R)[] | undefined ? R : never> = {},
  settings = corners(k),
  waves = settings.map(() => "w1"),
): Study {
  return parseStudy({
    ...plainStudy(k),
    responses: [{ id: "y", measured: kind, ...more }],
    waves: [...new Set(waves)].map((id) => ({ id })),
    trials: settings.map((s, i) => ({
      id: `t${i + 1}`,
      wave: waves[i],
      settings: s,
      state: "done",
      results: { y: { events: events[i], of: of[i] } },
    })),
  });
}

const rowsOf = (study: Study, terms: readonly Term[]): number[][] =>
  study.trials.map((t) => [1, ...terms.map((term) => term.reduce((p, id) => p * (t.settings[id] as number), 1))]);
const without = (x: readonly (readonly number[])[], j: number): number[][] => x.map((r) => r.filter((_, k) => k !== j));
const rowOf = (fit: Fit, term: Term) => fit.anova.find((r) => r.source === "term" && r.term?.join() === term.join());
const unit = (p: number, j: number): number[] => Array.from({ length: p }, (_, k) => (k === j ? 1 : 0));

const terms: Term[] = [["a"], ["b"], ["c"], ["a", "b"]];

/** Sixteen trials of plenty, in pieces of one number or of many. */
const settings = [...corners(3), ...corners(3)];
const plenty = [31, 62, 24, 70, 40, 81, 22, 74, 28, 58, 33, 66, 45, 90, 30, 61];
const same = plenty.map(() => 150);
const various = plenty.map((_, i) => 120 + 15 * (i % 5));

describe.each([
  { name: "shares of equal numbers", counts: { kind: "share", events: plenty, of: same } },
  { name: "shares of different numbers", counts: { kind: "share", events: plenty, of: various } },
  { name: "counts of equal exposure", counts: { kind: "count", events: plenty, of: plenty.map(() => 2.5) } },
  { name: "counts of different exposure", counts: { kind: "count", events: plenty, of: various.map((v) => v / 50) } },
] satisfies { name: string; counts: Counts }[])("$name, scatter free", ({ counts }) => {
  const study = counted(3, counts, {}, settings);
  const fit = fitModel(study, "y", { terms });
  const x = rowsOf(study, terms);
  const differs = counts.of.some((n) => n !== counts.of[0]);
  // ρ or κ that brings Pearson's X² to its degrees of freedom, by halving; 0 where counting scatters as much.
  let extra = 0;
  if (differs && maximise(counts, x).pearson > 11) {
    let [low, high] = [0, 1];
    for (let i = 0; i < 60; i++) {
      const mid = (low + high) / 2;
      if (maximise({ ...counts, extra: mid }, x).pearson > 11) low = mid;
      else high = mid;
    }
    extra = (low + high) / 2;
  }
  const own: Counts = { ...counts, extra };
  const best = maximise(own, x);
  const phi = best.dispersion;

  it("has the maximum, its errors and dispersion of independent Newton steps", () => {
    expect(fit.model.likelihood?.firth).toBeUndefined();
    if (differs) expect(extra).toBeGreaterThan(0);
    expect(fit.model.likelihood?.dispersion).toBeCloseTo(phi, 8);
    if (differs) expect(Math.abs((fit.model.likelihood?.extra ?? 0) / extra - 1)).toBeLessThan(1e-8);
    fit.parameters.forEach((p, j) => {
      expect(Math.abs(p.coefficient - best.b[j])).toBeLessThan(1e-9);
      const se = Math.sqrt(phi * solve(best.information, unit(5, j))[j]);
      expect(Math.abs((p.standardError ?? 0) / se - 1)).toBeLessThan(1e-8);
    });
  });
  it("has the table of deviance: last, in order, D² and criteria", () => {
    terms.forEach((term, k) => {
      const rise = maximise(own, without(x, k + 1)).deviance - best.deviance;
      const row = rowOf(fit, term);
      expect(Math.abs((row?.ss ?? 0) - rise)).toBeLessThan(1e-8);
      expect(row?.f).toBeCloseTo(rise / phi, 7);
      expect(row?.p).toBeCloseTo(fUpper(rise / phi, 1, 11), 9);
      const before = maximise(
        own,
        x.map((r) => r.slice(0, k + 1)),
      ).deviance;
      const after = maximise(
        own,
        x.map((r) => r.slice(0, k + 2)),
      ).deviance;
      expect(Math.abs((row?.sequentialSs ?? 0) - (before - after))).toBeLessThan(1e-8);
    });
    const none = maximise(
      own,
      x.map(() => [1]),
    ).deviance;
    expect(fit.summary).toMatchObject({ law: counts.kind === "share" ? "binomial" : "poisson", residualDf: 11 });
    expect(fit.summary.r2).toBeCloseTo(1 - best.deviance / none, 9);
    expect(fit.summary.r2Adjusted).toBeCloseTo(1 - best.deviance / 11 / (none / 15), 9);
    const { criteriaDispersion } = fit.model.likelihood ?? {};
    // Two-factor interactions over eight corners run twice leave nine degrees of freedom: the largest model.
    const largest = rowsOf(study, [["a"], ["b"], ["c"], ["a", "b"], ["a", "c"], ["b", "c"]]);
    if (!differs) {
      expect(criteriaDispersion).toBeCloseTo(maximise(counts, largest).dispersion, 8);
      const k = 6;
      const aicc = best.deviance / (criteriaDispersion ?? 0) + 2 * k + (2 * k * (k + 1)) / (16 - k - 1);
      expect(fit.summary.aicc).toBeCloseTo(aicc, 7);
      expect(fit.summary.bic).toBeCloseTo(best.deviance / (criteriaDispersion ?? 0) + k * Math.log(16), 7);
    }
  });
  it("leaves each trial out by a fit without it", () => {
    const lost = (over: readonly (readonly number[])[]): number =>
      settings.reduce((total, _, out) => {
        const keep = settings.flatMap((__, i) => (i === out ? [] : [i]));
        const part: Counts = { ...own, events: keep.map((i) => own.events[i]), of: keep.map((i) => own.of[i]) };
        const { b } = maximise(
          part,
          keep.map((i) => over[i]),
        );
        const one: Counts = { ...own, events: [own.events[out]], of: [own.of[out]] };
        return total + maximise(one, [[1]], { held: { 0: dot(over[out], b) } }).deviance;
      }, 0);
    expect(fit.summary.r2Predicted).toBeCloseTo(1 - lost(x) / lost(x.map(() => [1])), 8);
  });
  it("has intervals where the profile has risen by φ̂ times F", () => {
    const rise = phi * fQuantile(0.95, 1, 11);
    for (const j of [0, 1, 3])
      for (const end of fit.parameters[j].interval ?? [])
        expect(maximise(own, x, { held: { [j]: end } }).deviance - best.deviance).toBeCloseTo(rise, 6);
  });
  it("adds a term as a fit with it does", () => {
    const c = { rows: 16, cols: 1, data: Float64Array.from(x, (r) => r[1] * r[3]) };
    const added = fit.model.addTerm(c);
    const wide = x.map((r) => [...r, r[1] * r[3]]);
    const large = maximise(own, wide);
    expect(added?.coefficients[0]).toBeCloseTo(large.b[5], 8);
    expect(added?.ss).toBeCloseTo(best.deviance - large.deviance, 8);
    expect(added?.f).toBeCloseTo((best.deviance - large.deviance) / large.dispersion, 7);
    const [low] = added?.profile?.(0.95) ?? [Number.NaN];
    expect(maximise(own, wide, { held: { 5: low } }).deviance - large.deviance).toBeCloseTo(
      large.dispersion * fQuantile(0.95, 1, 10),
      6,
    );
  });
});

describe("cases in closed form", () => {
  it("two shares: the logit of each, Woolf's (1955) variance, the likelihood ratio by its sums", () => {
    const counts: Counts = { kind: "share", events: [20, 35], of: [50, 50] };
    const study = counted(1, counts, { scatter: "counting" });
    const { parameters, anova, summary } = fitModel(study, "y", { terms: [["a"]] });
    const odds = (k: number): number => Math.log(k / (50 - k));
    expect(parameters[1].coefficient).toBeCloseTo((odds(35) - odds(20)) / 2, 12);
    expect(parameters[1].standardError).toBeCloseTo(Math.sqrt(1 / 20 + 1 / 30 + 1 / 35 + 1 / 15) / 2, 12);
    // G² of the 2 × 2 table: 2 Σ O ln(O/E).
    const g2 = 2 * [20, 30, 35, 15].reduce((t, o, i) => t + o * Math.log(o / (i % 2 === 0 ? 27.5 : 22.5)), 0);
    expect(anova.find((r) => r.source === "term")?.ss).toBeCloseTo(g2, 10);
    expect(anova.find((r) => r.source === "term")?.p).toBeCloseTo(chiSquaredUpper(g2, 1), 12);
    expect(parameters[1].df).toBeNull();
    expect(summary.residualDf).toBe(0);
  });
  it("two counts: half the logarithm of the ratio of rates, exposure as offset", () => {
    const counts: Counts = { kind: "count", events: [30, 90], of: [2, 3] };
    const study = counted(1, counts, { scatter: "counting" });
    const { parameters, anova } = fitModel(study, "y", { terms: [["a"]] });
    expect(parameters[1].coefficient).toBeCloseTo(Math.log(30 / 15) / 2, 12);
    expect(parameters[1].standardError).toBeCloseTo(Math.sqrt(1 / 30 + 1 / 90) / 2, 12);
    const g2 = 2 * (30 * Math.log(30 / 48) + 90 * Math.log(90 / 72));
    expect(anova.find((r) => r.source === "term")?.ss).toBeCloseTo(g2, 10);
  });
  it("Crowder's (1978) seeds: the coefficients that Breslow & Clayton (1993, table 4) print, Williams's (1982) ρ", () => {
    const r = [10, 23, 23, 26, 17, 8, 10, 8, 23, 0, 5, 53, 55, 32, 46, 10, 3, 22, 15, 32, 3];
    const n = [39, 62, 81, 51, 39, 16, 30, 28, 45, 4, 6, 74, 72, 51, 79, 13, 12, 41, 30, 51, 7];
    const seed = r.map((_, i) => (i < 5 || (i >= 10 && i < 16) ? -1 : 1));
    const root = r.map((_, i) => (i < 10 ? -1 : 1));
    const places = r.map((_, i) => ({ a: seed[i], b: root[i] }));
    const counts: Counts = { kind: "share", events: r, of: n };
    const all: Term[] = [["a"], ["b"], ["a", "b"]];
    const plain = fitModel(counted(2, counts, { scatter: "counting" }, places), "y", { terms: all });
    const [m, a, b, ab] = plain.parameters.map((p) => p.coefficient);
    // Printed for 0 and 1 in place of −1 and 1.
    expect(m - a - b + ab).toBeCloseTo(-0.558, 3);
    expect(2 * (a - ab)).toBeCloseTo(0.146, 3);
    expect(2 * (b - ab)).toBeCloseTo(1.318, 3);
    expect(4 * ab).toBeCloseTo(-0.778, 3);
    const free = fitModel(counted(2, counts, {}, places), "y", { terms: all });
    expect(free.model.likelihood?.extra).toBeCloseTo(0.0249, 4);
    expect(free.model.likelihood?.pearson).toBeCloseTo(17, 8);
  });
});

describe.each([
  { name: "little counted", events: [0, 3, 1, 4, 0, 2, 0, 5], of: [40, 40, 40, 40, 40, 40, 40, 40], scatter: "free" },
  {
    name: "of different numbers",
    events: [0, 3, 1, 4, 0, 2, 0, 5],
    of: [40, 30, 40, 20, 40, 30, 50, 40],
    scatter: "counting",
  },
  {
    name: "that separate",
    events: [0, 20, 0, 31, 0, 24, 0, 40],
    of: [50, 50, 50, 50, 50, 50, 50, 50],
    scatter: "counting",
  },
] as const)("shares $name, by Firth's penalty", ({ events, of, scatter }) => {
  const two: Term[] = [["a"], ["b"]];
  const counts: Counts = { kind: "share", events, of };
  const study = counted(3, counts, { scatter });
  const fit = fitModel(study, "y", { terms: two });
  const x = rowsOf(study, two);
  const best = maximise(counts, x, { firth: true });
  const phi = scatter === "counting" ? 1 : best.dispersion;

  it("maximises the penalised likelihood, and tests under the full penalty", () => {
    expect(fit.model.likelihood?.firth).toBeDefined();
    fit.parameters.forEach((p, j) => {
      expect(Math.abs(p.coefficient - best.b[j])).toBeLessThan(1e-8);
    });
    two.forEach((term, k) => {
      const held = maximise(counts, x, { firth: true, held: { [k + 1]: 0 } });
      const rise = held.criterion - best.criterion;
      expect(Math.abs((rowOf(fit, term)?.ss ?? 0) - rise)).toBeLessThan(1e-8);
      expect(rowOf(fit, term)?.f).toBeCloseTo(rise / phi, 7);
    });
  });
  it("has its profile's intervals, and predicts with the constant fitted again", () => {
    const rise = phi * (scatter === "counting" ? 3.841458820694124 : fQuantile(0.95, 1, 5));
    for (const j of [1, 2])
      for (const end of fit.parameters[j].interval ?? [])
        expect(maximise(counts, x, { firth: true, held: { [j]: end } }).criterion - best.criterion).toBeCloseTo(
          rise,
          5,
        );
    // Puhr et al. (2017): with the slopes held, expected events are those that were counted.
    const again = maximise(counts, x, { held: { 1: best.b[1], 2: best.b[2] } });
    expect(fit.model.coefficients[0]).toBeCloseTo(again.b[0], 8);
    expect(fit.model.coefficients[0]).not.toBeCloseTo(best.b[0], 3);
  });
});

describe("what is refused of counts", () => {
  it.each([
    ["nothing counted", [0, 0, 0, 0], "counted-none"],
    ["everything counted", [9, 9, 9, 9], "counted-all"],
    ["the same everywhere", [3, 3, 3, 3], "constant-response"],
  ])("%s", (_, events, code) => {
    const study = counted(2, { kind: "share", events, of: [9, 9, 9, 9] });
    expect(() => fitModel(study, "y", { terms: [["a"]] })).toThrow(expect.objectContaining({ code }));
  });
  it("another scale", () => {
    const study = counted(2, { kind: "share", events: [1, 2, 3, 4], of: [9, 9, 9, 9] });
    expect(() => fitModel(study, "y", { terms: [["a"]], transform: "log" })).toThrow(/logit already/);
  });
});
