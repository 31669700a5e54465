import { describe, expect, it } from "vitest";
import { processorSeconds } from "../testing/processor";
import {
  type CountLaw,
  central,
  exactRateInterval,
  exactShareInterval,
  mixture,
  mixtureAlong,
  quantileOf,
  rateLaw,
  shareLaw,
  within,
} from "./counts";
import { chiSquaredQuantile, normalCdf } from "./distributions";

/** Σ of something over all numbers that a law may be worth asking of. */
function sumOver(law: CountLaw, of: (k: number) => number): number {
  const far = Math.min(law.most, Math.ceil(law.middle + 60 * law.spread + 200));
  let total = 0;
  for (let k = 0; k <= far; k++) total += law.at(k) * of(k);
  return total;
}
const meanOf = (law: CountLaw): number => sumOver(law, (k) => k);
function varianceOf(law: CountLaw): number {
  const mean = meanOf(law);
  return sumOver(law, (k) => (k - mean) ** 2);
}

describe("how counts fall", () => {
  it("binomial: by its coefficients, whole", () => {
    const law = shareLaw(5, 0.3, 0);
    [1, 5, 10, 10, 5, 1].forEach((c, k) => {
      expect(law.at(k)).toBeCloseTo(c * 0.3 ** k * 0.7 ** (5 - k), 14);
    });
  });
  it("beta-binomial: Pólya's urn in fractions", () => {
    // a = 1, b = 2 (share 1/3, ρ = 1/4), three drawn: P(0) = 2·3·4/(3·4·5) = 2/5, then 3/10, 1/5, 1/10.
    const law = shareLaw(3, 1 / 3, 1 / 4);
    [0.4, 0.3, 0.2, 0.1].forEach((p, k) => {
      expect(law.at(k)).toBeCloseTo(p, 13);
    });
  });
  it("beta-binomial: even where most lots are all or nothing", () => {
    // a = b = 1/2: the arc sine law's counts, (2k choose k)(2(n−k) choose n−k)/4ⁿ.
    const law = shareLaw(4, 0.5, 0.5);
    [70, 40, 36, 40, 70].forEach((c, k) => {
      expect(law.at(k)).toBeCloseTo(c / 256, 13);
    });
    expect(meanOf(shareLaw(3000, 0.2, 0.9))).toBeCloseTo(600, 6);
  });
  it.each([
    [400, 0.03, 0],
    [400, 0.03, 0.01],
    [5000, 0.4, 0.002],
    [50, 0.999, 0.02],
  ])("shares of %d at %d, ρ %d: mean nπ, variance nπ(1−π)(1+(n−1)ρ)", (n, share, rho) => {
    const law = shareLaw(n, share, rho);
    expect(meanOf(law) / (n * share)).toBeCloseTo(1, 11);
    expect(varianceOf(law) / (n * share * (1 - share) * (1 + (n - 1) * rho))).toBeCloseTo(1, 9);
  });
  it.each([
    [3.7, 0],
    [3.7, 0.3],
    [900, 0.05],
    [0.02, 2],
  ])("counts of %d, κ %d: mean μ, variance μ + κμ²; Poisson's e^−μ", (mean, kappa) => {
    const law = rateLaw(mean, kappa);
    expect(meanOf(law) / mean).toBeCloseTo(1, 9);
    expect(varianceOf(law) / (mean + kappa * mean ** 2)).toBeCloseTo(1, 7);
    if (kappa === 0) expect(law.at(0)).toBeCloseTo(Math.exp(-mean), 13);
    else expect(law.at(0) / (1 + kappa * mean) ** (-1 / kappa)).toBeCloseTo(1, 10);
  });
  it("stays where nothing, or everything, is certain", () => {
    expect(within(shareLaw(9, 0, 0.1), 0, 0)).toBe(1);
    expect(within(shareLaw(9, 1, 0.1), 9, 9)).toBe(1);
    expect(within(rateLaw(0, 0.1), 0, 0)).toBe(1);
  });
  it("mixes and cuts at its tails", () => {
    const mixed = mixture([shareLaw(2, 0.5, 0), shareLaw(2, 1, 0)], [0.5, 0.5]);
    expect([0, 1, 2].map(mixed.at)).toEqual([0.125, 0.25, 0.625]);
    expect(central(mixed, 0.05)).toEqual([0, 2]);
    expect(central(mixed, 0.125)).toEqual([1, 2]);
    expect(central(shareLaw(20, 0.5, 0), 0.025)).toEqual([6, 14]);
  });
});

