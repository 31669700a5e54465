import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { type PlanRequest, planSummaries } from "../appraisal/plan-summary";
import { readStudyFile } from "../formats/study-file";
import { fitModel } from "../model/fit";
import { finish } from "../questions";
import { setpointProblem } from "../setpoint/goals";
import { searchSetpoint } from "../setpoint/search";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { modelReadings } from "./model";
import { planReadings } from "./plan";
import { questionReadings } from "./question";
import type { Reading } from "./reading";
import { goalReadings, setpointReadings } from "./setpoint";
import { trialsReadings } from "./trials";

const wool = readStudyFile(
  readFileSync(new URL("../../../examples/wool-scouring.trialmoor.json", import.meta.url), "utf8"),
);
const has = (readings: Reading[], id: string): boolean => readings.some((r) => r.id.startsWith(id));
const textOf = (readings: Reading[], id: string): string => readings.find((r) => r.id.startsWith(id))?.text ?? "";

/** Each reading fires on the first study and must not on the second, which misses by a little. */
function fires(id: string, on: () => Reading[], off: () => Reading[]): void {
  it(`${id} fires, and a near miss does not`, () => {
    expect(has(on(), id)).toBe(true);
    expect(has(off(), id)).toBe(false);
  });
}

describe("Question", () => {
  const two = (more: object = {}, response: object = {}): Study =>
    plainStudy(2, {
      responses: [{ id: "y", noise: 1, smallest: 2, goal: { aim: "raise", low: 0, high: 1 }, ...response }],
      ...more,
    });
  fires(
    "no-responses",
    () => questionReadings(plainStudy(2, { responses: [] })),
    () => questionReadings(two()),
  );
  fires(
    "few-factors",
    () => questionReadings(plainStudy(1)),
    () => questionReadings(two()),
  );
  fires(
    "no-goals",
    () => questionReadings(two({}, { goal: { aim: "watch" } })),
    () => questionReadings(two()),
  );
  fires(
    "noise-unsaid",
    () => questionReadings(two({}, { noise: undefined })),
    () => questionReadings(two()),
  );
  fires(
    "small-change",
    () => questionReadings(two({}, { smallest: 0.99 })),
    () => questionReadings(two({}, { smallest: 1 })),
  );
  const limit = (bound: number): Study => two({ region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound }] } });
  fires(
    "corners-excluded",
    () => questionReadings(limit(1.99)),
    () => questionReadings(limit(2)),
  );
  fires(
    "limits-idle",
    () => questionReadings(limit(2)),
    () => questionReadings(limit(1.99)),
  );
  const stepped = (step?: number, change = "easy"): Study =>
    two({
      factors: ["a", "b"].map((id) => ({
        id,
        kind: "continuous" as const,
        low: 0,
        high: 1,
        change: change as "easy",
        ...(step ? { step } : {}),
      })),
    });
  fires(
    "no-step",
    () => questionReadings(stepped()),
    () => questionReadings(stepped(0.1)),
  );
  fires(
    "hard-to-change",
    () => questionReadings(stepped(0.1, "hard")),
    () => questionReadings(stepped(0.1)),
  );
  it("says how many trials a small change needs: effect ½σ at power 0.8 needs 4·(2.8/0.5)² = 126", () =>
    expect(textOf(questionReadings(two({}, { smallest: 0.5 })), "small-change")).toContain("about 126 trials"));
});

