import { describe, expect, it } from "vitest";
import { fUpper, tTwoSided } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { termSet } from "../terms/candidates";
import { regress } from "../testing/elimination";
import { drawn, shareBounds } from "../testing/simulation";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { answerOf } from "../words/answers";
import { type Check, runChecks } from "./checklist";
import { asAdded, missingBends, orderColumn } from "./checks";
import { fitModel } from "./fit";

const check = (checks: readonly Check[], id: string): Check => {
  const found = checks.find((c) => c.id === id);
  if (!found) throw new Error(`no check ${id}`);
  return found;
};

/** A mean and its errors: n results in run order without any factor in the model. */
function meanOnly(values: readonly number[]): Check[] {
  const study = withTrials(
    plainStudy(1),
    values.map((_, i) => ({ a: i % 2 ? 1 : -1 })),
    [...values],
  );
  return runChecks(study, fitModel(study, "y", { terms: [] }));
}

/** How often each check has p < 0.05, and any an alarm, over studies in which nothing is wrong. */
function falseAlarms(rounds: number, make: () => { study: Study; response: string; terms: string[][] }) {
  const raw = new Map<string, number>();
  let any = 0;
  for (let i = 0; i < rounds; i++) {
    const { study, response, terms } = make();
    const checks = runChecks(study, fitModel(study, response, { terms }));
    for (const c of checks) if (c.adjusted !== null && (c.p ?? 1) < 0.05) raw.set(c.id, (raw.get(c.id) ?? 0) + 1);
    if (checks.some((c) => c.alarm)) any++;
  }
  return { any: any / rounds, raw: (id: string) => (raw.get(id) ?? 0) / rounds };
}

// bench/alarms.ts counts over 10,000 studies of each kind; these bounds lie four standard deviations off 5 %.
describe("checks of healthy studies alarm in one of twenty", () => {
  const random = seededRandom(20);
  const most = (studies: number): number => shareBounds(0.05, studies)[1];
  const noisy = (n: number): number[] => Array.from({ length: n }, () => 50 + random.normal());
  it("a nearly saturated factorial, and each of its checks", () => {
    const study = plainStudy(4);
    const terms = termSet(study, "main+2fi");
    const studies = drawn(150, 60);
    const { any, raw } = falseAlarms(studies, () => ({
      study: withTrials(study, corners(4), noisy(16)),
      response: "y",
      terms,
    }));
    expect(any).toBeLessThan(most(studies));
    for (const id of ["bell", "spread", "spread-factor", "neighbours", "single", "pull"]) {
      expect(raw(id)).toBeLessThan(most(studies));
      expect(raw(id)).toBeGreaterThan(0);
    }
  });
  it("a spread measured by two or by eight repeats, whose logarithms are far from normal", () => {
    const points = [...corners(3), ...corners(3)];
    const base = plainStudy(3, {
      responses: [{ id: "y" }, { id: "s", name: "spread of y", spread: { of: "y", from: "repeats" } }],
    });
    const studies = drawn(120, 50);
    const { any, raw } = falseAlarms(studies, () => ({
      study: parseStudy({
        ...base,
        waves: [{ id: "w" }],
        trials: points.map((settings, i) => ({
          id: `t${i}`,
          wave: "w",
          state: "done",
          settings,
          results: { y: noisy(settings.b === 1 ? 8 : 2) },
        })),
      }),
      response: "s",
      terms: [["a"], ["b"], ["c"]],
    }));
    expect(any).toBeLessThan(most(studies));
    for (const id of ["bell", "spread", "spread-factor", "order", "neighbours", "single", "pull"])
      expect(raw(id)).toBeLessThan(most(studies));
  });
  it("corners with centre points and copies: the centre's bend and the lack of fit are of the family too", () => {
    const points = [...corners(2), ...corners(2), ...Array.from({ length: 4 }, () => ({ a: 0, b: 0 }))];
    const study = plainStudy(2);
    const studies = drawn(300, 120);
    let bends = 0;
    let misfits = 0;
    const { any } = falseAlarms(studies, () => {
      const made = withTrials(study, points, noisy(points.length));
      const checks = runChecks(made, fitModel(made, "y", { terms: [["a"], ["b"]] }));
      if ((check(checks, "bend").p ?? 1) < 0.05) bends++;
      if ((check(checks, "misfit").p ?? 1) < 0.05) misfits++;
      return { study: made, response: "y", terms: [["a"], ["b"]] };
    });
    expect(any).toBeLessThan(most(studies));
    // Each by its own p in its twentieth, as the exact F and t have it.
    for (const n of [bends, misfits]) {
      expect(n / studies).toBeLessThan(most(studies));
      expect(n).toBeGreaterThan(0);
    }
  });
  it("and see an error spread tripled at one level of a 2⁴ run twice in most studies", () => {
    const study = plainStudy(4);
    const points = [...corners(4), ...corners(4)];
    const { raw } = falseAlarms(drawn(60, 25), () => ({
      study: withTrials(
        study,
        points,
        points.map((p) => 50 + (p.a === 1 ? 3 : 1) * random.normal()),
      ),
      response: "y",
      terms: termSet(study, "main"),
    }));
    expect(raw("spread-factor")).toBeGreaterThan(0.4);
  });
});

