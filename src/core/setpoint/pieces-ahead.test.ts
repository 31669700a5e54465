import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { tUpper } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { capability } from "./capability";
import { chanceOf } from "./chance";
import { setpointProblem } from "./goals";

const CORNERS = [
  [-1, -1],
  [1, -1],
  [-1, 1],
  [1, 1],
];

/** Twelve trials of a 2², each of as many units as its count: 10 + a, σ between trials and within them as given. */
function made(random: ReturnType<typeof seededRandom>, between: number, within: number, counts: number[]): Study {
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Units ahead",
    factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
    responses: [{ id: "y", several: "units", goal: { aim: "within", low: 8.5, high: 12.5 } }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: 12 }, (_, i) => {
      const [a, b] = CORNERS[i % 4];
      const trial = 10 + a + between * random.normal();
      const y = Array.from({ length: counts[i % counts.length] }, () => trial + within * random.normal());
      return { id: `t${i}`, wave: "w", state: "done", settings: { a, b }, results: { y } };
    }),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  });
}
const at = { a: 0.5, b: -0.5 };
const predicted = (study: Study) => {
  const fit = fitModel(study, "y", { terms: [["a"], ["b"]] });
  const row = new Float64Array(fit.model.columns.length);
  fit.model.linear(at, row);
  return fit.model.predictive(row);
};

describe("units to come", () => {
  it.each([
    ["as many in each trial", 0.5, 1, [4]],
    ["trials far apart", 2, 1, [4]],
    ["different numbers", 1, 1, [2, 6, 3, 9]],
  ])(
    "%s: intervals of one unit, and of the mean of three trials of twenty, hold as often as they say",
    (_, sb, sw, counts) => {
      const random = seededRandom(3);
      let one = 0;
      let mean = 0;
      for (let k = 0; k < 1200; k++) {
        const said = predicted(made(random, sb, sw, counts));
        const truth = 10.5;
        const unit = truth + sb * random.normal() + sw * random.normal();
        const trials = [1, 2, 3].map(() => sb * random.normal() + (sw / Math.sqrt(20)) * random.normal());
        const average = truth + trials.reduce((t, v) => t + v, 0) / 3;
        const holds = ([low, high]: readonly number[], v: number): number => (low <= v && v <= high ? 1 : 0);
        one += holds(said.interval(0.95, 1) as [number, number], unit);
        mean += holds(said.interval(0.95, 3, 20) as [number, number], average);
      }
      for (const share of [one / 1200, mean / 1200]) {
        expect(share).toBeGreaterThan(0.93);
        expect(share).toBeLessThan(0.97);
      }
    },
  );
  it("the chance that one unit keeps the limits is that of its t distribution", () => {
    const study = made(seededRandom(8), 0.6, 0.8, [4]);
    const { value, variance, noise, dfTrial } = predicted(study);
    const sd = Math.sqrt((variance ?? 0) + (noise ?? 0));
    const exact = 1 - tUpper((value - 8.5) / sd, dfTrial ?? 1) - tUpper((12.5 - value) / sd, dfTrial ?? 1);
    const steps = chanceOf(setpointProblem(study), at, { draws: 100_000, seed: 1 });
    let step = steps.next();
    while (!step.done) step = steps.next();
    expect(Math.abs((step.value.together ?? 0) - exact)).toBeLessThan(0.006);
  });
  it("capability is that of single units, between and within trials, not of trial means", () => {
    const study = made(seededRandom(8), 0.6, 0.8, [4]);
    const [able] = capability(setpointProblem(study), at);
    expect(able.sigma).toBeCloseTo(Math.sqrt(predicted(study).noise ?? 0), 10);
    const repeats: Study = { ...study, responses: study.responses.map(({ several: _, ...r }) => r) };
    const [means] = capability(setpointProblem(repeats), at);
    expect(means.sigma).toBeLessThan(able.sigma);
    expect(able.ppk / means.ppk).toBeCloseTo(means.sigma / able.sigma, 10);
  });
});