describe("Plan", () => {
  const request: PlanRequest = {
    terms: "main+2fi",
    budget: 40,
    replicates: 1,
    centre: 3,
    blocks: 1,
    power: 0.8,
    alpha: 0.05,
    seed: 1,
    standardOrder: false,
  };
  const read = (study: Study, a: PlanRequest, pick: (label: string) => boolean = () => true): Reading[] => {
    const { summaries } = planSummaries(study, a);
    return planReadings(study, a, summaries, summaries.filter((s) => pick(s.label)).slice(0, 3));
  };
  const six = (smallest = 2.5): Study => plainStudy(6, { responses: [{ id: "y", noise: 1, smallest }] });
  fires(
    "none-tells-all",
    () => read(six(), { ...request, budget: 26 }),
    () => read(six(), { ...request, budget: 27 }),
  );
  fires(
    "sharp-enough",
    () => read(six(2.5), request),
    () => read(six(0.1), request),
  );
  fires(
    "not-sharp",
    () => read(six(0.1), request),
    () => read(six(2.5), request),
  );
  fires(
    "chains",
    () => read(six(), request, (l) => l === "Fraction 16"),
    () => read(six(), request, (l) => l === "Fraction 32"),
  );
  fires(
    "resolution",
    () => read(six(), request, (l) => l === "Fraction 8"),
    () => read(six(), { ...request, budget: 40 }, (l) => l === "Fraction 32"),
  );
  fires(
    "no-df",
    () => read(plainStudy(7), { ...request, terms: "main", centre: 0, budget: 8 }),
    () => read(plainStudy(7), { ...request, terms: "main", centre: 1, budget: 9 }),
  );
  fires(
    "no-centre",
    () => read(six(), { ...request, centre: 0 }),
    () => read(six(), request),
  );
  fires(
    "standard-order",
    () => read(six(), { ...request, standardOrder: true }),
    () => read(six(), request),
  );
  fires(
    "no-plans",
    () => read(six(), { ...request, budget: 10 }),
    () => read(six(), { ...request, budget: 11 }),
  );
  it("six factors need 22 trials for mains and pairs: 1 + 6 + 15", () =>
    expect(textOf(read(six(), request), "fewest-trials")).toContain("22 trials are the least"));
});

describe("Trials", () => {
  const run = (y: (number | null)[], more: Parameters<typeof withTrials>[3] = {}): Study =>
    withTrials(
      plainStudy(2),
      Array.from({ length: y.length }, (_, i) => corners(2)[i % 4]),
      y,
      more,
    );
  fires(
    "no-trials",
    () => trialsReadings(plainStudy(2)),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  const waiting = {
    ...run([1, 2, 3, 4]),
    trials: run([1, 2, 3, 4]).trials.map((t, i) => (i === 3 ? { ...t, state: "planned" as const } : t)),
  };
  fires(
    "next-trial",
    () => trialsReadings(waiting),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  it("names only what changes from the trial before", () =>
    expect(textOf(trialsReadings(waiting), "next-trial")).toBe("Trial 4: change a from -1 to 1. 1 trial left."));
  fires(
    "as-run-differs",
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -0.9 }] })),
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -1 }] })),
  );
  fires(
    "outside-region",
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -1.01 }] })),
    () => trialsReadings(run([1, 2, 3, 4], { asRun: [{ a: -0.99 }] })),
  );
  fires(
    "missing-y",
    () => trialsReadings(run([1, null, 3, 4])),
    () => trialsReadings(run([1, 2, 3, 4])),
  );
  const calm = [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, 0.9, 1.9, 3.1];
  fires(
    "surprise",
    () => trialsReadings(run([...calm, 9])),
    () => trialsReadings(run([...calm, 4.1])),
  );
  fires(
    "drift",
    () => trialsReadings(run(calm.map((v, i) => v + 0.2 * i))),
    () => trialsReadings(run(calm)),
  );
  fires(
    "all-run",
    () => trialsReadings(run(calm)),
    () => trialsReadings(waiting),
  );
});

