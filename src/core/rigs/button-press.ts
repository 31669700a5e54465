import type { CountedResult } from "../kinds/result";
import type { Random } from "../numerics/random";
import type { Rig } from "./rig";

/** Buttons looked at in a trial, exposed area of a trial in dm², buttons measured one by one. */
const PIECES = 200;
const AREA = 2.5;
const MEASURED = 12;

/** A gamma value of mean 1 and this relative variance. */
const varied = (random: Random, variance: number): number => (random.chiSquared(2 / variance) * variance) / 2;

/** Cracked among the pieces: shares vary from pressing to pressing by a beta distribution of this correlation. */
function cracked(random: Random, share: number, rho: number): CountedResult {
  const a = random.chiSquared((2 * share * (1 - rho)) / rho);
  const b = random.chiSquared((2 * (1 - share) * (1 - rho)) / rho);
  let events = 0;
  for (let i = 0; i < PIECES; i++) if (random.uniform() < a / (a + b)) events++;
  return { events, of: PIECES };
}

/** Pits on the area, as many as fall before the time is up. */
function pits(random: Random, rate: number): CountedResult {
  let events = -1;
  for (let left = AREA * rate * varied(random, 0.04); left > 0; events++) left += Math.log(1 - random.uniform());
  return { events, of: AREA };
}

/**
 * A press for horn buttons, made up. Cool or dry horn cracks, hot horn blisters into pits; what it is pressed with
 * makes it thin.
 */
export const buttonPress: Rig = {
  id: "button-press",
  name: "button press",
  knobs: [
    { id: "heat", name: "Plate temperature", range: [150, 170] },
    { id: "force", name: "Force", range: [30, 50] },
    { id: "dwell", name: "Dwell", range: [20, 60] },
    { id: "damp", name: "Horn moisture", range: [8, 14] },
  ],
  gauges: [
    { id: "cracked", name: "Cracked", decimals: 0 },
    { id: "pits", name: "Pits", decimals: 0 },
    { id: "thickness", name: "Thickness", decimals: 2 },
  ],
  run({ x, random }) {
    const [heat, force, dwell, damp] = [x("heat"), x("force"), x("dwell"), x("damp")];
    const logit = -2.7 - 0.55 * heat + 0.45 * force - 0.4 * damp + 0.3 * heat * damp;
    const thickness = 3.4 - 0.11 * force - 0.07 * heat - 0.05 * dwell + 0.025 * random.normal();
    return {
      cracked: cracked(random, 1 / (1 + Math.exp(-logit)), 0.006),
      pits: pits(random, Math.exp(0.6 + 0.5 * heat - 0.3 * force + 0.2 * dwell)),
      thickness: Array.from({ length: MEASURED }, () => thickness + 0.05 * random.normal()),
    };
  },
};
