/** `npm run soak` draws every study that a simulation has; `npm test` a part of them, and holds it to wider bounds. */
const WHOLE = process.env.SOAK_SIMULATIONS === "1";

/** How many studies a simulation draws: the whole number, or the part that `npm test` waits for. */
export const drawn = (whole: number, part: number): number => (WHOLE ? whole : part);

/** Least and most that a share of some draws may be where each is of a given chance: four standard deviations off. */
export function shareBounds(chance: number, draws: number): [least: number, most: number] {
  const off = 4 * Math.sqrt((chance * (1 - chance)) / draws);
  return [Math.max(0, chance - off), Math.min(1, chance + off)];
}
