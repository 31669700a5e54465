import type { Words } from "../../messages/message";
import type { SuspectValues } from "../../messages/suspects";
import { listed } from "../numbers";
import { verb } from "./parts";

const offText = (off: number): string => `${off < 0 ? "below" : "above"} by ${Math.abs(off).toFixed(1)} s`;

/** What may be behind a confirmation that does not agree, by code. */
export const suspects: Words<SuspectValues> = {
  "wave-explains": (v) =>
    `A shift between waves: with the variation seen between earlier waves ${verb(v.n, "the result lies", "all results lie")} inside the interval.`,
  "one-side": (v) =>
    `A shift between waves: ${v.results.map((f) => `${f.name} lies ${offText(f.off)}`).join(", ")}, all to one side.`,
  extrapolation: (v) => `Extrapolation: the place lies farther out than any trial behind ${listed(v.responses)}.`,
  bend: (v) =>
    `A missing bend: the centre of ${v.response} lay off the straight lines (p ${v.p.toFixed(3)}), and no square carries it.`,
  "lack-of-fit": (v) => `A missing term: lack of fit of ${v.response} was clear of noise (p ${v.p.toFixed(3)}).`,
  drift: (v) => `Drift: ${v.response} ${v.rising ? "rose" : "fell"} from trial to trial (${v.first} to ${v.last}).`,
  unknown: (v) =>
    `None of the usual causes shows for ${v.response}: look at how the trials were set and measured before the model.`,
};
