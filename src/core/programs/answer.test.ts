import { describe, expect, it } from "vitest";
import { reviseStudy } from "../study/revise";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { checkAnswer, outcomeEdits, readAnswer } from "./answer";
import { askedOf } from "./asked";

const study: Study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Peat",
  factors: [
    { id: "air", name: "Air inlet", unit: "°C", kind: "continuous", low: 200, high: 400 },
    { id: "fan", name: "Fan", kind: "categorical", levels: ["slow", "fast"] },
  ],
  responses: [
    { id: "moist", name: "Moisture" },
    { id: "fuel", name: "Fuel use", unit: "kg/t" },
    { id: "spread", spread: { of: "moist", from: "repeats" } },
  ],
  waves: [{ id: "w1" }],
  trials: [
    { id: "t1", wave: "w1", settings: { air: 350, fan: "slow" } },
    { id: "t2", wave: "w1", settings: { air: 200, fan: "fast" }, state: "done", results: { moist: 12 } },
  ],
});
const refusal = (text: string): string => {
  try {
    readAnswer(study, text);
  } catch (error) {
    return (error as Error).message;
  }
  throw new Error(`taken: ${text}`);
};

describe("what a program is told", () => {
  it("settings in natural and coded units, as the trial was planned", () => {
    expect(askedOf(study, study.trials[0])).toEqual({
      trial: "t1",
      order: 1,
      settings: { air: 350, fan: "slow" },
      // (350 − 300) / 100
      coded: { air: 0.5, fan: "slow" },
      factors: [
        { id: "air", letter: "A", name: "Air inlet", unit: "°C" },
        { id: "fan", letter: "B", name: "Fan" },
      ],
    });
  });
});

