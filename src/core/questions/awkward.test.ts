import { describe, expect, it } from "vitest";
import { StudyError } from "../study/error";
import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { cat, cont } from "../testing/studies";
import { ask, finish, openQuestions, type QuestionId } from ".";

// A question put to a study that can hardly answer it either answers with figures and nulls or refuses in one sentence:
// no NaN, no infinity that is lost on the way to a client, no error of the machine.

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

const AWKWARD: Record<string, Study> = {
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
const INPUTS: Record<string, object[]> = {
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
  verdict: [{}],
  rig: [{ name: "wool-line" }, { name: "no-such-rig" }],
};

/** Where an answer holds a number that JSON cannot carry. */
function unsound(value: unknown, path = ""): string[] {
  if (typeof value === "number") return Number.isFinite(value) ? [] : [`${path}: ${value}`];
  if (value === undefined && path !== "") return [];
  if (typeof value !== "object" || value === null) return [];
  return Object.entries(value).flatMap(([key, v]) => unsound(v, `${path}/${key}`));
}
let answered = 0;
let refusedAtAll = 0;
const MACHINE = /NaN|undefined|\[object|Infinity|TypeError|null\b/;

describe.each(Object.entries(AWKWARD))("%s", (_, of) => {
  it.each(openQuestions().map((q) => q.id))("%s answers or refuses in a sentence", (id) => {
    for (const input of INPUTS[id]) {
      try {
        const answer = finish(ask(id as QuestionId, of, input));
        answered++;
        expect(unsound(answer)).toEqual([]);
        // A client reads what was meant: nothing is lost in writing it down.
        const written = JSON.parse(JSON.stringify(answer));
        expect(
          openQuestions()
            .find((q) => q.id === id)
            ?.answer.safeParse(written).error?.issues[0],
        ).toBeUndefined();
        const texts = JSON.stringify(written).match(/"text":"(?:[^"\\]|\\.)*"/g) ?? [];
        for (const text of texts) expect(text).not.toMatch(/NaN|undefined|\[object|Infinity/);
      } catch (error) {
        if (!(error instanceof StudyError)) throw error;
        refusedAtAll++;
        expect(error.message).toMatch(/^\S.*\.$/);
        expect(error.message).not.toMatch(MACHINE);
        expect(error.code).toMatch(/^[a-z-]+$/);
      }
    }
  });
});

it("a good part of them is answered, and a good part refused: both ways were looked at", () => {
  expect(answered).toBeGreaterThan(90);
  expect(refusedAtAll).toBeGreaterThan(90);
});

describe("what is asked wrongly", () => {
  const plain = AWKWARD["a saturated model"];
  const refused = (id: string, input: object): StudyError => {
    try {
      finish(ask(id as QuestionId, plain, input));
    } catch (error) {
      if (error instanceof StudyError) return error;
      throw error;
    }
    throw new Error(`${id} took ${JSON.stringify(input)}`);
  };
  it.each(openQuestions().map((q) => q.id))("%s refuses a key it does not have, by name", (id) => {
    const error = refused(id, { ...INPUTS[id][0], unheardOf: 1 });
    expect(`${error.message} ${error.path.join(" ")}`).toContain("unheardOf");
  });
  it.each(openQuestions().flatMap((q) => Object.keys(q.input).map((key) => [q.id, key] as const)))(
    "%s refuses an object where %s is asked, and says where",
    (id, key) => {
      const error = refused(id, { ...INPUTS[id][0], [key]: { no: { such: "thing" } } });
      expect(`${error.message} ${error.path.join(" ")}`).toContain(key);
      expect(error.message).toMatch(/\.$/);
    },
  );
  it.each(["fit", "subsets", "surface"])("%s names a response that is not there", (id) => {
    expect(refused(id, { ...INPUTS[id][0], response: "grip" }).message).toContain("“grip”");
  });
});
