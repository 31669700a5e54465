import { rankReport } from "../numerics/least-squares";
import { StudyError } from "../study/error";
import type { Study, Term, Transform } from "../study/schema";
import { type Hierarchy, parentsOf, parentsPresent } from "../terms/candidates";
import { encoder, modelMatrix, waveColumns } from "../terms/model-matrix";
import { alphabetOf, inModelOrder, termKey } from "../terms/term";
import { responseOf } from "./data";
import { type Fit, fitModel } from "./fit";
import { hasSquares } from "./fitted";

export interface SubsetsOptions {
  hierarchy: Hierarchy;
  transform?: Transform;
  block?: boolean;
  /** Models kept of each size; 20 unless said. */
  keep?: number;
  /**
   * Keep the best by predicted R² too, exactly; unless said for up to eighteen terms, since it costs three times the
   * search.
   */
  predicted?: boolean;
}

/** One model among all subsets. */
export interface SubsetModel {
  terms: Term[];
  /** Columns of terms, the constant and waves not counted. */
  k: number;
  /** Null where the law has no sums of squares. */
  rss: number | null;
  r2: number | null;
  r2Adjusted: number | null;
  r2Predicted: number | null;
  aicc: number | null;
  bic: number | null;
  /** Akaike weight among the models listed that lie within 10 of the best AICc; 0 beyond. */
  weight: number;
}

/** A coefficient averaged over models, zeros for those without it (Burnham & Anderson 2002). */
export interface AveragedCoefficient {
  term: Term;
  level: string | null;
  coefficient: number;
  standardError: number | null;
  /** Sum of the weights of the models that hold the term. */
  evidence: number;
}

export interface SubsetsResult {
  /** Models whose RSS was worked out. */
  examined: number;
  /** Subsets passed over since their columns are not independent. */
  singular: number;
  /** The best of each size and overall, best AICc first. */
  models: SubsetModel[];
  average: { coefficients: AveragedCoefficient[] };
}

export interface SubsetsStep {
  done: number;
  text: string;
}

const MOST_TERMS = 30;
/** Terms up to which the best by predicted R² are looked for unasked. */
const FEW_TERMS = 18;
const WITHIN = 10;
const PAUSE = 40;
/** Undecided terms below which a branch is not interrupted. */
const BRANCH = 12;

/** The lowest RSS of one size with the masks that have it, best first. */
class Best {
  readonly rss: number[] = [];
  readonly masks: number[] = [];
  constructor(private readonly most: number) {}
  /** What a newcomer must stay below. */
  get worst(): number {
    return this.rss.length < this.most ? Number.POSITIVE_INFINITY : this.rss[this.rss.length - 1];
  }
  offer(rss: number, mask: number): void {
    const n = this.rss.length;
    if (n === this.most && rss >= this.rss[n - 1]) return;
    let slot = n;
    while (slot > 0 && this.rss[slot - 1] > rss) slot--;
    this.rss.splice(slot, 0, rss);
    this.masks.splice(slot, 0, mask);
    if (this.rss.length > this.most) {
      this.rss.pop();
      this.masks.pop();
    }
  }
}

/**
 * Every subset of the candidates that the hierarchy allows, exactly: a tree over the terms, parents before children,
 * in which taking a term sweeps its columns out of what remains of the correlation matrix (after Furnival & Wilson
 * 1974), so that a model costs only the columns still to be decided. The best of each size by RSS, and so by every
 * criterion that falls with it, and by PRESS, bounded from below by RSS, are refitted by QR.
 *
 * Sizes go to n − 2 columns in all. Sent `true` it ends with the best so far.
 * @throws StudyError for more than thirty terms, or as `fitModel`
 */
