import { describe, expect, it } from "vitest";
import { pointsOf } from "./appraisal/terms-info";
import { fitModel } from "./model/fit";
import { planDetail } from "./planning/plan-detail";
import { type PlanRequest, type PlanSummary, summarisePlan } from "./planning/plan-summary";
import { makePlan } from "./plans/make-plan";
import { type Edit, edit } from "./study/edit";
import { Memo } from "./study/memo";
import { reviseStudy } from "./study/revise";
import type { Study } from "./study/schema";
import { parseStudy } from "./study/validate";
import { StudyView } from "./study-view";
import { termKey } from "./terms/term";

const levels = [-1, 1];
const study: Study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
  responses: [
    { id: "y", bounds: { min: 0 } },
    { id: "z", goal: { aim: "raise", low: 0, high: 1 } },
  ],
  waves: [{ id: "w" }],
  trials: levels.flatMap((a) =>
    levels.flatMap((b) =>
      levels.map((c) => ({
        id: `t${a}${b}${c}`,
        wave: "w",
        state: "done",
        settings: { a, b, c },
        results: { y: 5 + a + 0.3 * b + 0.1 * a * b * c, z: b - 0.2 * c + 0.05 * a * b * c },
      })),
    ),
  ),
  models: [
    { response: "y", terms: [["a"], ["b"]] },
    { response: "z", terms: [["b"], ["c"]] },
  ],
});
/** One desk: what it keeps, every state below is looked at through. */
const desk = new Memo();
const revised = (edits: Edit[]): Study => reviseStudy(study, edits);
const of = (s: Study, response: string) => {
  const result = new StudyView(s, desk).fitted(response);
  if (!result.ok) throw result.refused;
  return result.fitted;
};
/** What the page shows is what a fit from nothing gives. */
const fresh = (s: Study, response: string): void => {
  const model = s.models.find((m) => m.response === response);
  const own = fitModel(s, response, { terms: model?.terms ?? [], transform: model?.transform ?? "none", block: true });
  expect(of(s, response).fit.parameters.map((p) => p.coefficient)).toEqual(own.parameters.map((p) => p.coefficient));
};

describe("fits that the page keeps", () => {
  it("stand while terms of another response go in and out, and follow their own", () => {
    const next = revised([edit(study, ["models", "y", "terms"], [["a"], ["b"], ["c"]])]);
    expect(of(next, "z")).toBe(of(study, "z"));
    expect(of(next, "y")).not.toBe(of(study, "y"));
    expect(of(next, "y").fit.terms.map(termKey)).toEqual(["a", "b", "c"]);
    // Back again, as undo goes: what stood before is found, not made anew.
    const stood = of(study, "y");
    expect(of(study, "y")).toBe(stood);
    expect(stood.fit.terms.map(termKey)).toEqual(["a", "b"]);
  });
  it.each<[string, Edit[]]>([
    ["a result", [edit(study, ["trials", "t-1-1-1", "results", "y"], 9)]],
    ["a trial left out", [edit(study, ["trials", "t111", "use"], false)]],
    ["a setting as it was run", [edit(study, ["trials", "t111", "asRun"], { a: 0.8 })]],
    ["a range", [edit(study, ["factors", "a", "high"], 2)]],
    ["the confidence level", [edit(study, ["confidence"], 0.9)]],
    ["the scale it is fitted on", [edit(study, ["models", "y", "transform"], "log")]],
  ])("are made anew after %s changes", (_, edits) => {
    const next = revised(edits);
    expect(of(next, "y")).not.toBe(of(study, "y"));
    fresh(next, "y");
  });
  it("know the response's own bounds and the region, which their predictions speak of", () => {
    expect(of(study, "y").predictor.predict({ a: -1, b: -1, c: -1 }).breaksBounds).toBe(false);
    const bounded = revised([edit(study, ["responses", "y", "bounds"], { min: 4 })]);
    expect(of(bounded, "y").predictor.predict({ a: -1, b: -1, c: -1 }).breaksBounds).toBe(true);
    expect(of(bounded, "z")).toBe(of(study, "z"));
    const limited = revised([
      edit(study, ["region"], { limits: [{ terms: { a: 1 }, at: "most", bound: 0.5 }], forbidden: [] }),
    ]);
    expect(of(limited, "y").predictor.predict({ a: 0.8, b: 0, c: 0 }).extrapolates).toBe(true);
    expect(of(study, "y").predictor.predict({ a: 0.8, b: 0, c: 0 }).extrapolates).toBe(false);
  });
  it("are not touched by what no fit speaks of", () => {
    const next = revised([edit(study, ["title"], "Another name"), edit(study, ["responses", "z", "importance"], 4)]);
    expect(of(next, "y")).toBe(of(study, "y"));
  });
  it("say why there is none", () => {
    const bare = revised(study.trials.map((t) => edit(study, ["trials", t.id, "use"], false)));
    const result = new StudyView(bare, desk).fitted("y");
    expect(result.ok).toBe(false);
    expect(result.ok ? "" : result.refused.message).toMatch(/no results/);
  });
});

