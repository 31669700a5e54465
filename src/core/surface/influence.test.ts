import { describe, expect, it } from "vitest";
import { followUp } from "../follow-up/follow";
import { influenceOf } from "../questions/influence";
import { retireFactors } from "../study/retire";
import { reviseStudy } from "../study/revise";
import type { Study, Term } from "../study/schema";
import { corners, plainStudy, withTrials } from "../testing/studies";

/** 2³ of three factors, y = 5a + 3b + 4ab and z = 2a, fitted exactly; z counts three times as much. */
function study(models: { response: string; terms: Term[] }[]): Study {
  const base = plainStudy(3);
  const at = corners(3);
  const made = withTrials(
    { ...base, responses: [...base.responses, { ...base.responses[0], id: "z", name: "z", importance: 3 }] },
    at,
    at.map(({ a, b }) => 10 + 5 * Number(a) + 3 * Number(b) + 4 * Number(a) * Number(b)),
  );
  return {
    ...made,
    trials: made.trials.map((t) => ({ ...t, results: { ...t.results, z: 7 + 2 * Number(t.settings.a) } })),
    models: models.map((m) => ({ ...m, transform: "none", block: true, curvature: true })),
  };
}
const whole = study([
  { response: "y", terms: [["a"], ["b"], ["a", "b"]] },
  { response: "z", terms: [["a"], ["b"]] },
]);

describe("what factors move over all responses", () => {
  it("Sobol' totals weighted by importance, as shares of their sum", () => {
    // Over even spreads on −1 … 1: Var(a) = Var(b) = 1/3, Var(ab) = 1/9.
    const [va, vb, vab] = [25 / 3, 9 / 3, 16 / 9];
    const all = va + vb + vab;
    const [ya, yb] = [(va + vab) / all, (vb + vab) / all];
    // Importances 1 and 3; z is all a's.
    const [wa, wb] = [(ya + 3) / 4, yb / 4];
    const { factors, readings } = influenceOf(whole);
    expect(factors.map((f) => f.factor)).toEqual(["a", "b", "c"]);
    expect(factors[0].share).toBeCloseTo(wa / (wa + wb), 12);
    expect(factors[1].share).toBeCloseTo(wb / (wa + wb), 12);
    expect(factors[2]).toEqual({ factor: "c", share: 0, responses: { y: 0, z: 0 } });
    expect(factors[0].responses.y).toBeCloseTo(ya, 12);
    expect(factors[1].responses.y).toBeCloseTo(yb, 12);
    expect(factors[0].responses.z).toBeCloseTo(1, 12);
    expect(factors.reduce((t, f) => t + f.share, 0)).toBeCloseTo(1, 12);
    expect(readings).toEqual([]);
  });
  it("a response without a chosen model is taken by the one first offered, and said; one without results is left out", () => {
    const { readings, factors } = influenceOf(study([{ response: "y", terms: [["a"]] }]));
    expect(readings.map((r) => r.text)).toEqual(["z has no chosen model yet: the one first offered is taken."]);
    expect(factors[0].share).toBeCloseTo(1, 12);
    const empty = { ...whole, trials: whole.trials.map((t) => ({ ...t, results: { y: t.results.y ?? null } })) };
    expect(influenceOf(empty).readings.map((r) => r.text)).toEqual(["z cannot be fitted yet and is left out."]);
    expect(() => influenceOf({ ...whole, trials: [] })).toThrow(/stored model/);
  });
});

describe("the top few carried on", () => {
  it("once the rest is retired: trials already run serve again, and it is said where the rest stood elsewhere", () => {
    const few = reviseStudy(whole, retireFactors(whole, { c: 0 }));
    const {
      plan: { trials },
      cautions,
    } = followUp(few, { kind: "carry", factors: ["a", "b"] });
    // A composite of two: four corners were run, of each pair one serves.
    expect(trials.filter((t) => t.kind === "factorial")).toEqual([]);
    expect(trials.filter((t) => t.kind === "axial")).toHaveLength(4);
    expect(trials.every((t) => t.settings.c === 0)).toBe(true);
    expect(JSON.stringify(cautions)).toContain('"elsewhere":["c"],"retired":["c"]');
  });
});
