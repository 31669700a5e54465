import type { ModelData } from "./data";
import type { FittedModel } from "./fitted";

/**
 * A size on the link as it is about a value of the linear predictor: points of share, from half of it below to half
 * above; or, of a count, the ratio of the rates, which is the same everywhere. Undefined where nothing is counted.
 */
export function effectOnResponseScale(
  { data: { counted }, model: { link } }: { data: Pick<ModelData, "counted">; model: Pick<FittedModel, "link"> },
  value: number,
  size: number,
): { points: number } | { ratio: number } | undefined {
  if (!counted) return undefined;
  return counted.kind === "share"
    ? { points: 100 * (link.back(value + size / 2) - link.back(value - size / 2)) }
    : { ratio: Math.exp(size) };
}
