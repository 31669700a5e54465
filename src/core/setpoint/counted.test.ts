import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import { seededRandom } from "../numerics/random";
import type { Settings, Study } from "../study/schema";
import { countedStudies, drawCount, drawShare, type Process } from "../testing/counted";
import { corners } from "../testing/studies";
import { chanceOf } from "./chance";
import { confirmation } from "./confirm";
import { countedFigures, nextLot } from "./counted";
import { setpointProblem } from "./goals";

const settings = [...corners(3), ...corners(3)];
const terms = [["a"], ["b"]];
const at: Settings = { a: -1, b: 0.5, c: 0 };
const model = { response: "y", terms, transform: "none" as const, block: true, curvature: true };

const share: Process = { kind: "share", of: [150], constant: -2, effects: { a: 0.5, b: -0.3 }, extra: 0 };
const count: Process = { kind: "count", of: [4], constant: 1, effects: { a: 0.4, b: -0.2 }, extra: 0 };

describe.each([
  { name: "shares of independent pieces", process: share, limit: 0.085 },
  { name: "shares that scatter beyond counting", process: { ...share, extra: 0.012 }, limit: 0.1 },
  { name: "counts of independent events", process: count, limit: 2.3 },
  { name: "counts that scatter beyond counting", process: { ...count, extra: 0.06 }, limit: 2.3 },
])("a next lot four times as large: $name", ({ process, limit }) => {
  // So many trials that the process itself is known: what is left is how a lot falls.
  const many = Array.from({ length: 150 }, () => settings).flat();
  const made = countedStudies(3, many, process, {
    goal: { aim: "lower", low: limit / 2, high: limit },
    ...(process.extra === 0 ? { scatter: "counting" as const } : {}),
  })(4);
  const study: Study = { ...made, models: [model] };
  const read = linearSurface(study, fitModel(study, "y", { terms }));
  const lot = 4 * process.of[0];
  const response = { ...study.responses[0], lot };

  it("keeps its limit with the chance of simulated lots, within 0.01", () => {
    const random = seededRandom(17);
    const runs = 40_000;
    let kept = 0;
    let sum = 0;
    // Lots of the process as the trials tell it: what 2,400 of them leave open is small beside how a lot falls.
    const rate = read.value(at);
    const extra = read.model.likelihood?.extra ?? 0;
    expect(Math.abs(extra - process.extra)).toBeLessThan(0.2 * process.extra + 1e-12);
    for (let i = 0; i < runs; i++) {
      const drawn =
        process.kind === "share" ? drawShare(random, lot, rate, extra) : drawCount(random, lot, rate, extra);
      if (drawn.events <= limit * lot) kept++;
      sum += drawn.events;
    }
    const said = nextLot(study, response, read, at);
    expect(Math.abs((said?.chance ?? 0) - kept / runs)).toBeLessThan(0.01);
    expect(kept / runs).toBeGreaterThan(0.5);
    expect(kept / runs).toBeLessThan(0.999);
    expect((said?.events ?? 0) / (sum / runs)).toBeCloseTo(1, 1);
  });
  it("asks what meets the limit to the last piece", () => {
    const row = new Float64Array(read.model.columns.length);
    read.model.linear(at, row);
    const of = 300;
    const whole = read.model.lots?.lot(row, [of]);
    // 0.07 · 300 is 21.000000000000004: the limit is 21 pieces all the same.
    expect(whole?.within(0, 0.07)).toBe(whole?.within(0, 21 / 300));
  });
});

