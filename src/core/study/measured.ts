import type { CountedFault } from "../messages/counted";
import type { Response, Result } from "./schema";

/** Whether events are counted: a share of pieces, or a count over an exposure. */
export const isCounted = (about: Pick<Response, "measured">): boolean =>
  about.measured === "share" || about.measured === "count";

/** Unit of a response's values for people: a share has none of its own, a count is a rate per unit of its exposure. */
export const valueUnit = ({ measured, unit }: Pick<Response, "measured" | "unit">): string =>
  measured === "share" ? "share" : measured === "count" ? `per ${unit || "unit"}` : (unit ?? "");

/** On what a trial of a share or a count is counted, for people: “of 50 pieces”, “on 2.5 dm²”. */
export const countedOn = ({ measured, of, unit }: Pick<Response, "measured" | "of" | "unit">): string =>
  measured === "share" ? `of ${of ?? "so many"} pieces` : `on ${of ?? "so much"} ${unit ?? ""}`.trim();

/** Events, and the pieces or the exposure that they were counted on. */
export interface CountedResult {
  events: number;
  of: number;
}

/** Events of a trial with what they were counted on; null where nothing was counted. */
export function countedResult(result: Result | undefined, about: Pick<Response, "of">): CountedResult | null {
  if (typeof result === "number") return about.of === undefined ? null : { events: result, of: about.of };
  return result !== null && result !== undefined && !Array.isArray(result) ? result : null;
}

/** The values of a trial that were measured, one by one; none of a share or a count. */
export const measuredValues = (result: Result | undefined): number[] =>
  typeof result === "number" ? [result] : Array.isArray(result) ? result.filter((v): v is number => v !== null) : [];

/** Mean of the values that were measured, or the share or rate that was counted; null when nothing was. */
export function resultValue(result: Result | undefined, about: Pick<Response, "measured" | "of">): number | null {
  if (isCounted(about)) {
    const counted = countedResult(result, about);
    return counted && counted.events / counted.of;
  }
  const measured = measuredValues(result);
  return measured.length === 0 ? null : measured.reduce((t, v) => t + v, 0) / measured.length;
}

/** A fault of a response, with what is known of it. */
export const countedFault = (
  about: Pick<Response, "measured">,
  why: CountedFault["why"],
  { text = "", events = null, of = null }: Partial<Omit<CountedFault, "why" | "share">> = {},
): CountedFault => ({ why, share: about.measured === "share", text, events, of });

/** What is wrong with events and what they were counted on; nothing where they are whole. */
export function faultOfCounted(
  about: Pick<Response, "measured">,
  { events, of }: CountedResult,
): CountedFault | undefined {
  const fault = (why: CountedFault["why"]): CountedFault => countedFault(about, why, { events, of });
  const share = about.measured === "share";
  if (!Number.isFinite(of) || !(of > 0) || (share && !Number.isInteger(of))) return fault("of");
  if (events < 0) return fault("negative");
  if (!Number.isInteger(events)) return fault("whole");
  if (share && events > of) return fault("more");
  return undefined;
}

/** What is wrong with a result of a response, as it is kept; nothing where it may stand. */
export function faultOfResult(
  about: Pick<Response, "measured" | "of">,
  result: Result | undefined,
): CountedFault | undefined {
  if (result === null || result === undefined) return undefined;
  if (!isCounted(about))
    return typeof result === "object" && !Array.isArray(result)
      ? countedFault(about, "measured", { events: result.events, of: result.of })
      : undefined;
  if (Array.isArray(result)) return countedFault(about, "several");
  const counted = countedResult(result, about);
  return counted ? faultOfCounted(about, counted) : countedFault(about, "no-of", { events: result as number });
}

/** A result as it is kept: with the pieces or the exposure that it was counted on; those of later trials may differ. */
export const normaliseResult = (about: Pick<Response, "measured" | "of">, result: Result): Result =>
  isCounted(about) ? (countedResult(result, about) ?? result) : result;

/** How a counted response is expected to behave, for planning. */
export interface CountedPlan {
  kind: "share" | "count";
  /** Pieces, or exposure, of a trial. */
  of: number;
  /** Share or rate with every factor in its middle. */
  base: number;
  /** Variance between trials over that of counting, at that many pieces; 1 where pieces are independent. */
  excess: number;
  /** Pieces are taken for independent: tests are by chi-squared, whatever the number of trials. */
  counting: boolean;
}

/** How a response says that it will be counted; undefined where it says too little. */
export function countedPlanOf(response: Response): CountedPlan | undefined {
  const { measured, of, base, excess, scatter } = response;
  if (!isCounted(response) || of === undefined || base === undefined) return undefined;
  const counting = scatter === "counting";
  return { kind: measured === "share" ? "share" : "count", of, base, excess: counting ? 1 : (excess ?? 1), counting };
}

/**
 * Standard deviation of what one trial says of a response, as planned for: as stated; of a share or a count that of
 * counting at the base, with what trials scatter beyond it. Undefined where nothing is stated.
 */
export function expectedNoise(response: Response): number | undefined {
  if (!isCounted(response)) return response.noise;
  const plan = countedPlanOf(response);
  return plan && noiseAt(plan);
}

/** Standard deviation of the share or rate of one trial at the base. */
export const noiseAt = ({ kind, base, of, excess }: CountedPlan): number =>
  Math.sqrt((excess * base * (kind === "share" ? 1 - base : 1)) / of);

/**
 * A share or a count of one trial on the scale it is fitted on where factors are hard to change: the empirical logit,
 * half an event added on either side (Haldane 1955; Anscombe 1956), or the logarithm of the rate, half an event added.
 *
 * @param of pieces, or exposure
 */
export const empiricalOf = (kind: "share" | "count", events: number, of: number): number =>
  kind === "share" ? Math.log((events + 0.5) / (of - events + 0.5)) : Math.log((events + 0.5) / of);
