import { cellsOf } from "../appraisal/appraise";
import { kindOf } from "../kinds/results";
import { clearOf } from "../numerics/least-squares";
import { measuredValues } from "../study/measured";
import type { Response, Study } from "../study/schema";
import { responseOf } from "./data";
import type { Fit } from "./fit";
import { besideCells } from "./residual-split";

/** One place where a response was measured more than once under the same settings, on the fitted scale. */
export interface CopyCell {
  /** Places in the trials of the fit: one alone where a trial was measured again. */
  places: number[];
  /** Order of run of each of them. */
  orders: number[];
  /** How many values it has. */
  n: number;
  /** Standard deviation: 0 where all are alike. */
  s: number;
  /** Largest less smallest value. */
  range: number;
  /** Degrees of freedom behind it: not whole where it gave some to what waves stand off. */
  df: number;
}

/** Spread wherever a response was measured again, with the pooled spread and the widest cell. */
export interface Copies {
  from: "repeats" | "replicates";
  cells: CopyCell[];
  pooled: number;
  worst: CopyCell;
  /** Copies of one cell stand in several waves, whose differences are taken out. */
  overWaves: boolean;
  /** The sum of squares of each cell. */
  squares: number[];
  /** What other errors of the same trials would leave in each cell; none for repeats, whose errors are their own. */
  squaresOf?: (errors: ArrayLike<number>) => number[];
}

/** Share of the squares of all values below which what is left of them is rounding. */
const ROUNDING = 1e-24;
/** Degrees of freedom below which a cell tells nothing of its scatter. */
const LEAST_DF = 0.5;
/** Degrees of freedom of all cells below which they always scatter alike. */
const LEAST_IN_ALL = 2;

/** Share of the squares of all cells that one of them holds, against what its degrees of freedom would. */
export function widest(squares: readonly number[], dfs: readonly number[]): { place: number; value: number } {
  const total = squares.reduce((t, v) => t + v, 0) / dfs.reduce((t, v) => t + v, 0);
  let best = { place: 0, value: Number.NEGATIVE_INFINITY };
  squares.forEach((ss, place) => {
    // Wilson & Hilferty (1931): cells of different degrees of freedom on one scale.
    const value = (Math.cbrt(ss / dfs[place] / total) - (1 - 2 / (9 * dfs[place]))) / Math.sqrt(2 / (9 * dfs[place]));
    if (value > best.value) best = { place, value };
  });
  return best;
}

/** Trials alike, two or more: those of one wave together; those that stand alone in their waves over the waves. */
function alike(cells: readonly number[], waves: readonly string[]): number[][] {
  const grouped = <K>(places: readonly number[], key: (i: number) => K): number[][] => {
    const out = new Map<K, number[]>();
    for (const i of places) out.set(key(i), [...(out.get(key(i)) ?? []), i]);
    return [...out.values()];
  };
  const within = grouped([...cells.keys()], (i) => `${waves[i]}|${cells[i]}`);
  const alone = within.flatMap((g) => (g.length === 1 ? g : []));
  return [...within, ...grouped(alone, (i) => cells[i])].filter((g) => g.length > 1).sort((a, b) => a[0] - b[0]);
}

