import { type CountLaw, central, within } from "../numerics/counts";
import type { Lot } from "./fitted";

/** A total of this size that falls by a law. */
export function lotBy(law: CountLaw, of: number): Lot {
  // A limit of a share is met by the count that makes it, whatever rounding says.
  const near = 1e-9;
  return {
    law,
    of,
    within: (low, high) =>
      within(law, Math.max(0, low * of - near), Number.isFinite(high) ? high * of + near : Number.POSITIVE_INFINITY),
    interval(confidence) {
      const [low, high] = central(law, (1 - confidence) / 2);
      return [low / of, high / of];
    },
  };
}
