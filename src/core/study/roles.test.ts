import { describe, expect, it } from "vitest";
import {
  activeFactors,
  hardFactors,
  heldAt,
  heldSettings,
  isActive,
  isStanding,
  isUsable,
  wobblingFactors,
} from "./roles";
import { TRIAL_STATES, type Trial } from "./schema";
import { parseStudy } from "./validate";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: [
    { id: "heat", kind: "continuous", low: 0, high: 1, change: "hard", tolerance: 0.1 },
    { id: "oven", kind: "categorical", levels: ["old", "new"], change: "hard", retired: "old" },
    { id: "dose", kind: "discrete", values: [1, 2, 4], tolerance: 0 },
    { id: "time", kind: "continuous", low: 0, high: 1, tolerance: 0.2, retired: 0.25 },
  ],
});
const ids = (of: readonly { id: string }[]): string[] => of.map((f) => f.id);

describe("roles and standing", () => {
  it("retired factors are held and take no part, hard or off as they may be", () => {
    expect(ids(activeFactors(study))).toEqual(["heat", "dose"]);
    expect(study.factors.map(isActive)).toEqual([true, false, true, false]);
    expect(heldSettings(study)).toEqual({ oven: "old", time: 0.25 });
    expect(study.factors.map(heldAt)).toEqual([undefined, "old", undefined, 0.25]);
    expect(ids(hardFactors(study))).toEqual(["heat"]);
    expect(ids(wobblingFactors(study))).toEqual(["heat"]);
  });
  it("trials that were skipped or failed count for nothing, those set aside not for models", () => {
    expect(TRIAL_STATES.filter((state) => isStanding({ state }))).toEqual(["planned", "done"]);
    const usable = (state: Trial["state"], use: boolean): boolean => isUsable({ state, use });
    expect([usable("done", true), usable("done", false), usable("failed", true)]).toEqual([true, false, false]);
  });
});