describe("ranked p agree with tables", () => {
  it("the largest of ten errors about a mean: 5 % at 2.290 standard deviations (Grubbs 1969)", () => {
    // Nine results of mean 0 and one apart, such that (largest − mean)/s is 2.290.
    const nine = [-1.2, -0.8, -0.5, -0.2, 0.1, 0.3, 0.5, 0.8, 1.0];
    const grubbs = (x: number): number => {
      const all = [...nine, x];
      const m = all.reduce((t, v) => t + v, 0) / 10;
      return (x - m) / Math.sqrt(all.reduce((t, v) => t + (v - m) ** 2, 0) / 9);
    };
    let [low, high] = [1, 20];
    for (let i = 0; i < 60; i++)
      [low, high] = grubbs((low + high) / 2) < 2.29 ? [(low + high) / 2, high] : [low, (low + high) / 2];
    const single = check(meanOnly([...nine.slice(0, 4), low, ...nine.slice(4)]), "single");
    expect(single.p).toBeGreaterThan(0.035);
    expect(single.p).toBeLessThan(0.065);
    expect(answerOf(single)).toMatch(/trial 5/);
  });
  it("a single missing square, and a slope on order: Student's t of the column added last", () => {
    const levels = [-1, -1, -0.5, -0.5, 0, 0, 0.5, 0.5, 1, 1];
    const y = [3.3, 2.7, 2.4, 3.2, 3.1, 3.9, 4.2, 4.1, 5.6, 5.3];
    const study = withTrials(
      plainStudy(1),
      levels.map((a) => ({ a })),
      y,
    );
    const fit = fitModel(study, "y", { terms: [["a"]] });
    const bend = check(runChecks(study, fit), "bend");
    const { b, rss, df, inverse } = regress(
      levels.map((a) => [1, a, a * a]),
      y,
    );
    const exact = tTwoSided(b[2] / Math.sqrt((rss / df) * inverse([0, 0, 1])), df);
    expect(bend.statistic).toBeCloseTo(b[2], 10);
    // 2,000 vectors: four standard deviations of a share.
    expect(Math.abs((bend.p ?? 1) - exact)).toBeLessThan(4 * Math.sqrt((exact * (1 - exact)) / 2000) + 0.001);
  });
});

