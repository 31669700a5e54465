import { describe, expect, it } from "vitest";
import reference from "../testing/reference.json";
import { tQuantile } from "./distributions";
import {
  maximumModulusQuantile,
  maximumModulusUpper,
  studentizedRangeQuantile,
  studentizedRangeUpper,
} from "./multiple-comparisons";

type Row = [number, number, number, string];

// References: scripts/reference/make.py, from the definitions by 50- and 18-digit quadrature.
describe("the largest of several values over one deviation", () => {
  it.each(reference.maximumModulusUpper as Row[])("P(max |t| > %f) of %i on %f df, to 1e−9", (q, k, df, p) =>
    expect(Math.abs(maximumModulusUpper(q, k, df) - Number(p))).toBeLessThan(1e-9),
  );

  it.each(reference.studentizedRangeUpper as Row[])("P(range > %f) of %i on %f df, to 1e−9", (q, r, df, p) =>
    expect(Math.abs(studentizedRangeUpper(q, r, df) - Number(p))).toBeLessThan(1e-9),
  );

  it("quantiles as printed: range of 3 on 10 df 3.877, of 5 on 20 df 4.232 (Harter 1960)", () => {
    expect(studentizedRangeQuantile(0.95, 3, 10)).toBeCloseTo(3.877, 3);
    expect(studentizedRangeQuantile(0.95, 5, 20)).toBeCloseTo(4.232, 3);
  });

  it("maximum modulus as printed: 5 on 10 df 3.103, 10 on 20 df 3.114 (Stoline & Ury 1979)", () => {
    expect(maximumModulusQuantile(0.95, 5, 10)).toBeCloseTo(3.103, 3);
    expect(maximumModulusQuantile(0.95, 10, 20)).toBeCloseTo(3.114, 3);
  });

  it("one value is Student's t, two values' range √2 t, at any df", () => {
    for (const df of [1, 2, 5, 60]) {
      expect(maximumModulusQuantile(0.95, 1, df) / tQuantile(0.975, df)).toBeCloseTo(1, 7);
      expect(studentizedRangeQuantile(0.95, 2, df) / (Math.SQRT2 * tQuantile(0.975, df))).toBeCloseTo(1, 7);
    }
  });

  it("a known deviation gives 1 − (1 − α)^(1/k) each", () => {
    // Φ⁻¹((1 + 0.95^(1/8))/2) = 2.72700789672 (mpmath).
    expect(maximumModulusQuantile(0.95, 8, null)).toBeCloseTo(2.72700789672, 9);
    expect(studentizedRangeQuantile(0.95, 3, null)).toBeCloseTo(3.314493155, 7);
  });
});
