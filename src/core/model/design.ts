import { type Matrix, pickColumns, rankReport } from "../numerics/least-squares";
import type { Settings, Study, Term } from "../study/schema";
import {
  type Column,
  type CovariateRanges,
  type Encoder,
  encoder,
  modelMatrix,
  type StandingColumns,
  waveColumns,
} from "../terms/model-matrix";
import { covariateRanges, type ModelData } from "./model-data";

/** A column that cannot be estimated beside those kept, and what it equals of them. */
export interface DroppedColumn {
  term: Term;
  level?: string;
  equals: { term: Term; level?: string; factor: number }[];
}

/** The columns a model is fitted on: those of its terms that its trials can estimate. */
export interface Design {
  data: ModelData;
  terms: readonly Term[];
  columns: Column[];
  /** As-run settings, one row per trial, not weighted. */
  matrix: Matrix;
  dropped: DroppedColumn[];
  covariateRanges: CovariateRanges;
  encoded: Encoder;
  /** Place in the encoder's row of each kept column; −1 for columns of waves and of the centre. */
  encoderAt: number[];
}

/** What names a column in figures and sentences. */
export const columnLabel = (c: Column): { term: Term; level?: string } =>
  c.level === undefined ? { term: c.term } : { term: c.term, level: c.level };

/**
 * Chooses the columns of a model. What a plan can estimate is judged on planned settings, so that a slightly different
 * as-run value does not break a chain; as-run settings may then lose more, when a factor was not set as planned.
 */
export function designOf(
  study: Study,
  data: ModelData,
  terms: readonly Term[],
  useBlocks: boolean,
  curvature?: StandingColumns,
): Design {
  const ranges = covariateRanges(study, data);
  const encoded = encoder(study, terms, "sum", ranges);
  const waves = useBlocks ? waveColumns(data.waves, new Map(study.waves.map((w) => [w.id, w.name]))) : undefined;
  const all = modelMatrix(encoded, data.actual, waves, curvature);
  const asPlanned = data.trials.every((t) => t.asRun === undefined);
  const judged = rankReport(asPlanned ? all.matrix : modelMatrix(encoded, data.planned, waves, curvature).matrix);
  const dropped: DroppedColumn[] = [];
  const drop = (report: ReturnType<typeof rankReport>, columnOf: (column: number) => number): void => {
    for (const d of report.dropped)
      dropped.push({
        ...columnLabel(all.columns[columnOf(d.column)]),
        equals: d.equals.map((e) => ({ ...columnLabel(all.columns[columnOf(e.column)]), factor: e.factor })),
      });
  };
  drop(judged, (j) => j);
  let kept = judged.kept;
  if (!asPlanned) {
    const first = kept;
    const second = rankReport(pickColumns(all.matrix, first));
    drop(second, (j) => first[j]);
    kept = second.kept.map((j) => first[j]);
  }
  const columns = kept.map((j) => all.columns[j]);
  const positions = new Map(encoded.columns.map((c, j) => [`${c.key}|${c.index}`, j]));
  return {
    data,
    terms,
    columns,
    matrix: pickColumns(all.matrix, kept),
    dropped,
    covariateRanges: ranges,
    encoded,
    encoderAt: columns.map((c) => positions.get(`${c.key}|${c.index}`) ?? -1),
  };
}

/**
 * Writes model rows of settings: what every law shares of a `FittedModel`. Wave columns are 0, their average; the
 * centre's column is 0, the plane of the corners.
 */
export function rowWriter(design: Design): {
  linear(settings: Settings, into: Float64Array): void;
  varying(settings: Settings, ids: readonly string[]): (settings: ArrayLike<number>, into: Float64Array) => void;
} {
  const { encoded, encoderAt, covariateRanges: ranges } = design;
  const row = new Float64Array(encoded.columns.length);
  const middles = Object.fromEntries([...ranges].map(([id, [low, high]]) => [id, (low + high) / 2]));
  const complete = (settings: Settings): Settings => (ranges.size > 0 ? { ...middles, ...settings } : settings);
  const pick = (into: Float64Array): void => {
    for (let j = 0; j < encoderAt.length; j++) into[j] = encoderAt[j] < 0 ? 0 : row[encoderAt[j]];
  };
  return {
    linear(settings, into) {
      encoded.row(complete(settings), row);
      pick(into);
    },
    varying(point, ids) {
      const vary = encoded.varying(complete(point), ids);
      return (settings, into) => {
        vary(settings, row);
        pick(into);
      };
    },
  };
}
