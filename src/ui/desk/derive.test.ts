import { describe, expect, it } from "vitest";
import { type Edit, edit, fitModel, parseStudy, reviseStudy, type Study, termKey } from "@/core";
import { fittedOf } from "./derive";

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
const revised = (edits: Edit[]): Study => reviseStudy(study, edits);
const of = (s: Study, response: string) => {
  const result = fittedOf(s, response);
  if (!result.ok) throw new Error(result.reason);
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
    // Back again: what was there is not asked for twice in a row, but the figures are the same.
    expect(of(study, "y").fit.terms.map(termKey)).toEqual(["a", "b"]);
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
    const result = fittedOf(bare, "y");
    expect(result.ok).toBe(false);
    expect(result.ok ? "" : result.reason).toMatch(/no results/);
  });
});
