import { clearOf, leastSquares, pickColumns, quadraticForm } from "../../numerics/least-squares";
import { eliminate } from "../../numerics/matrices";
import { colouredBy, deviance, generalised, whitenedBy } from "../../numerics/mixed";
import { sumOfSquares } from "../../numerics/sums";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import { rowWriter } from "../design";
import {
  type AnovaRow,
  type Criteria,
  DRAWN_ERRORS,
  type FittedModel,
  FULL_LEVERAGE,
  type LikelihoodSummary,
  type Predictive,
  type ResidualKind,
} from "../fitted";
import { criticalValues, type Moments } from "../predictive";
import { columnsBeyond } from "./law";
import { addTerm, beyondOf, testOf } from "./parts-judged";
import { criteriaOf, dfOf, rooted, type Solved } from "./parts-solved";

/** Determinant of what a set-up leaves of itself below which it carries a column alone. */
const CARRIED = 1e-9;
/** A row of terms in both strata. */
const withoutStratum = ({ stratum: _, ...row }: AnovaRow): AnovaRow => row;

/** @param strata whether what is told between set-ups is judged apart from what is told within them */
function anovaOf(s: Solved, strata: boolean): AnovaRow[] {
  const { columns } = s.input.design;
  const keys = [...new Set(columns.slice(1).map((c) => c.key))];
  const rowOf = (source: AnovaRow["source"], positions: readonly number[]): AnovaRow => {
    const { f, p, dfDenominator, scale } = testOf(s, positions);
    return {
      source,
      df: positions.length,
      ss: null,
      sequentialSs: null,
      ms: null,
      f,
      p,
      dfDenominator,
      ...(scale === undefined ? {} : { scale }),
      ...(strata ? { stratum: positions.every((j) => s.constant[j]) ? "between" : "within" } : {}),
    };
  };
  const rows = keys.map((key): AnovaRow => {
    const positions = columns.flatMap((c, j) => (c.key === key ? [j] : []));
    const { term } = columns[positions[0]];
    const source = ofFactors(term) ? "term" : term === WAVE_TERM ? "wave" : "curvature";
    return { ...rowOf(source, positions), ...(key === "@wave" ? {} : { term }) };
  });
  const wave = rows.find((r) => r.source === "wave");
  const terms = columns.flatMap((c, j) => (j > 0 && ofFactors(c.term) ? [j] : []));
  const all = terms.length > 0 ? rowOf("model", terms) : undefined;
  const nothing = { ss: null, sequentialSs: null, ms: null, f: null, p: null };
  return [
    ...(wave ? [wave] : []),
    ...(all ? [withoutStratum(all)] : []),
    ...rows.filter((r) => r !== wave),
    { source: "residual", df: s.n - s.p, ...nothing },
    { source: "total", df: s.n - 1, ...nothing },
  ];
}

/** y − Xβ̂ on the scale of the results. */
function rawOf({ fit, input: { design, observed }, p }: Solved): Float64Array {
  const { data } = design.matrix;
  return Float64Array.from(observed, (v, i) => {
    let value = 0;
    for (let j = 0; j < p; j++) value += fit.solution.coefficients[j] * data[i * p + j];
    return v - value;
  });
}

/** Errors of one variance as errors of the results. */
const rawErrors = ({ groups, fit, roots }: Solved, errors: Float64Array): Float64Array => {
  const own = colouredBy(groups, fit.eta, errors);
  return roots ? own.map((e, i) => e / roots[i]) : own;
};

/**
 * Errors of whole set-ups left out, predicted by the others at the same ratio: on whitened rows (I − H)⁻¹e of the
 * set-up's own block (Cook & Weisberg 1982, section 2.2), brought back; null where one carries a column.
 */
