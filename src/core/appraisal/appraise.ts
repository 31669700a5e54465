import { block, determinant, type Matrix, pickColumns } from "../numerics/least-squares";
import { isNumeric, rangeOf, sameSetting, significance } from "../study/coding";
import { StudyError } from "../study/error";
import { expectedNoise } from "../study/measured";
import { activeFactors } from "../study/roles";
import type { Settings, Study, Term } from "../study/schema";
import { possibleTerms, termSet } from "../terms/candidates";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import { messageText } from "../words/answers";
import {
  type AliasMatrix,
  aliasChains,
  aliasMatrix,
  correlations,
  regularOf,
  type TermMapEntry,
  termMap,
  withStrata,
} from "./aliasing";
import { reaches, termPower } from "./power";
import { type StrataReport, strataReport } from "./strata-report";
import { type PointModel, type Points, pointModel, pointsOf } from "./terms-info";
import { fractionOfSpace, largestVariance, meanVariance, regionSample, varianceReader } from "./variance";

export interface AppraisalOptions {
  terms?: Term[];
  possible?: Term[];
  noise?: number;
  effect?: number;
  alpha?: number;
  /** Variance between set-ups over that within; as the waves were planned for unless said. */
  eta?: number;
}

/** Everything that can be said of a set of trials before a result is in. Shape as in the contract. */
export interface Appraisal {
  n: number;
  p: number;
  df: { model: number; lackOfFit: number; pureError: number };
  efficiency: { d: number | null; a: number | null; g: number | null; i: number | null };
  resolution: number | null;
  definingRelation: string[] | null;
  wordLengthPattern: number[] | null;
  chains: Term[][];
  chainSigns: number[][];
  alias: AliasMatrix;
  correlation: { terms: Term[]; values: number[][] };
  vif: { term: Term; value: number }[];
  standardError: { term: Term; level: string | null; value: number }[];
  /** With set-ups, `df` is what the term is tested on. */
  power: { term: Term; effect: number; value: number | null; df?: number | null }[];
  /** Where hard factors are kept over several trials; all figures are those of V = I + ηZZ′ then. */
  setups?: StrataReport;
  space: { fraction: number; value: number }[];
  map: TermMapEntry[];
  leverage: number[];
  lost: Term[];
  readings: { kind: "finding" | "caution" | "next step"; text: string; evidence: string }[];
}

/** Groups points with the same settings after rounding to the step; returns the cell of each. */
export function cellsOf(study: Study, settings: readonly Settings[]): number[] {
  const factors = activeFactors(study);
  // Settings are looked up by their printed form first, then among the few cells that are near in the first numeric
  // factor, so that a thousand trials cost no million comparisons.
  const known = new Map<string, number>();
  const lead = factors.find(isNumeric);
  const near = new Map<number, { settings: Settings; cell: number }[]>();
  const stepped = lead?.kind === "continuous" ? lead.step : undefined;
  const [low, high] = lead ? rangeOf(lead) : [0, 0];
  const grain = stepped ?? 1e-6 * Math.max(Math.abs(low), Math.abs(high), high - low);
  const slot = (s: Settings): number => (lead ? Math.round(((s[lead.id] as number) - low) / grain) : 0);
  const reach = lead && stepped === undefined ? 1 : 0;
  let count = 0;
  return settings.map((s) => {
    const text = factors.map((f) => String(s[f.id])).join("|");
    const seen = known.get(text);
    if (seen !== undefined) return seen;
    const cellSlot = slot(s);
    let cell: number | undefined;
    for (let d = -reach; d <= reach && cell === undefined; d++)
      cell = near
        .get(cellSlot + d)
        ?.find((other) => factors.every((f) => sameSetting(f, s[f.id], other.settings[f.id])))?.cell;
    if (cell === undefined) {
      cell = count++;
      near.set(cellSlot, [...(near.get(cellSlot) ?? []), { settings: s, cell }]);
    }
    known.set(text, cell);
    return cell;
  });
}

