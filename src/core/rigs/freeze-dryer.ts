import type { Rig } from "./rig";

/**
 * A freeze dryer for raspberry slices, made up. Moisture falls off exponentially and cannot pass zero; colour has an
 * optimum in shelf temperature.
 */
export const freezeDryer: Rig = {
  id: "freeze-dryer",
  name: "freeze dryer",
  knobs: [
    { id: "shelf", name: "Shelf temperature", range: [20, 50] },
    { id: "pressure", name: "Chamber pressure", range: [10, 50] },
    { id: "slice", name: "Slice thickness", range: [4, 12] },
  ],
  gauges: [
    { id: "moisture", name: "Residual moisture", decimals: 2 },
    { id: "colour", name: "Colour kept", decimals: 1 },
  ],
  run({ x, random }) {
    const t = x("shelf");
    const p = x("pressure");
    const s = x("slice");
    return {
      moisture: Math.max(0.05, 2.4 * Math.exp(-0.85 * t + 0.7 * s + 0.2 * p) + 0.12 * random.normal()),
      colour: Math.min(100, 84 - 5 * t - 2 * p + 1.5 * s - 6 * t * t - 2.5 * p * p + 2 * t * s + 0.9 * random.normal()),
    };
  },
};
