import type { CountLaw } from "../numerics/counts";
import type { Matrix } from "../numerics/least-squares";
import type { Random } from "../numerics/random";
import type { Settings, Term } from "../study/schema";
import type { Column, CovariateRanges } from "../terms/model-matrix";
import type { Pieces } from "./pieces";

/** A leverage this near one leaves the trial's own prediction to itself alone. */
export const FULL_LEVERAGE = 1 - 1e-8;

/** The way from a response's own scale to the one it is fitted on, and back. */
export interface Link {
  name: string;
  /** The fitted scale is the response's own: sizes have its unit. */
  identity: boolean;
  forward(y: number): number;
  back(z: number): number;
  /** Whether larger values stand lower on the fitted scale. */
  decreasing: boolean;
  /** What a size multiplies, by its exponential, where events are counted. */
  multiplies?: "odds" | "rate";
}

/**
 * Unit of sizes on the fitted scale, for people: the response's own, or which scale they are on; empty without
 * either.
 */
export const sizeUnit = ({ link, unit }: Pick<FittedModel, "link" | "unit">): string =>
  link.identity ? (unit ?? "") : `${link.name} scale`;

/** Criteria by which models of different size are compared; null where one is not defined. */
export interface Criteria {
  aicc: number | null;
  bic: number | null;
}

/** A test that several coefficients are zero together. */
export interface TermTest {
  /** Of the numerator: columns tested. */
  df: number;
  /** Of the denominator; null for a large-sample test. */
  dfDenominator: number | null;
  f: number | null;
  p: number | null;
  /** What F was multiplied by to follow its distribution (Kenward & Roger 1997); 1 where left out. */
  scale?: number;
  /** Sum of squares, where the law has any. */
  ss: number | null;
  /** Of the model with the term, where one is added; of the model without it, where one is tested. */
  criteria: Criteria;
}

/** A term as if added last to a model. */
export interface AddedTerm extends TermTest {
  coefficients: number[];
  /** Of the coefficients; null without degrees of freedom for error. */
  covariance: Matrix | null;
  /** Degrees of freedom of each coefficient's t; null for large samples. */
  dfs: (number | null)[];
  /** Interval of the only coefficient by its profile, where the law has one. */
  profile?(confidence: number): [number, number] | null;
}

/** What stands in the summary of every fit, whatever its law. */
interface CommonSummary extends Criteria {
  /** Standard deviation of one trial about the model on the fitted scale, where there is one for all. */
  s: number | null;
  /** Share of variation explained, 0 … 1: of squares, or of deviance. */
  r2: number | null;
  r2Adjusted: number | null;
  r2Predicted: number | null;
  r2AfterWaves: number | null;
  /** Results less coefficients. */
  residualDf: number;
}

/** Least squares, weighted or not. */
export interface SquaresSummary extends CommonSummary {
  law: "gaussian";
  press: number | null;
  rss: number;
  sst: number;
}

/** A law fitted by likelihood, which has deviances in place of sums of squares. */
export interface LikelihoodSummary extends CommonSummary {
  law: string;
  deviance: number;
  nullDeviance: number;
  /** The criterion that terms are tested by: the deviance, less the penalty where there is one. */
  criterion: number;
}

export type ModelSummary = SquaresSummary | LikelihoodSummary;

/** Whether a summary is one of sums of squares. */
export const hasSquares = (summary: ModelSummary): summary is SquaresSummary => "rss" in summary;

/** One row of the analysis of variance, each term as if added last; of deviance where events are counted. */
export interface AnovaRow {
  source: "wave" | "model" | "term" | "curvature" | "residual" | "lack-of-fit" | "pure-error" | "total";
  term?: Term;
  df: number;
  /** Sum of squares, or rise of deviance; null where the law has neither. */
  ss: number | null;
  /** As terms come in in model order; null where the law has none. */
  sequentialSs: number | null;
  ms: number | null;
  f: number | null;
  p: number | null;
  /** Degrees of freedom of F's denominator, where rows have different ones. */
  dfDenominator?: number | null;
  /** What F was multiplied by, where it was. */
  scale?: number;
  /** Where factors are hard to change: whether a term is judged between set-ups or within them. */
  stratum?: "between" | "within";
}

/** Degrees of freedom below which scatter that is free judges nothing: counts have no F then. */
export const LEAST_FREE = 4;

/** What set-ups and the trials of one vary by. */
export interface SetupModel {
  /** Component between set-ups, negative where it is estimated so, and within them. */
  between: number;
  within: number;
  ratio: number;
  /** The component between counts as 0 for new trials. */
  bounded: boolean;
  /** How many there are, and the degrees of freedom between them that the model leaves. */
  setups: number;
  betweenDf: number;
  /** The ratio where there were too few set-ups to estimate it. */
  assumed?: number;
  /** Degrees of freedom of the variance of one new trial in a new set-up. */
  trialDf: number;
  /** Where the ratio is assumed: intervals of what stands between set-ups alone, at it, at a quarter and four times. */
  supposed(confidence: number): SupposedInterval[];
}

