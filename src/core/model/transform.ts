import { StudyError } from "../study/error";
import type { Transform } from "../study/schema";
import type { Link } from "./fitted";

const clampTo = (z: number, low: number, high: number): number => Math.min(high, Math.max(low, z));

/**
 * The scale a transform stands for. Powers follow Box & Cox (1964) without the shift; logit and arcsine-root take
 * proportions between 0 and 1. The way back cuts values that no response could have given.
 */
export function scaleOf(transform: Transform): Link {
  if (typeof transform === "object") {
    const { power } = transform;
    if (power === 0) return { ...scaleOf("log"), name: "power 0" };
    return {
      name: `power ${power}`,
      identity: false,
      forward: (y) => y ** power,
      back: (z) => Math.max(z, 0) ** (1 / power),
      decreasing: power < 0,
    };
  }
  switch (transform) {
    case "none":
      return { name: "none", identity: true, forward: (y) => y, back: (z) => z, decreasing: false };
    case "log":
      return { name: "log", identity: false, forward: Math.log, back: Math.exp, decreasing: false };
    case "sqrt":
      return {
        name: "square root",
        identity: false,
        forward: Math.sqrt,
        back: (z) => Math.max(z, 0) ** 2,
        decreasing: false,
      };
    case "inverse":
      return {
        name: "inverse",
        identity: false,
        forward: (y) => 1 / y,
        back: (z) => (z > 0 ? 1 / z : Number.POSITIVE_INFINITY),
        decreasing: true,
      };
    case "logit":
      return {
        name: "logit",
        identity: false,
        forward: (y) => Math.log(y / (1 - y)),
        back: (z) => 1 / (1 + Math.exp(-z)),
        decreasing: false,
      };
    case "asin-sqrt":
      return {
        name: "arcsine of root",
        identity: false,
        forward: (y) => Math.asin(Math.sqrt(y)),
        back: (z) => Math.sin(clampTo(z, 0, Math.PI / 2)) ** 2,
        decreasing: false,
      };
  }
}

/**
 * Puts values on the scale.
 * @throws StudyError naming the first value the scale does not take
 */
export function onScale(transform: Transform, values: readonly number[], trialIds: readonly string[]): number[] {
  const scale = scaleOf(transform);
  return values.map((y, i) => {
    const z = scale.forward(y);
    if (!Number.isFinite(z))
      throw new StudyError("bad-transform", { trial: trialIds[i], value: y, scale: scale.name }, ["transform"]);
    return z;
  });
}
