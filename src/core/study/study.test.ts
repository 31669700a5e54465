import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readStudyFile, writeStudyFile } from "../formats/study-file";
import { plainStudy, withTrials } from "../testing/studies";
import { code, decode, isCentre, snap } from "./coding";
import { forbiddenText, limitText } from "./constraint";
import { StudyError } from "./error";
import { allowed, excludedCorners } from "./region";
import type { ContinuousFactor } from "./schema";
import { parseStudy } from "./validate";

/** The example of the study file's documentation, whole. */
const example = JSON.parse(readFileSync(new URL("../testing/contract-example.json", import.meta.url), "utf8"));

const refused = (input: unknown): StudyError => {
  try {
    parseStudy(input);
  } catch (error) {
    if (error instanceof StudyError) return error;
    throw error;
  }
  throw new Error("was not refused");
};
const base = (more: object): object => ({ format: "trialmoor-study", version: 1, title: "x", ...more });
const factor = (more: object = {}): object => ({ id: "a", kind: "continuous", low: 0, high: 10, ...more });

describe("study file", () => {
  it("reads the documented example and writes it back unchanged in meaning", () => {
    const study = parseStudy(example);
    expect(study.factors.map((f) => f.letter)).toEqual(["A", "B", "C", "D"]);
    expect(readStudyFile(writeStudyFile(study))).toEqual(study);
  });
  it("needs only format, version and title", () => {
    const study = parseStudy(base({}));
    expect(study).toMatchObject({ confidence: 0.95, factors: [], trials: [] });
  });
  it("fills names, letters without I, orders and defaults", () => {
    const study = parseStudy(
      base({
        factors: [factor(), factor({ id: "h", letter: "B" }), factor({ id: "c" })],
        responses: [{ id: "y" }],
        waves: [{ id: "w" }],
        trials: [
          { id: "t1", wave: "w", settings: { a: 1, h: 1, c: 1 } },
          { id: "t2", wave: "w", settings: { a: 1, h: 1, c: 1 } },
        ],
      }),
    );
    expect(study.factors.map((f) => [f.name, f.letter])).toEqual([
      ["a", "A"],
      ["h", "B"],
      ["c", "C"],
    ]);
    expect(study.trials.map((t) => [t.standard, t.order, t.state, t.use])).toEqual([
      [1, 1, "planned", true],
      [2, 2, "planned", true],
    ]);
    expect(study.responses[0]).toMatchObject({ name: "y", importance: 1, goal: { aim: "watch" } });
  });
  it.each([
    ["another format", { format: "other", version: 1, title: "x" }, "not-a-study", ["format"]],
    ["a newer version", base({ version: 2 }), "newer-version", ["version"]],
    ["an unknown key", base({ factors: [factor({ colour: 1 })] }), "unknown-key", ["factors", 0, "colour"]],
    ["low not below high", base({ factors: [factor({ low: 10 })] }), "low-not-below-high", ["factors", 0, "low"]],
    ["a step beyond the range", base({ factors: [factor({ step: 11 })] }), "step-too-large", ["factors", 0, "step"]],
    [
      "a duplicate name, whatever its case",
      base({ factors: [factor({ name: "Heat" }), factor({ id: "b", name: "heat" })] }),
      "duplicate",
      ["factors", 1, "name"],
    ],
    [
      "an id used by factor and response",
      base({ factors: [factor()], responses: [{ id: "a", name: "other" }] }),
      "duplicate",
      ["responses", 0, "id"],
    ],
    [
      "one level",
      base({ factors: [{ id: "k", kind: "categorical", levels: ["only"] }] }),
      "bad-shape",
      ["factors", 0, "levels"],
    ],
    [
      "a repeated level",
      base({ factors: [{ id: "k", kind: "categorical", levels: ["p", "p"] }] }),
      "duplicate",
      ["factors", 0, "levels", 1],
    ],
    [
      "an unknown level in a trial",
      base({
        factors: [{ id: "k", kind: "categorical", levels: ["p", "q"] }],
        waves: [{ id: "w" }],
        trials: [{ id: "t", wave: "w", settings: { k: "r" } }],
      }),
      "unknown-level",
      ["trials", 0, "settings", "k"],
    ],
    [
      "an unknown response in results",
      base({ waves: [{ id: "w" }], trials: [{ id: "t", wave: "w", settings: {}, results: { z: 1 } }] }),
      "unknown-id",
      ["trials", 0, "results", "z"],
    ],
    [
      "a run order used twice",
      base({
        waves: [{ id: "w" }],
        trials: [
          { id: "t", wave: "w", order: 3, settings: {} },
          { id: "u", wave: "w", order: 3, settings: {} },
        ],
      }),
      "duplicate",
      ["trials", 1, "order"],
    ],
    [
      "a term named twice",
      base({
        factors: [factor(), factor({ id: "b" })],
        responses: [{ id: "y" }],
        models: [
          {
            response: "y",
            terms: [
              ["a", "b"],
              ["b", "a"],
            ],
          },
        ],
      }),
      "duplicate",
      ["models", 0, "terms", 1],
    ],
    [
      "a squared category",
      base({
        factors: [{ id: "k", kind: "categorical", levels: ["p", "q"] }],
        responses: [{ id: "y" }],
        models: [{ response: "y", terms: [["k", "k"]] }],
      }),
      "category-squared",
      ["models", 0, "terms", 0],
    ],
    [
      "a goal upside down",
      base({ responses: [{ id: "y", goal: { aim: "raise", low: 5, high: 2 } }] }),
      "goal",
      ["responses", 0, "goal", "low"],
    ],
    ["text for a number", base({ factors: [factor({ low: "cold" })] }), "bad-shape", ["factors", 0, "low"]],
    [
      "a category in a limit",
      base({
        factors: [{ id: "k", kind: "categorical", levels: ["p", "q"] }],
        region: { limits: [{ terms: { k: 1 }, at: "most", bound: 1 }] },
      }),
      "category-in-limit",
      ["region", "limits", 0, "terms", "k"],
    ],
    [
      "a hard limit inside the range",
      base({ factors: [factor({ hardLow: 1 })] }),
      "hard-limit",
      ["factors", 0, "hardLow"],
    ],
  ])("refuses %s with code, sentence and path", (_what, input, codeName, path) => {
    const error = refused(input);
    expect([error.code, [...error.path]]).toEqual([codeName, path]);
    expect(error.message).toMatch(/^[^\n]{10,}[.;].*$|\.$/);
  });
  it("refuses text that is not JSON in a sentence", () => expect(() => readStudyFile("a,b\n1,2")).toThrow("not JSON"));
});

