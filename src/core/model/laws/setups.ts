import { fUpper } from "../../numerics/distributions";
import { goldenSection } from "../../numerics/golden-section";
import {
  clearOf,
  leastSquares,
  type Matrix,
  pickColumns,
  quadraticForm,
  rankReport,
  zeros,
} from "../../numerics/least-squares";
import { eliminate } from "../../numerics/matrices";
import {
  addedInformation,
  adjustedCovariance,
  type Components,
  cleared,
  colouredBy,
  components,
  constantWithin,
  deviance,
  type Generalised,
  type Grouping,
  generalised,
  groupingOf,
  type Information,
  informationOf,
  type Profile,
  profiler,
  satterthwaite,
  scaledF,
  whitenedBy,
} from "../../numerics/mixed";
import { sumOfSquares } from "../../numerics/sums";
import { once } from "../../study/memo";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import { rowWriter } from "../design";
import {
  type AddedTerm,
  type AnovaRow,
  type Criteria,
  type FittedModel,
  FULL_LEVERAGE,
  type LikelihoodSummary,
  type Predictive,
  type ResidualKind,
  type SupposedInterval,
  type TermTest,
} from "../fitted";
import { criticalValues, studentPredictive } from "../predictive";
import { columnsBeyond, type Law, type LawInput } from "./law";

/** Part of all squares below which what is left within set-ups is rounding. */
const NOTHING = 1e-20;
/** Determinant of what a set-up leaves of itself below which it carries a column alone. */
const CARRIED = 1e-9;
/** A ratio so far out that it is asked whether anything is left within set-ups at all. */
const FAR = 1e4;
/** Degrees of freedom between set-ups below which their component is assumed, not estimated. */
const LEAST_BETWEEN = 2;
/** Component between set-ups over the one within that is then assumed, unless said. */
const ASSUMED = 1;

/** What the figures of the law are worked out from; known to this file alone. */
interface Solved {
  input: LawInput;
  groups: Grouping;
  matrix: Matrix;
  y: readonly number[];
  n: number;
  p: number;
  parts: Components;
  fit: Generalised;
  info: Information;
  /** Degrees of freedom between set-ups that the model leaves. */
  betweenDf: number;
  /** The ratio of the components where it is assumed. */
  assumed: number | undefined;
  /** Whether a column is one value within every set-up. */
  constant: boolean[];
  covariance: Matrix;
  /** The likelihoods over ratios, made when first asked for. */
  profile(): Profile;
}

/** Columns with one for every set-up: what set-ups could take from a model. */
function withGroups({ of, sizes }: Grouping, matrix: Matrix): Matrix {
  const { rows, cols, data } = matrix;
  const out = zeros(rows, cols + sizes.length);
  for (let i = 0; i < rows; i++) {
    for (let j = 0; j < cols; j++) out.data[i * out.cols + j] = data[i * cols + j];
    out.data[i * out.cols + cols + of[i]] = 1;
  }
  return out;
}

/** Whether a model passes through all that differs within set-ups, but for rounding. */
function passesThrough(groups: Grouping, matrix: Matrix, y: readonly number[]): boolean {
  const wide = withGroups(groups, matrix);
  const { rss } = leastSquares(pickColumns(wide, rankReport(wide).kept), [...y]);
  const mean = y.reduce((t, v) => t + v, 0) / y.length;
  return rss <= NOTHING * y.reduce((t, v) => t + (v - mean) ** 2, 0);
}

/** A fit at a ratio, with what its components are worth. */
function solvedAt(input: LawInput, groups: Grouping, matrix: Matrix): Solved {
  const y = input.observed;
  const n = y.length;
  const p = matrix.cols;
  const betweenDf = rankReport(withGroups(groups, matrix)).rank - p;
  const assumed = betweenDf < LEAST_BETWEEN ? (input.eta ?? ASSUMED) : undefined;
  const free = n - p;
  const profile = once(() => profiler(groups, matrix, y));
  let parts: Components;
  let known: Pick<Solved, "fit" | "info"> | undefined;
  if (assumed === undefined && free > 0) {
    const { between, within, ...found } = components(groups, matrix, y, profile());
    parts = { between, within };
    if (within > 0) known = found;
  } else {
    const { rss } = generalised(groups, assumed ?? ASSUMED, matrix, y).solution;
    const within = free > 0 ? rss / free : 0;
    parts = { between: (assumed ?? ASSUMED) * within, within };
  }
  if (parts.between > FAR * parts.within && passesThrough(groups, matrix, y)) {
    parts = { ...parts, within: 0 };
    known = undefined;
  }
  const ratio = parts.within > 0 ? parts.between / parts.within : (assumed ?? ASSUMED);
  const fit = known?.fit ?? generalised(groups, ratio, matrix, y);
  const info =
    known?.info ?? informationOf(groups, fit, matrix, parts.within > 0 ? parts : { between: ratio, within: 1 });
  return {
    input,
    groups,
    matrix,
    y,
    n,
    p,
    parts,
    fit,
    info,
    betweenDf,
    assumed,
    constant: constantWithin(groups, matrix),
    covariance: assumed === undefined ? adjustedCovariance(info) : info.phi,
    profile,
  };
}

