import fc from "fast-check";
import { openQuestions } from "../questions/ask";

/** Every question that is asked at the command and over HTTP. */
export const ASKED = openQuestions().map((q) => q.id);

/** Names that mean something to JavaScript itself. */
export const LOADED = ["__proto__", "constructor", "toString", "valueOf", "hasOwnProperty", "length", "then", ""];
const ODD_TEXT = [
  "\u0000",
  "\ud800",
  "=1+1",
  "\t=1",
  "<script>alert(1)</script>",
  "a".repeat(3000),
  "NaN",
  "−5",
  "1e999",
  "%00",
  "'; DROP TABLE studies; --",
];
const ODD_NUMBERS = [0, -0, 1, -1, 0.5, 1e9, 1e-9, 5e-324, 1.7976931348623157e308, -1e308, 2 ** 53, 4294967296, 1e21];

const leaf = fc.oneof(
  fc.constantFrom<unknown>(null, true, false, ...ODD_NUMBERS, ...ODD_TEXT, ...LOADED),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
  fc.string({ maxLength: 12 }),
);

/** Data as JSON can carry it, odd on purpose. */
export const oddJson: fc.Arbitrary<unknown> = fc.letrec((tie) => ({
  any: fc.oneof({ maxDepth: 3, depthSize: "small" }, leaf, tie("list"), tie("bag")),
  list: fc.array(tie("any"), { maxLength: 4 }),
  bag: fc
    .array(fc.tuple(fc.oneof(fc.constantFrom(...LOADED), fc.string({ maxLength: 6 })), tie("any")), { maxLength: 4 })
    // Written out, so that "__proto__" is a key like any other.
    .map((entries) =>
      JSON.parse(`{${entries.map(([k, v]) => `${JSON.stringify(k)}:${JSON.stringify(v) ?? "null"}`).join(",")}}`),
    ),
})).any;

type Step = { kind: "set"; value: unknown } | { kind: "delete" } | { kind: "double" } | { kind: "scale"; by: number };
const step: fc.Arbitrary<Step> = fc.oneof(
  fc.record({ kind: fc.constant("set" as const), value: oddJson }),
  fc.record({ kind: fc.constant("delete" as const) }),
  fc.record({ kind: fc.constant("double" as const) }),
  fc.record({ kind: fc.constant("scale" as const), by: fc.constantFrom(-1, 0, 1e-9, 1e9, 1e300) }),
);

/** Changes data at some place in it, found by walking down as `way` says. */
function changed(data: unknown, way: readonly number[], change: Step): unknown {
  if (typeof data !== "object" || data === null) {
    if (change.kind === "set") return change.value;
    return change.kind === "scale" && typeof data === "number" ? data * change.by : data;
  }
  const keys = Object.keys(data);
  const [here, ...rest] = way;
  if (keys.length === 0 || here === undefined) return change.kind === "set" ? change.value : data;
  const key = keys[here % keys.length];
  const list = Array.isArray(data);
  const copy: Record<string, unknown> | unknown[] = list ? [...data] : { ...data };
  const place = key as keyof typeof copy;
  if (rest.length === 0 && change.kind === "delete") {
    if (list) (copy as unknown[]).splice(Number(key), 1);
    else delete copy[place];
  } else if (rest.length === 0 && change.kind === "double" && list) (copy as unknown[]).push(copy[place]);
  else (copy as Record<string, unknown>)[key] = changed((data as Record<string, unknown>)[key], rest, change);
  return copy;
}

/** A good thing with a few places in it made odd. */
export const spoilt = (good: unknown): fc.Arbitrary<unknown> =>
  fc
    .array(fc.tuple(fc.array(fc.nat(40), { minLength: 1, maxLength: 6 }), step), { minLength: 1, maxLength: 4 })
    .map((changes) => changes.reduce((data, [way, change]) => changed(data, way, change), good));

/** Sheets of cells as people paste them, or worse. */
export const oddSheet: fc.Arbitrary<string> = fc
  .tuple(
    fc.constantFrom(",", ";", "\t"),
    fc.array(
      fc.array(
        fc.constantFrom(
          "",
          '""',
          "order",
          "grease",
          "grease.2",
          "grease.9999999",
          "Temperature (as run)",
          "note",
          "1",
          "3,5",
          "1 000",
          "=1",
          "\t",
          "'",
          '"',
          "temp",
          "order",
          "x\u0000",
        ),
        { minLength: 1, maxLength: 6 },
      ),
      { minLength: 1, maxLength: 6 },
    ),
  )
  .map(([separator, rows]) => rows.map((r) => r.join(separator)).join("\n"));

/** Whether a text shows what only a developer may see. */
export const LEAKS = /\bat [\w.<>]+ \(|node:internal|\.(?:js|ts|mjs):\d+:\d+|\[object Object\]/;
