import { detectable } from "../appraisal/power";
import type { CheckId } from "../messages/checks";
import { digamma, fQuantile, normalCdf, tTwoSided } from "../numerics/distributions";
import { clearOf } from "../numerics/least-squares";
import type { Random } from "../numerics/random";
import { code, isNumeric, significance } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Study } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import { type Copies, copiesOf, widest } from "./copies";
import { andersonDarling, brownForsythe, comparable, durbinWatson, koenker, runsOf } from "./errors";
import type { Fit } from "./fit";
import { FULL_LEVERAGE, type Repetition } from "./fitted";
import { columnsOfCells } from "./residual-split";

/** Residual degrees of freedom below which nothing is said of the errors. */
export const LEAST_CHECKED = 3;
/** Power with which what a null answer says would have been seen. */
export const SEEN = 0.8;

/** Groups of a factor whose errors are compared: planned levels with three trials or more. */
export interface SpreadByFactor {
  factor: string;
  groups: { label: string; places: number[] }[];
}

/** Places of trials by the planned level of each factor; numeric ones by their coded half, the middle left out. */
export function groupsByFactor(study: Study, fit: Fit, kept: readonly boolean[]): SpreadByFactor[] {
  return activeFactors(study).flatMap((f): SpreadByFactor[] => {
    const groups = new Map<string, number[]>();
    fit.data.planned.forEach((s, i) => {
      if (!kept[i]) return;
      const value = s[f.id];
      const x = isNumeric(f) ? code(f, value as number) : 0;
      if (isNumeric(f) && Math.abs(x) < 0.1) return;
      const label = isNumeric(f) ? (x < 0 ? "low" : "high") : String(value);
      groups.set(label, [...(groups.get(label) ?? []), i]);
    });
    const used = [...groups].filter(([, places]) => places.length >= 3).map(([label, places]) => ({ label, places }));
    return used.length < 2 ? [] : [{ factor: f.id, groups: used }];
  });
}

/** A column that may be missing from a model: what is new in it, at length one, and how long that was. */
export interface MissingColumn {
  /** The factors whose squares coincide in it; none for the centre. */
  together: string[];
  unit: Float64Array;
  length: number;
}

function missing(fit: Fit, column: ArrayLike<number>, together: string[]): MissingColumn[] {
  const left = fit.model.left(column);
  if (!left) return [];
  const size = (v: ArrayLike<number>): number => Math.sqrt(Array.from(v).reduce((t, x) => t + x * x, 0));
  const length = size(left);
  return length > 1e-7 * size(column) ? [{ together, unit: left.map((x) => x / length), length }] : [];
}

/**
 * The squares of numeric factors that are not in a model and that its trials can tell; those that coincide once. Where
 * one column of the centre stands for them all, that column while it is out of the model.
 */
export function missingBends(study: Study, fit: Fit): MissingColumn[] {
  if (fit.centre) return fit.fitting.curvature ? [] : missing(fit, fit.centre, []);
  const keys = new Set(fit.terms.map(termKey));
  const found: { together: string[]; column: Float64Array }[] = [];
  for (const f of activeFactors(study)) {
    if (!isNumeric(f) || keys.has(termKey([f.id, f.id]))) continue;
    const encoded = encoder(study, [[f.id, f.id]]);
    const row = new Float64Array(2);
    const column = Float64Array.from(fit.data.actual, (s) => {
      encoded.row(s, row);
      return row[1];
    });
    const twin = found.find((o) => o.column.every((v, i) => Math.abs(v - column[i]) < 1e-9));
    if (twin) twin.together.push(f.id);
    else found.push({ together: [f.id], column });
  }
  return found.flatMap(({ together, column }) => missing(fit, column, together));
}

/** The size of a coefficient of this standard error that would be seen four times in five. */
export const hiddenSize = (fit: Fit, standardError: number, df: number): number =>
  (detectable({ term: [], df: 1, unit: 1 }, SEEN, significance(fit), df) ?? 0) * standardError;

/** Size, standard error and p of a missing column, added last to the model (Cook & Weisberg 1982, section 2.4). */
export function asAdded(
  fit: Fit,
  { unit, length }: MissingColumn,
): { coefficient: number; standardError: number; p: number; hidden: number } | null {
  const e = fit.model.residuals("scaled");
  const df = fit.summary.residualDf - 1;
  if (df < 1 || fit.model.exact) return null;
  let along = 0;
  let squares = 0;
  for (let i = 0; i < unit.length; i++) {
    along += unit[i] * (e[i] ?? 0);
    squares += (e[i] ?? 0) ** 2;
  }
  const rest = squares - along ** 2;
  if (!(rest > 1e-14 * squares)) return null;
  const standardError = Math.sqrt(rest / df) / length;
  return {
    coefficient: along / length,
    standardError,
    p: tTwoSided(along / length / standardError, df),
    hidden: hiddenSize(fit, standardError, df),
  };
}

