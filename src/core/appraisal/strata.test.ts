import { describe, expect, it } from "vitest";
import { followUp } from "../follow-up/follow";
import { offeredOptions, summariseFollowUp } from "../planning/next-wave-summary";
import { summarisePlan } from "../planning/plan-summary";
import { planSummaries, planSummarySteps } from "../planning/plans-in-sight";
import { adoptPlan } from "../plans/adopt";
import { makePlan } from "../plans/make-plan";
import { splitStudy, termsOf } from "../testing/setups";
import { digits } from "../testing/studies";
import { appraise, appraisePoints } from "./appraise";
import { reaches, solvePower, termPower } from "./power";
import { pointModel, pointsOfPlan } from "./terms-info";

const study = splitStudy(2, 2, { setupCost: 3 });
const TERMS = ["a", "b", "ab", "p", "q"];
const terms = termsOf(TERMS);
/** 16 trials in 8 set-ups of two: each hard setting set twice. */
const plan = (eta: number) => makePlan(study, { family: "factorial", setups: 8, eta });

describe("a plan in set-ups, appraised", () => {
  it.each([0, 0.25, 1, 4])("standard errors and degrees of freedom of a balanced plan in closed form, η %f", (eta) => {
    const a = appraisePoints(study, pointsOfPlan(plan(eta)), { terms, noise: 1, effect: 2 });
    const [n, setups, m] = [16, 8, 2];
    // Between: η + 1/m over set-ups; within: 1 over trials (Jones & Nachtsheim 2009).
    const between = Math.sqrt((eta + 1 / m) / setups);
    const within = Math.sqrt(1 / n);
    for (const { term, value } of a.standardError) {
      const hard = term.every((id) => id === "a" || id === "b");
      expect(digits(value, hard ? between : within)).toBeGreaterThan(10);
    }
    expect(a.setups?.df).toEqual({ between: setups - 4, within: n - setups - 2 });
    expect(a.setups?.between.map((t) => t.join(""))).toEqual(["a", "b", "ab"]);
    expect(a.setups?.leastSquares).toBe(true);
    a.power.forEach(({ term, value, df }) => {
      const hard = term.every((id) => id === "a" || id === "b");
      const own = hard ? setups - 4 : n - setups - 2;
      expect(digits(df, own)).toBeGreaterThan(9);
      const se = hard ? between : within;
      expect(value).toBeCloseTo(termPower({ term, df: 1, unit: 0.25 / se ** 2 }, 2, 0.05, own) as number, 9);
    });
    // Beside the same trials all set anew, of variance 1 + η each.
    const ratios = [4, 2].map((count, i) => ((1 + eta) / n / (i === 0 ? between ** 2 : within ** 2)) ** (count / 6));
    expect(digits(a.setups?.relative.d, 100 * ratios[0] * ratios[1])).toBeGreaterThan(10);
  });
  it("every trial set anew has one error, of both variances", () => {
    const reset = makePlan(study, { family: "factorial", setups: 16, eta: 3 });
    const a = appraisePoints(study, pointsOfPlan(reset), { terms });
    for (const { value } of a.standardError) expect(digits(value, Math.sqrt(4 / 16))).toBeGreaterThan(10);
    for (const { df } of a.power) expect(df).toBe(16 - 6);
    expect(digits(a.setups?.relative.d, 100)).toBeGreaterThan(10);
    expect(digits(a.setups?.relative.i, 100)).toBeGreaterThan(10);
  });
  it("with too few set-ups what stands between them has nothing to be tested on", () => {
    const few = makePlan(study, { family: "factorial", setups: 4 });
    const a = appraisePoints(study, pointsOfPlan(few), { terms });
    for (const { term, value, df } of a.power) {
      const hard = term.every((id) => id === "a" || id === "b");
      expect(df).toBe(hard ? null : 16 - 6);
      expect(value === null).toBe(hard);
    }
  });
  it("copies of all trials bring set-ups of their own", () => {
    const one = pointModel(study, pointsOfPlan(plan(1)), terms);
    const found = solvePower(reaches(study, one, terms), 16, 6, { effect: 2, noise: 1, replicates: 2, alpha: 0.05 });
    const twice = makePlan(study, { family: "factorial", setups: 16, replicates: 2, eta: 1 });
    const a = appraisePoints(study, pointsOfPlan(twice), { terms, noise: 1, effect: 2 });
    expect(found.power).toBeCloseTo(Math.min(...a.power.map((p) => p.value as number)), 9);
  });
  it("a ledger is appraised by its set-ups, at the ratio it was planned for or another", () => {
    const ledger = adoptPlan(study, plan(4));
    const own = appraise(ledger, { terms });
    expect(own.setups?.eta).toBe(4);
    expect(digits(own.standardError[1].value, Math.sqrt(4.5 / 8))).toBeGreaterThan(10);
    const other = appraise(ledger, { terms, eta: 0.5 });
    expect(digits(other.standardError[1].value, Math.sqrt(1 / 8))).toBeGreaterThan(10);
    // Without hard factors the marks mean nothing.
    const easy = { ...ledger, factors: ledger.factors.map((f) => ({ ...f, change: "easy" as const })) };
    expect(appraise(easy, { terms }).setups).toBeUndefined();
  });
  it("what set-ups vary is no part of inflation, and aliases are those of generalised least squares", () => {
    const a = appraisePoints(study, pointsOfPlan(plan(4)), { terms });
    for (const { value } of a.vif) expect(digits(value, 1)).toBeGreaterThan(10);
    expect(a.alias.trace).toBeCloseTo(0, 12);
    expect(a.map.filter((m) => m.between).map((m) => m.term.join(""))).toEqual(["a", "b", "ab", "pq"]);
  });
});

