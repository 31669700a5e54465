/** Sum with running compensation (Neumaier 1974). */
export function sum(values: ArrayLike<number>): number {
  let total = 0;
  let lost = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    const next = total + v;
    lost += Math.abs(total) >= Math.abs(v) ? total - next + v : v - next + total;
    total = next;
  }
  return total + lost;
}

/** Arithmetic mean. */
export const mean = (values: ArrayLike<number>): number => sum(values) / values.length;

/** Sum of squares about the mean, in two passes with the correction of Chan, Golub & LeVeque (1983). */
export function sumOfSquares(values: ArrayLike<number>): number {
  const centre = mean(values);
  const squares = new Float64Array(values.length);
  const plain = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) {
    plain[i] = values[i] - centre;
    squares[i] = plain[i] * plain[i];
  }
  const rest = sum(plain);
  return sum(squares) - (rest * rest) / values.length;
}

/** Middle value; the mean of the two middle ones for an even count. */
export function median(values: readonly number[]): number {
  const sorted = values.slice().sort((a, b) => a - b);
  const mid = sorted.length >> 1;
  return sorted.length % 2 ? sorted[mid] : (sorted[mid - 1] + sorted[mid]) / 2;
}

const SPLIT = 134217729;

/**
 * y₀ + Σ aᵢ·bᵢ in doubled precision (TwoProduct and TwoSum; Ogita, Rump & Oishi 2005), rounded once at the end.
 * `a` and `b` are read with the given offsets and strides.
 */
export function exactDot(
  start: number,
  length: number,
  a: ArrayLike<number>,
  aFrom: number,
  aStep: number,
  b: ArrayLike<number>,
  bFrom: number,
  bStep: number,
): number {
  let high = start;
  let low = 0;
  for (let i = 0; i < length; i++) {
    const x = a[aFrom + i * aStep];
    const y = b[bFrom + i * bStep];
    const product = x * y;
    let t = SPLIT * x;
    const xh = t - (t - x);
    const xl = x - xh;
    t = SPLIT * y;
    const yh = t - (t - y);
    const yl = y - yh;
    const error = xl * yl - (product - xh * yh - xl * yh - xh * yl);
    const next = high + product;
    const back = next - high;
    low += high - (next - back) + (product - back) + error;
    high = next;
  }
  return high + low;
}