describe("exact intervals", () => {
  it("of a share: none of n in closed form, and the tables' 10 of 100", () => {
    const [low, high] = exactShareInterval(0, 50, 0.95);
    expect(low).toBe(0);
    expect(high).toBeCloseTo(1 - 0.025 ** (1 / 50), 12);
    expect(exactShareInterval(50, 50, 0.95)[0]).toBeCloseTo(0.025 ** (1 / 50), 12);
    // Clopper & Pearson (1934): 4.9 to 17.6 %.
    const ends = exactShareInterval(10, 100, 0.95);
    expect(ends[0]).toBeCloseTo(0.049, 3);
    expect(ends[1]).toBeCloseTo(0.1762, 4);
  });
  it("of a rate: none in closed form, and Garwood's (1936) five", () => {
    expect(exactRateInterval(0, 2, 0.95)).toEqual([0, expect.closeTo(-Math.log(0.025) / 2, 9)]);
    const [low, high] = exactRateInterval(5, 1, 0.95);
    expect(low).toBeCloseTo(1.62, 2);
    expect(high).toBeCloseTo(11.67, 2);
  });
});

/** Sums of probabilities from their ratios, each in doubled precision's place by Neumaier's sum: no law of ours. */
function sumsByRatios(most: number, up: (k: number) => number): Float64Array {
  const logs = new Float64Array(most + 1);
  for (let k = 0; k < most; k++) logs[k + 1] = logs[k] + Math.log(up(k));
  const top = logs.reduce((m, v) => Math.max(m, v), Number.NEGATIVE_INFINITY);
  const sums = new Float64Array(most + 1);
  let sum = 0;
  let rest = 0;
  for (let k = 0; k <= most; k++) {
    const p = Math.exp(logs[k] - top);
    const next = sum + p;
    rest += sum >= p ? sum - next + p : p - next + sum;
    sum = next;
    sums[k] = sum + rest;
  }
  return sums.map((v) => v / sums[most]);
}

