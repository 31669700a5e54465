import { lotSize } from "../kinds/lots";
import type { Fit } from "../model/fit";
import type { Lot, Lots, Predictive } from "../model/fitted";
import { lotBy } from "../model/lots";
import { mixture } from "../numerics/counts";
import { block } from "../numerics/least-squares";
import { type Random, seededRandom } from "../numerics/random";
import { halfWidthOf } from "../numerics/scale-mixture";
import { significance } from "../study/coding";
import type { Response, Settings, Study } from "../study/schema";
import { backInterval, type Predictor } from "../surface/predict";
import { contrastRows } from "../terms/model-matrix";
import { termKey, WAVE_TERM } from "../terms/term";

const DRAWS = 3000;

/** p of the waves of a model, as its table of variation has it; null where they are not in it. */
export const wavesP = ({ model }: Fit): number | null => model.anova().find((r) => r.source === "wave")?.p ?? null;

/** Whether the waves of a model clearly lie apart. */
export function wavesDiffer(study: Study, fit: Fit): boolean {
  const p = wavesP(fit);
  return p !== null && p < significance(study);
}

/** What the waves of a model tell of how far waves lie apart. */
interface WaveSpread {
  /** Number of waves. */
  waves: number;
  /** Variance of their adjusted effects. */
  variance: number;
  /** Mean variance of an effect about their mean over that of the error: tr(HC)/(W − 1). */
  factor: number;
}

/**
 * The variance that a wave of its own adds, drawn where the error's variance is known: fiducially, from the variance of
 * the adjusted wave effects less what the error adds to it.
 */
const drawBetween = ({ waves, variance, factor }: WaveSpread, error: number, random: Random): number =>
  Math.max(0, ((waves - 1) * variance) / random.chiSquared(waves - 1) - factor * error) * (1 + 1 / waves);

/**
 * What a wave of its own adds to the variance of new trials, by the draw, at a draw of the error's variance.
 * @returns undefined where waves cannot be told apart, or do not differ
 */
export function shiftDraw(study: Study, fit: Fit): ((error: number, random: Random) => number) | undefined {
  const spread = wavesDiffer(study, fit) ? waveSpread(fit) : undefined;
  return spread && ((error, random) => drawBetween(spread, error, random));
}

/** Pairs of shifts that a new wave's is drawn from. */
const PAIRS = 32;

/**
 * How far a new wave may lie from the average of all, on the fitted scale: seeded draws, each with its mirror image.
 * @returns none where waves cannot be told apart, or do not differ
 */
export function shiftsAhead(study: Study, fit: Fit): number[] {
  const draw = shiftDraw(study, fit);
  const { scale } = fit.model;
  if (!draw || !scale) return [];
  const df = fit.model.dfOf(fit.model.coefficients.map((_, j) => (j === 0 ? 1 : 0)));
  if (df === 0) return [];
  const random = seededRandom(1);
  return Array.from({ length: PAIRS }, () => {
    const error = df === null ? scale ** 2 : (df * scale ** 2) / random.chiSquared(df);
    return Math.sqrt(draw(error, random)) * random.normal();
  }).flatMap((off) => [off, -off]);
}

/** A total of several trials in a new wave: mixed over how far that may lie; null where nothing is known of it. */
export function lotAhead(
  shifts: readonly number[],
  lots: Pick<Lots, "lot">,
  row: Float64Array,
  sizes: readonly number[],
): Lot | null {
  const each = shifts.map((off) => lots.lot(row, sizes, off));
  if (each.length === 0 || !each.every((l): l is Lot => l !== null)) return null;
  return lotBy(mixture(each.map((l) => l.law)), each[0].of);
}

/** Variance of the adjusted wave effects with what the error adds to it; undefined where they cannot be told. */
function waveSpread({ data, model }: Fit): WaveSpread | undefined {
  const waves = new Set(data.waves).size;
  const places = model.columns.flatMap((c, j) => (c.key === termKey(WAVE_TERM) ? [j] : []));
  if (waves < 2 || places.length !== waves - 1 || !model.covariance || !model.scale) return undefined;
  const rows = contrastRows(waves, "sum");
  const effects = rows.map((r) => r.reduce((t, v, j) => t + v * model.coefficients[places[j]], 0));
  const own = block(model.covariance, places);
  const error = model.scale ** 2;
  const covariance = (a: readonly number[], b: readonly number[]): number =>
    a.reduce((t, v, i) => t + b.reduce((u, w, j) => u + v * w * own.data[i * own.cols + j], 0), 0) / error;
  // Effects that add up to nothing are their own deviations from their mean, and so are their covariances.
  const trace = rows.reduce((t, r) => t + covariance(r, r), 0);
  return {
    waves,
    variance: effects.reduce((t, e) => t + e * e, 0) / (waves - 1),
    factor: trace / (waves - 1),
  };
}

