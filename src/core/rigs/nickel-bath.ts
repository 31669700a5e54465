import type { Rig } from "./rig";

/** Places on a panel at which its coating is measured. */
const PLACES = 4;

/**
 * A nickel plating bath, made up. Few of its ten knobs matter: current and time at temperature make the thickness,
 * agitation evens it out over the panel, brightener pays off only to a point.
 */
export const nickelBath: Rig = {
  id: "nickel-bath",
  name: "nickel bath",
  knobs: [
    { id: "nickel", name: "Nickel", range: [60, 90] },
    { id: "chloride", name: "Chloride", range: [8, 20] },
    { id: "boric", name: "Boric acid", range: [35, 45] },
    { id: "ph", name: "pH", range: [3.6, 4.6] },
    { id: "temp", name: "Bath temperature", range: [50, 62] },
    { id: "current", name: "Current density", range: [2, 6] },
    { id: "agitation", name: "Agitation", range: [20, 100] },
    { id: "brightener", name: "Brightener", range: [1, 9] },
    { id: "distance", name: "Anode distance", range: [12, 28] },
    { id: "filter", name: "Filter cycles", range: [1, 5] },
  ],
  gauges: [
    { id: "thickness", name: "Thickness", decimals: 1 },
    { id: "gloss", name: "Gloss", decimals: 0 },
  ],
  run({ x, random }) {
    const i = x("current");
    const t = x("temp");
    const b = x("brightener");
    const middle = 20 + 5.2 * i + 1.6 * t - 1.1 * x("distance") + 1.4 * i * t + 0.35 * random.normal();
    const spread = 0.8 * Math.exp(-0.55 * x("agitation") + 0.2 * i);
    return {
      thickness: Array.from({ length: PLACES }, () => Math.max(0, middle + spread * random.normal())),
      gloss: 70 + 9 * b - 7 * b * b - 4 * x("ph") + 2.5 * t + 1.8 * random.normal(),
    };
  },
};
