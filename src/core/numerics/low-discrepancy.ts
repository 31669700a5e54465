import type { Random } from "./random";

/** The first primes, as many as asked for. */
function primes(count: number): number[] {
  const found: number[] = [];
  for (let n = 2; found.length < count; n++) if (found.every((p) => n % p !== 0)) found.push(n);
  return found;
}

/**
 * Points of the Halton sequence with every digit of every dimension permuted at random: each point is uniform, and
 * together they cover the cube more evenly than independent ones (Owen 2017, "A randomized Halton algorithm in R").
 *
 * @returns `count` points of numbers in [0, 1)
 */
export function scrambledHalton(count: number, dimensions: number, random: Random): Float64Array[] {
  const points = Array.from({ length: count }, () => new Float64Array(dimensions));
  primes(dimensions).forEach((base, d) => {
    const digits = Array.from({ length: base }, (_, i) => i);
    // Digits past what numbers of this size hold add nothing.
    for (let place = 1 / base; place > 2 ** -54; place /= base) {
      const scrambled = random.shuffled(digits);
      const power = Math.round(1 / (place * base));
      for (let i = 0; i < count; i++) points[i][d] += scrambled[Math.floor(i / power) % base] * place;
    }
    // Rounding may reach 1.
    for (const p of points) p[d] = Math.min(p[d], 1 - 2 ** -53);
  });
  return points;
}
