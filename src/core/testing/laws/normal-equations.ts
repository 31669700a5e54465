import { rowWriter } from "../../model/design";
import {
  type AddedTerm,
  type AnovaRow,
  type Criteria,
  DRAWN_ERRORS,
  type FittedModel,
  type LikelihoodSummary,
  type TermTest,
} from "../../model/fitted";
import type { LawInput } from "../../model/laws/law";
import { criticalValues, studentPredictive } from "../../model/predictive";
import { chiSquaredUpper, fUpper } from "../../numerics/distributions";
import type { Matrix } from "../../numerics/least-squares";
import { dot, gram, solve } from "../elimination";

/** What a test's law says of its errors, beside its estimates. */
export interface Errors {
  /** Covariance of the coefficients, known or estimated, given X and its weights. */
  covariance(x: number[][], inverse: number[][]): number[][];
  /** Degrees of freedom of a contrast; null for large samples. */
  dfOf(contrast: ArrayLike<number>): number | null;
  /** Of one new trial about the model. */
  noise: number;
  dfTrial: number | null;
  /** λ of F with several columns; 1 unless said. */
  scaleOf?(df: number): number;
}

const matrixOf = (rows: number[][]): Matrix => ({
  rows: rows.length,
  cols: rows[0]?.length ?? 0,
  data: Float64Array.from(rows.flat()),
});
const rowsOf = (m: Matrix): number[][] =>
  Array.from({ length: m.rows }, (_, i) => Array.from(m.data.subarray(i * m.cols, (i + 1) * m.cols)));
const inverseOf = (a: number[][]): number[][] => {
  const columns = a.map((_, j) =>
    solve(
      a,
      a.map((__, i) => (i === j ? 1 : 0)),
    ),
  );
  return a.map((_, i) => columns.map((c) => c[i]));
};
const form = (m: number[][], x: ArrayLike<number>): number =>
  dot(
    Array.from(x),
    m.map((r) => dot(r, Array.from(x))),
  );

/**
 * A law for tests: weighted estimates by the normal equations, and errors as the law says. It shares no arithmetic with
 * the laws of the product.
 */
