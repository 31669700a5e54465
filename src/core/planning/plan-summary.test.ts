import { describe, expect, it } from "vitest";
import { planRisks } from "../findings/plan";
import { adoptPlan } from "../plans/adopt";
import { makePlan } from "../plans/make-plan";
import { optionsOf } from "../plans/options";
import { ask, finish } from "../questions/ask";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { plainStudy } from "../testing/studies";
import { messageText } from "../words/answers";
import { planDetail } from "./plan-detail";
import { type PlanRequest, planSummaryId } from "./plan-summary";
import { type PlanSummariesStep, planSummarySteps } from "./plans-in-sight";
import { tradeSteps } from "./trade";

const request: PlanRequest = {
  terms: "main",
  budget: 24,
  replicates: 1,
  centre: 2,
  blocks: 1,
  power: 0.8,
  alpha: 0.05,
  seed: 1,
  standardOrder: false,
};
const all = (
  study: Study,
  a: PlanRequest,
  rivals: Study["rivals"] = [],
): { steps: PlanSummariesStep[]; end: PlanSummariesStep } => {
  const gen = planSummarySteps(study, a, rivals);
  const steps: PlanSummariesStep[] = [];
  let step = gen.next();
  while (!step.done) {
    steps.push(step.value);
    step = gen.next();
  }
  return { steps, end: step.value };
};

describe("plans in sight", () => {
  it("come quick families first and searched ones as they are found, each within the budget", () => {
    const { steps, end } = all(plainStudy(5), request);
    const families = new Set(end.summaries.map((s) => s.options.family));
    for (const f of ["fraction", "plackett-burman", "definitive", "array", "optimal", "least-aliasing"])
      expect(families).toContain(f);
    expect(end.summaries.every((s) => s.n <= 24)).toBe(true);
    expect(new Set(end.summaries.map((s) => s.id)).size).toBe(end.summaries.length);
    const firstWithSearched = steps.findIndex((s) => s.summaries.some((x) => x.options.family === "optimal"));
    expect(steps.slice(0, Math.max(1, firstWithSearched)).some((s) => s.summaries.length > 0)).toBe(true);
    expect(end.summaries.map((s) => s.n)).toEqual(end.summaries.map((s) => s.n).sort((a, b) => a - b));
  });

  it("end with what is there when told to stop", () => {
    const gen = planSummarySteps(plainStudy(6), { ...request, terms: "quadratic", budget: 200 });
    let step = gen.next();
    while (!step.done && !step.value.text.startsWith("Built")) step = gen.next();
    step = gen.next(true);
    expect(step.done).toBe(true);
    expect(step.value.summaries.length).toBeGreaterThan(3);
  });

  it("hold rivals under their names, made again from their recipes", () => {
    const study = plainStudy(5);
    const first = all(study, request).end.summaries.find((s) => s.options.family === "fraction");
    const kept = parseStudy({
      ...study,
      rivals: [{ id: "p1", name: "For Monday", recipe: first?.plan.recipe ?? { family: "" } }],
    });
    const rival = all(kept, { ...request, centre: 0 }, kept.rivals).end.summaries.find((s) => s.id === "rival p1");
    expect([rival?.label, rival?.rival]).toEqual(["For Monday", "For Monday"]);
    expect(rival?.plan.trials.map((t) => t.settings)).toEqual(first?.plan.trials.map((t) => t.settings));
  });

  it("have ids that tell different options apart and forget the seed", () => {
    expect(planSummaryId({ family: "fraction", trials: 8, centre: 3, seed: 4 })).toBe("fraction-8-1-3");
    expect(planSummaryId({ family: "composite", axial: 1.2 })).not.toBe(planSummaryId({ family: "composite" }));
    expect(
      optionsOf({ family: "optimal", trials: 9, criterion: "I", terms: [["a"]], block: 2, ranges: { a: [0, 1] } }),
    ).toEqual({
      family: "optimal",
      trials: 9,
      criterion: "I",
      terms: [["a"]],
    });
  });

  it("say their risks: chains by name, leaks in percent, thin error, no pure error", () => {
    const study = plainStudy(5);
    const { summaries } = all(study, { ...request, centre: 0 }).end;
    const risksOf = (family: string, n: number, a: PlanRequest = request): string[] => {
      const s = summaries.find((x) => x.options.family === family && x.n === n);
      if (!s) throw new Error(`no ${family} ${n}`);
      return planRisks(study, { ...a, centre: 0 }, s, planDetail(study, s, { ...a, centre: 0 })).map((r) =>
        messageText("risks", r),
      );
    };
    expect(risksOf("fraction", 8).join(" ")).toContain("cannot be told from");
    // Each main effect of twelve Plackett–Burman trials takes up a third of interactions outside it.
    expect(risksOf("plackett-burman", 12).join(" ")).toContain("takes up 33 %");
    expect(risksOf("plackett-burman", 12).join(" ")).toContain("No trial is run twice");
    expect(risksOf("definitive", 13).join(" ")).not.toContain("takes up");
  });

  it("count what is asked for terms picked one by one", () => {
    const { end } = all(plainStudy(2), { ...request, centre: 0, terms: [["a"], ["b"], ["a", "a"]] });
    expect(end.summaries.some((s) => s.tellsAll && s.options.family === "optimal")).toBe(true);
    const two = end.summaries.find((s) => s.options.family === "factorial");
    expect(two?.tellsAll ?? false).toBe(false);
  });
});

