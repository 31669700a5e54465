/** Small forms that the searches work out over and over, on arrays that are made once. */

export function dot(a: Float64Array, b: Float64Array): number {
  let t = 0;
  for (let i = 0; i < a.length; i++) t += a[i] * b[i];
  return t;
}

/** Mx of a square matrix. */
export function multiply(m: Float64Array, x: Float64Array, into: Float64Array): void {
  const p = x.length;
  for (let i = 0; i < p; i++) {
    let t = 0;
    const offset = i * p;
    for (let j = 0; j < p; j++) t += m[offset + j] * x[j];
    into[i] = t;
  }
}

/** A polynomial at t, coefficients from the constant up. */
export function horner(c: Float64Array, degree: number, t: number): number {
  let v = c[degree];
  for (let i = degree - 1; i >= 0; i--) v = v * t + c[i];
  return v;
}
