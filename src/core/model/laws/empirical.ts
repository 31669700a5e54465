import type { CountedData, ModelData } from "../model-data";
import { scaleOf } from "../transform";
import type { Law } from "./law";
import type { PartsFound } from "./parts-solved";
import { setups } from "./setups";

/**
 * A share or a count of one trial on the scale it is fitted on where factors are hard to change: the empirical logit,
 * half an event added on either side (Haldane 1955; Anscombe 1956), or the logarithm of the rate, half an event added.
 *
 * @param of pieces, or exposure
 */
export const EMPIRICAL: Readonly<Record<CountedData["kind"], (events: number, of: number) => number>> = {
  share: (events, of) => Math.log((events + 0.5) / (of - events + 0.5)),
  count: (events, of) => Math.log((events + 0.5) / of),
};

const observe = ({ counted }: ModelData): number[] =>
  counted ? counted.events.map((k, i) => EMPIRICAL[counted.kind](k, counted.of[i])) : [];

/**
 * Shares and counts in set-ups: errors in two strata on the empirical scale, every trial of one weight. What pieces
 * alone would scatter is part of what trials of one set-up do.
 */
export const sharesInSetups: Law<PartsFound> = {
  ...setups,
  link: { ...scaleOf("logit"), multiplies: "odds" },
  observe,
};
export const countsInSetups: Law<PartsFound> = { ...setups, link: { ...scaleOf("log"), multiplies: "rate" }, observe };
