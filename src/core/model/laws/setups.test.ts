import { describe, expect, it } from "vitest";
import { modelReadings } from "../../findings/model";
import { fUpper, normalQuantile, tQuantile } from "../../numerics/distributions";
import { seededRandom } from "../../numerics/random";
import { sumOfSquares } from "../../numerics/sums";
import { capability } from "../../setpoint/capability";
import { setpointProblem } from "../../setpoint/goals";
import type { Settings, Study, Term } from "../../study/schema";
import { parseStudy } from "../../study/validate";
import { determinant, dot, regress, solve } from "../../testing/elimination";
import { informationUnder, weights } from "../../testing/setups";
import { drawn, shareBounds } from "../../testing/simulation";
import { refusal } from "../../testing/studies";
import { messageText } from "../../words/answers";
import { answered } from "../../words/english/checks";
import { runChecks } from "../checklist";
import { fitModel } from "../fit";
import { effectLadder } from "../ladder";
import { contrastsOf } from "../lenth";
import { linearSurface } from "../linear-surface";
import { reduceModel } from "../reduce";

/** A furnace: heat is hard to change, one set-up of it holds several trials of time and load. */
function furnace(sizes: readonly number[], seed: number, between: number, within = 0.5): Study {
  const random = seededRandom(seed);
  let order = 0;
  const trials = sizes.flatMap((size, g) => {
    const u = between * random.normal();
    return Array.from({ length: size }, (_, i) => {
      order++;
      const settings: Settings = { heat: g % 2 === 0 ? -1 : 1, time: i % 2 === 0 ? -1 : 1, load: i % 4 < 2 ? -1 : 1 };
      const y = 20 + 0.4 * (settings.time as number) + u + within * random.normal();
      return { id: `t${order}`, wave: "w1", order, setup: g + 1, state: "done" as const, settings, results: { y } };
    });
  });
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Furnace",
    factors: ["heat", "time", "load"].map((id) => ({
      id,
      kind: "continuous" as const,
      low: -1,
      high: 1,
      change: id === "heat" ? ("hard" as const) : ("easy" as const),
    })),
    responses: [{ id: "y" }],
    waves: [{ id: "w1" }],
    trials,
  });
}

const terms: Term[] = [["heat"], ["time"], ["load"], ["heat", "time"]];
const rowsOf = (s: Study, over: readonly Term[] = terms): number[][] =>
  s.trials.map((t) => [1, ...over.map((term) => term.reduce((p, id) => p * (t.settings[id] as number), 1))]);
const resultsOf = (s: Study): number[] => s.trials.map((t) => t.results.y as number);
const group = (s: Study): number[] => s.trials.map((t) => (t.setup as number) - 1);