function pressOf(s: Solved): number | null {
  const { groups, fit } = s;
  const { residuals, basis } = fit.solution;
  const members: number[][] = groups.sizes.map(() => []);
  groups.of.forEach((g, i) => {
    members[g].push(i);
  });
  const white = new Float64Array(residuals.length);
  for (const own of members) {
    const m = own.length;
    const left = new Float64Array(m * m);
    const right = new Float64Array(m * m);
    own.forEach((i, a) => {
      own.forEach((j, b) => {
        left[a * m + b] = (a === b ? 1 : 0) - basis.reduce((t, q) => t + q[i] * q[j], 0);
      });
      right[a * m] = residuals[i];
    });
    if (!(Math.abs(eliminate(left, m, right)) > CARRIED)) return null;
    own.forEach((i, a) => {
      white[i] = right[a * m] / left[a * m + a];
    });
  }
  return sumOfSquares0(rawErrors(s, white));
}

function summaryOf(s: Solved, { law, error }: Own): LikelihoodSummary {
  const { n, p, y, matrix, groups } = s;
  const { design, observed } = s.input;
  const rss = sumOfSquares0(rawOf(s));
  const sst = sumOfSquares(observed);
  const waves = design.columns.flatMap((c, j) => (c.key === "@wave" ? [j] : []));
  const likelihood = deviance(groups, s.fit, false);
  const none = deviance(groups, generalised(groups, s.fit.eta, pickColumns(matrix, [0]), y), false);
  let predicted: number | null | undefined;
  let criteria: Criteria | undefined;
  const own = (): Criteria => {
    criteria ??= criteriaOf(s, matrix, s.profile());
    return criteria;
  };
  return {
    law,
    s: s.parts.within > 0 ? error : null,
    deviance: likelihood,
    nullDeviance: none,
    criterion: likelihood,
    r2: 1 - rss / sst,
    r2Adjusted: n > p ? 1 - rss / (n - p) / (sst / (n - 1)) : null,
    get r2Predicted() {
      if (predicted === undefined) {
        const press = pressOf(s);
        predicted = press === null ? null : 1 - press / sst;
      }
      return predicted;
    },
    get r2AfterWaves() {
      if (waves.length === 0) return 1 - rss / sst;
      const base = leastSquares(pickColumns(design.matrix, [0, ...waves]), observed).rss;
      return base > 0 ? 1 - rss / base : null;
    },
    get aicc() {
      return own().aicc;
    },
    get bic() {
      return own().bic;
    },
    residualDf: n - p,
  };
}

/** Σv², about nothing. */
const sumOfSquares0 = (v: ArrayLike<number>): number => Array.from(v).reduce((t, x) => t + x * x, 0);

function residualsOf(s: Solved, kind: ResidualKind): (number | null)[] {
  if (kind === "raw") return Array.from(rawOf(s));
  const { residuals, leverage } = s.fit.solution;
  if (kind === "scaled") return Array.from(residuals);
  const error = Math.sqrt(s.parts.within);
  const df = s.n - s.p;
  const studentized = Array.from(residuals, (e, i) =>
    df < 1 || !(error > 0) || leverage[i] > FULL_LEVERAGE ? null : e / (error * Math.sqrt(1 - leverage[i])),
  );
  if (kind === "studentized") return studentized;
  return studentized.map((r) => {
    if (r === null || df <= 1) return null;
    const without = (df - r ** 2) / (df - 1);
    return without > 1e-12 ? r / Math.sqrt(without) : null;
  });
}

function vifOf({ input, n, p, fit }: Solved): (number | null)[] {
  const { data } = input.design.matrix;
  return Array.from({ length: p }, (_, j) => {
    if (j === 0) return null;
    const column = Float64Array.from({ length: n }, (__, i) => data[i * p + j]);
    const white = Float64Array.from({ length: n }, (__, i) => fit.x.data[i * p + j]);
    return sumOfSquares(column) > 0 ? fit.solution.inverse.data[j * p + j] * sumOfSquares0(white) : null;
  });
}

/**
 * Degrees of freedom of a variance a·σ_u² + b·σ² of new results beside that of the value at a row, all told by the same
 * components (Satterthwaite 1946).
 */
