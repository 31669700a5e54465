import { resultValue } from "./measured";
import type { Goal, Response, Study } from "./schema";

/** Results without which nothing is proposed. */
const LEAST = 3;

/**
 * Limits for an aim that has none, from what was measured: as good as the best trial, and never worse than the middle
 * one. Undefined for other aims, few results, or results that are all alike.
 */
export function proposedLimits(
  study: Pick<Study, "trials">,
  response: Response,
  aim: Goal["aim"],
): (Goal & { aim: "raise" | "lower" }) | undefined {
  if (aim !== "raise" && aim !== "lower") return undefined;
  const values = study.trials
    .flatMap((t) => (t.use && t.state === "done" ? (resultValue(t.results[response.id], response) ?? []) : []))
    .sort((a, b) => a - b);
  if (values.length < LEAST) return undefined;
  const middle = (values[(values.length - 1) >> 1] + values[values.length >> 1]) / 2;
  const best = aim === "raise" ? values[values.length - 1] : values[0];
  // Three figures of how far they lie apart: nobody states limits finer.
  const unit = 10 ** (Math.floor(Math.log10(Math.abs(best - middle))) - 1);
  const round = (v: number): number => Number((Math.round(v / unit) * unit).toPrecision(10));
  const [low, high] = [round(Math.min(middle, best)), round(Math.max(middle, best))];
  return low < high ? { aim, low, high } : undefined;
}
