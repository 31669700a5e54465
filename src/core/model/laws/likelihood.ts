import type { Matrix } from "../../numerics/least-squares";

/** What trials add at their linear predictors; filled in place. */
export interface Parts {
  /** Expected information of the linear predictor. */
  weights: Float64Array;
  /** Slope of the log likelihood in the linear predictor. */
  slopes: Float64Array;
  /** How the logarithm of the weight grows with the linear predictor. */
  turns: Float64Array;
  /** Twice the log likelihood lost against a perfect prediction. */
  deviances: Float64Array;
}

/** How trials count: everything of a law that Newton's method needs to know. Answers the sum of the deviances. */
export interface Counting {
  (predictors: Float64Array, into: Parts): number;
  /** Observed and expected information are one: steps close in by squares. */
  canonical: boolean;
}

export const partsOf = (n: number): Parts => ({
  weights: new Float64Array(n),
  slopes: new Float64Array(n),
  turns: new Float64Array(n),
  deviances: new Float64Array(n),
});

/** A quasi-likelihood in linear predictors, over some trials. */
export interface Likelihood {
  /** n × p. */
  x: Matrix;
  counting: Counting;
  /** Half the logarithm of the information of all columns is added (Firth 1993). */
  penalised: boolean;
}

/** Where a likelihood is largest, on some of its columns. */
export interface Maximum {
  /** All p, 0 where a column is not among them. */
  coefficients: Float64Array;
  deviance: number;
  /** The deviance less log |X′WX| of all columns where it is penalised, else the deviance. */
  criterion: number;
  /** Whether steps had come to nothing; where something separates they never do. */
  converged: boolean;
}

const upTo = (n: number): number[] => Array.from({ length: n }, (_, j) => j);

/** Σ uᵢvᵢ; four sums side by side, since one alone would wait for itself at every addition. */
function product(u: Float64Array, v: Float64Array, n: number): number {
  let a = 0;
  let b = 0;
  let c = 0;
  let d = 0;
  let i = 0;
  for (; i + 3 < n; i += 4) {
    a += u[i] * v[i];
    b += u[i + 1] * v[i + 1];
    c += u[i + 2] * v[i + 2];
    d += u[i + 3] * v[i + 3];
  }
  for (; i < n; i++) a += u[i] * v[i];
  return a + b + (c + d);
}

/** Mv of a symmetric p × p matrix. */
function times(m: Float64Array, p: number, v: Float64Array, into: Float64Array): void {
  for (let i = 0; i < p; i++) {
    const row = i * p;
    let a = 0;
    let b = 0;
    let j = 0;
    for (; j + 1 < p; j += 2) {
      a += m[row + j] * v[j];
      b += m[row + j + 1] * v[j + 1];
    }
    if (j < p) a += m[row + j] * v[j];
    into[i] = a + b;
  }
}

/** A step that changes the deviance by less does so by nearly what it says. */
const FORESEEN = 1e-5;

/** Chords end where a step would change the deviance by less than this. */
const CLOSE = 1e-12;
const MOST_ROUNDS = 200;
/**
 * Steps of less deviance than this, over one and it, are the last: those that close in by squares are then at rounding,
 * others are themselves.
 */
const LAST = { squares: 1e-11, otherwise: 1e-19 };

/** Lower Cholesky factor of the leading w × w of m (stride w), in place; false where it has none. */
function factorInPlace(m: Float64Array, w: number): boolean {
  for (let i = 0; i < w; i++)
    for (let j = 0; j <= i; j++) {
      let v = m[i * w + j];
      for (let k = 0; k < j; k++) v -= m[i * w + k] * m[j * w + k];
      if (i === j) {
        if (!(v > 0)) return false;
        m[i * w + i] = Math.sqrt(v);
      } else m[i * w + j] = v / m[j * w + j];
    }
  return true;
}

/** Solves LL′b = b in place. */
function solveInPlace(l: Float64Array, w: number, b: Float64Array): void {
  for (let i = 0; i < w; i++) {
    let v = b[i];
    for (let k = 0; k < i; k++) v -= l[i * w + k] * b[k];
    b[i] = v / l[i * w + i];
  }
  for (let i = w - 1; i >= 0; i--) {
    let v = b[i];
    for (let k = i + 1; k < w; k++) v -= l[k * w + i] * b[k];
    b[i] = v / l[i * w + i];
  }
}

/**
 * Scores and information of a likelihood at some coefficients, worked out in place: the object is made once for a
 * likelihood and used for all its maxima, profiles and simulated repetitions.
 */
