import { kindOf } from "../kinds/results";
import type { CountedFault } from "../messages/counted";
import type { Response, Result } from "./schema";

/** Unit of a response's values for people: a share has none of its own, a count is a rate per unit of its exposure. */
export const valueUnit = (about: Pick<Response, "measured" | "unit">): string => kindOf(about).unit(about);

/** The values of a trial that were measured, one by one; none of a response whose values are not. */
export const measuredValues = (result: Result | undefined, about: Pick<Response, "measured">): number[] =>
  kindOf(about).figures(result);

/** Mean of the values that were measured, or the share or rate that was counted; null when nothing was. */
export const resultValue = (result: Result | undefined, about: Pick<Response, "measured" | "of">): number | null =>
  kindOf(about).value(result, about);

/** What is wrong with a result of a response, as it is kept; nothing where it may stand. */
export const faultOfResult = (
  about: Pick<Response, "measured" | "of">,
  result: Result | undefined,
): CountedFault | undefined => kindOf(about).fault(result, about);

/** A result as it is kept: with the pieces or the exposure that it was counted on; those of later trials may differ. */
export const normaliseResult = (about: Pick<Response, "measured" | "of">, result: Result): Result =>
  kindOf(about).normalised(result, about);

/**
 * Standard deviation of what one trial says of a response, as planned for: as stated; of a share or a count that of
 * counting at the base, with what trials scatter beyond it. Undefined where nothing is stated.
 */
export const expectedNoise = (response: Response): number | undefined => kindOf(response).noise(response);
