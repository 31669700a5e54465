import { seededRandom } from "../../numerics/random";
import type { Columns } from "./columns";
import { invert, type Problem, products } from "./exchange";
import type { Row } from "./space";

/** A plan under search with its alias matrix. */
interface Aliased {
  rows: Row[];
  /** (X₁′X₁)⁻¹. */
  inverse: Float64Array;
  logDeterminant: number;
  /** X₁′X₂, p × q. */
  cross: Float64Array;
  /** A = (X₁′X₁)⁻¹X₁′X₂, p × q. */
  alias: Float64Array;
  /** trace(A′A) over the terms' rows, the constant's among them. */
  trace: number;
}

export interface AliasQuestion {
  problem: Problem;
  possible: Columns;
  /** Log-determinant that must be kept. */
  floor: number;
}

const TOUGH = 200;

/** trace(A′A) with what falling below the floor costs. */
const cost = (trace: number, logDeterminant: number, floor: number): number => {
  const short = floor - logDeterminant;
  return short > 0 ? trace + TOUGH * short * short + TOUGH * 0.05 * short : trace;
};

function work(question: AliasQuestion, state: Aliased): boolean {
  const { problem, possible } = question;
  const p = problem.columns.count;
  const q = possible.count;
  const m = new Float64Array(p * p);
  const all = [...problem.fixed, ...state.rows];
  products(problem.columns, all, m);
  const log = invert(m, p, state.inverse);
  if (log === undefined) return false;
  state.logDeterminant = log;
  state.cross.fill(0);
  const x = new Float64Array(p);
  const y = new Float64Array(q);
  for (const r of all) {
    problem.columns.row(r, x);
    possible.row(r, y);
    for (let a = 0; a < p; a++) {
      const v = x[a];
      if (v !== 0) for (let b = 1; b < q; b++) state.cross[a * q + b] += v * y[b];
    }
  }
  finish(question, state);
  return true;
}

/** A and its trace from the inverse and X₁′X₂. */
function finish({ problem, possible }: AliasQuestion, state: Aliased): void {
  const p = problem.columns.count;
  const q = possible.count;
  state.alias.fill(0);
  for (let a = 0; a < p; a++)
    for (let c = 0; c < p; c++) {
      const v = state.inverse[a * p + c];
      if (v !== 0) for (let b = 1; b < q; b++) state.alias[a * q + b] += v * state.cross[c * q + b];
    }
  let t = 0;
  const modelCells = problem.columns.modelCount * q;
  for (let i = 0; i < modelCells; i++) t += state.alias[i] * state.alias[i];
  state.trace = t;
}

/** Judges what a run's replacement would do to trace(A′A): A changes by two outer products, so one look costs p·q. */
function judgeOf(question: AliasQuestion, state: Aliased, x: Float64Array, x2: Float64Array) {
  const { problem, possible } = question;
  const p = problem.columns.count;
  const q = possible.count;
  const modelColumns = problem.columns.modelCount;
  const u = new Float64Array(p);
  const v = new Float64Array(p);
  const xa = new Float64Array(q);
  const ya = new Float64Array(q);
  const ua = new Float64Array(q);
  const va = new Float64Array(q);
  const times = (m: Float64Array, y: Float64Array, into: Float64Array): void => {
    for (let i = 0; i < p; i++) {
      let t = 0;
      for (let j = 0; j < p; j++) t += m[i * p + j] * y[j];
      into[i] = t;
    }
  };
  /** y′A over `rows` rows. */
  const along = (y: Float64Array, rows: number, into: Float64Array): void => {
    into.fill(0);
    for (let a = 0; a < rows; a++) {
      const w = y[a];
      if (w !== 0) for (let b = 1; b < q; b++) into[b] += w * state.alias[a * q + b];
    }
  };
  times(state.inverse, x, u);
  let dx = 0;
  for (let i = 0; i < p; i++) dx += x[i] * u[i];
  along(x, p, xa);
  along(u, modelColumns, ua);
  let uu = 0;
  for (let i = 0; i < modelColumns; i++) uu += u[i] * u[i];
  return (y: Float64Array, y2: Float64Array): { trace: number; logDeterminant: number } => {
    times(state.inverse, y, v);
    let dy = 0;
    let dxy = 0;
    for (let i = 0; i < p; i++) {
      dy += y[i] * v[i];
      dxy += x[i] * v[i];
    }
    const ratio = (1 + dy) * (1 - dx) + dxy * dxy;
    if (!(ratio > 1e-10)) return { trace: Number.POSITIVE_INFINITY, logDeterminant: Number.NEGATIVE_INFINITY };
    const s11 = (1 - dx) / ratio;
    const s12 = dxy / ratio;
    const s22 = -(1 + dy) / ratio;
    // V′y = αv + βu and V′x = γv + δu, V′ the inverse after the exchange.
    const alpha = 1 - s11 * dy - s12 * dxy;
    const beta = -(s12 * dy + s22 * dxy);
    const gamma = -(s11 * dxy + s12 * dx);
    const delta = 1 - s12 * dxy - s22 * dx;
    along(y, p, ya);
    along(v, modelColumns, va);
    let vv = 0;
    let uv = 0;
    for (let i = 0; i < modelColumns; i++) {
      vv += v[i] * v[i];
      uv += u[i] * v[i];
    }
    let t = state.trace;
    let aa = 0;
    let bb = 0;
    let ab = 0;
    for (let c = 1; c < q; c++) {
      const a = -(s11 * ya[c] + s12 * xa[c]) + alpha * y2[c] - gamma * x2[c];
      const b = -(s12 * ya[c] + s22 * xa[c]) + beta * y2[c] - delta * x2[c];
      t += 2 * (va[c] * a + ua[c] * b);
      aa += a * a;
      bb += b * b;
      ab += a * b;
    }
    t += vv * aa + uu * bb + 2 * uv * ab;
    return { trace: t, logDeterminant: state.logDeterminant + Math.log(ratio) };
  };
}

