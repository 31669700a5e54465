import type { Rig } from "./rig";

/**
 * A wool scouring line, made up. Heat and detergent clean and help each other; heat tangles; feed dilutes; squeeze
 * does nothing; detergent bends; the second day's wool is a little greasier.
 */
export const woolLine: Rig = {
  id: "wool-line",
  name: "wool line",
  knobs: [
    { id: "temp", name: "Bowl temperature", range: [52, 68] },
    { id: "dose", name: "Detergent", range: [4, 10] },
    { id: "soda", name: "Soda ash", range: [0, 6] },
    { id: "feed", name: "Feed", range: [450, 750] },
    { id: "squeeze", name: "Squeeze", range: [5, 11] },
    { id: "lot", name: "Wool lot", levels: ["hill", "lowland"] },
  ],
  gauges: [
    { id: "grease", name: "Residual grease", decimals: 3 },
    { id: "white", name: "Whiteness", decimals: 1 },
    { id: "tangle", name: "Entanglement", decimals: 1 },
    { id: "cost", name: "Water and heat cost", decimals: 2 },
  ],
  run({ x, level, wave, random }) {
    const a = x("temp");
    const b = x("dose");
    const c = x("soda");
    const d = x("feed");
    const lot = level("lot") === "hill" ? -1 : 1;
    const day = wave > 0 ? 0.03 : 0;
    return {
      grease: Math.max(
        0,
        0.54 -
          0.105 * a -
          0.12 * b -
          0.035 * c +
          0.045 * d +
          0.065 * a * b +
          0.075 * b * b +
          0.012 * lot +
          day +
          0.022 * random.normal(),
      ),
      white: 61.4 + 1.3 * a + 1.2 * b + 0.5 * c - 0.8 * d - 0.5 * lot - 1.2 * b * b + 0.35 * random.normal(),
      tangle: 18 + 2.7 * a + 0.3 * b + 0.9 * c - 1.1 * d + 0.7 * lot + 0.9 * a * a + 0.45 * random.normal(),
      cost: 11.2 + 0.75 * a + 0.9 * b + 0.45 * c - 0.9 * d + 0.08 * random.normal(),
    };
  },
};
