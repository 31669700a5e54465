import type { Random } from "../numerics/random";
import type { Settings } from "../study/schema";
import type { Link, Lot, Predictive, SetupModel } from "./fitted";
import type { OwnSpread } from "./own-spread";
import type { Pieces } from "./pieces";

/** A response at one point of the region, with how sure it is. */
export interface Prediction {
  /** On the response's own scale; a median where the model is fitted on another. */
  mean: number;
  /** Of the mean, on the fitted scale; null without error degrees of freedom. */
  standardError: number | null;
  meanInterval: [number, number] | null;
  trialInterval: [number, number] | null;
  /** How far it lies from what was run: x′(X′X)⁻¹x of a linear model, waves at their average. */
  leverage: number;
  extrapolates: boolean;
  breaksBounds: boolean;
  /**
   * How far the value may lie off here, at most, where the centre is clearly off the plane of the corners and no square
   * carries it: c·max(1 − xᵢ²), on the response's own scale; null where nothing of the kind is known.
   */
  bend: number | null;
  /**
   * The ratio of variances between and within set-ups that both intervals rest on, where set-ups are too few to tell
   * it; not there where nothing is assumed.
   */
  assumed?: number;
  /** The response whose model says how far one trial scatters here; not there where all trials scatter alike. */
  scatter?: string;
}

/** A function over two numeric factors, all others standing where they stood when it was made. */
export type Plane = (x: number, y: number) => number;

/** How much of a response's variation over the box comes from a factor. */
export interface Importance {
  factor: string;
  /** By itself (Sobol' 1993, first order). */
  first: number;
  /** With all interactions it takes part in (Homma & Saltelli 1996). */
  total: number;
}

/** A second-order polynomial in coded numeric factors: b₀ + x′b + x′Bx. */
export interface Quadratic {
  ids: string[];
  constant: number;
  linear: Float64Array;
  /** Symmetric, k × k by rows; off-diagonals are half the interactions' coefficients. */
  square: Float64Array;
}

/** What the waves of a surface tell of how far waves lie apart. */
export interface WaveSpread {
  /** Number of waves. */
  waves: number;
  /** Variance of their adjusted effects. */
  variance: number;
  /** Mean variance of an effect about their mean over that of the error: tr(HC)/(W − 1). */
  factor: number;
}

/** A place on the fitted scale that is moved along some factors: asked thousands of times, so nothing is made anew. */
export interface Spot {
  /** Moves the factors it was made for. */
  move(values: ArrayLike<number>): void;
  value(): number;
  /** Variance of the value over scale². */
  relative(): number;
  /** Variance of one new trial about the value over scale². */
  relativeNoise(): number;
  /** What the values here and at another surface's spot have in common, per unit of σσρ; 0 where nothing is known. */
  common(other: Spot): number;
}

/** One of the surfaces that are averaged, as new trials are drawn by it; a surface by itself is its only one. */
export interface Member {
  weight: number;
  /** Size of the error, by which `relative` and `relativeNoise` are multiplied; null where none is known. */
  scale: number | null;
  /** Those of one design have one `relative` between them; none for one that shares nothing. */
  design: string | undefined;
  /** How new trials fall, scatter of their own left aside. */
  predictive(settings: Settings): Predictive;
  /**
   * @param ids factors that it is moved along
   * @param wave as in which it stands; the average of all unless said
   * @param beside a spot of the same design that is moved for both
   */
  spot(settings: Settings, ids: readonly string[], wave?: string, beside?: Spot): Spot;
  /** The same where its error is known beforehand. */
  withNoise(s: number): Member;
  /**
   * Values on the fitted scale at all places, drawn jointly from what is not known, in one array that is
   * filled anew at each draw; undefined without an error.
   */
  drawing(places: readonly Settings[]): ((random: Random) => Float64Array) | undefined;
}

