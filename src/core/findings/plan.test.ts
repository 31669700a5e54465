import { describe, expect, it } from "vitest";
import { defaultPicks, firstPick } from "../planning/default-picks";
import { planDetail } from "../planning/plan-detail";
import { type PlanRequest, type PlanSummary, summarisePlan } from "../planning/plan-summary";
import { planSummaries } from "../planning/plans-in-sight";
import { makePlan } from "../plans/make-plan";
import { centreSettings } from "../study/coding";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { fires, textOf } from "../testing/fires";
import { cont, plainStudy, studyOf } from "../testing/studies";
import { messageText } from "../words/answers";
import { planReadings, planRisks } from "./plan";
import type { Reading } from "./reading";

// Figures in the sentences were worked out a second time by least squares in numpy and the formulas of each statistic,
// or stand beside the case; they share nothing with what is tested here.

const usual: PlanRequest = {
  terms: "main+2fi",
  budget: 40,
  replicates: 1,
  centre: 3,
  blocks: 1,
  power: 0.8,
  alpha: 0.05,
  seed: 1,
  standardOrder: false,
};

describe("Plan", () => {
  const request = usual;
  const read = (study: Study, a: PlanRequest, pick: (label: string) => boolean = () => true): Reading[] => {
    const { summaries } = planSummaries(study, a);
    return planReadings(study, a, { summaries, picked: summaries.filter((s) => pick(s.label)).slice(0, 3) });
  };
  const six = (smallest = 2.5): Study => plainStudy(6, { responses: [{ id: "y", noise: 1, smallest }] });
  fires(
    "none-tells-all",
    "No plan within 26 trials tells main effects and two-factor interactions all apart.",
    () => read(six(), { ...request, budget: 26 }),
    () => read(six(), { ...request, budget: 27 }),
  );
  const hard = (change: "easy" | "hard"): Study => ({
    ...six(),
    factors: six().factors.map((f) => (f.id === "c" ? { ...f, change } : f)),
  });
  const inSetups = (study: Study, setups: number): Reading[] => {
    const asked = { ...request, budget: 32, centre: 0, setups };
    const { summaries } = planSummaries(study, asked);
    return planReadings(study, asked, {
      summaries,
      picked: summaries.filter((s) => s.label.startsWith("Fraction 32 in")),
    });
  };
  fires(
    "between-fraction-32-1-0-setups:2",
    "Plan a leaves no degree of freedom between set-ups: C would get no p, only intervals at assumed variances. Ask for more set-ups.",
    () => inSetups(hard("hard"), 2),
    () => inSetups(hard("hard"), 8),
  );
  // Kept: variance (1 + 1/4)/8 on 3 degrees of freedom (each of three further contrasts between set-ups holds an
  // interaction asked), 3.365 σ; set anew: 2/32 on 10, 1.555 σ; both from the noncentral t integrated numerically.
  fires(
    "reset-anyway",
    "c set anew for every one of 32 trials, the plan would see 1.6; kept in 8 set-ups it sees 3.4.",
    () => inSetups(hard("hard"), 8),
    () => inSetups(hard("easy"), 8),
  );
  fires(
    "sharp-enough",
    "With noise 1 and 2.5 worth finding in y, 35 trials (Fraction 32) are enough at power 0.80.",
    () => read(six(2.5), request),
    () => read(six(0.1), request),
  );
  fires(
    "not-sharp",
    "No plan within 40 trials would see 0.1 in y at power 0.80; the sharpest sees 1.",
    () => read(six(0.1), request),
    () => read(six(2.5), request),
  );
  const first = (wanted: number | undefined, a: PlanRequest): Reading[] => {
    const study = plainStudy(3, { responses: [{ id: "y", noise: 1, ...(wanted ? { smallest: wanted } : {}) }] });
    const { summaries } = planSummaries(study, a);
    const pick = firstPick(summaries, wanted);
    const ids = defaultPicks(summaries, pick);
    return planReadings(study, a, {
      summaries,
      picked: ids.map((id) => summaries.find((s) => s.id === id) as PlanSummary),
      first: pick,
    });
  };
  // Effects of a 2³ in 8 trials are off by 2σ/√8 on 4 degrees of freedom; the noncentral t reaches power 0.8 at
  // 3.761 of these (scipy): 2.66 σ. A half fraction leaves every main with a pair.
  fires(
    "take-this",
    "Take b, Full factorial 8: the cheapest that tells all that is asked and sees what is worth finding. It sees 2.7, with 4 degrees of freedom for error. a, Fraction 4, cheaper by 4 trials, would lose 6 of 6 effects.",
    () => first(3, request),
    () => [],
  );
  it("says nothing of what there is not while more may come", () => {
    const open = { ...request, budget: 26 };
    const { summaries } = planSummaries(six(), open);
    const told = (searching: boolean) =>
      planReadings(six(), open, { summaries, picked: [], searching }).map((r) => r.id);
    expect(told(false)).toContain("none-tells-all");
    expect(told(true)).not.toContain("none-tells-all");
    expect(planReadings(six(), open, { summaries: [], picked: [], searching: true }).map((r) => r.id)).not.toContain(
      "no-plans",
    );
  });
  fires(
    "chains",
    "Plan a leaves 15 of 21 effects in chains: AB cannot be told from CE. If one turns out active, a second wave must part them.",
    () => read(six(), request, (l) => l === "Fraction 16"),
    () => read(six(), request, (l) => l === "Fraction 32"),
  );
  fires(
    "resolution",
    "Plan a is of resolution III: main effects travel with two-factor interactions, so a large interaction looks like a main effect.",
    () => read(six(), request, (l) => l === "Fraction 8"),
    () => read(six(), { ...request, budget: 40 }, (l) => l === "Fraction 32"),
  );
  fires(
    "no-df",
    "Plan a leaves no degrees of freedom for error; its sharpness rests on the stated noise. Centre points or replicates would give it some.",
    () => read(plainStudy(7), { ...request, terms: "main", centre: 0, budget: 8 }),
    () => read(plainStudy(7), { ...request, terms: "main", centre: 1, budget: 9 }),
  );
  fires(
    "no-centre",
    "Three centre points would show whether anything bends, and give a pure estimate of noise.",
    () => read(six(), { ...request, centre: 0 }),
    () => read(six(), request),
  );
  it("centre points that were run are not asked for again", () => {
    const base = plainStudy(6);
    const study = parseStudy({
      ...base,
      waves: [{ id: "w" }],
      trials: [{ id: "t1", wave: "w", kind: "centre", state: "done", settings: centreSettings(base.factors) }],
    });
    expect(read(study, { ...request, centre: 0 }).map((r) => r.id)).not.toContain("no-centre");
  });
  it("of a share is asked what to expect, not a noise", () => {
    const share = plainStudy(3, { responses: [{ id: "y", measured: "share" }] });
    expect(textOf(read(share, request), "noise-unknown")).toMatch(/^State what share or rate to expect/);
    expect(textOf(read(plainStudy(3), request), "noise-unknown")).toMatch(/^State noise/);
  });
  fires(
    "standard-order",
    "Trials in standard order let anything that drifts with time pass for an effect of the last factors. Randomise unless the process forbids it.",
    () => read(six(), { ...request, standardOrder: true }),
    () => read(six(), request),
  );
  fires(
    "no-plans",
    "No plan on offer fits 10 trials. Raise the budget or take centre points and replicates away.",
    () => read(six(), { ...request, budget: 10 }),
    () => read(six(), { ...request, budget: 11 }),
  );
  it("six factors need 22 trials for mains and pairs: 1 + 6 + 15", () =>
    expect(textOf(read(six(), request), "fewest-trials")).toContain("22 trials are the least"));
});

