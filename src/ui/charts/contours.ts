import { ticks } from "d3-array";
import { contours as isolines } from "d3-contour";
import { pathAround } from "./paths";

/** Values on a square grid over two axes, row by row from the low end of y. */
export interface Grid {
  n: number;
  values: Float64Array;
  low: number;
  high: number;
}

/** Evaluates a function of column and row on an n × n grid. */
export function gridOf(n: number, value: (i: number, j: number) => number): Grid {
  const values = new Float64Array(n * n);
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const z = value(i, j);
      values[j * n + i] = z;
      if (z < low) low = z;
      if (z > high) high = z;
    }
  return { n, values, low, high };
}

export interface Band {
  level: number;
  /** SVG path of the area at or above the level. */
  path: string;
  /** A place on the line for its label, in pixels. */
  label: { x: number; y: number } | undefined;
}

/** About `count` round levels between low and high, both ends left out when nothing lies beyond them. */
export const levelsOf = (grid: Pick<Grid, "low" | "high">, count: number): number[] =>
  grid.high > grid.low ? ticks(grid.low, grid.high, count) : [];

/**
 * Areas at or above each level as paths in pixels.
 *
 * @param x pixel of 0 and of 1 across; @param y pixel of 0 and of 1 upwards
 */
export function bands(grid: Grid, levels: readonly number[], x: [number, number], y: [number, number]): Band[] {
  const { n, values } = grid;
  const px = (i: number): number => x[0] + ((i - 0.5) / (n - 1)) * (x[1] - x[0]);
  const py = (j: number): number => y[0] + ((j - 0.5) / (n - 1)) * (y[1] - y[0]);
  const clampX = (v: number): number => Math.max(Math.min(x[0], x[1]), Math.min(Math.max(x[0], x[1]), v));
  const clampY = (v: number): number => Math.max(Math.min(y[0], y[1]), Math.min(Math.max(y[0], y[1]), v));
  const make = isolines().size([n, n]).smooth(true);
  const heights = Array.from(values);
  const used: [number, number][] = [];
  return levels.map((level) => {
    const shape = make.contour(heights, level);
    let path = "";
    let label: Band["label"];
    let longest = 0;
    for (const polygon of shape.coordinates)
      for (const ring of polygon) {
        const points = ring.map(([i, j]): [number, number] => [clampX(px(i)), clampY(py(j))]);
        path += pathAround(points);
        // Label in the middle of the longest inner stretch, away from the frame and from other labels.
        let start = -1;
        for (let k = 0; k <= points.length; k++) {
          const p = points[k];
          const inner =
            p !== undefined &&
            p[0] > Math.min(...x) + 14 &&
            p[0] < Math.max(...x) - 14 &&
            p[1] > Math.min(...y) + 10 &&
            p[1] < Math.max(...y) - 10;
          if (inner && start < 0) start = k;
          if (!inner && start >= 0) {
            const mid = Math.floor((start + k) / 2);
            const middle = points[mid];
            const clear = used.every((u) => Math.hypot(u[0] - middle[0], u[1] - middle[1]) > 46);
            if (k - start > longest && k - start > 7 && clear) {
              longest = k - start;
              label = { x: middle[0], y: middle[1] };
            }
            start = -1;
          }
        }
      }
    if (label) used.push([label.x, label.y]);
    return { level, path, label };
  });
}
