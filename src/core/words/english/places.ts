import { withUnit, written } from "../numbers";
import type { ValuesOf } from "../said";

/** A setting past an end of what its factor can be set to, or of its range where no hard limit is stated. */
interface PastEnd {
  factor: string;
  value: number;
  unit: string | undefined;
  side: "low" | "high";
  end: number;
  /** Whether the end is a hard limit. */
  hard: boolean;
}

const shown = (v: number, unit: string | undefined): string => withUnit(written(Number(v.toPrecision(10))), unit);
const pastEnd = (v: PastEnd, far = ""): string =>
  `${v.factor} ${shown(v.value, v.unit)} lies ${far}${v.side === "low" ? "below" : "above"} its ${v.hard ? "hard limit" : "range"}, ${shown(v.end, v.unit)}`;

/** What a place breaks of the region, by code. */
export const places = {
  "past-end": (v: PastEnd) => `${pastEnd(v)}.`,
  "off-step": (v: { factor: string; value: number; unit: string | undefined; step: number; from: number }) =>
    `${v.factor} ${shown(v.value, v.unit)} is not on its steps of ${shown(v.step, v.unit)} from ${written(v.from)}.`,
  "breaks-region": (v: { limit: string }) => `It breaks what the region asks: ${v.limit}.`,
  /** Asked of what is said to have been run. */
  doubtful: (v: PastEnd) =>
    `${pastEnd(v, v.hard ? "" : "far ")}: was it really run there? Enter it once more to keep it.`,
};

export type PlaceValues = ValuesOf<typeof places>;
