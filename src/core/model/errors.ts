/**
 * Statistics of errors that do not depend on a model's parameters: functions of residuals over their standard error,
 * of which none has a p of its own here. `calibrate` ranks them among draws of the same model.
 */

/** Φ of the standard normal. */
type Cdf = (z: number) => number;

/** Mean and sum of squares about it, in two passes: these statistics are worked out thousands of times. */
function moments(values: ArrayLike<number>): { mean: number; squares: number } {
  const n = values.length;
  let total = 0;
  for (let i = 0; i < n; i++) total += values[i];
  const mean = total / n;
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (values[i] - mean) ** 2;
  return { mean, squares };
}

/** Anderson–Darling A² of values against a normal with their own mean and spread (Anderson & Darling 1954). */
export function andersonDarling(values: ArrayLike<number>, cdf: Cdf): number {
  const n = values.length;
  const { mean, squares } = moments(values);
  const spread = Math.sqrt(squares / (n - 1));
  const z = Float64Array.from(values).sort();
  let total = 0;
  for (let i = 0; i < n; i++) {
    // Whichever side is small is computed, so that neither loses its digits.
    const at = (z[i] - mean) / spread;
    const tail = cdf(-Math.abs(at));
    const small = Math.log(tail);
    const large = Math.log1p(-tail);
    total += at < 0 ? (2 * i + 1) * small + (2 * (n - i) - 1) * large : (2 * i + 1) * large + (2 * (n - i) - 1) * small;
  }
  return -n - total / n;
}

/** n·R² of squared residuals on fitted values (Koenker 1981); 0 where either does not vary. */
export function koenker(residuals: ArrayLike<number>, fitted: ArrayLike<number>): number {
  const n = residuals.length;
  const about = new Float64Array(n);
  for (let i = 0; i < n; i++) about[i] = residuals[i] ** 2;
  const own = moments(about);
  const line = moments(fitted);
  if (!(own.squares > 0) || !(line.squares > 1e-24 * n)) return 0;
  let sxy = 0;
  for (let i = 0; i < n; i++) sxy += (about[i] - own.mean) * (fitted[i] - line.mean);
  return (n * sxy * sxy) / (line.squares * own.squares);
}

/** Places in the run order of the trials of each wave, so that neighbours are never paired across waves. */
export const runsOf = (waves: readonly string[]): number[][] =>
  [...new Set(waves)].map((w) => waves.flatMap((v, i) => (v === w ? [i] : [])));

/** Durbin & Watson's (1950) ratio of squared steps between neighbours in a run to the squared residuals. */
export function durbinWatson(residuals: ArrayLike<number>, runs: readonly (readonly number[])[]): number {
  let squares = 0;
  for (let i = 0; i < residuals.length; i++) squares += residuals[i] ** 2;
  let steps = 0;
  for (const run of runs)
    for (let i = 1; i < run.length; i++) steps += (residuals[run[i]] - residuals[run[i - 1]]) ** 2;
  return steps / squares;
}

/** Brings the k-th smallest of the first n values to its place, none larger before it (quickselect; Hoare 1961). */
function select(v: Float64Array, n: number, k: number): number {
  let low = 0;
  let high = n - 1;
  while (low < high) {
    const pivot = v[k];
    let i = low;
    let j = high;
    while (i <= j) {
      while (v[i] < pivot) i++;
      while (v[j] > pivot) j--;
      if (i <= j) {
        const held = v[i];
        v[i++] = v[j];
        v[j--] = held;
      }
    }
    if (j < k) low = i;
    if (k < i) high = j;
  }
  return v[k];
}

/** Median of the first n values, whose order is changed. */
function medianOf(v: Float64Array, n: number): number {
  const half = n >> 1;
  const upper = select(v, n, half);
  if (n % 2) return upper;
  let lower = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < half; i++) if (v[i] > lower) lower = v[i];
  return (lower + upper) / 2;
}

/**
 * Brown & Forsythe's (1974) F: whether the sizes of errors about their group's median differ between groups, by an
 * analysis of variance of |e − median|.
 *
 * @param groups places of the values of each group; two or more of three or more
 */
export function brownForsythe(values: ArrayLike<number>, groups: readonly ArrayLike<number>[]): number {
  let between = 0;
  let within = 0;
  let all = 0;
  let n = 0;
  const own = new Float64Array(values.length);
  const sizes: number[] = [];
  for (const group of groups) {
    const m = group.length;
    for (let i = 0; i < m; i++) own[i] = values[group[i]];
    const middle = medianOf(own, m);
    let total = 0;
    let squares = 0;
    for (let i = 0; i < m; i++) {
      const size = Math.abs(own[i] - middle);
      total += size;
      own[i] = size;
    }
    const mean = total / m;
    for (let i = 0; i < m; i++) squares += (own[i] - mean) * (own[i] - mean);
    within += squares;
    sizes.push(mean);
    all += total;
    n += m;
  }
  for (let k = 0; k < groups.length; k++) between += groups[k].length * (sizes[k] - all / n) ** 2;
  return within > 0 ? between / (groups.length - 1) / (within / (n - groups.length)) : Number.POSITIVE_INFINITY;
}

/** F brought near a standard normal, so that those of different degrees of freedom compare (Paulson 1942). */
export function comparable(f: number, d1: number, d2: number): number {
  if (!Number.isFinite(f)) return f;
  const a = 2 / (9 * d1);
  const b = 2 / (9 * d2);
  const root = Math.cbrt(f);
  return ((1 - b) * root - (1 - a)) / Math.sqrt(b * root * root + a);
}
