import type { CountedFault } from "../../messages/counted";
import { readResultCell } from "../repeats";
import type { ResultKind } from "../result";

const fault = (why: CountedFault["why"], known: Partial<CountedFault> = {}): CountedFault => ({
  why,
  share: false,
  text: "",
  events: null,
  of: null,
  ...known,
});

/** A measured value, or several of one trial. */
export const value: ResultKind = {
  id: "value",
  name: "a value",
  fields: [],
  several: true,
  rescaled: true,
  percent: false,
  ends: [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY],
  lot: { size: () => "", value: "the value", exposure: "" },
  value(result) {
    const measured = value.figures(result);
    return measured.length === 0 ? null : measured.reduce((t, v) => t + v, 0) / measured.length;
  },
  figures: (result) =>
    typeof result === "number" ? [result] : Array.isArray(result) ? result.filter((v): v is number => v !== null) : [],
  events: () => null,
  fault: (result) =>
    typeof result === "object" && result !== null && !Array.isArray(result)
      ? fault("measured", { events: result.events, of: result.of })
      : undefined,
  unreadable: (text) => fault("unreadable", { text }),
  normalised: (result) => result,
  read(text, _about, decimal) {
    const t = text.trim();
    const read = readResultCell(t, decimal);
    return read.ok ? read : { ok: false, fault: fault(read.why === "either" ? "either" : "unreadable", { text: t }) };
  },
  together: (_before, more) => more,
  text: (result, _about, one) =>
    Array.isArray(result)
      ? result.map((v) => (v === null ? "–" : one(v))).join(" ")
      : typeof result === "number"
        ? one(result)
        : "",
  said: () => undefined,
  columns: () => undefined,
  unit: ({ unit }) => unit ?? "",
  shownUnit: ({ unit }) => unit ?? "",
  heading: ({ unit }) => unit ?? "",
  on: ({ unit }) => unit ?? "",
  noise: ({ noise }) => noise,
  control: () => ({ fields: "each", example: "", steps: [], refusal: "", said: () => "" }),
  asks: () => [],
  examples: { raise: "58 to 66", lower: "24 to 14", between: "0.35 to 0.6 aim 0.45" },
};
