import type { CountedFault } from "../../messages/counted";
import { written } from "../numbers";

/** What is wrong with something that should be counted, and the way out; a sentence without its beginning. */
export function countedFaultText({ why, share, text, events, of }: CountedFault): string {
  const example = share ? "3/50" : "4/2.5";
  const pieces = share ? "pieces" : "exposure";
  const n = (v: number | null): string => (v === null ? "–" : written(v));
  switch (why) {
    case "unreadable":
      return `“${text}” is not a count; type events and ${pieces}, as ${example}`;
    case "either":
      return `“${text}” may be one number or several; type it without spaces, or with semicolons between`;
    case "whole":
      return share
        ? `${n(events)} pieces is a fraction of a piece; type whole pieces, as ${example}, or a share as 6 %`
        : `${n(events)} events is no whole number; type whole events and the exposure, as ${example}`;
    case "negative":
      return `${n(events)} is below 0; type how many were counted, as ${example}`;
    case "more":
      return `${n(events)} of ${n(of)} is more than there were; type the counted pieces first, as ${example}`;
    case "no-of":
      return share
        ? `${n(events)} of how many pieces? Type ${n(events)}/50, or say the usual number on Question`
        : `${n(events)} on how much? Type ${n(events)}/2.5, or say the usual exposure on Question`;
    case "share-only":
      return `“${text}” of how many pieces? Type it as ${example}, or say the usual number on Question`;
    case "of":
      return share
        ? `a share is counted on one whole piece or more, not on ${n(of)}; type it as ${example}`
        : `the exposure must be above 0, not ${n(of)}; type it as ${example}`;
    case "several":
      return `several values cannot stand in one ${share ? "share" : "count"}; add them up, as ${share ? "5/100" : "9/5"}`;
    case "fraction":
      return `“${text}” is ${n(events)} of ${n(of)} pieces; type the whole pieces, as ${n(Math.round(events ?? 0))}/${n(of)}`;
    case "percent-of-count":
      return `“${text}” is a percentage, and this is a count over an exposure; type events and exposure, as ${example}`;
    case "measured":
      return `${n(events)}/${n(of)} is a count, and this is a measured value; type its value, or say on Question that it is counted`;
  }
}