/** Pure-error degrees of freedom: n less the rank of cells plus additive waves. */
export function pureErrorDf(cells: readonly number[], waves: readonly string[]): number {
  // Rank of cells + waves is cells + waves − connected components of the cell–wave graph.
  const waveIds = [...new Set(waves)];
  const cellCount = new Set(cells).size;
  const parent = Array.from({ length: cellCount + waveIds.length }, (_, i) => i);
  const index = new Map([...new Set(cells)].map((c, i) => [c, i]));
  const find = (i: number): number => {
    let root = i;
    while (parent[root] !== root) root = parent[root];
    return root;
  };
  cells.forEach((c, i) => {
    parent[find(index.get(c) ?? 0)] = find(cellCount + waveIds.indexOf(waves[i]));
  });
  const components = parent.filter((p, i) => p === i).length;
  return cells.length - (cellCount + waveIds.length - components);
}

/**
 * Generalised variance inflation per term, GVIF^(1/df) (Fox & Monette 1992), waves included in the model; what set-ups
 * vary is no part of it.
 */
export function termVif(model: PointModel, terms: readonly Term[]): { term: Term; value: number }[] {
  const x = pickColumns(model.matrix, model.rank.kept);
  return terms.flatMap((term) => {
    const key = termKey(term);
    const columns = model.kept.flatMap((c, j) => (c.key === key ? [j] : []));
    if (columns.length === 0) return [];
    const value = determinant(block(model.plain.inverse, columns)) * determinant(centredProducts(x, columns));
    return [{ term, value: value ** (1 / columns.length) }];
  });
}

/** Sums of products about the mean of the listed columns. */
export function centredProducts(x: Matrix, columns: readonly number[]): Matrix {
  const n = x.rows;
  const means = columns.map((j) => {
    let t = 0;
    for (let i = 0; i < n; i++) t += x.data[i * x.cols + j];
    return t / n;
  });
  const out: Matrix = { rows: columns.length, cols: columns.length, data: new Float64Array(columns.length ** 2) };
  for (let i = 0; i < n; i++)
    for (let a = 0; a < columns.length; a++)
      for (let b = 0; b < columns.length; b++)
        out.data[a * columns.length + b] +=
          (x.data[i * x.cols + columns[a]] - means[a]) * (x.data[i * x.cols + columns[b]] - means[b]);
  return out;
}

const finiteOr = (v: number): number | null => (Number.isFinite(v) ? v : null);

/**
 * Appraises points for a model against possible terms.
 *
 * Efficiencies use orthonormal contrasts for categories (D, A) so that they do not depend on coding; waves are in
 * the model but not among the parameters D and A speak of.
 * @throws StudyError when there are no trials or nothing varies
 */