describe("the chance of all limits together", () => {
  const made = countedStudies(
    3,
    settings,
    { ...share, extra: 0.01 },
    { goal: { aim: "lower", low: 0.02, high: 0.12 } },
  )(3);
  const random = seededRandom(5);
  const study: Study = {
    ...made,
    responses: [...made.responses, { id: "z", name: "z", importance: 1, goal: { aim: "raise", low: 9, high: 12 } }],
    trials: made.trials.map((t) => ({
      ...t,
      results: { ...t.results, z: 10 + (t.settings.a as number) * -0.5 + 0.6 * random.normal() },
    })),
    models: [model, { ...model, response: "z" }],
  };
  it("is the product of a lot's and of the others'", () => {
    const chance = (s: Study) => {
      const steps = chanceOf(setpointProblem(s), at, { draws: 40_000, seed: 2 });
      for (;;) {
        const step = steps.next();
        if (step.done) return step.value;
      }
    };
    const both = chance(study);
    const alone = chance({ ...study, responses: study.responses.filter((r) => r.id === "z") });
    const read = linearSurface(study, fitModel(study, "y", { terms }));
    const lot = nextLot(study, study.responses[0], read, at);
    expect(both.together).toBeCloseTo((alone.together ?? 0) * (lot?.chance ?? 0), 10);
    expect(both.each?.y).toBeCloseTo(lot?.chance ?? 0, 12);
    expect(both.each?.z).toBeCloseTo(alone.each?.z ?? 0, 12);
  });
  it("averages over settings within their tolerance", () => {
    const loose: Study = {
      ...study,
      factors: study.factors.map((f) => (f.id === "a" ? { ...f, tolerance: 0.4 } : f)),
    };
    const read = linearSurface(loose, fitModel(loose, "y", { terms }));
    const mean = nextLot(loose, loose.responses[0], read, at)?.mean ?? 0;
    // Simpson's rule over the tolerance.
    const value = (a: number): number => read.value({ ...at, a });
    const n = 40;
    const simpson = Array.from({ length: n + 1 }, (_, i) => {
      const w = i === 0 || i === n ? 1 : i % 2 === 1 ? 4 : 2;
      return (w * value(-1.4 + (0.8 * i) / n)) / (3 * n);
    }).reduce((t, v) => t + v, 0);
    expect(mean / simpson).toBeCloseTo(1, 2);
  });
});

describe("a confirmation of a share", () => {
  const made = countedStudies(3, settings, share, {
    scatter: "counting",
    goal: { aim: "lower", low: 0.02, high: 0.1 },
  })(6);
  const confirmed = (events: readonly number[]): Study => ({
    ...made,
    models: [model],
    waves: [...made.waves, { id: "w2", name: "Wave 2", purpose: "confirm", plan: { family: "confirm" } }],
    trials: [
      ...made.trials,
      ...events.map((k, i) => ({
        ...made.trials[0],
        id: `c${i}`,
        wave: "w2",
        kind: "confirm" as const,
        use: false,
        order: 17 + i,
        settings: { a: -1, b: 0.5, c: 0 },
        results: { y: { events: k, of: 150 } },
      })),
    ],
  });
  it("adds pieces up, and agrees or not by what such a total would be", () => {
    const good = confirmation(confirmed([8, 9, 10]));
    expect(good?.verdicts[0]).toMatchObject({ n: 3, mean: 0.06, agrees: true, meetsLimits: true });
    expect(good?.verdicts[0].counted).toMatchObject({ events: 27, of: 450 });
    // Exact for 27 of 450 (Clopper & Pearson): 0.0399 to 0.0861.
    expect(good?.verdicts[0].counted?.interval[0]).toBeCloseTo(0.0399, 3);
    expect(good?.verdicts[0].counted?.interval[1]).toBeCloseTo(0.0861, 3);
    const bad = confirmation(confirmed([30, 31, 29]));
    expect(bad?.verdicts[0]).toMatchObject({ mean: 0.2, agrees: false, meetsLimits: false });
    expect(bad?.agrees).toBe(false);
    expect(bad?.suspects.length).toBeGreaterThan(0);
  });
  it("counts scatter beyond counting as fewer pieces", () => {
    const results = [1, 2, 3].map(() => ({ events: 10, of: 100 }));
    const tight = countedFigures(results, { measured: "share" }, { together: () => 0 }, 0.95);
    const loose = countedFigures(results, { measured: "share" }, { together: () => 0.01 }, 0.95);
    // 300 pieces at ρ 0.01 are worth 300/(1 + 2.99).
    const worth = 300 / 3.99;
    const same = countedFigures(
      [{ events: worth / 10, of: worth }],
      { measured: "share" },
      { together: () => 0 },
      0.95,
    );
    expect(loose.interval[0]).toBeCloseTo(same.interval[0], 10);
    expect(loose.interval[1] - loose.interval[0]).toBeGreaterThan(tight.interval[1] - tight.interval[0]);
  });
});
