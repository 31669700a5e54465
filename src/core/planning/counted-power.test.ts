import { describe, expect, it } from "vitest";
import { followUp } from "../follow-up/follow";
import type { FollowOffer } from "../follow-up/kind";
import { nextWaves } from "../follow-up/next-waves";
import type { CountedPlan } from "../kinds/planning";
import { sharePlanning } from "../kinds/share/planning";
import { fQuantile, noncentralFCdf } from "../numerics/distributions";
import { POWER_CASES as CASES, foundIn, powerCase } from "../testing/counted-cases";
import { maximise } from "../testing/newton";
import { solveCounted } from "./counted-power";
import { offeredOptions, summariseFollowUp } from "./next-wave-summary";

/** Draws; ten thousand of them in bench/counted.ts. */
const RUNS = 1000;

describe("power of a share or a count", () => {
  it.each(CASES)("is that of simulated studies: $kind of $of at $base, excess $excess, change $change", (c) => {
    const { judged } = powerCase(c);
    const found = foundIn(c, RUNS);
    const said = judged.powerAt(c.change, 0.05, { replicates: 1, of: c.of }) ?? 0;
    // 0.02, and what this many draws may be off by.
    expect(Math.abs(said - found)).toBeLessThan(0.02 + 2.6 * Math.sqrt((said * (1 - said)) / RUNS));
    expect(said).toBeGreaterThan(0.2);
    expect(said).toBeLessThan(0.97);
  });
  it("rests on the likelihood ratio of exemplary data", () => {
    const { judged, points } = powerCase(CASES[0]);
    // Expected events at both ends of a, and what a model of b and c alone loses against them (Newton's method apart).
    const half = sharePlanning.halfChange(0.1, 0.04);
    const middle = Math.log(0.1 / 0.9);
    const events = points.settings.map((s) => 200 / (1 + Math.exp(-(middle + half * (s.a as number)))));
    const ends = [half, -half].map((h) => 1 / (1 + Math.exp(-(middle + h))));
    expect(ends[0] - ends[1]).toBeCloseTo(0.04, 10);
    const x = points.settings.map((s) => [1, s.b as number, s.c as number]);
    const { deviance } = maximise({ kind: "share", events, of: events.map(() => 200) }, x);
    const power = 1 - noncentralFCdf(fQuantile(0.95, 1, 12), 1, 12, deviance);
    expect(judged.powerAt(0.04, 0.05, { replicates: 1, of: 200 })).toBeCloseTo(power, 8);
    const change = judged.detectable(0.8, 0.05, { replicates: 1, of: 200 }) ?? 0;
    expect(judged.powerAt(change, 0.05, { replicates: 1, of: 200 })).toBeCloseTo(0.8, 4);
  });
  it("gains less by pieces than by trials where trials scatter beyond counting", () => {
    const plan: CountedPlan = { kind: "share", of: 100, base: 0.1, excess: 3, counting: false };
    // ρ = 2/99: 400 pieces scatter 1 + 399·2/99 times as much as counting.
    expect(sharePlanning.excessAt(plan, 400)).toBeCloseTo(1 + (399 * 2) / 99, 12);
    const { judged } = powerCase({ ...CASES[2], of: 100, excess: 3 });
    const sees = (replicates: number, of: number): number => judged.detectable(0.8, 0.05, { replicates, of }) ?? 0;
    expect(sees(2, 100)).toBeLessThan(sees(1, 200));
    expect(sees(1, 200)).toBeLessThan(sees(1, 100));
    const even = powerCase(CASES[1]).judged;
    const alike = (replicates: number, of: number): number => even.detectable(0.8, 0.05, { replicates, of }) ?? 0;
    expect(alike(2, 100) / alike(1, 200)).toBeCloseTo(1, 6);
  });
  it("is one figure of what was run in the question, the chart and the table of next waves", () => {
    const { study, points, terms, plan } = powerCase(CASES[2]);
    const answer = solveCounted(study, study.responses[0], points, terms, { power: 0.9, replicates: 1, alpha: 0.05 });
    const offer = nextWaves(study).find((o) => o.options.kind === "axial") as FollowOffer;
    const asked = {
      terms,
      budget: 60,
      replicates: 1,
      centre: 0,
      blocks: 1,
      power: 0.9,
      alpha: 0.05,
      counted: plan,
      seed: 1,
      standardOrder: false,
    };
    const made = followUp(study, offeredOptions(study, offer, asked));
    const { ratio, follow } = summariseFollowUp(study, offer, made, asked);
    expect((follow?.before.ratio ?? 0) * answer.noise).toBeCloseTo(answer.effect, 10);
    expect(follow?.after.ratio).toBe(ratio);
    expect(ratio ?? 9).toBeLessThan(follow?.before.ratio ?? 0);
  });
  it("solves change, power and copies, and asks for a base", () => {
    const { study, points, terms } = powerCase(CASES[0]);
    const ask = (q: Parameters<typeof solveCounted>[4]) => solveCounted(study, study.responses[0], points, terms, q);
    const effect = ask({ power: 0.9, replicates: 1, alpha: 0.05 });
    expect(effect).toMatchObject({ solved: "effect", df: 12, pieces: 200 });
    expect(ask({ effect: effect.effect, replicates: 1, alpha: 0.05 }).power).toBeCloseTo(0.9, 4);
    const copies = ask({ effect: 0.02, power: 0.8, alpha: 0.05 });
    expect(copies.power).toBeGreaterThanOrEqual(0.8);
    expect(ask({ effect: 0.02, replicates: copies.replicates - 1, alpha: 0.05 }).power).toBeLessThan(0.8);
    const { base: _base, ...response } = study.responses[0];
    expect(() => solveCounted(study, response, points, terms, { power: 0.8, replicates: 1, alpha: 0.05 })).toThrow(
      expect.objectContaining({ code: "no-base" }),
    );
  });
});
