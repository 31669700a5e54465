import { curveLinearClosed, line } from "d3-shape";

/** A place on a chart, in pixels. */
export type Spot = readonly [x: number, y: number];

const open = line<Spot | undefined>()
  .defined((p) => p !== undefined)
  .x((p) => p?.[0] ?? 0)
  .y((p) => p?.[1] ?? 0)
  .digits(2);
const closed = line<Spot>().curve(curveLinearClosed).digits(1);

/** SVG path through places, interrupted where one is undefined. */
export const pathThrough = (places: readonly (Spot | undefined)[]): string => open([...places]) ?? "";

/** SVG path around an area. */
export const pathAround = (places: readonly Spot[]): string => closed([...places]) ?? "";

/** SVG path of a rectangle. */
export const pathOfBox = ({
  left,
  top,
  width,
  height,
}: {
  left: number;
  top: number;
  width: number;
  height: number;
}): string =>
  pathAround([
    [left, top],
    [left + width, top],
    [left + width, top + height],
    [left, top + height],
  ]);