describe("risks of a plan", () => {
  it("say where steps move axial points: 5 + 5 × 1.682 = 13.41 is set to 13, 1.6 half ranges from the middle", () => {
    const study = studyOf([
      { id: "a", name: "Heat", kind: "continuous", low: 0, high: 10, step: 1 },
      cont("b", { low: 0, high: 10 }),
      cont("c", { low: 0, high: 10 }),
    ]);
    const request: PlanRequest = { ...usual, terms: "quadratic" };
    const options = { family: "composite", axial: 1.682, centre: 3, seed: 1 };
    const summary = summarisePlan(study, makePlan(study, options), "Composite", options, request);
    const risks = planRisks(study, request, summary, planDetail(study, summary, request));
    expect(risks.find((r) => r.code === "axial-moved")?.values).toEqual({
      factors: [{ name: "Heat", wanted: expect.closeTo(1.682, 9), stands: expect.closeTo(1.6, 9) }],
    });
    const face = { ...options, axial: 1 };
    const still = summarisePlan(study, makePlan(study, face), "Composite", face, request);
    expect(planRisks(study, request, still, planDetail(study, still, request)).map((r) => r.code)).not.toContain(
      "axial-moved",
    );
  });
  it("blocks are known to chains and risks: a 2³ in two blocks gives up ABC, a 2⁴ ABCD (Box, Hunter & Hunter 2005, 5.13)", () => {
    const blocked = (k: number, blocks: number) => {
      const study = plainStudy(k);
      const request: PlanRequest = { ...usual, centre: 0, blocks };
      const options = { family: "factorial", seed: 1, ...(blocks > 1 ? { blocks } : {}) };
      const summary = summarisePlan(study, makePlan(study, options), "Full factorial", options, request);
      const detail = planDetail(study, summary, request);
      return { blocks: detail.blocks.map((t) => t.join("")), risks: planRisks(study, request, summary, detail) };
    };
    expect(blocked(3, 2).blocks).toEqual(["abc"]);
    expect(blocked(4, 2).blocks).toEqual(["abcd"]);
    expect(blocked(3, 1).blocks).toEqual([]);
    expect(blocked(3, 2).risks.map((r) => messageText("risks", r))).toContain(
      "a × b × c cannot be told from differences between blocks, which is what blocks cost.",
    );
    // Four blocks of two give up pairs, which were asked for.
    const four = blocked(3, 4);
    expect(four.blocks).toEqual(["ab", "ac", "bc"]);
    expect(four.risks.find((r) => r.code === "with-blocks")?.values).toMatchObject({ asked: true, more: 0 });
    expect(four.risks.map((r) => r.code)).not.toContain("not-at-all");
  });
});
