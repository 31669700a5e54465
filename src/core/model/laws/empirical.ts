import { empiricalOf } from "../../study/measured";
import type { CountedData } from "../data";
import { scaleOf } from "../transform";
import type { Law } from "./law";
import type { PartsFound } from "./parts-solved";
import { setups } from "./setups";

const observe = ({ kind, events, of }: CountedData): number[] => events.map((k, i) => empiricalOf(kind, k, of[i]));

/**
 * Shares and counts in set-ups: errors in two strata on the empirical scale, every trial of one weight. What pieces
 * alone would scatter is part of what trials of one set-up do.
 */
export const sharesInSetups: Law<PartsFound> = { ...setups, link: scaleOf("logit"), observe };
export const countsInSetups: Law<PartsFound> = { ...setups, link: scaleOf("log"), observe };
