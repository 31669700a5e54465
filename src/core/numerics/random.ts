import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";

/** Seeded source of random numbers; the only one the core uses. */
export interface Random {
  /** Uniform on [0, 1) with 53 bits. */
  uniform(): number;
  /** Standard normal. */
  normal(): number;
  /** Whole number in 0 … n − 1. */
  below(n: number): number;
  /** Chi-squared with `df` > 0 degrees of freedom (a gamma draw, Marsaglia & Tsang 2000). */
  chiSquared(df: number): number;
  /** New array in random order (Fisher–Yates, Durstenfeld 1964). */
  shuffled<T>(items: readonly T[]): T[];
}

/** xoroshiro128+ (Blackman & Vigna 2018) started from a whole-number seed. */
export function seededRandom(seed: number): Random {
  // Seeds next to each other are spread apart first (a finaliser of Stafford's kind), else their first draws look
  // alike.
  let h = Math.trunc(seed) | 0;
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  const generator = xoroshiro128plus(h ^ (h >>> 16));
  const uniform = (): number => ((generator.next() >>> 5) * 67108864 + (generator.next() >>> 6)) / 9007199254740992;
  let spare = Number.NaN;

  function normal(): number {
    if (!Number.isNaN(spare)) {
      const kept = spare;
      spare = Number.NaN;
      return kept;
    }
    // Polar method (Marsaglia & Bray 1964): two normals a round, one kept for the next call.
    for (;;) {
      const u = 2 * uniform() - 1;
      const v = 2 * uniform() - 1;
      const r = u * u + v * v;
      if (r > 0 && r < 1) {
        const scale = Math.sqrt((-2 * Math.log(r)) / r);
        spare = v * scale;
        return u * scale;
      }
    }
  }

  function gamma(shape: number): number {
    if (shape < 1) return gamma(shape + 1) * (1 - uniform()) ** (1 / shape);
    const d = shape - 1 / 3;
    const c = 1 / Math.sqrt(9 * d);
    for (;;) {
      const z = normal();
      // A power would cost more than all else here.
      const root = 1 + c * z;
      const v = root * root * root;
      if (!(v > 0)) continue;
      const u = 1 - uniform();
      const square = z * z;
      // Their squeeze: it accepts only what the logarithms would, and spares them nearly always.
      if (u < 1 - 0.0331 * square * square || Math.log(u) < 0.5 * square + d - d * v + d * Math.log(v)) return d * v;
    }
  }

  const below = (n: number): number => Math.floor(uniform() * n);
  return {
    uniform,
    normal,
    below,
    chiSquared: (df) => 2 * gamma(df / 2),
    shuffled<T>(items: readonly T[]): T[] {
      const copy = items.slice();
      for (let i = copy.length - 1; i > 0; i--) {
        const j = below(i + 1);
        const held = copy[i];
        copy[i] = copy[j];
        copy[j] = held;
      }
      return copy;
    },
  };
}
