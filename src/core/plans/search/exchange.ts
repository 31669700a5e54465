import { goldenSection } from "../../numerics/golden-section";
import type { Columns } from "./columns";
import { dot, horner, multiply } from "./forms";
import type { Row, Space } from "./space";

export type Criterion = "D" | "A" | "I";

/** What a search for a plan is given. */
export interface Problem {
  space: Space;
  columns: Columns;
  /** Runs to choose. */
  runs: number;
  /** Block of each run to choose; all 0 for one block. */
  blocks: Int32Array;
  /** Runs that stand and are not to be changed: kept trials, centre points. */
  fixed: readonly Row[];
  criterion: Criterion;
  /** For A and I: what the inverse is weighted with, count × count; trace(W·V) is made small. */
  weight: Float64Array | undefined;
  /** Evenly spaced places per coordinate; every local best among them is refined unless told not to. */
  grid: number;
  refine: boolean;
}

/** The plan of one start as it is improved. */
export interface State {
  rows: Row[];
  /** (X′X)⁻¹, count × count. */
  inverse: Float64Array;
  logDeterminant: number;
  /** trace(W·V) for A and I. */
  trace: number;
}

const WORTH = 1e-9;

/** Inverse and log-determinant of a symmetric positive definite matrix by Cholesky; false when it is not one. */
export function invert(m: Float64Array, p: number, inverse: Float64Array): number | undefined {
  const l = new Float64Array(p * p);
  let logDeterminant = 0;
  let largest = 0;
  for (let i = 0; i < p; i++) largest = Math.max(largest, m[i * p + i]);
  for (let i = 0; i < p; i++)
    for (let j = 0; j <= i; j++) {
      let v = m[i * p + j];
      for (let k = 0; k < j; k++) v -= l[i * p + k] * l[j * p + k];
      if (i === j) {
        if (!(v > 1e-11 * largest)) return undefined;
        l[i * p + i] = Math.sqrt(v);
        logDeterminant += Math.log(v);
      } else l[i * p + j] = v / l[j * p + j];
    }
  // L⁻¹ in place, then L⁻ᵀL⁻¹.
  const t = new Float64Array(p * p);
  for (let j = 0; j < p; j++) {
    t[j * p + j] = 1 / l[j * p + j];
    for (let i = j + 1; i < p; i++) {
      let v = 0;
      for (let k = j; k < i; k++) v -= l[i * p + k] * t[k * p + j];
      t[i * p + j] = v / l[i * p + i];
    }
  }
  for (let i = 0; i < p; i++)
    for (let j = i; j < p; j++) {
      let v = 0;
      for (let k = j; k < p; k++) v += t[k * p + i] * t[k * p + j];
      inverse[i * p + j] = v;
      inverse[j * p + i] = v;
    }
  return logDeterminant;
}

/** X′X of rows. */
export function products(columns: Columns, rows: readonly Row[], into: Float64Array): void {
  const p = columns.count;
  const x = new Float64Array(p);
  for (const r of rows) {
    columns.row(r, x);
    for (let a = 0; a < p; a++) {
      const v = x[a];
      if (v !== 0) for (let b = 0; b <= a; b++) into[a * p + b] += v * x[b];
    }
  }
  for (let a = 0; a < p; a++) for (let b = 0; b < a; b++) into[b * p + a] = into[a * p + b];
}

const weigh = (weight: Float64Array | undefined, inverse: Float64Array): number => {
  if (!weight) return 0;
  let t = 0;
  for (let i = 0; i < weight.length; i++) t += weight[i] * inverse[i];
  return t;
};

/**
 * Works inverse, determinant and trace out anew from the rows; false when the plan is singular (a little ridge on
 * request).
 */
export function refresh(problem: Problem, state: State, ridge = 0): boolean {
  const p = problem.columns.count;
  const m = new Float64Array(p * p);
  products(problem.columns, [...problem.fixed, ...state.rows], m);
  if (ridge > 0) for (let i = 0; i < p; i++) m[i * p + i] += ridge;
  const log = invert(m, p, state.inverse);
  if (log === undefined) return false;
  state.logDeterminant = log;
  state.trace = weigh(problem.weight, state.inverse);
  return true;
}

