import { clearOf, information, type Matrix, pickColumns, quadraticForm } from "../../numerics/least-squares";
import { rowWriter } from "../design";
import type { AnovaRow, FittedModel } from "../fitted";
import { eventsOf } from "./counted-events";
import { addTerm, anovaOf, testOf } from "./counted-judged";
import { predictedOf } from "./counted-predicted";
import { type CountedMaximum, type Solved, solve, solvedOf, startOf, upTo } from "./counted-solved";
import { residualsOf, summaryOf } from "./counted-summary";
import type { Counted } from "./counting";
import { judgeCounts } from "./judge";
import { columnsBeyond, type Law } from "./law";
import { Surface } from "./likelihood";

/** The model of what was solved. */
function modelOf(s: Solved, id: string): FittedModel {
  const { input, counted, data, solution, n, p, phi, df, roots, counting } = s;
  const { design } = input;
  const nullDeviance = new Surface({ x: pickColumns(design.matrix, [0]), counting, penalised: false }).maximum(
    [0],
    startOf(counted, data, 1),
  ).deviance;
  let anova: AnovaRow[] | undefined;
  const predicted = predictedOf(s);
  const { known } = predicted;
  const plainInverse = (): Matrix => information(design.matrix).inverse;
  let inverse: Matrix | undefined;
  const place = (row: Float64Array): number => {
    inverse ??= plainInverse();
    return quadraticForm(inverse, row);
  };
  let farthest: number | undefined;
  let vif: (number | null)[] | undefined;
  const model: FittedModel = {
    law: id,
    trials: design.data.trials.map((t) => t.id),
    observed: input.observed,
    terms: design.terms,
    columns: design.columns,
    coefficients: predicted.coefficients,
    covariance: known ? { ...solution.inverse, data: solution.inverse.data.map((v) => v * (phi ?? 0)) } : null,
    dfOf: () => (known ? df : 0),
    critical: predicted.critical,
    unit: undefined,
    link: counted.link,
    exact: false,
    get vif() {
      inverse ??= plainInverse();
      vif ??= vifOf(design.matrix, inverse);
      return vif;
    },
    leverages: solution.leverage,
    covariateRanges: design.covariateRanges,
    ...rowWriter(design),
    predictive: predicted.predictive,
    scale: known && phi !== null ? Math.sqrt(phi) : null,
    relative: (row) => quadraticForm(solution.inverse, row),
    relativeNoise: (row) => (phi ? (model.predictive(row).noise ?? 0) / phi : 0),
    beyond(row) {
      farthest ??= Math.max(...upTo(n).map((i) => place(design.matrix.data.slice(i * p, (i + 1) * p))));
      return place(row) > farthest * (1 + 1e-9);
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
    whiten: (rows) => ({ ...rows, data: rows.data.map((v, k) => v * roots[Math.floor(k / rows.cols)]) }),
    left(values, once) {
      const e = Float64Array.from(values, (v, i) => v * roots[i]);
      for (let pass = 0; pass < (once ? 1 : 2); pass++) clearOf(solution.basis, e);
      return e;
    },
    anova() {
      anova ??= anovaOf(s, nullDeviance);
      return anova;
    },
    summary: summaryOf(s, nullDeviance, id),
    piecesOf: () => undefined,
    ...eventsOf(s, predicted),
    ownErrors: true,
    setups: null,
    get members() {
      return [{ weight: 1, model }];
    },
  };
  return model;
}

/** VIF of each column but the constant, of the design itself. */
function vifOf({ rows, cols, data }: Matrix, inverse: Matrix): (number | null)[] {
  return upTo(cols).map((j) => {
    if (j === 0) return null;
    let sum = 0;
    for (let i = 0; i < rows; i++) sum += data[i * cols + j];
    let squares = 0;
    for (let i = 0; i < rows; i++) squares += (data[i * cols + j] - sum / rows) ** 2;
    return inverse.data[j * cols + j] * squares;
  });
}

/** A law of counts: events fitted by iteratively reweighted least squares through the QR. */
export const countingLaw = (counted: Counted, id: string): Law<CountedMaximum> => ({
  id,
  link: counted.link,
  singly: true,
  judge: (study, largest) => judgeCounts(counted, study, largest),
  solve: (input) => solve(counted, input),
  model: (input, found) => modelOf(solvedOf(counted, input, found), id),
});
