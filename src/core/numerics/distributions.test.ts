import { describe, expect, it } from "vitest";
import reference from "../testing/reference.json";
import { digits } from "../testing/studies";
import {
  chiSquaredUpper,
  digamma,
  fQuantile,
  fUpper,
  noncentralFCdf,
  noncentralTCdf,
  normalCdf,
  normalQuantile,
  tQuantile,
  tTwoSided,
  tUpper,
} from "./distributions";

// References: scripts/reference/make.py, 50-digit arithmetic from the definitions.
describe("central distributions agree with 50-digit references to a relative 1e−10, tails included", () => {
  it.each(reference.tUpper)("P(T > %f), %f df", (t, df, p) =>
    expect(digits(tUpper(t as number, df as number), p)).toBeGreaterThan(10),
  );
  it.each(reference.fUpper)("P(F > %f), %f and %f df", (f, a, b, p) =>
    expect(digits(fUpper(f as number, a as number, b as number), p)).toBeGreaterThan(10),
  );
  it.each(reference.tQuantile)("t quantile %s, %s df", (p, df, t) =>
    expect(digits(tQuantile(Number(p), Number(df)), t)).toBeGreaterThan(12),
  );
  it.each(reference.fQuantile)("F quantile %s, %s and %s df", (p, a, b, f) =>
    expect(digits(fQuantile(Number(p), Number(a), Number(b)), f)).toBeGreaterThan(11),
  );
  it("t with one df is Cauchy: P(|T| > 1) = 1/2", () => expect(tTwoSided(1, 1)).toBeCloseTo(0.5, 14));
  it("χ² with two df is exponential", () => expect(digits(chiSquaredUpper(30, 2), Math.exp(-15))).toBeGreaterThan(12));
  it("the normal and its inverse undo each other", () => {
    for (const p of [1e-12, 0.001, 0.3, 0.5, 0.975])
      expect(digits(normalCdf(normalQuantile(p)), p)).toBeGreaterThan(11);
  });
  it("digamma(1) is minus Euler's constant", () => expect(digamma(1)).toBeCloseTo(-0.5772156649015329, 13));
});

describe("noncentral distributions agree to an absolute 1e−10", () => {
  it.each(reference.noncentralT)("t %f, %f df, δ %f", (t, df, d, p) =>
    expect(Math.abs(noncentralTCdf(t as number, df as number, d as number) - Number(p))).toBeLessThan(1e-10),
  );
  it.each(reference.noncentralF)("F %f, %f and %f df, λ %f", (f, a, b, l, p) =>
    expect(Math.abs(noncentralFCdf(f as number, a as number, b as number, l as number) - Number(p))).toBeLessThan(
      1e-10,
    ),
  );
});
