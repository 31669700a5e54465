import { describe, expect, it } from "vitest";
import { joinedPoints, pointModel, pointsOf, pointsOfPlan } from "../appraisal/terms-info";
import { followUp } from "../follow-up/follow";
import { apart, quadratic, rowsOf, splitStudy, termsOf } from "../testing/setups";
import { cat, cont, refusal, studyOf, sum } from "../testing/studies";
import { adoptPlan } from "./adopt";
import { makePlan } from "./make-plan";
import { optionsOf, type PlanOptions } from "./options";
import type { Plan } from "./plan";

/** Trials of each set-up, in the order they are run. */
function setupsOf({ trials }: Plan): Plan["trials"][] {
  const out = new Map<string, Plan["trials"]>();
  for (const t of trials) out.set(`${t.wave} ${t.setup}`, [...(out.get(`${t.wave} ${t.setup}`) ?? []), t]);
  return [...out.values()];
}

const CASES: [string, number, number, Partial<PlanOptions>][] = [
  ["factorial", 2, 3, { setups: 8 }],
  ["factorial", 1, 2, { replicates: 2, setups: 4 }],
  ["factorial", 1, 2, { levels: "3", setups: 9 }],
  ["fraction", 2, 4, { trials: 16, setups: 9, centre: 3 }],
  ["fraction", 3, 4, { trials: 32, setups: 8 }],
  ["fraction", 2, 3, { trials: 16, generators: "E=ABCD", setups: 8 }],
  ["plackett-burman", 2, 5, { trials: 12, setups: 6 }],
  ["definitive", 2, 4, { setups: 9 }],
  ["array", 1, 3, { trials: 9, setups: 3 }],
  ["composite", 2, 2, { centre: 8 }],
  ["box-behnken", 2, 2, { centre: 4 }],
  ["optimal", 2, 2, { trials: 18, setups: 6, terms: "quadratic", starts: 6 }],
  ["optimal", 1, 3, { trials: 16, setups: 5, centre: 2, terms: "main+2fi", starts: 4 }],
];

