import { describe, expect, it } from "vitest";
import { processorSeconds } from "../testing/processor";
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
  it.each(reference.chiSquaredUpper)("P(χ² > %f), %f df", (x, df, p) =>
    expect(digits(chiSquaredUpper(x as number, df as number), p)).toBeGreaterThan(11),
  );
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

describe("noncentral tails far out", () => {
  // With two degrees of freedom below, χ²₂ has the tail e^{−v/2}, so that both have closed forms: the noncentral F is
  // the moment generating function of χ'² at −1/(d₁f), the noncentral t by completing the square.
  const fExact = (f: number, d1: number, lambda: number): number => {
    const s = -1 / (d1 * f);
    return (1 - 2 * s) ** (-d1 / 2) * Math.exp((lambda * s) / (1 - 2 * s));
  };
  const tExact = (t: number, delta: number): number =>
    (t / Math.sqrt(t * t + 2)) *
    Math.exp((-delta * delta) / (t * t + 2)) *
    normalCdf((delta * t) / Math.hypot(t, Math.SQRT2));
  const cases = [1e3, 3e4, 1e6, 1e9].flatMap((delta) => [0.3, 0.8, 1, 1.5, 4].map((share) => [delta, share] as const));

  it.each(cases)("δ %f at %f of it, 2 df", (delta, share) => {
    const t = share * delta;
    expect(Math.abs(noncentralTCdf(t, 2, delta) - tExact(t, delta))).toBeLessThan(1e-10);
    for (const d1 of [1, 3, 12])
      expect(
        Math.abs(noncentralFCdf((t * t) / d1, d1, 2, delta * delta) - fExact((t * t) / d1, d1, delta * delta)),
      ).toBeLessThan(1e-10);
  });

  it.each([1, 5, 40, 1000, 100_000])("nothing jumps where the way of summing changes, %i df", (df) => {
    const [below, above] = [Math.sqrt(2e5 * (1 - 1e-12)), Math.sqrt(2e5 * (1 + 1e-12))];
    for (const share of [0.9, 0.999, 1, 1.001, 1.1]) {
      const t = share * below;
      expect(Math.abs(noncentralTCdf(t, df, below) - noncentralTCdf(t, df, above))).toBeLessThan(1e-8);
      for (const d1 of [2, 30]) {
        const f = (t * t) / d1;
        expect(
          Math.abs(noncentralFCdf(f, d1, df, below ** 2) - noncentralFCdf(f, d1, df, above ** 2)),
          `F ${share} ${d1}`,
        ).toBeLessThan(1e-8);
      }
    }
  });

  it("come to 0 and 1, from either side, in bounded time", () => {
    const seconds = processorSeconds(() => {
      for (const delta of [1e4, 1e9, 1e100, 1e150]) {
        expect(noncentralTCdf(2, 10, delta)).toBe(0);
        expect(noncentralTCdf(-2, 10, -delta)).toBe(1);
        expect(noncentralTCdf(2, 10, -delta)).toBe(1);
        expect(noncentralFCdf(4, 3, 10, delta * delta)).toBe(0);
      }
    });
    expect(seconds).toBeLessThan(10);
  });
});
