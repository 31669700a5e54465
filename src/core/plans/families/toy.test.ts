// A family of plans is one file: added here to the list of families, it is found in catalogue, form, command and HTTP
// description with its own option, without a line elsewhere.

import { describe, expect, it, vi } from "vitest";
import * as z from "zod";
import { parseStudy } from "../../study/validate";
import { plainStudy, refusal } from "../../testing/studies";
import { controls } from "../options";
import { defineFamily, type PlanFamily } from "../plan";

const star: PlanFamily = defineFamily({
  id: "star",
  label: "Star",
  options: {
    reach: z
      .number()
      .positive()
      .optional()
      .describe("how far its arms reach")
      .register(controls, { label: "arms", control: "count", hint: "1" }),
  },
  purpose: () => "main",
  words: (o) => [o.reach === undefined ? undefined : `arms of ${o.reach}`],
  unfit: () => undefined,
  sizes: (study) => [2 * study.factors.length],
  build(study, { reach = 1 }) {
    const middle = Object.fromEntries(study.factors.map((f) => [f.id, 0]));
    const points = study.factors.flatMap((f) => [-reach, reach].map((v) => ({ ...middle, [f.id]: v })));
    return { points, kind: "axial", recipe: { reach } };
  },
});

vi.mock(import("./index"), async (original) => {
  const { families } = await original();
  return { families: [...families, star] };
});

const { families } = await import("./index");
const { adoptPlan } = await import("../adopt");
const { makePlan } = await import("../make-plan");
const { ask, finish, questionNamed } = await import("../../questions/ask");
const { planSummaries } = await import("../../planning/plans-in-sight");

describe("a family added by one file", () => {
  const study = plainStudy(3);
  it("makes plans with its own option, keeps it in the recipe and refuses others'", () => {
    const plan = makePlan(study, { family: "star", reach: 0.5 });
    expect(plan.trials).toHaveLength(6);
    expect(Math.max(...plan.trials.map((t) => t.coded.a as number))).toBe(0.5);
    expect(parseStudy(adoptPlan(study, plan)).waves[0].plan).toMatchObject({ family: "star", reach: 0.5 });
    expect(refusal(() => makePlan(study, { family: "star", axial: 2 }))).toContain("Star (star) takes no “axial”");
    expect(refusal(() => makePlan(study, { family: "star", reach: -1 }))).toContain("The option reach of Star");
  });
  it("stands in the chart", () => {
    const request = { terms: "main" as const, budget: 12, replicates: 1, centre: 2, blocks: 1 };
    const { summaries } = planSummaries(study, {
      ...request,
      power: 0.8,
      alpha: 0.05,
      seed: 1,
      standardOrder: false,
    });
    expect(summaries.find((s) => s.options.family === "star")).toMatchObject({ label: "Star 6", n: 8 });
  });
  it("is asked for in the form", async () => {
    const { fieldsOf } = await import("@/stations/plan/own-plan");
    expect(fieldsOf(star, study)).toContainEqual({
      name: "reach",
      control: { label: "arms", control: "count", hint: "1" },
    });
    expect(families.at(-1)?.id).toBe("star");
  });
  it("is asked as a question, by the command's flag and in the HTTP description", async () => {
    expect(finish(ask("plan", study, { family: "star", reach: 1 })).trials).toHaveLength(6);
    expect((questionNamed("plan").input.family as z.ZodString).description).toContain("star");
    const { headless } = await import("@/cli/main");
    const command = headless().commands.find((c) => c.name() === "plan");
    expect(command?.options.find((o) => o.long === "--reach")?.description).toBe("how far its arms reach");
    const { openApi } = await import("@/server/openapi");
    const { schemas } = openApi().components as { schemas: Record<string, { properties: Record<string, unknown> }> };
    expect(schemas.PlanRequest.properties.reach).toMatchObject({
      type: "number",
      description: "how far its arms reach",
    });
  });
});
