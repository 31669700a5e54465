import { EigenvalueDecomposition, Matrix } from "ml-matrix";
import { type AtLeast, quadraticProgram } from "../numerics/quadratic-program";
import { code, decode } from "../study/coding";
import type { Region } from "../study/region";
import type { NumericFactor, Settings } from "../study/schema";
import { desirabilityPieces, type Piece, shortfallPieces } from "./desirability";
import type { SetpointProblem } from "./goals";

/** A point of the region with what the search makes of it (see `Wishes.score`). */
export interface Place {
  settings: Settings;
  score: number;
}

const MOST_STEPS = 80;
/** A climb ends where no more than this is to be expected of the next step, in ln D. */
const ENOUGH = 1e-9;
/** … or after so many steps that brought less than a hundred thousandth between them. */
const STALLED = 8;
/** Coded step of the differences that slopes and curvatures are taken by. */
const H = 1e-3;
/** Weight on the height variables, which need some curvature for the program to be strictly convex. */
const TINY = 1e-6;

/** Values, slopes and curvatures of all responses at a coded point. */
interface Local {
  y: Float64Array;
  /** Per response, k slopes. */
  slope: number[][];
  /** Per response, k × k. */
  curvature: number[][][];
}

/** Central differences, which are exact for the second-order models that most studies have. */
function localOf(
  problem: SetpointProblem,
  numeric: readonly NumericFactor[],
  settings: Settings,
  x: readonly number[],
): Local {
  const k = numeric.length;
  const here: Settings = { ...settings };
  const read = (): Float64Array => problem.values(here).slice();
  const move = (i: number, by: number): void => {
    here[numeric[i].id] = decode(numeric[i], x[i] + by);
  };
  for (let i = 0; i < k; i++) move(i, 0);
  const y = read();
  const up: Float64Array[] = [];
  const slope = Array.from(y, () => new Array<number>(k).fill(0));
  const curvature = Array.from(y, () => Array.from({ length: k }, () => new Array<number>(k).fill(0)));
  for (let i = 0; i < k; i++) {
    move(i, H);
    const plus = read();
    move(i, -H);
    const minus = read();
    move(i, 0);
    up.push(plus);
    for (let r = 0; r < y.length; r++) {
      slope[r][i] = (plus[r] - minus[r]) / (2 * H);
      curvature[r][i][i] = (plus[r] - 2 * y[r] + minus[r]) / (H * H);
    }
  }
  for (let i = 0; i < k; i++)
    for (let j = 0; j < i; j++) {
      move(i, H);
      move(j, H);
      const both = problem.values(here);
      for (let r = 0; r < y.length; r++)
        curvature[r][i][j] = curvature[r][j][i] = (both[r] - up[i][r] - up[j][r] + y[r]) / (H * H);
      move(i, 0);
      move(j, 0);
    }
  return { y, slope, curvature };
}

/** The nearest matrix without negative eigenvalues, plus `extra` on its diagonal. */
function convex(m: readonly (readonly number[])[], extra: number): number[][] {
  const k = m.length;
  const evd = new EigenvalueDecomposition(new Matrix(m.map((r) => [...r])), { assumeSymmetric: true });
  const values = evd.realEigenvalues;
  const vectors = evd.eigenvectorMatrix;
  return Array.from({ length: k }, (_, i) =>
    Array.from({ length: k }, (__, j) => {
      let total = i === j ? extra : 0;
      for (let e = 0; e < k; e++) if (values[e] > 0) total += values[e] * vectors.get(i, e) * vectors.get(j, e);
      return total;
    }),
  );
}

/**
 * What keeps a coded step inside the region: ranges, and every constraint as it looks from the point (straight limits,
 * of forbidden combinations the side the point stands on).
 */
function keeping(
  region: Region,
  numeric: readonly NumericFactor[],
  settings: Settings,
  x: readonly number[],
): AtLeast[] {
  const axis = (i: number, sign: number): number[] => numeric.map((_, j) => (i === j ? sign : 0));
  return [
    ...numeric.flatMap((_, i) => [
      { of: axis(i, 1), bound: -1 - x[i] },
      { of: axis(i, -1), bound: x[i] - 1 },
    ]),
    ...region.constraints.flatMap((c) => c.linearised(numeric, settings) ?? []),
  ];
}

/**
 * Climbs to a local best of the overall desirability by sequential quadratic programming on its logarithm. The curves'
 * knees make ridges that stop searches along single directions, so every response's desirability stands in the program
 * as a height below each of its curve's pieces (composite maximisation, Fletcher 1987, §14), with the curvature of the
 * pieces that carried the last program, made convex and damped (Levenberg–Marquardt). Where some desirability is 0 the
 * shortfall is reduced in the same way.
 *
 * @param numeric the factors that move; all others stay as in `start`
 */
