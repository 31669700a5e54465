import type { Link } from "./fitted";

/**
 * A size on the link as it is about a value of the linear predictor: points of share, from half of it below to half
 * above; or, of a count, the ratio of the rates, which is the same everywhere. Undefined where nothing is counted.
 */
export function effectOnResponseScale(
  link: Link,
  value: number,
  size: number,
): { points: number } | { ratio: number } | undefined {
  if (!link.multiplies) return undefined;
  return link.multiplies === "odds"
    ? { points: 100 * (link.back(value + size / 2) - link.back(value - size / 2)) }
    : { ratio: Math.exp(size) };
}
