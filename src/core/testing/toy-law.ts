import type { KindLaw } from "../kinds/law";
import { valueLaw } from "../kinds/value/law";
import { gap } from "./toy-kind";

/** Middles vary as values do. */
export const gapLaw: KindLaw = {
  ...valueLaw,
  gathered: () => ({}),
  onFitted(result, about, link) {
    const middle = gap.value(result, about);
    return middle === null ? null : link.forward(middle);
  },
};