/** Tries every place of one coordinate of one run; answers how much the cost fell. */
function improve(question: AliasQuestion, state: Aliased, i: number, j: number, fine: boolean): number {
  const { problem, possible, floor } = question;
  const { space, columns } = problem;
  const p = columns.count;
  const q = possible.count;
  const r = state.rows[i];
  const x = new Float64Array(p);
  const x2 = new Float64Array(q);
  columns.row(r, x);
  possible.row(r, x2);
  const judge = judgeOf(question, state, x, x2);
  const y = new Float64Array(p);
  const y2 = new Float64Array(q);
  const before = r[j];
  const now = cost(state.trace, state.logDeterminant, floor);
  const traceAt = (t: number): number => {
    r[j] = t;
    columns.row(r, y);
    possible.row(r, y2);
    r[j] = before;
    const g = judge(y, y2);
    return cost(g.trace, g.logDeterminant, floor);
  };
  let best = { t: before, value: now };
  const look = (t: number): number => {
    const value = traceAt(t);
    if (value < best.value - 1e-12) best = { t, value };
    return value;
  };
  if (space.levels[j] > 0) {
    for (let level = 0; level < space.levels[j]; level++) {
      if (level === before) continue;
      r[j] = level;
      const open = space.allowed(r);
      r[j] = before;
      if (open) look(level);
    }
  } else {
    const open = space.open(r, j);
    const positions = space.positions[j];
    if (positions) {
      for (const t of positions)
        if (t !== before && open.some(([low, high]) => t >= low - 1e-9 && t <= high + 1e-9)) look(t);
    } else {
      for (const [low, high] of open) {
        const places = fine ? [] : Array.from({ length: 7 }, (_, g) => low + ((high - low) * g) / 6);
        let spot = before >= low && before <= high ? before : (low + high) / 2;
        let value = traceAt(spot);
        for (const t of places) {
          const v = traceAt(t);
          if (v < value) {
            spot = t;
            value = v;
          }
        }
        // A parabola through the spot and its neighbours, narrowed a few times: the cost is smooth but for its floor.
        let width = fine ? 0.05 * (high - low) : (high - low) / 6;
        for (let n = 0; n < (fine ? 6 : 4); n++) {
          const a = Math.max(low, spot - width);
          const c = Math.min(high, spot + width);
          const fa = a < spot ? traceAt(a) : Number.POSITIVE_INFINITY;
          const fc = c > spot ? traceAt(c) : Number.POSITIVE_INFINITY;
          let tries: [number, number][] = [
            [a, fa],
            [c, fc],
          ];
          if (Number.isFinite(fa) && Number.isFinite(fc)) {
            const up = (spot - a) ** 2 * (value - fc) - (spot - c) ** 2 * (value - fa);
            const down = 2 * ((spot - a) * (value - fc) - (spot - c) * (value - fa));
            const t = down !== 0 ? spot - up / down : Number.NaN;
            if (t > a && t < c) tries = [...tries, [t, traceAt(t)]];
          }
          for (const [t, v] of tries)
            if (v < value) {
              spot = t;
              value = v;
            }
          width *= 0.35;
        }
        if (value < best.value - 1e-12) best = { t: spot, value };
      }
    }
  }
  if (best.t === before) return 0;
  r[j] = best.t;
  columns.row(r, y);
  possible.row(r, y2);
  update(question, state, x, x2, y, y2);
  return now - cost(state.trace, state.logDeterminant, floor);
}

