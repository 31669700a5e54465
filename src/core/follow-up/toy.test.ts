// A kind of wave that follows is one file: added here to their list, it is found among next waves, on Plan, by command
// and HTTP with its own option, and in recipes, without a line elsewhere.

import { describe, expect, it, vi } from "vitest";
import * as z from "zod";
import { centreSettings, isNumeric } from "../study/coding";
import { activeFactors } from "../study/roles";
import { parseStudy } from "../study/validate";
import { corners, plainStudy, refusal, withTrials } from "../testing/studies";
import type { FollowUpKind } from "./kind";

const look: FollowUpKind = {
  id: "look-around",
  purpose: "look around",
  options: { reach: z.number().positive().optional().describe("how far it looks, in half ranges") },
  offered: () => [
    { place: 5, options: { kind: "look-around" }, name: { code: "named", values: { name: "Look around" } } },
  ],
  make: {
    runs(study, options) {
      const { reach = 0.5 } = options as { reach?: number };
      const middle = centreSettings(study.factors);
      return {
        runs: activeFactors(study)
          .filter(isNumeric)
          .map((f) => ({ settings: { ...middle, [f.id]: reach }, kind: "other" as const })),
        recipe: { reach },
      };
    },
  },
};

vi.mock(import("./kinds"), async (original) => {
  const { followUps } = await original();
  return { followUps: [...followUps, look] };
});

const { nextWaves } = await import("./next-waves");
const { adoptPlan } = await import("../plans/adopt");
const { ask, finish, questionNamed } = await import("../questions/ask");

const study = withTrials(
  plainStudy(3),
  corners(3),
  corners(3).map((s, i) => 2 * (s.a as number) + (i % 3)),
);

describe("a kind of wave added by one file", () => {
  it("is on offer where it says that it belongs, and looked at on Plan", () => {
    expect(nextWaves(study)[0]).toEqual({
      options: { kind: "look-around" },
      name: { code: "named", values: { name: "Look around" } },
    });
    const request = {
      terms: "main",
      budget: 12,
      replicates: 1,
      centre: 2,
      blocks: 1,
      power: 0.8,
      alpha: 0.05,
      seed: 1,
    };
    const { summaries } = finish(ask("summaries", study, { ask: request }));
    const own = summaries.find((s) => s.follow?.kind === "look-around");
    expect([own?.label, own?.n, own?.follow?.purpose]).toEqual(["Look around", 3, "look around"]);
  });
  it("is asked for with its own option, which the recipe keeps and other kinds refuse", () => {
    const wave = finish(ask("follow", study, { kind: "look-around", reach: 0.25 } as never));
    expect(wave.trials.map((t) => Math.max(...Object.values(t.settings).map(Number)))).toEqual([0.25, 0.25, 0.25]);
    const adopted = parseStudy(adoptPlan(study, wave, wave.purpose));
    expect(adopted.waves.at(-1)).toMatchObject({
      purpose: "look around",
      plan: { family: "look-around", reach: 0.25 },
    });
    expect(refusal(() => ask("follow", study, { kind: "repeat", reach: 1 } as never))).toContain("reach");
    expect(refusal(() => ask("follow", study, { kind: "look-around", reach: -1 } as never))).toContain("reach");
  });
  it("stands in the description that command and HTTP are read off", () => {
    const { input } = questionNamed("follow");
    expect(Object.keys(input)).toContain("reach");
    expect((input.kind as z.ZodEnum).options).toContain("look-around");
  });
});
