import { pickColumns, zeros } from "../numerics/least-squares";
import { constantWithin, groupingOf } from "../numerics/mixed";
import { code, isNumeric, plannedRange } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Factor, Study, Term } from "../study/schema";
import { encoder, modelMatrix } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import {
  chainsOf,
  findRegular,
  generateWords,
  type RegularPlan,
  wordLength,
  wordLengthPattern,
  wordText,
} from "./defining-words";
import type { PointModel, Points } from "./terms-info";

/** Aliasing of a regular two-level plan in factor ids. */
export interface Regular {
  factors: Factor[];
  plan: RegularPlan;
  resolution: number | null;
  definingRelation: string[];
  wordLengthPattern: number[];
}

/**
 * Sees the points as corners of a two-level plan: bits per run for the factors that vary, or undefined when a run
 * is neither at a corner nor at the centre of its wave's ranges.
 */
function cornerRows(study: Study, points: Points): { rows: number[]; waves: string[]; factors: Factor[] } | undefined {
  const factors = activeFactors(study);
  const signs: number[][] = [];
  const waves: string[] = [];
  for (let i = 0; i < points.settings.length; i++) {
    const settings = points.settings[i];
    const row = factors.map((f) => {
      if (!isNumeric(f)) return f.levels.length === 2 ? (settings[f.id] === f.levels[1] ? 1 : -1) : Number.NaN;
      const range = plannedRange(study, points.waves[i], f);
      const x = code(f, settings[f.id] as number, range);
      const slack = f.kind === "continuous" && f.step !== undefined ? Math.min(0.5, f.step / (range[1] - range[0])) : 0;
      return Math.abs(Math.abs(x) - 1) <= 1e-9 + slack ? Math.sign(x) : Math.abs(x) <= slack + 1e-9 ? 0 : Number.NaN;
    });
    const numeric = row.filter((_, j) => isNumeric(factors[j]));
    if (numeric.length > 0 && numeric.every((v) => v === 0)) continue;
    if (row.some((v) => v === 0 || Number.isNaN(v))) return undefined;
    signs.push(row);
    waves.push(points.waves[i]);
  }
  if (signs.length === 0) return undefined;
  const varying = factors.map((_, j) => signs.some((s) => s[j] !== signs[0][j]));
  const kept = factors.filter((_, j) => varying[j]);
  if (kept.length === 0 || kept.length > 30) return undefined;
  const changing = factors.map((_, j) => j).filter((j) => varying[j]);
  return {
    rows: signs.map((s) => changing.reduce((m, j, bit) => (s[j] > 0 ? m | (1 << bit) : m), 0)),
    waves,
    factors: kept,
  };
}

/** Effects of more factors than this are not looked at beside differences between blocks. */
const MOST_OF_BLOCKS = 4;
/** … nor beyond this many. */
const MOST_MASKS = 5000;

/**
 * Effects of a two-level plan that differences between its waves cannot be told from: one value within every wave,
 * another in another. Those of up to three factors, where there are any, else those of four.
 */
export function effectsOfBlocks(study: Study, points: Points): Term[] {
  const corners = cornerRows(study, points);
  if (!corners || new Set(corners.waves).size < 2) return [];
  const { rows, waves, factors } = corners;
  const sideOf = (mask: number, row: number): number => wordLength(mask & row) & 1;
  const goesWithWaves = (mask: number): boolean => {
    const sides = new Map<string, number>();
    for (const [i, row] of rows.entries()) {
      const side = sideOf(mask, row);
      if ((sides.get(waves[i]) ?? side) !== side) return false;
      sides.set(waves[i], side);
    }
    return new Set(sides.values()).size > 1;
  };
  let looked = 0;
  const found: number[] = [];
  const grow = (from: number, mask: number, left: number): void => {
    for (let j = from; j < factors.length && looked < MOST_MASKS; j++) {
      const next = mask | (1 << j);
      if (left > 1) grow(j + 1, next, left - 1);
      else if (++looked && goesWithWaves(next)) found.push(next);
    }
  };
  for (let size = 1; size <= MOST_OF_BLOCKS && (size < MOST_OF_BLOCKS || found.length === 0); size++) grow(0, 0, size);
  return found.map((mask) => factors.filter((_, j) => mask & (1 << j)).map((f) => f.id));
}

/** The defining relation of the points, if they are a regular two-level plan (centre points apart). */
export function regularOf(study: Study, points: Points): Regular | undefined {
  const corners = cornerRows(study, points);
  if (!corners) return undefined;
  const plan = findRegular(corners.rows, corners.factors.length);
  // The whole group is listed; past sixteen generators it is too large to be of use to anybody.
  if (!plan || plan.basis.length > 16) return undefined;
  const words = generateWords(plan.basis);
  return {
    factors: corners.factors,
    plan,
    resolution: words.length === 0 ? null : wordLength(words[0].mask),
    definingRelation: words.map((w) =>
      wordText(
        w,
        corners.factors.map((f) => f.letter),
      ),
    ),
    wordLengthPattern: wordLengthPattern(words, corners.factors.length),
  };
}

