import { KIND_LAWS } from "../kinds/laws";
import type { Matrix } from "../numerics/least-squares";
import { Surface } from "./laws/likelihood";
import type { CountedData } from "./model-data";

/**
 * Deviance that a model without some columns leaves of the events expected with them, for each piece or unit of
 * exposure of a trial: the noncentrality that n of them bring is n times this over the dispersion (exemplary data,
 * Self, Mauritsen & Ohara 1992; O'Brien 1986).
 *
 * @param x all columns of the model, the constant first
 * @param columns that are left out
 * @param effects of the columns left out, on the link
 */
export function exemplaryDeviance(
  { kind, base }: { kind: string; base: number },
  x: Matrix,
  columns: readonly number[],
  effects: readonly number[],
): number {
  const law = KIND_LAWS[kind].counting;
  if (!law) throw new Error(`no events are counted of a ${kind}`);
  const constant = law.link.forward(base);
  const events = Array.from({ length: x.rows }, (_, i) =>
    law.rate(columns.reduce((t, j, k) => t + effects[k] * x.data[i * x.cols + j], constant)),
  );
  const data: CountedData = { kind: law.kind, events, of: events.map(() => 1), usual: 1, scatter: "counting" };
  const surface = new Surface({ x, counting: law.counting(data, 0), penalised: false });
  const out = new Set(columns);
  const keep = Array.from({ length: x.cols }, (_, j) => j).filter((j) => !out.has(j));
  const start = new Float64Array(x.cols);
  start[0] = constant;
  return surface.maximum(keep, start, 60).deviance;
}