/**
 * How near the least ratio there may be, −1 over the largest set-up, counts as at it. There V is all but singular for
 * the largest set-up, the likelihood ends without a summit, and what expansions about one say of degrees of freedom
 * (less than one, where four are left) has no ground: what is told between set-ups then keeps those they leave.
 */
const EDGE = 0.9;

/** Fewest degrees of freedom of what is told between set-ups. */
const leastDf = ({ groups, parts, betweenDf }: Pick<Solved, "groups" | "parts" | "betweenDf">): number =>
  parts.within > 0 && parts.between / parts.within < -EDGE / Math.max(...groups.sizes) ? betweenDf : 0;

/** Degrees of freedom of a contrast; none where an assumed component is all there is to judge by. */
function dfOf(s: Solved, contrast: ArrayLike<number>): number {
  if (s.n - s.p < 1 || !(s.parts.within > 0)) return 0;
  if (s.assumed === undefined) {
    const df = satterthwaite(s.info, contrast);
    for (let j = 1; j < s.p; j++) if (s.constant[j] && contrast[j] !== 0) return Math.max(df, leastDf(s));
    return df;
  }
  for (let j = 0; j < s.p; j++) if (s.constant[j] && j > 0 && contrast[j] !== 0) return 0;
  return s.n - s.p;
}

/** Criteria by maximum likelihood of some columns, both components counted. */
function criteriaOf(
  s: Pick<Solved, "groups" | "y" | "n">,
  matrix: Matrix,
  profile: Profile = profiler(s.groups, matrix, s.y),
): Criteria {
  const k = matrix.cols + 2;
  const floor = -1 / Math.max(...s.groups.sizes);
  // On a scale on which the least ratio and the largest lie alike far away.
  const ratioOf = (t: number): number => floor * 0.999 + Math.exp(t);
  const best = goldenSection((t) => -profile.at(ratioOf(t), false), -9, 7, { within: 1e-7, most: 80 });
  const value = deviance(s.groups, generalised(s.groups, ratioOf(best), matrix, s.y), false);
  if (!Number.isFinite(value)) return { aicc: null, bic: null };
  const aic = value + 2 * k;
  return {
    aicc: s.n <= k + 1 ? null : aic + (2 * k * (k + 1)) / (s.n - k - 1),
    bic: value + k * Math.log(s.n),
  };
}

/** How coefficients are judged, by what is known of them. */
interface Judged {
  info: Information;
  /** Residual degrees of freedom. */
  free: number;
  /** Whether the ratio of the components is assumed, and the columns are told between set-ups alone. */
  assumed: boolean;
  between: boolean;
  /** Fewest degrees of freedom of such columns. */
  least: number;
}

function judge(
  { info, free, assumed, between, least }: Judged,
  own: readonly number[],
  places: readonly number[],
): Pick<TermTest, "dfDenominator" | "f" | "p" | "scale"> {
  if ((assumed && between) || free < 1) return { dfDenominator: 0, f: null, p: null };
  if (assumed) {
    const none = { ...info, correction: { ...info.correction, data: info.correction.data.map(() => 0) } };
    const { f } = scaledF(none, own, places);
    return { dfDenominator: free, f, p: fUpper(f, places.length, free) };
  }
  const { f, scale, df: given, p: plain } = scaledF(info, own, places);
  const df = between ? Math.max(given, least) : given;
  const p = df === given ? plain : fUpper(f, places.length, df);
  return { dfDenominator: df, f, p, ...(places.length > 1 ? { scale } : {}) };
}

function testOf(s: Solved, columns: readonly number[]): TermTest {
  let criteria: Criteria | undefined;
  return {
    df: columns.length,
    ss: null,
    ...judge(
      {
        info: s.info,
        free: s.parts.within > 0 ? s.n - s.p : 0,
        assumed: s.assumed !== undefined,
        between: columns.some((j) => s.constant[j]),
        least: leastDf(s),
      },
      columns.map((j) => s.fit.solution.coefficients[j]),
      columns,
    ),
    // Another fit altogether: only where it is asked for.
    get criteria() {
      const keep = Array.from({ length: s.p }, (_, j) => j).filter((j) => !columns.includes(j));
      criteria ??= criteriaOf(s, pickColumns(s.matrix, keep));
      return criteria;
    },
  };
}

