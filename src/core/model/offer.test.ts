import { describe, expect, it } from "vitest";
import { modelReadings } from "../findings/model";
import { setpointReadings } from "../findings/setpoint";
import { followUp } from "../follow-up/follow";
import { seededRandom } from "../numerics/random";
import { adoptPlan } from "../plans/adopt";
import { askedTerms } from "../plans/asked";
import { makePlan } from "../plans/make-plan";
import { setpointProblem } from "../setpoint/goals";
import { searchSetpoint } from "../setpoint/search";
import type { Settings, Study, Term, Trial } from "../study/schema";
import { parseStudy } from "../study/validate";
import { termSet } from "../terms/candidates";
import { termKey } from "../terms/term";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { fittingOf } from "./data";
import { fitModel } from "./fit";
import { linearSurface } from "./linear-surface";
import { type OfferRule, offeredModel, presentFit } from "./offer";
import { reduceModel } from "./reduce";
import { tooSmall } from "./too-small";

const FITTING = fittingOf(undefined);
const keys = (terms: readonly Term[]): string[] => terms.map(termKey);

/** A plan adopted, every trial run: the truth with noise. */
function ran(study: Study, plan: Parameters<typeof adoptPlan>[1], truth: (s: Settings) => number): Study {
  const adopted = adoptPlan(study, plan);
  return {
    ...adopted,
    trials: adopted.trials.map((t) =>
      t.state === "done" ? t : { ...t, state: "done", results: { y: truth(t.settings) } },
    ),
  };
}
const x = (s: Settings, id: string): number => s[id] as number;

describe("what waves were made to tell", () => {
  const flat = (): number => 0;
  it.each([
    ["a fraction: main effects and interactions", { family: "fraction", trials: 8 }, "main+2fi"],
    ["a factorial", { family: "factorial" }, "main+2fi"],
    ["a screen: main effects", { family: "plackett-burman", trials: 12 }, "main"],
    ["a composite: all of second order", { family: "composite" }, "quadratic"],
    ["a plan built for terms of its own", { family: "optimal", trials: 12, terms: "main+2fi" }, "main+2fi"],
  ] as const)("%s", (_, options, set) => {
    const study = plainStudy(4);
    const done = ran(study, makePlan(study, { seed: 1, ...options }), flat);
    expect(keys(askedTerms(done, done.trials))).toEqual(keys(termSet(study, set)));
  });
  it("what a wave was adopted to tell goes before what its kind is for", () => {
    const study = plainStudy(3);
    const done = ran(study, makePlan(study, { family: "factorial", seed: 1 }), flat);
    const named = { ...done, waves: done.waves.map((w) => ({ ...w, plan: { ...w.plan, asked: [["a", "b"]] } })) };
    expect(keys(askedTerms(named, named.trials))).toEqual(["a", "b", "c", "a*b"]);
  });
  it("what a wave is adopted to tell is written down: what its plan is for, and what is wanted beside", () => {
    const study = plainStudy(4);
    const plan = makePlan(study, { family: "factorial", seed: 1 });
    const asked = (wanted: Term[]) => adoptPlan(study, plan, "screen", wanted).waves[0].plan.asked;
    const pairs = keys(termSet(study, "main+2fi"));
    expect(keys(asked([["a"], ["a", "b"]]) ?? [])).toEqual(pairs);
    expect(keys(asked([]) ?? [])).toEqual(pairs);
    // Adopted again it is read as it was written.
    const screened = adoptPlan(study, makePlan(study, { family: "plackett-burman", trials: 12, seed: 1 }));
    expect(keys(askedTerms(screened, screened.trials as Trial[]))).toEqual(["a", "b", "c", "d"]);
    expect(keys(askedTerms(adoptPlan(study, plan), adoptPlan(study, plan).trials as Trial[]))).toEqual(pairs);
    expect(keys(asked([["a", "b", "c"]]) ?? [])).toEqual([...pairs, "a*b*c"]);
  });
  it("after a carry interactions are asked of the carried factors alone, of the idle ones their main effects", () => {
    const study = plainStudy(4);
    const screened = ran(study, makePlan(study, { family: "fraction", trials: 8, seed: 1 }), flat);
    const both = ran(screened, followUp(screened, { kind: "carry", factors: ["a", "b"], seed: 1 }).plan, flat);
    expect(keys(askedTerms(both, both.trials))).toEqual(["a", "b", "c", "d", "a*b", "a*a", "b*b"]);
  });
  it("trials of one's own: main effects and interactions, with squares where other places were run", () => {
    const study = withTrials(plainStudy(2), corners(2));
    expect(keys(askedTerms(study, study.trials))).toEqual(["a", "b", "a*b"]);
    const off = withTrials(plainStudy(2), [...corners(2), { a: 0, b: 1 }]);
    expect(keys(askedTerms(off, off.trials))).toEqual(["a", "b", "a*b", "a*a", "b*b"]);
  });
});

