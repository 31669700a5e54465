import { lotSize } from "../kinds/lots";
import type { Lot, Predictive } from "../model/fitted";
import { lotBy } from "../model/lots";
import { backInterval, type Surface, type SurfaceLots, type WaveSpread } from "../model/surface";
import { mixture } from "../numerics/counts";
import { type Random, seededRandom } from "../numerics/random";
import { halfWidthOf } from "../numerics/scale-mixture";
import { significance } from "../study/coding";
import type { Response, Settings, Study } from "../study/schema";

const DRAWS = 3000;

/** Whether the waves of a model clearly lie apart. */
export function wavesDiffer(study: Study, surface: Pick<Surface, "wavesP">): boolean {
  const p = surface.wavesP();
  return p !== null && p < significance(study);
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
export function shiftDraw(study: Study, surface: Surface): ((error: number, random: Random) => number) | undefined {
  const spread = wavesDiffer(study, surface) ? surface.waveSpread() : undefined;
  return spread && ((error, random) => drawBetween(spread, error, random));
}

/** Pairs of shifts that a new wave's is drawn from. */
const PAIRS = 32;

/**
 * How far a new wave may lie from the average of all, on the fitted scale: seeded draws, each with its mirror image.
 * @returns none where waves cannot be told apart, or do not differ
 */
export function shiftsAhead(study: Study, surface: Surface): number[] {
  const draw = shiftDraw(study, surface);
  const { scale, df } = surface.error;
  if (!draw || !scale || df === 0) return [];
  const random = seededRandom(1);
  return Array.from({ length: PAIRS }, () => {
    const error = df === null ? scale ** 2 : (df * scale ** 2) / random.chiSquared(df);
    return Math.sqrt(draw(error, random)) * random.normal();
  }).flatMap((off) => [off, -off]);
}

/** A total of several trials in a new wave: mixed over how far that may lie; null where nothing is known of it. */
export function lotAhead(
  shifts: readonly number[],
  lot: ReturnType<SurfaceLots["at"]>,
  sizes: readonly number[],
): Lot | null {
  const each = shifts.map((off) => lot(sizes, off));
  if (each.length === 0 || !each.every((l): l is Lot => l !== null)) return null;
  return lotBy(mixture(each.map((l) => l.law)), each[0].of);
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
  surface: Pick<Surface, "waveSpread" | "error">,
  said: Predictive,
  trials: { m: number; n?: number; setups?: readonly number[] },
  confidence: number,
): number | null {
  const spread = surface.waveSpread();
  const { scale, setups } = surface.error;
  if (!spread || said.variance === null || said.noise === null || !scale || said.dfTrial === 0) return null;
  const random = seededRandom(1);
  const { m, n, setups: sizes } = trials;
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
  predictors: ReadonlyMap<string, Surface>,
): { last: string | undefined; differ: string[] } {
  const reads = responses.flatMap((r) => predictors.get(r.id) ?? []);
  const known = new Set(reads.flatMap((p) => p.waves));
  return {
    last: study.waves.findLast((w) => known.has(w.id))?.id,
    differ: reads.filter((p) => wavesDiffer(study, p)).map((p) => p.response),
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
  read: Surface,
  settings: Settings,
): WaveLevels | undefined {
  if (read.waves.length === 0) return undefined;
  const { lots } = read;
  const { back } = read.link;
  const { confidence } = study;
  const usual = lots ? lotSize(response, lots.usual) : undefined;
  const average = read.predictive(settings);
  const half = lots ? null : shiftHalfWidth(read, average, { m: 1 }, confidence);
  const around =
    lots && usual !== undefined
      ? (lotAhead(shiftsAhead(study, read), lots.at(settings), [usual])?.interval(confidence) ?? null)
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
    p: read.wavesP(),
    differ: wavesDiffer(study, read),
  };
}
