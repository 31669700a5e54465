import { describe, expect, it } from "vitest";
import { readConfidence } from "../formats/phrases";
import { ask, finish } from "../questions/ask";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { significance } from "./coding";
import { doubtful, violations } from "./region";
import { parseStudy } from "./validate";

const study = parseStudy({
  ...plainStudy(0),
  factors: [
    {
      id: "heat",
      name: "Heat",
      unit: "°C",
      kind: "continuous",
      low: 140,
      high: 160,
      hardLow: 130,
      hardHigh: 170,
      step: 5,
    },
    { id: "dose", name: "Dose", kind: "continuous", low: 1, high: 3 },
    { id: "kind", name: "Kind", kind: "categorical", levels: ["p", "q"] },
  ],
  region: { limits: [], forbidden: [{ kind: ["q"], dose: { from: 2.5 } }] },
});

/** What settings break, and what is asked of them, in words. */
const said = (...of: Parameters<typeof violations>): string[] => violations(...of).map((v) => messageText("places", v));
const asked = (...of: Parameters<typeof doubtful>): string | undefined => {
  const doubt = doubtful(...of);
  return doubt && messageText("places", doubt);
};

describe("what lies outside is said", () => {
  it("hard limits, ranges without them, steps and the region, each in a sentence", () => {
    expect(violations(study, { heat: 150, dose: 2, kind: "p" })).toEqual([]);
    expect(violations(study, { heat: 165, dose: 2, kind: "p" })).toEqual([]);
    expect(said(study, { heat: 900, dose: 3.5, kind: "p" })).toEqual([
      "Heat 900 °C lies above its hard limit, 170 °C.",
      "Dose 3.5 lies above its range, 3.",
    ]);
    expect(said(study, { heat: 152, dose: 2.75, kind: "q" })).toEqual([
      "Heat 152 °C is not on its steps of 5 °C from 140.",
      "It breaks what the region asks: Kind is q and Dose is at least 2.5.",
    ]);
    expect(violations(study, { heat: 152, dose: 2, kind: "q" }, false)).toEqual([]);
  });
  it("a setting as run is doubted past a hard limit, or half a range past a range, and nowhere nearer", () => {
    const [heat, dose, kind] = study.factors;
    expect(asked(heat, 900)).toMatch(/^Heat 900 °C lies above its hard limit, 170 °C: was it really run there\?/);
    expect(doubtful(heat, 168)).toBeUndefined();
    expect(asked(dose, 4.1)).toMatch(/^Dose 4\.1 lies far above its range, 3:/);
    expect(doubtful(dose, 3.9)).toBeUndefined();
    expect(doubtful(kind, "p")).toBeUndefined();
  });
  it("an appraisal names planned trials that stand outside, and how many more do", () => {
    const at = (a: number) =>
      finish(
        ask("appraise", withTrials(plainStudy(2), [...corners(2), { a, b: 0 }, { a, b: 1 }, { a: 0, b: 0 }]), {}),
      ) as { readings: { text: string }[] };
    expect(at(1.5).readings.map((r) => r.text)).toContain(
      "Trial 5 stands outside: a 1.5 lies above its range, 1. So does 1 other trial.",
    );
    expect(at(1).readings.filter((r) => r.text.includes("outside"))).toEqual([]);
  });
  it("predictions carry it", () => {
    const fitted = parseStudy({
      ...withTrials(plainStudy(2), [...corners(2), ...corners(2)], [1, 2, 3, 5, 1.1, 2.1, 3.1, 5.2]),
      models: [{ response: "y", terms: [["a"], ["b"]] }],
    });
    const predicted = (at: object) =>
      finish(ask("predict", fitted, { at })) as { inRegion: boolean; violates: string[] };
    expect(predicted({ a: 0.5, b: 0 })).toMatchObject({ inRegion: true, violates: [] });
    expect(predicted({ a: 1.5, b: 0 })).toMatchObject({
      inRegion: false,
      violates: ["a 1.5 lies above its range, 1."],
    });
  });
});

describe("confidence", () => {
  it("is read as people write it, and its level has no dust", () => {
    for (const text of ["95", "95 %", "0.95", "95,0"]) expect(readConfidence(text)).toEqual({ ok: true, value: 0.95 });
    for (const text of ["12", "100", "", "high", "-95"]) expect(readConfidence(text).ok).toBe(false);
    // 1 − 0.95 is 0.050000000000000044 in binary.
    expect(significance({ confidence: 0.95 })).toBe(0.05);
    expect(significance({ confidence: 0.999 })).toBe(0.001);
  });
});
