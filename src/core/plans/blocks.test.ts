import { describe, expect, it } from "vitest";
import { missingFractions } from "../appraisal/defining-words";
import { StudyError } from "../study/error";
import type { Settings } from "../study/schema";
import { plainStudy } from "../testing/studies";
import { confoundedBlocks } from "./blocks";
import { makePlan } from "./make-plan";

const letters = "abcdefgh";
const signOf = (effect: string, s: Settings): number => [...effect].reduce((p, f) => p * (s[f] as number), 1);

/**
 * Effects (letters, up to an order) whose contrast takes one value throughout every block: those confounded with
 * blocks.
 */
function confounded(k: number, blocks: number, trials?: number): string[] {
  const study = plainStudy(k);
  const plan = makePlan(study, { family: trials ? "fraction" : "factorial", ...(trials ? { trials } : {}), blocks });
  const effects: string[] = [];
  const grow = (from: number, now: string): void => {
    if (now) effects.push(now);
    if (now.length < 4) for (let i = from; i < k; i++) grow(i + 1, now + letters[i]);
  };
  grow(0, "");
  return effects.filter((e) => {
    const values = new Map<string, Set<number>>();
    for (const t of plan.trials) values.set(t.wave, (values.get(t.wave) ?? new Set()).add(signOf(e, t.settings)));
    return [...values.values()].every((v) => v.size === 1);
  });
}

describe("blocks by confounding", () => {
  // Which effects are given up: Box, Hunter & Hunter (2005), table 5A.1: 2³ in two blocks gives up ABC, in four AB,
  // AC, BC;
  // 2⁴ in two blocks ABCD; 2⁵ in two ABCDE, in four ABC and CDE with their product ABDE.
  it.each([
    [3, 2, ["abc"]],
    [3, 4, ["ab", "ac", "bc"]],
    [4, 2, ["abcd"]],
  ])("a full factorial of %i in %i blocks gives up %j", (k, blocks, expected) => {
    expect(confounded(k, blocks).sort()).toEqual(expected);
  });
  it("gives up no main effect and as few two-factor interactions as can be: 2⁵ in four blocks none", () => {
    const lost = confounded(5, 4);
    expect(lost.filter((e) => e.length <= 2)).toEqual([]);
    expect(lost.filter((e) => e.length === 3)).toHaveLength(2);
  });
  it("keeps main effects of a fraction clear of its blocks", () => {
    for (const [k, trials, blocks] of [
      [6, 16, 2],
      [7, 32, 4],
      [8, 32, 4],
    ] as const)
      expect(confounded(k, blocks, trials).filter((e) => e.length === 1)).toEqual([]);
  });
  it("splits evenly and refuses what cannot be split", () => {
    const plan = makePlan(plainStudy(4), { family: "factorial", blocks: 4 });
    const sizes = [...new Set(plan.trials.map((t) => t.wave))].map(
      (w) => plan.trials.filter((t) => t.wave === w).length,
    );
    expect(sizes).toEqual([4, 4, 4, 4]);
    expect(() => confoundedBlocks(plainStudy(2).factors, [{ a: 1, b: 1 }], [], 3)).toThrow(StudyError);
    expect(() => makePlan(plainStudy(3), { family: "factorial", blocks: 3 })).toThrow(/2, 4, 8/);
    expect(() => makePlan(plainStudy(3), { family: "fraction", trials: 4, blocks: 2 })).toThrow(
      /without losing a main effect/,
    );
  });
});

describe("missing fractions", () => {
  it("are all other choices of sign, and with the plan make up the full factorial", () => {
    const study = plainStudy(5);
    const own = makePlan(study, { family: "fraction", trials: 8 });
    const others = missingFractions(own.recipe.generators ?? "");
    expect(others).toHaveLength(3);
    const rows = [own, ...others.map((generators) => makePlan(study, { family: "fraction", generators }))].flatMap(
      (p) => p.trials.map((t) => JSON.stringify(t.settings)),
    );
    expect(new Set(rows).size).toBe(32);
  });
  it("turn a minus back and read both kinds of it", () => {
    expect(missingFractions("E=-ABC")).toEqual(["E=ABC"]);
    expect(missingFractions("E=ABC, F=\u2212BCD")).toEqual(["E=-ABC,F=-BCD", "E=ABC,F=BCD", "E=-ABC,F=BCD"]);
    expect(missingFractions("nonsense")).toEqual([]);
  });
});