export function* searchSubsets(
  study: Study,
  response: string,
  candidates: readonly Term[],
  options: SubsetsOptions,
): Generator<SubsetsStep, SubsetsResult, boolean | undefined> {
  responseOf(study, response);
  const alphabet = alphabetOf(study);
  const terms = inModelOrder(alphabet, candidates);
  if (terms.length > MOST_TERMS)
    throw new StudyError(
      "too-many-terms",
      `${terms.length} candidate terms are more than all subsets can be searched of; name at most ${MOST_TERMS}.`,
      ["terms"],
    );
  const full: Fit = fitModel(study, response, {
    terms,
    ...(options.transform === undefined ? {} : { transform: options.transform }),
    ...(options.block === undefined ? {} : { block: options.block }),
  });
  const { data, model } = full;
  const n = model.observed.length;
  const waves = (options.block ?? true) ? waveColumns(data.waves, new Map()) : undefined;
  const encoded = encoder(study, terms, "sum", model.covariateRanges);
  const whole = modelMatrix(encoded, data.actual, waves);
  const { columns } = whole;
  const matrix = model.whiten(whole.matrix);
  const base = 1 + (waves?.columns.length ?? 0);
  const baseRank = rankReport({
    rows: n,
    cols: base,
    data: Float64Array.from(
      { length: n * base },
      (_, i) => matrix.data[Math.floor(i / base) * matrix.cols + (i % base)],
    ),
  }).rank;
  // Columns and response cleared of constant and waves, then scaled to length one.
  const basis: Float64Array[] = [];
  const cleared = (v: Float64Array): { v: Float64Array; length: number; was: number } => {
    let was = 0;
    for (const x of v) was += x * x;
    for (let pass = 0; pass < 2; pass++)
      for (const q of basis) {
        let dot = 0;
        for (let i = 0; i < n; i++) dot += q[i] * v[i];
        for (let i = 0; i < n; i++) v[i] -= dot * q[i];
      }
    let length = 0;
    for (const x of v) length += x * x;
    return { v, length: Math.sqrt(length), was: Math.sqrt(was) };
  };
  const columnAt = (j: number): Float64Array =>
    Float64Array.from({ length: n }, (_, i) => matrix.data[i * matrix.cols + j]);
  for (let j = 0; j < base; j++) {
    const c = cleared(columnAt(j));
    if (c.length > 1e-10 * (c.was || 1)) basis.push(c.v.map((x) => x / c.length));
  }
  const termColumns: { term: number; v: Float64Array }[] = [];
  const dead = new Set<number>();
  for (let j = base; j < columns.length; j++) {
    const term = terms.findIndex((t) => termKey(t) === columns[j].key);
    const c = cleared(columnAt(j));
    if (c.length <= 1e-10 * (c.was || 1)) dead.add(term);
    termColumns.push({ term, v: c.length > 0 ? c.v.map((x) => x / c.length) : c.v });
  }
  const y = cleared(model.whiten({ rows: n, cols: 1, data: Float64Array.from(model.observed) }).data);
  const width = terms.map((_, t) => termColumns.filter((c) => c.term === t).length);
  const total = termColumns.length;
  const size = total + 1;
  const start = new Float64Array(size * size);
  const all = [...termColumns.map((c) => c.v), y.v];
  for (let a = 0; a < size; a++)
    for (let b = 0; b < size; b++) {
      let dot = 0;
      for (let i = 0; i < n; i++) dot += all[a][i] * all[b][i];
      start[a * size + b] = dot;
    }
  const most = Math.max(0, n - 2 - baseRank);
  const kept = Array.from({ length: Math.min(total, most) + 1 }, () => new Best(options.keep ?? 20));
  /** The same by PRESS, which predicted R² goes by. */
  const sharpest = Array.from({ length: Math.min(total, most) + 1 }, () => new Best(options.keep ?? 20));
  const predicted = options.predicted ?? terms.length <= FEW_TERMS;
  const baseLeverage = Float64Array.from({ length: n }, (_, i) => basis.reduce((t, q) => t + q[i] ** 2, 0));
  /** By depth: what is left of each column and of the response (size × n), and the leverages so far. */
  const left = Array.from({ length: terms.length + 1 }, () => new Float64Array(size * n));
  const leverages = Array.from({ length: terms.length + 1 }, () => new Float64Array(n));
  all.forEach((v, j) => {
    left[0].set(v, j * n);
  });
  leverages[0].set(baseLeverage);
  /** Clears what follows of the columns just taken, with the factors that the swept matrix holds. */
  const clear = (from: number, count: number, depth: number): void => {
    const m = levels[depth + 1];
    const source = left[depth];
    const target = left[depth + 1];
    const lever = leverages[depth + 1];
    for (let c = from; c < from + count; c++) {
      const read = c === from ? source : target;
      const before = c === from ? leverages[depth] : lever;
      const pivot = 1 / m[c * size + c];
      const offset = c * n;
      for (let i = 0; i < n; i++) {
        const v = read[offset + i];
        lever[i] = before[i] + v * v * pivot;
      }
      for (let a = c + 1; a < size; a++) {
        const f = m[c * size + a] * pivot;
        const o = a * n;
        for (let i = 0; i < n; i++) target[o + i] = read[o + i] - f * read[offset + i];
      }
    }
  };
  /** PRESS of the model of a depth; undefined where a trial has all its leverage. */
  const pressAt = (depth: number): number | undefined => {
    const lever = leverages[depth];
    const errors = left[depth];
    const o = total * n;
    let press = 0;
    let least = 1;
    for (let i = 0; i < n; i++) {
      const rest = 1 - lever[i];
      if (rest < least) least = rest;
      const e = errors[o + i] / rest;
      press += e * e;
    }
    return least < 1e-8 ? undefined : press;
  };
  const parents = terms.map((t) => parentsOf(t).map((p) => terms.findIndex((u) => termKey(u) === termKey(p))));
  /** Candidates whose every needed parent is no candidate can never stand under hierarchy. */
  const orphan = terms.map(
    (t, i) =>
      options.hierarchy !== "off" &&
      parents[i].some((p) => p < 0) &&
      !parentsPresent(t, new Set(terms.map(termKey)), options.hierarchy),
  );
  const levels = Array.from({ length: terms.length + 1 }, () => new Float64Array(size * size));
  levels[0].set(start);
  let examined = 0;
  let singular = 0;
  let stopped = false;
  let clock = performance.now();
  kept[0]?.offer(start[total * size + total], 0);
  examined++;

  /** Takes one column out of what follows it; false when nothing of it is left. */
  const sweep = (m: Float64Array, column: number): boolean => {
    const pivot = m[column * size + column];
    if (pivot < 1e-9) return false;
    for (let a = column + 1; a < size; a++) {
      const f = m[column * size + a] / pivot;
      if (f === 0) continue;
      for (let b = a; b < size; b++) m[a * size + b] -= f * m[column * size + b];
    }
    return true;
  };
  const firstColumn = terms.map((_, t) => termColumns.findIndex((c) => c.term === t));
  const mayStand = (t: number, chosen: number): boolean => {
    if (dead.has(t) || orphan[t]) return false;
    if (options.hierarchy === "off" || terms[t].length < 2) return true;
    const present = parents[t].map((p) => p >= 0 && ((chosen >> p) & 1) === 1);
    return options.hierarchy === "strong" ? present.every(Boolean) : present.some(Boolean);
  };
  /** Takes term `at` into the model of a depth; the mask of the new model, or undefined when that cannot be. */
  const take = (next: number, chosen: number, k: number, depth: number): number | undefined => {
    if (k + width[next] > most || !mayStand(next, chosen)) return undefined;
    const m = levels[depth + 1];
    const from = firstColumn[next];
    const upper = levels[depth];
    for (let a = from; a < size; a++) for (let b = a; b < size; b++) m[a * size + b] = upper[a * size + b];
    for (let c = 0; c < width[next]; c++)
      if (!sweep(m, from + c)) {
        singular++;
        return undefined;
      }
    examined++;
    const mask = chosen | (1 << next);
    const rss = m[total * size + total];
    kept[k + width[next]].offer(rss, mask);
    // PRESS is never below RSS: only a model whose RSS could still be among the best by PRESS has it worked out.
    if (!predicted) return mask;
    clear(from, width[next], depth);
    const byPress = sharpest[k + width[next]];
    if (rss < byPress.worst) {
      const press = pressAt(depth + 1);
      if (press !== undefined) byPress.offer(press, mask);
    }
    return mask;
  };
  const below = (t: number, chosen: number, k: number, depth: number): void => {
    for (let next = t; next < terms.length; next++) {
      const mask = take(next, chosen, k, depth);
      if (mask !== undefined && next + 1 < terms.length) below(next + 1, mask, k + width[next], depth + 1);
    }
  };
  // The upper part of the tree can be interrupted; the many small branches below run through in a few milliseconds
  // each.
  function* walk(
    t: number,
    chosen: number,
    k: number,
    depth: number,
  ): Generator<SubsetsStep, void, boolean | undefined> {
    if (terms.length - t <= BRANCH) {
      below(t, chosen, k, depth);
      if (performance.now() - clock > PAUSE) {
        clock = performance.now();
        if (yield { done: 0, text: `${examined.toLocaleString("en")} models looked at` }) stopped = true;
      }
      return;
    }
    for (let next = t; next < terms.length && !stopped; next++) {
      const mask = take(next, chosen, k, depth);
      if (mask !== undefined && next + 1 < terms.length) yield* walk(next + 1, mask, k + width[next], depth + 1);
    }
  }
  yield* walk(0, 0, 0, 0);

  const models: { model: SubsetModel; fit: Fit }[] = [];
  for (const [size, best] of kept.entries())
    for (const mask of new Set([...best.masks, ...sharpest[size].masks])) {
      const chosen = terms.filter((_, t) => (mask >> t) & 1);
      const fit = fitModel(study, response, { terms: chosen, transform: full.transform, block: full.block });
      const { r2, r2Adjusted, r2Predicted, aicc, bic } = fit.summary;
      const rss = hasSquares(fit.summary) ? fit.summary.rss : null;
      const k = chosen.reduce((w, t) => w + width[terms.indexOf(t)], 0);
      models.push({ fit, model: { terms: chosen, k, rss, r2, r2Adjusted, r2Predicted, aicc, bic, weight: 0 } });
    }
  models.sort(
    (a, b) =>
      (a.model.aicc ?? Number.POSITIVE_INFINITY) - (b.model.aicc ?? Number.POSITIVE_INFINITY) || a.model.k - b.model.k,
  );
  return { examined, singular, models: models.map((m) => m.model), average: { coefficients: average(models) } };
}

