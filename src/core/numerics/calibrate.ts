/** A p of one statistic by itself, and among all of a family (Westfall & Young 1993). */
export interface Calibrated {
  p: number;
  adjusted: number;
}

/** Values this close to one another count as equal. */
const TIE = 1e-9;

/** Of each value, the share of all that are as large or larger; ties count as larger. */
function upperShares(values: ArrayLike<number>): Float64Array {
  const n = values.length;
  const sorted = Float64Array.from(values).sort();
  const out = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const least = Number.isFinite(values[i]) ? values[i] - TIE * Math.max(1, Math.abs(values[i])) : values[i];
    // How many lie below: the first place not below, by halving.
    let low = 0;
    let high = n;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (sorted[mid] < least) low = mid + 1;
      else high = mid;
    }
    out[i] = (n - low) / n;
  }
  return out;
}

/**
 * Ranks statistics among vectors of the same statistics drawn under the null: p is the share of vectors, the data's
 * own among them, with as large a value; adjusted the share whose smallest p is as small (single-step min-p; Westfall
 * & Young 1993).
 *
 * @param vectors one row per vector, the data's own first; larger is less likely
 */
export function calibrate(vectors: readonly ArrayLike<number>[]): Calibrated[] {
  const statistics = vectors[0].length;
  const n = vectors.length;
  const least = new Float64Array(n).fill(1);
  const shares = Array.from({ length: statistics }, (_, s) => {
    const own = upperShares(Float64Array.from(vectors, (v) => v[s]));
    for (let i = 0; i < n; i++) least[i] = Math.min(least[i], own[i]);
    return own[0];
  });
  const sorted = least.slice().sort();
  return shares.map((p) => {
    let count = 0;
    while (count < n && sorted[count] <= p + 1e-12) count++;
    return { p, adjusted: count / n };
  });
}

/** Turns values that are telling at both ends into ones that are so at the top: their distance from the middle rank. */
export function bothEnds(values: ArrayLike<number>): Float64Array {
  const n = values.length;
  const upper = upperShares(values);
  const lower = upperShares(Float64Array.from(values, (v) => -v));
  // The less likely of the two ends decides.
  return Float64Array.from({ length: n }, (_, i) => -Math.min(upper[i], lower[i]));
}