/** An effect of a chain with its sign against the first. */
export interface ChainMember {
  term: Term;
  sign: 1 | -1;
}

/**
 * Alias chains among main effects and interactions up to an order, main effects first; chains of one left out.
 */
export function aliasChains(regular: Regular, order = 2): ChainMember[][] {
  const k = regular.factors.length;
  const masks: number[] = [];
  const grow = (from: number, mask: number, left: number): void => {
    for (let j = from; j < k; j++) {
      const next = mask | (1 << j);
      if (left === 1) masks.push(next);
      else grow(j + 1, next, left - 1);
    }
  };
  for (let size = 1; size <= order; size++) grow(0, 0, size);
  const termOf = (mask: number): Term => regular.factors.filter((_, j) => mask & (1 << j)).map((f) => f.id);
  return chainsOf(regular.plan, masks)
    .filter((c) => c.members.length > 1 && !c.constant)
    .map((c) => c.members.map((m) => ({ term: termOf(m.mask), sign: m.sign })));
}

/** How much of each possible term stands in the estimate of each column of the model. */
export interface AliasMatrix {
  rows: Term[];
  /** Level of each row's column, for terms with categories. */
  rowLevels: (string | null)[];
  columns: Term[];
  columnLevels: (string | null)[];
  values: number[][];
  /** trace(A′A). */
  trace: number;
}

/**
 * Alias matrix A = (X₁′V⁻¹X₁)⁻¹X₁′V⁻¹X₂ (Box & Wilson 1951; V = I without set-ups): rows the model's columns but
 * waves, columns the possible terms.
 */
export function aliasMatrix(study: Study, points: Points, model: PointModel, possible: readonly Term[]): AliasMatrix {
  const encoded = encoder(study, possible);
  const { matrix: all } = modelMatrix(encoded, points.settings);
  const x2 = model.whiten(pickColumns(all, encoded.columns.map((_, j) => j).slice(1)));
  const x1 = model.whiten(pickColumns(model.matrix, model.rank.kept));
  const p = x1.cols;
  const cross = zeros(p, x2.cols);
  for (let i = 0; i < x1.rows; i++)
    for (let a = 0; a < p; a++) {
      const v = x1.data[i * p + a];
      if (v !== 0) for (let b = 0; b < x2.cols; b++) cross.data[a * x2.cols + b] += v * x2.data[i * x2.cols + b];
    }
  const rows: Term[] = [];
  const rowLevels: (string | null)[] = [];
  const values: number[][] = [];
  let trace = 0;
  for (let a = 0; a < p; a++) {
    if (model.kept[a].key === "@wave") continue;
    const row = new Array<number>(x2.cols).fill(0);
    for (let c = 0; c < p; c++) {
      const v = model.inverse.data[a * p + c];
      if (v !== 0) for (let b = 0; b < x2.cols; b++) row[b] += v * cross.data[c * x2.cols + b];
    }
    // Rounding noise of exact designs is not aliasing.
    const clean = row.map((v) => (Math.abs(v) < 1e-12 ? 0 : v));
    trace += clean.reduce((t, v) => t + v * v, 0);
    rows.push(model.kept[a].term);
    rowLevels.push(model.kept[a].level ?? null);
    values.push(clean);
  }
  const others = encoded.columns.slice(1);
  return {
    rows,
    rowLevels,
    columns: others.map((c) => c.term),
    columnLevels: others.map((c) => c.level ?? null),
    values,
    trace,
  };
}

export type TermState = "clear" | "shared" | "lost";

/** What a set of points can say of each candidate term. */
export interface TermMapEntry {
  term: Term;
  state: TermState;
  /** Largest correlation with another candidate, 0 … 1. */
  largest: number;
  with: Term[];
  /** Only set-ups of the hard factors tell it: it is one value within every set-up. */
  between?: true;
}

interface TermBlock {
  term: Term;
  /** Columns centred within waves, made orthonormal: n × r. */
  basis: Float64Array[];
  width: number;
}