/** What the cells of copies have beyond a model, as columns at right angles, where lack of fit can be told. */
function beyondModel(study: Study, fit: Fit): Float64Array[] {
  if (!fit.lackOfFit || fit.lackOfFit.f === null) return [];
  const { rows, cols, data } = columnsOfCells(study, fit.data, fit.model);
  const out: Float64Array[] = [];
  for (let j = 0; j < cols && out.length < fit.lackOfFit.df; j++) {
    const column = Float64Array.from({ length: rows }, (_, i) => data[i * cols + j]);
    const left = fit.model.left(column);
    if (!left) return [];
    for (let pass = 0; pass < 2; pass++) clearOf(out, left);
    const length = Math.sqrt(left.reduce((t, v) => t + v * v, 0));
    if (length > 1e-7 * Math.sqrt(column.reduce((t, v) => t + v * v, 0))) out.push(left.map((v) => v / length));
  }
  return out;
}

/** The slope of the errors on run order, as one more column of the model. */
export function orderColumn(fit: Fit): MissingColumn | undefined {
  return missing(
    fit,
    fit.data.trials.map((t) => t.order),
    [],
  )[0];
}

/**
 * The ratio of standard deviations between two groups of a factor that would be seen four times in five: by F, each
 * group with its share of the residual degrees of freedom.
 */
export function hiddenRatio(fit: Fit, { groups }: SpreadByFactor): number {
  const n = groups.reduce((t, g) => t + g.places.length, 0);
  const [a, b] = [...groups]
    .sort((x, y) => y.places.length - x.places.length)
    .map((g) => Math.max(1, (fit.summary.residualDf * g.places.length) / n));
  return Math.sqrt(fQuantile((1 + fit.confidence) / 2, a, b) * fQuantile(SEEN, b, a));
}

/** Trials of each set-up of the hard factors. */
function setupsOf({ data }: Fit): Family["setups"] {
  const groups = new Map<string, number[]>();
  data.setups?.forEach((name, i) => {
    groups.set(name, [...(groups.get(name) ?? []), i]);
  });
  return [...groups].flatMap(([name, places]) => (places.length > 1 ? [{ name, places }] : []));
}

/**
 * What the errors of each set-up have in common, over the root mean square of all set-ups': how much they vary is
 * estimated from the same errors, and against that estimate alone none could stand far off.
 */
export function setupSizes(setups: Family["setups"], scaled: ArrayLike<number>): number[] {
  const own = setups.map(({ places }) => places.reduce((t, i) => t + scaled[i], 0) / Math.sqrt(places.length));
  const spread = Math.sqrt(own.reduce((t, v) => t + v * v, 0) / own.length);
  return own.map((v) => (spread > 0 ? Math.abs(v) / spread : 0));
}

/** One draw of what errors are made from: the same for every model that the family is asked of. */
export interface Draw {
  /** As the errors of trials vary, on the fitted scale. */
  values: Float64Array;
  cells: number[];
  /** Standard normal, for the centre's column. */
  centre: number;
  /** Of counts, a repetition with refits in their place. */
  again?: Repetition;
}

/** The statistics that are ranked, each larger where the null is less likely. */
export type RankedId = Exclude<CheckId, "scale" | "repeats" | "waves" | "counting">;

/** What errors are judged by, made ready once for a fit and its draws. */
export interface Family {
  ids: RankedId[];
  factors: SpreadByFactor[];
  bends: MissingColumn[];
  /** What cells have beyond the model, at right angles; none where copies tell no lack of fit. */
  beyond: Float64Array[];
  order: MissingColumn | undefined;
  copies: Copies | undefined;
  /** Set-ups of two trials or more, where there are any: places of their trials. */
  setups: { name: string; places: number[] }[];
}

/** Errors of one vector with what several statistics need of them. */
interface Errors {
  scaled: ArrayLike<number>;
  squares: number;
  /** Over their standard error; of the trials that are kept, in order. */
  standard: Float64Array;
  /** Fitted values of the trials that are kept. */
  fitted: Float64Array;
  /** Squares within each cell measured again. */
  cells: number[];
  /** |t| of the centre's column where it is in the model. */
  centre: number;
}

function largestOf(values: Float64Array, of: (v: number, k: number) => number): number {
  let largest = 0;
  for (let k = 0; k < values.length; k++) {
    const v = of(values[k], k);
    if (v > largest) largest = v;
  }
  return largest;
}

