/**
 * Root of a function between two places where its values have unlike signs (Brent 1973: inverse quadratic steps,
 * bisection to be safe).
 */
export function rootBetween(f: (x: number) => number, low: number, high: number): number {
  let a = low;
  let b = high;
  let fa = f(a);
  let fb = f(b);
  let c = a;
  let fc = fa;
  let step = b - a;
  let before = step;
  for (let i = 0; i < 200 && fb !== 0; i++) {
    if (Math.sign(fb) === Math.sign(fc)) {
      c = a;
      fc = fa;
      step = b - a;
      before = step;
    }
    if (Math.abs(fc) < Math.abs(fb)) {
      [a, b, c] = [b, c, b];
      [fa, fb, fc] = [fb, fc, fb];
    }
    const tolerance = 2 * Number.EPSILON * Math.abs(b) + 1e-14;
    const half = (c - b) / 2;
    if (Math.abs(half) <= tolerance) return b;
    if (Math.abs(before) < tolerance || Math.abs(fa) <= Math.abs(fb)) {
      step = half;
      before = half;
    } else {
      const s = fb / fa;
      let p: number;
      let q: number;
      if (a === c) {
        p = 2 * half * s;
        q = 1 - s;
      } else {
        const r = fb / fc;
        const t = fa / fc;
        p = s * (2 * half * t * (t - r) - (b - a) * (r - 1));
        q = (t - 1) * (r - 1) * (s - 1);
      }
      if (p > 0) q = -q;
      else p = -p;
      if (2 * p < Math.min(3 * half * q - Math.abs(tolerance * q), Math.abs(before * q))) {
        before = step;
        step = p / q;
      } else {
        step = half;
        before = half;
      }
    }
    a = b;
    fa = fb;
    b += Math.abs(step) > tolerance ? step : Math.sign(half) * tolerance;
    fb = f(b);
  }
  return b;
}
