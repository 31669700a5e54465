import { normalCdf } from "./distributions";

/** Normal errors of one of several sizes. */
export interface Scales {
  deviations: ArrayLike<number>;
  /** How likely each is, adding to 1; alike unless given. */
  weights?: ArrayLike<number>;
}

/** Half the width of what such errors stay within with some confidence: Σ wᵢ·2Φ(−h/sᵢ) = 1 − confidence. */
export function halfWidthOf({ deviations, weights }: Scales, confidence: number): number {
  const n = deviations.length;
  const outside = (half: number): number => {
    let total = 0;
    for (let i = 0; i < n; i++) total += (weights?.[i] ?? 1 / n) * 2 * normalCdf(-half / deviations[i]);
    return total;
  };
  let high = 0;
  let low = Number.POSITIVE_INFINITY;
  for (let i = 0; i < n; i++) {
    high = Math.max(high, deviations[i]);
    low = Math.min(low, deviations[i]);
  }
  if (!(high > 0)) return 0;
  high *= 10;
  low = Math.max(low * 1e-3, high * 1e-12);
  // Halved on the logarithm: sizes may span many powers of ten.
  for (let i = 0; i < 60 && high > low * (1 + 1e-6); i++) {
    const mid = Math.sqrt(low * high);
    if (outside(mid) > 1 - confidence) low = mid;
    else high = mid;
  }
  return Math.sqrt(low * high);
}
