import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Study, Term } from "../study/schema";
import { type Hierarchy, parentsOf, parentsPresent } from "../terms/candidates";
import { alphabetOf, inModelOrder, ofFactors, termKey } from "../terms/term";
import { type ClearedColumns, clearedColumns } from "./cleared";
import { besideCentre, centreOf } from "./curvature";
import { type Fitting, fittingOf, modelData, responseOf } from "./data";
import { type Fit, fitModel, modelOf } from "./fit";
import { type FittedModel, hasSquares } from "./fitted";

export interface SubsetsOptions extends Partial<Fitting> {
  hierarchy: Hierarchy;
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
  /** Columns of terms; the constant, waves and the centre's column not counted. */
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

/** Whether a term may join a model, by the mask of the terms already in it. */
function hierarchyRule(terms: readonly Term[], hierarchy: Hierarchy): (t: number, chosen: number) => boolean {
  if (hierarchy === "off") return () => true;
  const keys = new Set(terms.map(termKey));
  const parents = terms.map((t) => parentsOf(t).map((p) => terms.findIndex((u) => termKey(u) === termKey(p))));
  // A term that needs a parent which is no candidate can never stand.
  const orphan = terms.map((t, i) => parents[i].some((p) => p < 0) && !parentsPresent(t, keys, hierarchy));
  return (t, chosen) => {
    if (orphan[t]) return false;
    if (terms[t].length < 2) return true;
    const present = parents[t].map((p) => p >= 0 && ((chosen >> p) & 1) === 1);
    return hierarchy === "strong" ? present.every(Boolean) : present.some(Boolean);
  };
}

/** PRESS along a branch of the tree: what is left of each column and of the response, and the leverages, by depth. */
function pressByDepth({ n, total, vectors, baseLeverage }: ClearedColumns, depths: number) {
  const size = total + 1;
  const left = Array.from({ length: depths }, () => new Float64Array(size * n));
  const leverages = Array.from({ length: depths }, () => new Float64Array(n));
  vectors.forEach((v, j) => {
    left[0].set(v, j * n);
  });
  leverages[0].set(baseLeverage);
  return {
    /** Clears what follows of the columns just taken, with the factors that the swept matrix `m` holds. */
    clear(m: Float64Array, from: number, count: number, depth: number): void {
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
    },
    /** PRESS of the model of a depth; undefined where a trial has all its leverage. */
    at(depth: number): number | undefined {
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
    },
  };
}

/** Takes one column out of what follows it in a matrix of products; false when nothing of it is left. */
function sweep(m: Float64Array, size: number, column: number): boolean {
  const pivot = m[column * size + column];
  if (pivot < 1e-9) return false;
  for (let a = column + 1; a < size; a++) {
    const f = m[column * size + a] / pivot;
    if (f === 0) continue;
    for (let b = a; b < size; b++) m[a * size + b] -= f * m[column * size + b];
  }
  return true;
}

/** What the tree found: masks of the best models, by their number of columns. */
interface Found {
  examined: number;
  singular: number;
  byRss: Best[];
  byPress: Best[];
}

/** Walks the tree of models; yields now and then, and sent `true` ends with the best so far. */
function* walkTree(
  cleared: ClearedColumns,
  mayStand: (t: number, chosen: number) => boolean,
  { keep, predicted }: { keep: number; predicted: boolean },
): Generator<SubsetsStep, Found, boolean | undefined> {
  const { n, total, width, firstColumn, dead } = cleared;
  const count = width.length;
  const size = total + 1;
  const most = Math.max(0, n - 2 - cleared.baseRank);
  const bests = () => Array.from({ length: Math.min(total, most) + 1 }, () => new Best(keep));
  const byRss = bests();
  const byPress = bests();
  let examined = 1;
  let singular = 0;
  byRss[0].offer(cleared.products[total * size + total], 0);
  const levels = Array.from({ length: count + 1 }, () => new Float64Array(size * size));
  levels[0].set(cleared.products);
  const press = pressByDepth(cleared, predicted ? count + 1 : 1);
  let stopped = false;
  let clock = performance.now();

  /** Takes a term into the model of a depth; the mask of the new model, or undefined when that cannot be. */
  const take = (next: number, chosen: number, k: number, depth: number): number | undefined => {
    if (k + width[next] > most || dead[next] || !mayStand(next, chosen)) return undefined;
    const m = levels[depth + 1];
    const from = firstColumn[next];
    const upper = levels[depth];
    for (let a = from; a < size; a++) for (let b = a; b < size; b++) m[a * size + b] = upper[a * size + b];
    for (let c = 0; c < width[next]; c++)
      if (!sweep(m, size, from + c)) {
        singular++;
        return undefined;
      }
    examined++;
    const mask = chosen | (1 << next);
    const rss = m[total * size + total];
    byRss[k + width[next]].offer(rss, mask);
    // PRESS is never below RSS: only a model whose RSS could still be among the best by PRESS has it worked out.
    if (!predicted) return mask;
    press.clear(m, from, width[next], depth);
    const sharpest = byPress[k + width[next]];
    if (rss < sharpest.worst) {
      const sum = press.at(depth + 1);
      if (sum !== undefined) sharpest.offer(sum, mask);
    }
    return mask;
  };
  const below = (t: number, chosen: number, k: number, depth: number): void => {
    for (let next = t; next < count; next++) {
      const mask = take(next, chosen, k, depth);
      if (mask !== undefined && next + 1 < count) below(next + 1, mask, k + width[next], depth + 1);
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
    if (count - t <= BRANCH) {
      below(t, chosen, k, depth);
      if (performance.now() - clock > PAUSE) {
        clock = performance.now();
        if (yield { done: 0, text: `${examined.toLocaleString("en")} models looked at` }) stopped = true;
      }
      return;
    }
    for (let next = t; next < count && !stopped; next++) {
      const mask = take(next, chosen, k, depth);
      if (mask !== undefined && next + 1 < count) yield* walk(next + 1, mask, k + width[next], depth + 1);
    }
  }
  yield* walk(0, 0, 0, 0);
  return { examined, singular, byRss, byPress };
}

/** Models of counts that are fitted each by itself; beyond, the nearest by one step are. */
const MOST_FITTED = 70_000;
/** Of so many by one step of every size the deviance is then worked out. */
const SHORT_LIST = 400;

/**
 * The same of counts, which have deviances in place of squares: every model is fitted, with the weights of the largest
 * and from its maximum on. Where there are too many of them, the tree is walked by one step of weighted least squares
 * from the largest model first, and the best of each size are fitted.
 */
function* walkDeviance(
  cleared: ClearedColumns,
  mayStand: (t: number, chosen: number) => boolean,
  full: Fit,
  terms: readonly Term[],
  { keep }: { keep: number },
): Generator<SubsetsStep, Found, boolean | undefined> {
  const { n, width, dead } = cleared;
  const most = Math.max(0, n - 2 - cleared.baseRank);
  const total = width.reduce((t, w) => t + w, 0);
  const byRss = Array.from({ length: Math.min(total, most) + 1 }, () => new Best(keep));
  const byPress = byRss.map(() => new Best(keep));
  const { columns, likelihood } = full.model;
  const base = columns.flatMap((c, j) => (ofFactors(c.term) && c.key !== "" ? [] : [j]));
  const places = terms.map((t) => columns.flatMap((c, j) => (c.key === termKey(t) ? [j] : [])));
  const devianceOf = (mask: number): number =>
    likelihood?.devianceOf([...base, ...places.flatMap((js, t) => ((mask >> t) & 1 ? js : []))]) ??
    Number.POSITIVE_INFINITY;
  const sizeOf = (mask: number): number => width.reduce((t, w, i) => t + ((mask >> i) & 1 ? w : 0), 0);
  let examined = 0;
  let singular = 0;
  let clock = performance.now();
  let masks: number[] = [0];
  let stopped = false;
  for (let next = 0; next < terms.length && masks.length <= MOST_FITTED; next++) {
    if (dead[next] || places[next].length < width[next]) {
      singular += masks.length;
      continue;
    }
    const more = masks.filter((m) => mayStand(next, m) && sizeOf(m) + width[next] <= most).map((m) => m | (1 << next));
    masks = [...masks, ...more];
  }
  if (masks.length > MOST_FITTED) {
    const near = yield* walkTree(cleared, mayStand, { keep: SHORT_LIST, predicted: false });
    masks = near.byRss.flatMap((b) => b.masks);
    singular = near.singular;
  }
  for (const mask of masks) {
    if (stopped) break;
    examined++;
    byRss[sizeOf(mask)].offer(devianceOf(mask), mask);
    if (performance.now() - clock > PAUSE) {
      clock = performance.now();
      if (yield { done: examined / masks.length, text: `${examined.toLocaleString("en")} models fitted` })
        stopped = true;
    }
  }
  return { examined, singular, byRss, byPress };
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
  const wanted = inModelOrder(alphabetOf(study), candidates);
  // Where the centre's column stands in every model it carries what any square would.
  const stands = options.curvature ?? true;
  const terms = besideCentre(wanted, stands ? centreOf(study, modelData(study, response, wanted)) : undefined);
  if (terms.length > MOST_TERMS)
    throw new StudyError("too-many-terms.subsets", { terms: terms.length, most: MOST_TERMS }, ["terms"]);
  const full: Fit = fitModel(study, response, {
    terms,
    ...fittingOf(undefined, options),
  });
  const cleared = clearedColumns(study, full, terms);
  // Left out by trials, set-ups of hard factors would predict themselves: finalists go by their likelihood alone.
  const byPress = terms.length <= FEW_TERMS && !full.model.setups;
  const walking = { keep: options.keep ?? 20, predicted: options.predicted ?? byPress };
  const rule = hierarchyRule(terms, options.hierarchy);
  const found = full.model.likelihood
    ? yield* walkDeviance(cleared, rule, full, terms, walking)
    : yield* walkTree(cleared, rule, walking);
  const memo = new Memo();
  const models: Listed[] = [];
  for (const [size, best] of found.byRss.entries())
    for (const mask of new Set([...best.masks, ...found.byPress[size].masks])) {
      const chosen = terms.filter((_, t) => (mask >> t) & 1);
      const fitted = modelOf(study, response, { terms: chosen, ...full.fitting }, memo);
      const { r2, r2Adjusted, r2Predicted, aicc, bic } = fitted.summary;
      const rss = hasSquares(fitted.summary) ? fitted.summary.rss : null;
      const k = chosen.reduce((w, t) => w + cleared.width[terms.indexOf(t)], 0);
      models.push({ fitted, model: { terms: chosen, k, rss, r2, r2Adjusted, r2Predicted, aicc, bic, weight: 0 } });
    }
  models.sort(
    (a, b) =>
      (a.model.aicc ?? Number.POSITIVE_INFINITY) - (b.model.aicc ?? Number.POSITIVE_INFINITY) || a.model.k - b.model.k,
  );
  return {
    examined: found.examined,
    singular: found.singular,
    models: models.map((m) => m.model),
    average: { coefficients: average(models) },
  };
}

/** A model that is listed, as it was fitted. */
interface Listed {
  model: SubsetModel;
  fitted: FittedModel;
}

/** Sets Akaike weights (exp(−Δ/2), scaled to one, within ten of the best) and averages the coefficients by them. */
function average(models: readonly Listed[]): AveragedCoefficient[] {
  const best = models[0]?.model.aicc;
  if (best === null || best === undefined) return [];
  const near = models.filter((m) => m.model.aicc !== null && m.model.aicc - best <= WITHIN);
  const raw = near.map((m) => Math.exp(-((m.model.aicc as number) - best) / 2));
  const sum = raw.reduce((t, v) => t + v, 0);
  near.forEach((m, i) => {
    m.model.weight = raw[i] / sum;
  });
  const found = new Map<string, { term: Term; level: string | null }>();
  for (const { fitted } of near)
    for (const { term, level } of fitted.columns)
      if (ofFactors(term)) found.set(`${termKey(term)}|${level ?? ""}`, { term, level: level ?? null });
  return [...found].map(([key, { term, level }]) => {
    const rows = near.map(({ model, fitted: { columns, coefficients, covariance, likelihood } }) => {
      const j = columns.findIndex((c) => `${termKey(c.term)}|${c.level ?? ""}` === key);
      if (j < 0) return { weight: model.weight, b: 0, se: 0, has: false };
      const se = covariance && Math.sqrt(covariance.data[j * columns.length + j]);
      return { weight: model.weight, b: (likelihood?.penalised ?? coefficients)[j], se, has: true };
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
