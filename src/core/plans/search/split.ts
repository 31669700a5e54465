import { goldenSection } from "../../numerics/golden-section";
import { eliminate } from "../../numerics/matrices";
import type { Random } from "../../numerics/random";
import { invert, type Problem } from "./exchange";
import { dot, horner, multiply } from "./forms";
import type { Row } from "./space";
import { bestOfStarts, type SearchOutcome, type SearchStep, type Start } from "./starts";

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
interface State {
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

interface Workspace {
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
function addSquare(m: Float64Array, x: Float64Array, c: number): void {
  const p = x.length;
  for (let i = 0; i < p; i++) {
    const v = c * x[i];
    if (v !== 0) for (let j = 0; j < p; j++) m[i * p + j] += v * x[j];
  }
}

/** m + c·(xy′ + yx′). */
function addPair(m: Float64Array, x: Float64Array, y: Float64Array, c: number): void {
  const p = x.length;
  for (let i = 0; i < p; i++) {
    const [a, b] = [c * x[i], c * y[i]];
    for (let j = 0; j < p; j++) m[i * p + j] += a * y[j] + b * x[j];
  }
}

/** Information of the runs of one set-up: X′X − η/(1 + ηm)·tt′, added to `into` times `times`. */
function addSetup(problem: Problem, rows: readonly Row[], eta: number, into: Float64Array, times = 1): Float64Array {
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
function refresh(problem: Problem, { members, fixed, eta }: Split, state: State, ridge = 0): boolean {
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
function ready(problem: Problem, state: State): void {
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

/** Gain in log terms below which an exchange is not worth making. */
const WORTH = 1e-9;

/**
 * Gain of giving one run of a set-up other columns y. With d = y − x and g = x − ηt/(1 + ηm), t the set-up's total, the
 * information changes by dg′ + gd′ + (1 − c)dd′, c = η/(1 + ηm): its determinant by the factor
 * (1 + d′Vg)² + d′Vd(1 − c − g′Vg) (Goos & Vandebroek 2003 update V likewise), for D; for A and I the relative fall of
 * the trace.
 */
interface Judge {
  /** From y′Vy, y′Vx, y′Vg, and for A and I the same in VWV. */
  gain(yy: number, yx: number, yg: number, wyy: number, wyx: number, wyg: number): number;
}

function judgeOf(problem: Problem, state: State, b: Workspace, c: number): Judge {
  multiply(state.inverse, b.x, b.u);
  multiply(state.inverse, b.g, b.h);
  const xx = dot(b.x, b.u);
  const xg = dot(b.x, b.h);
  const rest = 1 - c - dot(b.g, b.h);
  if (!problem.weight) return { gain: (yy, yx, yg) => (1 + yg - xg) ** 2 + (yy - 2 * yx + xx) * rest - 1 };
  multiply(state.sandwich, b.x, b.bx);
  multiply(state.sandwich, b.g, b.bg);
  const wxx = dot(b.x, b.bx);
  const wxg = dot(b.x, b.bg);
  const wgg = dot(b.g, b.bg);
  return {
    gain(yy, yx, yg, wyy, wyx, wyg) {
      const a = yy - 2 * yx + xx;
      const s = 1 + yg - xg;
      const ratio = s * s + a * rest;
      if (!(ratio > 1e-10)) return -1;
      return (rest * (wyy - 2 * wyx + wxx) + 2 * s * (wyg - wxg) - a * wgg) / ratio / state.trace;
    },
  };
}

/** Gain of the columns in `b.y` by a judge. */
function gainOfColumns(problem: Problem, state: State, b: Workspace, judge: Judge): number {
  const form = (m: Float64Array): number => {
    multiply(m, b.y, b.part);
    return dot(b.y, b.part);
  };
  const yy = form(state.inverse);
  if (!problem.weight) return judge.gain(yy, dot(b.y, b.u), dot(b.y, b.h), 0, 0, 0);
  return judge.gain(yy, dot(b.y, b.u), dot(b.y, b.h), form(state.sandwich), dot(b.y, b.bx), dot(b.y, b.bg));
}

/** Gain as a function of one numeric coordinate: all forms are polynomials in it, worked out once. */
function along(problem: Problem, state: State, b: Workspace, judge: Judge, r: Row, j: number): (t: number) => number {
  const { columns } = problem;
  const p = columns.count;
  const power = columns.power[j];
  const degree = columns.degree[j];
  columns.rest(r, j, b.rest);
  const square = (m: Float64Array): Float64Array => {
    const poly = new Float64Array(2 * degree + 1);
    for (let a = 0; a < p; a++) {
      const ra = b.rest[a];
      if (ra === 0) continue;
      poly[2 * power[a]] += ra * ra * m[a * p + a];
      for (let c = 0; c < a; c++) poly[power[a] + power[c]] += 2 * ra * b.rest[c] * m[a * p + c];
    }
    return poly;
  };
  const line = (v: Float64Array): Float64Array => {
    const poly = new Float64Array(degree + 1);
    for (let a = 0; a < p; a++) poly[power[a]] += b.rest[a] * v[a];
    return poly;
  };
  const [yy, yx, yg] = [square(state.inverse), line(b.u), line(b.h)];
  if (!problem.weight)
    return (t) => judge.gain(horner(yy, 2 * degree, t), horner(yx, degree, t), horner(yg, degree, t), 0, 0, 0);
  const [wyy, wyx, wyg] = [square(state.sandwich), line(b.bx), line(b.bg)];
  return (t) =>
    judge.gain(
      horner(yy, 2 * degree, t),
      horner(yx, degree, t),
      horner(yg, degree, t),
      horner(wyy, 2 * degree, t),
      horner(wyx, degree, t),
      horner(wyg, degree, t),
    );
}

/** Places as near as this to the best of a grid tell whether there is a better one beside it. */
const NEAR = 1e-4;

/** The best place of a coordinate, looked for on what is open: listed positions, or a grid with the best refined. */
function bestPlace(
  problem: Problem,
  j: number,
  open: readonly (readonly [number, number])[],
  now: number,
  at: (t: number) => number,
): { t: number; gain: number } | undefined {
  const positions = problem.space.positions[j];
  let best: { t: number; gain: number } | undefined;
  const look = (t: number): void => {
    if (t === now) return;
    const gain = at(t);
    if (!best || gain > best.gain + 1e-10) best = { t, gain };
  };
  if (positions) {
    for (const t of positions) if (open.some(([low, high]) => t >= low - 1e-9 && t <= high + 1e-9)) look(t);
    return best;
  }
  for (const [low, high] of open) {
    const step = (high - low) / (problem.grid - 1);
    for (let i = 0; i < problem.grid; i++) look(i === problem.grid - 1 ? high : low + i * step);
    if (!problem.refine || !best || step < 1e-9 || best.t < low || best.t > high) continue;
    // Most places are ends or middles, and already the best thereabouts.
    const peak = best;
    const near = [peak.t - NEAR, peak.t + NEAR].filter((t) => t >= low && t <= high);
    if (near.every((t) => at(t) <= peak.gain)) continue;
    const t = goldenSection(at, Math.max(low, peak.t - step), Math.min(high, peak.t + step), {
      within: 1e-6,
      most: 30,
    });
    const gain = at(t);
    if (gain > best.gain + 1e-9) best = { t, gain };
  }
  return best;
}

const shrinkOf = (eta: number, size: number): number => eta / (1 + eta * size);

/** Tries every place of one easy coordinate of one run. */
function improveEasy(problem: Problem, split: Split, state: State, b: Workspace, s: number, i: number, j: number) {
  const { space, columns } = problem;
  const r = state.rows[i];
  const c = shrinkOf(split.eta, split.members[s].length);
  columns.row(r, b.x);
  for (let a = 0; a < b.g.length; a++) b.g[a] = b.x[a] - c * state.totals[s][a];
  const judge = judgeOf(problem, state, b, c);
  let chosen = r[j];
  let gain = WORTH;
  if (space.levels[j] > 0) {
    const now = r[j];
    columns.rest(r, j, b.rest);
    for (let level = 0; level < space.levels[j]; level++) {
      if (level === now) continue;
      columns.category(j, level, b.square);
      for (let a = 0; a < b.y.length; a++) b.y[a] = b.rest[a] * b.square[a];
      const g = gainOfColumns(problem, state, b, judge);
      if (g <= gain) continue;
      r[j] = level;
      if (space.allowed(r)) {
        gain = g;
        chosen = level;
      }
    }
    r[j] = now;
  } else {
    const best = bestPlace(problem, j, space.open(r, j), r[j], along(problem, state, b, judge, r, j));
    if (best && best.gain > gain) {
      gain = best.gain;
      chosen = best.t;
    }
  }
  if (chosen === r[j]) return 0;
  r[j] = chosen;
  settle(problem, split, state, b, s);
  return Math.log1p(gain);
}

/** Takes the run whose old columns stand in `b.x` and g, and whose new ones its row gives, into the state. */
function settle(problem: Problem, split: Split, state: State, b: Workspace, s: number): void {
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

/** Rows of a set-up less their share of its mean: with these, X̃′X̃ is X′(I + ηJ)⁻¹X. */
function whitened(rows: Float64Array, m: number, eta: number): Float64Array {
  const p = rows.length / m;
  const share = 1 - 1 / Math.sqrt(1 + eta * m);
  const out = rows.slice();
  for (let a = 0; a < p; a++) {
    let mean = 0;
    for (let i = 0; i < m; i++) mean += rows[i * p + a] / m;
    for (let i = 0; i < m; i++) out[i * p + a] -= share * mean;
  }
  return out;
}

/** ASB′ of row matrices of p columns and a symmetric S, m × m. */
function form(a: Float64Array, s: Float64Array, b: Float64Array, m: number): Float64Array {
  const p = a.length / m;
  const out = new Float64Array(m * m);
  const half = new Float64Array(p);
  for (let i = 0; i < m; i++) {
    half.fill(0);
    for (let c = 0; c < p; c++) {
      const v = a[i * p + c];
      if (v !== 0) for (let d = 0; d < p; d++) half[d] += v * s[c * p + d];
    }
    for (let j = 0; j < m; j++) {
      let t = 0;
      for (let d = 0; d < p; d++) t += half[d] * b[j * p + d];
      out[i * m + j] = t;
    }
  }
  return out;
}

/**
 * Gain of giving a set-up other rows, as a function of the coordinate they share: with U = [Ỹ′ X̃′] and C = diag(I, −I)
 * the information changes by UCU′, its determinant by |I + CU′VU|, the trace falls by tr (C + U′VU)⁻¹U′VWVU; Ỹ is a
 * polynomial in the coordinate, so that what is p wide is worked out once.
 *
 * @param old whitened rows now
 * @param powers what stands at each power of the coordinate, whitened
 */
function setupJudge(
  problem: Problem,
  state: State,
  old: Float64Array,
  powers: readonly Float64Array[],
  m: number,
): (t: number) => number {
  const q = 2 * m;
  const parts = (s: Float64Array) => ({
    yy: powers.map((a, i) => powers.slice(0, i + 1).map((b) => form(a, s, b, m))),
    yx: powers.map((a) => form(a, s, old, m)),
    xx: form(old, s, old, m),
  });
  const plain = parts(state.inverse);
  const weighed = problem.weight ? parts(state.sandwich) : undefined;
  /** U′SU at a place. */
  const at = ({ yy, yx, xx }: typeof plain, t: number, into: Float64Array): void => {
    into.fill(0);
    for (let i = 0; i < m; i++)
      for (let j = 0; j < m; j++) {
        let [both, cross] = [0, 0];
        let power = 1;
        for (let k = 0; k < powers.length; k++) {
          cross += power * yx[k][i * m + j];
          let other = 1;
          for (let l = 0; l <= k; l++) {
            both += power * other * (k === l ? yy[k][l][i * m + j] : yy[k][l][i * m + j] + yy[k][l][j * m + i]);
            other *= t;
          }
          power *= t;
        }
        into[i * q + j] = both;
        into[i * q + m + j] = cross;
        into[(m + j) * q + i] = cross;
        into[(m + i) * q + m + j] = xx[i * m + j];
      }
  };
  const k = new Float64Array(q * q);
  const right = weighed ? new Float64Array(q * q) : undefined;
  const sign = m % 2 === 0 ? 1 : -1;
  return (t) => {
    at(plain, t, k);
    for (let i = 0; i < m; i++) {
      k[i * q + i] += 1;
      k[(m + i) * q + m + i] -= 1;
    }
    if (weighed && right) at(weighed, t, right);
    const ratio = sign * eliminate(k, q, right);
    if (!right) return ratio - 1;
    if (!(ratio > 1e-10)) return -1;
    let fall = 0;
    for (let i = 0; i < q; i++) fall += right[i * q + i] / k[i * q + i];
    return fall / state.trace;
  };
}

/** Tries every place of one hard coordinate for all runs of a set-up together. */
function improveHard(problem: Problem, split: Split, state: State, b: Workspace, s: number, j: number) {
  const { space, columns } = problem;
  const p = columns.count;
  const rows = split.members[s].map((i) => state.rows[i]);
  const m = rows.length;
  const now = rows[0][j];
  const stacked = (of: (r: Row, into: Float64Array) => void): Float64Array => {
    const out = new Float64Array(m * p);
    rows.forEach((r, i) => {
      of(r, b.x);
      out.set(b.x, i * p);
    });
    return whitened(out, m, split.eta);
  };
  const old = stacked((r, into) => columns.row(r, into));
  const allowed = (t: number): boolean => {
    for (const r of rows) r[j] = t;
    const ok = rows.every((r) => space.allowed(r));
    for (const r of rows) r[j] = now;
    return ok;
  };
  let chosen = now;
  let gain = WORTH;
  if (space.levels[j] > 0) {
    for (let level = 0; level < space.levels[j]; level++) {
      if (level === now || !allowed(level)) continue;
      columns.category(j, level, b.y);
      const fresh = stacked((r, into) => {
        columns.rest(r, j, into);
        for (let a = 0; a < p; a++) into[a] *= b.y[a];
      });
      const g = setupJudge(problem, state, old, [fresh], m)(0);
      if (g > gain) {
        gain = g;
        chosen = level;
      }
    }
  } else {
    const power = columns.power[j];
    const powers = Array.from({ length: columns.degree[j] + 1 }, (_, k) =>
      stacked((r, into) => {
        columns.rest(r, j, into);
        for (let a = 0; a < p; a++) if (power[a] !== k) into[a] = 0;
      }),
    );
    const open = shared(rows.map((r) => space.open(r, j)));
    const best = bestPlace(problem, j, open, now, setupJudge(problem, state, old, powers, m));
    if (best && best.gain > gain && allowed(best.t)) {
      gain = best.gain;
      chosen = best.t;
    }
  }
  if (chosen === now) return 0;
  addSetup(problem, rows, split.eta, state.information, -1);
  for (const r of rows) r[j] = chosen;
  state.totals[s] = addSetup(problem, rows, split.eta, state.information);
  const log = invert(state.information, p, state.inverse);
  if (log === undefined) {
    for (const r of rows) r[j] = now;
    refresh(problem, split, state);
    return 0;
  }
  state.logDeterminant = log;
  ready(problem, state);
  return Math.log1p(gain);
}

/** What is open to all. */
function shared(all: readonly (readonly (readonly [number, number])[])[]): [number, number][] {
  let open: [number, number][] = [[-1, 1]];
  for (const own of all)
    open = open.flatMap(([low, high]) =>
      own.flatMap(([a, b]): [number, number][] => {
        const [from, to] = [Math.max(low, a), Math.min(high, b)];
        return from <= to ? [[from, to]] : [];
      }),
    );
  return open;
}

/** Runs drawn so that those of a set-up share its hard settings; undefined where none is allowed together. */
function drawn(problem: Problem, { members, hard }: Split, random: Random): Row[] {
  const { space } = problem;
  const k = space.factors.length;
  const rows: Row[] = new Array(problem.runs);
  for (const setup of members) {
    const first = space.draw(random, k + 1);
    setup.forEach((i, n) => {
      let row: Row = first.slice();
      for (let tries = 0; n > 0 && tries < 30; tries++) {
        const other = space.draw(random, k + 1);
        for (const j of hard) other[j] = first[j];
        if (!space.allowed(other)) continue;
        row = other;
        break;
      }
      row[k] = problem.blocks[i];
      rows[i] = row;
    });
  }
  return rows;
}

const PASSES = 200;
/** How near the best found, a column, a start must be to be improved until a pass gains less than so much. */
const POLISH = [
  [0.01, 1e-5],
  [1e-5, 1e-8],
] as const;

/**
 * Plans in set-ups under V = I + ηZZ′ (Goos & Vandebroek 2003; coordinates exchanged, Jones & Goos 2007): one easy
 * coordinate of a run, one hard coordinate of all runs of a set-up, from many random starts; the best of all is never
 * lost. Ends early when a consumer sends `true`.
 */
export function* searchSplitPlan(
  problem: Problem,
  split: Split,
  starts: number,
  seed: number,
): Generator<SearchStep, SearchOutcome | undefined, boolean | undefined> {
  const p = problem.columns.count;
  const of = (n: number): Float64Array => new Float64Array(n);
  const b: Workspace = {
    x: of(p),
    y: of(p),
    rest: of(p),
    part: of(p),
    g: of(p),
    u: of(p),
    h: of(p),
    bx: of(p),
    bg: of(p),
    square: of(p * p),
  };
  const state: State = {
    rows: [],
    information: of(p * p),
    inverse: of(p * p),
    logDeterminant: 0,
    trace: 0,
    sandwich: of(problem.weight ? p * p : 0),
    totals: [],
  };
  const improve = function* (least: number): Generator<void, void, void> {
    for (let pass = 0; pass < PASSES; pass++) {
      let gained = 0;
      for (const [setup, runs] of split.members.entries()) {
        for (const j of split.hard) gained += improveHard(problem, split, state, b, setup, j);
        for (const i of runs) for (const j of split.easy) gained += improveEasy(problem, split, state, b, setup, i, j);
        yield;
      }
      // Rounding of many updates is taken out now and then.
      if ((pass % 8 === 7 || gained < least) && !refresh(problem, split, state)) return;
      if (gained < least) return;
    }
  };
  const begin = (random: Random): Start | undefined => {
    for (let again = 0; again < 5; again++) {
      state.rows = drawn(problem, split, random);
      if (refresh(problem, split, state)) break;
    }
    const ridged = !refresh(problem, split, state);
    if (ridged && !refresh(problem, split, state, 1e-4 * problem.runs)) return undefined;
    return {
      ridged,
      improve,
      refresh: () => refresh(problem, split, state),
      score: () => (problem.weight ? -Math.log(state.trace) : state.logDeterminant),
      rows: () => state.rows,
    };
  };
  const { modelCount } = problem.columns;
  return yield* bestOfStarts(
    starts,
    seed,
    begin,
    POLISH.map(([near, least]) => [near * modelCount, least]),
  );
}
