import { describe, expect, it } from "vitest";
import { chiSquaredUpper, fUpper, tTwoSided } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { regress } from "../testing/elimination";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { runChecks } from "./checklist";
import {
  andersonDarling,
  brownForsythe,
  type Check,
  durbinWatson,
  koenker,
  missingSquares,
  slopeOnOrder,
} from "./checks";
import { fitModel } from "./fit";

const check = (checks: readonly Check[], id: string): Check => {
  const found = checks.find((c) => c.id === id);
  if (!found) throw new Error(`no check ${id}`);
  return found;
};

describe("checks under weights", () => {
  // A spread measured by two or by eight repeats has values that are known very differently. With no spread that really
  // changes, a check at five percent is to say so of about five models in a hundred, not of half of them.
  const ROUNDS = 400;
  const random = seededRandom(20);
  const points = corners(3);
  // The better known cells stand where b is high, so that raw residuals get smaller as the fitted value goes up.
  const repeats = points.map((p) => (p.b === 1 ? 8 : 2));
  const round = (): Study => {
    const waves = [{ id: "w" }];
    const base = plainStudy(3, {
      responses: [{ id: "y" }, { id: "s", name: "spread of y", spread: { of: "y", from: "repeats" } }],
    });
    return parseStudy({
      ...base,
      waves,
      trials: [...points, ...points].map((settings, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings,
        // ln s goes up with b: a spread model with a true effect.
        results: {
          y: Array.from(
            { length: repeats[i % 8] },
            () => 50 + Math.exp(0.5 * (settings.b as number)) * random.normal(),
          ),
        },
      })),
    });
  };
  const rejected = new Map<string, number>();
  for (let i = 0; i < ROUNDS; i++) {
    const study = round();
    const fit = fitModel(study, "s", { terms: [["a"], ["b"], ["c"]] });
    for (const c of runChecks(study, fit))
      if (c.p !== null && c.p < 0.05) rejected.set(c.id, (rejected.get(c.id) ?? 0) + 1);
  }
  const share = (id: string): number => (rejected.get(id) ?? 0) / ROUNDS;
  // ln s of one degree of freedom has a long tail to the left; the shares below hold for errors that are near normal.
  it("an even spread is not called uneven", () => expect(share("spread")).toBeLessThan(0.1));
  it("nor order where there is none", () => {
    expect(share("order")).toBeGreaterThan(0.005);
    expect(share("order")).toBeLessThan(0.1);
  });
});

