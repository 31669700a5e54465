import { clearOf, pickColumns, quadraticForm } from "../../numerics/least-squares";
import { eliminate } from "../../numerics/matrices";
import { colouredBy, deviance, generalised, groupingOf, whitenedBy } from "../../numerics/mixed";
import { sumOfSquares } from "../../numerics/sums";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import { rowWriter } from "../design";
import {
  type AnovaRow,
  type Criteria,
  type FittedModel,
  FULL_LEVERAGE,
  type LikelihoodSummary,
  type Predictive,
  type ResidualKind,
  type SupposedInterval,
} from "../fitted";
import { criticalValues, studentPredictive } from "../predictive";
import { columnsBeyond, type Law } from "./law";
import { addTerm, beyondOf, testOf } from "./setups-judged";
import { criteriaOf, dfOf, type Solved, solvedAt } from "./setups-solved";

/** Determinant of what a set-up leaves of itself below which it carries a column alone. */
const CARRIED = 1e-9;
/** A row of terms in both strata. */
const withoutStratum = ({ stratum: _, ...row }: AnovaRow): AnovaRow => row;

function anovaOf(s: Solved): AnovaRow[] {
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
      stratum: positions.every((j) => s.constant[j]) ? "between" : "within",
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
const rawOf = ({ fit, matrix, y, p }: Solved): Float64Array =>
  Float64Array.from(y, (v, i) => {
    let value = 0;
    for (let j = 0; j < p; j++) value += fit.solution.coefficients[j] * matrix.data[i * p + j];
    return v - value;
  });

/**
 * Errors of whole set-ups left out, predicted by the others at the same ratio: on whitened rows (I − H)⁻¹e of the
 * set-up's own block (Cook & Weisberg 1982, section 2.2), brought back; null where one carries a column.
 */
function pressOf({ groups, fit }: Solved): number | null {
  const { residuals, basis } = fit.solution;
  const members: number[][] = groups.sizes.map(() => []);
  groups.of.forEach((g, i) => {
    members[g].push(i);
  });
  let press = 0;
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
    const white = own.map((_, a) => right[a * m] / left[a * m + a]);
    const shift = ((Math.sqrt(1 + fit.eta * m) - 1) * white.reduce((t, w) => t + w, 0)) / m;
    press += white.reduce((t, w) => t + (w + shift) ** 2, 0);
  }
  return press;
}