describe("six set-ups of four trials", () => {
  const study = furnace([4, 4, 4, 4, 4, 4], 3, 1.2);
  const fit = fitModel(study, "y", { terms });
  const [x, y, g] = [rowsOf(study), resultsOf(study), group(study)];
  const { b, rss } = regress(x, y);
  const e = y.map((v, i) => v - dot(x[i], b));
  const means = [0, 1, 2, 3, 4, 5].map((k) => e.filter((_, i) => g[i] === k).reduce((t, v) => t + v, 0) / 4);
  const ssBetween = 4 * means.reduce((t, m) => t + m * m, 0);
  const [msBetween, msWithin] = [ssBetween / 4, (rss - ssBetween) / 15];

  it("judges each term in its stratum, exactly, and says what ignoring set-ups would not", () => {
    expect(fit.law).toBe("setups");
    expect(fit.model.setups).toMatchObject({ setups: 6, betweenDf: 4, bounded: false });
    expect(fit.model.setups?.between).toBeCloseTo((msBetween - msWithin) / 4, 9);
    expect(fit.model.setups?.within).toBeCloseTo(msWithin, 9);
    const rows = fit.anova.filter((r) => r.source === "term");
    expect(rows.map((r) => [r.stratum, Math.round(r.dfDenominator ?? 0)])).toEqual([
      ["between", 4],
      ["within", 15],
      ["within", 15],
      ["within", 15],
    ]);
    expect(rows[0].f).toBeCloseTo((24 * b[1] ** 2) / msBetween, 8);
    expect(rows[1].p).toBeCloseTo(fUpper((24 * b[2] ** 2) / msWithin, 1, 15), 10);
    const blind = fitModel({ ...study, factors: study.factors.map((f) => ({ ...f, change: "easy" as const })) }, "y", {
      terms,
    });
    expect(blind.law).toBe("gaussian");
    expect(blind.anova.find((r) => r.term?.[0] === "heat")?.p).toBeLessThan((rows[0].p ?? 0) / 2);
    fit.parameters.forEach((p, j) => {
      expect(p.coefficient).toBeCloseTo(b[j], 10);
    });
    expect(fit.parameters[1].interval?.[1]).toBeCloseTo(b[1] + tQuantile(0.975, 4) * Math.sqrt(msBetween / 24), 8);
  });
  it("holds both variances in the capability of single trials (Satterthwaite 1946; Bissell 1990)", () => {
    const wanted: Study = parseStudy({
      ...study,
      responses: [{ id: "y", goal: { aim: "within", low: 14, high: 27 } }],
      models: [{ response: "y", terms }],
    });
    const middle = { heat: 0, time: 0, load: 0 };
    const [able] = capability(setpointProblem(wanted), middle);
    const total = (msBetween + 3 * msWithin) / 4;
    const df = total ** 2 / ((msBetween / 4) ** 2 / 4 + ((3 * msWithin) / 4) ** 2 / 15);
    const ppk = Math.min(27 - b[0], b[0] - 14) / (3 * Math.sqrt(total));
    expect(able.sigma).toBeCloseTo(Math.sqrt(total), 8);
    expect(able.ppk).toBeCloseTo(ppk, 8);
    const z = normalQuantile(0.95);
    const bound = ppk - z * Math.sqrt(msBetween / 24 / total / 9 + ppk ** 2 / (2 * df));
    expect(able.lower).toBeCloseTo(bound, 6);
    expect(fit.model.setups?.trialDf).toBeCloseTo(df, 6);
  });
  it("says on the Model station how set-ups vary, and once what ignoring them would have said", () => {
    const [said] = modelReadings(study, fit).filter((r) => r.id === "setups");
    const blindT = b[1] / Math.sqrt(rss / 19 / 24);
    expect(said.code).toBe("setups");
    const values = said.values as { df: number; ignored: { term: string; p: number; right: number } };
    expect(values.df).toBe(4);
    expect(values.ignored.term).toBe("heat");
    expect(values.ignored.p).toBeCloseTo(fUpper(blindT ** 2, 1, 19), 9);
    expect(values.ignored.right).toBeCloseTo(fUpper((24 * b[1] ** 2) / msBetween, 1, 4), 9);
    expect(messageText("readings", said)).toMatch(
      /^6 set-ups: they vary by s .*with 4 degrees of freedom\. Taken as 24 trials/,
    );
    const apart = { ...study, trials: study.trials.map(({ setup: _setup, ...t }) => t) };
    const blind = modelReadings(apart, fitModel(apart, "y", { terms }));
    expect(blind.filter((r) => r.id === "setups")).toEqual([]);
  });
  it("judges contrasts among those of their stratum (Lenth 1989)", () => {
    // A 2³ run in set-ups of heat four times over would be one cell eight times: contrasts of corners stay those of 2³.
    const { contrasts, strata } = contrastsOf(study, fit);
    const of = (name: "between" | "within"): string[] | undefined => strata?.[name].contrasts.map((c) => c.term.join());
    expect(of("between")).toEqual(["heat"]);
    expect(of("within")).toEqual(["time", "load", "heat,time", "heat,load", "time,load", "heat,time,load"]);
    expect(contrasts).toHaveLength(7);
    expect(strata?.between.margins).toBeUndefined();
    const sizes = (strata?.within.contrasts ?? []).map((c) => Math.abs(c.effect)).sort((a, b) => a - b);
    const middle = (v: readonly number[]): number => (v[Math.ceil(v.length / 2) - 1] + v[Math.floor(v.length / 2)]) / 2;
    const quiet = sizes.filter((v) => v < 2.5 * 1.5 * middle(sizes));
    expect(strata?.within.margins?.error).toBeCloseTo(1.5 * middle(quiet), 12);
    expect(strata?.within.margins?.margin).toBeCloseTo(1.5 * middle(quiet) * tQuantile(0.975, 2), 10);
  });
  it("predicts one trial in a new set-up with both components", () => {
    const said = linearSurface(study, fit).predict({ heat: 0, time: 0, load: 0 });
    expect(said.mean).toBeCloseTo(b[0], 10);
    // The constant's variance is MSb/24; one trial adds σ_u² + σ²: all of it a combination of the two mean squares.
    const s2u = (msBetween - msWithin) / 4;
    const v = msBetween / 24 + s2u + msWithin;
    // 24 and 4 trials: MSb(1/24 + 1/4) + MSw(1 − 1/4).
    const [cb, cw] = [msBetween * (1 / 24 + 1 / 4), msWithin * 0.75];
    const df = (cb + cw) ** 2 / (cb ** 2 / 4 + cw ** 2 / 15);
    expect(cb + cw).toBeCloseTo(v, 10);
    expect(said.trialInterval?.[1]).toBeCloseTo(b[0] + tQuantile(0.975, df) * Math.sqrt(v), 6);
    expect(said.meanInterval?.[1]).toBeCloseTo(b[0] + tQuantile(0.975, 4) * Math.sqrt(msBetween / 24), 7);
  });
  it("predicts the mean of three trials in two new set-ups", () => {
    const at = { heat: 1, time: 1, load: -1 };
    const row = new Float64Array(5);
    fit.model.linear(at, row);
    // Two trials share a set-up: σ_u²(4 + 1)/9 + σ²/3 beside the value's own variance, in mean squares.
    const [cb, cw] = [2 / 24 + 5 / 9 / 4, 3 / 24 + 1 / 3 - 5 / 9 / 4];
    const v = cb * msBetween + cw * msWithin;
    const df = v ** 2 / ((cb * msBetween) ** 2 / 4 + (cw * msWithin) ** 2 / 15);
    const [low, high] = fit.model.predictive(row).overSetups?.(0.95, [2, 1]) ?? [0, 0];
    expect((high - low) / 2).toBeCloseTo(tQuantile(0.975, df) * Math.sqrt(v), 8);
  });
  it("leaves whole set-ups out, and takes AICc from maximum likelihood", () => {
    const eta = (msBetween - msWithin) / 4 / msWithin;
    const v = (rows: readonly number[]): number[][] =>
      rows.map((i) => rows.map((j) => (g[i] === g[j] ? eta : 0) + (i === j ? 1 : 0)));
    const gls = (rows: readonly number[]): number[] => {
      const vi = v(rows);
      const vx = x[0].map((_, c) =>
        solve(
          vi,
          rows.map((i) => x[i][c]),
        ),
      );
      const vy = solve(
        vi,
        rows.map((i) => y[i]),
      );
      return solve(
        x[0].map((_, a) =>
          vx.map((column) =>
            dot(
              rows.map((i) => x[i][a]),
              column,
            ),
          ),
        ),
        x[0].map((_, a) =>
          dot(
            rows.map((i) => x[i][a]),
            vy,
          ),
        ),
      );
    };
    let press = 0;
    for (let k = 0; k < 6; k++) {
      const rest = y.flatMap((_, i) => (g[i] === k ? [] : [i]));
      const own = gls(rest);
      y.forEach((value, i) => {
        if (g[i] === k) press += (value - dot(x[i], own)) ** 2;
      });
    }
    expect(fit.summary.r2Predicted).toBeCloseTo(1 - press / sumOfSquares(y), 7);
    // −2 log likelihood over η, dense, its least by a fine walk.
    const all = y.map((_, i) => i);
    const likelihood = (ratio: number): number => {
      const h = all.map((i) => all.map((j) => (g[i] === g[j] ? ratio : 0) + (i === j ? 1 : 0)));
      const he = solve(h, e);
      const q = dot(e, he);
      return Math.log(determinant(h)) + 24 * (Math.log((2 * Math.PI * q) / 24) + 1);
    };
    let best = Number.POSITIVE_INFINITY;
    for (let r = -0.2; r < 40; r += 0.001 * (1 + Math.abs(r))) best = Math.min(best, likelihood(r));
    const k = 7;
    expect(fit.summary.aicc).toBeCloseTo(best + 2 * k + (2 * k * (k + 1)) / (24 - k - 1), 4);
  });
  it("stands on the ladder, ghosts at the present ratio, and is reduced by its own tests", () => {
    const { rungs } = effectLadder(study, fit);
    const ghost = rungs.find((r) => r.key === "time*load" || r.key === "load*time");
    const wide = regress(rowsOf(study, [...terms, ["time", "load"]]), y);
    expect(ghost?.size).toBeCloseTo(2 * wide.b[5], 9);
    expect(rungs.find((r) => r.key === "heat")?.p).toBe(fit.anova.find((r) => r.term?.[0] === "heat")?.p);
    const { fit: kept } = reduceModel(study, "y", terms, {
      direction: "backward",
      by: "p",
      alpha: 0.05,
      hierarchy: "strong",
    });
    expect(kept.terms).toContainEqual(["time"]);
    expect(kept.terms).not.toContainEqual(["load"]);
  });
});

