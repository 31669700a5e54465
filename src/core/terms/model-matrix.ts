import { type Matrix, zeros } from "../numerics/least-squares";
import { code, isNumeric, rangeOf } from "../study/coding";
import type { CategoricalFactor, Covariate, Factor, Settings, Study, Term } from "../study/schema";
import { termKey, WAVE_TERM } from "./term";

/** How a category of three or more levels is coded: sum to zero for reports, orthonormal for plan efficiencies. */
export type Contrasts = "sum" | "orthonormal";

/** One column of a model matrix. */
export interface Column {
  term: Term;
  key: string;
  /** Index among the columns of its term. */
  index: number;
  /** For terms with categories: the level (or levels, joined by ×) the column stands for. */
  level?: string;
}

/** A function from settings to one factor's coded columns. */
interface FactorCode {
  width: number;
  labels: (string | undefined)[];
  values(value: number | string, into: number[]): void;
}

/** Sum-to-zero or orthonormal rows of a category: `rows[level][column]`. */
export function contrastRows(levels: number, contrasts: Contrasts): number[][] {
  if (levels === 2) return [[-1], [1]];
  if (contrasts === "sum")
    return Array.from({ length: levels }, (_, i) =>
      Array.from({ length: levels - 1 }, (__, j) => (i === levels - 1 ? -1 : i === j ? 1 : 0)),
    );
  // Helmert contrasts scaled to mean square 1 over equally weighted levels.
  return Array.from({ length: levels }, (_, i) =>
    Array.from({ length: levels - 1 }, (__, j) => {
      const scale = Math.sqrt(levels / ((j + 1) * (j + 2)));
      return i <= j ? -scale : i === j + 1 ? (j + 1) * scale : 0;
    }),
  );
}

function categoryCode(factor: CategoricalFactor, contrasts: Contrasts): FactorCode {
  const rows = contrastRows(factor.levels.length, contrasts);
  const byLevel = new Map(factor.levels.map((l, i) => [l, rows[i]]));
  return {
    width: factor.levels.length - 1,
    labels: factor.levels.length === 2 ? [factor.levels[1]] : factor.levels.slice(0, -1),
    values(value, into) {
      const row = byLevel.get(value as string) ?? rows[0];
      for (let j = 0; j < row.length; j++) into[j] = row[j];
    },
  };
}

/** Covariates are coded to −1 … 1 over what was measured; their range travels with the encoder. */
export type CovariateRanges = Map<string, [number, number]>;

/** Turns settings into model rows. */
export interface Encoder {
  columns: Column[];
  /** Writes one row (constant first) into `into` at `from`. Wave columns are not part of it. */
  row(settings: Settings, into: Float64Array, from?: number): void;
  /** A quick way to write rows that differ from these settings in the listed numeric factors alone. */
  varying(settings: Settings, ids: readonly string[]): (settings: ArrayLike<number>, into: Float64Array) => void;
}

/**
 * Columns of the constant and the given terms, in the order given.
 *
 * @param ranges measured range of each covariate used
 */
