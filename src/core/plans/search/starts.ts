import { type Random, seededRandom } from "../../numerics/random";
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
  /** D: log-determinant of the information; A and I: minus the log of the weighted trace. */
  score: number;
  tries: number;
  hits: number;
  stopped: boolean;
}

/** One random start of a search. */
export interface Start {
  /** It began singular, helped by a little ridge, and is to be worked out anew without. */
  ridged: boolean;
  /** Improves it until a whole pass gains less than `least`, pausing now and then. */
  improve(least: number): Generator<void, void, void>;
  /** Works it out anew from its rows; false when it is singular. */
  refresh(): boolean;
  score(): number;
  rows(): readonly Row[];
}

/** Milliseconds between tellings of how far it is. */
const PAUSE = 30;
/** What every start is improved to. */
const FIRST = 1e-3;

/**
 * The best of many random starts, never lost. Ends early when a consumer sends `true`.
 *
 * @param polish how near the best found a start must be to be improved until a pass gains less than so much, in turn
 */
export function* bestOfStarts(
  starts: number,
  seed: number,
  begin: (random: Random) => Start | undefined,
  polish: readonly (readonly [near: number, least: number])[],
): Generator<SearchStep, SearchOutcome | undefined, boolean | undefined> {
  let best: { score: number; rows: Row[] } | undefined;
  let hits = 0;
  let tries = 0;
  let stopped = false;
  let clock = performance.now();
  for (let s = 0; s < starts && !stopped; s++) {
    const start = begin(seededRandom(seed * 1_000_003 + s));
    if (!start) continue;
    const improveTo = function* (least: number): Generator<SearchStep, void, boolean | undefined> {
      for (const _ of start.improve(least)) {
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
    yield* improveTo(FIRST);
    if (stopped && best) break;
    if (start.ridged && !start.refresh()) continue;
    // Only starts that come near the best are worth the last digits.
    for (const [near, least] of polish) if (!best || start.score() > best.score - near) yield* improveTo(least);
    if (stopped && best) break;
    tries = s + 1;
    const score = start.score();
    if (!Number.isFinite(score)) continue;
    if (!best || score > best.score + 1e-6) {
      hits = 1;
      best = { score, rows: start.rows().map((r) => r.slice()) };
    } else if (score > best.score - 1e-6) {
      hits++;
      if (score > best.score) best = { score, rows: start.rows().map((r) => r.slice()) };
    }
  }
  return best ? { rows: best.rows, score: best.score, tries, hits, stopped } : undefined;
}