export class Surface {
  readonly n: number;
  readonly p: number;
  /** Linear predictors, and what each trial adds. */
  readonly predictors: Float64Array;
  readonly parts: Parts;
  deviance = 0;
  criterion = 0;
  /** Place of a trial that does not count. */
  leaving: number | undefined;
  /** Leverages of all columns; worked out where the likelihood is penalised. */
  readonly leverages: Float64Array;
  private readonly whole: Float64Array;
  private readonly weighted: Float64Array;
  private readonly scratch: Float64Array;
  private readonly columns: Float64Array[];

  constructor(readonly likelihood: Likelihood) {
    const { x } = likelihood;
    this.n = x.rows;
    this.p = x.cols;
    this.predictors = new Float64Array(this.n);
    this.parts = partsOf(this.n);
    this.leverages = new Float64Array(this.n);
    this.whole = new Float64Array(this.p * this.p);
    this.weighted = new Float64Array(this.n);
    this.scratch = new Float64Array(this.p);
    this.columns = Array.from({ length: this.p }, (_, j) =>
      Float64Array.from({ length: this.n }, (__, i) => x.data[i * this.p + j]),
    );
  }

  /** X′WX of some columns, lower triangle, by rows of as many. */
  information(keep: ArrayLike<number>, into: Float64Array): void {
    const w = keep.length;
    const { n, columns, weighted } = this;
    const { weights } = this.parts;
    for (let a = 0; a < w; a++) {
      const u = columns[keep[a]];
      for (let i = 0; i < n; i++) weighted[i] = weights[i] * u[i];
      for (let b = 0; b <= a; b++) {
        into[a * w + b] = product(weighted, columns[keep[b]], n);
      }
    }
  }

  /** Moves to some coefficients; false where the information has no inverse there. */
  moveTo(coefficients: Float64Array): boolean {
    const { n, p, likelihood, predictors, columns, parts } = this;
    predictors.fill(0);
    for (let j = 0; j < p; j++) {
      const b = coefficients[j];
      if (b === 0) continue;
      const u = columns[j];
      for (let i = 0; i < n; i++) predictors[i] += b * u[i];
    }
    this.deviance = likelihood.counting(predictors, parts);
    const { leaving } = this;
    if (leaving !== undefined) {
      this.deviance -= parts.deviances[leaving];
      parts.weights[leaving] = 0;
      parts.slopes[leaving] = 0;
      parts.turns[leaving] = 0;
    }
    this.criterion = this.deviance;
    if (!Number.isFinite(this.deviance)) return false;
    return likelihood.penalised ? this.penalise() : true;
  }

  /** Adds the penalty's slope ½ hᵢ d ln wᵢ/dηᵢ, leverages of all columns (Firth 1993; Heinze & Schemper 2002). */
  private penalise(): boolean {
    const { n, p, whole, columns } = this;
    const { weights, slopes, turns } = this.parts;
    this.information(upTo(p), whole);
    if (!factorInPlace(whole, p)) return false;
    const z = new Float64Array(p);
    for (let i = 0; i < n; i++) {
      let h = 0;
      for (let a = 0; a < p; a++) {
        let v = columns[a][i];
        for (let k = 0; k < a; k++) v -= whole[a * p + k] * z[k];
        z[a] = v / whole[a * p + a];
        h += z[a] * z[a];
      }
      this.leverages[i] = h * weights[i];
      slopes[i] += 0.5 * this.leverages[i] * turns[i];
    }
    let log = 0;
    for (let a = 0; a < p; a++) log += 2 * Math.log(whole[a * p + a]);
    this.criterion -= log;
    return true;
  }

  /** X′s of some columns. */
  score(keep: ArrayLike<number>, into: Float64Array): void {
    const { slopes } = this.parts;
    for (let a = 0; a < keep.length; a++) {
      into[a] = product(this.columns[keep[a]], slopes, this.n);
    }
  }

