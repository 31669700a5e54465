import { balancedVariances, type Pieces, type PieceVariances, withinTrials } from "../model/pieces";
import { chiSquaredQuantile, fUpper, normalCdf } from "../numerics/distributions";
import { ppkInterval, type Sampled } from "./ppk-interval";

/** What units of a confirmation say of the process. */
export interface PieceFigures {
  /** Units, and trials that they were made in. */
  n: number;
  trials: number;
  mean: number;
  /** Standard deviation of single units: within one trial, or between and within several. */
  s: number;
  /** Degrees of freedom behind s. */
  df: number;
  /** They come from one trial: what trials vary by is not in them. */
  withinOnly: boolean;
  /** Width of the limits over six standard deviations, with its interval; null without both limits. */
  pp: number | null;
  ppInterval: [number, number] | null;
  /** Distance of the mean from the nearer limit over three standard deviations, with its interval. */
  ppk: number | null;
  ppkInterval: [number, number] | null;
  /** Share of units outside the limits: of a normal distribution, and as counted. */
  outside: { normal: number | null; counted: number | null };
  /** Whether units vary within trials as those of the model do (two-sided F); null where the model knows of none. */
  spreadAgrees: boolean | null;
  spreadP: number | null;
}

/** Standard deviation of single units, what it is known by, and what its capability is told from. */
function spreadOf(trials: readonly (readonly number[])[]) {
  const within = withinTrials(trials);
  const total = trials.reduce((t, u) => t + u.length, 0);
  const k = trials.length;
  const means = trials.map((u) => u.reduce((t, v) => t + v, 0) / u.length);
  const middle = means.reduce((t, v) => t + v, 0) / k;
  // Unequal trials by their harmonic mean (Burdick & Graybill 1992, 3.2.2).
  const each = k / trials.reduce((t, u) => t + 1 / u.length, 0);
  const square = k > 1 ? means.reduce((t, v) => t + (v - middle) ** 2, 0) / (k - 1) : 0;
  const sampled: Sampled = { trials: k, each, mean: middle, means: { square, df: k - 1 }, within };
  if (k === 1) return { variance: within.ss / within.df, df: within.df, sampled };
  if (within.df === 0) return { variance: square, df: k - 1, sampled };
  const variances: PieceVariances = balancedVariances(square, k - 1, within, each);
  const variance = variances.between + variances.within;
  // Units that do not vary at all are known as well as there are units.
  const df = variance > 0 ? (2 * variance ** 2) / variances.varianceOf(1, 1) : total - k;
  return { variance, df, sampled };
}

/** Two-sided p of the ratio of two variances. */
function spreadP(a: { ss: number; df: number }, model: Pieces): number {
  const ratio = a.ss / a.df / model.variances.within;
  const upper = fUpper(ratio, a.df, model.dfWithin);
  return 2 * Math.min(upper, 1 - upper);
}

/**
 * What units of some trials at the same settings say: mean, spread, how the limits hold them.
 *
 * @param trials units of each trial
 * @param limits ±∞ where there is none
 * @param model how units vary about the model, where it knows
 */
export function pieceFigures(
  trials: readonly (readonly number[])[],
  { low, high }: { low: number; high: number },
  confidence: number,
  model: Pieces | undefined,
): PieceFigures {
  const made = trials.filter((u) => u.length > 0);
  const all = made.flat();
  const n = all.length;
  const mean = all.reduce((t, v) => t + v, 0) / n;
  const { variance, df, sampled } = spreadOf(made);
  const s = Math.sqrt(variance);
  const both = Number.isFinite(low) && Number.isFinite(high);
  const any = Number.isFinite(low) || Number.isFinite(high);
  const half = (1 - confidence) / 2;
  const pp = both && s > 0 ? (high - low) / (6 * s) : null;
  const ppk = any && s > 0 ? Math.min(high - mean, mean - low) / (3 * s) : null;
  const within = withinTrials(made);
  const p = model && within.df > 0 && model.variances.within > 0 ? spreadP(within, model) : null;
  return {
    n,
    trials: made.length,
    mean,
    s,
    df,
    withinOnly: made.length === 1,
    pp,
    ppInterval:
      pp === null
        ? null
        : [pp * Math.sqrt(chiSquaredQuantile(half, df) / df), pp * Math.sqrt(chiSquaredQuantile(1 - half, df) / df)],
    ppk,
    ppkInterval: ppk === null ? null : ppkInterval(sampled, { low, high }, ppk, confidence),
    outside: {
      normal: any && s > 0 ? normalCdf((low - mean) / s) + normalCdf((mean - high) / s) : null,
      counted: any ? all.filter((v) => v < low || v > high).length / n : null,
    },
    spreadAgrees: p === null ? null : p >= 1 - confidence,
    spreadP: p,
  };
}
