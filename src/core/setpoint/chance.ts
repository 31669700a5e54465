import { scaleOf } from "../model/transform";
import { cholesky, type Matrix, zeros } from "../numerics/least-squares";
import { seededRandom } from "../numerics/random";
import { isNumeric } from "../study/coding";
import type { Settings } from "../study/schema";
import type { Predictor } from "../surface/predict";
import { limitsOf } from "./desirability";
import type { Wishes } from "./goals";

/** Chance that one future trial at some settings meets every limit. */
export interface Chance {
  together: number | null;
  standardError: number | null;
  /** The same with responses independent of each other. */
  independent: number | null;
  /** Each response alone. */
  each: Record<string, number> | null;
}

export interface ChanceOptions {
  draws: number;
  seed: number;
}

/** Residual correlations of the responses on the trials they share, shrunk until positive definite. */
export function residualCorrelation(predictors: readonly Predictor[]): Matrix {
  const k = predictors.length;
  const byTrial = predictors.map((p) => new Map(p.fit.trials.map((t) => [t.id, t.residual])));
  const raw = zeros(k, k);
  for (let i = 0; i < k; i++) {
    raw.data[i * k + i] = 1;
    for (let j = 0; j < i; j++) {
      let sxy = 0;
      let sxx = 0;
      let syy = 0;
      let common = 0;
      for (const [id, e] of byTrial[i]) {
        const f = byTrial[j].get(id);
        if (f === undefined) continue;
        common++;
        sxy += e * f;
        sxx += e * e;
        syy += f * f;
      }
      const r = common >= 4 && sxx > 0 && syy > 0 ? Math.max(-0.999, Math.min(0.999, sxy / Math.sqrt(sxx * syy))) : 0;
      raw.data[i * k + j] = raw.data[j * k + i] = r;
    }
  }
  for (let shrink = 1; shrink > 0; shrink -= 0.05) {
    const m = zeros(k, k);
    for (let i = 0; i < k; i++) for (let j = 0; j < k; j++) m.data[i * k + j] = i === j ? 1 : shrink * raw.data[i * k + j];
    if (cholesky(m)) return m;
  }
  const identity = zeros(k, k);
  for (let i = 0; i < k; i++) identity.data[i * k + i] = 1;
  return identity;
}

/** Cᵢ Xᵢ′Xⱼ Cⱼ over shared trials: what the coefficients of two responses have in common, per unit of σᵢσⱼρ. */
function crossInverse(a: Predictor, b: Predictor): Float64Array {
  const pa = a.fit.parts.matrix.cols;
  const pb = b.fit.parts.matrix.cols;
  const at = new Map(b.fit.parts.data.trials.map((t, i) => [t.id, i]));
  const middle = new Float64Array(pa * pb);
  a.fit.parts.data.trials.forEach((t, i) => {
    const j = at.get(t.id);
    if (j === undefined) return;
    for (let u = 0; u < pa; u++)
      for (let v = 0; v < pb; v++) middle[u * pb + v] += a.fit.parts.matrix.data[i * pa + u] * b.fit.parts.matrix.data[j * pb + v];
  });
  const left = new Float64Array(pa * pb);
  for (let u = 0; u < pa; u++)
    for (let w = 0; w < pa; w++) {
      const c = a.fit.parts.solution.inverse.data[u * pa + w];
      for (let v = 0; v < pb; v++) left[u * pb + v] += c * middle[w * pb + v];
    }
  const data = new Float64Array(pa * pb);
  for (let u = 0; u < pa; u++)
    for (let w = 0; w < pb; w++) {
      const c = left[u * pb + w];
      for (let v = 0; v < pb; v++) data[u * pb + v] += c * b.fit.parts.solution.inverse.data[w * pb + v];
    }
  return data;
}

function bilinear(m: Float64Array, x: Float64Array, y: Float64Array): number {
  const rows = x.length;
  const cols = y.length;
  let total = 0;
  for (let u = 0, at = 0; u < rows; u++) {
    let row = 0;
    for (let v = 0; v < cols; v++, at++) row += m[at] * y[v];
    total += x[u] * row;
  }
  return total;
}

/** Cholesky factor of m (k × k, by rows) written into l; false when m is not positive definite. */
function factorInto(m: Float64Array, l: Float64Array, k: number): boolean {
  for (let i = 0; i < k; i++)
    for (let j = 0; j <= i; j++) {
      let value = m[i * k + j];
      for (let c = 0; c < j; c++) value -= l[i * k + c] * l[j * k + c];
      if (i === j) {
        if (!(value > 0)) return false;
        l[i * k + i] = Math.sqrt(value);
      } else l[i * k + j] = value / l[j * k + j];
    }
  return true;
}

/** One-sided Wilson (1927) standard error: finite also when no draw, or every draw, meets the limits. */
function wilsonError(share: number, draws: number): number {
  if (share > 0 && share < 1) return Math.sqrt((share * (1 - share)) / draws);
  return 1 / (draws + 1);
}

