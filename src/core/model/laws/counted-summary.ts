import { pickColumns } from "../../numerics/least-squares";
import { FULL_LEVERAGE, type LikelihoodSummary, type ResidualKind } from "../fitted";
import { criteriaOf, criterionDeviance } from "./counted-judged";
import { type Solved, startOf, upTo } from "./counted-solved";
import { type Maximum, partsOf, Surface } from "./likelihood";

/** Changes of deviance below this end the fit without one trial: what it loses there goes with their root. */
const CLOSE_ENOUGH = 1e-18;
const FEW_COLUMNS = 12;

/**
 * Deviance of each trial where the fit is made without it, in all: each a fit of its own, from where one step by the
 * inverse information without the trial leads (a change of rank one, Sherman & Morrison 1950).
 *
 * @returns null where a trial cannot be left out
 */
function leftOut(s: Solved, keep: readonly number[], start: Float64Array): number | null {
  const { counted, data, fit, input, n } = s;
  const x = pickColumns(input.design.matrix, keep);
  const w = keep.length;
  const surface = new Surface({
    x,
    counting: counted.counting(data, fit.extra),
    penalised: s.firth !== undefined,
  });
  const best = surface.maximum(upTo(w), start);
  const inverse = surface.inverse();
  if (!inverse) return null;
  const weights = surface.parts.weights.slice();
  const slopes = surface.parts.slopes.slice();
  const metric = new Float64Array(w * w);
  const along = new Float64Array(w);
  const first = new Float64Array(w);
  let total = 0;
  for (let out = 0; out < n; out++) {
    let h = 0;
    for (let i = 0; i < w; i++) {
      along[i] = 0;
      for (let j = 0; j < w; j++) along[i] += inverse[i * w + j] * x.data[out * w + j];
      h += weights[out] * along[i] * x.data[out * w + i];
    }
    if (h > FULL_LEVERAGE) return null;
    for (let i = 0; i < w; i++) first[i] = best.coefficients[i] - (slopes[out] / (1 - h)) * along[i];
    surface.leaving = out;
    let without: Maximum;
    // Of few columns the information is worked out as quickly as a step by the old one is taken.
    if (w <= FEW_COLUMNS) without = surface.maximum(upTo(w), first);
    else {
      const size = weights[out] / (1 - h);
      for (let i = 0; i < w; i++)
        for (let j = 0; j < w; j++) metric[i * w + j] = inverse[i * w + j] + size * along[i] * along[j];
      without = surface.near(metric, [], first, CLOSE_ENOUGH);
    }
    if (!without.converged) return null;
    // The surface still stands at the maximum without the trial.
    total += surface.parts.deviances[out];
  }
  return total;
}

/** The same of the constant alone, which is the share or rate of all other trials, by their weights. */
function nullLeftOut({ counted, counting, data, n, fit }: Solved): number {
  const weights = data.of.map((v) => (data.kind === "share" ? 1 / (1 + (v - 1) * fit.extra) : 1));
  const events = data.events.reduce((t, v, i) => t + weights[i] * v, 0);
  const of = data.of.reduce((t, v, i) => t + weights[i] * v, 0);
  const own = partsOf(n);
  const predictors = Float64Array.from({ length: n }, (_, i) =>
    counted.link.forward((events - weights[i] * data.events[i]) / (of - weights[i] * data.of[i])),
  );
  counting(predictors, own);
  return own.deviances.reduce((t, v) => t + v, 0);
}

export function summaryOf(s: Solved, nullDeviance: number, id: string): LikelihoodSummary {
  const { fit, n, p, residualDf, input } = s;
  const { deviance } = fit.best;
  const waves = input.design.columns.flatMap((c, j) => (c.key === "@wave" ? [j] : []));
  let predicted: number | null | undefined;
  return {
    law: id,
    s: null,
    deviance,
    nullDeviance,
    criterion: fit.best.criterion,
    r2: nullDeviance > 0 ? 1 - deviance / nullDeviance : null,
    r2Adjusted: nullDeviance > 0 && residualDf > 0 ? 1 - deviance / residualDf / (nullDeviance / (n - 1)) : null,
    // A fit for every trial: worked out when it is asked for.
    get r2Predicted() {
      if (predicted === undefined) {
        const start = startOf(s.counted, s.data, 1);
        const none = s.firth || !s.counting.canonical ? leftOut(s, [0], start) : nullLeftOut(s);
        const all = leftOut(s, upTo(p), fit.best.coefficients);
        predicted = none !== null && Number.isFinite(none) && all !== null && none > 0 ? 1 - all / none : null;
      }
      return predicted;
    },
    get r2AfterWaves() {
      if (waves.length === 0) return nullDeviance > 0 ? 1 - deviance / nullDeviance : null;
      const x = pickColumns(input.design.matrix, [0, ...waves]);
      const surface = new Surface({ x, counting: s.counting, penalised: false });
      const start = startOf(s.counted, s.data, x.cols);
      const base = surface.maximum(upTo(x.cols), start).deviance;
      return base > 0 ? 1 - deviance / base : null;
    },
    ...criteriaOf(s, criterionDeviance(s, upTo(p), fit.best), p),
    residualDf,
  };
}

/** Pearson's and deviance residuals of the trials. */
export function errorsOf(s: Solved): { pearson: Float64Array; deviance: Float64Array; raw: Float64Array } {
  const { n, counting, predictors, data, counted } = s;
  const own = partsOf(n);
  counting(predictors, own);
  const { slopes, weights, deviances } = own;
  return {
    pearson: slopes.map((v, i) => (weights[i] > 1e-12 ? v / Math.sqrt(weights[i]) : 0)),
    deviance: slopes.map((v, i) => Math.sign(v) * Math.sqrt(deviances[i])),
    raw: predictors.map((eta, i) => data.events[i] / data.of[i] - counted.rate(eta)),
  };
}

export function residualsOf(s: Solved, kind: ResidualKind): (number | null)[] {
  const { phi, solution } = s;
  const { pearson, deviance, raw } = errorsOf(s);
  if (kind === "raw") return Array.from(raw);
  if (kind === "scaled") return Array.from(pearson);
  return Array.from(pearson, (r, i) => {
    const h = solution.leverage[i];
    if (phi === null || !(phi > 0) || h > FULL_LEVERAGE) return null;
    const error = Math.sqrt(phi * (1 - h));
    if (kind === "studentized") return r / error;
    // Likelihood residuals: what leaving the trial out would do to the deviance (Williams 1987).
    return Math.sign(r) * Math.sqrt((1 - h) * (deviance[i] / error) ** 2 + h * (r / error) ** 2);
  });
}
