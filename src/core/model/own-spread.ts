import { chiSquaredQuantile, normalQuantile, trigamma } from "../numerics/distributions";
import { dot } from "../numerics/least-squares";
import { pointsOf } from "../numerics/quadrature";
import { halfWidthOf } from "../numerics/scale-mixture";
import type { Memo } from "../study/memo";
import type { Response, Settings, Study } from "../study/schema";
import { storedModel } from "./data";
import type { Fit } from "./fit";
import type { Predictive } from "./fitted";
import { presentFit } from "./offer";

/** How far one new trial, or one piece, scatters at some settings. */
export interface ScatterAt {
  /** ln σ of one trial, or of the pieces of one trial, and its standard error. */
  log: number;
  error: number;
}

/** A model of the spread that stands for the scatter of single trials, or of single pieces, of a response. */
export interface OwnSpread {
  /** The spread response. */
  response: string;
  /** Pieces of a trial, or trials run again at the same settings. */
  of: "pieces" | "trials";
  /** Variance that comes to that of the pieces of one trial: between trials. */
  between: number;
  at(settings: Settings): ScatterAt;
  /** Degrees of freedom on which the variance of one trial, or piece, is known as well there (Satterthwaite 1946). */
  dfAt(scatter: ScatterAt): number;
  /** A quick way along these numeric factors from some settings. */
  along(settings: Settings, ids: readonly string[]): (values: ArrayLike<number>) => ScatterAt;
}

/**
 * The spread of a response that may stand for the scatter of its trials: that of pieces where it is made of pieces,
 * that of trials run again where it is not. The spread of measuring again never stands for the process.
 */
export function spreadOf(study: Study, about: Response): Response | undefined {
  const from = about.several === "units" ? "repeats" : "replicates";
  return study.responses.find(
    (r) => r.spread?.of === about.id && r.spread.from === from && storedModel(study, r.id) !== undefined,
  );
}

/**
 * The stored model of a response's spread, its scatter known: that of ln s on ν degrees of freedom has variance
 * ψ′(ν/2)/4 (Bartlett & Kendall 1946).
 *
 * @returns undefined where no model of the spread is stored, where the response is fitted on another scale or its
 * factors are hard to change, so that σ² stays what it is everywhere
 */
export function ownSpread(study: Study, { response, model }: Fit, memo: Memo): OwnSpread | undefined {
  const about = study.responses.find((r) => r.id === response);
  const spread = about && !about.spread && model.link.identity && !model.setups && spreadOf(study, about);
  if (!about || !spread) return undefined;
  const pieces = about.several === "units";
  const units = pieces ? model.piecesOf() : undefined;
  if (pieces && !units) return undefined;
  const fit = presentFit(study, spread.id, memo);
  const dfs = fit.data.spreadDf ?? [];
  const weight = dfs.reduce((t, df) => t + 4 / trigamma(df / 2), 0) / dfs.length;
  const known = fit.model.withNoise(1 / Math.sqrt(weight));
  const row = new Float64Array(known.columns.length);
  const said = (): ScatterAt => ({
    log: dot(known.coefficients, row),
    error: Math.sqrt(known.relative(row)) * (known.scale ?? 0),
  });
  const between = Math.max(0, units?.variances.between ?? 0);
  return {
    response: spread.id,
    of: pieces ? "pieces" : "trials",
    between,
    at(settings) {
      known.linear(settings, row);
      return said();
    },
    dfAt({ log, error }) {
      const square = Math.exp(2 * log);
      // ln s with this standard error is known as s is on 1/(2·error²) degrees of freedom.
      const own = (2 * square * error) ** 2;
      return (2 * (between + square) ** 2) / (own + (between > 0 ? (units?.variances.varianceOf(1, 0) ?? 0) : 0));
    },
    along(settings, ids) {
      const vary = known.varying(settings, ids);
      return (values) => {
        vary(values, row);
        return said();
      };
    },
  };
}

/** Probabilities at which what is not known is taken, with their weights: panels of Gauss and Legendre's rule. */
const LEVELS = pointsOf(0, 1, 3);

/**
 * A prediction whose new trials (or pieces) scatter as a model of the spread says: the variance of the value as before,
 * σ²(νs²/χ²_ν), beside σ(x)² with ln σ(x) normal about what that model says; the interval of both together is the
 * quantile of the mixture.
 *
 * @param base what the model of the mean predicts
 */
export function withOwnSpread(base: Predictive, own: OwnSpread, at: ScatterAt): Predictive {
  const square = Math.exp(2 * at.log);
  const noiseOf = (m: number, n: number, times = 1): number =>
    (own.between + (square * times) / (own.of === "pieces" ? n : 1)) / m;
  const { variance, df } = base;
  return {
    ...base,
    noise: noiseOf(1, 1),
    dfTrial: own.dfAt(at),
    meanNoise: (m, n = 1) => noiseOf(m, n),
    interval(confidence, m, n = 1) {
      if (m === undefined) return base.interval(confidence);
      if (variance === null || df === 0) return null;
      const values = LEVELS.map(({ x, weight }) => ({
        weight,
        variance: df === null ? variance : (df * variance) / chiSquaredQuantile(x, df),
      }));
      const noises = LEVELS.map(({ x, weight }) => ({
        weight,
        variance: noiseOf(m, n, Math.exp(2 * at.error * normalQuantile(x))),
      }));
      const pairs = values.flatMap((v) =>
        noises.map((e) => ({ weight: v.weight * e.weight, deviation: Math.sqrt(v.variance + e.variance) })),
      );
      const half = halfWidthOf(
        { deviations: pairs.map((p) => p.deviation), weights: pairs.map((p) => p.weight) },
        confidence,
      );
      return [base.value - half, base.value + half];
    },
    own: (random, m, n = 1) => noiseOf(m, n, Math.exp(2 * at.error * random.normal())),
    draw(random) {
      if (variance === null) return base.value;
      const wide = df === null ? 1 : df / random.chiSquared(df);
      const noise = noiseOf(1, 1, Math.exp(2 * at.error * random.normal()));
      return base.value + Math.sqrt(wide * variance + noise) * random.normal();
    },
  };
}
