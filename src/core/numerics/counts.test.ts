import { describe, expect, it } from "vitest";
import { central, exactRateInterval, exactShareInterval, mixture, rateLaw, shareLaw, within } from "./counts";

const meanOf = ({ from, probabilities }: ReturnType<typeof shareLaw>): number =>
  probabilities.reduce((t, p, i) => t + p * (from + i), 0);
const varianceOf = (law: ReturnType<typeof shareLaw>): number => {
  const mean = meanOf(law);
  return law.probabilities.reduce((t, p, i) => t + p * (law.from + i - mean) ** 2, 0);
};
const at = ({ from, probabilities }: ReturnType<typeof shareLaw>, k: number): number => probabilities[k - from] ?? 0;

describe("how counts fall", () => {
  it("binomial: by its coefficients, whole", () => {
    const law = shareLaw(5, 0.3, 0);
    [1, 5, 10, 10, 5, 1].forEach((c, k) => {
      expect(at(law, k)).toBeCloseTo(c * 0.3 ** k * 0.7 ** (5 - k), 14);
    });
  });
  it("beta-binomial: Pólya's urn in fractions", () => {
    // a = 1, b = 2 (share 1/3, ρ = 1/4), three drawn: P(0) = 2·3·4/(3·4·5) = 2/5, then 3/10, 1/5, 1/10.
    const law = shareLaw(3, 1 / 3, 1 / 4);
    [0.4, 0.3, 0.2, 0.1].forEach((p, k) => {
      expect(at(law, k)).toBeCloseTo(p, 13);
    });
  });
  it("beta-binomial: even where most lots are all or nothing", () => {
    // a = b = 1/2: the arc sine law's counts, (2k choose k)(2(n−k) choose n−k)/4ⁿ.
    const law = shareLaw(4, 0.5, 0.5);
    [70, 40, 36, 40, 70].forEach((c, k) => {
      expect(at(law, k)).toBeCloseTo(c / 256, 13);
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
    if (kappa === 0) expect(at(law, 0)).toBeCloseTo(Math.exp(-mean), 13);
    else if (law.from === 0) expect(at(law, 0) / (1 + kappa * mean) ** (-1 / kappa)).toBeCloseTo(1, 10);
  });
  it("stays where nothing, or everything, is certain", () => {
    expect(within(shareLaw(9, 0, 0.1), 0, 0)).toBe(1);
    expect(within(shareLaw(9, 1, 0.1), 9, 9)).toBe(1);
    expect(within(rateLaw(0, 0.1), 0, 0)).toBe(1);
  });
  it("mixes and cuts at its tails", () => {
    const mixed = mixture([shareLaw(2, 0.5, 0), shareLaw(2, 1, 0)], [0.5, 0.5]);
    expect(Array.from(mixed.probabilities)).toEqual([0.125, 0.25, 0.625]);
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