/** Largest |t| of columns added last, from the errors alone. */
function largestT(columns: readonly MissingColumn[], { scaled, squares }: Errors, df: number): number {
  let largest = 0;
  for (const { unit } of columns) {
    let along = 0;
    for (let i = 0; i < unit.length; i++) along += unit[i] * scaled[i];
    const rest = squares - along * along;
    const t = rest > 1e-14 * squares ? Math.abs(along) / Math.sqrt(rest / (df - 1)) : Number.MAX_VALUE;
    if (t > largest) largest = t;
  }
  return largest;
}

/** The errors of the trials that bear on them: over their standard error, those of leverage one left out. */
export class Ranking {
  readonly kept: boolean[];
  readonly places: number[];
  readonly family: Family;
  private readonly roots: Float64Array;
  private readonly fitted: Float64Array;
  /** Share of what the model explains that is more than noise would. */
  private readonly signal: number;
  private readonly pulls: Float64Array;
  private readonly keptGroups: Int32Array[][];
  private readonly keptRuns: number[][];
  private readonly measures: ((errors: Errors) => number)[];
  /** @param asked the statistics that are asked of this fit, all that it can tell unless said */
  constructor(
    study: Study,
    private readonly fit: Fit,
    asked: (id: RankedId) => boolean = () => true,
  ) {
    const { leverages } = fit.model;
    this.kept = Array.from(leverages, (h) => h <= FULL_LEVERAGE);
    this.places = this.kept.flatMap((k, i) => (k ? [i] : []));
    const standing = new Map(this.places.map((i, k) => [i, k]));
    this.roots = Float64Array.from(this.places, (i) => Math.sqrt(1 - leverages[i]));
    this.fitted = Float64Array.from(this.places, (i) => fit.trials[i].predicted);
    const f = fit.anova.find((r) => r.source === "model")?.f ?? null;
    this.signal = f === null ? 1 : Math.max(0, 1 - 1 / f);
    this.pulls = Float64Array.from(this.places, (i) => leverages[i] / ((1 - leverages[i]) * fit.model.columns.length));
    const factors = groupsByFactor(study, fit, this.kept);
    this.keptGroups = factors.map((f) =>
      f.groups.map((g) => Int32Array.from(g.places, (i) => standing.get(i) as number)),
    );
    this.keptRuns = runsOf(fit.data.waves).map((run) => run.flatMap((i) => standing.get(i) ?? []));
    const bends = missingBends(study, fit);
    const order = orderColumn(fit);
    const beyond = beyondModel(study, fit);
    const copies = copiesOf(study, fit);
    const varies = this.fitted.some((v) => Math.abs(v - this.fitted[0]) > 1e-12 * Math.abs(this.fitted[0]));
    const has: [RankedId, boolean][] = [
      ["bell", true],
      ["spread", varies],
      ["spread-factor", factors.length > 0],
      ["order", order !== undefined],
      ["neighbours", this.keptRuns.some((r) => r.length > 2)],
      ["single", true],
      ["pull", true],
      ["bend", bends.length > 0 || (fit.centre !== undefined && fit.curvature !== undefined)],
      ["misfit", beyond.length > 0],
      ["copies", copies !== undefined],
    ];
    const setups = fit.model.setups ? setupsOf(fit) : [];
    if (setups.length > 2) has.push(["setup", true]);
    const ids = has.flatMap(([id, there]) => (there && asked(id) ? [id] : []));
    this.family = { ids, factors, bends, beyond, order, copies, setups };
    this.measures = ids.map((id) => this.measure(id));
  }

  /** How each statistic is made of errors; larger is less likely, but for `neighbours`, which is telling at both ends. */
  private measure(id: RankedId): (errors: Errors) => number {
    const { bends, beyond, order, copies, setups } = this.family;
    const df = this.fit.summary.residualDf;
    switch (id) {
      case "bell":
        return ({ standard }) => andersonDarling(standard, normalCdf);
      case "spread":
        return ({ standard, fitted }) => koenker(standard, fitted);
      case "spread-factor": {
        const sized = this.keptGroups.map((groups) => ({ groups, n: groups.reduce((t, g) => t + g.length, 0) }));
        return ({ standard }) => {
          let most = Number.NEGATIVE_INFINITY;
          for (const { groups, n } of sized) {
            const f = brownForsythe(standard, groups);
            const size = comparable(f, groups.length - 1, n - groups.length);
            if (size > most) most = size;
          }
          return most;
        };
      }
      case "order":
        return (errors) => largestT(order ? [order] : [], errors, df);
      case "neighbours":
        return ({ standard }) => durbinWatson(standard, this.keptRuns);
      case "single":
        return ({ standard }) => largestOf(standard, Math.abs);
      case "pull": {
        const weigh = (r: number, k: number): number => r * r * this.pulls[k];
        return ({ standard }) => largestOf(standard, weigh);
      }
      case "bend":
        return bends.length > 0 ? (errors) => largestT(bends, errors, df) : ({ centre }) => centre;
      case "misfit":
        return ({ scaled, squares }) => {
          let explained = 0;
          for (const unit of beyond) {
            let along = 0;
            for (let i = 0; i < unit.length; i++) along += unit[i] * scaled[i];
            explained += along * along;
          }
          return explained / Math.max(squares - explained, 1e-14 * squares);
        };
      case "setup":
        return ({ scaled }) => Math.max(...setupSizes(setups, scaled));
      case "copies": {
        const dfs = (copies?.cells ?? []).map((c) => c.df);
        return ({ cells }) => widest(cells, dfs).value;
      }
    }
  }

