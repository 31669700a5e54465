/** A p of one question by itself, and among all of a family (Westfall & Young 1993). */
export interface Calibrated {
  p: number;
  adjusted: number;
  /** Of a statistic among its like, where a question is asked by several: the least tells which one speaks. */
  share: number;
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
 * & Young 1993). Of a question that several statistics ask, p is the share of vectors whose smallest of them is as
 * small.
 *
 * @param vectors one row per vector, the data's own first; larger is less likely
 * @param questions which one each statistic asks; each its own unless said
 */
export function calibrate(vectors: readonly ArrayLike<number>[], questions?: readonly unknown[]): Calibrated[] {
  const n = vectors.length;
  const asked = questions ?? Array.from(vectors[0], (_, s) => s);
  const shares = Array.from(vectors[0], (_, s) => upperShares(Float64Array.from(vectors, (v) => v[s])));
  const least = new Float64Array(n).fill(1);
  const byQuestion = new Map(
    [...new Set(asked)].map((question) => {
      const own = shares.filter((__, s) => asked[s] === question);
      const smallest = own[0].map((v, i) => own.reduce((m, o) => Math.min(m, o[i]), v));
      const p = own.length === 1 ? smallest : upperShares(smallest.map((v) => -v));
      for (let i = 0; i < n; i++) least[i] = Math.min(least[i], p[i]);
      return [question, p[0]] as const;
    }),
  );
  const sorted = least.slice().sort();
  return shares.map((own, s) => {
    const p = byQuestion.get(asked[s]) as number;
    let count = 0;
    while (count < n && sorted[count] <= p + 1e-12) count++;
    return { p, adjusted: count / n, share: own[0] };
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