/** Takes run x out and run y in: rank-one updates of the inverse and of X₁′X₂. */
function update(
  question: AliasQuestion,
  state: Aliased,
  x: Float64Array,
  x2: Float64Array,
  y: Float64Array,
  y2: Float64Array,
): void {
  const p = x.length;
  const q = x2.length;
  const v = state.inverse;
  const turn = (z: Float64Array, sign: 1 | -1): boolean => {
    const u = new Float64Array(p);
    let d = 0;
    for (let i = 0; i < p; i++) {
      let t = 0;
      for (let j = 0; j < p; j++) t += v[i * p + j] * z[j];
      u[i] = t;
      d += z[i] * t;
    }
    const f = 1 + sign * d;
    if (!(f > 1e-12)) return false;
    for (let i = 0; i < p; i++) for (let j = 0; j < p; j++) v[i * p + j] -= (sign * u[i] * u[j]) / f;
    state.logDeterminant += Math.log(f);
    return true;
  };
  for (let a = 0; a < p; a++) for (let b = 1; b < q; b++) state.cross[a * q + b] += y[a] * y2[b] - x[a] * x2[b];
  if (turn(y, 1) && turn(x, -1)) finish(question, state);
  else work(question, state);
}

/** Gradients of trace(A′A) and of log |X₁′X₁| by every continuous coordinate, run by run. */
function slopes(
  question: AliasQuestion,
  state: Aliased,
  movable: readonly number[],
  trace: Float64Array,
  determinant: Float64Array,
): void {
  const { problem, possible } = question;
  const { columns } = problem;
  const p = columns.count;
  const q = possible.count;
  const modelColumns = columns.modelCount;
  // H = V·A with the rows of blocks left out of A.
  const h = new Float64Array(p * q);
  for (let a = 0; a < p; a++)
    for (let c = 0; c < modelColumns; c++) {
      const v = state.inverse[a * p + c];
      if (v !== 0) for (let b = 1; b < q; b++) h[a * q + b] += v * state.alias[c * q + b];
    }
  const x = new Float64Array(p);
  const x2 = new Float64Array(q);
  const rest = new Float64Array(p);
  const rest2 = new Float64Array(q);
  const g1 = new Float64Array(p);
  const d1 = new Float64Array(p);
  const g2 = new Float64Array(q);
  const left = new Float64Array(q);
  state.rows.forEach((r, i) => {
    columns.row(r, x);
    possible.row(r, x2);
    left.set(x2);
    g2.fill(0);
    for (let a = 0; a < p; a++) {
      const v = x[a];
      if (v === 0) continue;
      for (let b = 1; b < q; b++) {
        left[b] -= v * state.alias[a * q + b];
        g2[b] += v * h[a * q + b];
      }
    }
    for (let a = 0; a < p; a++) {
      let g = 0;
      for (let b = 1; b < q; b++) g += h[a * q + b] * left[b] - state.alias[a * q + b] * g2[b];
      g1[a] = 2 * g;
      let d = 0;
      for (let c = 0; c < p; c++) d += state.inverse[a * p + c] * x[c];
      d1[a] = 2 * d;
    }
    movable.forEach((j, m) => {
      columns.rest(r, j, rest);
      possible.rest(r, j, rest2);
      let t = 0;
      let d = 0;
      for (let a = 0; a < p; a++) {
        const n = columns.power[j][a];
        if (n === 0) continue;
        const slope = n * (n === 1 ? 1 : r[j] ** (n - 1)) * rest[a];
        t += g1[a] * slope;
        d += d1[a] * slope;
      }
      for (let b = 1; b < q; b++) {
        const n = possible.power[j][b];
        if (n > 0) t += 2 * g2[b] * n * (n === 1 ? 1 : r[j] ** (n - 1)) * rest2[b];
      }
      trace[i * movable.length + m] = t;
      determinant[i * movable.length + m] = d;
    });
  });
}

