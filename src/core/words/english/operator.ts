import type { Words } from "../../messages/message";
import type { DoubtValues, Typed } from "../../messages/operator";
import { listed, withUnit, written } from "../numbers";

const asked = ({ meant }: Typed): string => (meant === null ? "Is that so?" : `Did you mean ${written(meant)}?`);

/** Why a result is doubted as it is typed, by code. */
export const doubts: Words<DoubtValues> = {
  far: (v) =>
    `Typed ${written(v.value)}; the others lie between ${written(v.low)} and ${withUnit(written(v.high), v.unit)}. ${asked(v)}`,
  unexpected: (v) =>
    `Typed ${written(v.value)}; nothing below ${written(v.low)} or above ${withUnit(written(v.high), v.unit)} was expected. ${asked(v)}`,
  "unlike-first": (v) =>
    `Typed ${written(v.value)}; the first ${v.others.length === 1 ? "trial" : "trials"} gave ${listed(v.others.map(written))}. ${asked(v)}`,
  "cannot-be": (v) =>
    `Typed ${written(v.value)}; it cannot be ${
      v.min !== null && v.value < v.min
        ? `below ${withUnit(written(v.min), v.unit)}`
        : `above ${withUnit(written(v.max ?? 0), v.unit)}`
    }. ${asked(v)}`,
};