  /**
   * Largest (penalised) likelihood on some columns, by Newton's method with the expected information (Fisher 1935),
   * halving a step that would not raise it.
   *
   * @param start coefficients of all columns to start from; what is not kept is left at its value there
   * @param rounds most steps
   */
  maximum(keep: ArrayLike<number>, start: Float64Array, rounds = MOST_ROUNDS): Maximum {
    const w = keep.length;
    const coefficients = start.slice();
    const m = new Float64Array(w * w);
    const step = new Float64Array(w);
    const next = coefficients.slice();
    const { penalised, counting } = this.likelihood;
    const close = counting.canonical && !penalised ? LAST.squares : LAST.otherwise;
    let converged = false;
    let alive = this.moveTo(coefficients);
    for (let round = 0; alive && round < rounds; round++) {
      const before = this.criterion;
      const deviance = this.deviance;
      this.score(keep, step);
      this.information(keep, m);
      const gradient = step.slice();
      if (!factorInPlace(m, w)) break;
      solveInPlace(m, w, step);
      let gain = 0;
      for (let a = 0; a < w; a++) gain += gradient[a] * step[a];
      let share = 1;
      for (;;) {
        for (let a = 0; a < w; a++) next[keep[a]] = coefficients[keep[a]] + share * step[a];
        alive = this.moveTo(next);
        if (alive && this.criterion <= before + 1e-12 * (1 + Math.abs(before))) break;
        share /= 2;
        if (share < 1e-6) break;
      }
      if (share < 1e-6) {
        // Nowhere to go but by rounding.
        alive = this.moveTo(coefficients);
        converged = gain < 1e-8;
        break;
      }
      coefficients.set(next);
      if (gain < close * (1 + deviance)) {
        converged = true;
        break;
      }
    }
    return { coefficients, deviance: this.deviance, criterion: this.criterion, converged };
  }

  /**
   * The deviance of a maximum on some columns, to about eight digits: Newton's steps end where the next would change
   * it by little, which is then taken as said. For those who look at tens of thousands.
   */
  devianceNear(keep: ArrayLike<number>, start: Float64Array): number {
    const w = keep.length;
    const at = start.slice();
    const m = new Float64Array(w * w);
    const step = new Float64Array(w);
    const { scratch } = this;
    let last = 0;
    for (let round = 0; round < 20; round++) {
      if (!this.moveTo(at)) break;
      this.score(keep, step);
      for (let a = 0; a < w; a++) scratch[a] = step[a];
      // The information of the round before serves while steps close in.
      const own = (): boolean => {
        this.information(keep, m);
        return factorInPlace(m, w);
      };
      if (round === 0 && !own()) break;
      const gainOf = (): number => {
        for (let a = 0; a < w; a++) step[a] = scratch[a];
        solveInPlace(m, w, step);
        let gain = 0;
        for (let a = 0; a < w; a++) gain += scratch[a] * step[a];
        return gain;
      };
      let gain = gainOf();
      if (round > 0 && gain > 0.1 * last) {
        if (!own()) break;
        gain = gainOf();
      }
      if (gain < FORESEEN) return this.deviance - gain;
      last = gain;
      for (let a = 0; a < w; a++) at[keep[a]] += step[a];
    }
    return this.maximum(keep, start).deviance;
  }

  /** (X′WX)⁻¹ where it stands, symmetric p × p by rows; null where it has none. */
  inverse(): Float64Array | null {
    const { p } = this;
    const m = new Float64Array(p * p);
    this.information(upTo(p), m);
    if (!factorInPlace(m, p)) return null;
    const out = new Float64Array(p * p);
    const unit = new Float64Array(p);
    for (let j = 0; j < p; j++) {
      unit.fill(0);
      unit[j] = 1;
      solveInPlace(m, p, unit);
      out.set(unit, j * p);
    }
    return out;
  }

  /**
   * The largest likelihood with some coefficients held where they start, near a maximum whose inverse information is
   * known: steps by that one matrix, which costs a score each (chords in place of tangents). Where they do not close
   * in, Newton's method takes over.
   *
   * @param held columns that stay
   * @param close change of the deviance that ends it, over one and the deviance
   */
  near(inverse: Float64Array, held: readonly number[], start: Float64Array, close = CLOSE): Maximum {
    const { p } = this;
    const out = new Set(held);
    const keep = upTo(p).filter((j) => !out.has(j));
    const own = new Float64Array(held.length ** 2);
    held.forEach((a, i) => {
      held.forEach((b, k) => {
        own[i * held.length + k] = inverse[a * p + b];
      });
    });
    const coefficients = start.slice();
    if (held.length > 0 && !factorInPlace(own, held.length)) return this.maximum(keep, start);
    const u = new Float64Array(p);
    const step = new Float64Array(p);
    const pull = new Float64Array(held.length);
    let last = Number.POSITIVE_INFINITY;
    for (let round = 0; round < 60; round++) {
      if (!this.moveTo(coefficients)) break;
      this.score(keep, pull.length === 0 ? u : this.scratch);
      if (pull.length > 0) {
        u.fill(0);
        for (let a = 0; a < keep.length; a++) u[keep[a]] = this.scratch[a];
      }
      times(inverse, p, u, step);
      if (held.length > 0) {
        for (let i = 0; i < held.length; i++) pull[i] = step[held[i]];
        solveInPlace(own, held.length, pull);
        for (let j = 0; j < p; j++) for (let i = 0; i < held.length; i++) step[j] -= inverse[j * p + held[i]] * pull[i];
      }
      let gain = 0;
      for (let j = 0; j < p; j++) gain += u[j] * step[j];
      if (gain < close * (1 + this.deviance))
        return { coefficients, deviance: this.deviance, criterion: this.criterion, converged: true };
      if (gain > 0.7 * last) break;
      last = gain;
      for (let j = 0; j < p; j++) coefficients[j] += step[j];
      for (const j of held) coefficients[j] = start[j];
    }
    return this.maximum(keep, start);
  }