describe("set-ups as they come", () => {
  it("a component estimated below nothing is kept in tests and counts as none for new trials", () => {
    const study = furnace([4, 4, 4, 4, 4, 4], 12, 0);
    const fit = fitModel(study, "y", { terms });
    const { between, within, bounded } = fit.model.setups ?? { between: 0, within: 0, bounded: false };
    expect(between).toBeLessThan(0);
    expect(bounded).toBe(true);
    const row = new Float64Array(5);
    fit.model.linear({ heat: 0, time: 0, load: 0 }, row);
    expect(fit.model.predictive(row).noise).toBeCloseTo(within, 12);
  });
  it("with too few of them the ratio is assumed: what is constant within has no p, the rest its own", () => {
    const fit = fitModel(furnace([4, 4], 4, 0.5), "y", { terms: [["heat"], ["time"]] });
    expect(fit.model.setups).toMatchObject({ assumed: 1, betweenDf: 0 });
    expect(fit.anova.map((r) => [r.term?.[0], r.p === null]).slice(1, 3)).toEqual([
      ["heat", true],
      ["time", false],
    ]);
    expect(fit.parameters[1].interval).toBeNull();
    expect(fit.parameters[2].interval).not.toBeNull();
  });
  it("says what a hard factor would do at a quarter, at once and at four times the ratio waves were planned for", () => {
    const made = furnace([4, 4], 4, 0.5);
    const study = parseStudy({ ...made, waves: [{ id: "w1", plan: { family: "factorial", eta: 2 } }] });
    const fit = fitModel(study, "y", { terms: [["heat"], ["time"]] });
    expect(fit.model.setups?.assumed).toBe(2);
    const x = rowsOf(study, [["heat"], ["time"]]);
    const said = fit.model.setups?.supposed(0.95) ?? [];
    expect(said.map((i) => [i.column, i.ratio])).toEqual([
      [1, 0.5],
      [1, 2],
      [1, 8],
    ]);
    for (const { ratio, interval } of said) {
      // Heat is ±1 over two set-ups of four: variance (η + 1/4)/2 of σ², which is what both strata leave.
      const w = weights(group(study), ratio);
      const m = informationUnder(x, group(study), ratio);
      const b = solve(
        m,
        x[0].map((_, j) => x.reduce((t, row, i) => t + row[j] * dot(w[i], resultsOf(study)), 0)),
      );
      const e = resultsOf(study).map((v, i) => v - dot(x[i], b));
      const within = e.reduce((t, v, i) => t + v * dot(w[i], e), 0) / (8 - 3);
      const half = tQuantile(0.975, 5) * Math.sqrt(((ratio + 0.25) / 2) * within);
      expect(interval[0]).toBeCloseTo(b[1] - half, 8);
      expect(interval[1]).toBeCloseTo(b[1] + half, 8);
    }
    expect(fitModel(furnace([4, 4, 4, 4, 4], 4, 0.5), "y", { terms }).model.setups?.supposed(0.95)).toEqual([]);
  });
  it("a ratio asked for goes before the one planned with, and what rests on it says so", () => {
    const made = furnace([4, 4], 4, 0.5);
    const study = parseStudy({ ...made, waves: [{ id: "w1", plan: { family: "factorial", eta: 2 } }] });
    const plain = fitModel(study, "y", { terms: [["heat"], ["time"]] });
    const { rss } = regress(rowsOf(study, [["heat"], ["time"]]), resultsOf(study));
    const middle = { heat: 0, time: 0, load: 0 };
    for (const [fit, ratio] of [
      [plain, 2],
      [fitModel(study, "y", { terms: [["heat"], ["time"]], eta: 6 }), 6],
      [fitModel(study, "y", { terms: [["heat"], ["time"]], eta: 0 }), 0],
    ] as const) {
      const said = linearSurface(study, fit).predict(middle);
      expect(said.assumed).toBe(ratio);
      // The mean of two set-ups of four: η/2 + 1/8 of σ², a new trial in a new set-up η + 1 of it more.
      const variance = rss / 5;
      const of = (share: number): number => tQuantile(0.975, 5) * Math.sqrt(share * variance);
      expect((said.meanInterval?.[1] ?? 0) - said.mean).toBeCloseTo(of(ratio / 2 + 1 / 8), 9);
      expect((said.trialInterval?.[1] ?? 0) - said.mean).toBeCloseTo(of(ratio / 2 + 1 / 8 + ratio + 1), 9);
    }
    const told = fitModel(furnace([4, 4, 4, 4, 4], 4, 0.5), "y", { terms, eta: 6 });
    expect(told.model.setups?.assumed).toBeUndefined();
    expect(linearSurface(study, told).predict(middle)).not.toHaveProperty("assumed");
  });
  it("covers and rejects as it says, balanced, at every ratio", () => {
    const runs = drawn(400, 120);
    const [fewest, most] = shareBounds(0.05, runs);
    for (const ratio of [0, 1, 4]) {
      let covered = 0;
      let rejected = 0;
      for (let i = 0; i < runs; i++) {
        const fit = fitModel(furnace([4, 4, 4, 4, 4, 4], 100 + i, 0.5 * Math.sqrt(ratio)), "y", {
          terms: [["heat"], ["time"]],
        });
        const [, heat, time] = fit.parameters;
        if (time.interval && time.interval[0] <= 0.4 && time.interval[1] >= 0.4) covered++;
        if ((heat.p ?? 1) < 0.05) rejected++;
      }
      expect(covered / runs).toBeGreaterThan(1 - most);
      expect(covered / runs).toBeLessThan(1 - fewest);
      expect(rejected / runs).toBeGreaterThan(fewest);
      expect(rejected / runs).toBeLessThan(most);
    }
  });
  it("without hard factors numbers of set-ups mean nothing, and each trial its own is no set-up", () => {
    const study = furnace([1, 1, 1, 1, 1, 1, 1, 1], 3, 1);
    expect(fitModel(study, "y", { terms: [["heat"]] }).law).toBe("gaussian");
  });
});