/** Sets Akaike weights (exp(−Δ/2), scaled to one, within ten of the best) and averages the coefficients by them. */
function average(models: readonly { model: SubsetModel; fit: Fit }[]): AveragedCoefficient[] {
  const best = models[0]?.model.aicc;
  if (best === null || best === undefined) return [];
  const near = models.filter((m) => m.model.aicc !== null && m.model.aicc - best <= WITHIN);
  const raw = near.map((m) => Math.exp(-((m.model.aicc as number) - best) / 2));
  const sum = raw.reduce((t, v) => t + v, 0);
  near.forEach((m, i) => {
    m.model.weight = raw[i] / sum;
  });
  const found = new Map<string, { term: Term; level: string | null }>();
  for (const { fit } of near)
    for (const p of fit.parameters)
      if (p.term[0] !== "@wave")
        found.set(`${termKey(p.term)}|${p.level ?? ""}`, {
          term: p.term,
          level: p.level ?? null,
        });
  return [...found].map(([key, { term, level }]) => {
    const rows = near.map(({ model, fit }) => {
      const p = fit.parameters.find((q) => `${termKey(q.term)}|${q.level ?? ""}` === key);
      return { weight: model.weight, b: p?.coefficient ?? 0, se: p ? p.standardError : 0, has: p !== undefined };
    });
    const coefficient = rows.reduce((t, r) => t + r.weight * r.b, 0);
    const errors = rows.every((r) => r.se !== null);
    return {
      term,
      level,
      coefficient,
      standardError: errors
        ? Math.sqrt(rows.reduce((t, r) => t + r.weight * ((r.se as number) ** 2 + (r.b - coefficient) ** 2), 0))
        : null,
      evidence: rows.reduce((t, r) => t + (r.has ? r.weight : 0), 0),
    };
  });
}