describe("figures of columns that may be missing", () => {
  it("a drift is the slope on run order beside the model's own columns", () => {
    const points = corners(3);
    const y = [10.3, 11.9, 10.9, 12.2, 11.5, 13.1, 11.6, 13.4];
    const study = withTrials(plainStudy(3), points, y);
    const fit = fitModel(study, "y", { terms: [["a"]] });
    const orders = fit.data.trials.map((t) => t.order);
    const { b, rss, df, inverse } = regress(
      points.map((p, i) => [1, p.a as number, orders[i]]),
      y,
    );
    const column = orderColumn(fit);
    const found = column && asAdded(fit, column);
    const error = Math.sqrt((rss / df) * inverse([0, 0, 1]));
    expect(found?.coefficient).toBeCloseTo(b[2], 10);
    expect(found?.standardError).toBeCloseTo(error, 10);
    expect(found?.p).toBeCloseTo(tTwoSided(b[2] / error, df), 10);
    // Found in four of five: δ of the noncentral t on 5 df at 5 % and 80 % is 3.5139 (scipy 1.17).
    expect((found?.hidden ?? 0) / error).toBeCloseTo(3.5139, 3);
  });
  it("a missing square is the square added last; squares that always move together are tested once", () => {
    const grid = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b) => ({ a, b })));
    const noise = [0.2, -0.1, 0.05, -0.25, 0.15, 0.1, -0.05, -0.2, 0.1];
    const y = grid.map((p, i) => 5 + p.a + 1.5 * p.b ** 2 + noise[i]);
    const study = withTrials(plainStudy(2), grid, y);
    const fit = fitModel(study, "y", { terms: [["a"], ["b"]] });
    const tests = missingBends(study, fit);
    expect(tests.map((t) => t.together)).toEqual([["a"], ["b"]]);
    for (const t of tests) {
      const id = t.together[0] as "a" | "b";
      const { b, rss, df, inverse } = regress(
        grid.map((p) => [1, p.a, p.b, p[id] ** 2]),
        y,
      );
      const added = asAdded(fit, t);
      expect(added?.coefficient).toBeCloseTo(b[3], 9);
      expect(added?.p).toBeCloseTo(tTwoSided(b[3] / Math.sqrt((rss / df) * inverse([0, 0, 0, 1])), df), 9);
    }
    expect(answerOf(check(runChecks(study, fit), "bend"))).toMatch(/^Yes: b bends by 1\.6 /);
    const apart = [0, 0.5, -0.5].flatMap((v) => [-1, 1].map((s) => ({ a: v || s, b: v || s })));
    const twins = withTrials(plainStudy(2), apart, [1, 2, 3, 4, 6, 5]);
    expect(missingBends(twins, fitModel(twins, "y", { terms: [["a"]] })).map((t) => t.together)).toEqual([["a", "b"]]);
  });
  it("nothing between low and high tells nothing of a bend", () => {
    const study = withTrials(plainStudy(3), corners(3), [1, 2, 4, 3, 6, 5, 8, 9]);
    const bend = check(runChecks(study, fitModel(study, "y", { terms: [["a"]] })), "bend");
    expect([answerOf(bend), bend.p]).toEqual(["Not to be told: nothing was run between low and high.", null]);
  });
});

