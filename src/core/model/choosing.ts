import { fUpper } from "../numerics/distributions";
import type { Criterion } from "./reduce";

/** Columns of candidates and results as sums of products, what always stands in taken out. */
export interface Products {
  /** (P + 1)², the results last: what is left of X′X, X′y and y′y beside the columns that always stand in. */
  cross: Float64Array;
  /** Places of each term's columns among the P. */
  columns: readonly (readonly number[])[];
  /** Places of each term's parents among the terms, as hierarchy asks for them. */
  parents: readonly (readonly number[])[];
  /** Trials, and columns that always stand in. */
  trials: number;
  standing: number;
}

export interface Rule {
  by: Criterion;
  /** p to stay or to come in; ignored by the criteria. */
  alpha: number;
  /** p to stay of terms that are made of no others, where it is another. */
  mains?: number;
  /** Residual degrees of freedom that the way may not go below. */
  leastDf: number;
}

/** Share of a column's squares below which nothing is left of it beside the others. */
const NOTHING = 1e-9;

/** AICc or BIC of some squares on p columns; as a fit has them, the variance counted. */
function criterionOf(by: "aicc" | "bic", n: number, rss: number, p: number): number {
  const k = p + 1;
  if (by === "bic") return n * Math.log(rss / n) + k * Math.log(n);
  return n <= k + 1 ? Number.POSITIVE_INFINITY : n * Math.log(rss / n) + 2 * k + (2 * k * (k + 1)) / (n - k - 1);
}

/**
 * A choosing of terms by sweeps (Goodnight 1979): a column swept in is in the model, swept again it is out, and what is
 * left of the results stands in the corner. The same choice as refits term by term, at a small part of their price, so
 * that it can be repeated on many draws.
 */
class Choosing {
  private readonly m: Float64Array;
  private readonly width: number;
  private readonly own: Float64Array;
  readonly inside: boolean[];
  private columnsIn: number;

  constructor(
    private readonly products: Products,
    private readonly rule: Rule,
  ) {
    this.m = products.cross.slice();
    this.width = Math.round(Math.sqrt(this.m.length));
    this.own = Float64Array.from({ length: this.width }, (_, j) => this.m[j * this.width + j]);
    this.inside = products.columns.map(() => false);
    this.columnsIn = products.standing;
  }

  private sweep(j: number): void {
    const { m, width: w } = this;
    const pivot = m[j * w + j];
    for (let i = 0; i < w; i++) {
      if (i === j) continue;
      const factor = m[i * w + j] / pivot;
      if (factor === 0) continue;
      for (let k = 0; k < w; k++) if (k !== j) m[i * w + k] -= factor * m[j * w + k];
    }
    for (let k = 0; k < w; k++) {
      if (k === j) continue;
      m[j * w + k] /= pivot;
      m[k * w + j] /= -pivot;
    }
    m[j * w + j] = 1 / pivot;
  }

  private move(term: number, into: boolean): void {
    for (const j of this.products.columns[term]) this.sweep(j);
    this.inside[term] = into;
    this.columnsIn += (into ? 1 : -1) * this.products.columns[term].length;
  }

  get rss(): number {
    return Math.max(0, this.m[this.m.length - 1]);
  }

  /** Squares that a term takes with it as it leaves, or takes up as it comes in; none where nothing is left of it. */
  private squares(term: number, into: boolean): number | undefined {
    const { width: w } = this;
    const places = this.products.columns[term];
    if (places.length === 1) {
      const [j] = places;
      const pivot = this.m[j * w + j];
      if (into && !(pivot > NOTHING * this.own[j])) return undefined;
      // In: its coefficient squared over its part of the inverse; out: what is left along it.
      const along = this.m[j * w + w - 1];
      return (along * along) / pivot;
    }
    const before = this.rss;
    const kept = this.m.slice();
    let ok = true;
    for (const j of places) {
      if (into && !(this.m[j * w + j] > NOTHING * this.own[j])) {
        ok = false;
        break;
      }
      this.sweep(j);
    }
    const after = this.rss;
    this.m.set(kept);
    return ok ? Math.abs(before - after) : undefined;
  }

  /** How far leaving or coming in is called for: the least, or lowest, of all moves is taken where it is below `bar`. */
  private value(term: number, into: boolean): number | undefined {
    const ss = this.squares(term, into);
    if (ss === undefined) return undefined;
    const { by } = this.rule;
    const { trials: n } = this.products;
    const q = this.products.columns[term].length;
    const p = this.columnsIn + (into ? q : 0);
    const rss = into ? Math.max(0, this.rss - ss) : this.rss;
    if (by === "p") {
      const { alpha, mains = alpha } = this.rule;
      // On the scale of the others, where main effects have a level of their own.
      const times = this.products.parents[term].length === 0 ? alpha / mains : 1;
      return n - p < 1 || rss === 0 ? undefined : times * fUpper(ss / q / (rss / (n - p)), q, n - p);
    }
    return criterionOf(by, n, into ? rss : this.rss + ss, into ? p : p - q);
  }

  private present(): number {
    const { by } = this.rule;
    return by === "p" ? this.rule.alpha : criterionOf(by, this.products.trials, this.rss, this.columnsIn);
  }

  backward(): void {
    const { parents } = this.products;
    this.inside.forEach((_, t) => {
      this.move(t, true);
    });
    for (;;) {
      const needed = new Set(this.inside.flatMap((is, t) => (is ? parents[t] : [])));
      let best: { term: number; value: number } | undefined;
      this.inside.forEach((is, term) => {
        if (!is || needed.has(term)) return;
        const value = this.value(term, false);
        if (value === undefined) return;
        const worse = best === undefined || (this.rule.by === "p" ? value > best.value : value < best.value);
        if (worse) best = { term, value };
      });
      if (!best || (this.rule.by === "p" ? best.value <= this.rule.alpha : best.value >= this.present())) return;
      this.move(best.term, false);
    }
  }

  forward(): void {
    const { parents, columns, trials } = this.products;
    for (;;) {
      let best: { term: number; value: number } | undefined;
      this.inside.forEach((is, term) => {
        if (is || !parents[term].every((p) => this.inside[p])) return;
        if (trials - this.columnsIn - columns[term].length < this.rule.leastDf) return;
        const value = this.value(term, true);
        if (value !== undefined && (best === undefined || value < best.value)) best = { term, value };
      });
      if (!best || (this.rule.by === "p" ? best.value > this.rule.alpha : best.value >= this.present())) return;
      this.move(best.term, true);
    }
  }
}

/**
 * Terms chosen by a rule under their hierarchy: backward from all of them, forward from none where all would leave
 * fewer degrees of freedom than the rule asks for.
 *
 * @returns which terms stay, and what they leave of the results
 */
export function choose(products: Products, rule: Rule): { kept: boolean[]; rss: number; forward: boolean } {
  const choosing = new Choosing(products, rule);
  const all = products.columns.reduce((t, c) => t + c.length, products.standing);
  const forward = products.trials - all < rule.leastDf;
  if (forward) choosing.forward();
  else choosing.backward();
  return { kept: choosing.inside, rss: choosing.rss, forward };
}
