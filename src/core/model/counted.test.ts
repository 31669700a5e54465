import { describe, expect, it } from "vitest";
import type { Study, Term } from "../study/schema";
import { steepestAscent } from "../surface/ascent";
import { countedStudies, type Process } from "../testing/counted";
import { COVERAGE_CASES, coverageOf } from "../testing/counted-cases";
import { dot } from "../testing/elimination";
import { maximise } from "../testing/newton";
import { drawn, shareBounds } from "../testing/simulation";
import { corners } from "../testing/studies";
import { averageOf } from "./average";
import { runChecks } from "./checklist";
import { equationOf } from "./equation";
import { fitModel } from "./fit";
import { effectLadder } from "./ladder";
import { contrastsOf } from "./lenth";
import { linearSurface } from "./linear-surface";
import { rankErrors } from "./looks";
import { effectOnResponseScale } from "./own-scale";
import { reduceModel } from "./reduce";
import { searchSubsets } from "./subsets";

const settings = [...corners(3), ...corners(3)];
const mains: Term[] = [["a"], ["b"], ["c"]];
const all: Term[] = [...mains, ["a", "b"], ["a", "c"], ["b", "c"]];
const process: Process = { kind: "share", of: [120], constant: -1.2, effects: { a: 0.6, b: -0.4 }, extra: 0.008 };
const study = countedStudies(3, settings, process)(11);
const rowsOf = (s: Study, terms: readonly Term[]): number[][] =>
  s.trials.map((t) => [1, ...terms.map((term) => term.reduce((p, id) => p * (t.settings[id] as number), 1))]);
const eventsOf = (s: Study) => s.trials.map((t) => t.results.y as { events: number; of: number });
const countsOf = (s: Study, kind: "share" | "count" = "share") => ({
  kind,
  events: eventsOf(s).map((c) => c.events),
  of: eventsOf(s).map((c) => c.of),
});