export function dfBeside(s: Solved, row: ArrayLike<number>, a: number, b: number): number {
  const { info, parts, n, p } = s;
  if (s.assumed !== undefined) return n - p;
  const between = Math.max(0, parts.between);
  const v = quadraticForm(s.covariance, row) + a * between + b * parts.within;
  const g = [quadraticForm(info.turned[0], row) + (between > 0 ? a : 0), quadraticForm(info.turned[1], row) + b];
  const { w } = info;
  return (2 * v * v) / (g[0] * g[0] * w[0][0] + 2 * g[0] * g[1] * w[0][1] + g[1] * g[1] * w[1][1]);
}

/** What a law of two parts says that the others do not. */
export interface Own {
  law: string;
  /** Standard deviation of one trial about the model, as its summary gives it. */
  error: number;
  /** Whether terms told between set-ups are judged apart from those told within them. */
  strata: boolean;
  /** What new results fall by about the value at a row. */
  predictive(moments: Moments, row: Float64Array): Predictive;
  further: Pick<FittedModel, "setups" | "piecesOf">;
}

/** The model of what was solved: figures that laws of two parts have in common, with what is a law's own. */
export function partsModel(s: Solved, own: Own): FittedModel {
  const { input, fit, p, n, parts } = s;
  const { design, link, unit } = input;
  const critical = criticalValues();
  const known = n > p && parts.within > 0;
  const { coefficients } = fit.solution;
  // A component between is 0 in the variance of new trials where it is estimated below that.
  const noise = known ? Math.max(0, parts.between) + parts.within : null;
  let anova: AnovaRow[] | undefined;
  let vif: (number | null)[] | undefined;
  const relative = (row: Float64Array): number => quadraticForm(s.covariance, row) / (parts.within || 1);
  let farthest: number | undefined;
  const model: FittedModel = {
    law: own.law,
    trials: design.data.trials.map((t) => t.id),
    observed: input.observed,
    terms: design.terms,
    columns: design.columns,
    coefficients,
    covariance: known ? s.covariance : null,
    dfOf: (contrast) => dfOf(s, contrast),
    critical,
    unit,
    link,
    exact: !known && n > p,
    get vif() {
      vif ??= vifOf(s);
      return vif;
    },
    leverages: fit.solution.leverage,
    covariateRanges: design.covariateRanges,
    ...rowWriter(design),
    predictive(row) {
      let value = 0;
      for (let j = 0; j < p; j++) value += coefficients[j] * row[j];
      const variance = known ? quadraticForm(s.covariance, row) : null;
      const df = known ? dfOf(s, row) || n - p : 0;
      const dfTrial = known ? dfBeside(s, row, 1, 1) : 0;
      return own.predictive({ value, variance, noise, df, dfTrial }, row.slice());
    },
    ...DRAWN_ERRORS,
    scale: known ? Math.sqrt(parts.within) : null,
    relative,
    relativeNoise: () => (noise ?? 0) / (parts.within || 1),
    beyond(row) {
      const { data } = design.matrix;
      farthest ??= Math.max(
        ...Array.from({ length: n }, (_, i) => relative(data.slice(i * p, (i + 1) * p) as Float64Array)),
      );
      return relative(row) > farthest * (1 + 1e-9);
    },
    design: undefined,
    withNoise: () => model,
    residuals: (kind) => residualsOf(s, kind),
    loadings: null,
    addTerm: (columns) => addTerm(s, columns),
    test: (columns) => testOf(s, columns),
    compare(smaller) {
      return testOf(s, columnsBeyond(design, smaller));
    },
    cellsBeyond: (columns) => beyondOf(s, columns),
    whiten: (rows) => whitenedBy(s.groups, fit.eta, rooted(s, rows)),
    correlated: (errors) => rawErrors(s, errors),
    left(values, once) {
      const column = { rows: n, cols: 1, data: Float64Array.from(values) };
      const e = model.whiten(column).data as Float64Array;
      for (let pass = 0; pass < (once ? 1 : 2); pass++) clearOf(fit.solution.basis, e);
      return e;
    },
    anova() {
      anova ??= anovaOf(s, own.strata);
      return anova;
    },
    summary: summaryOf(s, own),
    ...own.further,
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}