describe("near saturation, and over waves, other models are asked too", () => {
  const random = seededRandom(77);
  const terms = [...termSet(plainStudy(4), "main+2fi"), ["a", "b", "c"]];
  const withOutlier = (at: number, effect = 0): Study => {
    const y = corners(4).map((p, i) => 50 + effect * (p.a as number) + random.normal() + (i === at ? 5 : 0));
    return withTrials(plainStudy(4), corners(4), y);
  };
  it("eleven terms of a 2⁴ hide an error of five σ from their own four degrees of freedom, not from the pooled ones", () => {
    // bench/alarms.ts: in 2 of 100 by its own degrees of freedom, in 45 so; four standard deviations below 35.
    const studies = drawn(200, 40);
    let found = 0;
    for (let i = 0; i < studies; i++) {
      const study = withOutlier(i % 16);
      const single = check(runChecks(study, fitModel(study, "y", { terms })), "single");
      if (single.alarm && single.about === `t${(i % 16) + 1}` && single.look === "pooled") found++;
    }
    expect(found / studies).toBeGreaterThan(shareBounds(0.35, studies)[0]);
  });
  it("what it says is the figure of the model without the quiet terms, and that they were pooled", () => {
    const study = withOutlier(6, 8);
    const fit = fitModel(study, "y", { terms });
    const single = check(runChecks(study, fit), "single");
    const clear = fit.anova.flatMap((r) => (r.source === "term" && r.term && (r.p ?? 1) < 0.05 ? [r.term] : []));
    expect(clear).toContainEqual(["a"]);
    const kept = terms.filter((t) => clear.some((c) => t.every((id) => c.includes(id))));
    const rows = corners(4).map((p) => [1, ...kept.map((t) => t.reduce((v, id) => v * (p[id] as number), 1))]);
    const y = study.trials.map((t) => t.results.y as number);
    const without = regress(
      rows.filter((_, i) => i !== 6),
      y.filter((_, i) => i !== 6),
    );
    const off = y[6] - rows[6].reduce((t, v, j) => t + v * without.b[j], 0);
    const t = off / Math.sqrt((without.rss / without.df) * (1 + without.inverse(rows[6])));
    expect(single).toMatchObject({ look: "pooled", about: "t7", approximate: true });
    expect(Math.abs(single.statistic as number)).toBeCloseTo(Math.abs(t), 8);
    expect(answerOf(single)).toMatch(/trial 7.*\(asked with the quiet terms pooled/);
  });
  it("a drift over three waves is told of all of them where steps explain no more; steps alone are none", () => {
    const points = [0, 1, 2].flatMap(() => random.shuffled(corners(3)));
    const wave = (i: number): string => `w${Math.floor(i / 8) + 1}`;
    const of = (y: number[]) => {
      const study = withTrials(plainStudy(3), points, y, { wave });
      return check(runChecks(study, fitModel(study, "y", { terms: [["a"], ["b"], ["c"]] })), "order");
    };
    const noise = points.map(() => 0.5 * random.normal());
    const drift = of(noise.map((e, i) => 50 + i / 8 + e));
    expect(drift).toMatchObject({ alarm: true, look: "waves-out" });
    // The slope beside the mains, waves out.
    const { b } = regress(
      points.map((p, i) => [1, p.a as number, p.b as number, p.c as number, i + 1]),
      noise.map((e, i) => 50 + i / 8 + e),
    );
    expect(drift.statistic).toBeCloseTo(b[4], 9);
    expect(answerOf(drift)).toMatch(/^Yes: the error moves by 0\.\d+ a trial .*asked over all waves/);
    const steps = of(noise.map((e, i) => 50 + [0, 3, 1][Math.floor(i / 8)] + e));
    expect(steps).toMatchObject({ alarm: false });
    expect(steps.look).toBeUndefined();
  });
  it("null answers name the error that would have shown: by Grubbs' 2.290 and the noncentral t (scipy 1.17)", () => {
    const values = [-1.2, 0.7, -0.8, 1.0, -0.5, 0.5, -0.2, 0.8, 0.1, 0.3];
    const checks = meanOnly(values);
    const mean = values.reduce((t, v) => t + v, 0) / 10;
    const s = Math.sqrt(values.reduce((t, v) => t + (v - mean) ** 2, 0) / 9);
    // An error over its standard error of 2.290/√0.9 is a t of 3.8327 with its trial left out; P(|T₈(δ)| > 3.8327) is
    // 0.8 at δ = 4.8663. Of 1,999 draws the bound itself is uncertain by a few in a hundred.
    const hidden = (4.8663 * s) / Math.sqrt(0.9);
    const single = check(checks, "single").values as { hidden: number };
    expect(Math.abs(single.hidden / hidden - 1)).toBeLessThan(0.06);
    // All leverages are alike: the fit is ruled by a trial where it stands apart.
    const pull = check(checks, "pull").values as { hidden: { size: number } };
    expect(pull.hidden.size).toBeCloseTo(single.hidden, 9);
    expect(answerOf(check(checks, "single"))).toMatch(/An error of [\d.]+ in one trial would show \(80 %\)\.$/);
  });
});

describe("what checks say", () => {
  const points = corners(3);
  it("one trial far off is named, with the outlier's own figure", () => {
    const y = points.map((p, i) => 10 + (p.a as number) + [0.1, -0.1, 0.05, -0.05, 0.02, -0.02, 0.08, -0.08][i]);
    y[5] += 6;
    const study = withTrials(plainStudy(3), points, y);
    const single = check(runChecks(study, fitModel(study, "y", { terms: [["a"]] })), "single");
    expect(single.alarm).toBe(true);
    expect(answerOf(single)).toMatch(/^Yes, trial 6: /);
    // Externally studentized: the residual over the spread that is left without the trial (Belsley, Kuh & Welsch 1980).
    const rows = points.map((p) => [1, p.a as number]);
    const without = regress(
      rows.filter((_, i) => i !== 5),
      y.filter((_, i) => i !== 5),
    );
    const off = y[5] - rows[5].reduce((t, v, j) => t + v * without.b[j], 0);
    const t = off / Math.sqrt((without.rss / without.df) * (1 + without.inverse(rows[5])));
    expect(Math.abs(single.statistic as number)).toBeCloseTo(Math.abs(t), 6);
    expect(single.p).toBeLessThan(0.005);
  });
  it("too few trials to tell are called so, without a figure", () => {
    const study = withTrials(plainStudy(2), corners(2), [1, 2, 3, 5]);
    const checks = runChecks(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
    expect(check(checks, "bell")).toMatchObject({ p: null, alarm: false, code: "too-few" });
    for (const c of checks) expect(`${answerOf(c)} ${c.statistic}`).not.toMatch(/NaN|Infinity|undefined/);
  });
  it("waves are judged by the F of their rows beside the terms, and which is higher is said", () => {
    const twice = [...points, ...points];
    const y = twice.map(
      (p, i) => 10 + (p.a as number) + (i < 8 ? 0 : 1.2) + [0.1, -0.2, 0.15, -0.05, 0.2, -0.1][i % 6],
    );
    const study = withTrials(plainStudy(3), twice, y, { wave: (i) => (i < 8 ? "u" : "v") });
    const fit = fitModel(study, "y", { terms: [["a"]], block: true });
    const waves = check(runChecks(study, fit), "waves");
    const full = regress(
      twice.map((p, i) => [1, p.a as number, i < 8 ? -1 : 1]),
      y,
    );
    const small = regress(
      twice.map((p) => [1, p.a as number]),
      y,
    );
    const f = ((small.rss - full.rss) / full.rss) * full.df;
    expect(waves.statistic).toBeCloseTo(f, 8);
    expect(waves.p).toBeCloseTo(fUpper(f, 1, full.df), 10);
    expect(answerOf(waves)).toMatch(/^Yes: Wave 2 lies 1\.2 above Wave 1 \(1(\.\d)? to 1\.3\)/);
    // Where they stand apart there is nothing to ask.
    const apart = fitModel(study, "y", { terms: [["a"]], block: false });
    expect(runChecks(study, apart).some((c) => c.id === "waves")).toBe(false);
  });
  it("another confidence moves what is called perhaps, not the figure", () => {
    const y = points.map((p, i) => 10 + (p.a as number) + 0.12 * i + [0.3, -0.3, 0.2, -0.2, -0.1, 0.1, 0.25, -0.25][i]);
    const at = (confidence: number) => {
      const study = { ...withTrials(plainStudy(3), points, y), confidence };
      return runChecks(study, fitModel(study, "y", { terms: [["a"]] }));
    };
    const [strict, loose] = [at(0.999), at(0.5)];
    expect(loose.map((c) => c.p)).toEqual(strict.map((c) => c.p));
    const perhaps = (checks: Check[]): number => checks.filter((c) => c.code.endsWith("-perhaps")).length;
    expect(perhaps(loose)).toBeGreaterThan(perhaps(strict));
  });
});
