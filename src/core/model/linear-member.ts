import { cholesky, dot, type Matrix } from "../numerics/least-squares";
import type { Random } from "../numerics/random";
import type { Settings } from "../study/schema";
import type { FittedModel } from "./fitted";
import type { Member, Spot } from "./surface";

/**
 * Lᵢ′Lⱼ over shared trials: what the coefficients of two models have in common, per unit of σᵢσⱼρ; null where they have
 * nothing, since one of them is not linear in its results.
 */
function sharedCoefficients(a: FittedModel, b: FittedModel): Float64Array | null {
  const left = a.loadings;
  const right = b.loadings;
  if (!left || !right) return null;
  const pa = left.cols;
  const pb = right.cols;
  const rowOf = new Map(b.trials.map((id, i) => [id, i]));
  const out = new Float64Array(pa * pb);
  a.trials.forEach((id, i) => {
    const j = rowOf.get(id);
    if (j === undefined) return;
    for (let u = 0; u < pa; u++)
      for (let v = 0; v < pb; v++) out[u * pb + v] += left.data[i * pa + u] * right.data[j * pb + v];
  });
  return out;
}

function bilinear(m: Float64Array, x: Float64Array, y: Float64Array): number {
  const rows = x.length;
  const cols = y.length;
  let total = 0;
  for (let u = 0, cell = 0; u < rows; u++) {
    let row = 0;
    for (let v = 0; v < cols; v++, cell++) row += m[cell] * y[v];
    total += x[u] * row;
  }
  return total;
}

/** A spot of a linear model: a row of its columns that is written anew as it moves. */
class LinearSpot implements Spot {
  readonly row: Float64Array;
  private readonly vary: ((values: ArrayLike<number>, into: Float64Array) => void) | undefined;
  private readonly crosses = new Map<Spot, Float64Array | null>();

  constructor(
    readonly model: FittedModel,
    settings: Settings,
    ids: readonly string[],
    private readonly enter: ((row: Float64Array) => void) | undefined,
    beside: LinearSpot | undefined,
  ) {
    if (beside) {
      this.row = beside.row;
      return;
    }
    this.row = new Float64Array(model.columns.length);
    model.linear(settings, this.row);
    enter?.(this.row);
    this.vary = model.varying(settings, ids);
  }

  move(values: ArrayLike<number>): void {
    if (!this.vary) return;
    this.vary(values, this.row);
    this.enter?.(this.row);
  }

  value(): number {
    return dot(this.row, this.model.coefficients);
  }

  relative(): number {
    return this.model.relative(this.row);
  }

  relativeNoise(): number {
    return this.model.relativeNoise(this.row);
  }

  common(other: Spot): number {
    if (!(other instanceof LinearSpot)) return 0;
    let shared = this.crosses.get(other);
    if (shared === undefined) {
      shared = sharedCoefficients(this.model, other.model);
      this.crosses.set(other, shared);
    }
    return shared ? bilinear(shared, this.row, other.row) : 0;
  }
}

/** Coefficients of a model drawn from what is not known of them; undefined where nothing is known of the error. */
function coefficientDraws(model: FittedModel): ((random: Random) => Float64Array) | undefined {
  const { covariance, coefficients } = model;
  if (!covariance) return undefined;
  const p = coefficients.length;
  const lower: Matrix | null = cholesky(covariance);
  const df = constantDf(model);
  if (!lower || df === 0) return undefined;
  const z = new Float64Array(p);
  return (random) => {
    for (let j = 0; j < p; j++) z[j] = random.normal();
    const wide = df === null ? 1 : Math.sqrt(df / random.chiSquared(df));
    return coefficients.map((b, i) => {
      let off = 0;
      for (let j = 0; j <= i; j++) off += lower.data[i * p + j] * z[j];
      return b + wide * off;
    });
  };
}

/** Degrees of freedom behind the constant of a model. */
export const constantDf = (model: FittedModel): number | null =>
  model.dfOf(model.coefficients.map((_, j) => (j === 0 ? 1 : 0)));

/**
 * One linear model of an average as new trials are drawn by it.
 *
 * @param write makes a row that of a wave
 */
export function linearMember(
  weight: number,
  model: FittedModel,
  write: (row: Float64Array, wave: string) => void,
): Member {
  const rowAt = (settings: Settings): Float64Array => {
    const row = new Float64Array(model.columns.length);
    model.linear(settings, row);
    return row;
  };
  return {
    weight,
    scale: model.scale,
    design: model.design,
    predictive: (settings) => model.predictive(rowAt(settings)),
    spot: (settings, ids, wave, beside) =>
      new LinearSpot(
        model,
        settings,
        ids,
        wave === undefined ? undefined : (row) => write(row, wave),
        beside instanceof LinearSpot ? beside : undefined,
      ),
    withNoise: (s) => linearMember(weight, model.withNoise(s), write),
    drawing(places) {
      const draw = coefficientDraws(model);
      if (!draw) return undefined;
      const rows = places.map(rowAt);
      const values = new Float64Array(rows.length);
      return (random) => {
        const b = draw(random);
        for (let i = 0; i < rows.length; i++) values[i] = dot(b, rows[i]);
        return values;
      };
    },
  };
}