describe("lack of fit under set-ups", () => {
  /** Eight set-ups of three times each: four of either heat, so that every cell is run four times. */
  const study = (bend: number): Study => {
    const random = seededRandom(21);
    const made = furnace([3, 3, 3, 3, 3, 3, 3, 3], 1, 0);
    const u = Array.from({ length: 8 }, () => 1.1 * random.normal());
    return parseStudy({
      ...made,
      trials: made.trials.map((t, i) => {
        const time = (i % 3) - 1;
        const settings = { ...t.settings, time, load: -1 };
        const y = 20 + (t.settings.heat as number) + time + bend * time * time + u[(t.setup as number) - 1];
        return { ...t, settings, results: { y: y + 0.5 * random.normal() } };
      }),
    });
  };
  it.each([0, 0.8])("cells beyond the model, all told within set-ups: the exact F, bend %f", (bend) => {
    const s = study(bend);
    const fit = fitModel(s, "y", { terms: [["heat"], ["time"]] });
    // With a column for every set-up in place of what is told between them, F is that of least squares.
    const blocks = s.trials.map((t) => [1, 2, 3, 4, 5, 6, 7, 8].map((k) => (k === t.setup ? 1 : 0)));
    const more = (terms: Term[]): number[][] => rowsOf(s, terms).map((r, i) => [...blocks[i], ...r.slice(1)]);
    const small = regress(more([["time"]]), resultsOf(s));
    const large = regress(more([["time"], ["heat", "time"], ["time", "time"], ["heat", "time", "time"]]), resultsOf(s));
    const df = 24 - 8 - 4;
    const f = (small.rss - large.rss) / 3 / (large.rss / df);
    expect(fit.lackOfFit).toMatchObject({ df: 3, ss: null, pureErrorSs: null });
    expect(fit.lackOfFit?.f).toBeCloseTo(f, 6);
    expect(fit.lackOfFit?.pureErrorDf).toBeCloseTo(df, 6);
    expect(fit.lackOfFit?.p).toBeCloseTo(fUpper(f, 3, df), 6);
    expect(fit.anova.some((r) => r.source === "lack-of-fit" && r.dfDenominator !== undefined)).toBe(true);
  });
  it("is not told where cells leave no error between set-ups, and a constant alone is a model", () => {
    expect(fitModel(furnace([8, 8], 2, 1), "y", { terms: [["heat"], ["time"]] }).lackOfFit).toBeUndefined();
    const alone = fitModel(furnace([4, 4, 4, 4, 4], 2, 1), "y", { terms: [] });
    expect(alone.anova.map((r) => r.source)).not.toContain("model");
    // A mean of set-ups of one size: its standard error is that of their means, four degrees of freedom.
    const means = [0, 1, 2, 3, 4].map((g) =>
      alone.model.observed.slice(4 * g, 4 * g + 4).reduce((t, v) => t + v / 4, 0),
    );
    const mean = means.reduce((t, v) => t + v / 5, 0);
    const se = Math.sqrt(means.reduce((t, v) => t + (v - mean) ** 2, 0) / 4 / 5);
    const half = ((alone.parameters[0].interval?.[1] ?? 0) - (alone.parameters[0].interval?.[0] ?? 0)) / 2;
    expect(half).toBeCloseTo(tQuantile(0.975, 4) * se, 8);
  });
});