describe("Model", () => {
  const jitter = [0.1, -0.2, 0.15, -0.05, -0.1, 0.2, -0.15, 0.05, 0.12, -0.12, 0.07, -0.07, 0.02, -0.02, 0.18, -0.18];
  const full = (effect: (s: Settings) => number, k = 4, more: object = {}): Study =>
    withTrials(
      plainStudy(k, more),
      corners(k),
      corners(k).map((s, i) => 10 + effect(s) + jitter[i % 16]),
    );
  const read = (study: Study, terms: Term[]): Reading[] => modelReadings(study, fitModel(study, "y", { terms }));
  const mains: Term[] = [["a"], ["b"], ["c"], ["d"]];
  const A = (s: Settings): number => s.a as number;
  const B = (s: Settings): number => s.b as number;
  fires(
    "drivers",
    () =>
      read(
        full((s) => 3 * A(s)),
        mains,
      ),
    () =>
      read(
        full(() => 0),
        mains,
      ),
  );
  fires(
    "nothing-active",
    () =>
      read(
        full(() => 0),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s)),
        mains,
      ),
  );
  fires(
    "together",
    () =>
      read(
        full((s) => A(s) + 2 * A(s) * B(s)),
        [...mains, ["a", "b"]],
      ),
    () =>
      read(
        full((s) => A(s)),
        [...mains, ["a", "b"]],
      ),
  );
  fires(
    "idle",
    () =>
      read(
        full((s) => 3 * A(s) + B(s)),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s) + B(s) + 2 * (s.c as number) + 2 * (s.d as number)),
        mains,
      ),
  );
  const fraction = (d: (s: Settings) => number): Study => {
    const points = corners(3).map((s) => ({ ...s, d: d(s) }));
    return withTrials(
      plainStudy(4),
      [...points, ...points],
      [...points, ...points].map((s, i) => 10 + 2 * A(s) + 2 * B(s) + 3 * A(s) * B(s) + jitter[i % 16]),
    );
  };
  fires(
    "alias",
    () =>
      read(
        fraction((s) => A(s) * B(s) * (s.c as number)),
        [...mains, ["a", "b"]],
      ),
    () =>
      read(
        full((s) => 2 * A(s) + 2 * B(s) + 3 * A(s) * B(s)),
        [...mains, ["a", "b"]],
      ),
  );
  it("weighs a chain by heredity: both parents active is the likelier", () =>
    expect(
      textOf(
        read(
          fraction((s) => A(s) * B(s) * (s.c as number)),
          [...mains, ["a", "b"]],
        ),
        "alias",
      ),
    ).toContain("a × b is the likelier: both its factors are active"));
  fires(
    "no-residual-df",
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"], ["a", "b"]]),
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"]]),
  );
  fires(
    "dropped",
    () =>
      read(
        withTrials(
          plainStudy(3),
          corners(2).map((s) => ({ ...s, c: (s.a as number) * (s.b as number) })),
          [1, 2, 3, 7],
        ),
        [["a"], ["b"], ["c"], ["a", "b"]],
      ),
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"]]),
  );
  const centred = (mid: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2), ...[0, 0, 0].map(() => ({ a: 0, b: 0 }))],
      [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, mid, mid + 0.1, mid - 0.1],
    );
  fires(
    "curvature",
    () => read(centred(4), [["a"], ["b"]]),
    () => read(centred(2.5), [["a"], ["b"]]),
  );
  const twice = (bump: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2), ...corners(2)],
      [1, 2, 3, 4 + bump, 1.1, 2.1, 2.9, 3.9 + bump, 0.95, 2.05, 3.05, 4.1 + bump],
    );
  fires(
    "lack-of-fit",
    () => read(twice(1), [["a"], ["b"]]),
    () => read(twice(0), [["a"], ["b"]]),
  );
  fires(
    "overfit",
    () =>
      read(
        full((s) => A(s) * 0.1),
        [...mains, ["a", "b"], ["a", "c"], ["a", "d"], ["b", "c"], ["b", "d"], ["c", "d"]],
      ),
    () =>
      read(
        full((s) => 5 * A(s)),
        [["a"]],
      ),
  );
  const waves = (shift: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2)],
      [1, 2, 3, 4, 1.05 + shift, 2.1 + shift, 2.9 + shift, 3.95 + shift],
      {
        wave: (i) => (i < 4 ? "w1" : "w2"),
      },
    );
  fires(
    "wave-shift",
    () => read(waves(1), [["a"], ["b"]]),
    () => read(waves(0.02), [["a"], ["b"]]),
  );
  const odd = (extra: number): Study =>
    withTrials(
      plainStudy(4),
      corners(4),
      corners(4).map((s, i) => 10 + 3 * A(s) + jitter[i] + (i === 5 ? extra : 0)),
    );
  fires(
    "influential",
    () => read(odd(3), [["a"]]),
    () => read(odd(0.1), [["a"]]),
  );
  fires(
    "orphans",
    () =>
      read(
        full((s) => A(s)),
        [["a"], ["a", "b"]],
      ),
    () =>
      read(
        full((s) => A(s)),
        [["a"], ["b"], ["a", "b"]],
      ),
  );
  const bounded = (min: number): Study => full((s) => 4 * A(s), 4, { responses: [{ id: "y", bounds: { min } }] });
  fires(
    "beyond-bounds",
    () => read(bounded(7), [["a"]]),
    () => read(bounded(5), [["a"]]),
  );
});