describe("the tests behind the checks", () => {
  it("Koenker's n·R² is that of squared residuals on fitted values", () => {
    const e = [1, -2, 1, 0.5, -1.5, 3, -2.5, 0.5];
    const f = [1, 2, 3, 4, 5, 6, 7, 8];
    const squares = e.map((v) => v * v);
    const { rss } = regress(
      f.map((v) => [1, v]),
      squares,
    );
    const m = squares.reduce((t, v) => t + v, 0) / 8;
    const total = squares.reduce((t, v) => t + (v - m) ** 2, 0);
    const found = koenker(e, f);
    expect(found?.statistic).toBeCloseTo(8 * (1 - rss / total), 10);
    expect(found?.p).toBeCloseTo(chiSquaredUpper(8 * (1 - rss / total), 1), 12);
    expect(koenker([1, -1, 1, -1], [1, 2, 3, 4])).toBeNull();
    expect(koenker([1, 2, 3], [5, 5, 5])).toBeNull();
  });
  it("Durbin–Watson never pairs across waves, and shuffles within them", () => {
    // Within waves 1, 1 and −1, −1: no step within a wave, whatever the step between them.
    const { statistic, p } = durbinWatson([1, 1, -1, -1], ["u", "u", "v", "v"]);
    expect(statistic).toBe(0);
    expect(p).toBe(1);
    // Every one of the 4! orders of 1, 2, 3, 4: 3/30 is the least of all and is met by two of them.
    const climb = durbinWatson([1, 2, 3, 4], ["w", "w", "w", "w"]);
    expect(climb.statistic).toBeCloseTo(3 / 30, 12);
    expect(climb.p).toBeGreaterThan((2 * 2) / 24 - 0.02);
    expect(climb.p).toBeLessThan((2 * 2) / 24 + 0.02);
  });
  it("Brown–Forsythe is the analysis of variance of distances from the medians", () => {
    // Medians 2 and 20; distances 1, 0, 1 and 10, 0, 10: means 2/3 and 20/3, within (2·1/9 + 4/9)·(1 + 100).
    const found = brownForsythe([
      [1, 2, 3],
      [10, 20, 30],
    ]);
    const between = 6 * 3 ** 2;
    const within = (2 / 3) * 101;
    expect(found?.df).toEqual([1, 4]);
    expect(found?.statistic).toBeCloseTo(between / (within / 4), 10);
    expect(found?.p).toBeCloseTo(fUpper(between / (within / 4), 1, 4), 12);
    expect(brownForsythe([[1, 2, 3], [1]])).toBeNull();
    expect(
      brownForsythe([
        [1, 1, 1],
        [2, 2, 2],
      ]),
    ).toBeNull();
  });
  it("Anderson–Darling grows as values leave the bell, and does not depend on their unit", () => {
    // Blom's normal scores of 20: as near to the bell as twenty values come.
    const bell = Array.from({ length: 20 }, (_, i) => Math.tan((Math.PI / 2) * 0.6 * ((2 * (i + 1)) / 21 - 1)));
    const outlier = [...bell.slice(0, 19), 12];
    const first = andersonDarling(bell);
    expect(first.p).toBeGreaterThan(0.5);
    expect(andersonDarling(outlier).p).toBeLessThan(1e-4);
    expect(andersonDarling(bell.map((v) => 1000 + 7 * v)).statistic).toBeCloseTo(first.statistic, 9);
  });
  it("a drift is the slope on run order beside the model's own columns", () => {
    const points = corners(3);
    const y = [10.3, 11.9, 10.9, 12.2, 11.5, 13.1, 11.6, 13.4];
    const study = withTrials(plainStudy(3), points, y);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    const orders = fit.data.trials.map((t) => t.order);
    const rows = points.map((p, i) => [1, p.a as number, orders[i]]);
    const { b, rss, df, inverse } = regress(rows, y);
    const found = slopeOnOrder(fit);
    expect(found?.slope).toBeCloseTo(b[2], 10);
    const error = Math.sqrt((rss / df) * inverse([0, 0, 1]));
    expect(found?.standardError).toBeCloseTo(error, 10);
    expect(found?.p).toBeCloseTo(tTwoSided(b[2] / error, df), 10);
    expect(check(runChecks(study, fit), "order").question).toMatch(/\?$/);
  });
});

