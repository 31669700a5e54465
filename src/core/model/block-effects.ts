import { block } from "../numerics/least-squares";
import { studentizedRangeQuantile, studentizedRangeUpper } from "../numerics/multiple-comparisons";
import type { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { CURVATURE_TERM, termKey, WAVE_TERM } from "../terms/term";
import { type Fit, fitModel } from "./fit";

/** How far one wave lies above another, on the fitted scale; both ends named. */
export interface WaveDifference {
  above: string;
  below: string;
  size: number;
  interval: [number, number] | null;
  /** Joint over all pairs of waves. */
  p: number | null;
}

/** What stands in a model beside its terms: differences between waves, or the centre off the plane of the corners. */
export interface BlockEffect {
  id: "wave" | "curvature";
  inModel: boolean;
  /** The largest difference between two waves; or centre less plane. */
  size: number | null;
  interval: [number, number] | null;
  p: number | null;
  /** Share of variation, 0 … 1. */
  share: number | null;
  /** These trials cannot tell it from something else in the model. */
  lost: boolean;
  /** Of waves: every pair, the largest first. */
  differences: WaveDifference[];
}

/**
 * Differences between all pairs of waves by their joint intervals, t for two (Tukey 1953; Kramer 1956 for unequal
 * errors), the largest first. Empty where not all of them can be estimated.
 */
export function waveDifferences(study: Study, { data, model, confidence }: Fit): WaveDifference[] {
  const waves = [...new Set(data.waves)];
  const places = model.columns.flatMap((c, j) => (c.key === termKey(WAVE_TERM) ? [j] : []));
  if (waves.length < 2 || places.length !== waves.length - 1) return [];
  const rows = contrastRows(waves.length, "sum");
  const nameOf = (id: string): string => study.waves.find((w) => w.id === id)?.name ?? id;
  const covariance = model.covariance && block(model.covariance, places);
  const full = new Float64Array(model.columns.length);
  const pairs = waves.flatMap((_, i) => waves.slice(i + 1).map((__, k) => [i, i + 1 + k] as const));
  const found = pairs.map(([i, k]): WaveDifference => {
    const contrast = rows[i].map((v, j) => v - rows[k][j]);
    const size = contrast.reduce((t, v, j) => t + v * model.coefficients[places[j]], 0);
    places.forEach((j, c) => {
      full[j] = contrast[c];
    });
    const df = model.dfOf(full);
    const variance = covariance
      ? contrast.reduce(
          (t, a, x) => t + contrast.reduce((u, b, y) => u + a * b * covariance.data[x * covariance.cols + y], 0),
          0,
        )
      : null;
    const error = variance === null || df === 0 || model.exact ? null : Math.sqrt(variance);
    const wide = waves.length === 2 ? model.critical : jointly(waves.length);
    const half = error === null ? null : wide(confidence, df) * error;
    const [up, down] = size < 0 ? [k, i] : [i, k];
    const far = Math.abs(size);
    return {
      above: nameOf(waves[up]),
      below: nameOf(waves[down]),
      size: far,
      interval: half === null ? null : [far - half, far + half],
      p: error === null ? null : studentizedRangeUpper((Math.SQRT2 * far) / error, waves.length, df),
    };
  });
  return found.sort((a, b) => b.size - a.size);
}

/** Factor of a standard error that holds for the differences of so many means together. */
const jointly =
  (means: number) =>
  (confidence: number, df: number | null): number =>
    studentizedRangeQuantile(confidence, means, df) / Math.SQRT2;

const nothing = { size: null, interval: null, p: null, share: null, lost: true, differences: [] };

function waveRung(study: Study, fit: Fit, whole: number | null, memo: Memo): BlockEffect | undefined {
  if (new Set(fit.data.waves).size < 2) return undefined;
  const inModel = fit.fitting.block;
  // Out of the model it stands where it would, put in.
  const judged = inModel ? fit : fitModel(study, fit.response, { terms: fit.terms, ...fit.fitting, block: true }, memo);
  const row = judged.anova.find((r) => r.source === "wave");
  const differences = waveDifferences(study, judged);
  const common = { id: "wave" as const, inModel };
  if (!row || differences.length === 0) return { ...common, ...nothing };
  const [largest] = differences;
  return {
    ...common,
    size: largest.size,
    interval: largest.interval,
    p: row.p,
    share: row.ss !== null && whole !== null ? row.ss / whole : null,
    lost: false,
    differences,
  };
}

function curvatureRung(study: Study, fit: Fit, whole: number | null, memo: Memo): BlockEffect | undefined {
  if (!fit.centre) return undefined;
  const inModel = fit.fitting.curvature;
  const judged = inModel
    ? fit
    : fitModel(study, fit.response, { terms: fit.terms, ...fit.fitting, curvature: true }, memo);
  const parameter = judged.parameters.find((p) => termKey(p.term) === termKey(CURVATURE_TERM));
  const common = { id: "curvature" as const, inModel };
  if (!parameter || !judged.curvature) return { ...common, ...nothing };
  return {
    ...common,
    size: parameter.coefficient,
    interval: parameter.interval,
    p: parameter.p,
    share: whole === null ? null : judged.curvature.ss / whole,
    lost: false,
    differences: [],
  };
}

/**
 * The rungs of what stands beside terms: waves where two or more were run, the centre where one column stands for all
 * squares.
 *
 * @param whole what shares are shares of; null where the law has no sums of squares
 */
export const blockEffects = (study: Study, fit: Fit, whole: number | null, memo: Memo): BlockEffect[] =>
  [waveRung(study, fit, whole, memo), curvatureRung(study, fit, whole, memo)].flatMap((r) => r ?? []);

/**
 * Whether all that a difference between waves may be is small beside the smallest change worth finding: half of it at
 * most, on the response's own scale. What nobody said is small beside nothing.
 */
export function isSmallBeside(study: Study, fit: Fit, interval: readonly [number, number] | null): boolean {
  const smallest = study.responses.find((r) => r.id === fit.response)?.smallest;
  if (interval === null || smallest === undefined || !fit.model.link.identity) return false;
  return Math.max(Math.abs(interval[0]), Math.abs(interval[1])) <= smallest / 2;
}