/** A start drawn at random; undefined when no nonsingular one turned up and a ridge did not help either. */
export function startState(problem: Problem, draw: () => Row): { state: State; ridged: boolean } | undefined {
  const p = problem.columns.count;
  const k = problem.space.factors.length;
  for (let tries = 0; tries < 8; tries++) {
    const rows = Array.from({ length: problem.runs }, (_, i) => {
      const r = draw();
      r[k] = problem.blocks[i];
      return r;
    });
    const state: State = { rows, inverse: new Float64Array(p * p), logDeterminant: 0, trace: 0 };
    if (refresh(problem, state)) return { state, ridged: false };
    if (tries >= 3 && refresh(problem, state, 1e-4 * problem.runs)) return { state, ridged: true };
  }
  return undefined;
}

/** Workspace of one search, so that no exchange allocates. */
export interface SearchWorkspace {
  x: Float64Array;
  y: Float64Array;
  rest: Float64Array;
  part: Float64Array;
  u: Float64Array;
  v: Float64Array;
  w: Float64Array;
  big: Float64Array;
  poly: Float64Array;
  polyW: Float64Array;
  lineD: Float64Array;
  lineW: Float64Array;
}

export function makeSearchWorkspace(columns: Columns): SearchWorkspace {
  const p = columns.count;
  const most = Math.max(...columns.degree, 1);
  const a = (n: number): Float64Array => new Float64Array(n);
  return {
    x: a(p),
    y: a(p),
    rest: a(p),
    part: a(p),
    u: a(p),
    v: a(p),
    w: a(p),
    big: a(p * p),
    poly: a(2 * most + 1),
    polyW: a(2 * most + 1),
    lineD: a(most + 1),
    lineW: a(most + 1),
  };
}

/** V W V, for the traces of A and I. */
function sandwich(problem: Problem, state: State, into: Float64Array): void {
  const p = problem.columns.count;
  const w = problem.weight as Float64Array;
  const half = new Float64Array(p * p);
  const v = state.inverse;
  for (let i = 0; i < p; i++)
    for (let k = 0; k < p; k++) {
      const q = w[i * p + k];
      if (q !== 0) for (let j = 0; j < p; j++) half[i * p + j] += q * v[k * p + j];
    }
  into.fill(0);
  for (let i = 0; i < p; i++)
    for (let k = 0; k < p; k++) {
      const q = v[i * p + k];
      if (q !== 0) for (let j = 0; j < p; j++) into[i * p + j] += q * half[k * p + j];
    }
}

/** V ← V + c·uu′, and with it trace(WV) and VWV where a weight is given. */
function rankOne(problem: Problem, state: State, b: SearchWorkspace, c: number): void {
  const p = b.u.length;
  const { u } = b;
  const v = state.inverse;
  if (problem.weight) {
    multiply(problem.weight, u, b.w);
    const uwu = dot(u, b.w);
    multiply(v, b.w, b.v);
    const square = c * c * uwu;
    for (let i = 0; i < p; i++) {
      const ui = u[i];
      const zi = b.v[i];
      const offset = i * p;
      for (let j = 0; j < p; j++) b.big[offset + j] += c * (ui * b.v[j] + zi * u[j]) + square * ui * u[j];
    }
    state.trace += c * uwu;
  }
  for (let i = 0; i < p; i++) {
    const q = c * u[i];
    const offset = i * p;
    for (let j = 0; j < p; j++) v[offset + j] += q * u[j];
  }
}

/** Replaces run x by y in the inverse: one rank-one update for each (Sherman & Morrison 1950). */
function exchange(problem: Problem, state: State, b: SearchWorkspace): boolean {
  multiply(state.inverse, b.y, b.u);
  const up = 1 + dot(b.y, b.u);
  rankOne(problem, state, b, -1 / up);
  multiply(state.inverse, b.x, b.u);
  const down = 1 - dot(b.x, b.u);
  if (!(down > 1e-12)) return false;
  rankOne(problem, state, b, 1 / down);
  state.logDeterminant += Math.log(up) + Math.log(down);
  return true;
}

/**
 * How good a plan would be with run x replaced by y. For D the ratio of determinants
 * Δ = (1 + d(y))(1 − d(x)) + d(x, y)² (Fedorov 1972); for A and I the fall of the weighted trace.
 */