describe("plans in sight where factors are hard to change", () => {
  const request = {
    terms: "main+2fi" as const,
    budget: 20,
    replicates: 1,
    centre: 0,
    blocks: 1,
    power: 0.8,
    alpha: 0.05,
    seed: 1,
    standardOrder: false,
  };
  it("kept, reset and in random order stand beside each other, set-ups in the cost", () => {
    const { summaries } = planSummaries(study, { ...request, setups: 8 });
    const full = summaries.filter((s) => s.options.family === "factorial" && s.n === 16);
    const kept = full.find((s) => !s.strata?.reset && !s.strata?.loose);
    const reset = full.find((s) => s.strata?.reset);
    const loose = full.find((s) => s.strata?.loose);
    expect(kept).toMatchObject({ n: 16, cost: 16 + 3 * 8, label: "Full factorial 16 in 8 set-ups" });
    expect(reset).toMatchObject({ n: 16, cost: 16 + 3 * 16, label: "Full factorial 16, reset every trial" });
    expect(loose?.cost).toBe(16 + 3 * (loose?.strata?.setups ?? 0));
    // Setting hard factors anew tells them better, and is what the plan costs more for.
    expect(reset?.ratio as number).toBeLessThan(kept?.ratio as number);
    const dear = summaries.filter((s) => s.onFrontier).map((s) => s.cost);
    expect(dear).toEqual([...dear].sort((a, b) => a - b));
  });
  it("the fewest trials that tell the model and what set-ups and trials vary by stand there too, once", () => {
    const steps = planSummarySteps(study, request);
    let step = steps.next();
    while (!step.done) step = steps.next();
    const built = step.value.summaries.filter((s) => s.options.family === "optimal" && !s.strata?.reset);
    // 1 + 4 + 6 columns, of which the constant, a, b and a × b are told between set-ups; two degrees left in each.
    const [least] = built;
    expect(least).toMatchObject({ n: 11 + 2 + 2, cost: 15 + 3 * (4 + 2), tellsAll: true });
    expect(least.strata).toMatchObject({ setups: 4 + 2, between: 2, within: 2 });
    for (const s of built.slice(1)) expect(s.cost).toBeGreaterThan(least.cost);
    const seen = step.value.summaries.map((s) => `${s.label} ${s.ratio}`);
    expect(new Set(seen).size).toBe(seen.length);
  });
  it("a wave that follows takes the set-ups asked for, and is adopted with them", () => {
    const { waves, trials } = adoptPlan(study, makePlan(study, { family: "fraction", trials: 8, setups: 4 }), "x");
    const ran = { ...study, waves, trials: trials.map((t) => ({ ...t, state: "done" as const })) };
    const offer = {
      options: { kind: "foldover" as const, factors: ["p"] },
      name: { code: "foldover" as const, values: {} },
    };
    const summaryOf = (asked: object) => {
      const all = { ...request, ...asked };
      return summariseFollowUp(ran, offer, followUp(ran, offeredOptions(ran, offer, all)), all);
    };
    const setupsIn = (asked: object): number | undefined => summaryOf(asked).strata?.setups;
    expect(setupsIn({})).toBe(4);
    expect(setupsIn({ setups: 6 })).toBe(6);
    const wanted = summaryOf({ setups: 6, eta: 2 }).follow?.options;
    expect(wanted).toEqual({ ...offer.options, setups: 6, eta: 2 });
    expect(new Set(followUp(ran, { ...offer.options, setups: 6, eta: 2 }).plan.trials.map((t) => t.setup)).size).toBe(
      6,
    );
  });
  it("a plan's hardest effect is judged on its own stratum's degrees of freedom", () => {
    const s = summarisePlan(study, plan(1), "x", { family: "factorial" }, { ...request, terms });
    expect(s.worst?.term.join("")).toMatch(/^[ab]+$/);
    expect(digits(s.worst?.errorDf, 4)).toBeGreaterThan(9);
    expect(s.strata).toMatchObject({ setups: 8, most: 2, between: 4, within: 6, plain: true, reset: false });
    // t and noncentrality of 4 degrees of freedom at power 0.8 (Cohen's δ): from the power function, both ways.
    const power = termPower({ term: [], df: 1, unit: 0.25 / ((1 + 0.5) / 8) }, s.ratio as number, 0.05, 4);
    expect(power).toBeCloseTo(0.8, 8);
  });
});
