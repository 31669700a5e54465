import { goldenSection } from "../../numerics/golden-section";
import type { Problem } from "./exchange";

/** Gain in log terms below which an exchange is not worth making. */
export const WORTH = 1e-9;

/** Places as near as this to the best of a grid tell whether there is a better one beside it. */
const NEAR = 1e-4;

/** The best place of a coordinate, looked for on what is open: listed positions, or a grid with the best refined. */
export function bestPlace(
  problem: Problem,
  j: number,
  open: readonly (readonly [number, number])[],
  now: number,
  at: (t: number) => number,
): { t: number; gain: number } | undefined {
  const positions = problem.space.positions[j];
  let best: { t: number; gain: number } | undefined;
  const look = (t: number): void => {
    if (t === now) return;
    const gain = at(t);
    if (!best || gain > best.gain + 1e-10) best = { t, gain };
  };
  if (positions) {
    for (const t of positions) if (open.some(([low, high]) => t >= low - 1e-9 && t <= high + 1e-9)) look(t);
    return best;
  }
  for (const [low, high] of open) {
    const step = (high - low) / (problem.grid - 1);
    for (let i = 0; i < problem.grid; i++) look(i === problem.grid - 1 ? high : low + i * step);
    if (!problem.refine || !best || step < 1e-9 || best.t < low || best.t > high) continue;
    // Most places are ends or middles, and already the best thereabouts.
    const peak = best;
    const near = [peak.t - NEAR, peak.t + NEAR].filter((t) => t >= low && t <= high);
    if (near.every((t) => at(t) <= peak.gain)) continue;
    const t = goldenSection(at, Math.max(low, peak.t - step), Math.min(high, peak.t + step), {
      within: 1e-6,
      most: 30,
    });
    const gain = at(t);
    if (gain > best.gain + 1e-9) best = { t, gain };
  }
  return best;
}