function finish<T>(steps: Generator<unknown, T, boolean | undefined>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

describe("choosing terms of counts", () => {
  it("looks at every subset exactly: deviances of independent fits, QAICc by the largest model's dispersion", () => {
    const { models, examined } = finish(searchSubsets(study, "y", all, { hierarchy: "off" }));
    expect(examined).toBe(64);
    const phi = maximise(countsOf(study), rowsOf(study, all)).dispersion;
    const best = Array.from({ length: 64 }, (_, mask) => {
      const terms = all.filter((__, t) => (mask >> t) & 1);
      const k = terms.length + 2;
      const { deviance } = maximise(countsOf(study), rowsOf(study, terms));
      return { terms, aicc: deviance / phi + 2 * k + (2 * k * (k + 1)) / (16 - k - 1) };
    }).sort((a, b) => a.aicc - b.aicc);
    best.slice(0, 12).forEach((b, i) => {
      expect(models[i].terms).toEqual(b.terms);
      expect(models[i].aicc).toBeCloseTo(b.aicc, 6);
    });
  });
  it("reduces by p to what was put in, each step with its deviance's p", () => {
    const { fit, steps } = reduceModel(study, "y", all, {
      direction: "backward",
      by: "p",
      alpha: 0.05,
      hierarchy: "strong",
    });
    expect(fit.terms).toEqual([["a"], ["b"]]);
    for (const step of steps) expect(step.value).toBeGreaterThan(0.05);
  });
  it("averages on the link, and its lots are mixed by weight", () => {
    const [one, two] = [fitModel(study, "y", { terms: mains }), fitModel(study, "y", { terms: [["a"]] })];
    const mean = averageOf([one.model, two.model], [0.7, 0.3], one.model);
    const row = new Float64Array(mean.columns.length);
    mean.linear({ a: 0.5, b: -1, c: 0 }, row);
    const value = (f: typeof one): number => linearSurface(study, f).fitted({ a: 0.5, b: -1, c: 0 });
    expect(mean.predictive(row).value).toBeCloseTo(0.7 * value(one) + 0.3 * value(two), 10);
    const own = (f: typeof one): number => {
      const r = new Float64Array(f.model.columns.length);
      f.model.linear({ a: 0.5, b: -1, c: 0 }, r);
      return f.model.lots?.lot(r, [120])?.within(0, 0.3) ?? Number.NaN;
    };
    expect(mean.lots?.lot(row, [120])?.within(0, 0.3)).toBeCloseTo(0.7 * own(one) + 0.3 * own(two), 9);
    const trial = mean.predictive(row).interval(0.95, 1);
    expect(trial && trial[0] < mean.predictive(row).value && trial[1] > mean.predictive(row).value).toBe(true);
  });
});

describe("what is read off a model of counts", () => {
  const fit = fitModel(study, "y", { terms: mains });
  it("stands on the ladder with its deviance's p, its profile, and its share of the deviance", () => {
    const { rungs, rest } = effectLadder(study, fit);
    const a = rungs.find((r) => r.key === "a");
    expect(a?.size).toBeCloseTo(2 * fit.parameters[1].coefficient, 12);
    expect(a?.interval?.[0]).toBeCloseTo(2 * (fit.parameters[1].interval?.[0] ?? 0), 12);
    expect(a?.p).toBe(fit.parameters[1].p);
    const rises = fit.anova.filter((r) => r.source === "term").map((r) => r.ss ?? 0);
    const whole = rises.reduce((t, v) => t + v, 0) + (fit.anova.find((r) => r.source === "residual")?.ss ?? 0);
    expect(a?.share).toBeCloseTo(rises[0] / whole, 10);
    expect((rest ?? 0) + rungs.filter((r) => r.inModel).reduce((t, r) => t + (r.share ?? 0), 0)).toBeCloseTo(1, 10);
    const ghost = rungs.find((r) => r.key === "a*b");
    const wide = maximise(countsOf(study), rowsOf(study, [...mains, ["a", "b"]]));
    expect(ghost?.size).toBeCloseTo(2 * wide.b[4], 7);
  });
  it("gives points of share about the probe, ratios of rates", () => {
    const said = effectOnResponseScale(fit.model.link, 0, 2);
    // From −1 to 1 on the logit: 1/(1+e⁻¹) − 1/(1+e).
    expect(said).toEqual({ points: expect.closeTo(100 * (1 / (1 + Math.exp(-1)) - 1 / (1 + Math.E)), 10) });
    const counts = countedStudies(3, settings, { ...process, kind: "count", of: [3], constant: 2 })(2);
    expect(effectOnResponseScale(fitModel(counts, "y", { terms: mains }).model.link, 5, Math.log(3))).toEqual({
      ratio: expect.closeTo(3, 12),
    });
  });
  it("predicts within 0 and 1, by its natural equation too", () => {
    const read = linearSurface(study, fit);
    for (const a of [-1, 0.3, 1]) {
      const at = { a, b: -a, c: 0.2 };
      const said = read.predict(at);
      for (const v of [...(said.meanInterval ?? []), ...(said.trialInterval ?? []), said.mean]) {
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThanOrEqual(1);
      }
      const natural = equationOf(study, fit).natural[0].coefficients.reduce(
        (t, c) => t + c.coefficient * c.term.reduce((p, id) => p * at[id as "a"], 1),
        0,
      );
      expect(said.mean).toBeCloseTo(1 / (1 + Math.exp(-natural)), 12);
    }
  });
  it("has contrasts of values of one variance where trials are of one size", () => {
    const { contrasts, margins } = contrastsOf(study, fit);
    const angles = eventsOf(study).map(
      ({ events, of }) => Math.asin(Math.sqrt(events / (of + 1))) + Math.asin(Math.sqrt((events + 1) / (of + 1))),
    );
    const signs = settings.map((s) => s.a as number);
    expect(contrasts.find((c) => c.term.join() === "a")?.effect).toBeCloseTo((2 * dot(signs, angles)) / 16, 12);
    expect(margins?.from).toBe("lenth");
    const other = countedStudies(3, settings, { ...process, of: [100, 120] })(2);
    expect(contrastsOf(other, fitModel(other, "y", { terms: mains }))).toMatchObject({
      contrasts: [],
      refusal: { code: "contrasts-sizes" },
    });
  });
  it("splits lack of fit by Pearson's X² of cells", () => {
    const two = fitModel(study, "y", { terms: [["a"]] });
    const cells = settings.map((s) => corners(3).map((c) => (c.a === s.a && c.b === s.b && c.c === s.c ? 1 : 0)));
    const counts = countsOf(study);
    const shares = corners(3).map((_, j) => {
      const own = cells.flatMap((r, i) => (r[j] ? [i] : []));
      return own.reduce((t, i) => t + counts.events[i], 0) / own.reduce((t, i) => t + counts.of[i], 0);
    });
    let x2 = 0;
    let deviance = 0;
    counts.events.forEach((k, i) => {
      const n = counts.of[i];
      const p = dot(cells[i], shares);
      x2 += (k - n * p) ** 2 / (n * p * (1 - p));
      deviance += 2 * (k * Math.log(k / (n * p)) + (n - k) * Math.log((n - k) / (n * (1 - p))));
    });
    const model = maximise(counts, rowsOf(study, [["a"]])).deviance;
    expect(two.lackOfFit).toMatchObject({ df: 6, pureErrorDf: 8 });
    expect(two.lackOfFit?.pureErrorSs).toBeCloseTo(x2, 8);
    expect(two.lackOfFit?.f).toBeCloseTo((model - deviance) / 6 / (x2 / 8), 8);
  });
});

describe("checks of counts", () => {
  it("says whether trials scatter beyond counting, and whether that is carried", () => {
    const answer = (extra: number, scatter: "free" | "counting") => {
      const s = countedStudies(3, settings, { ...process, extra }, { scatter })(9);
      return runChecks(s, fitModel(s, "y", { terms: mains })).find((c) => c.id === "counting");
    };
    expect(answer(0.05, "free")).toMatchObject({ code: "counting-more", alarm: false });
    expect(answer(0.05, "counting")).toMatchObject({ code: "counting-more", alarm: true });
    expect(answer(0, "free")).toMatchObject({ code: "counting-fine", alarm: false });
  });
  it("asks for no other scale", () => {
    expect(runChecks(study, fitModel(study, "y", { terms: mains })).map((c) => c.id)).not.toContain("scale");
  });
  it("raises a false alarm among all checks in about one study of twenty", () => {
    const runs = 24;
    let alarms = 0;
    const draw = countedStudies(3, settings, process);
    for (let i = 0; i < runs; i++) {
      const s = draw(500 + i);
      const [ranked] = rankErrors(s, fitModel(s, "y", { terms: mains }));
      if ([...(ranked?.own.values() ?? [])].some((c) => c.adjusted <= 0.05)) alarms++;
    }
    // Binomial of 24 at 0.05: at most 5 but once in a thousand.
    expect(alarms).toBeLessThanOrEqual(5);
  });
  it("finds a trial that stands apart", () => {
    const odd: Study = {
      ...study,
      trials: study.trials.map((t, i) => (i === 5 ? { ...t, results: { y: { events: 95, of: 120 } } } : t)),
    };
    const single = runChecks(odd, fitModel(odd, "y", { terms: mains })).find((c) => c.id === "single");
    expect(single).toMatchObject({ about: "t6", code: "single-perhaps" });
    expect(single?.p).toBeLessThan(0.05);
  });
});

describe("counts of any size, and too few trials to tell their scatter", () => {
  const grid = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b) => ({ a, b })));
  /** Nine places twice, of so many events each: rising in a, bending a little. */
  const large = (mean: number): Study =>
    countedStudies(2, [...grid, ...grid], {
      kind: "count",
      of: [10],
      constant: Math.log(mean / 10),
      effects: { a: 0.3, b: -0.1 },
      extra: 0.01,
    })(5);
  it.each([30, 1e5, 1e7])(
    "%f events a trial: predictions, a path and a next lot, none of them as long as its counts",
    (mean) => {
      const made = large(mean);
      const terms: Term[] = [["a"], ["b"], ["a", "a"]];
      const of = fitModel(made, "y", { terms });
      const read = linearSurface(made, of);
      const said = read.predict({ a: 0.5, b: 0 });
      const [low, high] = said.trialInterval as [number, number];
      expect(low).toBeGreaterThan((0.5 * mean) / 10);
      expect(high).toBeLessThan((2.5 * mean) / 10);
      expect(low < said.mean && said.mean < high).toBe(true);
      // Nearly all of a lot's spread is that of its own mean there: a gamma law's, 1/κ of them (Breslow 1984).
      if (mean >= 1e5) expect(Math.log(high / low) / (2 * 1.96)).toBeLessThan(0.4);
      const goal = { aim: "raise" as const, low: mean / 10, high: mean };
      const study = { ...made, responses: [{ ...made.responses[0], goal }] };
      const path = steepestAscent(study, read, { a: 0, b: 0 });
      for (const p of path.points) {
        expect(p.trialInterval).toBeNull();
        expect(Number.isFinite(p.predicted)).toBe(true);
      }
    },
  );
  it("has no F and no p from fewer than four degrees of freedom of free scatter, and says why; counting has", () => {
    const points = corners(3);
    const few = (scatter: "free" | "counting") => {
      const s = countedStudies(3, points, process, { scatter })(3);
      return fitModel(s, "y", { terms: [...mains, ["a", "b"]] });
    };
    const free = few("free");
    expect(free.summary.residualDf).toBe(3);
    expect(free.anova.filter((r) => r.source === "term").map((r) => r.p)).toEqual([null, null, null, null]);
    expect(free.absent).toContainEqual({ code: "no-f-free", values: { df: 3 } });
    const counting = few("counting");
    expect(counting.anova.find((r) => r.source === "term")?.p).toBeGreaterThan(0);
    expect(counting.absent.map((a) => a.code)).not.toContain("no-f-free");
  });
});

describe("how sure effects are, by simulation", () => {
  /** Ten thousand of them in bench/counted.ts. */
  const runs = drawn(500, 125);
  it.each(COVERAGE_CASES)("$name: intervals cover, a null effect is rejected in its twentieth", (c) => {
    const { covers, rejects } = coverageOf(c, runs);
    // Three intervals a study, of which each holds its effect by itself. Discrete ones may cover more, by two points.
    const [least, most] = shareBounds(0.95, 3 * runs);
    expect(covers).toBeGreaterThan(least - 0.01);
    if (!c.few) expect(covers).toBeLessThan(Math.min(most + 0.01, 1));
    expect(rejects).toBeLessThan(shareBounds(0.05, runs)[1]);
  });
});
