import type { Words } from "../../messages/message";
import type { PastEnd, PlaceValues } from "../../messages/places";
import { withUnit, written } from "../numbers";

const shown = (v: number, unit: string | undefined): string => withUnit(written(Number(v.toPrecision(10))), unit);
const pastEnd = (v: PastEnd, far = ""): string =>
  `${v.factor} ${shown(v.value, v.unit)} lies ${far}${v.side === "low" ? "below" : "above"} its ${v.hard ? "hard limit" : "range"}, ${shown(v.end, v.unit)}`;

/** What a place breaks of the region, by code. */
export const places: Words<PlaceValues> = {
  "past-end": (v) => `${pastEnd(v)}.`,
  "off-step": (v) =>
    `${v.factor} ${shown(v.value, v.unit)} is not on its steps of ${shown(v.step, v.unit)} from ${written(v.from)}.`,
  "breaks-region": (v) => `It breaks what the region asks: ${v.limit}.`,

  doubtful: (v) => `${pastEnd(v, v.hard ? "" : "far ")}: was it really run there? Enter it once more to keep it.`,
};