describe("the trade of aliasing", () => {
  it("falls as more D-efficiency is given up, each point a plan that can be made", () => {
    const gen = tradeSteps(plainStudy(5), { family: "least-aliasing", trials: 8, starts: 4 });
    let step = gen.next();
    while (!step.done) step = gen.next();
    const points = step.value;
    expect(points.length).toBeGreaterThan(4);
    for (const p of points) expect(p.d ?? 0).toBeGreaterThan(0);
    expect(points[points.length - 1].trace).toBeLessThan(points[0].trace);
    expect(points.every((p) => p.options.keepEfficiency === p.keep)).toBe(true);
  });
});

describe("so many more trials", () => {
  // Eight trials of four factors tell mains and three of six pairs; with a wave of their own, 12 columns in all.
  const screened = (): Study => {
    const study = plainStudy(4);
    const plan = makePlan(study, { family: "fraction", trials: 8, seed: 1 });
    const adopted = adoptPlan(study, plan);
    const y = (s: Settings): number => 10 + 3 * (s.a as number) + 2 * (s.b as number) + (s.c as number);
    return parseStudy({
      ...adopted,
      trials: adopted.trials.map((t, i) => ({ ...t, state: "done", results: { y: y(t.settings) + (i % 2) / 9 } })),
    });
  };
  const asked = (more: number | undefined) => {
    const request = { ...REQUEST, ...(more === undefined ? {} : { more }) };
    return finish(ask("summaries", screened(), { ask: request })) as PlanSummariesStep;
  };
  const REQUEST: PlanRequest = { ...request, terms: "main+2fi", budget: 10, centre: 0, together: true };
  it("are placed for what is asked: four tell all of it with nothing to judge by, eight see it better than six", () => {
    const of = (n: number) => asked(n).summaries.find((s) => s.follow?.name === "more");
    const [four, six, eight] = [of(4), of(6), of(8)];
    expect([four, six, eight].map((s) => s?.n)).toEqual([4, 6, 8]);
    expect([four, six, eight].map((s) => s?.residualDf)).toEqual([0, 2, 4]);
    expect([four?.follow?.before.estimable, four?.follow?.after.estimable]).toEqual([7, 10]);
    expect(six?.tellsAll).toBe(true);
    expect(eight?.ratio ?? 9).toBeLessThan(six?.ratio ?? 0);
  });
  it("are as many as leave three degrees of freedom where no number is asked for; too few are refused where asked", () => {
    // 11 columns, a wave and three: 15 beside the eight that were run.
    expect(asked(undefined).summaries.find((s) => s.follow?.name === "more")?.n).toBe(7);
    const short = asked(3);
    expect(short.summaries.some((s) => s.follow?.name === "more")).toBe(false);
    expect(short.refusals.find((r) => r.follow?.name === "more")?.text).toMatch(/trials?/);
  });
});
