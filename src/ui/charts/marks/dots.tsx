// biome-ignore-all lint/a11y/useSemanticElements: a dot of a drawing that can be pressed has no element of its own.
import type { KeyboardEvent } from "react";
import { type Colour, colours } from "../../theme/theme";
import type { Spot } from "../paths";

const defaults = Object.freeze({ colour: "accent", r: 3.5, outlineWidth: 1.5 } as const);

/** What makes a mark a button: press it, or Enter and the space bar; `on` where it stays pressed. */
export const pressable = (label: string, press: () => void, on?: boolean) => ({
  role: "button",
  "aria-pressed": on,
  tabIndex: 0,
  "aria-label": label,
  style: { cursor: "pointer" },
  onClick: press,
  onKeyDown: (e: KeyboardEvent) => {
    if (e.key !== "Enter" && e.key !== " ") return;
    e.preventDefault();
    press();
  },
});

/** A dot at a place: full, or a ring where it has an outline; with a press it is a button with its keys. */
export const Dot = ({
  at,
  r = defaults.r,
  colour = defaults.colour,
  outline,
  outlineWidth = defaults.outlineWidth,
  dashed,
  opacity,
  title,
  label,
  press,
  on,
  tap,
  through,
}: {
  at: Spot;
  r?: number;
  /** Nothing inside where it is `none`. */
  colour?: Colour | "none";
  outline?: Colour | undefined;
  outlineWidth?: number;
  dashed?: string;
  opacity?: number | undefined;
  /** What is said where one points at it. */
  title?: string;
  /** What a press does, aloud. */
  label?: string;
  press?(): void;
  /** Whether it is pressed, where it can be. */
  on?: boolean;
  /** A press by hand alone, where a list beside the drawing has the same by keys. */
  tap?(): void;
  /** The hand means what lies below it. */
  through?: boolean;
}) => (
  <circle
    cx={at[0]}
    cy={at[1]}
    r={r}
    fill={colour === "none" ? "none" : colours[colour]}
    stroke={outline && colours[outline]}
    strokeWidth={outline && outlineWidth}
    strokeDasharray={dashed}
    opacity={opacity}
    pointerEvents={through ? "none" : undefined}
    {...(press
      ? pressable(label ?? title ?? "", press, on)
      : tap
        ? { style: { cursor: "pointer" }, onClick: tap }
        : {})}
  >
    {title !== undefined && <title>{title}</title>}
  </circle>
);

/** A diamond at a place, where dots of two kinds are told apart. */
export const Diamond = ({
  at: [x, y],
  r = 7,
  colour,
  outline,
  outlineWidth = defaults.outlineWidth,
  dashed,
}: {
  at: Spot;
  r?: number;
  colour: Colour;
  outline?: Colour | undefined;
  outlineWidth?: number;
  dashed?: string;
}) => (
  <path
    d={`M${x} ${y - r}l${r} ${r}l${-r} ${r}l${-r} ${-r}Z`}
    fill={colours[colour]}
    stroke={outline && colours[outline]}
    strokeWidth={outline && outlineWidth}
    strokeDasharray={dashed}
  />
);

/** What the hand may take for a small mark, ringed where it is picked. */
export const Target = ({ at, r, ring }: { at: Spot; r: number; ring?: Colour | undefined }) => (
  <circle cx={at[0]} cy={at[1]} r={r} fill="transparent" stroke={ring ? colours[ring] : "none"} strokeWidth="2" />
);