export function modelByNormalEquations(
  id: string,
  input: LawInput,
  weights: readonly number[],
  errorsOf: (x: number[][], residuals: number[], inverse: number[][]) => Errors,
): FittedModel {
  const { design, observed, link } = input;
  const n = observed.length;
  const x = rowsOf(design.matrix);
  const p = x[0].length;
  const root = weights.map(Math.sqrt);
  const estimate = (rows: number[][]): { b: number[]; e: number[]; inverse: number[][]; deviance: number } => {
    const w = rows.map((r, i) => r.map((v) => v * root[i]));
    const g = gram(w);
    const b = solve(
      g,
      rows[0].map((_, j) => w.reduce((t, r, i) => t + r[j] * observed[i] * root[i], 0)),
    );
    const e = rows.map((r, i) => observed[i] - dot(r, b));
    return { b, e, inverse: inverseOf(g), deviance: e.reduce((t, v, i) => t + weights[i] * v * v, 0) };
  };
  const here = estimate(x);
  const errors = errorsOf(x, here.e, here.inverse);
  const covariance = errors.covariance(x, here.inverse);
  const criteria = (deviance: number, k: number): Criteria => ({
    aicc: n <= k + 1 ? null : deviance + 2 * k + (2 * k * (k + 1)) / (n - k - 1),
    bic: deviance + k * Math.log(n),
  });
  const nullDeviance = estimate(x.map(() => [1])).deviance;
  const summary: LikelihoodSummary = {
    law: id,
    s: null,
    r2: 1 - here.deviance / nullDeviance,
    r2Adjusted: null,
    r2Predicted: null,
    r2AfterWaves: null,
    deviance: here.deviance,
    nullDeviance,
    criterion: here.deviance,
    residualDf: n - p,
    ...criteria(here.deviance, p),
  };
  /** Wald test that coefficients b with covariance c are zero. */
  const wald = (b: number[], c: number[][], k: Criteria, df: number | null): TermTest => {
    const scale = errors.scaleOf?.(b.length) ?? 1;
    const f = (scale * dot(b, solve(c, b))) / b.length;
    return {
      df: b.length,
      dfDenominator: df,
      f,
      p: df === null ? chiSquaredUpper(f * b.length, b.length) : fUpper(f, b.length, df),
      ...(scale === 1 ? {} : { scale }),
      ss: null,
      criteria: k,
    };
  };
  const unit = (j: number): number[] => Array.from({ length: p }, (_, i) => (i === j ? 1 : 0));
  const critical = criticalValues();
  const test = (at: readonly number[]): TermTest => {
    const rest = x.map((r) => r.filter((_, j) => !at.includes(j)));
    return wald(
      at.map((j) => here.b[j]),
      at.map((i) => at.map((j) => covariance[i][j])),
      criteria(estimate(rest).deviance, p - at.length),
      errors.dfOf(unit(at[0])),
    );
  };
  const anova = (): AnovaRow[] => {
    const keys = [...new Set(design.columns.slice(1).map((c) => c.key))];
    const terms = keys.map((key): AnovaRow => {
      const at = design.columns.flatMap((c, j) => (c.key === key ? [j] : []));
      const { df, dfDenominator, f, p: chance, scale } = test(at);
      return {
        source: "term",
        term: design.columns[at[0]].term,
        df,
        ss: null,
        sequentialSs: null,
        ms: null,
        f,
        p: chance,
        dfDenominator,
        ...(scale === undefined ? {} : { scale }),
      };
    });
    return [...terms, { source: "residual", df: n - p, ss: null, sequentialSs: null, ms: null, f: null, p: null }];
  };
  const addTerm = (m: Matrix): AddedTerm | null => {
    const wide = x.map((r, i) => [...r, ...Array.from(m.data.subarray(i * m.cols, (i + 1) * m.cols))]);
    const g = gram(wide.map((r, i) => r.map((v) => v * root[i])));
    const clear = m.cols > 0 && wide.length >= wide[0].length && g.every((r, j) => r[j] > 0);
    const to = clear ? estimate(wide) : undefined;
    if (!to?.b.every((v) => Number.isFinite(v) && Math.abs(v) < 1e8)) return null;
    const c = errorsOf(wide, to.e, to.inverse).covariance(wide, to.inverse);
    const at = Array.from({ length: m.cols }, (_, j) => p + j);
    const df = errors.dfOf(unit(0));
    return {
      ...wald(
        at.map((j) => to.b[j]),
        at.map((i) => at.map((j) => c[i][j])),
        criteria(to.deviance, p + m.cols),
        df,
      ),
      coefficients: at.map((j) => to.b[j]),
      covariance: {
        rows: at.length,
        cols: at.length,
        data: Float64Array.from(at.flatMap((j) => at.map((k) => c[j][k]))),
      },
      dfs: at.map(() => df),
    };
  };
  const model: FittedModel = {
    law: id,
    trials: design.data.trials.map((t) => t.id),
    observed,
    terms: design.terms,
    columns: design.columns,
    coefficients: Float64Array.from(here.b),
    covariance: matrixOf(covariance),
    ...DRAWN_ERRORS,
    dfOf: errors.dfOf,
    critical,
    unit: input.unit,
    link,
    exact: false,
    vif: design.columns.map(() => null),
    leverages: x.map((r, i) => weights[i] * form(here.inverse, r)),
    covariateRanges: design.covariateRanges,
    ...rowWriter(design),
    predictive(at) {
      return studentPredictive(
        {
          value: dot(here.b, Array.from(at)),
          variance: form(covariance, at),
          noise: errors.noise,
          df: errors.dfOf(at),
          dfTrial: errors.dfTrial,
        },
        critical,
      );
    },
    scale: 1,
    relative: (at) => form(covariance, at),
    relativeNoise: () => errors.noise,
    beyond: (at) => form(covariance, at) > Math.max(...x.map((r) => form(covariance, r))) * (1 + 1e-9),
    design: undefined,
    withNoise: () => model,
    residuals: (kind) => (kind === "scaled" ? here.e.map((e, i) => e * root[i]) : here.e),
    loadings: null,
    addTerm,
    test,
    compare: (smaller) =>
      test(design.columns.flatMap((c, j) => (smaller.columns.some((o) => o.key === c.key) ? [] : [j]))),
    whiten: (rows) => ({ ...rows, data: rows.data.map((v, k) => v * root[Math.floor(k / rows.cols)]) }),
    left: () => null,
    anova,
    summary,
    piecesOf: () => undefined,
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}