const request: PlanRequest = {
  terms: "main",
  budget: 32,
  power: 0.8,
  alpha: 0.05,
  replicates: 1,
  centre: 0,
  blocks: 1,
  seed: 1,
  standardOrder: true,
  together: true,
};

describe("what is kept beside fits", () => {
  const plan = makePlan(study, { family: "factorial", standardOrder: true, seed: 1 });
  const summary: PlanSummary = summarisePlan(study, plan, "full", { family: "factorial" }, request);
  const meanError = (s: Study): number => {
    const kept = new StudyView(s, desk).planDetail(summary, request, () => planDetail(s, summary, request)).meanError;
    // Whatever was looked at before: the figure is that of a view that has seen nothing.
    expect(kept).toBe(planDetail(s, summary, request).meanError);
    return kept as number;
  };
  const failed = revised(study.trials.map((t) => edit(study, ["trials", t.id, "use"], false)));
  // A factorial of N trials predicts with the variance (1 + Σx²)/N, where x² is 1/3 on the mean over the cube.
  it("a plan that joins the ledger is judged on the trials that stand", () => {
    expect(pointsOf(study).settings).toHaveLength(8);
    const joined = meanError(study);
    const alone = meanError(failed);
    expect(alone).toBeGreaterThan(joined);
    // 1500 points of the region stand for the cube: within a hundredth.
    expect(alone).toBeCloseTo(Math.sqrt(2 / 8), 1.9);
    expect(meanError(study)).toBe(joined);
    const half = revised(study.trials.slice(0, 4).map((t) => edit(study, ["trials", t.id, "state"], "failed")));
    expect(meanError(half)).toBeGreaterThan(joined);
    expect(meanError(half)).toBeLessThan(alone);
    expect(meanError(study)).toBe(joined);
  });
  it("rival models are those of the results that stand, though the number of trials is the same", () => {
    const sets = [[["a"]], [["a"], ["b"]]];
    const sizes = (s: Study): number[][] => {
      const view = new StudyView(s, desk);
      const found = view.fitted("y");
      if (!found.ok) throw found.refused;
      return view.rivals(found.fitted.fit, sets).fits.map((fit) => fit.parameters.map((p) => p.coefficient));
    };
    const before = sizes(study);
    // y = 5 + a + 0.3b + 0.1abc on the 2³ factorial, whose columns are orthogonal.
    expect(before[1][0]).toBeCloseTo(5, 12);
    expect(before[1][1]).toBeCloseTo(1, 12);
    expect(before[1][2]).toBeCloseTo(0.3, 12);
    // 8 more on one trial moves every orthogonal coefficient by ±8/8.
    const next = revised([edit(study, ["trials", "t111", "results", "y"], 6.4 + 8)]);
    const after = sizes(next);
    after[1].forEach((c, j) => {
      expect(c).toBeCloseTo(before[1][j] + 1, 12);
    });
    expect(sizes(study)).toEqual(before);
  });
  it("a moved range moves the model's units with it, and back", () => {
    const moved = revised([edit(study, ["factors", "a", "high"], 3)]);
    // Coded (x − 1)/2: from −1 to 1 is now half of the range, its slope twice as steep in coded units.
    const slope = (s: Study) => of(s, "y").fit.parameters.find((p) => termKey(p.term) === "a")?.coefficient;
    expect(slope(study)).toBeCloseTo(1, 12);
    expect(slope(moved)).toBeCloseTo(2, 12);
    expect(slope(study)).toBeCloseTo(1, 12);
    const top = (s: Study) => of(s, "y").ladder.rungs.find((r) => r.key === "a")?.size ?? 0;
    expect(Math.abs(top(moved))).toBeCloseTo(2 * Math.abs(top(study)), 9);
  });
  it("wishes stay the same thing until something they rest on is edited, and are found again by undo", () => {
    const one = new StudyView(study, desk).wishes();
    expect(new StudyView(revised([edit(study, ["title"], "Another")]), desk).wishes()).toBe(one);
    const next = new StudyView(
      revised([edit(study, ["responses", "z", "goal"], { aim: "raise", low: 0, high: 2 })]),
      desk,
    );
    expect(next.wishes()).not.toBe(one);
    expect(new StudyView(study, desk).wishes()).toBe(one);
    const aimless = revised([edit(study, ["responses", "z", "goal"], { aim: "watch" })]);
    const none = new StudyView(aimless, desk).wishes();
    expect(none.ok ? "" : none.refused.message).toMatch(/No response has a goal yet/);
  });
});

