// A kind of response is a folder: added to the registries of its facets, it is read, imported, planned, fitted,
// optimised, confirmed and exported at the doors without a line elsewhere. Its figures are those of the same study
// whose response is a value, the middle of both ends.

import { describe, expect, expectTypeOf, it, vi } from "vitest";
import type { CensoredValue, GradedResult, ResultKind } from "./result";

vi.mock(import("./results"), async (original) => {
  const { RESULT_KINDS: known, kindAmong, ...rest } = await original();
  const { gap } = await import("../testing/toy-kind");
  const RESULT_KINDS = [...known, gap];
  return { ...rest, kindAmong, RESULT_KINDS, kindOf: kindAmong(RESULT_KINDS) };
});
vi.mock(import("./laws"), async (original) => {
  const { KIND_LAWS: known } = await original();
  const { gapLaw } = await import("../testing/toy-law");
  const { kindOf } = await import("./results");
  const KIND_LAWS = { ...known, gap: gapLaw };
  return { KIND_LAWS, kindLaw: (about) => KIND_LAWS[kindOf(about).id as keyof typeof KIND_LAWS] };
});

const { ledgerCsv } = await import("../formats/csv");
const { importEdits, previewImport } = await import("../formats/sheet-import");
const { readAnswer } = await import("../programs/answer");
const { ask, finish } = await import("../questions/ask");
const { reviseStudy } = await import("../study/revise");
const { parseStudy } = await import("../study/validate");
const { corners, plainStudy, refusal } = await import("../testing/studies");

const GOAL = { aim: "raise", low: 2, high: 7 } as const;
const of = (measured: "gap" | "value", result: (middle: number, i: number) => number | number[]) => {
  const settings = [...corners(3), ...corners(3)];
  const middles = settings.map((s, i) => 4 + 1.5 * (s.a as number) - 0.75 * (s.b as number) + ((i * 7) % 5) / 8);
  return parseStudy({
    ...plainStudy(3, { responses: [{ id: "y", unit: "mm", measured, noise: 0.2, smallest: 0.5, goal: GOAL }] }),
    waves: [{ id: "w1" }, { id: "w2", purpose: "confirm" }],
    trials: [
      ...settings.map((s, i) => ({
        id: `t${i + 1}`,
        wave: "w1",
        state: "done" as const,
        settings: s,
        results: { y: result(middles[i], i) },
      })),
      ...[5.875, 6.25, 6.125].map((v, i) => ({
        id: `c${i + 1}`,
        wave: "w2",
        state: "done" as const,
        kind: "confirm" as const,
        use: false,
        settings: { a: 1, b: -1, c: 0 },
        results: { y: result(v, i) },
      })),
    ],
    models: [{ response: "y", terms: [["a"], ["b"]] }],
  });
};
// All of them eighths: the middle of both ends is the value to the last digit.
const pairs = of("gap", (v, i) => [v - (1 + (i % 3)) / 4, v + (1 + (i % 3)) / 4]);
const values = of("value", (v) => v);

/** All numbers of an answer, in their places. */
const figuresOf = (answer: unknown): [string, number][] => {
  if (typeof answer === "number") return [["", answer]];
  if (answer === null || typeof answer !== "object") return [];
  return Object.entries(answer).flatMap(([k, v]) => figuresOf(v).map(([p, n]): [string, number] => [`${k}/${p}`, n]));
};
function alike(one: unknown, other: unknown): void {
  const [a, b] = [figuresOf(one), figuresOf(other)];
  expect(a.length).toBeGreaterThan(4);
  expect(a.map(([p]) => p)).toEqual(b.map(([p]) => p));
  for (const [i, [place, v]] of a.entries()) expect(v, place).toBeCloseTo(b[i][1], 8);
}

describe("a kind of response added to the registries alone", () => {
  it("stands in a study, which refuses what is no result of it", () => {
    expect(pairs.trials[0].results.y).toHaveLength(2);
    const wrong = { ...pairs, trials: [{ ...pairs.trials[0], results: { y: [3] } }] };
    expect(refusal(() => parseStudy(wrong))).toMatch(/t1|results/);
  });
  it("is read as programs say it", () => {
    expect(readAnswer(pairs, "y=3.25..3.75").results).toEqual({ y: [3.25, 3.75] });
    expect(readAnswer(pairs, '{"y": [3.25, 3.75]}').results).toEqual({ y: [3.25, 3.75] });
    expect(refusal(() => readAnswer(pairs, "y=3.25"))).toContain("3.25");
  });
  it("is exported, and imported as it left", () => {
    const sheet = ledgerCsv(pairs);
    expect(sheet.split("\n")[1]).toContain("..");
    expect(previewImport(pairs, sheet).values).toEqual([]);
    const empty = parseStudy({
      ...pairs,
      trials: pairs.trials.map((t) => ({ ...t, state: "planned", results: {} })),
    });
    const back = reviseStudy(empty, importEdits(empty, previewImport(empty, sheet)));
    expect(back.trials.map((t) => t.results)).toEqual(pairs.trials.map((t) => t.results));
    expect(previewImport(empty, sheet.replace(/[\d.]+\.\.[\d.]+/, "wide")).problems).toHaveLength(1);
  });
  it("is planned for, fitted, optimised and confirmed like the middles themselves", () => {
    const planned = {
      terms: "main",
      budget: 12,
      replicates: 1,
      centre: 2,
      blocks: 1,
      power: 0.8,
      alpha: 0.05,
      seed: 1,
    };
    for (const [question, input] of [
      ["summaries", { ask: planned }],
      ["fit", { response: "y", terms: [["a"], ["b"]] }],
      ["setpoint", { draws: 400, seed: 1 }],
      ["verdict", {}],
    ] as const) {
      const asked = (study: typeof pairs) => finish(ask(question, study, input as never));
      alike(asked(pairs), asked(values));
    }
  });
});

describe("kinds to come", () => {
  it("have results that the contract of a kind holds", () => {
    expectTypeOf<ResultKind<GradedResult>["value"]>().parameter(0).toEqualTypeOf<GradedResult | null | undefined>();
    expectTypeOf<ResultKind<number | CensoredValue>["text"]>().returns.toBeString();
  });
});
