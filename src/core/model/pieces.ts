/** Variances of single units: between trials at the same settings, and within a trial. */
export interface PieceVariances {
  /** σ_b²: of trial means that were made of endlessly many units; not below 0. */
  between: number;
  /** σ_w²: of units about the mean of their trial. */
  within: number;
  /**
   * Variance of between·b + within·w, from how sure the two are (Satterthwaite's degrees of freedom follow from it).
   */
  varianceOf(b: number, w: number): number;
}

/** Sum of squares of units about the mean of their trial, and its degrees of freedom. */
export function withinTrials(units: readonly (readonly number[])[]): { ss: number; df: number } {
  let ss = 0;
  let df = 0;
  for (const values of units) {
    if (values.length < 2) continue;
    const mean = values.reduce((t, v) => t + v, 0) / values.length;
    ss += values.reduce((t, v) => t + (v - mean) ** 2, 0);
    df += values.length - 1;
  }
  return { ss, df };
}

/**
 * Variance components where every trial has n₀ units: s² of trial means about the model estimates σ_b² + σ_w²/n₀, s_w²
 * within trials σ_w², independent of each other. A negative difference counts as no variance between, and the two
 * sources are then pooled.
 *
 * @param s2 mean square of trial means about the model, with its degrees of freedom
 */
export function balancedVariances(
  s2: number,
  df: number,
  within: { ss: number; df: number },
  each: number,
): PieceVariances {
  const sw2 = within.ss / within.df;
  if (s2 >= sw2 / each)
    return {
      between: s2 - sw2 / each,
      within: sw2,
      // b(s² − s_w²/n₀) + w·s_w² = b·s² + (w − b/n₀)·s_w².
      varianceOf: (b, w) => (2 * (b * s2) ** 2) / df + (2 * ((w - b / each) * sw2) ** 2) / within.df,
    };
  const pooled = (df * s2 * each + within.ss) / (df + within.df);
  return { between: 0, within: pooled, varianceOf: (_b, w) => (2 * (w * pooled) ** 2) / (df + within.df) };
}

/** How units vary about a model: all that predictions of single units and of new trials need. */
export interface Pieces {
  variances: PieceVariances;
  /** Mean of 1/n over the trials of n units. */
  reciprocal: number;
  /** Degrees of freedom within trials. */
  dfWithin: number;
  /**
   * Where trials have different numbers of units, and weigh by what their means vary by: the least and the most; and
   * whether what trials vary by is estimated below nothing.
   */
  unequal?: { least: number; most: number; bounded: boolean };
}

/** Whether trials have different numbers of units that vary: their means then differ in variance. */
export const unequalPieces = (units: readonly (readonly number[])[]): boolean =>
  units.some((u) => u.length !== units[0].length) && withinTrials(units).ss > 0;

/** Mean of 1/n over trials of n units. */
export const reciprocalOf = (units: readonly (readonly number[])[]): number =>
  units.reduce((t, u) => t + 1 / u.length, 0) / units.length;

/**
 * How units vary about a model of trial means that were made of as many units each.
 *
 * @param units of each trial, on the fitted scale
 * @returns undefined where no trial has two units, they do not vary, or nothing is left about the model
 */
export function piecesAbout(
  units: readonly (readonly number[])[],
  residual: { ms: number | null; df: number },
): Pieces | undefined {
  const within = withinTrials(units);
  if (within.df === 0 || !(within.ss > 0) || residual.ms === null || residual.df < 1) return undefined;
  return {
    variances: balancedVariances(residual.ms, residual.df, within, units[0].length),
    reciprocal: reciprocalOf(units),
    dfWithin: within.df,
  };
}