/** How events of further trials fall. */
export interface SurfaceLots {
  /** Pieces or exposure of a trial that says nothing else. */
  usual: number;
  /** Scatter beyond counting of the total of several trials of these sizes. */
  together(sizes: readonly number[]): number;
  /** Totals of several trials of these sizes at some settings, so far from what is said there on the fitted scale. */
  at(settings: Settings, wave?: string): (sizes: readonly number[], shift?: number) => Lot | null;
}

/** What is known of the errors of trials. */
export interface SurfaceError {
  /** Size of the error on the fitted scale, the degrees of freedom behind it: 0 without, null for large samples. */
  scale: number | null;
  df: number | null;
  /** Results less what was fitted. */
  residualDf: number;
  /** It passes through every result; what is left is rounding. */
  exact: boolean;
  /** Standard deviation of one new trial about its mean. */
  trial: number | null;
  /** Where a factor is hard to change: the two components. */
  setups: SetupModel | null;
  /** How single units vary, where trials are made of units. */
  units(): Pieces | undefined;
}

/**
 * How one response answers at settings, whatever it is fitted by: all that map, probe, search, chance, confirmation,
 * influence, next waves and report ask. What a linear model has beyond is known to those who show its terms.
 */
export interface Surface {
  /** Id of the response. */
  readonly response: string;
  readonly link: Link;
  /** Factors and covariates that it speaks of: of an average, those of the one that is shown, and of any. */
  readonly shownOf: readonly string[];
  readonly speaksOf: readonly string[];
  /** What its intervals assume of set-ups, as `Prediction.assumed` says it. */
  readonly assumed: number | undefined;
  /** How single trials scatter by a stored model of the spread, where there is one. */
  readonly own: OwnSpread | undefined;
  readonly error: SurfaceError;
  /** How events of further trials fall; null where no events are counted. */
  readonly lots: SurfaceLots | null;
  /** Those that it is the average of. */
  readonly members: readonly Member[];
  /** Residuals on the fitted scale, by trial. */
  residuals(): ReadonlyMap<string, number>;
  /** Waves that it sets apart, in their order; none where it knows of one alone. */
  readonly waves: readonly string[];
  /** p of the waves, as its table of variation has it; null where they are not in it. */
  wavesP(): number | null;
  /** How far the waves lie apart; undefined where that cannot be told. */
  waveSpread(): WaveSpread | undefined;
  /**
   * How new trials at some settings are expected to fall, on the fitted scale.
   * @param wave one of `waves`, as in which they fall; the average of all unless said
   */
  predictive(settings: Settings, wave?: string): Predictive;
  /** Value on the response's own scale. */
  value(settings: Settings): number;
  /** Value on the fitted scale. */
  fitted(settings: Settings): number;
  /** Values on the response's own scale over two numeric factors: for maps, which ask thousands of points at once. */
  plane(settings: Settings, x: string, y: string): Plane;
  /** Mean and its interval along one numeric factor, all others as given. */
  line(
    settings: Settings,
    id: string,
    values: readonly number[],
  ): Pick<Prediction, "mean" | "meanInterval" | "extrapolates">[];
  /** Mean and its interval alone: of counts these ask for no lot. */
  expected(settings: Settings): Pick<Prediction, "mean" | "meanInterval">;
  /** @param units that one trial is the mean of, where trials are made of units: one unless said */
  predict(settings: Settings, units?: number): Prediction;
  /** The second-order polynomial in numeric factors that it is, categories as in `at`; null where it is none. */
  quadratic(at: Settings): Quadratic | null;
  /** Importance of factors on the fitted scale in closed form; undefined where it has none. */
  influence(): Importance[] | undefined;
}

/** Values a decreasing or cut way back gives to the ends of an interval, in order. */
export function backInterval(
  back: (z: number) => number,
  interval: readonly [number, number] | null,
): [number, number] | null {
  if (interval === null) return null;
  const a = back(interval[0]);
  const b = back(interval[1]);
  return a <= b ? [a, b] : [b, a];
}
