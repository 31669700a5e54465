import { describe, expect, it } from "vitest";
import { bands, gridOf, levelsOf } from "./contours";
import { linear, logTicks, placeLabels } from "./marks/axis";
import { pathAround, pathOfBox, pathThrough } from "./paths";

const box = { left: 0, top: 0, width: 400, height: 200 };

describe("labels", () => {
  it("never overlap one another or what is blocked, and stay in the frame", () => {
    const labels = Array.from({ length: 12 }, (_, i) => ({
      key: `${i}`,
      x: 20 + (i % 4) * 90,
      y: 30 + Math.floor(i / 4) * 50,
      text: `Fraction ${i}`,
    }));
    const blocked = [{ x0: 0, x1: 60, y0: 0, y1: 20 }];
    const placed = placeLabels(labels, box, 9, blocked);
    const areas = placed.map((l) => {
      const w = l.text.length * 6.3 + 4;
      const x0 = l.anchor === "start" ? l.lx : l.anchor === "end" ? l.lx - w : l.lx - w / 2;
      return { x0, x1: x0 + w, y0: l.ly - 11, y1: l.ly + 3 };
    });
    expect(placed.length).toBeGreaterThan(6);
    areas.forEach((a, i) => {
      expect(a.x0).toBeGreaterThanOrEqual(0);
      for (const b of [...areas.slice(i + 1), ...blocked])
        expect(a.x0 < b.x1 && a.x1 > b.x0 && a.y0 < b.y1 && a.y1 > b.y0).toBe(false);
    });
  });
  it("are left out where there is no room", () => {
    const crowd = Array.from({ length: 30 }, (_, i) => ({ key: `${i}`, x: 200, y: 100, text: "the same place" }));
    expect(placeLabels(crowd, box).length).toBeLessThan(30);
  });
});

describe("axes", () => {
  it("tick a logarithmic scale at 1, 2 and 5", () => {
    expect(logTicks([0.4, 12])).toEqual([0.5, 1, 2, 5, 10]);
    expect(logTicks([0.02, 0.05])).toEqual([0.02, 0.05]);
    expect(linear([0, 10], [0, 100])(3)).toBe(30);
  });
});

describe("contours", () => {
  it("draw a slope's level as a straight cut at its place", () => {
    // Height equals the column: the level 5 of eleven columns lies half way across.
    const grid = gridOf(11, (i) => i);
    expect([grid.low, grid.high]).toEqual([0, 10]);
    const [band] = bands(grid, [5], [0, 100], [100, 0]);
    const xs = [...band.path.matchAll(/[ML](-?[\d.]+),/g)].map((m) => Number(m[1]));
    expect(Math.min(...xs)).toBeCloseTo(50, 6);
    expect(Math.max(...xs)).toBeCloseTo(100, 6);
  });
  it("offer no level of a flat surface and about as many as asked of another", () => {
    expect(
      levelsOf(
        gridOf(5, () => 3),
        9,
      ),
    ).toEqual([]);
    const levels = levelsOf(
      gridOf(21, (i, j) => i * j),
      9,
    );
    expect(levels.length).toBeGreaterThan(4);
    expect(levels.length).toBeLessThan(16);
  });
});

describe("paths", () => {
  it("go through places, are interrupted where one is missing, and close around an area", () => {
    expect(pathThrough([[0, 0], [10, 5.123456], undefined, [20, 5], [30, 5]])).toBe("M0,0L10,5.12M20,5L30,5");
    expect(
      pathAround([
        [0, 0],
        [10, 0],
        [10, 10],
      ]),
    ).toBe("M0,0L10,0L10,10Z");
    expect(pathOfBox({ left: 1, top: 2, width: 3, height: 4 })).toBe("M1,2L4,2L4,6L1,6Z");
    expect([pathThrough([]), pathAround([])]).toEqual(["", ""]);
  });
});
