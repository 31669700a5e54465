import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Goal, Response } from "../study/schema";
import { plainStudy } from "../testing/studies";
import {
  desirability,
  desirabilityPieces,
  limitsOf,
  overallDesirability,
  shortfall,
  shortfallPieces,
} from "./desirability";

// Derringer & Suich (1980): ((y − L)/(T − L))^s up to the target and ((U − y)/(U − T))^t past it, 0 outside L and U.

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const anyGoal: fc.Arbitrary<Goal> = fc
  .tuple(
    fc.constantFrom("raise", "lower", "hit", "within"),
    number(-50, 50),
    number(1, 40),
    number(0.1, 0.9),
    number(0.2, 4),
    number(0.2, 4),
  )
  .map(([aim, low, width, share, first, second]): Goal => {
    const high = low + width;
    if (aim === "raise" || aim === "lower") return { aim, low, high, weight: first };
    const target = low + share * width;
    const weights = { lowWeight: first, highWeight: second };
    return aim === "hit"
      ? { aim: "hit", low, high, target, ...weights }
      : { aim: "within", low, high, target, ...weights };
  });
/** A goal and a value strictly inside its limits. */
const inside: fc.Arbitrary<readonly [Goal, number]> = anyGoal.chain(
  (goal): fc.Arbitrary<readonly [Goal, number]> =>
    goal.aim === "watch"
      ? fc.constant([goal, 0] as const)
      : number(0.02, 0.98).map((u) => [goal, goal.low + u * (goal.high - goal.low)] as const),
);
const lowest = (pieces: { value: number }[]): number => Math.min(0, ...pieces.map((p) => p.value));

describe("desirability", () => {
  it("by the definition, with every weight", () => {
    fc.assert(
      fc.property(inside, ([goal, y]) => {
        if (goal.aim === "watch") return;
        const { low, high } = goal;
        const up = (from: number, to: number, w: number) => ((y - from) / (to - from)) ** w;
        const down = (from: number, to: number, w: number) => ((to - y) / (to - from)) ** w;
        const wanted =
          goal.aim === "raise"
            ? up(low, high, goal.weight ?? 1)
            : goal.aim === "lower"
              ? down(low, high, goal.weight ?? 1)
              : y <= (goal.target as number)
                ? up(low, goal.target as number, goal.lowWeight ?? 1)
                : down(goal.target as number, high, goal.highWeight ?? 1);
        expect(desirability(goal, y)).toBeCloseTo(wanted, 12);
      }),
    );
  });
  it("is 0 from a limit on, 1 at the aim, and never outside them", () => {
    fc.assert(
      fc.property(anyGoal, number(-200, 200), (goal, y) => {
        const d = desirability(goal, y) as number;
        expect(d).toBeGreaterThanOrEqual(0);
        expect(d).toBeLessThanOrEqual(1);
        const { low, high } = limitsOf(goal);
        if (y < low || y > high) expect(d).toBe(0);
      }),
    );
    expect(desirability({ aim: "raise", low: 1, high: 3 }, 3)).toBe(1);
    expect(desirability({ aim: "raise", low: 1, high: 3 }, 99)).toBe(1);
    expect(desirability({ aim: "lower", low: 1, high: 3 }, 1)).toBe(1);
    expect(desirability({ aim: "watch" }, 5)).toBeNull();
  });
  it("no further from the limits means no shortfall; past one it grows with the distance in widths", () => {
    const goal: Goal = { aim: "hit", low: 10, target: 15, high: 20 };
    expect(shortfall(goal, 12)).toBe(0);
    expect(shortfall(goal, 5)).toBeCloseTo(0.5, 12);
    expect(shortfall(goal, 25)).toBeCloseTo(0.5, 12);
    expect(shortfall({ aim: "raise", low: 10, high: 20 }, 99)).toBe(0);
    expect(shortfall({ aim: "lower", low: 10, high: 20 }, -99)).toBe(0);
  });
});

describe("the pieces a climb reads", () => {
  it("the lowest of them, and of 0, is ln d", () => {
    fc.assert(
      fc.property(inside, ([goal, y]) => {
        const d = desirability(goal, y) as number;
        fc.pre(d > 1e-6);
        expect(lowest(desirabilityPieces(goal, y))).toBeCloseTo(Math.log(d), 9);
      }),
    );
  });
  it("their slopes and second derivatives are those of differences", () => {
    fc.assert(
      fc.property(inside, ([goal, y]) => {
        const h = 1e-4;
        const here = desirabilityPieces(goal, y);
        const [before, after] = [desirabilityPieces(goal, y - h), desirabilityPieces(goal, y + h)];
        here.forEach((piece, i) => {
          const slope = (after[i].value - before[i].value) / (2 * h);
          fc.pre(Number.isFinite(slope));
          expect(Math.abs(piece.slope - slope)).toBeLessThan(1e-3 * Math.max(1, Math.abs(slope)));
          const bend = (after[i].slope - before[i].slope) / (2 * h);
          expect(Math.abs(piece.bend - bend)).toBeLessThan(1e-3 * Math.max(1, Math.abs(bend)));
          // A logarithm bends down: so the lowest of several is one hill.
          expect(piece.bend).toBeLessThan(0);
        });
      }),
    );
  });
  it("of a shortfall give minus the shortfall, straight", () => {
    fc.assert(
      fc.property(anyGoal, number(-100, 100), (goal, y) => {
        const pieces = shortfallPieces(goal, y);
        expect(lowest(pieces)).toBeCloseTo(-shortfall(goal, y), 9);
        expect(pieces.every((p) => p.bend === 0)).toBe(true);
      }),
    );
    expect(shortfallPieces({ aim: "watch" }, 3)).toEqual([]);
  });
});

describe("overall desirability", () => {
  const responses: Response[] = plainStudy(1, {
    responses: [
      { id: "p", goal: { aim: "raise", low: 0, high: 1 }, importance: 3 },
      { id: "q", goal: { aim: "lower", low: 0, high: 1 }, importance: 1 },
      { id: "r" },
    ],
  }).responses;
  it("is the geometric mean by importance, responses that are only watched left aside", () => {
    const d = overallDesirability(
      responses,
      new Map([
        ["p", 0.5],
        ["q", 0.2],
        ["r", -99],
      ]),
    );
    expect(d).toBeCloseTo((0.5 ** 3 * 0.8) ** (1 / 4), 12);
  });
  it("lies between the least and the greatest, and is 0 if any is", () => {
    fc.assert(
      fc.property(number(0.01, 0.99), number(0.01, 0.99), (p, q) => {
        const d = overallDesirability(responses, (id) => (id === "p" ? p : q));
        expect(d).toBeGreaterThanOrEqual(Math.min(p, 1 - q) - 1e-12);
        expect(d).toBeLessThanOrEqual(Math.max(p, 1 - q) + 1e-12);
      }),
    );
    expect(
      overallDesirability(
        responses,
        new Map([
          ["p", 0],
          ["q", 0],
        ]),
      ),
    ).toBe(0);
    expect(overallDesirability([responses[2]], new Map([["r", 1]]))).toBe(0);
  });
});