/** Candidate columns centred and adjusted for waves, each term's made orthonormal by twice-repeated Gram–Schmidt. */
function termBlocks(study: Study, points: Points, candidates: readonly Term[]): TermBlock[] {
  const n = points.settings.length;
  const encoded = encoder(study, candidates);
  const { matrix } = modelMatrix(encoded, points.settings);
  const waves = [...new Set(points.waves)];
  const groups = waves.map((w) => points.waves.flatMap((v, i) => (v === w ? [i] : [])));
  const byTerm = new Map<string, Float64Array[]>();
  encoded.columns.forEach((column, j) => {
    if (j === 0) return;
    const v = new Float64Array(n);
    let norm = 0;
    for (let i = 0; i < n; i++) {
      v[i] = matrix.data[i * matrix.cols + j];
      norm += v[i] ** 2;
    }
    for (const group of groups) {
      const mean = group.reduce((t, i) => t + v[i], 0) / group.length;
      for (const i of group) v[i] -= mean;
    }
    const basis = byTerm.get(column.key) ?? [];
    for (let pass = 0; pass < 2; pass++)
      for (const q of basis) {
        let dot = 0;
        for (let i = 0; i < n; i++) dot += q[i] * v[i];
        for (let i = 0; i < n; i++) v[i] -= dot * q[i];
      }
    const rest = Math.sqrt(v.reduce((t, x) => t + x * x, 0));
    if (rest > 1e-9 * Math.sqrt(norm)) basis.push(v.map((x) => x / rest));
    byTerm.set(column.key, basis);
  });
  const widths = new Map<string, number>();
  for (const c of encoded.columns) widths.set(c.key, (widths.get(c.key) ?? 0) + 1);
  return candidates.map((term) => ({
    term,
    basis: byTerm.get(termKey(term)) ?? [],
    width: widths.get(termKey(term)) ?? 1,
  }));
}

/** Largest canonical correlation of two orthonormal blocks: the largest singular value of their product. */
function canonical(a: TermBlock, b: TermBlock): number {
  if (a.basis.length === 0 || b.basis.length === 0) return 0;
  const product = a.basis.map((u) =>
    b.basis.map((v) => {
      let dot = 0;
      for (let i = 0; i < u.length; i++) dot += u[i] * v[i];
      return dot;
    }),
  );
  if (product.length === 1 && product[0].length === 1) return Math.min(1, Math.abs(product[0][0]));
  // Power iteration on M′M from a fixed start: a handful of columns, so it settles in a few rounds.
  const width = product[0].length;
  let v = Array.from({ length: width }, (_, j) => 1 + j * 0.37);
  let size = 0;
  for (let round = 0; round < 200; round++) {
    const u = product.map((row) => row.reduce((t, x, j) => t + x * v[j], 0));
    const next = Array.from({ length: width }, (_, j) => product.reduce((t, row, i) => t + row[j] * u[i], 0));
    const norm = Math.hypot(...next);
    if (norm < 1e-18) return 0;
    v = next.map((x) => x / norm);
    const now = Math.sqrt(norm);
    if (Math.abs(now - size) < 1e-13) {
      size = now;
      break;
    }
    size = now;
  }
  return Math.min(1, size);
}

/**
 * Correlations between candidate terms after centring and adjusting for waves; largest canonical one for wide terms.
 */
export function correlations(
  study: Study,
  points: Points,
  candidates: readonly Term[],
): { terms: Term[]; values: number[][]; constant: boolean[] } {
  const blocks = termBlocks(study, points, candidates);
  const values = blocks.map(() => new Array<number>(blocks.length).fill(0));
  for (let i = 0; i < blocks.length; i++) {
    values[i][i] = 1;
    for (let j = i + 1; j < blocks.length; j++) {
      const r = canonical(blocks[i], blocks[j]);
      values[i][j] = values[j][i] = r < 1e-12 ? 0 : r > 1 - 1e-10 ? 1 : r;
    }
  }
  return { terms: [...candidates], values, constant: blocks.map((b) => b.basis.length < b.width) };
}

/** Term map: clear, shared or lost for each candidate against all the others. */
export function termMap(table: ReturnType<typeof correlations>): TermMapEntry[] {
  return table.terms.map((term, i) => {
    let largest = 0;
    table.values[i].forEach((r, j) => {
      if (j !== i) largest = Math.max(largest, r);
    });
    const along = largest <= 0.05 ? [] : table.terms.filter((_, j) => j !== i && table.values[i][j] > largest - 1e-9);
    const state = table.constant[i] || largest >= 1 ? "lost" : largest <= 0.05 ? "clear" : "shared";
    return { term, state, largest, with: along };
  });
}

/** A term map that says which effects only set-ups tell. */
export function withStrata(study: Study, points: Points, map: TermMapEntry[]): TermMapEntry[] {
  if (!points.setups || new Set(points.setups).size === points.setups.length) return map;
  const encoded = encoder(
    study,
    map.map((m) => m.term),
  );
  const constant = constantWithin(groupingOf(points.setups), modelMatrix(encoded, points.settings).matrix);
  const between = new Set(encoded.columns.flatMap((c, j) => (constant[j] ? [c.key] : [])));
  return map.map((m) => (between.has(termKey(m.term)) ? { ...m, between: true } : m));
}