describe("plans in set-ups of hard factors", () => {
  it.each(CASES)("%s of %i hard and %i easy factors", (family, hard, easy, more) => {
    const study = splitStudy(hard, easy);
    const options = { family, seed: 4, ...more };
    const plan = makePlan(study, options);
    const setups = setupsOf(plan);
    const most = more.setups ?? Number.POSITIVE_INFINITY;
    expect(setups.length).toBeLessThanOrEqual(most);
    expect(setups.length).toBeLessThan(plan.trials.length);
    setups.forEach((members, i) => {
      // Numbered from 1 as they are run, one after another, hard factors as they were.
      expect(members[0].setup).toBe(i + 1);
      members.forEach((t, k) => {
        expect(t.order).toBe(members[0].order + k);
        for (let h = 0; h < hard; h++) {
          const id = String.fromCharCode(97 + h);
          expect(t.settings[id]).toBe(members[0].settings[id]);
        }
      });
    });
    // The recipe makes the same trials, another seed another order of them.
    expect(makePlan(study, optionsOf(plan.recipe)).trials).toEqual(plan.trials);
    const order = (p: Plan): string => p.trials.map((t) => Object.values(t.settings).join()).join("|");
    const other = makePlan(study, { ...options, seed: 5 });
    expect(order(other)).not.toBe(order(plan));
    // A ledger takes them as they are.
    expect(adoptPlan(study, plan).trials.map((t) => t.setup)).toEqual(plan.trials.map((t) => t.setup));
  });
  it("fractions keep every easy main effect within set-ups, so that none of it is seen between them", () => {
    const plan = makePlan(splitStudy(2, 4), { family: "fraction", trials: 16, setups: 4 });
    for (const members of setupsOf(plan))
      for (const id of ["p", "q", "r", "s"]) expect(sum(members.map((t) => t.settings[id] as number))).toBe(0);
  });
  it("what hard settings alone do not fix is shared out so that nothing asked is lost that need not be", () => {
    // Three levels of one hard factor in nine set-ups of two: by chance easy main effects would often stand between.
    const study = splitStudy(1, 2);
    const plan = makePlan(study, { family: "factorial", levels: "p=2,q=2,a=3", setups: 6 });
    const terms = ["a", "p", "q", "ap", "aq", "pq"];
    const model = pointModel(study, pointsOfPlan(plan), termsOf(terms));
    expect(model.rank.rank).toBe(7);
    for (const members of setupsOf(plan)) expect(Math.abs(sum(members.map((t) => t.settings.p as number)))).toBe(0);
  });
  it.each([
    ["composite", 2, 2, 12, 48, 12],
    ["box-behnken", 2, 2, 12, 48, 12],
    ["composite", 1, 2, 8, 24, 6],
    ["composite", 1, 1, 2, 12, 6],
  ])(
    "%s, %i hard and %i easy: least squares is generalised least squares (Vining, Kowalski & Montgomery 2005)",
    (family, hard, easy, centre, n, setups) => {
      const study = splitStudy(hard, easy);
      const plan = makePlan(study, {
        family,
        centre: family === "composite" && hard === 1 ? (easy === 2 ? 4 : 2) : centre,
      });
      expect(setupsOf(plan).length).toBe(setups);
      expect(plan.trials).toHaveLength(n);
      const terms = quadratic(study.factors.map((f) => f.id).join(""));
      const x = rowsOf(
        plan.trials.map((t) => t.settings),
        terms,
      );
      const of = plan.trials.map((t) => t.setup);
      for (const eta of [0.3, 7]) expect(apart(x, of, eta)).toBeLessThan(1e-12);
      expect(pointModel(study, pointsOfPlan(plan), termsOf(terms)).strata?.plain).toBe(true);
    },
  );
  it("is said not to be where it is not: a composite of three easy factors, a plan built for the model", () => {
    const study = splitStudy(1, 3);
    for (const options of [
      { family: "composite", centre: 4 },
      { family: "optimal", trials: 20, setups: 6, terms: "quadratic" as const, starts: 3 },
    ]) {
      const plan = makePlan(study, options);
      const terms = quadratic("apqr");
      const x = rowsOf(
        plan.trials.map((t) => t.settings),
        terms,
      );
      const of = plan.trials.map((t) => t.setup);
      expect(apart(x, of, 1)).toBeGreaterThan(1e-3);
      expect(pointModel(study, pointsOfPlan(plan), termsOf(terms)).strata?.plain).toBe(false);
    }
  });
  it("set anew for every trial, or only where a random order changes them", () => {
    const study = splitStudy(1, 3);
    const reset = makePlan(study, { family: "factorial", setups: 16 });
    expect(reset.trials.map((t) => t.setup)).toEqual(reset.trials.map((_, i) => i + 1));
    const loose = makePlan(study, { family: "factorial", randomised: true, seed: 3 });
    const a = loose.trials.map((t) => t.settings.a);
    const changes = a.filter((v, i) => i > 0 && v !== a[i - 1]).length;
    expect(setupsOf(loose)).toHaveLength(changes + 1);
    expect(changes).toBeGreaterThan(1);
  });
  it("centre points stand in set-ups of their own, or at the categories that set-ups have", () => {
    const own = makePlan(splitStudy(1, 3), { family: "factorial", setups: 5, centre: 3 });
    const centres = setupsOf(own).filter((s) => s.some((t) => t.kind === "centre"));
    expect(centres.map((s) => s.every((t) => t.kind === "centre"))).toEqual([true]);
    const ovens = studyOf([{ ...cat("oven", "old", "new"), change: "hard" }, cont("p"), cont("q")]);
    const joined = makePlan(ovens, { family: "factorial", setups: 4, centre: 4 });
    expect(setupsOf(joined)).toHaveLength(4);
    expect(setupsOf(joined).filter((s) => s.some((t) => t.kind === "centre"))).not.toHaveLength(0);
  });
  it("without being asked, leaves an error to judge hard factors by", () => {
    const study = splitStudy(2, 3);
    const plan = makePlan(study, { family: "factorial" });
    const model = pointModel(study, pointsOfPlan(plan), termsOf(["a", "b", "ab", "p", "q", "r"]));
    expect(model.strata?.between).toBeGreaterThanOrEqual(3);
  });
  it("refuses too few set-ups, saying how many it takes, and set-ups where nothing is hard to change", () => {
    const study = splitStudy(2, 3);
    expect(refusal(() => makePlan(study, { family: "factorial", setups: 3 }))).toMatch(
      /3 set-ups cannot hold this plan: its settings of the hard factors need 4\. Ask for 4 or more/,
    );
    expect(refusal(() => makePlan(study, { family: "composite", centre: 4, setups: 8 }))).toMatch(
      /Ask for 1\d or more/,
    );
    expect(refusal(() => makePlan(study, { family: "factorial", setups: 8, setupSize: 2 }))).toMatch(
      /need 16 of up to 2 trials/,
    );
    expect(refusal(() => makePlan(study, { family: "optimal", trials: 24, setups: 3, terms: "quadratic" }))).toMatch(
      /Ask for 6 or more/,
    );
    expect(refusal(() => makePlan(splitStudy(0, 3), { family: "factorial", setups: 4 }))).toMatch(
      /no factor is hard to change/,
    );
  });
  it("waves that follow keep set-ups: axial points, augmentations with set-ups asked, confirmations each anew", () => {
    const study = splitStudy(1, 2);
    const first = adoptPlan(study, makePlan(study, { family: "factorial", setups: 4 }));
    const done = {
      ...first,
      trials: first.trials.map((t) => ({ ...t, state: "done" as const, results: { y: t.order } })),
    };
    const axial = followUp(done, { kind: "axial" }).plan;
    expect(setupsOf(axial).map((s) => new Set(s.map((t) => t.settings.a)).size)).toEqual(setupsOf(axial).map(() => 1));
    const more = followUp(done, { kind: "augment", terms: "quadratic", trials: 8, setups: 4 }).plan;
    expect(setupsOf(more).map((s) => s.length)).toEqual([2, 2, 2, 2]);
    const at = { a: 1, p: 1, q: 1 };
    expect(followUp(done, { kind: "confirm", trials: 4, at }).plan.trials.map((t) => t.setup)).toEqual([1, 2, 3, 4]);
    expect(setupsOf(followUp(done, { kind: "confirm", trials: 4, at, setups: 2 }).plan).map((s) => s.length)).toEqual([
      2, 2,
    ]);
    const both = joinedPoints(pointsOf(done), pointsOfPlan(more));
    expect(new Set(both.setups).size).toBe(8);
  });
});