/**
 * Standard deviation of one new trial about its mean, that of a new set-up with it where factors are hard to change;
 * null where nothing is known of the error.
 */
export const trialError = ({ summary, setups }: Pick<FittedModel, "summary" | "setups">): number | null =>
  setups && summary.s !== null ? Math.sqrt(Math.max(0, setups.between) + setups.within) : summary.s;

/** An interval of a coefficient if set-ups varied by so many times what their trials do. */
export interface SupposedInterval {
  column: number;
  ratio: number;
  interval: [number, number];
}

/** How one new trial at a row of the model is expected to fall, on the fitted scale. */
export interface Predictive {
  value: number;
  /** Variance of the value; null where nothing is known of the error. */
  variance: number | null;
  /** Variance of one new trial about the value; of one unit where trials are made of units. */
  noise: number | null;
  /** Degrees of freedom behind the variance of the value, and of one new trial; null for large samples. */
  df: number | null;
  dfTrial: number | null;
  /** Variance of the mean of m new trials about the value; of n units each where trials are made of units. */
  meanNoise(m: number, n?: number): number | null;
  /**
   * Where the mean of m new trials (of n units each where trials are made of units; of one unless said) lies with this
   * confidence; of the value itself without m.
   */
  interval(confidence: number, m?: number, n?: number): [number, number] | null;
  /** The same for the mean of new trials in new set-ups of the hard factors, so many in each. */
  overSetups?(confidence: number, sizes: readonly number[]): [number, number] | null;
  /** One new trial drawn from the predictive distribution. */
  draw(random: Random): number;
  /** The variance of the mean of new trials drawn by itself, where a model of the spread says it. */
  own?(random: Random, m: number, n?: number): number;
}

/** Residuals: as they are; scaled by the weight of their trial; over their standard error; without their own trial. */
export type ResidualKind = "raw" | "scaled" | "studentized" | "deleted";

/** Why a likelihood is penalised: coefficients would run off, or hardly anything was counted at some level. */
export type FewCounted =
  | { why: "separates" }
  | { why: "few"; of: string; level: string; which: "events" | "others"; counted: number };

/** How a number of events is expected to fall. */
export interface Lot {
  law: CountLaw;
  /** Pieces or exposure. */
  of: number;
  /** P(low ≤ K/of ≤ high), ends inclusive. */
  within(low: number, high: number): number;
  /** Shares or rates that leave at most (1 − confidence)/2 on either side. */
  interval(confidence: number): [number, number];
}

/** Errors of trials where nothing but chance is at work. */
export interface Repetition {
  /** Over the root of the variance that counting gives. */
  scaled: ArrayLike<number>;
  /** Standard normal values that belong to what was counted. */
  quantiles: ArrayLike<number>;
  /** Shares or rates. */
  fitted: ArrayLike<number>;
}

/** How events of further trials fall, where events are counted. */
export interface Lots {
  /** Total of several trials of these sizes at a row of the model, its linear predictor so far from what it says. */
  lot(row: Float64Array, sizes: readonly number[], shift?: number): Lot | null;
  /** Scatter beyond counting of the total of several trials of these sizes. */
  together(sizes: readonly number[]): number;
  /** Pieces or exposure of a trial that says nothing else. */
  usual: number;
}

/** Trials as they are, and seeded repetitions of them with refits, where errors are not drawn by themselves. */
export interface Repetitions {
  own(random: Random): Repetition;
  repeat(random: Random): Repetition | null;
  /** How much wider one drawn statistic is for not knowing the scatter. */
  wide(random: Random): number;
}

/** What a model fitted by likelihood has in place of sums of squares. */
export interface Likelihood {
  /** Variance over that of counting; null where nothing is left to estimate it. */
  dispersion: number | null;
  /** Pieces are taken for independent of each other. */
  counting: boolean;
  /** Correlation of pieces of one trial, of shares; relative variance of rates between trials, of counts. */
  extra: number;
  /** Pearson's X², with the variance of the weights. */
  pearson: number;
  /** X² of counting alone, which tells whether scatter goes beyond it. */
  countingPearson: number;
  firth?: FewCounted;
  /** Coefficients with the constant as penalised; those of predictions have it fitted again (Puhr et al. 2017). */
  penalised?: Float64Array;
  /** Dispersion that the criteria go by. */
  criteriaDispersion: number | null;
  /** Interval of a coefficient by its profile, divided by the dispersion. */
  profile(column: number, confidence: number): [number, number] | null;
  /** Deviance residuals, over their standard error. */
  deviances: readonly (number | null)[];
  /** Normal values that belong to what was counted, drawn within each one's step from one seed (Dunn & Smyth 1996). */
  quantiles(): readonly number[];
  /** Deviance on some of its columns alone, with its own weights. */
  devianceOf(columns: readonly number[]): number;
  /** Deviance and Pearson's X² of other columns on the same trials. */
  refit(columns: Matrix): { deviance: number; pearson: number };
  /** Values of one variance (Freeman & Tukey 1950) where all trials are of one size: twice an angle, or a root. */
  stable: { values: readonly number[]; of: "angle" | "root" } | null;
}