/**
 * All continuous coordinates moved at once: spectral projected gradient (Birgin, Martínez & Raydan 2000) on the
 * augmented Lagrangian of the determinant's floor. For boxes only; steps and categories stay where they are.
 */
// One descent, whose steps share every buffer so that none is allocated inside it.
function glide(question: AliasQuestion, state: Aliased): void {
  const { problem, floor } = question;
  const { space } = problem;
  const movable = space.factors.flatMap((_, j) => (space.levels[j] === 0 && !space.positions[j] ? [j] : []));
  if (!space.box || movable.length === 0) return;
  const m = movable.length;
  const n = problem.runs * m;
  const read = (into: Float64Array): void => {
    state.rows.forEach((r, i) => {
      movable.forEach((j, c) => {
        into[i * m + c] = r[j];
      });
    });
  };
  const write = (from: Float64Array): boolean => {
    state.rows.forEach((r, i) => {
      movable.forEach((j, c) => {
        r[j] = from[i * m + c];
      });
    });
    return work(question, state);
  };
  let multiplier = 1;
  let stiffness = 20;
  const aim = floor + 1e-9;
  const lagrangian = (): number => {
    const s = aim - state.logDeterminant + multiplier / stiffness;
    return state.trace + (s > 0 ? (stiffness / 2) * s * s : 0);
  };
  const here = new Float64Array(n);
  const next = new Float64Array(n);
  const gt = new Float64Array(n);
  const gd = new Float64Array(n);
  const slope = (into: Float64Array): void => {
    slopes(question, state, movable, gt, gd);
    const pull = Math.max(0, aim - state.logDeterminant + multiplier / stiffness) * stiffness;
    for (let i = 0; i < n; i++) into[i] = gt[i] - pull * gd[i];
  };
  const clip = (v: number): number => (v < -1 ? -1 : v > 1 ? 1 : v);
  const g = new Float64Array(n);
  const old = new Float64Array(n);
  read(here);
  for (let round = 0; round < 12; round++) {
    let value = lagrangian();
    let recent = [value];
    slope(g);
    let length = 0.1;
    for (let step = 0; step < 150; step++) {
      // Direction to the projected point, then halving until the value falls (nonmonotone over ten steps).
      let along = 0;
      let size = 0;
      const d = next.slice();
      for (let i = 0; i < n; i++) {
        d[i] = clip(here[i] - length * g[i]) - here[i];
        along += d[i] * g[i];
        size = Math.max(size, Math.abs(d[i]));
      }
      if (size < 1e-8 * Math.max(1, length)) break;
      const most = Math.max(...recent);
      let scale = 1;
      let found = false;
      for (let half = 0; half < 25; half++) {
        for (let i = 0; i < n; i++) next[i] = here[i] + scale * d[i];
        if (write(next) && lagrangian() <= most + 1e-4 * scale * along) {
          found = true;
          break;
        }
        scale /= 2;
      }
      if (!found) {
        write(here);
        break;
      }
      old.set(g);
      slope(g);
      let ss = 0;
      let sy = 0;
      for (let i = 0; i < n; i++) {
        const s = next[i] - here[i];
        ss += s * s;
        sy += s * (g[i] - old[i]);
      }
      length = sy > 0 ? Math.min(1e3, Math.max(1e-6, ss / sy)) : 1e3;
      here.set(next);
      value = lagrangian();
      recent = [...recent.slice(-9), value];
    }
    const short = aim - state.logDeterminant;
    multiplier = Math.max(0, multiplier + stiffness * short);
    if (round > 2 && Math.abs(short) < 1e-8) break;
    if (short > 1e-4) stiffness *= 3;
  }
  // What is left below the floor is made up by a step up the determinant.
  for (let i = 0; i < 40 && state.logDeterminant < floor; i++) {
    slopes(question, state, movable, gt, gd);
    let norm = 0;
    for (const v of gd) norm += v * v;
    const push = (floor - state.logDeterminant + 1e-9) / (norm || 1);
    read(here);
    for (let k = 0; k < n; k++) next[k] = clip(here[k] + 1.5 * push * gd[k]);
    if (!write(next)) write(here);
  }
}