describe("every figure that is kept", () => {
  const place = { a: 0.5, b: -0.25, c: 1 };
  const runs = ["w", "v"].flatMap((wave, i) => [
    ...levels.flatMap((a) => levels.flatMap((b) => levels.map((c) => ({ wave, settings: { a, b, c }, at: i })))),
    { wave, settings: { a: 0, b: 0, c: 0 }, at: i },
  ]);
  const noise = (i: number): number => ((i * 7919) % 31) / 31 - 0.5;
  const rich = parseStudy({
    ...study,
    covariates: [{ id: "damp" }],
    responses: [
      { id: "y", several: "units", bounds: { min: 0 }, goal: { aim: "raise", low: 0, high: 12 } },
      { id: "z", goal: { aim: "lower", low: -2, high: 6 } },
      { id: "s", spread: { of: "y", from: "repeats" } },
    ],
    waves: [{ id: "w" }, { id: "v" }, { id: "x" }],
    trials: [
      ...runs.map(({ wave, settings, at }, i) => {
        const mean = 5 + settings.a + 0.5 * settings.b + 0.3 * at + noise(i);
        return {
          id: `r${i}`,
          order: i + 1,
          wave,
          state: "done",
          settings,
          covariates: { damp: noise(5 * i + 2) },
          results: {
            y: [mean - 0.2 - 0.1 * (1 + settings.a) * noise(i + 3), mean + 0.2, mean],
            z: 2 - settings.b + 0.4 * settings.c + noise(3 * i + 1),
          },
        };
      }),
      ...[0, 1, 2].map((i) => ({
        id: `c${i}`,
        order: 30 + i,
        wave: "x",
        kind: "confirm",
        state: "done",
        use: false,
        settings: place,
        covariates: { damp: 0 },
        results: { y: [5.4 + 0.2 * i, 5.5, 5.6], z: 2.4 + 0.3 * i },
      })),
    ],
    models: [
      { response: "y", terms: [["a"], ["b"], ["damp"]], rivals: [[["a"]], [["a"], ["b"]]] },
      { response: "z", terms: [["b"], ["c"]] },
    ],
    setpoint: { settings: place, held: [] },
  });
  /** Everything that a view keeps of a study. */
  const figures = (view: StudyView): unknown => {
    const wishes = view.wishes();
    return {
      fits: view.study.responses.map((r) => {
        const found = view.fitted(r.id);
        if (!found.ok) return found.refused.message;
        const { fit, predictor, offer, ladder, contrasts, chosen, span } = found.fitted;
        return {
          ...{ parameters: fit.parameters, anova: fit.anova, trials: fit.trials, chosen, span, offer, contrasts },
          predicted: predictor.predict(place),
          ladder,
          rivals: view.rivals(fit, view.study.models.find((m) => m.response === r.id)?.rivals ?? []).weights,
        };
      }),
      wishes: wishes.ok ? [wishes.wishes.overall(place), wishes.wishes.region.allowed(place)] : wishes.refused.message,
      confirmation: view.confirmation(),
      confirmed: view.confirmed(),
      expected: view.fitted("y").ok ? view.expected("y", place, 3, 2, undefined) : undefined,
    };
  };
  const changed: [string, Edit[]][] = [
    ["a title", [edit(rich, ["title"], "another")]],
    ["a range", [edit(rich, ["factors", "a", "high"], 2)]],
    ["a factor retired", [edit(rich, ["factors", "c", "retired"], 0)]],
    ["a measured covariate", [edit(rich, ["trials", "r3", "covariates", "damp"], 2)]],
    ["a result", [edit(rich, ["trials", "r3", "results", "y"], [8, 9, 8.5])]],
    ["a trial's wave", [edit(rich, ["trials", "r3", "wave"], "v")]],
    ["a trial left out", [edit(rich, ["trials", "r3", "use"], false)]],
    ["a confirmation's result", [edit(rich, ["trials", "c1", "results", "z"], 5)]],
    ["a confirmation that joins the models", [edit(rich, ["trials", "c1", "use"], true)]],
    [
      "a forbidden corner",
      [edit(rich, ["region"], { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 0.2 }], forbidden: [] })],
    ],
    ["the confidence", [edit(rich, ["confidence"], 0.9)]],
    ["a bound", [edit(rich, ["responses", "y", "bounds"], { min: 6 })]],
    ["a goal", [edit(rich, ["responses", "z", "goal"], { aim: "lower", low: 0, high: 3 })]],
    ["an importance", [edit(rich, ["responses", "z", "importance"], 5)]],
    ["how several results of a trial are read", [edit(rich, ["responses", "y", "several"], "repeats")]],
    ["terms", [edit(rich, ["models", "y", "terms"], [["a"]])]],
    ["a scale", [edit(rich, ["models", "y", "transform"], "log")]],
    ["waves out of a model", [edit(rich, ["models", "y", "block"], false)]],
    ["an average of rivals", [edit(rich, ["models", "y", "average"], "equal")]],
    ["a model of the spread", [edit(rich, ["models", "s"], { response: "s", terms: [["a"]] })]],
    ["a model given up", [edit(rich, ["models", "z"], undefined)]],
    ["the setpoint", [edit(rich, ["setpoint"], { settings: { a: 1, b: 1, c: 1 }, held: [] })]],
    ["no setpoint", [edit(rich, ["setpoint"], undefined)]],
  ];

  it("is that of a study never seen before, whatever part is edited and edited back", () => {
    const kept = new Memo();
    const at = (s: Study) => JSON.parse(JSON.stringify(figures(new StudyView(s, kept))));
    const own = (s: Study) => JSON.parse(JSON.stringify(figures(new StudyView(s, new Memo()))));
    const before = own(rich);
    for (const [what, edits] of changed) {
      expect(at(rich), `before ${what}`).toEqual(before);
      const after = reviseStudy(rich, edits);
      const anew = own(after);
      expect(at(after), what).toEqual(anew);
      // Each but the title moves something: nothing here is kept because it says the same.
      if (what !== "a title") expect(anew, what).not.toEqual(before);
    }
  });
});

describe("a memo", () => {
  it("keeps a value while every input is the same thing, and lets the oldest go", () => {
    const memo = new Memo();
    let made = 0;
    const get = (n: number) => memo.get("n", [n], () => [made++, n]);
    const first = get(0);
    expect(get(0)).toBe(first);
    for (let n = 1; n < 64; n++) get(n);
    expect(get(0)).toBe(first);
    for (let n = 64; n < 128; n++) get(n);
    expect(get(0)).not.toBe(first);
    expect(made).toBe(129);
    expect(memo.get("other", [0], () => "own name")).toBe("own name");
  });
});
