import { describe, expect, it } from "vitest";
import { seededRandom } from "../numerics/random";
import { adoptPlan } from "../plans/adopt";
import { makePlan } from "../plans/make-plan";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { drawn, shareBounds } from "../testing/simulation";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { fitModel } from "./fit";
import { ofNoise } from "./guard";
import { presentFit } from "./offer";
import { tooSmall } from "./too-small";

const random = seededRandom(31);
function factorial(truth: (s: Settings) => number, more: Parameters<typeof plainStudy>[1] = {}): Study {
  const base = plainStudy(4, more);
  const adopted = adoptPlan(base, makePlan(base, { family: "factorial", seed: 1 }));
  return {
    ...adopted,
    trials: adopted.trials.map((t) => ({ ...t, state: "done", results: { y: truth(t.settings) } })),
  };
}
const noise = (): number => random.normal();

describe("what choosing makes of noise alone", () => {
  it("is passed by models of noise in one of twenty: predicted R² is ranked where it comes from", () => {
    const studies = drawn(400, 120);
    let below = 0;
    let chosen = 0;
    for (let k = 0; k < studies; k++) {
      const study = factorial(noise);
      const fit = presentFit(study, "y");
      const guard = ofNoise(study, fit);
      if (!guard || guard.r2 === null) continue;
      chosen++;
      if ((fit.summary.r2Predicted ?? 0) < guard.r2) below++;
    }
    expect(chosen).toBe(studies);
    // 99 draws rank in hundredths: 95 of 100.
    const [least, most] = shareBounds(0.95, studies);
    expect(below / studies).toBeGreaterThan(least);
    expect(below / studies).toBeLessThanOrEqual(most);
  });
  it("is not passed by what is there", () => {
    const study = factorial(
      (s) => 10 + 3 * (s.a as number) - 2 * (s.b as number) + 2 * (s.a as number) * (s.b as number) + noise(),
    );
    const fit = presentFit(study, "y");
    const guard = ofNoise(study, fit);
    expect(guard?.r2).toBeLessThan(fit.summary.r2Predicted ?? 0);
    // Ten terms at p 0.15: one or two, and their parents.
    expect(guard?.kept).toBeGreaterThan(1);
    expect(guard?.kept).toBeLessThan(6);
  });
  it("is asked of no model that a person put together", () => {
    const study = parseStudy({ ...factorial(noise), models: [{ response: "y", terms: [["a"], ["c"]] }] });
    expect(ofNoise(study, presentFit(study, "y"))).toBeUndefined();
  });
});

describe("a residual too small for the noise there is", () => {
  it("beside stated noise: χ² of its degrees of freedom at 2.5 % (10.28 of 21 by tables)", () => {
    // 2³ run three times about its mean and two terms: residual on 21 degrees of freedom.
    const points = [...corners(3), ...corners(3), ...corners(3)];
    const y = points.map((p, i) => 10 + (p.a as number) + [0.5, -0.5, 0.25][Math.floor(i / 8)] * (i % 2 ? 1 : -1));
    const of = (stated: number) => {
      const study = withTrials(plainStudy(3, { responses: [{ id: "y", noise: stated }] }), points, y);
      return tooSmall(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
    };
    const { s } = fitModel(withTrials(plainStudy(3), points, y), "y", { terms: [["a"], ["b"]] }).summary;
    // s² < σ²·10.28/21 where σ > s·√(21/10.28) = 1.4293 s (χ² tables: 10.283).
    expect(of(1.42 * (s as number))).toBeUndefined();
    expect(of(1.44 * (s as number))).toMatchObject({ from: "stated", s });
  });
  it("beside copies: it lies below the least that their own variance may be", () => {
    // One copy of a corner lies 1 off it, all else on a line: 0.5 on one degree of freedom between copies, whose
    // variance is at least 0.5/5.024 (χ² tables at 97.5 %); what is left is below 1 on fifteen.
    const points = [...corners(4), { a: 1, b: 1, c: 1, d: 1 }];
    const y = points.map((p, i) => 10 + (p.a as number) + (i === 16 ? 1 : 0));
    const study = withTrials(plainStudy(4), points, y);
    expect(tooSmall(study, fitModel(study, "y", { terms: [["a"]] }))).toMatchObject({
      from: "copies",
      noise: expect.closeTo(Math.sqrt(0.5), 12),
    });
    // As much beside them, and nothing is wrong.
    const rough = withTrials(
      plainStudy(4),
      points,
      y.map((v, i) => v + (i === 16 || (i >> 1) % 2 ? 0.6 : -0.6)),
    );
    expect(tooSmall(rough, fitModel(rough, "y", { terms: [["a"]] }))).toBeUndefined();
  });
});