  /** One value per statistic. */
  statistics(errors: Errors): Float64Array {
    const out = new Float64Array(this.measures.length);
    for (let k = 0; k < out.length; k++) out[k] = this.measures[k](errors);
    return out;
  }

  /** Errors as the statistics need them. */
  private ready(
    scaled: ArrayLike<number>,
    cells: number[],
    centre: (scale: number) => number,
    fitted = this.fitted,
  ): Errors {
    let squares = 0;
    for (let i = 0; i < scaled.length; i++) squares += scaled[i] ** 2;
    const s = Math.sqrt(squares / this.fit.summary.residualDf);
    const standard = new Float64Array(this.places.length);
    for (let k = 0; k < standard.length; k++) standard[k] = scaled[this.places[k]] / (s * this.roots[k]);
    return { scaled, squares, standard, fitted, cells, centre: centre(s) };
  }

  /** Errors of counts: judged by the normal values that belong to them, added columns by Pearson's. */
  private repeated({ scaled, quantiles, fitted }: Repetition, centre: number): Errors {
    const { places, roots } = this;
    const df = this.fit.summary.residualDf;
    let squares = 0;
    let own = 0;
    for (let i = 0; i < scaled.length; i++) {
      squares += scaled[i] ** 2;
      own += quantiles[i] ** 2;
    }
    const s = Math.sqrt(own / df) || 1;
    return {
      scaled,
      squares,
      standard: Float64Array.from(places, (i, k) => quantiles[i] / (s * roots[k])),
      fitted: Float64Array.from(places, (i) => fitted[i]),
      cells: [],
      centre,
    };
  }

  /** The data's own errors. */
  own(random: Random): Errors {
    const { copies } = this.family;
    const t = this.fit.parameters.find((p) => p.term[0] === "@curvature")?.t ?? 0;
    const { repetitions } = this.fit.model;
    if (repetitions) return this.repeated(repetitions.own(random), Math.abs(t));
    return this.ready(
      this.fit.model.residuals("scaled").map((e) => e ?? 0),
      copies?.squares ?? [],
      () => Math.abs(t),
    );
  }

  /**
   * Fitted values that go with drawn errors. Normal errors tell nothing of them, and they stand as they are; the
   * logarithm of a spread is skew, so that they come with its errors: what the model sees beyond noise (James & Stein
   * 1961), and what the errors add to it.
   */
  private fittedWith(values: Float64Array, left: Float64Array): Float64Array {
    const { spreadDf, weights } = this.fit.data;
    if (!spreadDf) return this.fitted;
    const middle = this.fitted.reduce((t, v) => t + v, 0) / this.fitted.length;
    return Float64Array.from(
      this.places,
      (i, k) => middle + this.signal * (this.fitted[k] - middle) + values[i] - left[i] / Math.sqrt(weights?.[i] ?? 1),
    );
  }

  /** What errors where nothing is wrong are made from: normal, or ln χ² for a spread. */
  draw(random: Random): Draw {
    const { data, model } = this.fit;
    const { repetitions } = model;
    const again = repetitions?.repeat(random);
    if (repetitions && again)
      return { values: new Float64Array(0), cells: [], centre: repetitions.wide(random) * random.normal(), again };
    const { weights, spreadDf } = data;
    const values = new Float64Array(data.trials.length);
    for (let i = 0; i < values.length; i++) {
      const nu = spreadDf?.[i];
      values[i] =
        nu === undefined
          ? random.normal() / Math.sqrt(weights?.[i] ?? 1)
          : 0.5 * (Math.log(random.chiSquared(nu) / nu) + Math.log(nu / 2) - digamma(nu / 2));
    }
    const { copies } = this.family;
    const own = model.correlated?.(values) ?? values;
    const cells = copies?.squaresOf?.(own) ?? (copies?.cells ?? []).map((c) => random.chiSquared(c.df));
    return { values: own, cells, centre: random.normal() };
  }

  /** What this fit leaves of a draw, by its columns and weights. */
  errorsOf({ values, cells, centre, again }: Draw): Errors {
    if (again) return this.repeated(again, Math.abs(centre));
    const left = this.fit.model.left(values, true) ?? values;
    return this.ready(left, cells, (s) => Math.abs(centre) / s, this.fittedWith(values, left));
  }
}
