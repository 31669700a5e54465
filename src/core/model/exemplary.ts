import type { Matrix } from "../numerics/least-squares";
import type { CountedPlan } from "../study/measured";
import type { CountedData } from "./data";
import { eventCounting, shareCounting } from "./laws/counting";
import { Surface } from "./laws/likelihood";

/** Scatter beyond counting (ρ or κ) that an expected excess stands for. */
const extraOf = ({ kind, of, base, excess }: CountedPlan): number =>
  kind === "share" ? (of > 1 ? Math.max(0, (excess - 1) / (of - 1)) : 0) : Math.max(0, (excess - 1) / (of * base));

/**
 * Variance over that of counting with other numbers of pieces: with more of them the scatter between trials weighs
 * more, 1 + (n − 1)ρ of shares and 1 + κμ of counts.
 */
export function excessAt(plan: CountedPlan, of: number): number {
  if (plan.excess <= 1) return plan.excess;
  return plan.kind === "share" ? 1 + (of - 1) * extraOf(plan) : 1 + of * plan.base * extraOf(plan);
}

/** Half the change of the linear predictor, about the base, that makes a change of share or rate from low to high. */
export function halfChange({ kind, base }: Pick<CountedPlan, "kind" | "base">, change: number): number {
  if (kind === "count") return Math.asinh(change / (2 * base));
  // sinh u/(cosh u + cosh η₀) = Δ.
  const middle = Math.cosh(shareCounting.link.forward(base));
  let low = 0;
  let high = 40;
  for (let i = 0; i < 100; i++) {
    const u = (low + high) / 2;
    if (Math.sinh(u) / (Math.cosh(u) + middle) < change) low = u;
    else high = u;
  }
  return (low + high) / 2;
}

/**
 * Change of the linear predictor from the base up by this much, or down where that leaves what a share may be; the
 * farther of both where neither way is so far.
 */
export function edgeChange({ kind, base }: Pick<CountedPlan, "kind" | "base">, change: number): number {
  if (kind === "count") return Math.log1p(change / base);
  const { forward } = shareCounting.link;
  const far = Math.min(change, 0.999 * Math.max(base, 1 - base));
  return base + far < 1 ? forward(base + far) - forward(base) : forward(base - far) - forward(base);
}

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
  { kind, base }: Pick<CountedPlan, "kind" | "base">,
  x: Matrix,
  columns: readonly number[],
  effects: readonly number[],
): number {
  const law = kind === "share" ? shareCounting : eventCounting;
  const constant = law.link.forward(base);
  const events = Array.from({ length: x.rows }, (_, i) =>
    law.rate(columns.reduce((t, j, k) => t + effects[k] * x.data[i * x.cols + j], constant)),
  );
  const data: CountedData = { kind, events, of: events.map(() => 1), usual: 1, scatter: "counting" };
  const surface = new Surface({ x, counting: law.counting(data, 0), penalised: false });
  const out = new Set(columns);
  const keep = Array.from({ length: x.cols }, (_, j) => j).filter((j) => !out.has(j));
  const start = new Float64Array(x.cols);
  start[0] = constant;
  return surface.maximum(keep, start, 60).deviance;
}
