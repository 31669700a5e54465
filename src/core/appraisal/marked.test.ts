import { describe, expect, it } from "vitest";
import { markedFirst, seesSomething } from "./marked";

const plan = (id: string, cost: number, ratio: number | null, more: object = {}) => ({
  id,
  cost,
  ratio,
  tellsAll: true,
  noErrorDf: false,
  lostTerms: [],
  ...more,
});

describe("plans marked first", () => {
  const plans = [
    plan("p8", 8, 13, { noErrorDf: true }),
    plan("p12", 12, 1.9),
    plan("p16", 16, 1.4),
    plan("p20", 20, 1.5),
    plan("open6", 6, 1, { tellsAll: false, lostTerms: [["a", "b"]] }),
  ];
  it.each([
    [
      "the cheapest that meets the smallest change, and the nearest cheaper one that sees something",
      2,
      ["open6", "p12"],
    ],
    ["a sharper one where less is worth finding", 1.4, ["p12", "p16"]],
    ["the sharpest where none meets it", 0.5, ["p12", "p16"]],
    ["the sharpest where nothing is stated", undefined, ["p12", "p16"]],
  ] as const)("%s", (_, wanted, expected) => expect(markedFirst(plans, wanted)).toEqual(expected));
  it("what tells all before what does not, its own error before a stated noise", () => {
    expect(markedFirst([plan("blind", 8, 0.5, { noErrorDf: true }), plan("own", 10, 2)], 1)).toEqual(["blind", "own"]);
    expect(markedFirst([plan("open", 6, 1, { tellsAll: false })], 2)).toEqual(["open"]);
    expect(markedFirst([plan("none", 6, null)], 2)).toEqual([]);
  });
  it("what the study needs next before any other", () => {
    const follow = { why: { code: "not-run", values: {} } };
    expect(markedFirst([...plans, plan("next", 4, null, { follow })] as never, 2)).toEqual(["next"]);
  });
  it("a plan that sees no effect below six standard deviations sees nothing", () =>
    expect([13, 6, 1, null].map((ratio) => seesSomething({ ratio }))).toEqual([false, true, true, false]));
});