describe("the model first offered", () => {
  const random = seededRandom(5);
  const rules: OfferRule[] = [
    { by: "p", alpha: 0.15 },
    { by: "aicc", alpha: 0.05 },
    { by: "bic", alpha: 0.05 },
  ];
  const mixed = (): Study => {
    const base = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "mixed",
      factors: [
        { id: "a", kind: "continuous", low: -1, high: 1 },
        { id: "b", kind: "continuous", low: -1, high: 1 },
        { id: "k", kind: "categorical", levels: ["p", "q", "r"] },
      ],
      responses: [{ id: "y" }],
    });
    const sizes: Record<string, number> = { p: -1, q: 0.2, r: 0.8 };
    return ran(base, makePlan(base, { family: "factorial", replicates: 2, seed: 2 }), (s) => {
      const k = sizes[s.k as string];
      return 10 + x(s, "a") + 1.5 * k * x(s, "a") + random.normal();
    });
  };
  const pairsOf = (study: Study): Study =>
    ran(study, makePlan(study, { family: "factorial", seed: 2 }), (s) => {
      return 10 + 2 * x(s, "a") - x(s, "b") + 1.2 * x(s, "a") * x(s, "b") + random.normal();
    });
  it.each(rules)("is what refitting term by term chooses, backward and forward (%o)", (rule) => {
    for (let k = 0; k < 8; k++)
      for (const study of [mixed(), pairsOf(plainStudy(4)), pairsOf(plainStudy(3))]) {
        const { candidates, kept, by } = offeredModel(study, "y", FITTING, undefined, rule);
        // The last leaves one degree of freedom: it goes forward.
        const { fit } = reduceModel(study, "y", candidates, { direction: "backward", ...rule, hierarchy: "strong" });
        expect(keys(kept)).toEqual(keys(fit.terms));
        expect(by).toBe(rule.by);
      }
  });
  it("holds what a plan was made to tell: the category that the best setting needs is the right one", () => {
    // Main effects alone take "k" low and miss that "a" turns with it.
    const base = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "category",
      factors: [
        { id: "a", kind: "continuous", low: -1, high: 1 },
        { id: "b", kind: "continuous", low: -1, high: 1 },
        { id: "k", kind: "categorical", levels: ["p", "q"] },
      ],
      responses: [{ id: "y" }],
    });
    const truth = (s: Settings): number => 50 + x(s, "a") + (s.k === "q" ? 4 * x(s, "a") - 1 : -4 * x(s, "a") + 1);
    const study = ran(
      base,
      makePlan(base, { family: "factorial", replicates: 2, seed: 1 }),
      (s) => truth(s) + random.normal(),
    );
    const fit = presentFit(study, "y");
    expect(keys(fit.terms)).toContain("a*k");
    const best = (of: (s: Settings) => number): Settings =>
      [-1, 1]
        .flatMap((a) => [-1, 1].flatMap((b) => ["p", "q"].map((k): Settings => ({ a, b, k }))))
        .reduce((m, s) => (of(s) > of(m) ? s : m));
    const read = linearSurface(study, fit);
    expect(truth(best((s) => read.value(s)))).toBe(54);
    const mains = linearSurface(study, fitModel(study, "y", { terms: termSet(study, "main") }));
    expect(truth(best((s) => mains.value(s)))).toBeLessThan(54);
  });
  it("of a chain the member stands in whose factors have the largest main effects", () => {
    const study = plainStudy(4);
    // Half of a 2⁴ by D = ABC: a × b is c × d.
    const plan = makePlan(study, { family: "fraction", trials: 8, replicates: 2, seed: 3 });
    const of = (strong: readonly string[]) =>
      ran(
        study,
        plan,
        (s) => strong.reduce((t, id) => t + 5 * x(s, id), 0) + 3 * x(s, strong[0]) * x(s, strong[1]) + random.normal(),
      );
    const ab = offeredModel(of(["a", "b"]), "y", FITTING);
    expect(keys(ab.candidates)).toContain("a*b");
    expect(keys(ab.candidates)).not.toContain("c*d");
    expect(keys(ab.kept)).toContain("a*b");
    const cd = offeredModel(of(["c", "d"]), "y", FITTING);
    expect(keys(cd.candidates)).toContain("c*d");
    expect(keys(cd.candidates)).not.toContain("a*b");
  });
  it("of a screen all main effects stay; of trials too few to choose among, too", () => {
    const study = plainStudy(7);
    const screen = ran(study, makePlan(study, { family: "plackett-burman", trials: 12, seed: 1 }), () =>
      random.normal(),
    );
    expect(offeredModel(screen, "y", FITTING)).toEqual({
      candidates: termSet(study, "main"),
      kept: termSet(study, "main"),
    });
    const few = withTrials(plainStudy(2), corners(2), [1, 2, 4, 3]);
    expect(offeredModel(few, "y", FITTING).kept).toEqual([["a"], ["b"]]);
    expect(offeredModel(few, "y", FITTING).by).toBeUndefined();
  });
  it("of many candidates beside few trials it keeps few that noise alone would, and what acts (planted)", () => {
    // Six factors in 16 + 12 + 4 trials, four terms that act, a noise of 1: twenty candidates and more.
    const study = plainStudy(6);
    const random = seededRandom(5);
    const truth = (s: Settings): number =>
      20 + 4 * x(s, "a") - 3 * x(s, "b") + 2.5 * x(s, "a") * x(s, "b") + 3 * x(s, "a") ** 2 + random.normal();
    let spurious = 0;
    for (let i = 0; i < 10; i++) {
      const first = ran(study, makePlan(study, { family: "fraction", trials: 16, centre: 2, seed: i + 1 }), truth);
      const whole = ran(first, followUp(first, { kind: "axial", seed: i + 1 }).plan, truth);
      const { candidates, kept, alpha, mains } = offeredModel(whole, "y", FITTING);
      expect(candidates.length).toBeGreaterThan(15);
      expect([alpha === undefined || alpha < 0.15, mains]).toEqual([true, 0.15]);
      for (const key of ["a", "b", "a*a"]) expect(keys(kept)).toContain(key);
      spurious += kept.filter((t) => !["a", "b", "a*a", "a*b"].includes(termKey(t))).length;
    }
    // Main effects by chance at 0.15: 0.6 a study; of others two at most, where one level for all kept five or more.
    expect(spurious / 10).toBeLessThan(2.6);
  });
  it("what is offered leaves no less than the stated noise allows, where a stricter choice does not (planted)", () => {
    const study = plainStudy(4, { responses: [{ id: "y", noise: 1 }] });
    const random = seededRandom(12);
    const small = { usual: 0, offered: 0 };
    for (let i = 0; i < 40; i++) {
      const done = ran(
        study,
        makePlan(study, { family: "factorial", seed: i + 1 }),
        (s) => 20 + 4 * x(s, "a") - 3 * x(s, "b") + 3 * x(s, "a") * x(s, "b") + random.normal(),
      );
      const isSmall = (rule?: OfferRule): number =>
        tooSmall(done, fitModel(done, "y", { terms: offeredModel(done, "y", FITTING, undefined, rule).kept })) ? 1 : 0;
      small.usual += isSmall({ by: "p", alpha: 0.15 });
      small.offered += isSmall();
    }
    // Of right models one in forty is too small by chance; a model that was chosen is more often.
    expect(small.usual).toBeGreaterThan(4);
    expect(small.offered).toBeLessThan(4);
  });
  it("a chosen model is never replaced", () => {
    const study = pairsOf(plainStudy(4));
    const chosen = parseStudy({ ...study, models: [{ response: "y", terms: [["c"]] }] });
    expect(keys(presentFit(chosen, "y").terms)).toEqual(["c"]);
  });
});

