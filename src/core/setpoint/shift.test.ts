import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { shiftHalfWidth } from "./shift";

describe("confirmations with the variance between waves (definition 20)", () => {
  const settings = [...corners(2), ...corners(2), ...corners(2), ...corners(2)];
  const y = [18.3, 21.8, 18.4, 21.9, 19.15, 22.55, 19.05, 22.45, 18.95, 23.1, 18.6, 23.0, 17.35, 21.85, 17.25, 21.45];
  const waveOf = (i: number): string => (i < 4 ? "u" : i < 12 ? "v" : "w");
  const study = withTrials(plainStudy(2), settings, y, { wave: waveOf });
  const half = (of: typeof study, m: number): number | null => {
    const fit = fitModel(of, "y", { terms: [["a"], ["b"]] });
    const row = new Float64Array(fit.model.columns.length);
    fit.model.linear({ a: 0.5, b: -0.5 }, row);
    return shiftHalfWidth(fit, fit.model.predictive(row), { m }, 0.95);
  };
  it("three waves of unlike size: 3.446 for the mean of three (numpy, four million draws)", () => {
    // M 0.47840, c 0.20833, s² 0.081080 on 11 df; 5,000 draws here leave about two percent.
    expect((half(study, 3) ?? 0) / 3.4465).toBeCloseTo(1, 1);
    expect(Math.abs((half(study, 3) ?? 0) / 3.4465 - 1)).toBeLessThan(0.05);
  });
  it("is the same whenever it is asked, wider than noise alone, and absent for one wave", () => {
    expect(half(study, 3)).toBe(half(study, 3));
    // t on 11 df times s·√(d + 1/3) is 0.42.
    expect(half(study, 3)).toBeGreaterThan(0.42);
    expect(half(withTrials(plainStudy(2), settings, y), 3)).toBeNull();
  });
});