interface Judge {
  /** Gain at a coded value along the coordinate that was prepared. */
  at(t: number): number;
}

/**
 * Prepares the exchange of one numeric coordinate of run x: every column is a power of the coordinate times the rest
 * of its run, so the determinant ratio and the traces are polynomials in it, worked out once.
 */
function polynomial(problem: Problem, state: State, b: SearchWorkspace, r: Row, j: number): Judge {
  const { columns } = problem;
  const p = columns.count;
  const power = columns.power[j];
  const degree = columns.degree[j];
  const v = state.inverse;
  columns.rest(r, j, b.rest);
  multiply(v, b.x, b.u);
  const dx = dot(b.x, b.u);
  b.poly.fill(0);
  for (let a = 0; a < p; a++) {
    const ra = b.rest[a];
    if (ra === 0) continue;
    const offset = a * p;
    const pa = power[a];
    b.poly[2 * pa] += ra * ra * v[offset + a];
    for (let c = 0; c < a; c++) b.poly[pa + power[c]] += 2 * ra * b.rest[c] * v[offset + c];
  }
  b.lineD.fill(0);
  for (let a = 0; a < p; a++) b.lineD[power[a]] += b.rest[a] * b.u[a];
  if (!problem.weight) {
    const rest = 1 - dx;
    // Δ as one polynomial: (1 − dx)(1 + dy) + dxy².
    for (let i = 0; i <= 2 * degree; i++) b.poly[i] *= rest;
    b.poly[0] += rest;
    for (let i = 0; i <= degree; i++) for (let k = 0; k <= degree; k++) b.poly[i + k] += b.lineD[i] * b.lineD[k];
    return { at: (t) => horner(b.poly, 2 * degree, t) - 1 };
  }
  const m = b.big;
  b.polyW.fill(0);
  for (let a = 0; a < p; a++) {
    const ra = b.rest[a];
    if (ra === 0) continue;
    const offset = a * p;
    const pa = power[a];
    b.polyW[2 * pa] += ra * ra * m[offset + a];
    for (let c = 0; c < a; c++) b.polyW[pa + power[c]] += 2 * ra * b.rest[c] * m[offset + c];
  }
  multiply(m, b.x, b.w);
  const wx = dot(b.x, b.w);
  b.lineW.fill(0);
  for (let a = 0; a < p; a++) b.lineW[power[a]] += b.rest[a] * b.w[a];
  return {
    at(t) {
      const dy = horner(b.poly, 2 * degree, t);
      const dxy = horner(b.lineD, degree, t);
      return traceFall(dx, dy, dxy, wx, horner(b.polyW, 2 * degree, t), horner(b.lineW, degree, t), state.trace);
    },
  };
}

/** Relative fall of trace(WV) when x is replaced by y; −1 when the exchange would be singular. */
function traceFall(dx: number, dy: number, dxy: number, wx: number, wy: number, wxy: number, trace: number): number {
  const ratio = (1 + dy) * (1 - dx) + dxy * dxy;
  if (!(ratio > 1e-10)) return -1;
  return ((1 - dx) * wy + 2 * dxy * wxy - (1 + dy) * wx) / ratio / trace;
}

/** Gain of replacing run x (in the bench) by run y (in the bench). */
function gainOf(problem: Problem, state: State, b: SearchWorkspace): number {
  multiply(state.inverse, b.x, b.u);
  multiply(state.inverse, b.y, b.v);
  const dx = dot(b.x, b.u);
  const dy = dot(b.y, b.v);
  const dxy = dot(b.x, b.v);
  if (!problem.weight) return (1 + dy) * (1 - dx) + dxy * dxy - 1;
  multiply(b.big, b.x, b.w);
  const wx = dot(b.x, b.w);
  const wxy = dot(b.y, b.w);
  multiply(b.big, b.y, b.w);
  return traceFall(dx, dy, dxy, wx, dot(b.y, b.w), wxy, state.trace);
}

/**
 * The best place on open intervals: an even grid on each with its ends, the best refined by golden section on
 * request.
 */
