// Whatever stands in a study is written as a person types it, and read back as what it was.
import fc, { type Arbitrary } from "fast-check";
import { describe, expect, it } from "vitest";
import { forbiddenText, limitText } from "../study/constraint";
import type { Factor, Forbidden, Goal, Limit } from "../study/schema";
import { cat, cont, studyOf } from "../testing/studies";
import { goalText, rangeText, readGoal, readRange, readRegion, readShare, readSpan } from "./phrases";

const number = fc.integer({ min: -99999, max: 99999 }).map((v) => v / 1000 + 0);
const pair = fc
  .tuple(number, number)
  .filter(([a, b]) => a !== b)
  .map(([a, b]): [number, number] => [Math.min(a, b), Math.max(a, b)]);

/** Holds an assertion for any value. */
const always = <T>(values: Arbitrary<T>, assertion: (value: T) => void): void =>
  fc.assert(
    fc.property(values, (v) => {
      assertion(v);
    }),
    { numRuns: 300 },
  );

describe("goals", () => {
  const goal = fc.oneof(
    pair.chain(([low, high]) =>
      fc.constantFrom<Goal>({ aim: "raise", low, high }, { aim: "lower", low, high }, { aim: "within", low, high }),
    ),
    fc
      .tuple(pair, fc.integer({ min: 0, max: 1000 }), fc.constantFrom("hit" as const, "within" as const))
      .map(([[low, high], share, aim]): Goal => {
        const target = Number((low + ((high - low) * share) / 1000).toPrecision(10));
        return { aim, low, high, target: Math.min(high, Math.max(low, target)) };
      }),
  );
  it("go out as text and come back", () =>
    always(goal, (g) => expect(readGoal(g.aim, goalText(g))).toEqual({ ok: true, value: g })));
  it("of a share may be percentages, both or the last for both", () => {
    const share = { measured: "share" as const };
    for (const text of ["8 % to 2 %", "8 to 2 %", "8%–2%", "0.08 to 0.02"])
      expect(readGoal("lower", text, undefined, share)).toEqual({
        ok: true,
        value: { aim: "lower", low: 0.02, high: 0.08 },
      });
    expect(readGoal("within", "40 to 60 % aim 50 %", undefined, share)).toMatchObject({
      value: { low: 0.4, target: 0.5, high: 0.6 },
    });
    // Of a response in percent the sign is none of its number.
    expect(readGoal("lower", "8 % to 2 %")).toMatchObject({ ok: false });
    expect([readShare("6 %"), readShare("0.06"), readShare(""), readShare("six")]).toEqual([
      0.06,
      0.06,
      null,
      undefined,
    ]);
  });
  it("keep their weights when only limits are typed again", () => {
    const before: Goal = { aim: "hit", low: 1, target: 2, high: 4, lowWeight: 2, highWeight: 0.5 };
    expect(readGoal("hit", "1 to 5 aim 3", before)).toEqual({ ok: true, value: { ...before, high: 5, target: 3 } });
    expect(readGoal("raise", "1 to 5", { aim: "raise", low: 0, high: 1, weight: 3 })).toEqual({
      ok: true,
      value: { aim: "raise", low: 1, high: 5, weight: 3 },
    });
  });
  it.each([
    ["raise", "5 to 5", /Both limits are 5/],
    ["lower", "14", /is not a pair of limits/],
    ["hit", "1 to 2 aim x", /is not a number/],
    ["within", "1 to 2 aim 7", /must lie between 1 and 2/],
  ] as const)("%s “%s” is refused with how to type it", (aim, text, sentence) => {
    const read = readGoal(aim, text);
    expect(read.ok ? "" : read.sentence).toMatch(sentence);
  });
});

describe("ranges", () => {
  const factor = fc.oneof(
    pair.map(([low, high]) => ({ kind: "continuous" as const, low, high })),
    fc
      .uniqueArray(number, { minLength: 2, maxLength: 6 })
      .map((values) => ({ kind: "discrete" as const, values: values.sort((a, b) => a - b) })),
    fc
      .uniqueArray(fc.constantFrom("hill", "lowland", "moor", "Lot 7", "no. 3", "a-b"), { minLength: 2, maxLength: 5 })
      .map((levels) => ({ kind: "categorical" as const, levels })),
  );
  it("go out as text and come back", () =>
    always(factor, (f) =>
      expect(readRange(rangeText({ id: "x", name: "X", letter: "A", change: "easy", ...f } as Factor))).toEqual({
        ok: true,
        value: f,
      }),
    ));
  it("hard limits too", () =>
    always(pair, ([low, high]) => expect(readSpan(`${low} to ${high}`)).toEqual({ ok: true, value: [low, high] })));
});

describe("the region", () => {
  const study = studyOf([
    cont("a", { name: "Bowl temperature" }),
    cont("b", { name: "Detergent" }),
    cont("c", { name: "Soda ash" }),
    cat("lot", "hill", "lowland", "moor"),
  ]);
  const weight = fc
    .integer({ min: -9999, max: 9999 })
    .filter((v) => v !== 0)
    .map((v) => v / 100);
  const limit = fc
    .tuple(
      fc.uniqueArray(fc.constantFrom("a", "b", "c"), { minLength: 1, maxLength: 3 }),
      fc.array(weight, { minLength: 3, maxLength: 3 }),
      number,
      fc.boolean(),
    )
    .map(
      ([ids, weights, bound, most]): Limit => ({
        terms: Object.fromEntries(ids.map((id, i) => [id, weights[i]])),
        at: most ? "most" : "least",
        bound,
      }),
    );
  it("limits go out as sentences and come back", () =>
    always(limit, (l) =>
      expect(readRegion(study, limitText(study, l))).toEqual({ ok: true, value: { kind: "limit", limit: l } }),
    ));
  const part = fc.oneof(
    pair.map(([from, to]) => ({ from, to })),
    number.map((from) => ({ from })),
    number.map((to) => ({ to })),
  );
  const forbidden = fc
    .tuple(
      fc.option(fc.uniqueArray(fc.constantFrom("hill", "lowland", "moor"), { minLength: 1, maxLength: 2 })),
      fc.uniqueArray(fc.constantFrom("a", "b", "c"), { minLength: 1, maxLength: 3 }),
      fc.array(part, { minLength: 3, maxLength: 3 }),
    )
    .map(
      ([levels, ids, parts]): Forbidden => ({
        ...(levels ? { lot: levels } : {}),
        ...Object.fromEntries(ids.map((id, i) => [id, parts[i]])),
      }),
    );
  it("forbidden combinations go out as sentences and come back", () =>
    always(forbidden, (f) =>
      expect(readRegion(study, forbiddenText(study, f))).toEqual({
        ok: true,
        value: { kind: "forbidden", forbidden: f },
      }),
    ));
  it.each([
    ["Detergent", /cannot be read/],
    ["Steam ≤ 3", /names no factor/],
    ["lot ≤ 3", /is a category; forbid a combination instead/],
    ["Detergent ≤ lots", /is not a number/],
    ["lot is blue", /is not a level of lot; its levels are hill, lowland, moor/],
    ["Steam is 4", /There is no factor called “Steam”/],
    ["Detergent is wet", /cannot be read for Detergent/],
    ["≤ 4", /names no factor/],
  ])("“%s” is refused with how to write it", (text, sentence) => {
    const read = readRegion(study, text);
    expect(read.ok ? "" : read.sentence).toMatch(sentence);
  });
});
