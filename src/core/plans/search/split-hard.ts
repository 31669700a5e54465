import { eliminate } from "../../numerics/matrices";
import { invert, type Problem } from "./exchange";
import type { Row } from "./space";
import { bestPlace, WORTH } from "./split-place";
import { addSetup, ready, refresh, type Split, type State, type Workspace } from "./split-state";

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
export function improveHard(problem: Problem, split: Split, state: State, b: Workspace, s: number, j: number) {
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