// One figure of the plan after another off one model matrix; parts would pass a dozen values on.
export function appraisePoints(study: Study, points: Points, options: AppraisalOptions = {}): Appraisal {
  const n = points.settings.length;
  if (n === 0) throw new StudyError("no-trials.appraise", {}, ["trials"]);
  const terms = options.terms ?? termSet(study, "main");
  const possible = options.possible ?? possibleTerms(study, terms);
  const alpha = options.alpha ?? significance(study);
  const first = study.responses[0];
  const effect = options.effect ?? first?.smallest ?? 2;
  const noise = options.noise ?? (first && expectedNoise(first)) ?? 1;

  const model = pointModel(study, points, terms);
  const residualDf = n - model.rank.rank;
  const lost = terms.filter((t) => model.rank.dropped.some((d) => model.columns[d.column].key === termKey(t)));
  const complete = model.rank.dropped.length === 0;
  const cells = cellsOf(study, points.settings);
  const pure = Math.min(residualDf, pureErrorDf(cells, points.waves));

  const readings: Appraisal["readings"] = [];
  if (!complete)
    readings.push({
      kind: "caution",
      text: messageText("readings", { code: "no-efficiencies", values: {} }),
      evidence: "map",
    });
  if (residualDf < 1)
    readings.push({
      kind: "caution",
      text: messageText("readings", { code: "no-power", values: {} }),
      evidence: "df",
    });

  const sample = regionSample(study);
  const encoded = encoder(study, terms);
  const d = varianceReader(encoded, model.kept, model.inverse);
  const space = complete ? fractionOfSpace(d, sample) : [];
  let efficiency: Appraisal["efficiency"] = { d: null, a: null, g: null, i: null };
  if (complete) {
    const p = encoded.columns.length;
    const even = pointModel(study, points, terms, "orthonormal");
    const termColumns = even.kept.flatMap((c, j) => (c.key === "@wave" ? [] : [j]));
    // With waves, |X′X| after waves: the determinant of the terms' block of the inverse, inverted.
    const detInverse = determinant(block(even.inverse, termColumns));
    let trace = 0;
    for (const j of termColumns) trace += even.inverse.data[j * even.inverse.cols + j];
    const waves = even.kept.length !== termColumns.length;
    const dEfficiency = waves ? (100 * detInverse ** (-1 / p)) / n : (100 * Math.exp(even.logDeterminant / p)) / n;
    const largest = largestVariance(study, d, sample, p);
    if (largest.atLeast)
      readings.push({
        kind: "caution",
        text: messageText("readings", { code: "g-at-most", values: {} }),
        evidence: "power",
      });
    efficiency = {
      d: finiteOr(dEfficiency),
      a: finiteOr((100 * p) / (n * trace)),
      g: finiteOr((100 * p) / (n * largest.value)),
      i: finiteOr(meanVariance(study, model.kept, model.inverse, d, sample)),
    };
  }
  const regular = regularOf(study, points);
  const chains = regular ? aliasChains(regular) : [];
  const candidates = [...terms, ...possible];
  const table = correlations(study, points, candidates);
  const kept = model.whiten(pickColumns(model.matrix, model.rank.kept));
  const row = new Float64Array(kept.cols);
  const leverage = points.settings.map((_, i) => {
    row.set(kept.data.subarray(i * kept.cols, (i + 1) * kept.cols));
    let total = 0;
    for (let a = 0; a < kept.cols; a++)
      for (let b = 0; b < kept.cols; b++) total += row[a] * row[b] * model.inverse.data[a * kept.cols + b];
    return total;
  });
  return {
    n,
    p: model.rank.rank,
    df: { model: model.rank.rank - 1, lackOfFit: residualDf - pure, pureError: pure },
    efficiency,
    resolution: regular?.resolution ?? null,
    definingRelation: regular && regular.definingRelation.length > 0 ? regular.definingRelation : null,
    wordLengthPattern: regular && regular.definingRelation.length > 0 ? regular.wordLengthPattern : null,
    chains: chains.map((c) => c.map((m) => m.term)),
    chainSigns: chains.map((c) => c.map((m) => m.sign)),
    alias: aliasMatrix(study, points, model, possible),
    correlation: { terms: table.terms, values: table.values },
    vif: termVif(model, terms),
    standardError: model.kept.flatMap((c, j) =>
      c.key === "@wave"
        ? []
        : [
            {
              term: c.term,
              level: c.level ?? null,
              value: Math.sqrt(model.inverse.data[j * model.inverse.cols + j]),
            },
          ],
    ),
    power: reaches(study, model, terms).map((r) => ({
      term: r.term,
      effect,
      value: termPower(r, effect / noise, alpha, residualDf),
      ...(r.errorDf === undefined ? {} : { df: r.errorDf }),
    })),
    ...(model.strata ? { setups: strataReport(study, points, model, terms) } : {}),
    space,
    map: withStrata(study, points, termMap(table)),
    leverage,
    lost,
    readings,
  };
}

/** Appraises all trials of a study, whatever their results. */
export const appraise = (study: Study, options: AppraisalOptions = {}): Appraisal =>
  appraisePoints(study, pointsOf(study, options.eta), options);