describe("counts too many to be listed", () => {
  const binomial = (n: number, share: number) => (k: number) => ((n - k) / (k + 1)) * (share / (1 - share));
  const urn = (n: number, a: number, b: number) => (k: number) => ((n - k) / (k + 1)) * ((a + k) / (b + n - k - 1));
  const negative = (mean: number, kappa: number) => (k: number) =>
    (mean * (1 + kappa * k)) / ((k + 1) * (1 + kappa * mean));
  const pars = (share: number, rho: number): [number, number] => [
    (share * (1 - rho)) / rho,
    ((1 - share) * (1 - rho)) / rho,
  ];
  it.each([
    ["binomial", shareLaw(2_000_000, 0.3, 0), sumsByRatios(2_000_000, binomial(2_000_000, 0.3))],
    ["beta-binomial", shareLaw(100_000, 0.2, 0.01), sumsByRatios(100_000, urn(100_000, ...pars(0.2, 0.01)))],
    ["beta-binomial, rare", shareLaw(100_000, 0.01, 0.02), sumsByRatios(100_000, urn(100_000, ...pars(0.01, 0.02)))],
    ["beta-binomial, all or nothing", shareLaw(50_000, 0.3, 0.6), sumsByRatios(50_000, urn(50_000, ...pars(0.3, 0.6)))],
    ["Poisson", rateLaw(200_000, 0), sumsByRatios(210_000, (k) => 200_000 / (k + 1))],
    ["negative binomial", rateLaw(10_000, 0.05), sumsByRatios(60_000, negative(10_000, 0.05))],
    ["negative binomial, scattered", rateLaw(500, 2), sumsByRatios(60_000, negative(500, 2))],
    ["binomial, as narrow as none is listed", shareLaw(8000, 0.5, 0), sumsByRatios(8000, binomial(8000, 0.5))],
  ] as const)("%s: sums of all probabilities, to 1e-9, and its quantiles", (_name, law, sums) => {
    expect(law.listed).toBeUndefined();
    for (const p of [1e-6, 0.01, 0.2, 0.5, 0.9, 0.999]) {
      const k = sums.findIndex((v) => v > p);
      expect(Math.abs(law.upTo(k) - sums[k])).toBeLessThan(1e-9);
      expect(Math.abs(quantileOf(law, p) - k)).toBeLessThanOrEqual(1);
      expect(Math.abs(within(law, k + 1, sums.length) - (1 - sums[k]))).toBeLessThan(1e-9);
      expect(law.at(k) / (sums[k] - (sums[k - 1] ?? 0))).toBeCloseTo(1, 5);
      expect(normalCdf(law.normal(k))).toBeCloseTo(sums[k], 9);
    }
    const [low, high] = central(law, 0.025);
    expect([law.upTo(low) > 0.025, law.upTo(low - 1) > 0.025]).toEqual([true, false]);
    expect([1 - law.upTo(high - 1) > 0.025, 1 - law.upTo(high) > 0.025]).toEqual([true, false]);
  });
  it("ten million events, or a mean that nobody can count, take no array and no time", () => {
    const seconds = processorSeconds(() => {
      for (const law of [rateLaw(1e7, 0.1), rateLaw(8.8e10, 0.3), shareLaw(1e7, 0.4, 0.02), rateLaw(1e300, 1)]) {
        expect(law.listed).toBeUndefined();
        const [low, high] = central(law, 0.025);
        expect(low).toBeGreaterThan(0);
        expect(high).toBeGreaterThanOrEqual(low);
      }
    });
    expect(seconds).toBeLessThan(2);
    // Nearly gamma: χ² of 2/κ degrees of freedom over them, times the mean (Wilson & Hilferty agree to 1 %).
    const [low, high] = central(rateLaw(1e9, 0.2), 0.025);
    expect(low / 1e9).toBeCloseTo(chiSquaredQuantile(0.025, 10) / 10, 4);
    expect(high / 1e9).toBeCloseTo(chiSquaredQuantile(0.975, 10) / 10, 4);
  });
  it("mixtures of narrow laws along a line, too: few pieces, rare events, all or nothing", () => {
    const logistic = (z: number): number => 1 / (1 + Math.exp(-z));
    for (const lawAt of [
      (z: number) => shareLaw(50, logistic(z), 0.01),
      (z: number) => shareLaw(12, logistic(z), 0),
      (z: number) => shareLaw(20, logistic(z), 0.7),
      (z: number) => rateLaw(Math.exp(z), 0.3),
      (z: number) => rateLaw(Math.exp(2 * z), 0),
      (z: number) => rateLaw(Math.exp(z), 5),
    ])
      for (const [middle, half] of [
        [-1, 0.001],
        [-1, 0.4],
        [0.5, 3],
        [-6, 2],
        [0, 60],
      ]) {
        const places = Array.from({ length: 101 }, (_, i) => middle + (half * (i - 50)) / 50);
        const along = mixtureAlong(lawAt, places);
        const each = mixture(places.map(lawAt));
        for (const k of [0, 1, 2, 5, 11, 19, 40, 60])
          expect(Math.abs(along.upTo(k) - each.upTo(k)), `${middle} ± ${half} at ${k}`).toBeLessThan(1e-9);
        expect(central(along, 0.025)).toEqual(central(each, 0.025));
      }
  });
  it("mixtures along a line are those of the laws one by one, to 1e-9", () => {
    for (const lawAt of [
      (z: number) => rateLaw(Math.exp(z), 0.02),
      (z: number) => rateLaw(Math.exp(z), 0),
      (z: number) => rateLaw(Math.exp(10 * z - 90), 1e-7),
      (z: number) => shareLaw(200_000, 1 / (1 + Math.exp(11 - z)), 0.003),
    ]) {
      // What is not known of the mean beside how far a law spreads: much less, as much, and far more.
      for (const half of [0.0005, 0.02, 0.2, 3]) {
        const places = Array.from({ length: 41 }, (_, i) => 10.6 + (half * (i - 20)) / 20);
        const along = mixtureAlong(lawAt, places);
        const each = mixture(places.map(lawAt));
        for (const p of [0.001, 0.03, 0.4, 0.8, 0.99]) {
          const k = quantileOf(each, p);
          expect(Math.abs(along.upTo(k) - each.upTo(k))).toBeLessThan(1e-9);
          expect(quantileOf(along, p)).toBe(k);
        }
      }
    }
  });
});