describe("coding", () => {
  const f = plainStudy(1, { factors: [{ id: "a", kind: "continuous", low: 52, high: 68, step: 1 }] })
    .factors[0] as ContinuousFactor;
  it("low is −1, high is +1, both ways", () =>
    expect([code(f, 52), code(f, 60), code(f, 68), decode(f, -1), decode(f, 0.5)]).toEqual([-1, 0, 1, 52, 64]));
  it("log scale codes the logarithm", () =>
    expect(code({ ...f, low: 1, high: 100, scale: "log" }, 10)).toBeCloseTo(0, 15));
  it("snaps to steps from low, inside the range when there are no hard limits", () =>
    expect([snap({ ...f, low: 4, high: 10, step: 4 }, 10), snap({ ...f, step: 0.1, low: 0, high: 1 }, 0.3)]).toEqual([
      8, 0.3,
    ]));
  it("a trial within half a step of the middle is a centre, one a step off is not", () => {
    const study = withTrials(
      plainStudy(2, {
        factors: [
          { id: "a", kind: "continuous", low: 0, high: 5, step: 1 },
          { id: "b", kind: "continuous", low: 0, high: 1 },
        ],
      }),
      [
        { a: 3, b: 0.5 },
        { a: 4, b: 0.5 },
      ],
    );
    expect(study.trials.map((t) => isCentre(study, t))).toEqual([true, false]);
  });
});

describe("region", () => {
  const study = parseStudy(example);
  it("keeps limits and forbidden combinations", () => {
    expect(allowed(study, { temp: 60, dose: 9, passes: 1, lot: "hill" })).toBe(true);
    expect(allowed(study, { temp: 60.1, dose: 9, passes: 1, lot: "hill" })).toBe(false);
    expect(allowed(study, { temp: 64, dose: 4, passes: 1, lot: "lowland" })).toBe(false);
    expect(allowed(study, { temp: 63.9, dose: 4, passes: 1, lot: "lowland" })).toBe(true);
  });
  it("writes them as sentences", () => {
    expect(limitText(study, study.region.limits[0])).toBe("1 × Bowl temperature + 4 × Detergent ≤ 96");
    expect(forbiddenText(study, study.region.forbidden[0])).toBe(
      "Wool lot is lowland and Bowl temperature is 64 to 68",
    );
  });
  // Of 2 × 2 × 3 × 2 corners (passes counted at its ends: 2 × 2 × 2 × 2): hot with high dose breaks the limit (4),
  // hot lowland with low dose is forbidden (2).
  it("counts the corners it excludes", () => expect(excludedCorners(study)).toEqual({ excluded: 6, corners: 16 }));
});
