import type { Random } from "../../numerics/random";
import type { Problem } from "./exchange";
import type { Row } from "./space";
import { improveEasy } from "./split-easy";
import { improveHard } from "./split-hard";
import { refresh, type Split, type State, type Workspace } from "./split-state";
import { bestOfStarts, type SearchOutcome, type SearchStep, type Start } from "./starts";

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