describe("checks on both errors", () => {
  const model = { terms: [["heat"], ["time"], ["load"]] };
  it.each([0, 1, 4])("raise no more alarms than they say where nothing is wrong, η %f", (eta) => {
    const counts = new Map<string, number>();
    const runs = drawn(60, 30);
    for (let i = 0; i < runs; i++) {
      const study = furnace([4, 4, 4, 4, 4, 4, 4, 4], 500 + i, 0.5 * Math.sqrt(eta));
      for (const c of runChecks(study, fitModel(study, "y", model)))
        if (c.p !== null && c.p < 0.05) counts.set(c.id, (counts.get(c.id) ?? 0) + 1);
    }
    const [, most] = shareBounds(0.05, runs);
    for (const [id, n] of counts) expect(n / runs, id).toBeLessThan(id === "waves" ? 1.01 : most);
  });
  it("name a set-up that stands apart, which no single trial does", () => {
    const study = furnace([4, 4, 4, 4, 4, 4, 4, 4, 4, 4], 7, 0.1);
    const moved = {
      ...study,
      trials: study.trials.map((t) => (t.setup === 6 ? { ...t, results: { y: (t.results.y as number) + 6 } } : t)),
    };
    const found = runChecks(moved, fitModel(moved, "y", model)).find((c) => c.id === "setup");
    expect(found?.alarm).toBe(true);
    expect(found && answered(found)).toMatch(/^Yes, set-up 6 of Wave 1: its trials lie off together/);
    const before = runChecks(study, fitModel(study, "y", model)).find((c) => c.id === "setup");
    expect(before?.alarm).toBe(false);
  });
});

