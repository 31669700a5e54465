import { describe, expect, it } from "vitest";
import { defaultPicks, firstPick, seesSomething } from "./default-picks";

const plan = (id: string, cost: number, ratio: number | null, more: object = {}) => ({
  id,
  cost,
  ratio,
  tellsAll: true,
  noErrorDf: false,
  residualDf: 4,
  lostTerms: [],
  map: [],
  ...more,
});
const [a, b] = [["a"], ["b"]];
const along = (term: string[]) => ({ term, state: "shared", largest: 0.3, with: [] });

describe("the plan to go by first", () => {
  const plans = [
    plan("p8", 8, 13, { noErrorDf: true, residualDf: 0 }),
    plan("p10", 10, 2.6, { residualDf: 2 }),
    plan("p12", 12, 1.9),
    plan("p16", 16, 1.4),
    plan("p20", 20, 1.5),
    plan("open6", 6, 1, { tellsAll: false, lostTerms: [["a", "b"]] }),
  ];
  it.each([
    ["the cheapest that sees the smallest change", 2, "p12", 12, "sees", ["p10", "few-df"]],
    ["a sharper one where less is worth finding", 1.4, "p16", 16, "sees", ["p12", "sees-less"]],
    ["the sharpest where none sees it", 0.5, "p16", 16, "sharpest", ["p12", "sees-less"]],
    ["the cheapest where nothing is stated", undefined, "p12", 12, "cheapest", ["p10", "few-df"]],
  ] as const)("%s", (_, wanted, chosen, cost, by, [cheaper, lacks]) =>
    expect(firstPick(plans, wanted)).toEqual({
      plan: chosen,
      by,
      cost,
      sound: true,
      cheaper: { plan: cheaper, lacks },
    }),
  );
  it("passes over main effects that cannot be told from interactions that may be there, where another tells them", () => {
    const confused = plan("p8", 8, 1.2, { map: [{ ...along(a), state: "lost" }] });
    expect(firstPick([confused, plan("p12", 12, 1, { map: [along(a)] })], undefined)).toMatchObject({
      plan: "p12",
      cheaper: { plan: "p8", lacks: "less-clear" },
    });
    expect(firstPick([confused], undefined)?.plan).toBe("p8");
  });
  it("where effects are left unsaid and nothing is stated, the cheapest that sees three standard deviations", () => {
    const open = { tellsAll: false, lostTerms: [["a", "b"]] };
    expect(firstPick([plan("blunt", 16, 5.1, open), plan("keen", 19, 2, open)], undefined)?.plan).toBe("keen");
  });
  it("at one cost an orthogonal plan, then the sharper: 1.03 σ and clear before 0.99 σ and not", () => {
    const tilted = plan("tilted", 12, 0.99, { map: [along(a), along(b)] });
    expect(firstPick([tilted, plan("clean", 12, 1.03)], 2)?.plan).toBe("clean");
    expect(firstPick([plan("blunt", 12, 1.2), plan("clean", 12, 1.03)], 2)?.plan).toBe("clean");
    // A dearer one is not worth its orthogonality.
    expect(firstPick([tilted, plan("clean", 13, 0.9)], 2)?.plan).toBe("tilted");
  });
  it("where none tells all, among those that keep main effects clearest; own error before a stated noise", () => {
    const open = { tellsAll: false, lostTerms: [["a", "b"]] };
    const chosen = firstPick([plan("leaks", 12, 1, { ...open, map: [along(a)] }), plan("clear", 16, 2, open)], 3);
    expect(chosen).toEqual({
      plan: "clear",
      by: "sees",
      cost: 16,
      sound: false,
      cheaper: { plan: "leaks", lacks: "less-clear" },
    });
    expect(firstPick([plan("blind", 8, 0.5, { noErrorDf: true, residualDf: 0 }), plan("own", 10, 2)], 1)).toMatchObject(
      {
        plan: "own",
        by: "sharpest",
      },
    );
    expect(firstPick([plan("none", 6, null)], 2)).toBeUndefined();
  });
  it("in set-ups with two degrees of freedom between them, before plans that set hard factors anew", () => {
    const strata = (between: number, reset = false) => ({ strata: { between, reset, loose: false } });
    const kept = [plan("one", 8, 2, strata(1)), plan("two", 12, 2, strata(2)), plan("reset", 6, 1, strata(0, true))];
    expect(firstPick(kept, 3)?.plan).toBe("two");
  });
});

describe("plans marked first", () => {
  it("the one to go by last, the nearest cheaper one that sees something before it", () => {
    const plans = [plan("blind", 10, 13), plan("p8", 8, 5, { residualDf: 1 }), plan("p12", 12, 1.9)];
    expect(defaultPicks(plans, firstPick(plans, 2))).toEqual(["p8", "p12"]);
    expect(defaultPicks([], undefined)).toEqual([]);
  });
  it("what the study needs next before any other", () => {
    const next = plan("next", 4, null, { follow: { why: { code: "not-run", values: {} } } });
    const plans = [plan("p12", 12, 1.9), next];
    expect(defaultPicks(plans as never, firstPick(plans as never, 2))).toEqual(["next"]);
  });
  it("a plan that sees no effect below six standard deviations sees nothing", () =>
    expect([13, 6, 1, null].map((ratio) => seesSomething({ ratio }))).toEqual([false, true, true, false]));
});
