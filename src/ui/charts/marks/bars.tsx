import type { Colour } from "../../theme/theme";
import { Band } from "./band";

const defaults = Object.freeze({ colour: "accent", track: "track" } as const);

/** A share of a whole on its track; of it, drawn over it, what is part of the share. */
export const Meter = ({
  share,
  inner,
  length,
  thick,
  y = 0,
  colour = defaults.colour,
}: {
  share: number;
  inner?: number | undefined;
  length: number;
  thick: number;
  y?: number;
  colour?: Colour;
}) => (
  <>
    <Band y={y} width={length} height={thick} colour={defaults.track} />
    <Band y={y} width={length * share} height={thick} colour={inner === undefined ? colour : "pale"} />
    {inner !== undefined && <Band y={y} width={length * inner} height={thick} colour={colour} />}
  </>
);

/** A bar along a row from one place to another, whichever is farther left. */
export const Bar = ({
  from,
  to,
  y,
  thick,
  colour = defaults.colour,
  opacity,
}: {
  from: number;
  to: number;
  y: number;
  thick: number;
  colour?: Colour;
  opacity?: number;
}) => (
  <Band
    x={Math.min(from, to)}
    width={Math.abs(to - from)}
    y={y}
    height={thick}
    colour={colour}
    {...(opacity === undefined ? {} : { opacity })}
  />
);