describe("the edge of what set-ups may vary by", () => {
  /** Set-ups whose means are all but alike, a little of their own kept: the component ends at −1 over the largest. */
  const alike = (sizes: readonly number[], seed: number): Study => {
    const made = furnace(sizes, seed, 0, 1);
    const mean = sizes.map(
      (size, g) =>
        made.trials.filter((t) => t.setup === g + 1).reduce((t, trial) => t + (trial.results.y as number), 0) / size,
    );
    return parseStudy({
      ...made,
      trials: made.trials.map((t) => ({
        ...t,
        results: { y: (t.results.y as number) - 0.9 * (mean[(t.setup as number) - 1] - 20) },
      })),
    });
  };
  /** Both mean squares of some columns, and what they say of least squares' coefficients (Satterthwaite 1946). */
  const byHand = (study: Study, over: readonly Term[]) => {
    const [x, y, g] = [rowsOf(study, over), resultsOf(study), group(study)];
    const { b, rss } = regress(x, y);
    const sizes = [...new Set(g)].map((k) => g.filter((q) => q === k).length);
    const meanOf = (v: readonly number[]): number[] =>
      sizes.map((size, k) => v.reduce((t, value, i) => (g[i] === k ? t + value : t), 0) / size);
    const inner = (v: readonly number[]): number[] => v.map((value, i) => value - meanOf(v)[g[i]]);
    // Within set-ups only columns that change there tell anything.
    const columns = x[0].map((_, j) => inner(x.map((r) => r[j]))).filter((v) => v.some((e) => Math.abs(e) > 1e-9));
    const within = regress(
      x.map((_, i) => columns.map((v) => v[i])),
      inner(y),
    );
    const df = [x[0].length, columns.length];
    const [ofBetween, ofWithin] = [sizes.length - (df[0] - df[1]), x.length - sizes.length - df[1]];
    const [msb, msw] = [(rss - within.rss) / ofBetween, within.rss / ofWithin];
    return b.map((value, j) => {
      const unit = b.map((_, k) => (k === j ? 1 : 0));
      const l = x.map((r) =>
        dot(
          r,
          solve(
            x[0].map((_, a) => x[0].map((__, c) => x.reduce((t, q) => t + q[a] * q[c], 0))),
            unit,
          ),
        ),
      );
      const outer = meanOf(l).reduce((t, m, k) => t + sizes[k] * m * m, 0);
      const own = dot(l, l) - outer;
      const variance = msb * outer + msw * own;
      return {
        value,
        error: Math.sqrt(variance),
        df: variance ** 2 / ((msb * outer) ** 2 / ofBetween + (msw * own) ** 2 / ofWithin),
      };
    });
  };
  const two: Term[] = [["heat"], ["time"]];

  it.each([
    ["unlike", [5, 3, 4, 4, 2, 4]],
    ["all but alike in size", [4, 4, 4, 4, 3]],
  ])("judges by both mean squares, set-ups %s", (_, sizes) => {
    const study = alike(sizes, 3);
    const fit = fitModel(study, "y", { terms: two });
    expect(fit.model.setups?.ratio).toBeLessThan(-0.9 / Math.max(...sizes));
    expect(fit.model.setups?.bounded).toBe(true);
    for (const [j, known] of byHand(study, two).entries()) {
      expect(fit.parameters[j].coefficient).toBeCloseTo(known.value, 9);
      expect(fit.parameters[j].standardError).toBeCloseTo(known.error, 9);
      expect(fit.parameters[j].df).toBeCloseTo(known.df, 6);
    }
    const heat = fit.anova.find((r) => r.term?.[0] === "heat");
    expect(heat?.f).toBeCloseTo((fit.parameters[1].t as number) ** 2, 8);
    // A rung outside says what the model with it says.
    for (const more of [["load"], ["heat", "time"]]) {
      const [wider] = byHand(study, [...two, more]).slice(-1);
      const rung = effectLadder(study, fit).rungs.find((r) => r.term.join() === more.join());
      expect(rung?.size).toBeCloseTo(2 * wider.value, 9);
      expect(rung?.p).toBeCloseTo(fUpper((wider.value / wider.error) ** 2, 1, wider.df), 8);
    }
  });
  it("says of balanced set-ups what the analysis of variance does", () => {
    const study = alike([4, 4, 4, 4, 4, 4], 5);
    const fit = fitModel(study, "y", { terms: two });
    expect(fit.model.setups?.ratio).toBeLessThan(-0.9 / 4);
    const [, heat, time] = byHand(study, two);
    expect(heat.df).toBeCloseTo(4, 9);
    expect(time.df).toBeCloseTo(24 - 6 - 1, 9);
    expect(fit.parameters[1].interval?.[1]).toBeCloseTo(heat.value + tQuantile(0.975, 4) * heat.error, 9);
    expect(fit.parameters[2].interval?.[1]).toBeCloseTo(time.value + tQuantile(0.975, 17) * time.error, 9);
  });
});