describe("nothing is concluded of a model that never weighed what was asked", () => {
  const random = seededRandom(9);
  const study = ((): Study => {
    const base = plainStudy(3);
    // Interactions alone, twenty times the noise.
    return ran(base, makePlan(base, { family: "factorial", replicates: 2, seed: 1 }), (s) => {
      return 100 + 20 * x(s, "a") * x(s, "b") + random.normal();
    });
  })();
  const said = (models: object[]): string[] => {
    const whole = parseStudy({ ...study, models });
    return modelReadings(whole, presentFit(whole, "y")).map((r) => messageText("readings", r));
  };
  const mains = { response: "y", terms: termSet(study, "main") };
  it("main effects alone, s twenty times the noise: it says what is not in yet, not that nothing stands clear", () => {
    const readings = said([mains]);
    expect(readings[0]).toMatch(/^a × b was asked and is not in yet: conclude nothing of y before it was weighed\.$/);
    expect(readings.join(" ")).not.toMatch(/steady over these ranges/);
  });
  it("a setpoint of such a model says so too, and leads to the model", () => {
    const goal = { aim: "raise" as const, low: 60, high: 130 };
    const wished = parseStudy({ ...study, models: [mains], responses: [{ id: "y", goal }] });
    const problem = setpointProblem(wished);
    const search = searchSetpoint(problem, { draws: 200, seed: 1 });
    let step = search.next();
    while (!step.done) step = search.next();
    const found = setpointReadings(problem, step.value).find((r) => r.code === "asked-out");
    expect(found).toMatchObject({ kind: "caution", action: { go: "model", response: "y" } });
  });
  it("once it was weighed and taken out by a person, it is not said again", () => {
    const steps = [
      { action: "start" as const, terms: [...mains.terms, ["a", "b"]] },
      { action: "out" as const, moved: [["a", "b"]], terms: mains.terms },
    ];
    expect(said([{ ...mains, steps }]).join(" ")).not.toMatch(/not in yet/);
  });
});