describe("what a program answers", () => {
  it.each([
    ["lines by id", "moist=11.5\nfuel=80\n"],
    ["lines by name, in any order, with blanks", "\r\n Fuel use = 80 \r\n\r\nMoisture = 11.5"],
    ["one object by id", '{"moist": 11.5, "fuel": 80}'],
    ["one object over several lines", '{\n  "Moisture": 11.5,\n  "fuel": 80\n}\n'],
    ["results within an object", '{"results":{"moist":11.5,"fuel":80}}'],
  ])("%s", (_, text) => {
    expect(readAnswer(study, text)).toEqual({ results: { moist: 11.5, fuel: 80 } });
  });
  it("several values, as a list or with blanks between", () => {
    for (const text of ["moist=[1.5, 2.25]\nfuel=8e1", "moist=1.5 2.25\nfuel=80", '{"moist":[1.5,2.25],"fuel":80}'])
      expect(readAnswer(study, text).results).toEqual({ moist: [1.5, 2.25], fuel: 80 });
  });
  it("what was really set, and a remark", () => {
    const text = '{"results":{"moist":1,"fuel":2},"asRun":{"air":348,"fan":"slow"},"note":"damper stuck"}';
    expect(readAnswer(study, text)).toEqual({
      results: { moist: 1, fuel: 2 },
      asRun: { air: 348, fan: "slow" },
      note: "damper stuck",
    });
  });
  it.each([
    ["nothing", "  \n", "The answer is empty; print lines of name=value, or one JSON object."],
    [
      "rubbish",
      "Segmentation fault",
      "The answer “Segmentation fault” is neither lines of name=value nor one JSON object.",
    ],
    ["a list", "[1,2]", "The answer “[1,2]” is neither lines of name=value nor one JSON object."],
    ["torn JSON", '{"moist": 11', 'The answer “{"moist": 11” is neither lines of name=value nor one JSON object.'],
    ["NaN in a line", "moist=nan\nfuel=1", 'The answer gives Moisture as "nan", which is no number.'],
    ["nothing in a line", "moist=\nfuel=1", 'The answer gives Moisture as "", which is no number.'],
    ["null", '{"moist":null,"fuel":1}', "The answer gives Moisture as null, which is no number."],
    ["infinity", "moist=1e999\nfuel=1", 'The answer gives Moisture as "1e999", which is no number.'],
    ["a hole in a list", '{"moist":[1,null],"fuel":1}', "The answer gives Moisture as [1,null], which is no number."],
    [
      "what may be one number or two",
      "moist=600 610\nfuel=1",
      'The answer gives Moisture as "600 610", which is no number.',
    ],
    ["a decimal comma", "moist=1,5\nfuel=1", 'The answer gives Moisture as "1,5", which is no number.'],
    ["an empty list", '{"moist":[],"fuel":1}', "The answer gives Moisture as [], which is no number."],
    [
      "a name that is not in the study",
      "moist=1\nfuel=2\nmoisture2=3",
      "The answer names “moisture2”, which is no response of this study; its responses are moist, fuel.",
    ],
    [
      "what is worked out and not measured",
      "moist=1\nfuel=2\nspread=3",
      "The answer names “spread”, which is no response of this study; its responses are moist, fuel.",
    ],
    ["a response left out", "moist=1", "The answer says nothing of fuel; each response of the study is needed."],
    [
      "a response twice",
      "moist=1\nfuel=2\nmoist=3",
      "The answer says Moisture twice; say it once, several values as a list.",
    ],
    [
      "by id and by name",
      "moist=1\nfuel=2\nMoisture=1",
      "The answer says Moisture twice; say it once, several values as a list.",
    ],
    [
      "a key twice",
      '{"moist":1,"fuel":2,"moist":3}',
      "The answer says moist twice; say it once, several values as a list.",
    ],
    [
      "two answers",
      '{"moist":1,"fuel":2}\n{"moist":1,"fuel":2}',
      "The program answered more than once; print one answer a trial.",
    ],
  ])("refuses %s in one sentence", (_, text, sentence) => {
    expect(refusal(text)).toBe(sentence);
  });
  it("refuses settings that are none, more than a trial holds and more than is looked at", () => {
    expect(refusal('{"results":{"moist":1,"fuel":2},"asRun":{"fan":"gale"}}')).toMatch(/gale/);
    expect(refusal(`{"moist":[${Array(5001).fill(1).join()}],"fuel":2}`)).toBe(
      "The answer gives 5,001 values of Moisture; a trial holds at most 5,000.",
    );
    expect(readAnswer(study, `{"moist":[${Array(5000).fill(1).join()}],"fuel":2}`).results.moist).toHaveLength(5000);
    expect(refusal("x".repeat(1_000_001))).toMatch(/1,000,000 characters/);
  });
  it("reads equal names in different objects, and names with quotes", () => {
    expect(refusal('{"results":{"moist":1,"fuel":2},"results":{"moist":3,"fuel":4}}')).toMatch(/results twice/);
    expect(readAnswer(study, '{"results":{"moist":1,"fuel":2},"note":"\\"moist\\": {\\"moist\\":"}').note).toBe(
      '"moist": {"moist":',
    );
  });
  it("as data it is held to the same", () => {
    expect(() => checkAnswer(study, { results: { moist: 1 } })).toThrow(/says nothing of fuel/);
    expect(checkAnswer(study, { results: { Moisture: [1, 2], fuel: 3 } }).results).toEqual({ moist: [1, 2], fuel: 3 });
  });
});

describe("what becomes of a trial", () => {
  it("its results, settings as run and remark; what was entered meanwhile stays", () => {
    const answer = { results: { moist: 1, fuel: 2 }, asRun: { air: 348, fan: "slow" }, note: "n" };
    const after = reviseStudy(
      study,
      outcomeEdits(study, [
        { trial: "t1", answer },
        { trial: "t2", answer },
        { trial: "t1", why: "late" },
      ]),
    );
    expect(after.trials[0]).toMatchObject({ state: "done", results: { moist: 1, fuel: 2 }, note: "n" });
    // A setting that was set as planned is not marked.
    expect(after.trials[0].asRun).toEqual({ air: 348 });
    expect(after.trials[1]).toEqual(study.trials[1]);
  });
  it("a failure keeps its reason", () => {
    const why = `exit code 3; its last words: ${"x".repeat(500)}`;
    const [trial] = reviseStudy(study, outcomeEdits(study, [{ trial: "t1", why }])).trials;
    expect(trial).toMatchObject({ state: "failed", why: why.slice(0, 400), results: {} });
  });
});
