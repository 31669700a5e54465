import { describe, expect, it } from "vitest";
import { drawBinomial, drawPoisson, drawRate, drawShare } from "./count-draws";
import { type Random, seededRandom } from "./random";

const DRAWS = 40_000;

/** Sums of probabilities from their ratios, from 0 on, scaled to one. */
function sumsOf(most: number, up: (k: number) => number): Float64Array {
  const logs = new Float64Array(most + 1);
  for (let k = 0; k < most; k++) logs[k + 1] = logs[k] + Math.log(up(k));
  const top = logs.reduce((m, v) => Math.max(m, v), Number.NEGATIVE_INFINITY);
  let total = 0;
  const sums = logs.map((v) => {
    total += Math.exp(v - top);
    return total;
  });
  return sums.map((v) => v / total);
}
const binomial = (n: number, share: number) => sumsOf(n, (k) => ((n - k) / (k + 1)) * (share / (1 - share)));
const urn = (n: number, share: number, rho: number) => {
  const [a, b] = [(share * (1 - rho)) / rho, ((1 - share) * (1 - rho)) / rho];
  return sumsOf(n, (k) => ((n - k) / (k + 1)) * ((a + k) / (b + n - k - 1)));
};
const poisson = (mean: number) => sumsOf(Math.ceil(mean + 20 * Math.sqrt(mean) + 40), (k) => mean / (k + 1));
const negative = (mean: number, kappa: number) =>
  sumsOf(Math.ceil(40 * (mean + 1)), (k) => (mean * (1 + kappa * k)) / ((k + 1) * (1 + kappa * mean)));

const CASES: [string, (random: Random) => number, Float64Array][] = [
  ["Poisson, few", (r) => drawPoisson(2.3, r), poisson(2.3)],
  ["Poisson, where rejection begins", (r) => drawPoisson(10, r), poisson(10)],
  ["Poisson, many", (r) => drawPoisson(100_000, r), poisson(100_000)],
  ["binomial, few", (r) => drawBinomial(40, 0.1, r), binomial(40, 0.1)],
  ["binomial, where rejection begins", (r) => drawBinomial(25, 0.45, r), binomial(25, 0.45)],
  ["binomial, mostly", (r) => drawBinomial(300, 0.93, r), binomial(300, 0.93)],
  ["binomial, many", (r) => drawBinomial(400_000, 0.3, r), binomial(400_000, 0.3)],
  ["shares that vary", (r) => drawShare(300, 0.1, 0.02, r), urn(300, 0.1, 0.02)],
  ["shares that are all or nothing", (r) => drawShare(50, 0.3, 0.8, r), urn(50, 0.3, 0.8)],
  ["counts that vary", (r) => drawRate(60, 0.2, r), negative(60, 0.2)],
  ["counts that vary much", (r) => drawRate(4, 2, r), negative(4, 2)],
];

describe("numbers drawn", () => {
  it.each(CASES)("%s: as often up to each number as sums of its probabilities say", (_name, draw, sums) => {
    const random = seededRandom(11);
    const drawn = Float64Array.from({ length: DRAWS }, () => draw(random)).sort();
    expect(drawn[0]).toBeGreaterThanOrEqual(0);
    for (const p of [0.02, 0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9, 0.98]) {
      const k = sums.findIndex((v) => v >= p);
      const above = drawn.findIndex((v) => v > k);
      const share = (above < 0 ? DRAWS : above) / DRAWS;
      expect(Math.abs(share - sums[k])).toBeLessThan(4.5 * Math.sqrt((sums[k] * (1 - sums[k]) + 1e-6) / DRAWS));
    }
  });
  it("what is certain, and what nobody can count, ends", () => {
    const random = seededRandom(1);
    expect([drawShare(9, 0, 0.1, random), drawShare(9, 1, 0.1, random), drawRate(0, 0.1, random)]).toEqual([0, 9, 0]);
    expect(drawPoisson(Number.POSITIVE_INFINITY, random)).toBe(Number.MAX_SAFE_INTEGER);
    expect([0, 7]).toContain(drawShare(7, 0.4, 1, random));
    expect(drawRate(5, 1e12, random)).toBeGreaterThanOrEqual(0);
  });
});