describe("what checks say", () => {
  const points = corners(3);
  it("one trial far off is named, with the outlier's own figure", () => {
    const y = points.map((p, i) => 10 + (p.a as number) + [0.1, -0.1, 0.05, -0.05, 0.02, -0.02, 0.08, -0.08][i]);
    y[5] += 6;
    const study = withTrials(plainStudy(3), points, y);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    const single = check(runChecks(study, fit), "single");
    expect(single.concern).toBe(true);
    expect(single.answer).toContain("6");
    // Externally studentized: the residual over the spread that is left without the trial (Belsley, Kuh & Welsch 1980).
    const rows = points.map((p) => [1, p.a as number]);
    const without = regress(
      rows.filter((_, i) => i !== 5),
      y.filter((_, i) => i !== 5),
    );
    const at = rows[5];
    const off = y[5] - at.reduce((t, v, j) => t + v * without.b[j], 0);
    const t = off / Math.sqrt((without.rss / without.df) * (1 + without.inverse(at)));
    expect(Math.abs(single.statistic as number)).toBeCloseTo(Math.abs(t), 6);
    // The largest of eight: Bonferroni.
    expect(single.p).toBeCloseTo(Math.min(1, 8 * tTwoSided(t, without.df)), 8);
  });
  it("too few trials to tell are called so, without a figure", () => {
    const study = withTrials(plainStudy(2), corners(2), [1, 2, 3, 5]);
    const checks = runChecks(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
    const bell = check(checks, "bell");
    expect(bell.p).toBeNull();
    expect(bell.concern).toBe(false);
    for (const c of checks) expect(`${c.answer} ${c.statistic}`).not.toMatch(/NaN|Infinity|undefined/);
  });
});

describe("further questions", () => {
  it("a missing bend is the square added last, the strongest of all by Bonferroni", () => {
    const grid = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b) => ({ a, b })));
    const noise = [0.2, -0.1, 0.05, -0.25, 0.15, 0.1, -0.05, -0.2, 0.1];
    const y = grid.map((p, i) => 5 + p.a + 1.5 * p.b ** 2 + noise[i]);
    const study = withTrials(plainStudy(2), grid, y);
    const fit = fitModel({ ...study, confidence: 0.9 }, "y", { terms: [["a"], ["b"]] });
    const tests = missingSquares(study, fit);
    expect(tests.map((t) => t.factor)).toEqual(["a", "b"]);
    for (const t of tests) {
      const id = t.factor as "a" | "b";
      const { b, rss, df, inverse } = regress(
        grid.map((p) => [1, p.a, p.b, p[id] ** 2]),
        y,
      );
      const error = Math.sqrt((rss / df) * inverse([0, 0, 0, 1]));
      expect(t.coefficient).toBeCloseTo(b[3], 9);
      expect(t.p).toBeCloseTo(tTwoSided(b[3] / error, df), 9);
    }
    // Squares of two factors that always move together cannot be told apart and are tested once.
    const twins = withTrials(
      plainStudy(2),
      grid.map((p) => ({ ...p, b: p.a })),
      y,
    );
    const [once] = missingSquares(twins, fitModel(twins, "y", { terms: [["a"]] }));
    expect(once.together).toEqual(["a", "b"]);
  });
  it("waves are judged by the F of their rows beside the terms", () => {
    const points = [...corners(3), ...corners(3)];
    const y = points.map(
      (p, i) => 10 + (p.a as number) + (i < 8 ? 0 : 1.2) + [0.1, -0.2, 0.15, -0.05, 0.2, -0.1][i % 6],
    );
    const study = withTrials(plainStudy(3), points, y, { wave: (i) => (i < 8 ? "u" : "v") });
    const fit = fitModel(study, "y", { terms: [["a"]], block: true });
    const waves = check(runChecks(study, fit), "waves");
    const full = regress(
      points.map((p, i) => [1, p.a as number, i < 8 ? -1 : 1]),
      y,
    );
    const small = regress(
      points.map((p) => [1, p.a as number]),
      y,
    );
    const f = ((small.rss - full.rss) / full.rss) * full.df;
    expect(waves.statistic).toBeCloseTo(f, 8);
    expect(waves.p).toBeCloseTo(fUpper(f, 1, full.df), 10);
    expect(waves.answer).toMatch(/^Yes: the shift between waves/);
    // Where they stand apart there is nothing to ask.
    const apart = fitModel(study, "y", { terms: [["a"]], block: false });
    expect(runChecks(study, apart).some((c) => c.id === "waves")).toBe(false);
  });
  it("another confidence moves what is a concern, not the figure", () => {
    const points = corners(3);
    const y = points.map((p, i) => 10 + (p.a as number) + 0.12 * i + [0.3, -0.3, 0.2, -0.2, -0.1, 0.1, 0.25, -0.25][i]);
    const at = (confidence: number) => {
      const study = { ...withTrials(plainStudy(3), points, y), confidence };
      return runChecks(study, fitModel(study, "y", { terms: [["a"]] }));
    };
    const [strict, loose] = [at(0.999), at(0.5)];
    expect(loose.map((c) => c.p)).toEqual(strict.map((c) => c.p));
    expect(loose.filter((c) => c.concern).length).toBeGreaterThan(strict.filter((c) => c.concern).length);
  });
});
