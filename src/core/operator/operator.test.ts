import { describe, expect, it } from "vitest";
import { reviseStudy } from "../study/revise";
import { parseStudy } from "../study/validate";
import { refusal } from "../testing/studies";
import { messageText } from "../words/answers";
import { nextToRun, settingChanges } from "./changes";
import { doubtOf, likelyRanges } from "./doubt";
import { type BenchEntry, entryEdits, standingAt, trialOf } from "./entry";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Scouring",
  factors: [
    { id: "bowl", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 52, high: 68, change: "hard" },
    { id: "soda", name: "Soda ash", kind: "continuous", low: 0, high: 6 },
    { id: "lot", name: "Wool lot", kind: "categorical", levels: ["hill", "lowland"] },
  ],
  responses: [
    { id: "white", name: "Whiteness", bounds: { min: 0, max: 700 } },
    { id: "grease", name: "Grease", unit: "%", bounds: { min: 0 } },
  ],
  waves: [{ id: "w" }],
  trials: [
    {
      id: "t1",
      wave: "w",
      order: 1,
      state: "done",
      settings: { bowl: 52, soda: 6, lot: "hill" },
      results: { white: 55.7 },
    },
    {
      id: "t2",
      wave: "w",
      order: 2,
      state: "done",
      settings: { bowl: 68, soda: 6, lot: "hill" },
      results: { white: 64.8 },
    },
    {
      id: "t3",
      wave: "w",
      order: 3,
      state: "done",
      settings: { bowl: 68, soda: 0, lot: "hill" },
      results: { white: [60, 61] },
    },
    { id: "t4", wave: "w", order: 4, settings: { bowl: 52, soda: 0, lot: "hill" } },
    { id: "t5", wave: "w", order: 5, settings: { bowl: 68, soda: 0, lot: "lowland" } },
  ],
});
const [white, grease] = study.responses;
const trial = (id: string) => trialOf(study, id);

describe("what has to be set", () => {
  it("is told from the last trial: what moves first, old and new, then what stays", () => {
    expect(settingChanges(study, trial("t1"), trial("t4")).map((c) => [c.factor.id, c.from, c.to, c.changes])).toEqual([
      ["soda", 6, 0, true],
      ["bowl", 52, 52, false],
      ["lot", "hill", "hill", false],
    ]);
    // What was really set is where the machine stands.
    const asRun = { ...trial("t1"), asRun: { bowl: 53 } };
    expect(settingChanges(study, asRun, trial("t4"))[0]).toMatchObject({ from: 53, to: 52, changes: true });
    expect(settingChanges(study, undefined, trial("t1")).every((c) => c.changes && c.from === undefined)).toBe(true);
  });
  it("is set anew where a set-up begins, even at the same setting, and only what is hard to change", () => {
    const with2 = (setups: readonly number[]) =>
      settingChanges(study, { ...trial("t1"), setup: setups[0] }, { ...trial("t4"), setup: setups[1] }).map((c) => [
        c.factor.id,
        c.changes,
        c.reset,
      ]);
    expect(with2([1, 2])).toEqual([
      ["bowl", false, true],
      ["soda", true, false],
      ["lot", false, false],
    ]);
    expect(with2([1, 1]).every(([, , reset]) => reset === false)).toBe(true);
  });
  it("is next in run order, or by least change, a hard factor last", () => {
    expect(nextToRun(study, trial("t3"), false)?.id).toBe("t4");
    // t4 moves the hard bowl from where t3 stands, t5 the lot alone.
    expect(nextToRun(study, trial("t3"), true)?.id).toBe("t5");
    expect(nextToRun(study, undefined, true)?.id).toBe("t4");
    const over = parseStudy({ ...study, trials: study.trials.map((t) => ({ ...t, state: "done" })) });
    expect(nextToRun(over, trial("t3"), true)).toBeUndefined();
  });
});

