import type { ReactNode } from "react";
import { type Colour, colours } from "../../theme/theme";
import type { Spot } from "../paths";

const defaults = Object.freeze({ colour: "ink", size: 12, anchor: "start", halo: 3 } as const);

/** A few words at a place; with a halo they stand readable over lines. */
export const Label = ({
  at,
  children,
  colour = defaults.colour,
  size = defaults.size,
  anchor = defaults.anchor,
  bold,
  halo,
  serif,
  className,
}: {
  at: Spot;
  children: ReactNode;
  colour?: Colour;
  size?: number;
  anchor?: "start" | "middle" | "end";
  bold?: boolean;
  halo?: boolean;
  serif?: boolean;
  className?: string;
}) => (
  <text
    x={at[0]}
    y={at[1]}
    textAnchor={anchor}
    fontSize={size}
    fontWeight={bold ? 600 : undefined}
    className={className}
    style={serif ? { fontFamily: "var(--serif)" } : undefined}
    fill={colours[colour]}
    pointerEvents="none"
    {...(halo ? { stroke: colours.paper, strokeWidth: defaults.halo, paintOrder: "stroke" } : {})}
  >
    {children}
  </text>
);
