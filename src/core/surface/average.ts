import { storedModel } from "../model/data";
import { type Fit, fitModel, presentFit } from "../model/fit";
import { scaleOf } from "../model/transform";
import { tQuantile } from "../numerics/distributions";
import type { Settings, Study } from "../study/schema";
import type { Coefficient } from "./polynomial";
import { backInterval, type Plane, type Prediction, type Predictor, predictor } from "./predict";

/** How kept rivals are weighed in an average. */
export type Weighing = "akaike" | "equal";

/**
 * Weights of models in their average: equal, or Akaike's exp(−Δ/2) of AICc scaled to one (Burnham & Anderson 2002,
 * section 2.9). A model whose AICc is infinite weighs nothing; where none has one, all weigh the same.
 */
export function modelWeights(fits: readonly Fit[], weighing: Weighing): number[] {
  const aicc = fits.map((f) => f.summary.aicc ?? Number.POSITIVE_INFINITY);
  const best = Math.min(...aicc);
  if (weighing === "equal" || !Number.isFinite(best)) return fits.map(() => 1 / fits.length);
  const raw = aicc.map((a) => Math.exp((best - a) / 2));
  const total = raw.reduce((t, w) => t + w, 0);
  return raw.map((w) => w / total);
}

/**
 * The average of several models of one response as one predictor: coefficients averaged with zeros, variance
 * Σw(var + (ŷ − ȳ)²) (Burnham & Anderson 2002, equation 4.9), intervals with t at the fewest degrees of freedom among
 * the models that weigh at all.
 *
 * @param chosen the model whose terms the station shows
 */
export function averagedPredictor(study: Study, fits: readonly Fit[], weighing: Weighing, chosen: Fit): Predictor {
  const weights = modelWeights(fits, weighing);
  const own = fits.map((fit, i) => ({ weight: weights[i], reads: predictor(study, fit) })).filter((m) => m.weight > 0);
  const scale = scaleOf(chosen.transform);
  const basis = new Map<string, Coefficient>();
  for (const { weight, reads } of own)
    for (const { column, value } of reads.basis) {
      const key = `${column.key}|${column.index}`;
      basis.set(key, { column, value: (basis.get(key)?.value ?? 0) + weight * value });
    }
  const df = Math.min(...own.map((m) => m.reads.fit.summary.residualDf));
  const critical = df > 0 ? tQuantile((1 + study.confidence) / 2, df) : null;
  const noise = own.reduce((t, m) => t + m.weight * (m.reads.fit.summary.s ?? 0) ** 2, 0);
  const fitted = (settings: Settings): number => own.reduce((t, m) => t + m.weight * m.reads.fitted(settings), 0);
  const largestLeverage = Math.max(...own.map((m) => m.reads.largestLeverage));
  const leverage = (settings: Settings): number => own.reduce((t, m) => t + m.weight * m.reads.leverage(settings), 0);
  const residuals = new Map<string, number>();
  for (const { weight, reads } of own)
    for (const r of reads.residuals) residuals.set(r.id, (residuals.get(r.id) ?? 0) + weight * r.residual);
  return {
    fit: chosen,
    members: own.flatMap((m) => m.reads.members.map((one) => ({ ...one, weight: m.weight }))),
    basis: [...basis.values()],
    residuals: [...residuals].map(([id, residual]) => ({ id, residual })),
    fitted,
    leverage,
    largestLeverage,
    value: (settings) => scale.back(fitted(settings)),
    plane(at, x, y): Plane {
      const planes = own.map((m) => ({ weight: m.weight, plane: m.reads.fittedPlane(at, x, y) }));
      return (vx, vy) => scale.back(planes.reduce((t, p) => t + p.weight * p.plane(vx, vy), 0));
    },
    fittedPlane(at, x, y): Plane {
      const planes = own.map((m) => ({ weight: m.weight, plane: m.reads.fittedPlane(at, x, y) }));
      return (vx, vy) => planes.reduce((t, p) => t + p.weight * p.plane(vx, vy), 0);
    },
    line(at, id, values) {
      const here: Settings = { ...at };
      return values.map((v) => {
        here[id] = v;
        const { mean, meanInterval } = this.predict(here);
        return { mean, meanInterval };
      });
    },
    predict(settings): Prediction {
      const each = own.map((m) => ({ weight: m.weight, z: m.reads.fitted(settings), said: m.reads.predict(settings) }));
      const z = each.reduce((t, m) => t + m.weight * m.z, 0);
      const variance = each.reduce((t, m) => t + m.weight * ((m.said.standardError ?? 0) ** 2 + (m.z - z) ** 2), 0);
      const standardError = critical === null ? null : Math.sqrt(variance);
      const around = (v: number): [number, number] | null =>
        critical === null ? null : backInterval(scale.back, z - critical * Math.sqrt(v), z + critical * Math.sqrt(v));
      const mean = scale.back(z);
      const meanInterval = around(variance);
      const bounds = study.responses.find((r) => r.id === chosen.response)?.bounds;
      const outside = (v: number): boolean =>
        v < (bounds?.min ?? Number.NEGATIVE_INFINITY) || v > (bounds?.max ?? Number.POSITIVE_INFINITY);
      return {
        mean,
        standardError,
        meanInterval,
        trialInterval: around(variance + noise),
        leverage: each.reduce((t, m) => t + m.weight * m.said.leverage, 0),
        extrapolates: each.some((m) => m.said.extrapolates),
        breaksBounds: outside(mean) || (meanInterval?.some(outside) ?? false),
      };
    },
  };
}

/**
 * How a response is predicted as the study stands: by its stored model (else main effects), or by the average of its
 * kept rivals where the study says so.
 */
export function presentPredictor(study: Study, response: string, fit = presentFit(study, response)): Predictor {
  const stored = storedModel(study, response);
  const rivals = stored?.rivals ?? [];
  if (!stored?.average || rivals.length < 2) return predictor(study, fit);
  const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
  const fits = rivals.map((terms) =>
    fitModel(study, response, {
      terms: terms.filter((t) => !t.some((id) => retired.has(id))),
      transform: fit.transform,
      block: fit.block,
    }),
  );
  return averagedPredictor(study, fits, stored.average, fit);
}
