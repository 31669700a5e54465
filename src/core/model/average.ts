import { mixture } from "../numerics/counts";
import { type Matrix, zeros } from "../numerics/least-squares";
import type { Column, CovariateRanges } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import type { FittedModel, Lot, ModelSummary } from "./fitted";
import { lotBy } from "./lots";
import { criticalValues, studentPredictive } from "./predictive";

/** How kept rivals are weighed in an average. */
export type Weighing = "akaike" | "equal";

/**
 * Weights of models in their average: equal, or Akaike's exp(−Δ/2) of AICc scaled to one (Burnham & Anderson 2002,
 * section 2.9). A model whose AICc is infinite weighs nothing; where none has one, all weigh the same.
 */
export function modelWeights(models: readonly { summary: ModelSummary }[], weighing: Weighing): number[] {
  const aicc = models.map((m) => m.summary.aicc ?? Number.POSITIVE_INFINITY);
  const best = Math.min(...aicc);
  if (weighing === "equal" || !Number.isFinite(best)) return models.map(() => 1 / models.length);
  const raw = aicc.map((a) => Math.exp((best - a) / 2));
  const total = raw.reduce((t, w) => t + w, 0);
  return raw.map((w) => w / total);
}

/** One model in an average, with where its columns stand in the row of all. */
interface Part {
  weight: number;
  model: FittedModel;
  joint: number[];
  row: Float64Array;
}

const columnKey = (c: Column): string => `${c.key}|${c.index}`;

/** The parts of an average and the columns of all its models. */
function partsOf(models: readonly FittedModel[], weights: readonly number[]): { columns: Column[]; parts: Part[] } {
  const positions = new Map<string, number>();
  const columns: Column[] = [];
  const parts = models.flatMap((model, i): Part[] => {
    if (!(weights[i] > 0)) return [];
    const joint = model.columns.map((c) => {
      const key = columnKey(c);
      const known = positions.get(key);
      if (known !== undefined) return known;
      positions.set(key, columns.length);
      columns.push(c);
      return columns.length - 1;
    });
    return [{ weight: weights[i], model, joint, row: new Float64Array(joint.length) }];
  });
  return { columns, parts };
}

/** Coefficients averaged with zeros, and their covariance Σw(C + (β − β̄)(β − β̄)′). */
function coefficientsOf(
  parts: readonly Part[],
  width: number,
): { coefficients: Float64Array; covariance: Matrix | null } {
  const coefficients = new Float64Array(width);
  for (const { weight, model, joint } of parts)
    joint.forEach((c, j) => {
      coefficients[c] += weight * model.coefficients[j];
    });
  if (parts.some((p) => p.model.covariance === null)) return { coefficients, covariance: null };
  const covariance = zeros(width, width);
  for (const { weight, model, joint } of parts) {
    const off = coefficients.map((b) => -b);
    joint.forEach((c, j) => {
      off[c] += model.coefficients[j];
    });
    for (let a = 0; a < width; a++)
      for (let b = 0; b < width; b++) covariance.data[a * width + b] += weight * off[a] * off[b];
    joint.forEach((a, i) => {
      joint.forEach((b, j) => {
        covariance.data[a * width + b] += weight * (model.covariance?.data[i * joint.length + j] ?? 0);
      });
    });
  }
  return { coefficients, covariance };
}

/** Residuals of an average by trial: those of its models by their weights, over all trials any of them has. */
function residualsOf(parts: readonly Part[], trials: readonly string[]): number[] {
  const total = new Map<string, number>();
  for (const { weight, model } of parts) {
    const raw = model.residuals("raw");
    model.trials.forEach((id, i) => {
      total.set(id, (total.get(id) ?? 0) + weight * (raw[i] ?? 0));
    });
  }
  return trials.map((id) => total.get(id) ?? 0);
}

/** What only a single model answers. */
const single = (): never => {
  throw new Error("An average of models has no terms to test; ask the model it is shown by.");
};

/**
 * The average of several models of one response as a model: coefficients averaged with zeros, variance
 * Σw(var + (ŷ − ȳ)²) (Burnham & Anderson 2002, equation 4.9), intervals with t at the fewest degrees of freedom among
 * the models that weigh at all; a new trial is drawn from a model by its weight.
 *
 * @param shown the model whose terms are chosen, which answers what is asked of terms, residual tests and summary
 */
