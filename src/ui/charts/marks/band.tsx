import { type Colour, colours } from "../../theme/theme";

const defaults = Object.freeze({ colour: "accent", width: 1 } as const);

/** An area between four edges: a range, a box, a bar of a histogram. */
export const Band = ({
  x = 0,
  y = 0,
  width,
  height,
  colour = defaults.colour,
  outline,
  outlineWidth = defaults.width,
  opacity,
  round,
  title,
}: {
  x?: number;
  y?: number;
  width: number;
  height: number;
  /** Nothing inside where it is `none`. */
  colour?: Colour | "none";
  outline?: Colour | undefined;
  outlineWidth?: number;
  opacity?: number;
  round?: number;
  /** What is said where one points at it. */
  title?: string;
}) => (
  <rect
    x={x}
    y={y}
    width={Math.max(0, width)}
    height={Math.max(0, height)}
    rx={round}
    fill={colour === "none" ? "none" : colours[colour]}
    stroke={outline && colours[outline]}
    strokeWidth={outline && outlineWidth}
    opacity={opacity}
  >
    {title !== undefined && <title>{title}</title>}
  </rect>
);

/** An area in a colour of the ramp that stands for a value. */
export const Shade = ({
  fill,
  round,
  ...area
}: {
  x: number;
  y: number;
  width: number;
  height: number;
  fill: string;
  round?: number;
}) => <rect {...area} rx={round} fill={fill} />;