function bestPlace(
  judge: Judge,
  open: readonly [number, number][],
  grid: number,
  refine: boolean,
): { t: number; gain: number } | undefined {
  let best: { t: number; gain: number; low: number; high: number } | undefined;
  for (const [low, high] of open) {
    const step = (high - low) / (grid - 1);
    for (let g = 0; g < grid; g++) {
      const t = g === grid - 1 ? high : low + g * step;
      const gain = judge.at(t);
      // Places that differ by rounding alone count as equal: the first stands.
      if (!best || gain > best.gain + 1e-10)
        best = { t, gain, low: Math.max(low, t - step), high: Math.min(high, t + step) };
      if (step === 0) break;
    }
  }
  if (!best || !refine || best.high - best.low < 1e-9) return best;
  const t = goldenSection((place) => judge.at(place), best.low, best.high, { within: 1e-7, most: 34 });
  const gain = judge.at(t);
  return gain > best.gain ? { t, gain } : best;
}

/** The best of the other levels of a category, where one gains more than `least`: its columns are made in `b.y`. */
export function bestLevel(
  { space, columns }: Problem,
  b: { rest: Float64Array; y: Float64Array },
  part: Float64Array,
  r: Row,
  j: number,
  gain: () => number,
  least: number,
): { t: number; gain: number } | undefined {
  const now = r[j];
  let best: { t: number; gain: number } | undefined;
  columns.rest(r, j, b.rest);
  for (let level = 0; level < space.levels[j]; level++) {
    if (level === now) continue;
    columns.category(j, level, part);
    for (let c = 0; c < b.y.length; c++) b.y[c] = b.rest[c] * part[c];
    const own = gain();
    if (own <= (best?.gain ?? least)) continue;
    r[j] = level;
    if (space.allowed(r)) best = { t: level, gain: own };
  }
  r[j] = now;
  return best;
}

/**
 * Tries every place of one coordinate of one run and takes the best when it is worth it; answers the gain in log
 * terms.
 */
export function improve(problem: Problem, state: State, b: SearchWorkspace, i: number, j: number): number {
  const { space, columns } = problem;
  const r = state.rows[i];
  columns.row(r, b.x);
  let chosen = r[j];
  let gain = WORTH;
  if (space.levels[j] > 0) {
    const best = bestLevel(problem, b, b.part, r, j, () => gainOf(problem, state, b), gain);
    if (best) ({ t: chosen, gain } = best);
  } else {
    const positions = space.positions[j];
    const open = space.open(r, j);
    const judge = polynomial(problem, state, b, r, j);
    if (positions) {
      for (const t of positions) {
        if (t === r[j] || !open.some(([low, high]) => t >= low - 1e-9 && t <= high + 1e-9)) continue;
        const g = judge.at(t);
        if (g > gain) {
          gain = g;
          chosen = t;
        }
      }
    } else {
      const best = bestPlace(judge, open, problem.grid, problem.refine);
      if (best && best.gain > gain) {
        gain = best.gain;
        chosen = best.t;
      }
    }
  }
  if (chosen === r[j]) return 0;
  r[j] = chosen;
  columns.row(r, b.y);
  settle(problem, state, b);
  return Math.log1p(gain);
}

/** Takes the exchange of x for y into the state. */
function settle(problem: Problem, state: State, b: SearchWorkspace): void {
  if (exchange(problem, state, b)) return;
  refresh(problem, state);
  ready(problem, state, b);
}

/** Tries whole runs from a list in place of run i: the way past limits that no single coordinate can pass. */
export function replaceRun(
  problem: Problem,
  state: State,
  b: SearchWorkspace,
  i: number,
  candidates: readonly Row[],
): number {
  const r = state.rows[i];
  const k = problem.space.factors.length;
  const block = r[k];
  problem.columns.row(r, b.x);
  let gain = 1e-6;
  let chosen: Row | undefined;
  for (const candidate of candidates) {
    candidate[k] = block;
    problem.columns.row(candidate, b.y);
    const g = gainOf(problem, state, b);
    if (g > gain) {
      gain = g;
      chosen = candidate;
    }
  }
  if (!chosen) return 0;
  r.set(chosen);
  r[k] = block;
  problem.columns.row(r, b.y);
  settle(problem, state, b);
  return Math.log1p(gain);
}

/** Readies the bench for a state whose inverse was worked out anew. */
export function ready(problem: Problem, state: State, b: SearchWorkspace): void {
  if (problem.weight) sandwich(problem, state, b.big);
}
