import { countedKind } from "../counted-result";

/** A share: so many of a trial's pieces are this or that. */
export const share = countedKind({
  id: "share",
  name: "a share: k of n",
  percent: true,
  ends: [0, 1],
  whole: true,
  lot: { size: () => "pieces", value: "the share", exposure: "pieces" },
  unit: () => "share",
  shownUnit: () => "",
  heading: () => "of pieces",
  on: ({ of }) => `of ${of ?? "so many"} pieces`,
  examples: { raise: "90 % to 98 %", lower: "5 % to 1 %", between: "40 % to 60 % aim 50 %" },
  variance: (base) => base * (1 - base),
  wrong: ({ events, of }) => (events > of ? "more" : undefined),
  misfit({ of, lot }) {
    const fraction = [of, lot].find((v) => v !== undefined && !Number.isInteger(v));
    return fraction === undefined
      ? undefined
      : { key: "of", fault: { why: "of", share: true, text: "", events: null, of: fraction } };
  },
  example: "3/50",
  // Piece by piece: each one is counted, whether it is one of those or not.
  steps: ({ name }, stands) =>
    ([1, 0] as const).map((events) => ({
      text: events ? `${name} +1` : "Not +1",
      label: events ? `${name} +1` : `Not +1: ${name}`,
      next(result) {
        const before = stands(result) ?? { events: 0, of: 0 };
        return { events: before.events + events, of: before.of + 1 };
      },
    })),
  left: ({ of }, about) =>
    about.of !== undefined && about.of > of ? `, ${about.of - of} more to the usual ${about.of}` : "",
  words: {
    of: { label: "pieces of a trial", placeholder: "50" },
    lot: "pieces of a next lot",
    one: () => "pieces",
    base: {
      label: "share expected in the middle",
      placeholder: "2 %",
      wrong: "is no share; type it like 2 % or 0.02.",
    },
    cost: "a piece costs, in trials",
  },
});
