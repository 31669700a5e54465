import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import type { Predictive } from "../model/fitted";
import { type OwnSpread, withOwnSpread } from "../model/own-spread";
import { normalCdf } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import { finish } from "../questions/ask";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { presentPredictor } from "../surface/average";
import { capability } from "./capability";
import { chanceOf } from "./chance";
import { setpointProblem } from "./goals";

/** ln σ of one trial, planted: 0.25 at the low end, 0.75 at the high one. */
const lnSigma = (x: number): number => Math.log(Math.sqrt(0.25 * 0.75)) + (Math.log(3) / 2) * x;

/** Trials at two ends and the middle, each so many times, about 10 + 0.4x: pieces of one trial, or trials run again. */
function planted(
  copies: number,
  pieces: boolean,
  {
    stored = true,
    several = pieces ? ("units" as const) : undefined,
  }: { stored?: boolean; several?: "units" | "repeats" | undefined } = {},
): Study {
  const random = seededRandom(3);
  const places = [-1, -1, 0, 0, 1, 1];
  const value = (x: number): number => 10 + 0.4 * x + Math.exp(lnSigma(x)) * random.normal();
  const trials = pieces
    ? places.map((x) => ({ x, y: Array.from({ length: copies }, () => value(x)) as number | number[] }))
    : places.flatMap((x) => Array.from({ length: copies }, () => ({ x, y: value(x) as number | number[] })));
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "spread",
    factors: [{ id: "a", kind: "continuous", low: -1, high: 1 }],
    responses: [
      {
        id: "y",
        goal: { aim: "hit", low: 9, target: 10, high: 11 },
        ...(several ? { several } : {}),
      },
      { id: "s", spread: { of: "y", from: pieces ? "repeats" : "replicates" } },
    ],
    waves: [{ id: "w" }],
    models: [{ response: "y", terms: [["a"]] }, ...(stored ? [{ response: "s", terms: [["a"]] }] : [])],
    trials: trials.map(({ x, y }, i) => ({
      id: `t${i}`,
      wave: "w",
      order: i + 1,
      state: "done" as const,
      settings: { a: x },
      results: { y },
    })),
  });
}

const chanceAt = (study: Study, settings: Settings): number =>
  finish(chanceOf(setpointProblem(study), settings, { draws: 40_000, seed: 1 })).together ?? Number.NaN;
const trueChance = (x: number): number => {
  const sigma = Math.exp(lnSigma(x));
  return normalCdf((11 - 10 - 0.4 * x) / sigma) - normalCdf((9 - 10 - 0.4 * x) / sigma);
};

describe("a model of the spread in predictions (definition 47)", () => {
  const again = planted(60, false);
  it("trials run again: chance, Ppk and the interval of one trial follow σ(x), as planted", () => {
    const problem = setpointProblem(again);
    for (const x of [-1, 0, 1]) {
      // With hundreds of trials what is not known hardly counts: the plain normal one.
      expect(Math.abs(chanceAt(again, { a: x }) - trueChance(x))).toBeLessThan(0.03);
      const [ppk] = capability(problem, { a: x });
      expect(ppk.scatter).toBe("s");
      expect(ppk.sigma / Math.exp(lnSigma(x))).toBeGreaterThan(0.88);
      expect(ppk.sigma / Math.exp(lnSigma(x))).toBeLessThan(1.12);
      const said = problem.predictors.get("y")?.predict({ a: x });
      const [low, high] = said?.trialInterval ?? [0, 0];
      expect((high - low) / (2 * 1.96 * Math.exp(lnSigma(x)))).toBeGreaterThan(0.88);
      expect((high - low) / (2 * 1.96 * Math.exp(lnSigma(x)))).toBeLessThan(1.14);
      expect(said?.scatter).toBe("s");
    }
    expect(trueChance(-1) - trueChance(1)).toBeGreaterThan(0.2);
  });
  it("without a stored model of it all trials scatter alike, everywhere", () => {
    const plain = planted(60, false, { stored: false });
    const problem = setpointProblem(plain);
    const sigmas = [-1, 1].map((x) => capability(problem, { a: x })[0].sigma);
    expect(sigmas[0]).toBe(sigmas[1]);
    expect(problem.predictors.get("y")?.predict({ a: 0 })).not.toHaveProperty("scatter");
  });
  it("pieces: the spread within a trial beside what trials vary by", () => {
    const study = planted(80, true);
    for (const x of [-1, 1]) expect(Math.abs(chanceAt(study, { a: x }) - trueChance(x))).toBeLessThan(0.06);
  });
  it("values measured again never stand for the process", () => {
    const study = planted(80, true, { several: "repeats" });
    expect(presentPredictor(study, "y").own).toBeUndefined();
  });
});

describe("the interval of one trial", () => {
  const own = (of: OwnSpread["of"], between: number): OwnSpread => ({
    response: "s",
    of,
    between,
    at: () => ({ log: 0, error: 0 }),
    dfAt: () => 1,
    along: () => () => ({ log: 0, error: 0 }),
  });
  const base = (variance: number, df: number | null): Predictive => ({
    value: 5,
    variance,
    noise: 9,
    df,
    dfTrial: df,
    meanNoise: () => 9,
    interval: () => [0, 0],
    draw: () => 0,
  });
  const half = (said: Predictive, m = 1, n = 1): number =>
    ((said.interval(0.95, m, n) as [number, number])[1] ?? 0) - 5;
  it("is the normal one where all is known, and t's where σ is nothing beside what is not known of the value", () => {
    const normal = withOwnSpread(base(0.5, null), own("trials", 0), { log: Math.log(2), error: 0 });
    expect(half(normal)).toBeCloseTo(1.959964 * Math.sqrt(4.5), 4);
    expect(half(normal, 4)).toBeCloseTo(1.959964 * Math.sqrt(1.5), 4);
    // t of 3 df: 3.182446.
    const student = withOwnSpread(base(0.5, 3), own("trials", 0), { log: -20, error: 0.1 });
    expect(half(student) / (3.182446 * Math.sqrt(0.5))).toBeCloseTo(1, 2);
    const pieces = withOwnSpread(base(0, null), own("pieces", 3), { log: Math.log(4), error: 0 });
    expect(half(pieces, 2, 8)).toBeCloseTo(1.959964 * Math.sqrt((3 + 2) / 2), 4);
  });
  it("covers what it draws: 95 of 100 (four standard errors)", () => {
    const said = withOwnSpread(base(0.3, 5), own("trials", 0), { log: 0.2, error: 0.4 });
    const [low, high] = said.interval(0.95, 1) as [number, number];
    const random = seededRandom(8);
    const n = 60_000;
    let inside = 0;
    for (let i = 0; i < n; i++) {
      const y = said.draw(random);
      if (y >= low && y <= high) inside++;
    }
    expect(Math.abs(inside / n - 0.95)).toBeLessThan(4 * Math.sqrt((0.95 * 0.05) / n));
  });
  it("of a study by its own two models", () => {
    const study = planted(6, false);
    const fit = fitModel(study, "s", { terms: [["a"]] });
    expect(fit.model.link.name).toBe("log");
  });
});