/** What laws of values have none of: their errors are drawn by themselves, on the fitted scale. */
export const DRAWN_ERRORS = {
  likelihood: null,
  lots: null,
  repetitions: null,
  ownErrors: false,
  setups: null,
} as const;

/**
 * One model fitted to the results of one response, or an average of several, whatever law its errors follow. Ladder,
 * checks, reduction, averages, predictions and chance speak to this alone: nobody outside a law knows how its figures
 * come about. Rows are written by `linear`; everything is on the fitted scale, `link` leads back.
 */
export interface FittedModel {
  /** Name of the law of the errors. */
  readonly law: string;
  /** Ids of the trials behind it, in run order. */
  readonly trials: readonly string[];
  /** Results on the fitted scale, in the same order. */
  readonly observed: readonly number[];
  readonly terms: readonly Term[];
  readonly columns: readonly Column[];
  readonly coefficients: Float64Array;
  /** Of the coefficients, p × p; null where nothing is known of the error. */
  readonly covariance: Matrix | null;
  /**
   * Degrees of freedom for t of a contrast of coefficients: 0 where there is no error to judge by, null for large
   * samples.
   */
  dfOf(contrast: ArrayLike<number>): number | null;
  /** Factor of the standard error that gives an interval of this confidence. */
  critical(confidence: number, df: number | null): number;
  /** Unit of sizes on the fitted scale; none where the scale is not the response's own. */
  readonly unit: string | undefined;
  readonly link: Link;
  /** The model passes through every result; what is left is rounding. */
  readonly exact: boolean;
  /** Inflation of each column's variance; null for the constant. */
  readonly vif: readonly (number | null)[];
  readonly leverages: ArrayLike<number>;
  /** Measured range of each covariate used. */
  readonly covariateRanges: CovariateRanges;
  /** Writes the row of settings; waves stand at their average, covariates left out at their middle. */
  linear(settings: Settings, into: Float64Array): void;
  /** A quick way to write rows that differ from these settings in the listed numeric factors alone. */
  varying(settings: Settings, ids: readonly string[]): (settings: ArrayLike<number>, into: Float64Array) => void;
  predictive(row: Float64Array): Predictive;
  /** Unit of the error's size, by which `relative` and `relativeNoise` are multiplied; null where none is known. */
  readonly scale: number | null;
  /** Variance of the value at a row over scale²: x′(X′X)⁻¹x for least squares. */
  relative(row: Float64Array): number;
  /** Variance of one new trial about the value over scale². */
  relativeNoise(row: Float64Array): number;
  /** A row lies farther out than that of any trial. */
  beyond(row: Float64Array): boolean;
  /** Models of one design have one `relative` between them; none for one that shares nothing. */
  readonly design: string | undefined;
  /** The same model where its error is known beforehand. */
  withNoise(s: number): FittedModel;
  residuals(kind: ResidualKind): readonly (number | null)[];
  /**
   * How results make the coefficients, n × p: b = L′z̃ of values scaled to one variance; null where they are not
   * linear in them.
   */
  readonly loadings: Matrix | null;
  /** Some columns, one row per trial, as if added last; null when they add nothing. */
  addTerm(columns: Matrix): AddedTerm | null;
  /** The test that the listed columns' coefficients are zero. */
  test(columns: readonly number[]): TermTest;
  /** The test of what this model has beyond a smaller one on the same trials. */
  compare(smaller: FittedModel): TermTest;
  /**
   * The test of what further columns, one row per trial, have beyond the model, by the components of the model that
   * has them, where errors are of two parts; null where they have nothing, or leave no error.
   */
  cellsBeyond?(columns: Matrix): TermTest | null;
  /** Rows scaled so that ordinary least squares on them is this law's fit. */
  whiten(rows: Matrix): Matrix;
  /** Independent errors of one variance as this law's errors vary together; as they are where it has no such errors. */
  correlated?(errors: Float64Array): Float64Array;
  /**
   * What is left of other values of the response on the same columns, scaled to one variance; null where the law has
   * no such scale.
   *
   * @param once in one pass, enough where what is left is not small beside the values
   */
  left(values: ArrayLike<number>, once?: boolean): Float64Array | null;
  anova(): AnovaRow[];
  readonly summary: ModelSummary;
  /** How single units vary, where trials are made of units and several of a trial were measured. */
  piecesOf(): Pieces | undefined;
  /** Where a factor is hard to change: the two components of its errors. */
  readonly setups: SetupModel | null;
  /** What it has in place of squares; null where it is fitted by them. */
  readonly likelihood: Likelihood | null;
  /** How events of further trials fall; null where no events are counted. */
  readonly lots: Lots | null;
  /** How its trials are repeated; null where errors are drawn by themselves. */
  readonly repetitions: Repetitions | null;
  /** Whether errors and predictions of trials are told on the response's own scale whatever the link. */
  readonly ownErrors: boolean;
  /** The models behind an average with their weights; a single model is its only member. */
  readonly members: readonly { weight: number; model: FittedModel }[];
}