/** A start whose second half mirrors the first: mains then keep clear of interactions from the outset. */
function mirrored(problem: Problem, rows: readonly Row[]): Row[] {
  const { space } = problem;
  const half = Math.ceil(rows.length / 2);
  return rows.map((r, i) => {
    if (i < half) return r;
    const twin = rows[i - half].slice();
    space.factors.forEach((_, j) => {
      const positions = space.positions[j];
      if (space.levels[j] === 2) twin[j] = 1 - twin[j];
      else if (space.levels[j] === 0) {
        const t = -twin[j];
        twin[j] = positions ? positions.reduce((m, v) => (Math.abs(v - t) < Math.abs(m - t) ? v : m), positions[0]) : t;
      }
    });
    twin[space.factors.length] = problem.blocks[i];
    return space.allowed(twin) ? twin : r;
  });
}

export interface AliasOutcome {
  rows: Row[];
  trace: number;
  logDeterminant: number;
  tries: number;
  stopped: boolean;
}

const PAUSE = 30;

/**
 * Least trace(A′A) with the determinant kept above a floor (Jones & Nachtsheim 2011): coordinate exchange on the trace
 * with a steep cost below the floor, from random starts and from plans given, the best one polished.
 *
 * @param from plans to start from besides the random ones
 */
export function* searchLeastAliasing(
  question: AliasQuestion,
  starts: number,
  seed: number,
  from: readonly Row[][] = [],
): Generator<{ done: number; tries: number; best: number | undefined }, AliasOutcome | undefined, boolean | undefined> {
  const { problem, possible, floor } = question;
  const p = problem.columns.count;
  const q = possible.count;
  const k = problem.space.factors.length;
  let best: AliasOutcome | undefined;
  let clock = performance.now();
  let stopped = false;
  let tries = 0;
  const total = starts + from.length;
  for (let s = 0; s < total && !stopped; s++) {
    const random = seededRandom(seed * 7_368_787 + s);
    const state: Aliased = {
      rows: [],
      inverse: new Float64Array(p * p),
      logDeterminant: 0,
      cross: new Float64Array(p * q),
      alias: new Float64Array(p * q),
      trace: 0,
    };
    let good = false;
    for (let n = 0; n < 10 && !good; n++) {
      state.rows =
        s < from.length
          ? from[s].map((r) => r.slice())
          : Array.from({ length: problem.runs }, (_, i) => {
              const r = problem.space.draw(random, k + 1);
              r[k] = problem.blocks[i];
              return r;
            });
      if (s >= from.length && s % 2 === 0) state.rows = mirrored(problem, state.rows);
      good = work(question, state);
    }
    if (!good) continue;
    const descend = function* (
      least: number,
      passes: number,
      fine: boolean,
    ): Generator<{ done: number; tries: number; best: number | undefined }, boolean, boolean | undefined> {
      for (let pass = 0; pass < passes; pass++) {
        let fell = 0;
        for (let i = 0; i < problem.runs; i++) {
          for (let j = 0; j < k; j++) fell += improve(question, state, i, j, fine);
          const now = performance.now();
          if (now - clock > PAUSE && !stopped) {
            clock = now;
            if (yield { done: s / total, tries: s, best: best?.trace }) {
              stopped = true;
              if (best) return false;
            }
          }
        }
        work(question, state);
        if (fell < least) break;
      }
      return true;
    };
    glide(question, state);
    if (!(yield* descend(2e-3, problem.space.box ? 3 : 60, false))) break;
    // Starts that end far above the best are not worth the last digits.
    const near = !best || cost(state.trace, state.logDeterminant, floor) < best.trace * 1.25 + 0.05;
    if (near) {
      glide(question, state);
      if (!(yield* descend(1e-6, 300, true))) break;
    }
    tries = s + 1;
    const kept = state.logDeterminant >= floor - 1e-9;
    if (kept && (!best || state.trace < best.trace - 1e-9))
      best = {
        rows: state.rows.map((r) => r.slice()),
        trace: state.trace,
        logDeterminant: state.logDeterminant,
        tries,
        stopped,
      };
  }
  return best ? { ...best, tries, stopped } : undefined;
}