export function ascend(problem: SetpointProblem, numeric: readonly NumericFactor[], start: Place): Place {
  const k = numeric.length;
  if (k === 0) return start;
  const goals = problem.responses.map((r) => r.goal);
  const weights = problem.responses.map((r) => r.importance);
  const total = weights.reduce((t, w) => t + w, 0);
  const m = goals.length;
  let point = start;
  let x = numeric.map((f) => Math.min(1, Math.max(-1, code(f, point.settings[f.id] as number))));
  let damping = 1;
  let multipliers: number[] | undefined;
  const scores: number[] = [];
  for (let step = 0; step < MOST_STEPS; step++) {
    scores.push(point.score);
    if (step >= STALLED && point.score - scores[step - STALLED] < 1e-5) return point;
    const { y, slope, curvature } = localOf(problem, numeric, point.settings, x);
    const alive = point.score > 0;
    const pieces: { r: number; piece: Piece }[] = goals.flatMap((goal, r) =>
      (alive ? desirabilityPieces(goal, y[r]) : shortfallPieces(goal, y[r])).map((piece) => ({ r, piece })),
    );
    if (![...y, ...slope.flat(), ...curvature.flat(2)].every(Number.isFinite)) return point;
    // The multipliers of the last program, as long as the pieces are the same; else what is active here.
    const carried = pieces.map(({ r, piece }, i) => {
      if (multipliers && multipliers.length === pieces.length) return multipliers[i];
      const lowest = pieces.reduce((a, b, j) => (b.r === r && b.piece.value < pieces[a].piece.value ? j : a), i);
      return lowest === i && piece.value < 0 ? weights[r] / total : 0;
    });
    const bend = Array.from({ length: k }, (_, i) =>
      Array.from({ length: k }, (__, j) =>
        pieces.reduce((t, { r, piece }, q) => {
          if (carried[q] === 0) return t;
          return t - carried[q] * (piece.slope * curvature[r][i][j] + piece.bend * slope[r][i] * slope[r][j]);
        }, 0),
      ),
    );
    const keep = keeping(problem.region, numeric, point.settings, x);
    const heights = Array.from({ length: m }, () => 0);
    const none = Array.from({ length: k }, () => 0);
    const constraints: AtLeast[] = [
      ...pieces.map(({ r, piece }) => ({
        of: [...slope[r].map((s) => piece.slope * s), ...heights.map((_, q) => (q === r ? -1 : 0))],
        bound: -piece.value,
      })),
      ...goals.map((_, r) => ({ of: [...none, ...heights.map((__, q) => (q === r ? -1 : 0))], bound: 0 })),
      ...keep.map((c) => ({ of: [...c.of, ...heights], bound: c.bound })),
      // A window without a target has no slope inside: its edges are walls.
      ...(alive
        ? goals.flatMap((goal, r) =>
            (goal.aim === "within" || goal.aim === "hit") && goal.target === undefined
              ? [
                  { of: [...slope[r], ...heights], bound: goal.low - y[r] },
                  { of: [...slope[r].map((s) => -s), ...heights], bound: y[r] - goal.high },
                ]
              : [],
          )
        : []),
    ];
    const now = goals.map((_, r) => Math.min(0, ...pieces.filter((p) => p.r === r).map((p) => p.piece.value)));
    const height = now.reduce((t, v, r) => t + (weights[r] / total) * v, 0);
    let moved = false;
    for (let tries = 0; tries < 12 && !moved; tries++) {
      const top = convex(bend, damping);
      const quadratic = [
        ...top.map((row) => [...row, ...heights]),
        ...heights.map((_, r) => [...none, ...heights.map((__, q) => (q === r ? TINY : 0))]),
      ];
      const solved = quadraticProgram(quadratic, [...none, ...weights.map((w) => w / total)], constraints);
      if (!solved) {
        damping *= 8;
        continue;
      }
      const p = solved.x.slice(0, k);
      const expected = solved.x.slice(k).reduce((t, v, r) => t + (weights[r] / total) * v, 0) - height;
      if (!(expected > ENOUGH)) return point;
      const next = x.map((v, i) => Math.min(1, Math.max(-1, v + p[i])));
      const settings: Settings = { ...point.settings };
      numeric.forEach((f, i) => {
        settings[f.id] = decode(f, next[i]);
      });
      const score = problem.region.allowed(settings) ? problem.score(settings) : Number.NEGATIVE_INFINITY;
      if (score > point.score) {
        const gained = (score > 0 ? Math.log(score) : score) - (alive ? Math.log(point.score) : point.score);
        damping =
          gained > 0.7 * expected ? Math.max(1e-6, damping / 8) : gained < 0.2 * expected ? damping * 4 : damping;
        if (score > 0 !== alive) damping = 1;
        point = { settings, score };
        x = next;
        multipliers = score > 0 === alive ? solved.multipliers.slice(0, pieces.length) : undefined;
        moved = true;
      } else damping = Math.max(1e-3, damping * 8);
    }
    if (!moved) return point;
  }
  return point;
}