describe("Setpoint", () => {
  it("names a response that has a goal but no model, and only that", () => {
    expect(
      textOf(goalReadings({ ...wool, models: wool.models.filter((m) => m.response !== "white") }), "missing-models"),
    ).toBe("Whiteness has a goal but no model yet.");
    expect(goalReadings(wool)).toEqual([]);
  });
  const search = (study: Study): Reading[] => {
    const problem = setpointProblem(study);
    return setpointReadings(problem, finish(searchSetpoint(problem, { draws: 4000 })));
  };
  const impossible = parseStudy({
    ...wool,
    responses: wool.responses.map((r) => (r.id === "white" ? { ...r, goal: { aim: "raise", low: 80, high: 90 } } : r)),
  });
  fires(
    "nothing-meets",
    () => search(impossible),
    () => search(wool),
  );
  fires(
    "best-settable",
    () => search(wool),
    () => search(impossible),
  );
  const { setpoint: _none, ...unchosen } = wool;
  fires(
    "choose",
    () => search(unchosen as Study),
    () => search(wool),
  );
  fires(
    "setpoint-older",
    () =>
      search({
        ...wool,
        setpoint: { held: [], settings: { temp: 52, dose: 4, soda: 0, feed: 750, squeeze: 8, lot: "hill" } },
      }),
    () => search(wool),
  );
  fires(
    "chance",
    () => search(wool),
    () =>
      search({
        ...wool,
        trials: wool.trials.slice(0, 6),
        models: wool.models.map((m) => ({ ...m, terms: [["temp"], ["dose"], ["soda"], ["feed"], ["squeeze"]] })),
        responses: wool.responses.map(({ noise: _gone, ...r }) => r),
      }),
  );

  /** Two responses on the corners of a square: what is there is chosen so that one thing at a time changes. */
  const square = (
    more: {
      goal?: object;
      tolerance?: number;
      bounds?: object;
      setpoint?: object;
      noise?: number;
      y?: number[];
      limits?: object[];
    } = {},
  ): Study =>
    parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "t",
      factors: [
        { id: "a", kind: "continuous", low: -1, high: 1, ...(more.tolerance ? { tolerance: more.tolerance } : {}) },
        { id: "b", kind: "continuous", low: -1, high: 1 },
      ],
      responses: [
        {
          id: "y",
          goal: (more.goal ?? { aim: "raise", low: 0, high: 10 }) as never,
          ...(more.bounds ? { bounds: more.bounds } : {}),
          ...(more.noise ? { noise: more.noise } : {}),
        },
      ],
      waves: [{ id: "w" }],
      trials: [...corners(2), ...corners(2)].map((settings, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done" as const,
        settings,
        results: { y: (more.y ?? [2, 5.9, 4.1, 8, 2.1, 6, 4, 7.9])[i] },
      })),
      models: [{ response: "y", terms: [["a"], ["b"]] }],
      region: { limits: (more.limits ?? []) as never, forbidden: [] },
      ...(more.setpoint ? { setpoint: more.setpoint as never } : {}),
    });
  fires(
    "against-best",
    () => search(square()),
    () => search(square({ goal: { aim: "raise", low: 20, high: 30 } })),
  );
  fires(
    "breaks-bounds",
    () => search(square({ bounds: { max: 7.5 } })),
    () => search(square({ bounds: { max: 9 } })),
  );
  fires(
    "control",
    () => search(square({ tolerance: 0.4, goal: { aim: "hit", low: 4, target: 5, high: 6 } })),
    () => search(square({ tolerance: 0.4, goal: { aim: "within", low: 0, high: 10 } })),
  );
  fires(
    "low-chance",
    () => search(square({ goal: { aim: "hit", low: 4.98, target: 5, high: 5.02 } })),
    () => search(square({ goal: { aim: "hit", low: 2, target: 5, high: 8 } })),
  );
  fires(
    "setpoint-outside",
    () =>
      search(
        square({
          setpoint: { settings: { a: 1, b: 1 } },
          limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 1.99 }],
        }),
      ),
    () =>
      search(
        square({ setpoint: { settings: { a: 1, b: 1 } }, limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 2 }] }),
      ),
  );
  fires(
    "setpoint-incomplete",
    () => search(square({ setpoint: { settings: { a: 1 } } })),
    () => search(square({ setpoint: { settings: { a: 1, b: 1 } } })),
  );
  fires(
    "confirm",
    () => search(square({ setpoint: { settings: { a: 1, b: 1 } } })),
    () => search(square({ setpoint: { settings: { a: 1 } } })),
  );
  it("says what the best settable point gains over the best trial, in figures", () =>
    expect(textOf(search(square()), "against-best")).toMatch(/number \d+ comes nearest with 0\.\d\d/));
});