/**
 * Half the width of where the mean of m trials in a wave of their own falls, the variance between waves counted:
 * fiducial draws of the error's variance and of that between waves, from the variance of the adjusted wave effects
 * less what the error adds to it (after Burdick & Graybill 1992, chapter 3, unbalanced cases by their harmonic factor).
 *
 * @param trials how many, of how many units each where trials are made of units, so many in each set-up where factors
 * are hard to change
 * @returns null where fewer than two waves stand in the model or nothing is known of the error
 */
export function shiftHalfWidth(
  fit: Fit,
  said: Predictive,
  trials: { m: number; n?: number; setups?: readonly number[] },
  confidence: number,
): number | null {
  const spread = waveSpread(fit);
  const { scale } = fit.model;
  if (!spread || said.variance === null || said.noise === null || !scale || said.dfTrial === 0) return null;
  const random = seededRandom(1);
  const { m, n, setups: sizes } = trials;
  const { setups } = fit.model;
  const noise =
    setups && sizes
      ? Math.max(0, setups.between) * sizes.reduce((t, k) => t + (k / m) ** 2, 0) + setups.within / m
      : (said.meanNoise(m, n) ?? 0);
  const ofValue = said.variance / scale ** 2;
  const df = said.own ? said.df : said.dfTrial;
  const deviations = Float64Array.from({ length: DRAWS }, () => {
    const error = df === null ? scale ** 2 : (df * scale ** 2) / random.chiSquared(df);
    // The variance of new trials goes with that of the error, but where a model of the spread says it.
    const own = said.own ? said.own(random, m, n) : (error * noise) / scale ** 2;
    return Math.sqrt(drawBetween(spread, error, random) + error * ofValue + own);
  });
  return halfWidthOf({ deviations }, confidence);
}

/** The last wave that models of some responses set apart, and those of them whose waves differ. */
export function wavesAhead(
  study: Study,
  responses: readonly Response[],
  predictors: ReadonlyMap<string, Predictor>,
): { last: string | undefined; differ: string[] } {
  const reads = responses.flatMap((r) => predictors.get(r.id) ?? []);
  const known = new Set(reads.flatMap((p) => p.waves));
  return {
    last: study.waves.findLast((w) => known.has(w.id))?.id,
    differ: reads.filter((p) => wavesDiffer(study, p.fit)).map((p) => p.fit.response),
  };
}

/** A response as in one wave, on its own scale. */
export interface WaveLevel {
  wave: string;
  mean: number;
  meanInterval: [number, number] | null;
  /** Where one trial of that wave lies. */
  trialInterval: [number, number] | null;
}

/** What is predicted as in each wave that was run, and in a new one. */
export interface WaveLevels {
  response: string;
  levels: WaveLevel[];
  /** One trial in a wave of its own; null where nothing is known of that. */
  fresh: { mean: number; trialInterval: [number, number] } | null;
  p: number | null;
  /** Waves clearly lie apart: what is promised of new trials counts how far. */
  differ: boolean;
}

/** A response by waves at some settings; undefined where its model knows of one wave alone. */
export function waveLevels(
  study: Study,
  response: Response,
  read: Predictor,
  settings: Settings,
): WaveLevels | undefined {
  if (read.waves.length === 0) return undefined;
  const { fit, model } = read;
  const { back } = model.link;
  const { confidence } = study;
  const { lots } = model;
  const usual = lots ? lotSize(response, lots.usual) : undefined;
  const average = read.predictive(settings);
  const half = lots ? null : shiftHalfWidth(fit, average, { m: 1 }, confidence);
  const around =
    lots && usual !== undefined
      ? (lotAhead(shiftsAhead(study, fit), lots, read.row(settings), [usual])?.interval(confidence) ?? null)
      : half === null
        ? null
        : backInterval(back, [average.value - half, average.value + half]);
  return {
    response: response.id,
    levels: read.waves.map((wave) => {
      const said = read.predictive(settings, wave);
      return {
        wave,
        mean: back(said.value),
        meanInterval: backInterval(back, said.interval(confidence)),
        trialInterval: backInterval(back, said.interval(confidence, 1, usual)),
      };
    }),
    fresh: around && { mean: back(average.value), trialInterval: around },
    p: wavesP(fit),
    differ: wavesDiffer(study, fit),
  };
}
