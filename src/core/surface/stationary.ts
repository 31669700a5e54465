import { EigenvalueDecomposition, Matrix } from "ml-matrix";
import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import type { Surface } from "../model/surface";
import { codedSettings, decode, isNumeric } from "../study/coding";
import { allowed, withinRanges } from "../study/region";
import type { Settings, Study } from "../study/schema";

/** Where a second-order surface is level, and what it looks like from there (canonical analysis, Box & Wilson 1951). */
export interface Stationary {
  settings: Settings;
  coded: Settings;
  value: number;
  nature: "maximum" | "minimum" | "saddle" | "ridge";
  /** Within every range and limit of the region. */
  inside: boolean;
  /** Distance from the centre of the ranges, in coded units. */
  distance: number;
  /** Of B on the fitted scale, largest in size first: half the curvature along each direction. */
  eigenvalues: number[];
  /** Unit vectors, one per eigenvalue, by factor. */
  directions: Record<string, number>[];
}

export type StationaryAnswer =
  | { stationary: Stationary; reason?: undefined }
  | { stationary: null; reason: Message<RemarkValues> };

const RIDGE = 0.05;
const SINGULAR = 1e-10;

/**
 * Stationary point and canonical analysis of a fitted second-order surface in coded units, categories as in `at`.
 * A direction whose eigenvalue is less than 5 % of the largest makes it a ridge. Factors in no term stay as in `at`.
 */
export function stationaryPoint(study: Study, predictor: Surface, point: Settings): StationaryAnswer {
  const quadratic = predictor.quadratic(point);
  if (!quadratic) return { stationary: null, reason: { code: "third-order", values: {} } };
  const { ids, linear, square } = quadratic;
  const k = ids.length;
  if (k === 0 || square.every((v) => v === 0))
    return {
      stationary: null,
      reason: { code: "no-bend", values: {} },
    };
  const evd = new EigenvalueDecomposition(
    new Matrix(Array.from({ length: k }, (_, i) => Array.from(square.subarray(i * k, (i + 1) * k)))),
    {
      assumeSymmetric: true,
    },
  );
  const pairs = evd.realEigenvalues
    .map((value, j) => ({ value, vector: Array.from({ length: k }, (_, i) => evd.eigenvectorMatrix.get(i, j)) }))
    .sort((a, b) => Math.abs(b.value) - Math.abs(a.value));
  const largest = Math.abs(pairs[0].value);
  const x = new Float64Array(k);
  for (const { value, vector } of pairs) {
    const slope = vector.reduce((t, v, i) => t + v * linear[i], 0);
    if (Math.abs(value) <= SINGULAR * largest) {
      // Level along this direction everywhere, or rising along it without end.
      if (Math.abs(slope) > SINGULAR * Math.max(largest, Math.hypot(...linear)))
        return {
          stationary: null,
          reason: { code: "rising-ridge", values: {} },
        };
      continue;
    }
    for (let i = 0; i < k; i++) x[i] -= (slope / (2 * value)) * vector[i];
  }
  const settings: Settings = { ...point };
  ids.forEach((id, i) => {
    const f = study.factors.find((q) => q.id === id);
    if (f && isNumeric(f)) settings[id] = decode(f, x[i]);
  });
  const flip = predictor.link.decreasing ? -1 : 1;
  const signs = pairs.map((p) => flip * Math.sign(p.value));
  return {
    stationary: {
      settings,
      coded: codedSettings(study.factors, settings),
      value: predictor.value(settings),
      nature: pairs.some((p) => Math.abs(p.value) < RIDGE * largest)
        ? "ridge"
        : signs.every((s) => s < 0)
          ? "maximum"
          : signs.every((s) => s > 0)
            ? "minimum"
            : "saddle",
      inside: withinRanges(study.factors, settings) && allowed(study, settings),
      distance: Math.hypot(...x),
      eigenvalues: pairs.map((p) => p.value),
      directions: pairs.map((p) => Object.fromEntries(ids.map((id, i) => [id, p.vector[i]]))),
    },
  };
}
