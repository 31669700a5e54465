import { exactRateInterval } from "../../numerics/counts";
import type { KindLot } from "../lot";

export const countLot: KindLot = {
  interval(events, of, beyond, confidence) {
    const times = 1 + beyond * events;
    return exactRateInterval(events / times, of / times, confidence);
  },
};