// Three ways of writing one row, over the tables they share.
export function encoder(
  study: Pick<Study, "factors" | "covariates">,
  terms: readonly Term[],
  contrasts: Contrasts = "sum",
  ranges: CovariateRanges = new Map(),
): Encoder {
  const factors = new Map<string, Factor>(study.factors.map((f) => [f.id, f]));
  const covariates = new Map<string, Covariate>(study.covariates.map((c) => [c.id, c]));
  const ids = [...new Set(terms.flat())];
  const codes = new Map<string, FactorCode>();
  for (const id of ids) {
    const factor = factors.get(id);
    if (factor?.kind === "categorical") codes.set(id, categoryCode(factor, contrasts));
    else if (factor && isNumeric(factor)) {
      const [low, high] = rangeOf(factor);
      const mid = (low + high) / 2;
      const half = (high - low) / 2;
      codes.set(id, {
        width: 1,
        labels: [undefined],
        values:
          factor.scale === "log"
            ? (v, into) => {
                into[0] = code(factor, v as number);
              }
            : (v, into) => {
                into[0] = ((v as number) - mid) / half;
              },
      });
    } else if (covariates.has(id)) {
      const [low, high] = ranges.get(id) ?? [-1, 1];
      const half = (high - low) / 2 || 1;
      codes.set(id, {
        width: 1,
        labels: [undefined],
        values: (v, into) => {
          into[0] = ((v as number) - (low + high) / 2) / half;
        },
      });
    }
  }
  const columns: Column[] = [{ term: [], key: "", index: 0 }];
  /** Per column after the constant: which coded values are multiplied. */
  const multiplied: { id: string; index: number }[][] = [];
  for (const term of terms) {
    let parts: { factors: { id: string; index: number }[]; labels: string[] }[] = [{ factors: [], labels: [] }];
    for (const id of term) {
      const c = codes.get(id) as FactorCode;
      parts = parts.flatMap((part) =>
        c.labels.map((label, index) => ({
          factors: [...part.factors, { id, index }],
          labels: label === undefined ? part.labels : [...part.labels, label],
        })),
      );
    }
    parts.forEach((part, index) => {
      const column: Column = { term: [...term], key: termKey(term), index };
      if (part.labels.length > 0) column.level = part.labels.join(" × ");
      columns.push(column);
      multiplied.push(part.factors);
    });
  }
  // Flat layout of coded values, so that a row costs one pass over the factors and one over the products.
  const offsets = new Map<string, number>();
  let width = 0;
  for (const [id, c] of codes) {
    offsets.set(id, width);
    width += c.width;
  }
  const slots = multiplied.map((parts) => parts.map((p) => (offsets.get(p.id) ?? 0) + p.index));
  const values = new Float64Array(width);
  const scratch: number[] = [];
  const entries = [...codes].map(([id, code]) => ({ id, code, offset: offsets.get(id) ?? 0 }));
  const starts = Int32Array.from([0, ...slots.map((parts) => parts.length)]);
  for (let k = 1; k < starts.length; k++) starts[k] += starts[k - 1];
  const flat = Int32Array.from(slots.flat());
  const products = (values: Float64Array, into: Float64Array, from: number): void => {
    into[from] = 1;
    for (let k = 0; k + 1 < starts.length; k++) {
      let product = 1;
      for (let m = starts[k]; m < starts[k + 1]; m++) product *= values[flat[m]];
      into[from + 1 + k] = product;
    }
  };
  const read = (settings: Settings): void => {
    for (let e = 0; e < entries.length; e++) {
      const { id, code, offset } = entries[e];
      code.values(settings[id], scratch);
      for (let j = 0; j < code.width; j++) values[offset + j] = scratch[j];
    }
  };
  return {
    columns,
    row(settings, into, from = 0) {
      read(settings);
      products(values, into, from);
    },
    varying(point, ids) {
      read(point);
      const moving = ids.flatMap((id, from) => entries.filter((e) => e.id === id).map((e) => ({ ...e, from })));
      const codes = values.slice();
      return (settings, into) => {
        for (let m = 0; m < moving.length; m++) {
          moving[m].code.values(settings[moving[m].from], scratch);
          codes[moving[m].offset] = scratch[0];
        }
        products(codes, into, 0);
      };
    },
  };
}

/** Columns beside those of terms: of waves, or of the centre. */
export interface StandingColumns {
  columns: Column[];
  /** One row per trial. */
  rows: number[][];
}

/** Sum-to-zero columns of the waves named, in their order; none for a single wave. */
export function waveColumns(waves: readonly string[], labels: ReadonlyMap<string, string>): StandingColumns {
  const distinct = [...new Set(waves)];
  if (distinct.length < 2) return { columns: [], rows: waves.map(() => []) };
  const rows = contrastRows(distinct.length, "sum");
  const named = distinct.length === 2 ? [distinct[1]] : distinct.slice(0, -1);
  return {
    columns: named.map((id, index) => ({ term: WAVE_TERM, key: "@wave", index, level: labels.get(id) ?? id })),
    rows: waves.map((w) => rows[distinct.indexOf(w)]),
  };
}

/** Constant, wave columns, terms, then what stands last: the whole model matrix of some trials. */
export function modelMatrix(
  encoded: Encoder,
  points: readonly Settings[],
  waves?: StandingColumns,
  last?: StandingColumns,
): { matrix: Matrix; columns: Column[] } {
  const extra = waves?.columns ?? [];
  const columns = [encoded.columns[0], ...extra, ...encoded.columns.slice(1), ...(last?.columns ?? [])];
  const matrix = zeros(points.length, columns.length);
  const row = new Float64Array(encoded.columns.length);
  points.forEach((settings, i) => {
    encoded.row(settings, row);
    const from = i * columns.length;
    matrix.data[from] = row[0];
    for (let j = 0; j < extra.length; j++) matrix.data[from + 1 + j] = waves?.rows[i][j] ?? 0;
    matrix.data.set(row.subarray(1), from + 1 + extra.length);
    if (last) matrix.data.set(last.rows[i], from + extra.length + row.length);
  });
  return { matrix, columns };
}
