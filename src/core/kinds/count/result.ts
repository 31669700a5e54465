import { countedKind } from "../counted-result";

/** A count: so many events on an exposure of a trial, an area, a length, a time. */
export const count = countedKind({
  id: "count",
  name: "a count per exposure",
  percent: false,
  ends: [0, Number.POSITIVE_INFINITY],
  whole: false,
  lot: { size: ({ unit }) => unit ?? "", value: "the rate", exposure: "exposure" },
  unit: ({ unit }) => `per ${unit || "unit"}`,
  shownUnit: ({ unit }) => `per ${unit || "unit"}`,
  heading: ({ unit }) => `on ${unit ?? "exposure"}`,
  on: ({ of, unit }) => `on ${of ?? "so much"} ${unit ?? ""}`.trim(),
  examples: { raise: "58 to 66", lower: "24 to 14", between: "0.35 to 0.6 aim 0.45" },
  variance: (base) => base,
  wrong: () => undefined,
  misfit: undefined,
  example: "4/2.5",
  steps: ({ name, of }, stands) => [
    {
      text: "+1",
      label: `+1 ${name}`,
      next(result) {
        const before = stands(result) ?? { events: 0, of: of ?? 0 };
        return before.of === 0 ? undefined : { events: before.events + 1, of: before.of };
      },
    },
  ],
  left: () => "",
  words: {
    of: { label: "exposure of a trial", placeholder: "2.5" },
    lot: "exposure of a next lot",
    one: ({ unit }) => unit ?? "exposure",
    base: { label: "rate expected in the middle", placeholder: "1.5", wrong: "is no rate; type one above 0." },
    cost: "a unit costs, in trials",
  },
});
