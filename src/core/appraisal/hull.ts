/** A place in a plane of which both figures matter: the larger x the better, the smaller y the better. */
export interface Traded {
  x: number;
  y: number;
}

/**
 * The lower hull of some places from the one with the least y to the one with the largest x (Andrew 1979): no place
 * lies below it, and what it joins are the places worth having.
 *
 * @returns places of the hull, by x
 */
export function lowerHull<P extends Traded>(places: readonly P[]): P[] {
  const sorted = [...places].sort((a, b) => a.x - b.x || b.y - a.y);
  const hull: P[] = [];
  for (const p of sorted) {
    for (;;) {
      const [a, b] = [hull[hull.length - 2], hull[hull.length - 1]];
      if (!b) break;
      // Of one x the lower, which comes last, stays; of three places the middle one stays only below the others' line.
      const under = a !== undefined && (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) > 0;
      if (b.x === p.x || (a !== undefined && !under)) hull.pop();
      else break;
    }
    hull.push(p);
  }
  const least = hull.reduce((m, p, i) => (p.y <= hull[m].y ? i : m), 0);
  return hull.slice(hull.length > 0 ? least : 0);
}
