import { exactShareInterval } from "../../numerics/counts";
import type { KindLot } from "../lot";

export const shareLot: KindLot = {
  interval(events, of, beyond, confidence) {
    const left = of / (1 + (of - 1) * beyond);
    return exactShareInterval((events / of) * left, left, confidence);
  },
};