describe("set-ups that cannot be", () => {
  const study = furnace([3, 3], 1, 1);
  const with_ = (change: (t: Study["trials"][number], i: number) => object) => () =>
    parseStudy({ ...study, trials: study.trials.map((t, i) => ({ ...t, ...change(t, i) })) });
  it.each([
    [
      "numbers missing in part",
      (_: unknown, i: number) => (i === 4 ? { setup: undefined } : {}),
      /Trial 5 has no set-up/,
    ],
    ["one left and taken up again", (_: unknown, i: number) => (i === 5 ? { setup: 1 } : {}), /comes back at trial 6/],
    [
      "a hard factor changed within",
      (t: { settings: Settings }, i: number) => (i === 1 ? { settings: { ...t.settings, heat: 1 } } : {}),
      /heat is hard to change, yet trial 2 sets it otherwise within set-up 1/,
    ],
  ])("%s", (_, change, sentence) => {
    expect(with_(change as (t: Study["trials"][number], i: number) => object)).toThrow(sentence);
  });
});

describe("results that tell nothing within set-ups", () => {
  const study = furnace([4, 4, 4, 4, 4], 3, 1);
  const given = (y: (t: Study["trials"][number]) => number) =>
    parseStudy({ ...study, trials: study.trials.map((t) => ({ ...t, results: { y: y(t) } })) });
  it("one value a set-up is refused with the way out", () => {
    const once = given((t) => [20, 22, 21, 23, 20][(t.setup as number) - 1]);
    expect(refusal(() => fitModel(once, "y", { terms: [["heat"]] }))).toMatch(
      /^y is the same in all trials of each of 5 set-ups, so nothing tells how trials of one differ\. Measured once a set-up/,
    );
  });
  it("a model through all that differs within them has no tests, and no figure that is none", () => {
    const exact = given((t) => 2 * (t.settings.time as number) + [20, 22, 21, 23, 20][(t.setup as number) - 1]);
    const fit = fitModel(exact, "y", { terms: [["heat"], ["time"]] });
    expect(fit.model.exact).toBe(true);
    expect(JSON.stringify(fit.parameters)).not.toMatch(/NaN/);
    for (const p of fit.parameters) expect([p.p, p.interval]).toEqual([null, null]);
    // Time is told within set-ups alone, where it does 2 exactly.
    expect(fit.parameters[2].coefficient).toBeCloseTo(2, 10);
  });
});
