import { bestLevel, type Problem } from "./exchange";
import { dot, horner, multiply } from "./forms";
import type { Row } from "./space";
import { bestPlace, WORTH } from "./split-place";
import { type Split, type State, settle, shrinkOf, type Workspace } from "./split-state";

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

/** Tries every place of one easy coordinate of one run. */
export function improveEasy(
  problem: Problem,
  split: Split,
  state: State,
  b: Workspace,
  s: number,
  i: number,
  j: number,
) {
  const { space, columns } = problem;
  const r = state.rows[i];
  const c = shrinkOf(split.eta, split.members[s].length);
  columns.row(r, b.x);
  for (let a = 0; a < b.g.length; a++) b.g[a] = b.x[a] - c * state.totals[s][a];
  const judge = judgeOf(problem, state, b, c);
  let chosen = r[j];
  let gain = WORTH;
  if (space.levels[j] > 0) {
    const best = bestLevel(problem, b, b.square, r, j, () => gainOfColumns(problem, state, b, judge), gain);
    if (best) ({ t: chosen, gain } = best);
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
