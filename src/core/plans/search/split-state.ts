import { invert, type Problem } from "./exchange";
import { dot, multiply } from "./forms";
import type { Row } from "./space";

/** Which run is in which set-up, and what set-ups vary. */
export interface Split {
  /** Runs of each set-up to choose. */
  members: readonly (readonly number[])[];
  /** Set-ups of the runs that stand, by their place among them. */
  fixed: readonly (readonly number[])[];
  /** Variance between set-ups over that within. */
  eta: number;
  /** Places of hard factors, and of easy ones. */
  hard: readonly number[];
  easy: readonly number[];
}

/** A plan in set-ups as it is improved. */
export interface State {
  rows: Row[];
  /** X′V⁻¹X, its inverse and log-determinant. */
  information: Float64Array;
  inverse: Float64Array;
  logDeterminant: number;
  /** trace(W·inverse) and inverse·W·inverse, for A and I. */
  trace: number;
  sandwich: Float64Array;
  /** Sum of the columns over each set-up. */
  totals: Float64Array[];
}

export interface Workspace {
  x: Float64Array;
  y: Float64Array;
  rest: Float64Array;
  part: Float64Array;
  g: Float64Array;
  u: Float64Array;
  h: Float64Array;
  bx: Float64Array;
  bg: Float64Array;
  square: Float64Array;
}

/** m + c·xx′. */
export function addSquare(m: Float64Array, x: Float64Array, c: number): void {
  const p = x.length;
  for (let i = 0; i < p; i++) {
    const v = c * x[i];
    if (v !== 0) for (let j = 0; j < p; j++) m[i * p + j] += v * x[j];
  }
}

/** m + c·(xy′ + yx′). */
export function addPair(m: Float64Array, x: Float64Array, y: Float64Array, c: number): void {
  const p = x.length;
  for (let i = 0; i < p; i++) {
    const [a, b] = [c * x[i], c * y[i]];
    for (let j = 0; j < p; j++) m[i * p + j] += a * y[j] + b * x[j];
  }
}

/** Information of the runs of one set-up: X′X − η/(1 + ηm)·tt′, added to `into` times `times`. */
export function addSetup(
  problem: Problem,
  rows: readonly Row[],
  eta: number,
  into: Float64Array,
  times = 1,
): Float64Array {
  const p = problem.columns.count;
  const x = new Float64Array(p);
  const total = new Float64Array(p);
  for (const r of rows) {
    problem.columns.row(r, x);
    addSquare(into, x, times);
    for (let a = 0; a < p; a++) total[a] += x[a];
  }
  addSquare(into, total, (-times * eta) / (1 + eta * rows.length));
  return total;
}

/** Works everything out anew from the rows; false when the plan cannot tell the terms. */
export function refresh(problem: Problem, { members, fixed, eta }: Split, state: State, ridge = 0): boolean {
  const p = problem.columns.count;
  state.information.fill(0);
  for (const setup of fixed)
    addSetup(
      problem,
      setup.map((i) => problem.fixed[i]),
      eta,
      state.information,
    );
  state.totals = members.map((setup) =>
    addSetup(
      problem,
      setup.map((i) => state.rows[i]),
      eta,
      state.information,
    ),
  );
  if (ridge > 0) for (let a = 0; a < p; a++) state.information[a * p + a] += ridge;
  const log = invert(state.information, p, state.inverse);
  if (log === undefined) return false;
  state.logDeterminant = log;
  ready(problem, state);
  return true;
}

/** Trace and sandwich of a state whose inverse has changed. */
export function ready(problem: Problem, state: State): void {
  const { weight } = problem;
  if (!weight) return;
  const p = problem.columns.count;
  const half = new Float64Array(p * p);
  state.trace = 0;
  for (let i = 0; i < p; i++)
    for (let k = 0; k < p; k++) {
      const w = weight[i * p + k];
      if (w === 0) continue;
      state.trace += w * state.inverse[i * p + k];
      for (let j = 0; j < p; j++) half[i * p + j] += w * state.inverse[k * p + j];
    }
  state.sandwich.fill(0);
  for (let i = 0; i < p; i++)
    for (let k = 0; k < p; k++) {
      const v = state.inverse[i * p + k];
      if (v !== 0) for (let j = 0; j < p; j++) state.sandwich[i * p + j] += v * half[k * p + j];
    }
}

export const shrinkOf = (eta: number, size: number): number => eta / (1 + eta * size);

/** Takes the run whose old columns stand in `b.x` and g, and whose new ones its row gives, into the state. */
export function settle(problem: Problem, split: Split, state: State, b: Workspace, s: number): void {
  const p = problem.columns.count;
  const c = shrinkOf(split.eta, split.members[s].length);
  const changed = split.members[s].map((i) => state.rows[i]);
  const total = new Float64Array(p);
  for (const r of changed) {
    problem.columns.row(r, b.y);
    for (let a = 0; a < p; a++) total[a] += b.y[a];
  }
  const d = new Float64Array(p);
  for (let a = 0; a < p; a++) d[a] = total[a] - state.totals[s][a];
  state.totals[s] = total;
  addPair(state.information, d, b.g, 1);
  addSquare(state.information, d, 1 - c);
  const vd = new Float64Array(p);
  multiply(state.inverse, d, vd);
  const a = dot(d, vd);
  const q = 1 + dot(vd, b.g);
  const e = dot(b.g, b.h);
  const ratio = q * q + a * (1 - c - e);
  if (!(ratio > 1e-10)) {
    refresh(problem, split, state);
    return;
  }
  const turn: [number, number, number] = [(e - 1 + c) / ratio, -q / ratio, a / ratio];
  if (problem.weight) follow(problem.weight, state, vd, b.h, turn);
  addSquare(state.inverse, vd, turn[0]);
  addPair(state.inverse, vd, b.h, turn[1]);
  addSquare(state.inverse, b.h, turn[2]);
  state.logDeterminant += Math.log(ratio);
}

/** Trace and sandwich after the inverse has gained α·aa′ + β(ab′ + ba′) + γ·bb′, worked out before it has. */
function follow(
  weight: Float64Array,
  state: State,
  a: Float64Array,
  b: Float64Array,
  [alpha, beta, gamma]: [number, number, number],
): void {
  const p = a.length;
  const of = (m: Float64Array, v: Float64Array): Float64Array => {
    const out = new Float64Array(p);
    multiply(m, v, out);
    return out;
  };
  const [wa, wb] = [of(weight, a), of(weight, b)];
  const [za, zb] = [of(state.inverse, wa), of(state.inverse, wb)];
  const [aa, ab, bb] = [dot(a, wa), dot(a, wb), dot(b, wb)];
  state.trace += alpha * aa + 2 * beta * ab + gamma * bb;
  addPair(
    state.sandwich,
    a,
    za.map((v, i) => alpha * v + beta * zb[i]),
    1,
  );
  addPair(
    state.sandwich,
    b,
    za.map((v, i) => beta * v + gamma * zb[i]),
    1,
  );
  addSquare(state.sandwich, a, alpha * alpha * aa + 2 * alpha * beta * ab + beta * beta * bb);
  addPair(state.sandwich, a, b, alpha * beta * aa + (alpha * gamma + beta * beta) * ab + beta * gamma * bb);
  addSquare(state.sandwich, b, beta * beta * aa + 2 * beta * gamma * ab + gamma * gamma * bb);
}
