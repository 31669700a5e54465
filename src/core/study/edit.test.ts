import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { refusal } from "../testing/studies";
import { additions, applyEdits, cellAt, type Edit, edit, inverseEdits, sameData } from "./edit";
import type { Study } from "./schema";
import { parseStudy } from "./validate";

const study: Study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y" }, { id: "z" }],
  waves: [{ id: "w" }],
  trials: [1, 2, 3].map((i) => ({
    id: `t${i}`,
    wave: "w",
    state: "done",
    settings: { a: 1, b: -1, c: 0 },
    results: { y: i, z: i % 2 ? null : 2 * i },
  })),
  models: [{ response: "y", terms: [["a"]] }],
});

/** Edits that can be made one after another, each from what stands then. */
const steps = fc.array(
  fc.oneof(
    fc
      .tuple(fc.constantFrom("t1", "t2", "t3"), fc.constantFrom("y", "z"), fc.constantFrom<unknown>(null, 4, [1, 2]))
      .map(([t, r, v]) => ({ path: ["trials", t, "results", r], to: v })),
    fc.constantFrom<unknown>("other", "t").map((to) => ({ path: ["title"], to })),
    fc.constantFrom("b", "c").map((id) => ({ path: ["factors", id], to: null })),
    fc.constantFrom("b", "c").map((id) => ({
      path: ["factors", id],
      to: { id, name: id, letter: id.toUpperCase(), kind: "continuous", low: 0, high: 2 },
    })),
    fc.constantFrom(["c", "b", "a"], ["a", "c", "b"]).map((to) => ({ path: ["factors"], to })),
    fc.constantFrom<unknown>(null, { settings: { a: 0 }, held: [] }).map((to) => ({ path: ["setpoint"], to })),
    fc
      .constantFrom<unknown>(null, { paragraph: "Found.", struck: ["y:drivers"] })
      .map((to) => ({ path: ["report"], to })),
    fc.constantFrom<unknown>([["a"], ["b"]], [["c"]]).map((to) => ({ path: ["models", "y", "terms"], to })),
  ),
  { maxLength: 8 },
);
/** Makes the steps into edits, leaving out those that cannot be made where it stands. */
function made(parts: { path: string[]; to: unknown }[]): { edits: Edit[]; after: Study } {
  let after = study;
  const edits: Edit[] = [];
  for (const { path, to } of parts) {
    const list = path.length === 1 && Array.isArray(to) ? (cellAt(after, path) as string[]) : undefined;
    if (list && list.length !== (to as string[]).length) continue;
    const one = edit(after, path, to);
    if (sameData(one.from, one.to)) continue;
    after = applyEdits(after, [one]);
    edits.push(one);
  }
  return { edits, after };
}

describe("edits", () => {
  it("undone by their inverses, in reverse: all that stood before, in its order", () => {
    fc.assert(
      fc.property(steps, (parts) => {
        const { edits, after } = made(parts);
        const back = applyEdits(after, inverseEdits(study, edits));
        expect(sameData(JSON.parse(JSON.stringify(back)), JSON.parse(JSON.stringify(study)))).toBe(true);
        expect(back.factors.map((f) => f.id)).toEqual(["a", "b", "c"]);
        // And done again by the inverses of those.
        const again = applyEdits(back, inverseEdits(after, inverseEdits(study, edits)));
        expect(sameData(JSON.parse(JSON.stringify(again)), JSON.parse(JSON.stringify(after)))).toBe(true);
      }),
    );
  });
  it("leave what they do not speak of the same thing as before", () => {
    const after = applyEdits(study, [edit(study, ["trials", "t2", "results", "y"], 9)]);
    expect(after.trials[0]).toBe(study.trials[0]);
    expect(after.factors).toBe(study.factors);
    expect(study.trials[1].results.y).toBe(2);
    expect(after.trials[1].results.y).toBe(9);
  });
  it("are refused where something else stands by now, and nothing is half done", () => {
    const one = edit(study, ["trials", "t1", "results", "y"], 5);
    const meanwhile = applyEdits(study, [edit(study, ["trials", "t1", "results", "y"], 7)]);
    expect(refusal(() => applyEdits(meanwhile, [one]))).toMatch(/\.$/);
    expect(meanwhile.trials[0].results.y).toBe(7);
    const gone = applyEdits(study, [edit(study, ["trials", "t1"], null)]);
    expect(refusal(() => applyEdits(gone, [one]))).not.toBe("");
  });
  it("a new order must hold the same members", () => {
    const order = (to: string[]): Edit => ({ path: ["factors"], from: ["a", "b", "c"], to });
    expect(applyEdits(study, [order(["c", "a", "b"])]).factors.map((f) => f.id)).toEqual(["c", "a", "b"]);
    expect(refusal(() => applyEdits(study, [order(["c", "a"])]))).toMatch(/same members/);
    expect(refusal(() => applyEdits(study, [order(["c", "a", "q"])]))).toMatch(/same members/);
  });
  it("what was taken out of the middle comes back there", () => {
    const out = edit(study, ["trials", "t2"], null);
    const [back] = inverseEdits(study, [out]);
    expect(back.at).toBe(1);
    expect(applyEdits(applyEdits(study, [out]), [back]).trials.map((t) => t.id)).toEqual(["t1", "t2", "t3"]);
  });
  it("of a plan that was adopted are its waves and trials alone", () => {
    const after: Study = {
      ...study,
      waves: [...study.waves, { ...study.waves[0], id: "w2", name: "Second" }],
      trials: [...study.trials, { ...study.trials[0], id: "t9", wave: "w2" }],
    };
    const edits = additions(study, after);
    expect(edits.map((e) => e.path)).toEqual([
      ["waves", "w2"],
      ["trials", "t9"],
    ]);
    expect(sameData(applyEdits(study, edits), after)).toBe(true);
  });
});

describe("plain data", () => {
  it.each<[unknown, unknown, boolean]>([
    [{ a: 1, b: [1, 2] }, { b: [1, 2], a: 1 }, true],
    [{ a: 1, b: null }, { a: 1 }, true],
    [undefined, null, true],
    [[1, 2], [2, 1], false],
    [[], {}, false],
    [{ a: 0 }, { a: null }, false],
    [1, "1", false],
  ])("%j and %j are the same: %s", (a, b, same) => {
    expect(sameData(a, b)).toBe(same);
    expect(sameData(b, a)).toBe(same);
  });
});
