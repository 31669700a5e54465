import { pathThrough, type Spot } from "../paths";
import { type Stroke, strokeOf } from "./rule";

const defaults = Object.freeze({ colour: "accent", width: 2 } as const);

/** A line through places, interrupted where one is undefined. */
export const Line = ({ through, ...stroke }: { through: readonly (Spot | undefined)[] } & Stroke) => (
  <path d={pathThrough(through)} fill="none" {...strokeOf({ ...defaults, ...stroke })} />
);
