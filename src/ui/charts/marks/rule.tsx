import { type Colour, colours } from "../../theme/theme";
import type { Spot } from "../paths";
import type { Box } from "./axis";

const defaults = Object.freeze({ colour: "rule", width: 1, dash: "4 3" } as const);

/** How a stroke is drawn: its colour by meaning, its width, dashed where it is a limit or a guess. */
export interface Stroke {
  colour?: Colour;
  width?: number;
  dashed?: boolean | string;
  opacity?: number;
}

/** The attributes of a stroke. */
export const strokeOf = ({ colour = defaults.colour, width = defaults.width, dashed, opacity }: Stroke) => ({
  stroke: colours[colour],
  strokeWidth: width,
  strokeDasharray: dashed ? (dashed === true ? defaults.dash : dashed) : undefined,
  opacity,
});

/** A straight line between two places. */
export const Rule = ({ from, to, ...stroke }: { from: Spot; to: Spot } & Stroke) => (
  <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} pointerEvents="none" {...strokeOf(stroke)} />
);

/** A line over the whole width of a plot, at a height. */
export const Across = ({ box, at, ...stroke }: { box: Box; at: number } & Stroke) => (
  <Rule from={[box.left, at]} to={[box.left + box.width, at]} {...stroke} />
);

/** A line down the whole height of a plot. */
export const Down = ({ box, at, ...stroke }: { box: Box; at: number } & Stroke) => (
  <Rule from={[at, box.top]} to={[at, box.top + box.height]} {...stroke} />
);