describe("a doubtful entry", () => {
  const said = (response: typeof white, value: number): string => {
    const doubt = doubtOf(study, response, value, "t4");
    return doubt ? messageText("doubts", doubt) : "";
  };
  it.each<[typeof white, number, string]>([
    // The others: 55.7, 64.8 and the mean of 60 and 61.
    [white, 621, "Typed 621; the others lie between 55.7 and 64.8. Did you mean 62.1?"],
    [white, 6.21, "Typed 6.21; the others lie between 55.7 and 64.8. Did you mean 62.1?"],
    [white, -62, "Typed −62; it cannot be below 0. Did you mean 62?"],
    [white, 7000, "Typed 7000; it cannot be above 700. Is that so?"],
    [white, 350, "Typed 350; the others lie between 55.7 and 64.8. Is that so?"],
    // Within one and a half spans of the others: 64.8 + 1.5 · 9.1 = 78.45.
    [white, 78.4, ""],
    [white, 78.5, "Typed 78.5; the others lie between 55.7 and 64.8. Is that so?"],
    [white, 60, ""],
    // Nothing to compare with but what is possible at all.
    [grease, 400, ""],
    [grease, -0.5, "Typed −0.5; it cannot be below 0 %. Is that so?"],
  ])("%o %d", (response, value, words) => expect(said(response, value)).toBe(words));
  it("is compared with other trials, not with the one it is typed for", () => {
    const about = doubtOf(study, white, 621, "t1");
    expect(about && messageText("doubts", about)).toBe(
      "Typed 621; the first trials gave 64.8 and 60.5. Did you mean 62.1?",
    );
    expect(doubtOf(study, white, 64, "t1")).toBeUndefined();
  });
  it("before there are others is compared with what the aim and the noise let expect, from the first trial on", () => {
    const first = parseStudy({
      ...study,
      trials: study.trials.map((t) => ({ ...t, state: "planned" as const, results: {} })),
    });
    const raised = { ...white, bounds: undefined, noise: 1, goal: { aim: "raise" as const, low: 58, high: 66 } };
    // Ten times the noise is more than the eight between the limits: five of it to either side, 8 to 116.
    const said = (value: number): string => {
      const doubt = doubtOf(first, raised, value, "t1");
      return doubt ? messageText("doubts", doubt) : "";
    };
    expect(said(40)).toBe("");
    expect(said(621)).toBe("Typed 621; nothing below 8 or above 116 was expected. Did you mean 62.1?");
    // A bench is told where results are expected, and not what is wanted of them.
    const { goal: _goal, ...watched } = raised;
    const quiet = { ...watched, goal: { aim: "watch" as const } };
    expect(doubtOf(first, quiet, 621, "t1")).toBeUndefined();
    expect(doubtOf(first, quiet, 621, "t1", likelyRanges({ ...first, responses: [raised] })[raised.id])?.code).toBe(
      "unexpected",
    );
  });
});

describe("entries", () => {
  const entered = (id: string, entry: BenchEntry) => trialOf(reviseStudy(study, entryEdits(study, id, entry)), id);
  it("go into their cells: a first result makes a trial run, a reason stands with what failed", () => {
    expect(entered("t4", { cell: "results", of: "white", value: [60, null], was: null })).toMatchObject({
      state: "done",
      results: { white: [60, null] },
    });
    expect(entered("t4", { cell: "asRun", of: "bowl", value: 53, was: null }).asRun).toEqual({ bowl: 53 });
    expect(entered("t4", { cell: "note", value: "foam", was: "" }).note).toBe("foam");
    expect(entered("t4", { cell: "state", value: "failed", was: "planned", reason: "belt slipped" })).toMatchObject({
      state: "failed",
      why: "belt slipped",
    });
    const at = "2026-11-26T10:42:00.000Z";
    expect(entered("t4", { cell: "setUp", value: at, was: null }).setUp).toBe(at);
    expect(entered("t4", { cell: "setUp", value: null, was: at }).setUp).toBeUndefined();
  });
  it("say what stands in their cell", () => {
    expect(standingAt(study, "t3", { cell: "results", of: "white", value: 1, was: null })).toEqual([60, 61]);
    expect(standingAt(study, "t4", { cell: "asRun", of: "bowl", value: 1, was: null })).toBeNull();
    expect(standingAt(study, "t4", { cell: "state", value: "done", was: "planned" })).toBe("planned");
    expect(refusal(() => standingAt(study, "t9", { cell: "note", value: "", was: "" }))).toBe(
      "There is no trial “t9” in this study.",
    );
  });
});