// The members of one interface, over the parts they share.
export function averageOf(models: readonly FittedModel[], weights: readonly number[], shown: FittedModel): FittedModel {
  const { columns, parts } = partsOf(models, weights);
  const { coefficients, covariance } = coefficientsOf(parts, columns.length);
  const dfs = parts.map((p) => p.model.dfOf(p.row)).filter((d): d is number => d !== null);
  const df = dfs.length > 0 ? Math.min(...dfs) : null;
  const critical = criticalValues();
  const scales = parts.map((p) => p.model.scale);
  const scale = scales.some((s) => s === null)
    ? null
    : Math.sqrt(parts.reduce((t, p) => t + p.weight * (p.model.scale ?? 0) ** 2, 0));
  const trials = [...new Set(parts.flatMap((p) => p.model.trials))];
  const ranges: CovariateRanges = new Map(parts.flatMap((p) => [...p.model.covariateRanges]));
  const terms = new Map(parts.flatMap((p) => p.model.terms.map((t) => [termKey(t), t])));
  const narrow = (row: Float64Array): void => {
    for (const p of parts) for (let j = 0; j < p.joint.length; j++) p.row[j] = row[p.joint[j]];
  };
  const widen = (into: Float64Array): void => {
    into.fill(0);
    for (const p of parts) for (let j = 0; j < p.joint.length; j++) into[p.joint[j]] = p.row[j];
  };
  const mean = (figureOf: (p: Part) => number): number => parts.reduce((t, p) => t + p.weight * figureOf(p), 0);
  const lot = (row: Float64Array, sizes: readonly number[], shift?: number): Lot | null => {
    narrow(row);
    const each = parts.map((p) => p.model.lots?.lot(p.row, sizes, shift) ?? null);
    if (!each.every((l): l is Lot => l !== null)) return null;
    return lotBy(
      mixture(
        each.map((l) => l.law),
        parts.map((p) => p.weight),
      ),
      sizes.reduce((t, v) => t + v, 0),
    );
  };
  const { likelihood, repetitions, ownErrors } = shown;
  const lots = shown.lots && { ...shown.lots, lot };
  return {
    likelihood,
    repetitions,
    ownErrors,
    // Components belong to each of them, not to their mean.
    setups: null,
    lots,
    law: shown.law,
    observed: shown.observed,
    unit: shown.unit,
    link: shown.link,
    exact: shown.exact,
    leverages: shown.leverages,
    summary: shown.summary,
    anova: shown.anova,
    whiten: shown.whiten,
    left: shown.left,
    terms: [...terms.values()],
    trials,
    columns,
    coefficients,
    covariance,
    dfOf: () => df,
    critical,
    vif: columns.map(() => null),
    covariateRanges: ranges,
    scale,
    design: undefined,
    loadings: null,
    linear(settings, into) {
      for (const p of parts) p.model.linear(settings, p.row);
      widen(into);
    },
    varying(point, ids) {
      const vary = parts.map((p) => p.model.varying(point, ids));
      return (settings, into) => {
        parts.forEach((p, i) => {
          vary[i](settings, p.row);
        });
        widen(into);
      };
    },
    predictive(row) {
      narrow(row);
      const each = parts.map((p) => ({ weight: p.weight, said: p.model.predictive(p.row) }));
      const value = each.reduce((t, m) => t + m.weight * m.said.value, 0);
      const known = each.every((m) => m.said.variance !== null && m.said.noise !== null);
      const variance = each.reduce((t, m) => t + m.weight * ((m.said.variance ?? 0) + (m.said.value - value) ** 2), 0);
      const noise = each.reduce((t, m) => t + m.weight * (m.said.noise ?? 0), 0);
      const student = studentPredictive(
        { value, variance: known ? variance : null, noise: known ? noise : null, df, dfTrial: df },
        critical,
      );
      const at = row.slice();
      return {
        ...student,
        interval(confidence, m, of = lots?.usual ?? 1) {
          if (m === undefined || !lots) return student.interval(confidence, m);
          const ends = lot(
            at,
            Array.from({ length: m }, () => of),
          )?.interval(confidence);
          return ends ? [shown.link.forward(ends[0]), shown.link.forward(ends[1])] : null;
        },
        draw(random) {
          const u = random.uniform();
          let upTo = 0;
          for (const m of each) {
            upTo += m.weight;
            if (u < upTo) return m.said.draw(random);
          }
          return each[each.length - 1].said.draw(random);
        },
      };
    },
    relative(row) {
      narrow(row);
      return mean((p) => p.model.relative(p.row));
    },
    relativeNoise(row) {
      narrow(row);
      return mean((p) => p.model.relativeNoise(p.row));
    },
    beyond(row) {
      narrow(row);
      return parts.some((p) => p.model.beyond(p.row));
    },
    withNoise: (s) =>
      averageOf(
        parts.map((p) => p.model.withNoise(s)),
        parts.map((p) => p.weight),
        shown,
      ),
    // The spread of units is that of the model that is shown.
    piecesOf: () => shown.piecesOf(),
    residuals: (kind) => (kind === "raw" ? residualsOf(parts, trials) : single()),
    addTerm: single,
    test: single,
    compare: single,
    members: parts.flatMap((p) => p.model.members.map((m) => ({ ...m, weight: p.weight * m.weight }))),
  };
}
