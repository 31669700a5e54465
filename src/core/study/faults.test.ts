import { describe, expect, it } from "vitest";
import { parseStudy, type StudyFault, studyFaults } from "./validate";

const whole = {
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: 0, high: 10 })),
  responses: [{ id: "y" }],
  waves: [{ id: "w" }],
  trials: [1, 2, 3, 4].map((i) => ({ id: `t${i}`, wave: "w", settings: { a: i, b: i }, results: { y: i } })),
};
const places = (faults: StudyFault[]): string[] => faults.map((f) => f.path.join("."));
/** The trials with some of them changed. */
const trials = (changes: Record<number, object>): object[] => whole.trials.map((t, i) => ({ ...t, ...changes[i] }));

describe("every fault of a study file at once", () => {
  it("none of a whole one, which is not touched by looking", () => {
    const before = JSON.stringify(whole);
    expect(studyFaults(whole)).toEqual([]);
    expect(JSON.stringify(whole)).toBe(before);
  });
  it("of its shape, each where it stands", () => {
    const faults = studyFaults({
      ...whole,
      factors: [{ id: "a", kind: "continuous", low: "cold", high: 10 }],
      responses: [{ id: "y", importance: "much" }],
      trials: trials({ 2: { wave: 7 } }),
    });
    expect(places(faults)).toEqual(["factors.0.low", "responses.0.importance", "trials.2.wave"]);
  });
  it("between its parts, numbered as they stand in the file though those before them are set aside", () => {
    const file = {
      ...whole,
      trials: trials({
        0: { settings: { a: 1, b: 1, q: 1 } },
        2: { wave: "nowhere" },
        3: { settings: { a: 1, b: "warm" } },
      }),
    };
    const faults = studyFaults(file);
    expect(places(faults).map((p) => p.split(".").slice(0, 2).join("."))).toEqual(["trials.0", "trials.2", "trials.3"]);
    expect(faults[0].message).toContain("“q”");
    expect(faults[1].message).toContain("nowhere");
    // The first of them is what reading the file says.
    expect(() => parseStudy(file)).toThrow(faults[0].message);
  });
  it("with those of other parts, and without a second telling of one", () => {
    const faults = studyFaults({
      ...whole,
      factors: [...whole.factors, { id: "a", kind: "continuous", low: 0, high: 1 }],
      models: [{ response: "z", terms: [["a"]] }],
      setpoint: { settings: { a: "high" } },
    });
    expect(new Set(places(faults)).size).toBe(faults.length);
    expect(faults.length).toBeGreaterThanOrEqual(3);
    expect(new Set(faults.map((f) => f.path[0]))).toEqual(new Set(["factors", "models", "setpoint"]));
  });
  it.each<[unknown, RegExp]>([
    [null, /study/i],
    ["text", /study/i],
    [{ format: "another" }, /study/i],
    [{ ...whole, version: 99 }, /newer/],
  ])("of what is no study of this version there is one: %j", (input, why) => {
    const faults = studyFaults(input);
    expect(faults).toHaveLength(1);
    expect(faults[0].message).toMatch(why);
  });
  it("hundreds of them end, in their order", () => {
    const many = Array.from({ length: 300 }, (_, i) => ({ id: `t${i}`, wave: "gone", settings: { a: 1, b: 1 } }));
    const faults = studyFaults({ ...whole, trials: many });
    expect(faults).toHaveLength(200);
    expect(places(faults).slice(0, 3)).toEqual(["trials.0.wave", "trials.1.wave", "trials.2.wave"]);
  });
});
