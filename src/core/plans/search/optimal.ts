import { type Random, seededRandom } from "../../numerics/random";
import {
  improve,
  makeSearchWorkspace,
  type Problem,
  ready,
  refresh,
  replaceRun,
  type SearchWorkspace,
  type State,
  startState,
} from "./exchange";
import type { Row } from "./space";

/** How far a search is, and the best plan it has. */
export interface SearchStep {
  done: number;
  tries: number;
  /** Starts that ended at the best found (to a relative 1e−6). */
  hits: number;
  best: { score: number; rows: Row[] } | undefined;
}

export interface SearchOutcome {
  rows: Row[];
  /** D: log-determinant of X′X; A and I: minus the log of the weighted trace. */
  score: number;
  tries: number;
  hits: number;
  stopped: boolean;
}

export const scoreOf = (problem: Problem, state: State): number =>
  problem.weight ? -Math.log(state.trace) : state.logDeterminant;

/** One start improved until a whole pass gains less than `least`, run by run, coordinate by coordinate. */
export function* ascend(
  problem: Problem,
  state: State,
  b: SearchWorkspace,
  least: number,
  candidates: readonly Row[],
): Generator<void, void, void> {
  const k = problem.space.factors.length;
  for (let pass = 0; pass < 200; pass++) {
    let gained = 0;
    for (let i = 0; i < problem.runs; i++) {
      for (let j = 0; j < k; j++) gained += improve(problem, state, b, i, j);
      yield;
    }
    if (gained < least && candidates.length > 0)
      for (let i = 0; i < problem.runs; i++) {
        gained += replaceRun(problem, state, b, i, candidates);
        yield;
      }
    if (pass % 8 === 7 || gained < least) {
      // Rounding of many updates is taken out now and then.
      if (!refresh(problem, state)) return;
      ready(problem, state, b);
    }
    if (gained < least) return;
  }
}

const PAUSE = 30;

/**
 * Coordinate exchange with rank-one updates (Meyer & Nachtsheim 1995) from many random starts, coordinates refined
 * continuously; the best of all is polished and never lost. Ends early when a consumer sends `true`.
 */
export function* searchPlan(
  problem: Problem,
  starts: number,
  seed: number,
): Generator<SearchStep, SearchOutcome | undefined, boolean | undefined> {
  const b = makeSearchWorkspace(problem.columns);
  const k = problem.space.factors.length;
  let best: { score: number; rows: Row[] } | undefined;
  let hits = 0;
  let tries = 0;
  let stopped = false;
  let clock = performance.now();
  const copy = (rows: readonly Row[]): Row[] => rows.map((r) => r.slice());
  const candidateRandom = seededRandom(seed + 77_001);
  const candidates = problem.space.box ? [] : corners(problem, candidateRandom);
  for (let s = 0; s < starts && !stopped; s++) {
    const random = seededRandom(seed * 1_000_003 + s);
    const started = startState(problem, () => problem.space.draw(random, k + 1));
    if (!started) continue;
    const { state, ridged } = started;
    ready(problem, state, b);
    const improveTo = function* (least: number): Generator<SearchStep, void, boolean | undefined> {
      for (const _ of ascend(problem, state, b, least, candidates)) {
        const now = performance.now();
        if (now - clock < PAUSE || stopped) continue;
        clock = now;
        if (yield { done: s / starts, tries: s, hits, best }) {
          stopped = true;
          // The first start is always brought to its end, so that there is something to keep.
          if (best) return;
        }
      }
    };
    yield* improveTo(1e-3);
    if (stopped && best) break;
    if (ridged && !refresh(problem, state)) continue;
    // Only starts that come near the best are worth the last digits.
    if (!best || scoreOf(problem, state) > best.score - 0.02 * problem.columns.modelCount) yield* improveTo(1e-8);
    if (stopped && best) break;
    tries = s + 1;
    const score = scoreOf(problem, state);
    if (!Number.isFinite(score)) continue;
    if (!best || score > best.score + 1e-6) {
      hits = 1;
      best = { score, rows: copy(state.rows) };
    } else if (score > best.score - 1e-6) {
      hits++;
      if (score > best.score) best = { score, rows: copy(state.rows) };
    }
  }
  return best ? { rows: best.rows, score: best.score, tries, hits, stopped } : undefined;
}

/**
 * Allowed runs a limited region's plans are likely to be made of: corners, their cuts along each coordinate, and
 * draws.
 */
function corners(problem: Problem, random: Random): Row[] {
  const { space } = problem;
  const k = space.factors.length;
  const out = new Map<string, Row>();
  const add = (row: Row): void => {
    if (space.allowed(row)) out.set(Array.from(row.subarray(0, k), (v) => v.toFixed(6)).join(), row);
  };
  for (let n = 0; n < 400 && out.size < 250; n++) {
    const row = space.draw(random, k + 1);
    // Walk from a draw to the ends of what each coordinate may be, in random order: this ends on corners of the region.
    for (const j of random.shuffled(Array.from({ length: k }, (_, i) => i))) {
      if (space.levels[j] > 0) continue;
      const open = space.open(row, j);
      if (open.length === 0) continue;
      const part = open[random.below(open.length)];
      const end = part[random.below(2)];
      const positions = space.positions[j];
      row[j] = positions
        ? positions.reduce(
            (m, v) => (v >= part[0] - 1e-9 && v <= part[1] + 1e-9 && Math.abs(v - end) < Math.abs(m - end) ? v : m),
            row[j],
          )
        : end;
    }
    add(row);
  }
  return [...out.values()];
}