/** Squares within groups of trials, beside waves and covariates as the model holds them. */
function replicates(study: Study, fit: Fit): Omit<Copies, "pooled" | "worst"> {
  const { data, model } = fit;
  const n = data.trials.length;
  const { waves, more } = besideCells(study, data, model);
  const groups = alike(cellsOf(study, data.actual), waves);
  const centred = (values: ArrayLike<number>): Float64Array => {
    const out = new Float64Array(n);
    for (const g of groups) {
      const mean = g.reduce((t, i) => t + values[i], 0) / g.length;
      for (const i of g) out[i] = values[i] - mean;
    }
    return out;
  };
  const beside = [...new Set(waves)].slice(1).map((w) => waves.map((v) => Number(v === w)));
  for (let j = 0; j < (more?.cols ?? 0); j++)
    beside.push(Array.from({ length: n }, (_, i) => more?.data[i * more.cols + j] ?? 0));
  const length = (v: ArrayLike<number>): number => Math.sqrt(Array.from(v).reduce((t, x) => t + x * x, 0));
  const basis: Float64Array[] = [];
  for (const column of beside) {
    const left = centred(column);
    for (let pass = 0; pass < 2; pass++) clearOf(basis, left);
    const size = length(left);
    if (size > 1e-7 * length(column)) basis.push(left.map((v) => v / size));
  }
  const dfs = groups.map((g) => g.length - 1 - basis.reduce((t, b) => t + g.reduce((u, i) => u + b[i] ** 2, 0), 0));
  const told = groups.flatMap((g, k) => (dfs[k] >= LEAST_DF ? [{ places: g, df: dfs[k] }] : []));
  const squaresOf = (errors: ArrayLike<number>): number[] => {
    const left = centred(errors);
    clearOf(basis, left);
    return told.map(({ places }) => places.reduce((t, i) => t + left[i] ** 2, 0));
  };
  const left = centred(model.observed);
  clearOf(basis, left);
  const squares = squaresOf(model.observed);
  return {
    from: "replicates",
    overWaves: told.some(({ places }) => places.some((i) => waves[i] !== waves[places[0]])),
    squares,
    squaresOf,
    cells: told.map(({ places, df }, k) => ({
      places,
      orders: places.map((i) => data.trials[i].order),
      n: places.length,
      s: Math.sqrt(squares[k] / df),
      range: Math.max(...places.map((i) => left[i])) - Math.min(...places.map((i) => left[i])),
      df,
    })),
  };
}

/** Squares within the values of each trial that was measured again. */
function repeats({ data, model, response }: Fit, about: Response): Omit<Copies, "pooled" | "worst"> {
  const measured = data.trials.map((t) => measuredValues(t.results[response], about).map((v) => model.link.forward(v)));
  // The mean of a trial may lie within a scale that a single value of it does not.
  const places = [...measured.keys()].filter((i) => measured[i].length > 1 && measured[i].every(Number.isFinite));
  const squares = places.map((i) => {
    const mean = measured[i].reduce((t, v) => t + v, 0) / measured[i].length;
    return measured[i].reduce((t, v) => t + (v - mean) ** 2, 0);
  });
  return {
    from: "repeats",
    overWaves: false,
    squares,
    cells: places.map((i, k) => ({
      places: [i],
      orders: [data.trials[i].order],
      n: measured[i].length,
      s: Math.sqrt(squares[k] / (measured[i].length - 1)),
      range: Math.max(...measured[i]) - Math.min(...measured[i]),
      df: measured[i].length - 1,
    })),
  };
}

/**
 * What an s chart shows: the standard deviation of each cell measured again, on the fitted scale, trials run again
 * first, else repeats. What waves stand off is taken out where copies of a cell stand in several.
 *
 * @returns undefined for fewer than two cells or no spread at all
 */
export function copiesOf(study: Study, fit: Fit): Copies | undefined {
  // Counts say themselves how far they scatter.
  const about = responseOf(study, fit.response);
  if (about.spread || !kindOf(about).rescaled) return undefined;
  const rounding = ROUNDING * fit.model.observed.reduce((t, v) => t + v * v, 0);
  for (const from of ["replicates", "repeats"] as const) {
    // Trials alike in different set-ups differ by what set-ups vary by too.
    if (from === "replicates" && fit.model.setups) continue;
    const found = from === "replicates" ? replicates(study, fit) : repeats(fit, about);
    const squares = found.squares.map((ss) => (ss > rounding ? ss : 0));
    const cells = found.cells.map((c, k) => (squares[k] > 0 ? c : { ...c, s: 0, range: 0 }));
    const df = cells.reduce((t, c) => t + c.df, 0);
    const total = squares.reduce((t, v) => t + v, 0);
    if (cells.length < 2 || df < LEAST_IN_ALL - 1e-9 || !(total > 0)) continue;
    const { place } = widest(
      squares,
      cells.map((c) => c.df),
    );
    return { ...found, cells, squares, pooled: Math.sqrt(total / df), worst: cells[place] };
  }
  return undefined;
}
