import type { Rig } from "./rig";

/** Standard deviations of set-ups of smoke and damp, and of fillets within one: weight loss in %, taste in points. */
const LOSS = { between: 0.8, within: 0.5 };
const TASTE = { between: 0.25, within: 0.3 };

/**
 * A smokehouse for fish, made up. Smoke and damp are brought up for a whole charge and never come out quite alike;
 * brine, drying and the cut of the fillet are each fish's own. Warm dry smoke and thin cuts lose weight, damp smoke and
 * long drying give taste.
 */
export const smokehouse: Rig = {
  id: "smokehouse",
  name: "smokehouse",
  knobs: [
    { id: "smoke", name: "Smoke temperature", range: [24, 32] },
    { id: "damp", name: "Smoke humidity", range: [60, 80] },
    { id: "brine", name: "Brine strength", range: [6, 14] },
    { id: "drying", name: "Drying time", range: [1, 5] },
    { id: "cut", name: "Fillet thickness", range: [14, 26] },
  ],
  gauges: [
    { id: "loss", name: "Weight loss", decimals: 1 },
    { id: "taste", name: "Smoke taste", decimals: 1 },
  ],
  run({ x, random, setup }) {
    const [smoke, damp, brine, drying, cut] = [x("smoke"), x("damp"), x("brine"), x("drying"), x("cut")];
    const charge = { loss: LOSS.between * setup.normal(), taste: TASTE.between * setup.normal() };
    const loss =
      17 + 1.4 * smoke - 1.1 * damp + 1.6 * drying - 1.3 * cut + 0.6 * brine + 0.7 * smoke * drying - 0.5 * cut * cut;
    const taste =
      5.4 + 0.5 * smoke + 0.4 * damp + 0.6 * drying - 0.35 * cut - 0.5 * smoke * smoke + 0.3 * damp * drying;
    return {
      loss: loss + charge.loss + LOSS.within * random.normal(),
      taste: taste + charge.taste + TASTE.within * random.normal(),
    };
  },
};
