import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { applyEdits, type Edit, edit } from "./edit";
import { StudyError } from "./error";
import { reviseStudy } from "./revise";
import type { Study } from "./schema";
import { parseStudy } from "./validate";

const study = (): Study =>
  parseStudy({
    ...withTrials(
      plainStudy(3),
      corners(3),
      corners(3).map((_, i) => i),
    ),
    models: [{ response: "y", terms: [["a"]] }],
  });

/** What a whole reading of the edited study gives: the result, or the sentence of its refusal. */
function whole(before: Study, edits: Edit[]): Study | string {
  try {
    return parseStudy(applyEdits(before, edits));
  } catch (error) {
    if (error instanceof StudyError) return `${error.code}: ${error.message} at ${error.path.join(".")}`;
    throw error;
  }
}
function revised(before: Study, edits: Edit[]): Study | string {
  try {
    return reviseStudy(before, edits);
  } catch (error) {
    if (error instanceof StudyError) return `${error.code}: ${error.message} at ${error.path.join(".")}`;
    throw error;
  }
}

const anyEdit = (before: Study): fc.Arbitrary<Edit> =>
  fc.oneof(
    fc
      .tuple(fc.integer({ min: 1, max: 8 }), fc.oneof(fc.double({ noNaN: true }), fc.constant(null)))
      .map(([i, v]) => edit(before, ["trials", `t${i}`, "results", "y"], v)),
    fc
      .tuple(fc.integer({ min: 1, max: 8 }), fc.constantFrom<number | string>(-1, 0.3, 1, "hot"))
      .map(([i, v]) => edit(before, ["trials", `t${i}`, "settings", "a"], v)),
    fc.constantFrom<unknown>(-2, 0.5, 1, 7, "x").map((v) => edit(before, ["factors", "b", "low"], v)),
    fc.constantFrom("b", "c", "A", "new name", "").map((v) => edit(before, ["factors", "a", "name"], v)),
    fc.constantFrom(["a"], ["a", "b"], ["z"]).map((t) => edit(before, ["models", "y", "terms"], [["c"], t])),
    fc.constant(edit(before, ["factors", "c"], null)),
    fc.constant(edit(before, ["trials", "t3"], null)),
    fc.constant(edit(before, ["title"], "another")),
    fc.constant(edit(before, ["setpoint"], { settings: { a: 0 }, held: ["a"] })),
    fc.constant(edit(before, ["region"], { limits: [{ terms: { a: 1, q: 1 }, at: "most", bound: 1 }], forbidden: [] })),
    fc.constant(edit(before, ["responses", "w"], { id: "w" })),
    fc.constant(edit(before, ["trials", "t9"], { id: "t9", wave: "w1", settings: { a: 1, b: 1, c: 1 } })),
    fc.constant(edit(before, ["trials", "t9"], { id: "t9", wave: "nowhere", settings: { a: 1, b: 1, c: 1 } })),
  );

describe("revising a study", () => {
  it("gives what reading the whole edited study gives, refusals included", () => {
    const before = study();
    fc.assert(
      fc.property(anyEdit(before), (e) => {
        expect(revised(before, [e])).toEqual(whole(before, [e]));
      }),
      { numRuns: 300 },
    );
  });

  it("keeps the identity of all that an edit does not touch", () => {
    const before = study();
    const after = reviseStudy(before, [edit(before, ["models", "y", "terms"], [["a"], ["b"]])]);
    expect(after.trials).toBe(before.trials);
    expect(after.factors).toBe(before.factors);
    expect(after.models).not.toBe(before.models);
    const entered = reviseStudy(before, [edit(before, ["trials", "t2", "results", "y"], 9)]);
    expect(entered.trials).not.toBe(before.trials);
    expect(entered.trials[0]).toBe(before.trials[0]);
    expect(entered.trials[1].results.y).toBe(9);
    expect(entered.models).toBe(before.models);
  });

  it("leaves the study it was given as it was", () => {
    const before = study();
    const copy = structuredClone(before);
    reviseStudy(before, [edit(before, ["factors", "a", "high"], 3)]);
    expect(before).toEqual(copy);
  });
});
