import { block } from "../numerics/least-squares";
import { contrastRows } from "../terms/model-matrix";
import { termKey, WAVE_TERM } from "../terms/term";
import type { Fit } from "./fit";
import type { WaveSpread } from "./surface";

/** p of the waves of a model, as its table of variation has it; null where they are not in it. */
export const wavesP = ({ model }: Fit): number | null => model.anova().find((r) => r.source === "wave")?.p ?? null;

/** Variance of the adjusted wave effects with what the error adds to it; undefined where they cannot be told. */
export function waveSpread({ data, model }: Fit): WaveSpread | undefined {
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
