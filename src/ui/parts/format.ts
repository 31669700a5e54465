import { figure, fixed, pText, rounded, withUnit } from "@/core/findings";
import type { Link, Prediction } from "@/core/model";
import { kindOf, type Response } from "@/core/study";

export { figure, rounded, withUnit };

/** A response's value to the decimals its error makes meaningful, else those it states; shares in per cent. */
export function valueText(
  response: Pick<Response, "decimals" | "measured"> | undefined,
  value: number,
  error: number | null,
): string {
  if (response && kindOf(response).percent)
    return `${valueText({ ...response, measured: undefined }, 100 * value, error === null ? null : 100 * error)} %`;
  if (error !== null && error > 0) {
    const most = response?.decimals;
    const text = rounded(value, error);
    // The gauge's own decimals are the most that mean anything.
    return most !== undefined && (text.split(".")[1]?.length ?? 0) > most ? fixed(value, most) : text;
  }
  if (response?.decimals !== undefined) return fixed(value, response.decimals);
  return figure(value, 3);
}

/** A response's value with its unit; a share has none beside the per cent it is written in. */
export const valueWithUnit = (response: Response, value: number, error: number | null): string =>
  withUnit(valueText(response, value, error), kindOf(response).shownUnit(response));

/** Both ends of an interval, the unit of a share said once. */
export const rangeText = (response: Response, interval: readonly number[], error: number | null): string =>
  interval
    .map((v) => valueText(response, v, error))
    .map((text, i, all) => (i < all.length - 1 ? text.replace(/ %$/, "") : text))
    .join("–");

/**
 * How far a predicted mean may lie from what is said: half its interval either way; of what is counted, whose interval
 * lies otherwise on either side, both ends.
 */
export const spanText = (
  response: Response,
  interval: readonly [number, number] | null,
  error: number | null,
): string =>
  interval === null
    ? ""
    : !kindOf(response).rescaled
      ? rangeText(response, interval, error)
      : `±${valueText(response, (interval[1] - interval[0]) / 2, error)}`;

/** R² and its kin; a dash where there is none. */
export const shareText = (value: number | null | undefined, decimals = 3): string =>
  value === null || value === undefined ? "–" : fixed(value, decimals);

/**
 * How far off a predicted mean may be, in the response's own unit: its standard error, or on another scale, where that
 * has another unit, a quarter of its interval.
 */
export function ownError(
  { standardError, meanInterval }: Pick<Prediction, "standardError" | "meanInterval">,
  link: Pick<Link, "identity">,
): number | null {
  if (link.identity) return standardError;
  return meanInterval ? (meanInterval[1] - meanInterval[0]) / 4 : null;
}

/** A setting without the noise of binary fractions. */
export const settingText = (value: number | string | undefined): string =>
  value === undefined
    ? "–"
    : typeof value === "string"
      ? value
      : String(Number(value.toPrecision(6))).replace("-", "−");

/** A limit of a response as it is read: of a share in per cent. */
export const limitText = (response: Pick<Response, "measured">, value: number): string =>
  kindOf(response).percent ? `${settingText(100 * value)} %` : settingText(value);

export const percent = (share: number, digits = 0): string => `${(100 * share).toFixed(digits)} %`;

/** A p value with its name; nothing where there is none. */
export const pShown = (p: number | null): string => (p === null ? "" : pText(p));

/** Shortens a long name for a tight place; the full one goes into a title. */
export const clip = (text: string, most: number): string =>
  text.length <= most ? text : `${text.slice(0, Math.max(1, most - 1)).trimEnd()}…`;

/** "name, unit" as every axis says it. */
export const axisName = (name: string, unit: string | undefined): string => (unit ? `${name}, ${unit}` : name);