/**
 * Draws one future trial many times: settings uniform within ± tolerance, per response σ² = νs²/χ²_ν, coefficients
 * and noise from that σ², both correlated between responses as the residuals are. Yields now and then.
 */
export function* chanceOf(wishes: Wishes, settings: Settings, options: ChanceOptions): Generator<number, Chance, void> {
  const absent: Chance = { together: null, standardError: null, independent: null, each: null };
  const { responses, study } = wishes;
  const predictors = responses.map((r) => wishes.predictors.get(r.id)).filter((p): p is Predictor => p !== undefined);
  const k = predictors.length;
  const noises = predictors.map((p, i) => {
    const { s, residualDf } = p.fit.summary;
    if (residualDf > 0 && s !== null) return { s, df: residualDf };
    const stated = responses[i].noise;
    return stated !== undefined && p.fit.transform === "none" ? { s: stated, df: 0 } : null;
  });
  if (k === 0 || noises.some((n) => n === null)) return absent;
  const random = seededRandom(options.seed);
  const correlation = residualCorrelation(predictors);
  const cross = predictors.map((a, i) => predictors.map((b, j) => (j < i ? crossInverse(a, b) : null)));
  const rows = predictors.map((p) => new Float64Array(p.fit.parts.matrix.cols));
  const limits = responses.map((r) => limitsOf(r.goal));
  const backs = predictors.map((p) => (p.fit.transform === "none" ? undefined : scaleOf(p.fit.transform).back));
  const wobbling = study.factors.filter((f) => isNumeric(f) && (f.tolerance ?? 0) > 0 && f.retired === undefined);
  const ids = wobbling.map((f) => f.id);
  const vary = predictors.map((p) => p.varying(settings, ids));
  const moved = Float64Array.from(wobbling, (f) => settings[f.id] as number);
  const middles = moved.slice();
  const reach = Float64Array.from(wobbling, (f) => f.tolerance ?? 0);
  const means = new Float64Array(k);
  const spread = new Float64Array(k * k);
  const lower = new Float64Array(k * k);
  const coefficients = predictors.map((p) => p.fit.parts.solution.coefficients);
  const inverses = predictors.map((p) => p.fit.parts.solution.inverse.data);
  const alone = new Float64Array(k);
  const prepare = (): void => {
    for (let i = 0; i < k; i++) {
      const b = coefficients[i];
      const x = rows[i];
      let total = 0;
      for (let j = 0; j < x.length; j++) total += x[j] * b[j];
      means[i] = total;
      const own = 1 + bilinear(inverses[i], x, x);
      spread[i * k + i] = own;
      alone[i] = Math.sqrt(own);
      for (let j = 0; j < i; j++) {
        const rho = correlation.data[i * k + j];
        const m = cross[i][j];
        spread[i * k + j] = rho === 0 || !m ? 0 : rho * (1 + bilinear(m, x, rows[j]));
      }
    }
    // A product of two positive definite matrices, entry by entry, is one too (Schur 1911), so this never fails but by rounding.
    factorInto(spread, lower, k);
  };
  predictors.forEach((p, i) => {
    p.row(settings, rows[i]);
  });
  prepare();
  const z = new Float64Array(k);
  let hits = 0;
  let hitsAlone = 0;
  const each = new Float64Array(k);
  let lastYield = Date.now();
  for (let draw = 0; draw < options.draws; draw++) {
    if (wobbling.length > 0) {
      for (let w = 0; w < wobbling.length; w++) moved[w] = middles[w] + (2 * random.uniform() - 1) * reach[w];
      for (let i = 0; i < k; i++) vary[i](moved, rows[i]);
      prepare();
    }
    for (let i = 0; i < k; i++) z[i] = random.normal();
    let good = true;
    let goodAlone = true;
    for (let i = 0; i < k; i++) {
      const noise = noises[i] as { s: number; df: number };
      const sigma = noise.df > 0 ? noise.s * Math.sqrt(noise.df / random.chiSquared(noise.df)) : noise.s;
      let e = 0;
      for (let j = 0; j <= i; j++) e += lower[i * k + j] * z[j];
      const back = backs[i];
      const y = back ? back(means[i] + sigma * e) : means[i] + sigma * e;
      if (y < limits[i].low || y > limits[i].high) good = false;
      else each[i]++;
      const zAlone = means[i] + sigma * alone[i] * z[i];
      const yAlone = back ? back(zAlone) : zAlone;
      if (yAlone < limits[i].low || yAlone > limits[i].high) goodAlone = false;
    }
    if (good) hits++;
    if (goodAlone) hitsAlone++;
    if ((draw & 1023) === 0 && Date.now() - lastYield > 40) {
      lastYield = Date.now();
      yield draw / options.draws;
    }
  }
  const together = hits / options.draws;
  return {
    together,
    standardError: wilsonError(together, options.draws),
    independent: hitsAlone / options.draws,
    each: Object.fromEntries(responses.map((r, i) => [r.id, each[i] / options.draws])),
  };
}
