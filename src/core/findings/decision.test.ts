import { describe, expect, it } from "vitest";
import { confirmedFact, setpointTested } from "../setpoint/confirm";
import { setpointProblem } from "../setpoint/goals";
import { proposedLimits } from "../study/proposed-limits";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { decisionOf } from "./decision";
import { trailOf } from "./trail";

/** 100 pieces at each corner twice: of a low 10 and 12 spoilt, of a high 2 and 4; b does nothing. */
const spoilt = [10, 2, 12, 4, 12, 4, 10, 2];
const counts = (): Study =>
  parseStudy({
    ...withTrials(
      plainStudy(2, {
        responses: [
          {
            id: "y",
            name: "Spoilt",
            measured: "share",
            of: 100,
            lot: 400,
            goal: { aim: "lower", low: 0.01, high: 0.06 },
          },
        ],
      }),
      [...corners(2), ...corners(2)],
    ),
    models: [{ response: "y", terms: [["a"]] }],
  });
const study = (): Study => {
  const s = counts();
  return parseStudy({
    ...s,
    trials: s.trials.map((t, i) => ({ ...t, state: "done", results: { y: { events: spoilt[i], of: 100 } } })),
    setpoint: { settings: { a: 1, b: 0 }, held: [] },
  });
};

describe("what somebody who decides is told", () => {
  it("what to expect here, of a lot here and in the middle of the ranges", () => {
    const told = decisionOf(setpointProblem(study()), { a: 1, b: 0 });
    // One term between two levels: the fit is the share of each, 44 of 400 and 12 of 400; the middle is the logit's.
    const logit = (p: number): number => Math.log(p / (1 - p));
    const middle = 1 / (1 + Math.exp(-(logit(0.11) + logit(0.03)) / 2));
    expect(told.expected[0].said.mean).toBeCloseTo(0.03, 4);
    expect(told.expected[0].meets).toBe(true);
    expect(told.lots).toHaveLength(1);
    expect(told.lots[0].of).toBe(400);
    expect(told.lots[0].here.events).toBeCloseTo(12, 0);
    // What is not known of the middle adds to what is expected there.
    expect(Math.abs(told.lots[0].middle / (400 * middle) - 1)).toBeLessThan(0.1);
  });
  it("what to hold tight: factors whose tolerance costs desirability, worst first, and no others", () => {
    const loose = parseStudy({ ...study(), factors: study().factors.map((f) => ({ ...f, tolerance: 0.2 })) });
    const told = decisionOf(setpointProblem(loose), { a: 1, b: 0 });
    expect(told.hold.map((h) => [h.factor, h.off])).toEqual([["a", 0.2]]);
    expect(told.hold[0].loss).toBeGreaterThan(0.01);
  });
});

describe("limits that results propose", () => {
  const with_ = (values: number[], measured = false): Study => {
    const s = withTrials(
      plainStudy(2),
      values.map((_, i) => corners(2)[i % 4]),
      values,
    );
    return measured ? s : parseStudy({ ...s, trials: s.trials.map((t) => ({ ...t, state: "done" })) });
  };
  const proposed = (values: number[], aim: "raise" | "lower" | "hit") => {
    const s = with_(values);
    return proposedLimits(s, s.responses[0], aim);
  };
  it("as good as the best trial, never worse than the middle one", () => {
    expect(proposed([61.2, 58.4, 66.13, 59.9, 63], "raise")).toEqual({ aim: "raise", low: 61.2, high: 66.1 });
    expect(proposed([61.2, 58.4, 66.13, 59.9, 63], "lower")).toEqual({ aim: "lower", low: 58.4, high: 61.2 });
    expect(proposed([10, 20, 30, 40], "raise")).toEqual({ aim: "raise", low: 25, high: 40 });
  });
  it("none of few results, of results all alike, or for a value to hit", () => {
    expect(proposed([1, 2], "raise")).toBeUndefined();
    expect(proposed([5, 5, 5, 5], "raise")).toBeUndefined();
    expect(proposed([1, 2, 3, 4], "hit")).toBeUndefined();
  });
});

describe("how far a setpoint is confirmed, where studies are listed", () => {
  const chosen = (): Study =>
    parseStudy({
      ...withTrials(
        plainStudy(2, { responses: [{ id: "y", goal: { aim: "raise", low: 5, high: 9 } }] }),
        [...corners(2), ...corners(2)],
        [4.1, 8, 4, 8.1, 3.9, 7.9, 4, 8],
      ),
      models: [{ response: "y", terms: [["a"], ["b"]] }],
      setpoint: { settings: { a: 1, b: 1 }, held: [] },
    });
  const confirmed = (y: number | null): Study => {
    const s = chosen();
    const trial = {
      ...s.trials[0],
      kind: "confirm" as const,
      use: false,
      settings: { a: 1, b: 1 },
      results: { y },
      state: y === null ? ("planned" as const) : ("done" as const),
    };
    return parseStudy({
      ...s,
      waves: [...s.waves, { id: "c" }],
      trials: [...s.trials, ...[1, 2, 3].map((k) => ({ ...trial, id: `c${k}`, wave: "c", order: 8 + k, standard: k }))],
    });
  };
  const fact = (s: Study): string | undefined =>
    trailOf(s, confirmedFact(s)).find((c) => c.station === "setpoint")?.fact;
  it("not, planned, as predicted or otherwise", () => {
    expect(fact(chosen())).toBe("chosen, not confirmed");
    expect(fact(confirmed(null))).toBe("chosen, being confirmed");
    expect(fact(confirmed(8))).toBe("chosen, confirmed");
    expect(fact(confirmed(2))).toBe("chosen, not as predicted");
    // Trials at another place confirm nothing of this one.
    expect(fact({ ...confirmed(8), setpoint: { settings: { a: 1, b: 0 }, held: [] } })).toBe("chosen, not confirmed");
    expect(setpointTested({ ...confirmed(8), setpoint: undefined })).toBeUndefined();
  });
  it("and short of its limits though as predicted", () => {
    const s = confirmed(8);
    const strict = {
      ...s,
      responses: s.responses.map((r) => ({ ...r, goal: { aim: "raise" as const, low: 8.5, high: 9 } })),
    };
    expect(fact(strict)).toBe("chosen, confirmed, limits missed");
  });
  it("a study whose models were taken away since is listed all the same", () => {
    expect(fact({ ...confirmed(8), models: [] })).toBe("chosen, being confirmed");
  });
});
