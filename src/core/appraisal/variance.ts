import { type Matrix, quadraticForm } from "../numerics/least-squares";
import { type Random, seededRandom } from "../numerics/random";
import { decode, rangeOf } from "../study/coding";
import { regionOf } from "../study/region";
import { heldAt } from "../study/roles";
import type { Factor, Settings, Study } from "../study/schema";
import { type Column, type Contrasts, contrastRows, type Encoder } from "../terms/model-matrix";
import { climb, vertices } from "./vertices";

const SAMPLE = 5000;

/** A point spread evenly over the box: coded coordinates uniform, discrete values and levels equally likely. */
export function randomSettings(factors: readonly Factor[], random: Random): Settings {
  const out: Settings = {};
  for (const f of factors) {
    const held = heldAt(f);
    if (held !== undefined) out[f.id] = held;
    else if (f.kind === "categorical") out[f.id] = f.levels[random.below(f.levels.length)];
    else if (f.kind === "discrete") out[f.id] = f.values[random.below(f.values.length)];
    else out[f.id] = decode(f, 2 * random.uniform() - 1);
  }
  return out;
}

/** Points spread evenly over the allowed region (Monte Carlo by rejection); fewer when the region is nearly empty. */
export function regionSample(study: Study, count = SAMPLE, seed = 1): Settings[] {
  const random = seededRandom(seed);
  const region = regionOf(study);
  const out: Settings[] = [];
  for (let tries = 0; out.length < count && tries < count * 40; tries++) {
    const s = randomSettings(study.factors, random);
    if (region.allowed(s)) out.push(s);
  }
  return out;
}

/** Reads x′(X′X)⁻¹x of settings for the columns kept; wave columns stand at zero (the average of waves). */
export function varianceReader(
  encoded: Encoder,
  kept: readonly Column[],
  inverse: Matrix,
): (settings: Settings) => number {
  const row = new Float64Array(encoded.columns.length);
  const columns = kept.map((k) => encoded.columns.findIndex((c) => c.key === k.key && c.index === k.index));
  const x = new Float64Array(kept.length);
  return (settings) => {
    encoded.row(settings, row);
    for (let j = 0; j < columns.length; j++) x[j] = columns[j] < 0 ? 0 : row[columns[j]];
    return quadraticForm(inverse, x);
  };
}

/** Starts of a search where the vertices are too many to be looked at. */
const STARTS = 1000;
/** Products that climbing may cost. */
const MOST_WORK = 1e9;
/** Places that a search goes on from at least, and where the vertices are known. */
const CLIMBED = 5;

/**
 * Largest prediction variance over the region: at its vertices, and by climbing from the highest of them and of a
 * sample; where there are more than 100,000 vertices by climbing alone, and then it is at least what is found.
 *
 * @param columns of the model
 */
export function largestVariance(
  study: Study,
  d: (s: Settings) => number,
  sample: readonly Settings[],
  columns: number,
): { value: number; atLeast: boolean } {
  const known = vertices(study);
  const start = known ? [...known, ...sample.slice(0, STARTS)] : sample.slice(0, STARTS);
  if (start.length === 0) return { value: Number.NaN, atLeast: true };
  const ranked = start.map((s) => ({ s, v: d(s) })).sort((a, b) => b.v - a.v);
  // A climb asks each factor a few dozen times; of large models fewer places are climbed from.
  const affordable = Math.floor(MOST_WORK / (columns ** 2 * study.factors.length * 30));
  const from = ranked.slice(0, known ? CLIMBED : Math.max(CLIMBED, affordable));
  return {
    value: from.reduce((best, { s }) => Math.max(best, climb(study, d, s)), ranked[0].v),
    atLeast: known === undefined,
  };
}

/**
 * Mean of xx′ over the box: uniform in coded coordinates, discrete levels and categories equally weighted. Exact, as
 * products of each factor's own moments.
 */
function boxMoments(study: Study, columns: readonly Column[], contrasts: Contrasts): number[][] {
  const factors = new Map(study.factors.map((f) => [f.id, f]));
  const power = (f: Factor, k: number): number => {
    if (f.kind === "continuous") return k % 2 ? 0 : 1 / (k + 1);
    if (f.kind === "discrete") {
      const [low, high] = rangeOf(f);
      const coded = f.values.map((v) =>
        f.scale === "log" ? (2 * Math.log(v / low)) / Math.log(high / low) - 1 : (2 * v - low - high) / (high - low),
      );
      return coded.reduce((t, x) => t + x ** k, 0) / coded.length;
    }
    return Number.NaN;
  };
  // Which contrast column each factor contributes to a model column, in the order the encoder multiplies them.
  const parts = columns.map((c) => {
    const out = new Map<string, number[]>();
    let index = c.index;
    const widths = c.term.map((id) => {
      const f = factors.get(id);
      return f?.kind === "categorical" ? f.levels.length - 1 : 1;
    });
    for (let i = c.term.length - 1; i >= 0; i--) {
      out.set(c.term[i], [...(out.get(c.term[i]) ?? []), index % widths[i]]);
      index = Math.floor(index / widths[i]);
    }
    return out;
  });
  const cache = new Map<string, number>();
  return columns.map((_, a) =>
    columns.map((__, b) => {
      let total = 1;
      for (const id of new Set([...parts[a].keys(), ...parts[b].keys()])) {
        const f = factors.get(id);
        if (!f) return 0;
        const levels = [...(parts[a].get(id) ?? []), ...(parts[b].get(id) ?? [])];
        const key = `${id}|${levels.join(",")}`;
        let value = cache.get(key);
        if (value === undefined) {
          if (f.kind === "categorical") {
            const rows = contrastRows(f.levels.length, contrasts);
            value = rows.reduce((t, row) => t + levels.reduce((p, j) => p * row[j], 1), 0) / rows.length;
          } else value = power(f, levels.length);
          cache.set(key, value);
        }
        total *= value;
        if (total === 0) return 0;
      }
      return total;
    }),
  );
}

/** Mean of x′(X′X)⁻¹x over the region: exact on a box, over the sample under limits. */
export function meanVariance(
  study: Study,
  kept: readonly Column[],
  inverse: Matrix,
  d: (s: Settings) => number,
  sample: readonly Settings[],
): number {
  if (!regionOf(study).box)
    return sample.length === 0 ? Number.NaN : sample.reduce((t, s) => t + d(s), 0) / sample.length;
  const termColumns = kept.flatMap((c, j) => (c.key === "@wave" ? [] : [j]));
  const moments = boxMoments(
    study,
    termColumns.map((j) => kept[j]),
    "sum",
  );
  let total = 0;
  termColumns.forEach((ja, a) => {
    termColumns.forEach((jb, b) => {
      total += moments[a][b] * inverse.data[ja * inverse.cols + jb];
    });
  });
  return total;
}

/** Fraction-of-space curve: prediction variance against the share of the region at or below it, 101 points. */
export function fractionOfSpace(
  d: (s: Settings) => number,
  sample: readonly Settings[],
): { fraction: number; value: number }[] {
  const values = Float64Array.from(sample, d).sort();
  if (values.length === 0) return [];
  return Array.from({ length: 101 }, (_, i) => ({
    fraction: i / 100,
    value: values[Math.min(values.length - 1, Math.round((i / 100) * (values.length - 1)))],
  }));
}
