import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { cat, cont } from "./studies";

const study = (more: Partial<StudyInput>): Study =>
  parseStudy({ format: "trialmoor-study", version: 1, title: "t", ...more });
const done = (results: (number | null)[], settings: (i: number) => Record<string, number | string>) =>
  results.map((y, i) => ({
    id: `t${i}`,
    wave: "w",
    state: "done" as const,
    settings: settings(i),
    results: { y },
  }));
const goal = { aim: "raise", low: 0, high: 10 } as const;
const waves = [{ id: "w" }];
const corner = (i: number) => ({ a: i % 2 ? 1 : -1, b: i & 2 ? 1 : -1 });
const two = { factors: [cont("a"), cont("b")], responses: [{ id: "y", goal }], waves };

/** Studies that hardly any question can answer well. */
export const AWKWARD: Record<string, Study> = {
  blank: study({}),
  "no factors": study({ responses: [{ id: "y", goal }] }),
  "no responses": study({ factors: [cont("a"), cont("b")] }),
  "nothing run": study(two),
  "one trial": study({ ...two, trials: done([3], corner) }),
  "every trial at one point": study({
    ...two,
    trials: done([1, 2, 3, 4], () => ({ a: 0, b: 0 })),
    models: [{ response: "y", terms: [["a"]] }],
  }),
  "results all the same": study({
    ...two,
    trials: done([5, 5, 5, 5, 5, 5], corner),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  }),
  "a saturated model": study({
    ...two,
    trials: done([1, 2, 4, 9], corner),
    models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }],
  }),
  "more terms than trials": study({
    ...two,
    trials: done([1, 2], corner),
    models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"], ["a", "a"]] }],
  }),
  "huge figures": study({
    ...two,
    factors: [cont("a", { low: 1e9, high: 1e9 + 2 }), cont("b", { low: -1e-9, high: 1e-9 })],
    trials: done([1e12, -1e12, 3e12, 1e-12], (i) => ({ a: 1e9 + (i % 2 ? 2 : 0), b: i & 2 ? 1e-9 : -1e-9 })),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  }),
  "categories alone": study({
    factors: [cat("a", "x", "y", "z"), cat("b", "u", "v")],
    responses: [{ id: "y", goal }],
    waves,
    trials: done([1, 2, 3, 4, 5, 6], (i) => ({ a: ["x", "y", "z"][i % 3], b: i % 2 ? "u" : "v" })),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  }),
  "a region that leaves hardly anything": study({
    ...two,
    region: { limits: [{ terms: { a: 1, b: 1 }, at: "least", bound: 1.999 }], forbidden: [] },
    trials: done([1, 2, 4, 9], corner),
    models: [{ response: "y", terms: [["a"]] }],
  }),
  "a factor that is retired": study({
    ...two,
    factors: [cont("a"), { ...cont("b"), retired: 0 }],
    trials: done([1, 2, 4, 9], corner),
    models: [{ response: "y", terms: [["a"]] }],
  }),
};

/** Inputs of every question, for the factors and the response that most of the studies have. */
export const INPUTS: Record<string, object[]> = {
  plan: [{ family: "factorial" }, { family: "composite" }, { family: "optimal", trials: 6, starts: 2, terms: "main" }],
  appraise: [{}, { terms: "quadratic", possible: "main+2fi" }],
  fit: [{ response: "y" }, { response: "y", terms: "main+2fi", reduce: "backward", by: "aicc" }],
  subsets: [
    { response: "y", terms: "main" },
    { response: "y", terms: "quadratic", average: true },
  ],
  predict: [{ at: { a: 0, b: 0 } }, { at: { a: "x", b: "u" } }],
  setpoint: [{ draws: 200 }],
  surface: [{ response: "y" }],
  power: [
    { effect: 1, noise: 1, replicates: 1 },
    { effect: 0, noise: 1, power: 0.8 },
  ],
  follow: [
    { kind: "centre" },
    { kind: "foldover" },
    { kind: "repeat" },
    { kind: "ascent", response: "y" },
    { kind: "augment", trials: 4, terms: "main" },
    { kind: "confirm" },
  ],
  influence: [{}],
  verdict: [{}],
  rig: [{ name: "wool-line" }, { name: "no-such-rig" }],
};