/** Whether columns are independent of a fit's and of each other, u being what the fit leaves of them. */
function independent(s: Solved, white: Matrix, u: Matrix): boolean {
  const { rows: n, cols: q } = u;
  const basis: Float64Array[] = [];
  for (let c = 0; c < q; c++) {
    const v = Float64Array.from({ length: n }, (_, i) => u.data[i * q + c]);
    let before = 0;
    for (let i = 0; i < n; i++) before += white.data[i * q + c] ** 2;
    for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
    const after = v.reduce((t, x) => t + x * x, 0);
    if (!Number.isFinite(before) || !(after > 1e-16 * before)) return false;
    basis.push(v.map((x) => x / Math.sqrt(after)));
  }
  return s.n >= s.p + q;
}

/** Some columns as if added last, the ratio of the components held at the model's. */
function addTerm(s: Solved, columns: Matrix): AddedTerm | null {
  const { n, p, fit } = s;
  const q = columns.cols;
  const white = whitenedBy(s.groups, fit.eta, columns);
  const u = cleared(fit, white);
  if (!independent(s, white, u)) return null;
  const left = fit.solution.residuals;
  const coefficients = Array.from(leastSquares(u, Float64Array.from(left)).coefficients);
  let [rss, all] = [0, 0];
  for (let i = 0; i < n; i++) {
    let e = left[i];
    all += e * e;
    for (let j = 0; j < q; j++) e -= coefficients[j] * u.data[i * q + j];
    rss += e * e;
  }
  const free = n - p - q;
  // What rounding leaves of a perfect fit is no error to judge by.
  const within = free > 0 && rss > 1e-20 * all ? rss / free : 0;
  const base = s.parts.within > 0 ? s.parts.within : 1;
  const info = addedInformation(s.groups, fit, { info: s.info, within: base }, u, within > 0 ? within : 1);
  const assumed = s.assumed !== undefined;
  const constant = constantWithin(s.groups, columns);
  const between = constant.some((c) => c);
  // What they would take from between set-ups is gone for their own test.
  const least = between ? Math.max(0, leastDf(s) - q) : 0;
  const known = { info, free: within > 0 ? free : 0, assumed, between, least };
  const at = Array.from({ length: q }, (_, j) => j);
  let criteria: Criteria | undefined;
  return {
    df: q,
    ss: null,
    ...judge(known, coefficients, at),
    coefficients,
    covariance: free < 1 ? null : adjustedCovariance(info),
    dfs: at.map((j) => {
      if (known.free < 1 || (assumed && constant[j])) return 0;
      const unit = at.map((k) => (k === j ? 1 : 0));
      return assumed ? free : Math.max(satterthwaite(info, unit), constant[j] ? least : 0);
    }),
    get criteria() {
      criteria ??= criteriaOf(s, beside(s.matrix, columns));
      return criteria;
    },
  };
}

/** Columns beside those of a model. */
function beside(matrix: Matrix, columns: Matrix): Matrix {
  const [p, q] = [matrix.cols, columns.cols];
  const wide = zeros(matrix.rows, p + q);
  for (let i = 0; i < matrix.rows; i++) {
    for (let j = 0; j < p; j++) wide.data[i * wide.cols + j] = matrix.data[i * p + j];
    for (let j = 0; j < q; j++) wide.data[i * wide.cols + p + j] = columns.data[i * q + j];
  }
  return wide;
}

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

/** The test of what further columns have beyond a model, by the components of the model that has them. */
function beyondOf(s: Solved, columns: Matrix): TermTest | null {
  const { n, p } = s;
  const all = beside(s.matrix, columns);
  const kept = rankReport(all).kept;
  const further = kept.filter((j) => j >= p);
  if (further.length === 0 || kept.length >= n) return null;
  const matrix = pickColumns(all, kept);
  // Without an error between set-ups of their own there is nothing to judge them by.
  if (rankReport(withGroups(s.groups, matrix)).rank - kept.length < LEAST_BETWEEN) return null;
  const test = testOf(
    solvedAt(s.input, s.groups, matrix),
    further.map((_, k) => p + k),
  );
  // Of many columns on little error the expansions give no F at all.
  return (test.f ?? -1) >= 0 && (test.dfDenominator ?? 0) > 0 && Number.isFinite(test.p) ? test : null;
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
      ratio: fit.eta,
      bounded: parts.between < 0,
      setups: s.groups.sizes.length,
      betweenDf: s.betweenDf,
      ...(s.assumed === undefined ? {} : { assumed: s.assumed }),
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