function summaryOf(s: Solved): LikelihoodSummary {
  const { n, p, y, matrix, groups } = s;
  const rss = sumOfSquares0(rawOf(s));
  const sst = sumOfSquares(y);
  const waves = s.input.design.columns.flatMap((c, j) => (c.key === "@wave" ? [j] : []));
  const likelihood = deviance(groups, s.fit, false);
  const none = deviance(groups, generalised(groups, s.fit.eta, pickColumns(matrix, [0]), y), false);
  let predicted: number | null | undefined;
  let criteria: Criteria | undefined;
  const own = (): Criteria => {
    criteria ??= criteriaOf(s, matrix, s.profile());
    return criteria;
  };
  return {
    law: "setups",
    s: s.parts.within > 0 ? Math.sqrt(s.parts.within) : null,
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
      const base = generalised(groups, 0, pickColumns(matrix, [0, ...waves]), y).solution.rss;
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

function vifOf({ matrix, n, p, fit }: Solved): (number | null)[] {
  return Array.from({ length: p }, (_, j) => {
    if (j === 0) return null;
    const column = Float64Array.from({ length: n }, (__, i) => matrix.data[i * p + j]);
    const white = Float64Array.from({ length: n }, (__, i) => fit.x.data[i * p + j]);
    return sumOfSquares(column) > 0 ? fit.solution.inverse.data[j * p + j] * sumOfSquares0(white) : null;
  });
}

/** How new trials fall about a value: one in a new set-up, and the mean of some in new set-ups. */
function newTrials(s: Solved, critical: FittedModel["critical"]) {
  const { info, parts, n, p } = s;
  const between = Math.max(0, parts.between);
  /** Degrees of freedom of a variance a·σ_u² + b·σ² beside that of a value (Satterthwaite 1946). */
  const dfBeside = (row: Float64Array, a: number, b: number): number => {
    if (s.assumed !== undefined) return n - p;
    const v = quadraticForm(s.covariance, row) + a * between + b * parts.within;
    const g = [quadraticForm(info.turned[0], row) + (between > 0 ? a : 0), quadraticForm(info.turned[1], row) + b];
    const { w } = info;
    return (2 * v * v) / (g[0] * g[0] * w[0][0] + 2 * g[0] * g[1] * w[0][1] + g[1] * g[1] * w[1][1]);
  };
  /** Where the mean of trials in new set-ups falls, so many in each. */
  const over =
    (row: Float64Array, value: number, variance: number | null): Predictive["overSetups"] =>
    (confidence, sizes) => {
      if (variance === null) return null;
      const m = sizes.reduce((t, k) => t + k, 0);
      const a = sizes.reduce((t, k) => t + (k / m) ** 2, 0);
      const wide = Math.sqrt(variance + a * between + parts.within / m);
      const half = critical(confidence, dfBeside(row, a, 1 / m)) * wide;
      return [value - half, value + half];
    };
  /** Of one new trial in a new set-up. */
  const dfTrial = (row: Float64Array): number => dfBeside(row, 1, 1);
  return { over, dfTrial };
}

/**
 * What stands between set-ups alone, where their variance is assumed: intervals were it a quarter of what is assumed,
 * as much, and four times.
 */
function supposedOf(s: Solved, confidence: number, critical: FittedModel["critical"]): SupposedInterval[] {
  const { assumed, n, p } = s;
  if (assumed === undefined || n <= p) return [];
  const fits = [assumed / 4, assumed, 4 * assumed].map((ratio) => ({
    ratio,
    solution: generalised(s.groups, ratio, s.matrix, s.y).solution,
  }));
  return s.constant.flatMap((constant, column) => {
    if (!constant || column === 0) return [];
    return fits.map(({ ratio, solution: { coefficients, inverse, rss } }) => {
      const half = critical(confidence, n - p) * Math.sqrt((inverse.data[column * p + column] * rss) / (n - p));
      return { column, ratio, interval: [coefficients[column] - half, coefficients[column] + half] };
    });
  });
}

/** The model of what was solved. */
function modelOf(s: Solved): FittedModel {
  const { input, fit, p, n, parts } = s;
  const { design, link, units } = input;
  const critical = criticalValues();
  const known = n > p && parts.within > 0;
  const { coefficients } = fit.solution;
  const between = Math.max(0, parts.between);
  const noise = known ? between + parts.within : null;
  let anova: AnovaRow[] | undefined;
  let vif: (number | null)[] | undefined;
  const relative = (row: Float64Array): number => quadraticForm(s.covariance, row) / (parts.within || 1);
  let farthest: number | undefined;
  const { over, dfTrial } = newTrials(s, critical);
  const model: FittedModel = {
    law: "setups",
    trials: design.data.trials.map((t) => t.id),
    observed: input.observed,
    terms: design.terms,
    columns: design.columns,
    coefficients,
    covariance: known ? s.covariance : null,
    dfOf: (contrast) => dfOf(s, contrast),
    critical,
    units,
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
      const moments = { value, variance, noise, df, dfTrial: known ? dfTrial(row) : 0 };
      return { ...studentPredictive(moments, critical), overSetups: over(row.slice(), value, variance) };
    },
    scale: known ? Math.sqrt(parts.within) : null,
    relative,
    relativeNoise: () => (noise ?? 0) / (parts.within || 1),
    beyond(row) {
      farthest ??= Math.max(
        ...Array.from({ length: n }, (_, i) => relative(s.matrix.data.slice(i * p, (i + 1) * p) as Float64Array)),
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
    whiten: (rows) => whitenedBy(s.groups, fit.eta, rows),
    correlated: (errors) => colouredBy(s.groups, fit.eta, errors),
    left(values, once) {
      const column = { rows: n, cols: 1, data: Float64Array.from(values) };
      const e = whitenedBy(s.groups, fit.eta, column).data;
      for (let pass = 0; pass < (once ? 1 : 2); pass++) clearOf(fit.solution.basis, e);
      return e;
    },
    anova() {
      anova ??= anovaOf(s);
      return anova;
    },
    summary: summaryOf(s),
    unitsOf: () => undefined,
    setups: {
      between: parts.between,
      within: parts.within,
      ratio: s.strata ? parts.between / parts.within : fit.eta,
      bounded: parts.between < 0,
      setups: s.groups.sizes.length,
      betweenDf: s.betweenDf,
      ...(s.assumed === undefined ? {} : { assumed: s.assumed }),
      trialDf: known ? dfTrial(new Float64Array(p)) : 0,
      beyond: (columns) => beyondOf(s, columns),
      supposed: (confidence) => supposedOf(s, confidence, critical),
    },
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}

/**
 * Errors in two strata, a factor being hard to change: what set-ups vary by beside what trials of one do. Generalised
 * least squares at components by REML, tests by Kenward & Roger (1997).
 */
export const setups: Law = {
  id: "setups",
  fit: (input) => modelOf(solvedAt(input, groupingOf(input.design.data.setups ?? []), input.design.matrix)),
};
