import { isNumeric } from "../study/coding";
import { isHard } from "../study/roles";
import type { Factor, Settings } from "../study/schema";

/** Points of a second-order plan in set-ups of the hard factors. */
export interface SplitPoints {
  points: Settings[];
  /** The point of the plan without set-ups that each comes from. */
  from: number[];
  setups: number[];
}

/**
 * Second-order points put into one set-up for every setting of the hard factors, apart where easy factors rest in their
 * middle: such set-ups run that as often as the corners' set-ups have trials. With that, and the easy factors' own
 * axial points in a set-up of the same size, least squares gives what generalised least squares would, whatever
 * set-ups vary (Vining, Kowalski & Montgomery 2005).
 *
 * @param points coded, without centre points
 */
export function splitPoints(factors: readonly Factor[], points: readonly Settings[]): SplitPoints {
  const hard = factors.filter(isHard);
  const easy = factors.filter((f) => !isHard(f));
  const resting = (i: number): boolean => easy.every((f) => !isNumeric(f) || points[i][f.id] === 0);
  const groups = new Map<string, number[]>();
  points.forEach((p, i) => {
    const key = [...hard.map((f) => String(p[f.id])), resting(i)].join("|");
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  const size = Math.max(...[...groups.values()].filter((g) => !g.every(resting)).map((g) => g.length), 1);
  const out: SplitPoints = { points: [], from: [], setups: [] };
  let setup = 0;
  for (const members of groups.values()) {
    const copies = members.every(resting) ? Math.max(1, Math.round(size / members.length)) : 1;
    for (let c = 0; c < copies; c++)
      for (const i of members) {
        out.points.push({ ...points[i] });
        out.from.push(i);
        out.setups.push(setup);
      }
    setup++;
  }
  return out;
}
