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
import { bestOfStarts, type SearchOutcome, type SearchStep, type Start } from "./starts";

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
  const candidates = problem.space.box ? [] : corners(problem, seededRandom(seed + 77_001));
  const begin = (random: Random): Start | undefined => {
    const started = startState(problem, () => problem.space.draw(random, k + 1));
    if (!started) return undefined;
    const { state, ridged } = started;
    ready(problem, state, b);
    return {
      ridged,
      improve: (least) => ascend(problem, state, b, least, candidates),
      refresh: () => refresh(problem, state),
      score: () => scoreOf(problem, state),
      rows: () => state.rows,
    };
  };
  return yield* bestOfStarts(starts, seed, begin, [[0.02 * problem.columns.modelCount, 1e-8]]);
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