describe("Checks among the readings of a model", () => {
  const line = Array.from({ length: 24 }, (_, i) => ({ a: i % 2 ? 1 : -1, b: (i >> 1) % 2 ? 1 : -1 }));
  const even = [
    0.1, -0.12, 0.08, -0.1, 0.05, -0.07, 0.11, -0.05, 0.02, -0.03, 0.06, -0.08, 0.09, -0.11, 0.04, -0.02, 0.07, -0.06,
    0.03, -0.09, 0.12, -0.04, 0.01, -0.01,
  ];
  const of = (noise: (i: number) => number): Reading[] => {
    const study = withTrials(
      plainStudy(2),
      line,
      line.map((s, i) => 5 + 2 * s.a + s.b + noise(i)),
    );
    return modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
  };
  const shuffled = (i: number): number => even[(i * 7) % 24];
  fires(
    "check-spread",
    () => of((i) => shuffled(i) * (line[i].a > 0 ? 12 : 1)),
    () => of(shuffled),
  );
  // Errors that add up to nothing in every corner, so that none of them looks like an effect.
  const balanced = (i: number): number => 0.1 * [1, -1, 0.7, -0.7, 0.4, -0.4][i >> 2];
  fires(
    "check-spread-factor",
    () => of((i) => balanced(i) * (line[i].b > 0 ? 8 : 1)),
    () => of(balanced),
  );
  // Errors that grow with the level, over a factor of more than three: a logarithm holds them.
  const grown = (spanned: number): Reading[] => {
    const study = withTrials(
      plainStudy(2),
      line,
      line.map((s, i) => Math.exp((Math.log(spanned) / 2) * s.a + 0.15 * s.b + 0.5 * shuffled(i))),
    );
    return modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
  };
  fires(
    "check-scale",
    () => grown(12),
    () => grown(1.5),
  );
  it("names the scale that would help", () => expect(textOf(grown(12), "check-scale")).toContain("log scale"));
  fires(
    "check-order",
    () => of((i) => (i - 12) * 0.05 + shuffled(i) * 0.2),
    () => of(shuffled),
  );
});

describe("a path of steepest ascent", () => {
  const path = (values: number[]): Study =>
    parseStudy({
      ...plainStudy(1, { responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 99 } }] }),
      waves: [{ id: "w", plan: { family: "ascent", response: "y" } }],
      trials: [0, 1, 2, 3, 4].map((a, i) => ({
        id: `t${i + 1}`,
        wave: "w",
        kind: "path",
        state: values[i] === undefined ? "planned" : "done",
        settings: { a },
        results: { y: values[i] ?? null },
      })),
    });
  fires(
    "path-turned",
    () => trialsReadings(path([5, 7, 6, 6.5])),
    () => trialsReadings(path([5, 6, 7, 6.5])),
  );
});

describe("sizes say which scale they are on", () => {
  it("the response's unit as it is measured, the scale where it is fitted on another", () => {
    const settings = corners(2).flatMap((c) => [c, c]);
    const y = settings.map((s, i) => Math.exp(2 + 0.8 * (s.a as number) + (i % 2 ? 0.02 : -0.02)));
    const study = withTrials(plainStudy(2, { responses: [{ id: "y", name: "Yield", unit: "kg" }] }), settings, y);
    const text = (transform: "none" | "log"): string =>
      modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]], transform })).find((r) => r.id === "drivers")
        ?.text ?? "";
    expect(text("none")).toMatch(/ kg from low to high/);
    // ln y changes by 1.6 from low to high.
    expect(text("log")).toMatch(/1\.60* on the log scale from low to high/);
  });
});