  /**
   * Where the largest likelihood with one coefficient held has its criterion risen by `rise` (Venzon & Moolgavkar
   * 1988): one end of its profile interval. Steps by the inverse information at the maximum.
   *
   * @param best the maximum over all columns, with its inverse information
   * @param side −1 or 1
   * @returns null where it comes to nowhere
   */
  profileEnd(best: Maximum, inverse: Float64Array, column: number, side: -1 | 1, rise: number): number | null {
    const { p } = this;
    const target = best.criterion + rise;
    let metric = inverse;
    const at = best.coefficients.slice();
    const u = new Float64Array(p);
    const forward = new Float64Array(p);
    const all = upTo(p);
    // First as if the likelihood were a parabola.
    const reach = side * Math.sqrt(rise / inverse[column * p + column]);
    for (let j = 0; j < p; j++) at[j] += reach * inverse[column * p + j];
    let last = Number.POSITIVE_INFINITY;
    for (let round = 0; round < 80; round++) {
      if (!this.moveTo(at)) break;
      this.score(all, u);
      times(metric, p, u, forward);
      let slope = 0;
      for (let j = 0; j < p; j++) slope += u[j] * forward[j];
      // The criterion is twice the log likelihood, downwards.
      const square = (target - this.criterion + slope) / metric[column * p + column];
      const lambda = side * Math.sqrt(Math.max(0, square));
      let moved = 0;
      for (let j = 0; j < p; j++) {
        const d = forward[j] + lambda * metric[column * p + j];
        at[j] += d;
        moved = Math.max(moved, Math.abs(d) / (1e-2 + Math.abs(at[j])));
      }
      if (moved < 3e-8) {
        if (Math.abs(this.criterion - target) > 1e-7 * (1 + rise)) break;
        return at[column];
      }
      if (!(Math.abs(at[column]) < 1e3)) break;
      // Where steps close in too slowly the information is worked out anew.
      if (moved > 0.4 * last) {
        if (!this.moveTo(at)) break;
        const here = this.inverse();
        if (!here) break;
        metric = here;
        last = Number.POSITIVE_INFINITY;
      } else last = moved;
    }
    return this.bySecants(best, column, side, rise);
  }

  /**
   * The same, slower, by a maximum at every value of the coefficient that is tried: secants on the root of the rise,
   * which is nearly straight, kept between two values on either side (Illinois rule, Dowell & Jarratt 1971).
   */
  private bySecants(best: Maximum, column: number, side: -1 | 1, rise: number): number | null {
    const others = upTo(this.p).filter((j) => j !== column);
    let start: Float64Array = best.coefficients.slice();
    const off = (value: number): number => {
      start = start.slice();
      start[column] = value;
      const there = this.maximum(others, start);
      start = there.coefficients;
      return Math.sqrt(Math.max(0, there.criterion - best.criterion)) - Math.sqrt(rise);
    };
    let low = best.coefficients[column];
    let atLow = -Math.sqrt(rise);
    let reach = 0.5;
    let high = low + side * reach;
    let atHigh = off(high);
    while (atHigh < 0) {
      low = high;
      atLow = atHigh;
      reach *= 2;
      high += side * reach;
      if (reach > 1e3) return null;
      atHigh = off(high);
    }
    for (let i = 0; i < 60 && Math.abs(high - low) > 1e-11 * (1 + Math.abs(low)); i++) {
      const value = low - (atLow * (high - low)) / (atHigh - atLow);
      const at = off(value);
      if (Math.abs(at) < 1e-11) return value;
      if (at < 0) {
        low = value;
        atLow = at;
        atHigh /= 2;
      } else {
        high = value;
        atHigh = at;
        atLow /= 2;
      }
    }
    return (low + high) / 2;
  }
}
